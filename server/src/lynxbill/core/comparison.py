"""The comparison of two builds: every measure's verdict, the overall gain and the bill."""

import math
from collections.abc import Iterator
from dataclasses import dataclass, replace
from typing import Literal

from lynxbill.core.anytime import look
from lynxbill.core.bill import Bill, make_bill, swaps_between
from lynxbill.core.case import Case, Design, Plan, PlannedMeasure, Sitting, Swap, default_plan
from lynxbill.core.companions import Companions, paired_companions, two_sample_companions
from lynxbill.core.conditions import Departure, find_departures
from lynxbill.core.difference import find_differences, name_bundle
from lynxbill.core.errors import NoSwap, SameBuild
from lynxbill.core.estimate import Estimate, equivalence_p, guard, label_guard, paired, pooled_estimate, side_by_side
from lynxbill.core.exact import permutation_p
from lynxbill.core.families import adjust_families
from lynxbill.core.flags import Flag, drop_one_flag, reading_flags
from lynxbill.core.measure import (
    DEFAULT_MATTERS_FROM,
    WORK_KINDS,
    Measure,
    Role,
    gain_percent,
    margin_bound,
    restore,
    time_saved_percent,
)
from lynxbill.core.overall import Claim, Overall, overall_gain
from lynxbill.core.pairing import Pairing, label_differences, pair_runs
from lynxbill.core.planning import Noise, sittings_for
from lynxbill.core.sitting import (
    RunsBySitting,
    Sides,
    SittingUnit,
    compared_sittings,
    group_runs,
    split_sides,
)
from lynxbill.core.verdict import Remark, Verdict, block_by_family, decide, decide_exact

MIN_GUARD_RUNS = 3


# How good the evidence is, best first; beside the verdict, never instead of it.
Grade = Literal["full_plan", "conditions_differ", "early_look", "one_sitting", "one_run", "told"]


@dataclass(frozen=True, slots=True)
class MeasureResult:
    """
    What the runs say of one measure.

    `bound` is the half-width of the band that does not matter, on the scale of judgement. `estimate` is the
    oriented difference where both sides have a run; `interval` is the rule that decided, None where no rule
    may speak (yet); its figures and the verdict always agree.
    """

    measure: Measure
    planned: PlannedMeasure
    bound: float
    pairing: Pairing
    sides: Sides
    estimate: float | None
    interval: Estimate | None
    verdict: Verdict
    provisional: bool
    complete: bool
    design: Design
    exact_p: float | None = None
    p_adjusted: float | None = None
    sittings_to_settle: int | None = None
    flags: tuple[Flag, ...] = ()
    grade: Grade | None = None

    @property
    def companions(self) -> Companions:
        """Rank and permutation figures on the same units, made when they are asked for."""
        return _companions(self.sides, self.pairing, self.design)

    @property
    def p(self) -> float | None:
        """The p that the measure enters its family with; None where no rule gives one."""
        return self.interval.p if self.interval else self.exact_p

    @property
    def before_mean(self) -> float | None:
        return _side_mean(self.sides.before, self.measure, self.by_runs)

    @property
    def after_mean(self) -> float | None:
        return _side_mean(self.sides.after, self.measure, self.by_runs)

    @property
    def by_runs(self) -> bool:
        """Whether the estimate is a difference of run means (the guard) rather than of sitting units."""
        return _by_runs(self.sides, self.interval)

    @property
    def p_equivalence(self) -> float | None:
        if self.interval is None or self.interval.p is None or self.interval.basis == "anytime":
            return None
        return equivalence_p(self.interval.estimate, self.interval.se, self.interval.df, self.bound)

    @property
    def gain_percent(self) -> float | None:
        if self.estimate is None or self.measure.scale != "ratio":
            return None
        return gain_percent(self.estimate)

    @property
    def time_saved_percent(self) -> float | None:
        if self.estimate is None or self.measure.kind != "time" or self.measure.scale != "ratio":
            return None
        return time_saved_percent(self.estimate)


@dataclass(frozen=True, slots=True)
class Comparison:
    before: str
    after: str
    plan: Plan
    measures: tuple[MeasureResult, ...]
    overall: Overall | None
    bill: Bill
    changes: tuple[str, ...]

    @property
    def sittings(self) -> tuple[str, ...]:
        """The sittings that any of its measures rests on, sorted."""
        sides = [result.sides for result in self.measures]
        return tuple(sorted({unit.sitting.id for side in sides for unit in side.before + side.after}))

    @property
    def gives_planned_verdict(self) -> bool:
        """Whether the plan is complete for every claim, so that its one verdict is given here."""
        claims = [result for result in self.measures if result.planned.role == "claim"]
        settled = all(r.complete and not r.provisional and r.verdict.word != "untested" for r in claims)
        return self.plan.sittings_a_side is not None and bool(claims) and settled


@dataclass(frozen=True, slots=True)
class Reach:
    """How far the plan has come for one measure: may its planned verdict be given?"""

    complete: bool
    added_after_verdict: bool


def judge(case: Case, before: str | None = None, after: str | None = None) -> Comparison:
    """
    Compare two builds of a machine.

    Args:
        before, after: build ids; without them the builds of the last swap.
    Returns: a result for every measure that has a run on either side or stands in the plan, the overall gain
        of the claims of kind time, rate or score, and the bill.
    Raises:
        NoSwap: no builds named and the case has no swap.
        UnknownBuild: a build that the case does not have.
        SameBuild: both are the same.
        RateMissing: a cost line in a foreign currency without a rate.
    Source: docs/judgement.md.
    """
    before, after = _choose_builds(case, before, after)
    into = case.swap_between(before, after)
    plan = into.plan if into else default_plan(case.measures)
    groups = group_runs(case)
    sides = compared_sittings(case, before), compared_sittings(case, after)
    measured = {run.workload for run in case.runs if run.sitting_id in {s.id for s in sides[0] + sides[1]}}
    results = tuple(
        _judge_measure(groups, measure, plan, into, sides)
        for measure in case.measures
        if measure.id in plan.measures or measure.workload in measured
    )
    results = _within_families(results, plan.headline)
    changes = _name_changes(case, before, after)
    departures = find_departures(case, into) if into and (into.before, into.after) == (before, after) else ()
    results = tuple(_graded(result, results, changes, departures) for result in results)
    claims = [result for result in results if _counts_overall(result)]
    waiting = any(_waits(result) for result in claims)
    overall = overall_gain([_claim(result) for result in claims], plan.design, interval=not waiting)
    bill = make_bill(case, before, after, overall)
    return Comparison(before, after, plan, results, overall, bill, changes)


def _name_changes(case: Case, before: str, after: str) -> tuple[str, ...]:
    """Everything that differs between both builds and was touched on the way: what the gain belongs to."""
    chain = swaps_between(case, before, after) or ()
    differences = find_differences(case.build(before), case.build(after))
    side_changes = tuple(dict.fromkeys(tick for swap in chain for tick in swap.side_changes))
    return name_bundle(side_changes, differences)


def _choose_builds(case: Case, before: str | None, after: str | None) -> tuple[str, str]:
    if before is None or after is None:
        if not case.swaps:
            raise NoSwap("This machine has no swap yet; name the two builds to compare.")
        before, after = before or case.swaps[-1].before, after or case.swaps[-1].after
    case.build(before), case.build(after)
    if before == after:
        raise SameBuild(f"Build “{before}” can't be compared with itself; name two builds.")
    return before, after


def _judge_measure(
    groups: RunsBySitting,
    measure: Measure,
    plan: Plan,
    into: Swap | None,
    sittings: tuple[tuple[Sitting, ...], tuple[Sitting, ...]],
) -> MeasureResult:
    planned = plan.measures.get(measure.id) or PlannedMeasure("watch", DEFAULT_MATTERS_FROM[measure.scale])
    bound = margin_bound(planned.matters_from, measure.scale)
    sides = split_sides(groups, measure, plan, *sittings)
    pairing = pair_runs(sides, plan.pair_by, plan.pairs)
    interval, provisional = _estimate(sides, pairing, plan, measure)
    reach = _reach(sides, plan, into)
    shown = interval
    if interval is not None and not reach.complete and interval.basis != "one_sitting":
        # The planned interval is not valid before the plan is complete, nor with other sittings after it was shown.
        shown = _look(sides, pairing, plan, reach)
    exact_p = _exact_p(sides, measure)
    verdict = _verdict(sides, shown, bound, planned.role, reach, measure, plan, exact_p)
    return MeasureResult(
        measure=measure,
        planned=planned,
        bound=bound,
        pairing=pairing,
        sides=sides,
        estimate=interval.estimate if interval else _plain_difference(sides),
        interval=shown,
        verdict=verdict,
        provisional=provisional,
        complete=reach.complete,
        design=plan.design,
        exact_p=exact_p if planned.role != "watch" else None,
        sittings_to_settle=_sittings_to_settle(interval, verdict, planned, bound, measure, plan, reach),
    )


def _look(sides: Sides, pairing: Pairing, plan: Plan, reach: Reach) -> Estimate | None:
    """The anytime rule on the sittings there are; it pools, whatever the counts of the two sides."""
    if plan.design == "paired":
        differences = _unit_differences(sides, pairing, plan.pair_by == "label")
        planned, size = paired(differences, step=sides.step, doubt=sides.doubt), float(len(differences))
    else:
        units = [unit.unit for unit in sides.before], [unit.unit for unit in sides.after]
        planned = pooled_estimate(*units, step=sides.step, doubt=sides.doubt)
        size = 1 / (1 / len(sides.before) + 1 / len(sides.after))
    return look(planned, size, after_showing=reach.added_after_verdict)


def _unit_differences(sides: Sides, pairing: Pairing, by_label: bool = False) -> list[float]:
    if by_label:
        return [_mean_of(labels) for labels in label_differences(sides, pairing)]
    return [sides.after[j].unit - sides.before[i].unit for i, j in pairing.sittings]


def _companions(sides: Sides, pairing: Pairing, design: Design) -> Companions:
    if sides.short or not sides.before or not sides.after:
        return Companions()
    if design == "paired":
        differences = _unit_differences(sides, pairing)
        return paired_companions(differences) if differences else Companions()
    return two_sample_companions([unit.unit for unit in sides.before], [unit.unit for unit in sides.after])


def _exact_p(sides: Sides, measure: Measure) -> float | None:
    """Steps and outcomes have no t: their sittings are shared out to the two sides in every way there is."""
    if measure.scale not in ("ordinal", "outcome") or sides.short or min(len(sides.before), len(sides.after)) < 2:
        return None
    return permutation_p(_steps(sides.before, measure), _steps(sides.after, measure))


def _steps(units: tuple[SittingUnit, ...], measure: Measure) -> list[float]:
    """One figure a sitting: the median step, or the share of runs that passed."""
    if measure.scale == "ordinal":
        return [unit.unit for unit in units]
    return [math.fsum(unit.values) / len(unit.values) for unit in units]


def _sittings_to_settle(
    interval: Estimate | None,
    verdict: Verdict,
    planned: PlannedMeasure,
    bound: float,
    measure: Measure,
    plan: Plan,
    reach: Reach,
) -> int | None:
    """Sittings a side that would show the gain hoped for, else the margin; None where that can't be said."""
    if verdict.word != "not_settled" or interval is None or interval.basis == "one_sitting" or interval.df < 1:
        return None
    target = margin_bound(planned.hoped_for, measure.scale) if planned.hoped_for else bound
    noise = Noise(interval.sd, max(1, round(interval.df)), 0)
    return sittings_for(noise, target, paired=plan.design == "paired", anytime=not reach.complete)


def _graded(
    result: MeasureResult,
    results: tuple[MeasureResult, ...],
    changes: tuple[str, ...],
    departures: tuple[Departure, ...],
) -> MeasureResult:
    """Add what should be looked at, and how good the evidence is."""
    flags = [
        *_count_flags(result),
        *reading_flags(result.sides, result.interval, len(results)),
        *_stability_flags(result),
        *_context_flags(result, results, changes, departures),
    ]
    return replace(result, flags=tuple(flags), grade=_grade(result, departures))


def _count_flags(result: MeasureResult) -> Iterator[Flag]:
    if result.verdict.remark in ("one_run_a_side", "too_few_runs"):
        yield Flag(
            "too_few_runs",
            "Too few runs to tell a change from chance: take at least three runs a side, better three sittings.",
        )
    told = [item for item in result.sides.left_out if item.reason.endswith("kept out of the test")]
    if told:
        yield Flag("told_values", f"{len(told)} value(s) were told, not measured here; they enter no test.")


def _stability_flags(result: MeasureResult) -> Iterator[Flag]:
    if result.interval is None or result.interval.basis != "sittings" or not result.complete:
        return
    before, after = ([unit.unit for unit in side] for side in (result.sides.before, result.sides.after))

    def word(left: list[float], right: list[float]) -> str:
        again = side_by_side(left, right, step=result.sides.step, doubt=result.sides.doubt)
        return decide(again, result.bound, fewest_sittings=min(len(left), len(right))).word

    flag = drop_one_flag(before, after, word(before, after), word)
    if flag is not None:
        yield flag
    noise = Noise(result.interval.sd, max(1, round(result.interval.df)), 0)
    if result.verdict.word == "not_settled" and sittings_for(noise, result.bound) is None:
        yield Flag("cannot_settle", "At this scatter twenty sittings a side would not settle a change of its margin.")


def _context_flags(
    result: MeasureResult,
    results: tuple[MeasureResult, ...],
    changes: tuple[str, ...],
    departures: tuple[Departure, ...],
) -> Iterator[Flag]:
    if result.planned.role == "claim":
        moved = [r.measure.name for r in results if r.planned.role == "control" and r.verdict.word in _MOVED]
        if moved:
            yield Flag("control_moved", f"What should not move did: {', '.join(moved)}.")
    if len(changes) > 1 and result.estimate is not None:
        yield Flag("several_changes", f"Changed together: {', '.join(changes)}. The gain belongs to the bundle.")
    if departures and result.estimate is not None:
        said = "; ".join(f"{d.what}: {d.before} before, {d.after} after" for d in departures)
        yield Flag("conditions_differ", f"The sides were not measured alike: {said}.")
    units = result.sides.before + result.sides.after
    if result.measure.kind == "heat" and any(unit.sitting.ambient_c is None for unit in units):
        yield Flag("ambient_missing", "Heat was measured without a room temperature: the room may be the change.")


_MOVED = ("real_gain", "real_loss")


def _grade(result: MeasureResult, departures: tuple[Departure, ...]) -> Grade | None:
    if result.estimate is None:
        told = any(item.reason.endswith("kept out of the test") for item in result.sides.left_out)
        return "told" if told else None
    if result.verdict.remark == "one_run_a_side":
        return "one_run"
    if result.provisional or (result.interval is None and result.exact_p is None):
        return "one_sitting"
    if not result.complete:
        return "early_look"
    no_room = result.measure.kind == "heat" and any(
        unit.sitting.ambient_c is None for unit in result.sides.before + result.sides.after
    )
    return "conditions_differ" if departures or no_room else "full_plan"


def _within_families(results: tuple[MeasureResult, ...], headline: str | None) -> tuple[MeasureResult, ...]:
    """Adjust each p within its family; a verdict that only the number of measures stands against says so."""
    tested = {r.measure.id: (r.planned.role, r.p) for r in results if r.p is not None and r.planned.role != "watch"}
    adjusted = adjust_families(tested, headline)
    return tuple(
        replace(
            result,
            p_adjusted=adjusted.get(result.measure.id),
            verdict=block_by_family(result.verdict, adjusted.get(result.measure.id)),
        )
        for result in results
    )


def _estimate(sides: Sides, pairing: Pairing, plan: Plan, measure: Measure) -> tuple[Estimate | None, bool]:
    """Choose the rule by the numbers of sittings and runs alone; also says whether it is provisional."""
    k_b, k_a = len(sides.before), len(sides.after)
    if not k_b or not k_a or measure.scale in ("ordinal", "outcome"):
        return None, False
    if plan.design == "paired":
        if plan.pair_by == "label":
            return _estimate_by_label(sides, pairing)
        if len(pairing.sittings) >= 3 and not sides.short:
            return paired(_unit_differences(sides, pairing), step=sides.step, doubt=sides.doubt), False
    elif k_b + k_a >= 4 and not sides.short:
        units = [unit.unit for unit in sides.before], [unit.unit for unit in sides.after]
        return side_by_side(*units, step=sides.step, doubt=sides.doubt), min(k_b, k_a) == 1
    too_few = min(_n_runs(sides.before), _n_runs(sides.after)) < MIN_GUARD_RUNS
    if too_few or len(sides.before[0].runs) < 2:
        return None, True
    runs = [unit.values for unit in sides.before], [unit.values for unit in sides.after]
    return guard(*runs, step=sides.step, doubt=sides.doubt), True


def _estimate_by_label(sides: Sides, pairing: Pairing) -> tuple[Estimate | None, bool]:
    """Labelled inputs: a difference a sitting pair from three pairs on; with one pair the guard over its labels."""
    by_pair = label_differences(sides, pairing)
    if sides.short or not by_pair or not by_pair[0]:
        return None, False
    if len(by_pair) >= 3:
        return paired([_mean_of(labels) for labels in by_pair], step=sides.step, doubt=sides.doubt), False
    if len(by_pair) == 1 and len(by_pair[0]) >= MIN_GUARD_RUNS:
        return label_guard(by_pair[0], step=sides.step, doubt=sides.doubt), True
    return None, True


def _reach(sides: Sides, plan: Plan, into: Swap | None) -> Reach:
    wanted = plan.sittings_a_side or 0
    enough = not sides.short and min(len(sides.before), len(sides.after)) >= wanted
    shown = into.verdict_shown_for if into else None
    here = {unit.sitting.id for unit in sides.before + sides.after}
    added = shown is not None and not here <= set(shown)
    return Reach(complete=enough and not added, added_after_verdict=added)


def _verdict(
    sides: Sides,
    interval: Estimate | None,
    bound: float,
    role: Role,
    reach: Reach,
    measure: Measure,
    plan: Plan,
    exact_p: float | None,
) -> Verdict:
    measured = bool(sides.before and sides.after)
    if role == "watch" and measured:
        return Verdict("untested", "watched_only")
    waiting: Remark = "added_after_verdict" if reach.added_after_verdict else "plan_incomplete"
    if exact_p is not None:
        if not reach.complete:
            return Verdict("not_settled", waiting)
        better = _mean_of(_steps(sides.after, measure)) > _mean_of(_steps(sides.before, measure))
        return decide_exact(exact_p, better=better, sittings=len(sides.before) + len(sides.after))
    if interval is None:
        enough = measured and not sides.short and len(sides.before) + len(sides.after) >= 4
        if enough and measure.scale not in ("ordinal", "outcome") and not reach.complete:
            return Verdict("not_settled", waiting)
        return Verdict(*_why_untested(sides, measure, plan))
    if interval.basis == "one_sitting" and not reach.complete:
        return Verdict("not_settled", waiting)
    verdict = decide(interval, bound, fewest_sittings=min(len(sides.before), len(sides.after)))
    return Verdict("not_settled", waiting) if verdict.word == "not_settled" and not reach.complete else verdict


def _why_untested(sides: Sides, measure: Measure, plan: Plan) -> tuple[Literal["untested", "not_settled"], Remark]:
    if sides.mismatch == "workload_version_differs":
        return "untested", "workload_version_differs"
    if sides.mismatch == "parameters_differ":
        return "untested", "parameters_differ"
    if sides.mismatch == "target_differs":
        return "untested", "target_differs"
    if not sides.before and not sides.after:
        return "untested", "not_measured"
    if not sides.before or not sides.after:
        return "untested", "after_missing" if sides.before else "before_missing"
    if measure.scale in ("ordinal", "outcome"):
        return "not_settled", "scale_needs_counts"
    if plan.design == "paired" and plan.pair_by == "label":
        return "not_settled", "pairs_missing"
    one = _n_runs(sides.before) == 1 and _n_runs(sides.after) == 1
    return "untested", "one_run_a_side" if one else "too_few_runs"


def _mean_of(values: list[float]) -> float:
    return math.fsum(values) / len(values)


def _n_runs(units: tuple[SittingUnit, ...]) -> int:
    return sum(len(unit.runs) for unit in units)


def _by_runs(sides: Sides, interval: Estimate | None) -> bool:
    if interval is not None:
        return interval.basis == "one_sitting"
    return sides.short or len(sides.before) + len(sides.after) < 4


def _oriented_mean(units: tuple[SittingUnit, ...], by_runs: bool) -> float:
    values = [y for unit in units for y in unit.values] if by_runs else [unit.unit for unit in units]
    return math.fsum(values) / len(values)


def _side_mean(units: tuple[SittingUnit, ...], measure: Measure, by_runs: bool) -> float | None:
    return restore(_oriented_mean(units, by_runs), measure) if units else None


def _plain_difference(sides: Sides) -> float | None:
    if not sides.before or not sides.after:
        return None
    by_runs = _by_runs(sides, None)
    return _oriented_mean(sides.after, by_runs) - _oriented_mean(sides.before, by_runs)


def _counts_overall(result: MeasureResult) -> bool:
    is_work = result.measure.kind in WORK_KINDS and result.measure.scale == "ratio"
    return is_work and result.planned.role == "claim" and result.estimate is not None


def _waits(result: MeasureResult) -> bool:
    """The planned interval may not be given yet; the guard's, and none at all, wait for nothing."""
    early = result.interval is not None and result.interval.basis == "anytime"
    return early or result.verdict.remark in ("plan_incomplete", "added_after_verdict")


def _claim(result: MeasureResult) -> Claim:
    return Claim(
        measure_id=result.measure.id,
        weight=result.planned.weight,
        sides=result.sides,
        matched=result.pairing.sittings,
        estimate=result.interval,
        difference=result.estimate or 0.0,
    )
