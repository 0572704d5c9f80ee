"""What stands alongside the verdicts of a comparison; nothing here changes one."""

from dataclasses import replace

from lynxbill.core.change.context import Measured, context_of
from lynxbill.core.change.difference import find_differences, name_bundle
from lynxbill.core.plan.planning import Alike, Effort, effort, known_noise, noise_floor
from lynxbill.core.plan.questions import loaded_by
from lynxbill.core.reading.tally import recipe_of
from lynxbill.core.record.build import PartRole
from lynxbill.core.record.frame import Case
from lynxbill.core.record.ids import BuildId
from lynxbill.core.record.plan import Plan
from lynxbill.core.record.run import Sitting
from lynxbill.core.result.result import MeasureResult
from lynxbill.core.result.shares import ImpliedShare, implied_shares
from lynxbill.core.result.traits import TaskGain, Trend, gain_by_traits
from lynxbill.core.statistics.scatter import Noise
from lynxbill.core.terms.measure import STEPPED

Results = tuple[MeasureResult, ...]


def name_changes(case: Case, before: BuildId, after: BuildId) -> tuple[str, ...]:
    """
    Name everything that differs between two builds and was touched on the way: what the gain belongs to.

    Args:
        before, after: build ids.
    """
    chain = case.swaps_between(before, after) or ()
    differences = find_differences(case.build(before), case.build(after))
    side_changes = tuple(dict.fromkeys(tick for swap in chain for tick in swap.side_changes))
    return name_bundle(side_changes, differences)


def unloaded_workloads(case: Case, before: BuildId, after: BuildId) -> frozenset[str]:
    """
    Find the workloads that load nothing of what was changed, so that they can't show it.

    Args:
        before, after: build ids.
    Returns: names; none where more was touched than parts that workloads are said to load.
    """
    differences = find_differences(case.build(before), case.build(after))
    touched = any(swap.side_changes for swap in case.swaps_between(before, after) or ())
    affected = [loaded_by(difference.name) for difference in differences if difference.kind != "setting"]
    if touched or not affected or len(affected) < len(differences) or not all(affected):
        return frozenset()
    roles = frozenset[PartRole]().union(*affected)
    return frozenset(workload.name for workload in case.workloads if workload.loads and not roles & {*workload.loads})


def put_in_context(case: Case, before: BuildId, after: BuildId, plan: Plan, results: Results) -> Results:
    """
    Set each result against ratings, ceilings and the rise of the hardware, and say what would settle it.

    Args:
        before, after: build ids.
        results: of the same comparison.
    """
    look_up = context_of(case, case.build(before), case.build(after))
    results = tuple(replace(result, settling=result.to_settle) for result in results)
    return tuple(
        replace(result, context=look_up(_measured(result)), efforts=_efforts(case, result, plan))
        for result in results
    )


def _efforts(case: Case, result: MeasureResult, plan: Plan) -> tuple[Effort, ...]:
    """What each way takes that would settle it."""
    ways = result.to_settle.ways
    if not ways:
        return ()
    workload = result.measure.workload
    runs = plan.runs_of(workload) or max(len(unit.runs) for unit in result.sides.units)
    return tuple(effort(case, workload, plan, sittings=way.more, runs_a_sitting=runs) for way in ways)


def put_above_floor(case: Case, plan: Plan, compared: tuple[Sitting, ...], results: Results) -> Results:
    """
    Put beside each result what the unchanged machine shows between two free sides of as many sittings.

    Args:
        compared: the sittings of both sides; where the case has no others, their own scatter is all there is.
    Returns: results with their `floor`; as they came for a paired design, whose matched scatter is not known.
    Source: docs/judgement.md, "Noise floor".
    """
    if plan.design == "paired":
        return results
    if len(case.sittings) == len(compared):
        return tuple(replace(result, floor=_floor(result, result.noise)) for result in results)
    return tuple(replace(result, floor=_floor(result, _noise_beside(case, result))) for result in results)


def _noise_beside(case: Case, result: MeasureResult) -> Noise | None:
    """What sittings of this machine scatter by that are like those of a result."""
    if not result.sides.units:
        return None
    recipe = recipe_of(result.sides.units[0].runs[0], result.measure)
    return known_noise(case, result.measure, Alike(recipe, result.sides.above_room))


def _floor(result: MeasureResult, noise: Noise | None) -> float | None:
    sittings = len(result.sides.before), len(result.sides.after)
    if noise is None or not all(sittings) or result.measure.scale in STEPPED:
        return None
    return noise_floor(noise, *sittings)


def shares_of(case: Case, before: BuildId, after: BuildId, plan: Plan, results: Results) -> tuple[ImpliedShare, ...]:
    """
    Say which share of each job waited for the part that was exchanged.

    Args:
        before, after: build ids.
    Returns: none unless one part alone was exchanged; settings may follow the part.
    Source: docs/judgement.md, "In context".
    """
    differences = find_differences(case.build(before), case.build(after))
    parts = [difference for difference in differences if difference.kind != "setting"]
    if len(parts) != 1 or parts[0].kind != "part exchanged":
        return ()
    workloads = {workload.name: workload for workload in case.workloads}
    return implied_shares(workloads, parts[0].name, plan.headline, [_measured(result) for result in results])


def trends_of(case: Case, plan: Plan, results: Results) -> tuple[Trend, ...]:
    """
    Lay the gains along the traits of their workloads.

    Args:
        case: the machine, for the numbers that its workloads are held to.
        plan: the plan of the comparison.
        results: its results, by measure.
    Returns: from one claim of work a workload: the headline if it is one, else the first that is no part of a total.
    Source: docs/judgement.md, "Gain against a trait of the work".
    """
    leading: dict[str, TaskGain] = {}
    claims = [result for result in results if result.is_claim_of_work and result.measure.part_of is None]
    for result in sorted(claims, key=lambda claim: claim.measure.id != plan.headline):
        workload, gain = result.measure.workload, result.estimate or 0.0
        leading.setdefault(workload, TaskGain(result.measure.id, workload, gain))
    return gain_by_traits({workload.name: workload for workload in case.workloads}, leading.values())


def _measured(result: MeasureResult) -> Measured:
    return Measured(
        measure=result.measure,
        before_mean=result.before_mean,
        after_mean=result.after_mean,
        estimate=result.estimate,
        interval=result.interval,
        real_gain=result.verdict.word == "real_gain",
    )
