"""From runs to units: which runs count for a measure, which sittings are a unit, and what each amounts to."""

import json
from collections import Counter
from collections.abc import Callable, Iterable, Mapping, Sequence
from dataclasses import dataclass, replace
from statistics import median
from typing import Literal, get_args

from lynxbill.core.reading.counting import RunsBySitting, WhyNotCounted, boots_of, why_not_counted
from lynxbill.core.reading.reading import judged_value, reading_width
from lynxbill.core.record.ids import RunId, SittingId
from lynxbill.core.record.plan import Plan
from lynxbill.core.record.run import Run, Sitting, Statistic
from lynxbill.core.statistics.scatter import mean_of
from lynxbill.core.terms.grain import grain_of, resolution
from lynxbill.core.terms.measure import Measure, MeasureId, orient

Recipe = tuple[str, str, str | None, Statistic | None]
Mismatch = Literal["workload_version_differs", "parameters_differ", "target_differs", "statistic_differs"]
# In the order of what a recipe is made of.
MISMATCHES: tuple[Mismatch, ...] = get_args(Mismatch)
WhyLeftOut = (
    WhyNotCounted
    | Mismatch
    | Literal["stray", "short", "open", "beyond_plan", "beyond_common", "other_look", "no_pairs", "alone"]
)
# The sittings of one boot, oldest first: what counts as one.
Boot = tuple[Sitting, ...]


@dataclass(frozen=True, slots=True)
class LeftOut:
    """
    A run that does not count, or has no partner.

    `noted` is what somebody wrote or chose with it: the state and reason of a broken run, the reason of one left out
    late, the source of a reading that was told. `made` and `wanted` count the runs of its sitting where they are why.
    """

    run_id: RunId
    why: WhyLeftOut
    noted: str = ""
    made: int | None = None
    wanted: int | None = None


@dataclass(frozen=True, slots=True)
class SittingUnit:
    """
    The sittings of one boot for one measure after the cut: as a rule a single one.

    `runs` and `values` (oriented readings) in order of sitting and run, `by_sitting` the same values sitting by
    sitting; `unit` is the mean of the sittings' medians.
    """

    sittings: Boot
    runs: tuple[Run, ...]
    values: tuple[float, ...]
    by_sitting: tuple[tuple[float, ...], ...]
    doubt: float
    unit: float

    @property
    def sitting(self) -> Sitting:
        """The first of its sittings, by which it is ordered."""
        return self.sittings[0]


@dataclass(frozen=True, slots=True)
class Sides:
    """
    Both sides of one measure, cut to the same number of runs a sitting.

    `step` is the resolution on the scale of judgement; `doubt` the variance that readings noted as "about"
    or as a range add to a unit; `short` says that a side has no sitting that may be judged yet, so that
    what there is of it is shown but is no unit; `mismatch` is set when the two sides share no version of the
    workload, or no kind of reading. `above_room` says that temperatures stand here as their rise above the room.
    """

    before: tuple[SittingUnit, ...]
    after: tuple[SittingUnit, ...]
    left_out: tuple[LeftOut, ...]
    step: float
    short: bool
    mismatch: Mismatch | None = None
    above_room: bool = False

    @property
    def both(self) -> tuple[tuple[SittingUnit, ...], tuple[SittingUnit, ...]]:
        """Before and after."""
        return self.before, self.after

    @property
    def units(self) -> tuple[SittingUnit, ...]:
        """The sittings of both sides."""
        return self.before + self.after

    @property
    def doubt(self) -> float:
        return sum(unit.doubt for unit in self.units) / len(self.units) if self.units else 0.0


@dataclass(frozen=True, slots=True)
class Readable:
    """
    What could be judged of one measure: the boots of both sides, oldest first, before a look takes its own of them.

    `runs` are those that count, by sitting and at most as many as planned; `short` is that of `Sides`.
    """

    measure: Measure
    before: tuple[Boot, ...]
    after: tuple[Boot, ...]
    runs: Mapping[SittingId, Sequence[Run]]
    left_out: tuple[LeftOut, ...]
    short: bool
    mismatch: Mismatch | None


def read_sides(
    groups: RunsBySitting,
    measure: Measure,
    plan: Plan,
    before: tuple[Sitting, ...],
    after: tuple[Sitting, ...],
    *,
    under_way: frozenset[SittingId] = frozenset(),
    take_short: bool = True,
    merge_answered: bool = True,
) -> Readable:
    """
    Find the sittings of both sides that may be judged for a measure.

    Args:
        groups: the runs, from `group_runs`.
        plan: its number of runs says which further ones are left out, and which sittings are short; a reading that
            does not say which statistic it is counts as the one that the plan names for the measure.
        before, after: the sittings of each side, oldest first.
        under_way: open sittings that are short of a planned run; they never count.
        take_short: closed sittings with fewer runs than planned count.
        merge_answered: sittings whose common boot was only answered are one unit.
    Source: docs/judgement.md, "From readings to units".
    """
    left_out: list[LeftOut] = []
    runs = {
        sitting.id: _countable(groups.get((sitting.id, measure.workload), ()), measure, left_out)
        for sitting in before + after
    }
    planned = plan.measures.get(measure.id)
    recipes = _Recipes(measure.id, planned.statistic if planned else None)
    mismatch = recipes.keep_common(runs, [s.id for s in before], [s.id for s in after], left_out)
    wanted = plan.runs_of(measure.workload)
    if wanted is not None:
        _cap(runs, wanted, left_out)
    sides = [_judged(side, runs, wanted, under_way, take_short) for side in (before, after)]
    # A side that has nothing to be judged yet shows what there is.
    short = any(
        not judged and any(runs[s.id] for s in side) for judged, side in zip(sides, (before, after), strict=True)
    )
    if short:
        sides = [tuple(s for s in side if runs[s.id]) for side in (before, after)]
    else:
        _name_unjudged(before + after, {s.id for side in sides for s in side}, runs, wanted, left_out)
    boots = [tuple(boots_of(side, merge_answered=merge_answered)) for side in sides]
    return Readable(measure, boots[0], boots[1], runs, tuple(left_out), short, mismatch)


def cut_sides(readable: Readable, before: Sequence[Boot], after: Sequence[Boot], *, above_room: bool = True) -> Sides:
    """
    Reduce some boots of both sides to units of equal length.

    Args:
        before, after: boots of `readable`, or parts of them.
        above_room: temperatures in °C become their rise above the room (K) where every sitting knows its room.
    Returns: units on the scale of judgement and every run left out, with its reason.
    Raises:
        NonPositiveReading: a `ratio` reading that is zero or negative.
    Source: docs/judgement.md, "From readings to units".
    """
    measure, runs = readable.measure, readable.runs
    chosen = [sitting for side in (before, after) for boot in side for sitting in boot]
    length = min((len(runs[sitting.id]) for sitting in chosen), default=0)
    left_out = list(readable.left_out)
    ids = {sitting.id for sitting in chosen}
    for boot in (*readable.before, *readable.after):
        for sitting in boot:
            kept, here = runs[sitting.id], sitting.id in ids
            if here:
                left_out += [LeftOut(run.id, "beyond_common", wanted=length) for run in kept[length:]]
            else:
                left_out += [LeftOut(run.id, "other_look") for run in kept]
    rises = above_room and measure.unit == "Cel" and all(sitting.ambient_c is not None for sitting in chosen)
    units_before, units_after = (
        tuple(_unit(boot, [runs[s.id][:length] for s in boot], measure, rises) for boot in side)
        for side in (before, after)
    )
    readings = tuple(
        judged_value(run.readings[measure.id], measure) for sitting in chosen for run in runs[sitting.id][:length]
    )
    mean = mean_of([orient(value, measure) for value in readings]) if readings else 0.0
    step = resolution(grain_of(readings), mean, measure) if readings else 0.0
    return Sides(units_before, units_after, tuple(left_out), step, readable.short, readable.mismatch, rises)


def room_came_late(sitting: Sitting) -> bool:
    """
    Whether the room of a sitting was first noted after it had been closed.

    Args:
        sitting: the sitting, with when its room was noted and when it was closed.
    """
    return sitting.closed_at is not None and any(
        was.member == "ambient_c" and was.value is None and was.at > sitting.closed_at for was in sitting.was
    )


def with_late_rooms(boots: Iterable[Boot], shift: float) -> tuple[Boot, ...]:
    """
    Take the rooms of one side that were noted late for their mean, shifted.

    Args:
        boots: of one side; shift: in K.
    Source: docs/judgement.md, "Rooms".
    """
    boots = tuple(boots)
    late = [s.ambient_c for boot in boots for s in boot if s.ambient_c is not None and room_came_late(s)]
    if not late:
        return boots
    room = sum(late) / len(late) + shift
    return tuple(tuple(replace(s, ambient_c=room) if room_came_late(s) else s for s in boot) for boot in boots)


def split_sides(
    groups: RunsBySitting, measure: Measure, plan: Plan, before: tuple[Sitting, ...], after: tuple[Sitting, ...]
) -> Sides:
    """
    Reduce all sittings of both sides to units, whatever looks a plan has.

    Args, returns, raises: as for `read_sides` and `cut_sides`.

    Args:
        groups: the runs of both builds, by sitting and workload.
        measure: what is read of them.
        plan: how many runs of a sitting count.
        before, after: the sittings of each side, oldest first.
    """
    readable = read_sides(groups, measure, plan, before, after)
    return cut_sides(readable, readable.before, readable.after)


def _cap(runs: dict[SittingId, list[Run]], wanted: int, left_out: list[LeftOut]) -> None:
    for sitting, here in runs.items():
        left_out += [LeftOut(run.id, "beyond_plan", wanted=wanted) for run in here[wanted:]]
        runs[sitting] = here[:wanted]


def _judged(
    side: tuple[Sitting, ...],
    runs: Mapping[SittingId, list[Run]],
    wanted: int | None,
    under_way: frozenset[SittingId],
    take_short: bool,
) -> tuple[Sitting, ...]:
    """The sittings of a side that may be judged: those with their planned runs, and closed ones where taken."""

    def counts(sitting: Sitting) -> bool:
        made = len(runs[sitting.id])
        if not made or sitting.id in under_way:
            return False
        return wanted is None or made >= wanted or (take_short and sitting.closed_at is not None)

    return tuple(filter(counts, side))


def _name_unjudged(
    sittings: Iterable[Sitting],
    judged: set[SittingId],
    runs: Mapping[SittingId, list[Run]],
    wanted: int | None,
    left_out: list[LeftOut],
) -> None:
    for sitting in sittings:
        if sitting.id in judged:
            continue
        made = len(runs[sitting.id])
        why: WhyLeftOut = "open" if sitting.closed_at is None else "short"
        left_out += [LeftOut(run.id, why, made=made, wanted=wanted) for run in runs[sitting.id]]


def _countable(runs: Iterable[Run], measure: Measure, left_out: list[LeftOut]) -> list[Run]:
    kept = []
    for run in runs:
        why = why_not_counted(run, measure.id)
        if why is None:
            kept.append(run)
        else:
            left_out.append(LeftOut(run.id, why, _noted(run, why, measure)))
    return kept


def _noted(run: Run, why: WhyNotCounted, measure: Measure) -> str:
    if why == "broken":
        return f"{run.state}: {run.reason}"
    if why == "late" and run.excluded_late is not None:
        return run.excluded_late.reason
    return str(run.readings[measure.id].source) if why == "told" else ""


@dataclass(frozen=True, slots=True)
class _Recipes:
    """What must be alike for runs to be compared; `unsaid` is the statistic of readings that name none."""

    measure: str
    unsaid: Statistic | None

    def of(self, run: Run) -> Recipe:
        # Most workloads have no parameters, and this is asked of every run several times.
        parameters = json.dumps(dict(run.parameters), sort_keys=True) if run.parameters else "{}"
        statistic = run.readings[MeasureId(self.measure)].statistic or self.unsaid
        return run.workload_version, parameters, run.target, statistic

    def keep_common(
        self,
        runs: dict[SittingId, list[Run]],
        before: list[SittingId],
        after: list[SittingId],
        left_out: list[LeftOut],
    ) -> Mismatch | None:
        """Take out what has another recipe than the one that both sides share; say why they share none."""
        if len({self.of(run) for here in runs.values() for run in here}) < 2:
            return None
        counts_before, counts_after = (
            Counter(self.of(run) for sitting in side for run in runs[sitting]) for side in (before, after)
        )
        shared = counts_before.keys() & counts_after.keys()
        if not shared and counts_before and counts_after:
            mismatch = _name_mismatch(next(iter(counts_before)), next(iter(counts_after)))
            _take_out(runs, lambda run: True, mismatch, left_out)
            return mismatch
        if shared:
            best = max(shared, key=lambda recipe: (min(counts_before[recipe], counts_after[recipe]), str(recipe)))
            _take_out(runs, lambda run: self.of(run) != best, "stray", left_out)
        return None


def _take_out(
    runs: dict[SittingId, list[Run]], wrong: Callable[[Run], bool], why: WhyLeftOut, left_out: list[LeftOut]
) -> None:
    for sitting, here in runs.items():
        left_out += [LeftOut(run.id, why) for run in here if wrong(run)]
        runs[sitting] = [run for run in here if not wrong(run)]


def _name_mismatch(before: Recipe, after: Recipe) -> Mismatch:
    return next(name for name, ours, theirs in zip(MISMATCHES, before, after, strict=True) if ours != theirs)


def _unit(boot: Boot, runs: Sequence[Sequence[Run]], measure: Measure, above_room: bool) -> SittingUnit:
    values, widths = [], []
    for sitting, here in zip(boot, runs, strict=True):
        room = (sitting.ambient_c or 0.0) if above_room else 0.0
        readings = [run.readings[measure.id] for run in here]
        values.append(tuple([orient(judged_value(reading, measure) - room, measure) for reading in readings]))
        widths += [reading_width(r, measure) for r in readings if r.about or r.low != r.high]
    flat = values[0] if len(values) == 1 else tuple(value for sitting in values for value in sitting)
    doubt = sum(width**2 for width in widths) / len(flat) / 12 if widths else 0.0
    medians = [median(sitting) if len(sitting) > 1 else sitting[0] for sitting in values]
    unit = medians[0] if len(medians) == 1 else sum(medians) / len(medians)
    return SittingUnit(boot, tuple(run for here in runs for run in here), flat, tuple(values), doubt, unit)
