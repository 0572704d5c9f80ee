"""Before measuring: how long it takes, and how small a gain it could show."""

import math
from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass
from functools import lru_cache
from statistics import median

from scipy.special import chdtri, nctdtr, nctdtrinc, stdtr

from lynxbill.core.plan.agreement import looks_of
from lynxbill.core.reading.tally import sheets_of, units_of
from lynxbill.core.record.frame import Case
from lynxbill.core.record.plan import Plan
from lynxbill.core.record.run import Sitting
from lynxbill.core.record.sheet import Sheet
from lynxbill.core.record.workload import Workload
from lynxbill.core.statistics.estimate import ALPHA, t_quantile
from lynxbill.core.statistics.scatter import NO_SCATTER, Noise, pool, shared_rounding
from lynxbill.core.terms.measure import STEPPED, Measure, gain_percent, margin_bound

REBOOT_MIN = 5.0
# What somebody has to be there for: to restart and note the conditions; to start a run and note its figure.
SITTING_AT_HAND_MIN, RUN_AT_HAND_MIN = 2.0, 0.5
MOST_SITTINGS = 20


@dataclass(frozen=True, slots=True)
class Alike:
    """What sittings must be like to say how those of a comparison scatter: of one recipe, in rooms that are known."""

    recipe: str
    above_room: bool

    def takes(self, sitting: Sitting, sheet: Sheet | None, measure: Measure) -> bool:
        """Whether a sitting, by its sheet, is so."""
        level = sheet.levels.get(measure.id) if sheet else None
        is_alike = level is not None and level.recipe == self.recipe
        return is_alike and (not self.above_room or sitting.ambient_c is not None)


@dataclass(frozen=True, slots=True)
class Known:
    """Noise by measure id, and minutes a run by workload name; None where it is not known."""

    noise: Mapping[str, Noise | None]
    minutes: Mapping[str, float | None]


@dataclass(frozen=True, slots=True)
class Strength:
    """
    What a plan could show of one measure; percent for `ratio`, else the measure's unit.

    `detectable` is what the plan's last look finds in 8 of 10 jobs, `after_first` the share of jobs in which its
    first look finds that already; `with_three` to `with_five` belong to one look at so many a side.
    `sittings_needed` is for the gain hoped for (else the margin), None where more than twenty would be needed.
    """

    measure: str
    noise: Noise
    sittings_a_side: int
    detectable: float
    after_first: float
    with_three: float
    with_four: float
    with_five: float
    target: float
    sittings_needed: int | None


@dataclass(frozen=True, slots=True)
class BenchTime:
    """
    Minutes that one side takes; None where a workload's duration is unknown, which `unknown` then names.

    `at_hand_a_side` are those in which somebody has to be there: to start, to note. The rest runs unattended.
    """

    minutes_a_side: float | None
    minutes_a_sitting: float | None
    unknown: tuple[str, ...]
    at_hand_a_side: float = 0.0

    @property
    def unattended_a_side(self) -> float | None:
        return None if self.minutes_a_side is None else max(0.0, self.minutes_a_side - self.at_hand_a_side)


@dataclass(frozen=True, slots=True)
class Effort:
    """
    Further sittings of both sides together, the runs in them, and the minutes they take.

    `minutes` are all of them (None: not known), `at_hand` those in which somebody has to be there.
    """

    sittings: int
    runs: int
    minutes: float | None
    at_hand: float


def known_noise(case: Case, measure: Measure, alike: Alike | None = None) -> Noise | None:
    """
    Pool what is known of a measure's scatter between sittings.

    Args:
        alike: what the sittings are held against, where only some of them will do.
    Returns: pooled over every build with two sittings or more, trials included; None where there is none: one
        sitting can't say what a reboot moves.
    """
    sheets = sheets_of(case)
    pooled = NO_SCATTER
    for build in case.builds:
        # A re-check is taken to learn whether the build aged.
        sittings = [s for s in case.sittings_of(build.id) if s.purpose != "recheck"]
        if alike is not None:
            sittings = [s for s in sittings if alike.takes(s, sheets.get((s.id, measure.workload)), measure)]
        least = (case.plan_of(build.id).runs_of(measure.workload) or 0) / 2
        above_room = alike is None or alike.above_room
        units, step = units_of(sheets, measure, sittings, least=least, above_room=above_room)
        if len(units) >= 2:
            pooled = pooled.joined(pool([units], step=step))
    if not pooled.df:
        return None
    return Noise(pooled.sd, pooled.df, pooled.size, shared_rounding(pooled.variance, math.sqrt(12 * pooled.rounding)))


def noise_floor(noise: Noise, before: int, after: int) -> float:
    """
    Say what "no change" looks like: how far two free sides of an unchanged machine differ, 19 times in 20 by no more.

    Args:
        noise: the known scatter of sittings; before, after: how many sittings the sides have, at least 1 each.
    Returns: on the scale of judgement: t(.975; df) standard errors, at least 0.
    Source: docs/judgement.md, "Noise floor"; Student (1908), a prediction interval for the difference of two means.
    """
    return t_quantile(0.975, noise.df) * noise.se(before * after / (before + after))


def detectable_difference(noise: Noise, sittings_a_side: int, *, paired: bool = False, alpha: float = ALPHA) -> float:
    """
    Find the smallest true difference that a plan finds four times in five.

    Args:
        noise: the known scatter; it is raised to its upper 80 % bound, for it is itself uncertain.
        sittings_a_side: at least 2.
        paired: sittings are matched, and the scatter is that of their differences.
        alpha: of the look that will judge.
    Returns: on the scale of judgement, above zero.
    Source: docs/judgement.md, "How many more"; power 80 %.
    """
    df, size = design_of(sittings_a_side, paired)
    return _detectable(noise, df, size, t_quantile(1 - alpha / 2, df))


def chance_at(noise: Noise, sittings_a_side: int, difference: float, *, alpha: float = ALPHA) -> float:
    """
    Say how often a look finds a true difference.

    Args:
        noise, sittings_a_side, alpha: as for `detectable_difference`.
        difference: on the scale of judgement.
    Returns: in [0, 1], by the same approximation as `detectable_difference`, which it turns round.
    """
    df, size = design_of(sittings_a_side, paired=False)
    shift = difference / noise.se(size, raised=caution(noise.df))
    return float(stdtr(df, shift - t_quantile(1 - alpha / 2, df)))


def found_by_two() -> float:
    """
    Say how often two sittings a side find what three a side find in 80 of 100.

    Returns: in (0, 1). More sittings on the other side alone raise it nowhere: with unequal counts the scatter of the
        side with two is taken as at least the other's, at its own degrees of freedom.
    Source: power of the two-sample t test by the noncentral t of J. Neyman and B. Tokarska (J. Am. Stat. Assoc. 31
        (1936) 318), its noncentrality in proportion to √(k/2).
    """
    (three, _), (two, _) = design_of(3, paired=False), design_of(2, paired=False)
    shift = nctdtrinc(three, 0.20, t_quantile(1 - ALPHA / 2, three))
    return 1 - float(nctdtr(two, shift * math.sqrt(2 / 3), t_quantile(1 - ALPHA / 2, two)))


@lru_cache(maxsize=2048)
def sittings_for(noise: Noise, target: float, *, paired: bool = False, alpha: float = ALPHA) -> int | None:
    """
    Find how many sittings a side show a difference of `target`.

    Args:
        target: on the scale of judgement, above zero.
        paired: as for `detectable_difference`.
        alpha: of the look that will judge.
    Returns: 2 to 20; None where twenty would not do.
    Source: docs/judgement.md, "How many more".
    """
    for k in range(2, MOST_SITTINGS + 1):
        df, size = design_of(k, paired)
        if _detectable(noise, df, size, t_quantile(1 - alpha / 2, df)) <= target:
            return k
    return None


@lru_cache(maxsize=2048)
def sittings_for_no_change(noise: Noise, bound: float, *, paired: bool = False, alpha: float = ALPHA) -> int | None:
    """
    Find how many sittings a side show that nothing changed by as much as `bound`, where nothing did.

    Args:
        noise, paired, alpha: as for `sittings_for`.
        bound: half-width of the band that does not matter, on the scale of judgement, above zero.
    Returns: 2 to 20; None where twenty would not do.
    Source: docs/judgement.md, "How many more".
    """
    for k in range(2, MOST_SITTINGS + 1):
        df, size = design_of(k, paired)
        if _reach(noise, df, size, t_quantile(1 - alpha, df) + t_quantile(0.90, df)) <= bound:
            return k
    return None


def effort(case: Case, workload: str, plan: Plan, *, sittings: int, runs_a_sitting: int) -> Effort:
    """
    Say what so many further sittings take.

    Args:
        workload: by name; plan: for its warm-ups, rests and soaks.
        sittings: of both sides together.
        runs_a_sitting: that each of them would have.
    Returns: sittings and runs; minutes None where the workload's duration is unknown.
    """
    known = next((w for w in case.workloads if w.name == workload), None)
    each = minutes_a_run(case, known) if known else None
    runs = runs_a_sitting + plan.warm_ups
    sitting = REBOOT_MIN + plan.soak_min + runs * (each or 0.0) + (runs - 1) * plan.rest_min
    at_hand = sittings * (SITTING_AT_HAND_MIN + RUN_AT_HAND_MIN * runs)
    minutes = None if each is None else max(sittings * sitting, at_hand)
    return Effort(sittings, sittings * runs_a_sitting, minutes, at_hand)


def design_of(sittings_a_side: int, paired: bool) -> tuple[int, float]:
    """
    Say what a plan with so many sittings a side has to judge by: degrees of freedom, and N.

    Args:
        sittings_a_side: at least 2; paired: as for `detectable_difference`.
    Returns: df, and k_b·k_a/(k_b + k_a) or the number of pairs.
    """
    k = sittings_a_side
    return (k - 1, float(k)) if paired else (2 * k - 2, k / 2)


def _detectable(noise: Noise, df: int, size: float, critical: float) -> float:
    return _reach(noise, df, size, critical + t_quantile(0.80, df))


def _reach(noise: Noise, df: int, size: float, quantiles: float) -> float:
    """So many standard errors, from the scatter raised to its upper 80 % bound."""
    return quantiles * noise.se(size, raised=caution(noise.df))


@lru_cache(maxsize=256)
def caution(df: int) -> float:
    """
    Say by how much a scatter known from `df` degrees of freedom is raised: to its upper 80 % bound.

    Args:
        df: degrees of freedom behind the scatter, >= 1.
    Source: docs/judgement.md, "How many more": √(df ÷ χ²) with the χ² of df that 80 % lie above.
    """
    return math.sqrt(df / float(chdtri(df, 0.80)))


def what_is_known(case: Case) -> Known:
    """
    Pool once what every plan of a machine is weighed by: the noise of its measures, the length of its runs.

    Args:
        case: the machine with all its runs.
    """
    by_workload: dict[str, list[Sheet]] = {}
    for (_, name), sheet in sheets_of(case).items():
        by_workload.setdefault(name, []).append(sheet)
    return Known(
        noise={measure.id: known_noise(case, measure) for measure in case.measures},
        minutes={w.name: _minutes_a_run(case, w, by_workload.get(w.name, [])) for w in case.workloads},
    )


def plan_strength(case: Case, plan: Plan, known: Known | None = None) -> tuple[Strength, ...]:
    """
    Say what a plan could show of each of its claims whose noise is known.

    Args:
        known: from `what_is_known`, where several plans are weighed.
    Returns: one entry a claim of a scale with differences, in the case's order of measures.
    """
    found = []
    for measure in case.measures:
        planned = plan.measures.get(measure.id)
        if planned is None or planned.role != "claim" or measure.scale in STEPPED:
            continue
        noise = known.noise[measure.id] if known else known_noise(case, measure)
        if noise is None or noise.sd == 0:
            continue
        target = planned.hoped_for or planned.matters_from
        k = max(plan.sittings_a_side or 3, 2)
        *_, alpha, _ = looks_of(plan)
        last = detectable_difference(noise, plan.at_most or k, alpha=alpha)
        three, four, five = (_as_shown(detectable_difference(noise, n), measure) for n in (3, 4, 5))
        found.append(
            Strength(
                measure=measure.id,
                noise=noise,
                sittings_a_side=k,
                detectable=_as_shown(last, measure),
                after_first=chance_at(noise, k, last, alpha=alpha),
                with_three=three,
                with_four=four,
                with_five=five,
                target=target,
                sittings_needed=sittings_for(noise, margin_bound(target, measure.scale), alpha=alpha),
            )
        )
    return tuple(found)


def _as_shown(difference: float, measure: Measure) -> float:
    return gain_percent(difference) if measure.scale == "ratio" else difference


def bench_time(case: Case, plan: Plan, known: Known | None = None) -> BenchTime:
    """
    Add up the time that one side of a plan takes at the bench.

    Args:
        known: as for `plan_strength`.
    Returns: minutes: for each sitting a start, a soak, and for each planned workload its warm-ups and runs with
        rests between; runs take what was noted, else what recorded runs took.
    """
    planned = {measure.workload for measure in case.measures if measure.id in plan.measures}
    workloads = [workload for workload in case.workloads if workload.name in planned]
    durations = {w.name: known.minutes[w.name] if known else minutes_a_run(case, w) for w in workloads}
    unknown = tuple(name for name, minutes in durations.items() if minutes is None)
    sittings = plan.sittings_a_side or 1
    runs = {name: (plan.runs_of(name) or 1) + plan.warm_ups for name in durations}
    at_hand = sittings * (SITTING_AT_HAND_MIN + RUN_AT_HAND_MIN * sum(runs.values())) if workloads else 0.0
    if unknown or not workloads:
        return BenchTime(None, None, unknown, at_hand)
    work = math.fsum(runs[name] * (m or 0.0) + (runs[name] - 1) * plan.rest_min for name, m in durations.items())
    sitting = REBOOT_MIN + plan.soak_min + work
    return BenchTime(max(sittings * sitting, at_hand), sitting, (), at_hand)


def minutes_a_run(case: Case, workload: Workload) -> float | None:
    """
    Say how long one run of a workload takes, in minutes.

    Args:
        case: the machine, for runs whose times were measured.
        workload: the workload asked.
    Returns: as noted; else the median duration of its sittings; else the median of a time that it yields; None where
        nothing is known.
    """
    sheets = [sheet for (_, name), sheet in sheets_of(case).items() if name == workload.name]
    return _minutes_a_run(case, workload, sheets)


def _minutes_a_run(case: Case, workload: Workload, sheets: Sequence[Sheet]) -> float | None:
    if workload.minutes_a_run is not None:
        return workload.minutes_a_run
    seconds = [sheet.seconds for sheet in sheets if sheet.seconds is not None]
    seconds = seconds or [math.exp(-unit) for unit in _times(case, workload.name, sheets)]
    return median(seconds) / 60 if seconds else None


def _times(case: Case, workload: str, sheets: Iterable[Sheet]) -> Iterable[float]:
    times = [m.id for m in case.measures if m.workload == workload and m.kind == "time" and m.unit == "s"]
    levels = [sheet.levels[measure] for sheet in sheets for measure in times[:1] if measure in sheet.levels]
    yield from (level.unit for level in levels if level.unit is not None)
