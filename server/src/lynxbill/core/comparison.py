"""The comparison of two builds: every measure's verdict, the overall gain and the bill."""

from dataclasses import replace

from lynxbill.core.alongside import (
    name_changes,
    put_above_floor,
    put_in_context,
    shares_of,
    trends_of,
    unloaded_workloads,
)
from lynxbill.core.bill import make_bill
from lynxbill.core.case import BuildId, Case, Frame, Plan, PlannedMeasure, Sitting, Swap, default_plan
from lynxbill.core.conditions import find_departures
from lynxbill.core.counting import RunsBySitting, compared_sittings, group_runs
from lynxbill.core.errors import NoSwap, SameBuild
from lynxbill.core.estimate import NOTHING_BORROWED, Borrowed
from lynxbill.core.evidence import Surroundings, moved_controls, weigh_evidence
from lynxbill.core.families import adjust_families
from lynxbill.core.measure import DEFAULT_MATTERS_FROM, Measure, MeasureId, margin_bound
from lynxbill.core.overall import Claim, Overall, overall_gain
from lynxbill.core.pairing import pair_runs
from lynxbill.core.result import Comparison, MeasureResult, leading_claim
from lynxbill.core.ruling import Reach, reach_of, rule_on
from lynxbill.core.sitting import split_sides
from lynxbill.core.spread import pool_spread
from lynxbill.core.verdict import block_by_family

BothSides = tuple[tuple[Sitting, ...], tuple[Sitting, ...]]


def judge(case: Case, before: BuildId | None = None, after: BuildId | None = None) -> Comparison:
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
    before, after = choose_builds(case, before, after)
    into, plan, sides = _frame(case, BuildId(before), BuildId(after))
    results = _judge_measures(case, plan, into, sides)
    results = _beside_late(case, plan, into, sides, results)
    results = put_in_context(case, BuildId(before), BuildId(after), plan, results)
    results = put_above_floor(case, plan, sides[0] + sides[1], results)
    changes = name_changes(case, BuildId(before), BuildId(after))
    around = Surroundings(
        changes,
        find_departures(case, sides, plan),
        moved_controls(results),
        len(results),
        unloaded_workloads(case, BuildId(before), BuildId(after)),
    )
    results = tuple(weigh_evidence(r, around, _borrow_spread(case, r.measure, plan, sides)) for r in results)
    overall = _overall(results, plan)
    bill = make_bill(case, BuildId(before), BuildId(after), leading_claim(results, plan.headline))
    shares = shares_of(case, BuildId(before), BuildId(after), plan, results)
    trends = trends_of(case, plan, results)
    return Comparison(before, after, plan, results, overall, bill, changes, shares, trends)


def judge_measures(
    case: Case, before: BuildId | None = None, after: BuildId | None = None
) -> tuple[MeasureResult, ...]:
    """
    Give the verdicts of `judge` alone, without flags, grades, context and money.

    Args, returns, raises: as for `judge`.
    """
    before, after = choose_builds(case, before, after)
    into, plan, sides = _frame(case, BuildId(before), BuildId(after))
    return _judge_measures(case, plan, into, sides)


def _frame(case: Case, before: BuildId, after: BuildId) -> tuple[Swap | None, Plan, BothSides]:
    """The swap whose plan counts, that plan, and the sittings of both builds."""
    into = case.swap_between(before, after)
    plan = into.plan if into else default_plan(case.measures)
    return into, plan, (compared_sittings(case, before), compared_sittings(case, after))


def choose_builds(frame: Frame, before: BuildId | None, after: BuildId | None) -> tuple[BuildId, BuildId]:
    """
    Say which two builds are compared: those named, else those of the last swap.

    Raises:
        NoSwap, UnknownBuild, SameBuild: as for `judge`.
    """
    if before is None or after is None:
        if not frame.swaps:
            raise NoSwap("This machine has no swap yet; name the two builds to compare.")
        before, after = before or frame.swaps[-1].before, after or frame.swaps[-1].after
    frame.build(before), frame.build(after)
    if before == after:
        raise SameBuild(f"Build “{before}” can't be compared with itself; name two builds.")
    return before, after


def _judge_measures(case: Case, plan: Plan, into: Swap | None, sides: BothSides) -> tuple[MeasureResult, ...]:
    """Every measure that was planned or measured, each p adjusted within its family."""
    groups = group_runs(case)
    here = {sitting.id for side in sides for sitting in side}
    measured = {run.workload for run in case.runs if run.sitting_id in here}
    results = tuple(
        _judge_measure(groups, measure, plan, into, sides, _borrow_spread(case, measure, plan, sides))
        for measure in case.measures
        if measure.id in plan.measures or measure.workload in measured
    )
    return _within_families(results, plan.headline)


def _judge_measure(
    groups: RunsBySitting,
    measure: Measure,
    plan: Plan,
    into: Swap | None,
    sittings: BothSides,
    borrowed: Borrowed,
) -> MeasureResult:
    planned = plan.measures.get(measure.id) or PlannedMeasure("watch", DEFAULT_MATTERS_FROM[measure.scale])
    sides = split_sides(groups, measure, plan, *sittings)
    pairing = pair_runs(sides, plan.pair_by, plan.pairs)
    ruling = rule_on(sides, pairing, measure, planned, plan, reach_of(sides, measure, plan, into), borrowed)
    return MeasureResult(
        measure=measure,
        planned=planned,
        bound=margin_bound(planned.matters_from, measure.scale),
        pairing=pairing,
        sides=sides,
        estimate=ruling.estimate,
        interval=ruling.interval,
        verdict=ruling.verdict,
        provisional=ruling.provisional,
        reach=ruling.reach,
        design=plan.design,
        exact_p=ruling.exact_p,
        noise=ruling.noise,
    )


def _within_families(results: tuple[MeasureResult, ...], headline: MeasureId | None) -> tuple[MeasureResult, ...]:
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


def _borrow_spread(case: Case, measure: Measure, plan: Plan, own: BothSides) -> Borrowed:
    """Scatter of the sittings of other builds: only where the plan names them."""
    if not plan.borrow_spread_from:
        return NOTHING_BORROWED
    builds = [compared_sittings(case, BuildId(build)) for build in plan.borrow_spread_from]
    return pool_spread(group_runs(case), measure, plan, builds, own[0] + own[1])


def _beside_late(
    case: Case, plan: Plan, into: Swap | None, sides: BothSides, results: tuple[MeasureResult, ...]
) -> tuple[MeasureResult, ...]:
    """Put beside each measure that lost runs late what it would be with them."""
    touched = {r.measure.id for r in results if any(item.kind == "late" for item in r.sides.left_out)}
    if not touched:
        return results
    whole = replace(case, runs=tuple(replace(run, excluded_late=None) for run in case.runs))
    with_late = {result.measure.id: result for result in _judge_measures(whole, plan, into, sides)}
    return tuple(replace(r, with_late=with_late[r.measure.id]) if r.measure.id in touched else r for r in results)


def _overall(results: tuple[MeasureResult, ...], plan: Plan) -> Overall | None:
    claims = [result for result in results if result.is_claim_of_work]
    reach = Reach(
        complete=not any(result.waits for result in claims),
        added_after_verdict=any(result.reach.added_after_verdict for result in claims),
    )
    return overall_gain([_claim(result) for result in claims], plan.design, reach)


def _claim(result: MeasureResult) -> Claim:
    return Claim(
        measure_id=result.measure.id,
        weight=result.planned.weight,
        sides=result.sides,
        matched=result.pairing.sittings,
        estimate=result.interval,
        difference=result.estimate or 0.0,
    )
