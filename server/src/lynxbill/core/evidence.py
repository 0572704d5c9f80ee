"""How good the evidence behind a result is, and what around it a technician should know."""

from collections.abc import Iterator
from dataclasses import dataclass, replace

from lynxbill.core.case import Run
from lynxbill.core.conditions import Departure
from lynxbill.core.estimate import Borrowed, side_by_side
from lynxbill.core.flags import Flag, drop_one_flag, reading_flags
from lynxbill.core.measure import Measure, difference_unit, gain_percent
from lynxbill.core.quantity import unit_of
from lynxbill.core.result import Grade, MeasureResult
from lynxbill.core.sitting import SittingUnit, WhyLeftOut
from lynxbill.core.verdict import CALLED, decide


@dataclass(frozen=True, slots=True)
class Surroundings:
    """
    What a comparison knows beyond its readings: changes made together, how the sides differ, moved controls.

    `unloaded` names the workloads that do not load what was changed, where that can be told.
    """

    changes: tuple[str, ...]
    departures: tuple[Departure, ...]
    moved_controls: tuple[str, ...]
    n_measures: int
    unloaded: frozenset[str] = frozenset()


def weigh_evidence(result: MeasureResult, around: Surroundings, borrowed: Borrowed) -> MeasureResult:
    """
    Give a result its flags and its grade; neither changes data or verdict.

    Args:
        around: what holds for the whole comparison.
        borrowed: scatter of other builds that the plan lends.
    Source: docs/judgement.md, "Flags and grade".
    """
    flags = [
        *_count_flags(result),
        *reading_flags(result.sides, result.interval, around.n_measures),
        *_stability_flags(result, borrowed),
        *_pairing_flag(result),
        *_context_flags(result, around),
        *_ceiling_flags(result),
        *_floor_flag(result),
    ]
    return replace(result, flags=tuple(flags), grade=_grade(result, around))


def _count_flags(result: MeasureResult) -> Iterator[Flag]:
    if result.verdict.remark in ("one_run_a_side", "too_few_runs"):
        yield Flag(
            "too_few_runs",
            "Too few runs to tell a change from chance: take at least three runs a side, better three sittings.",
        )
    told = _left_out(result, "told")
    if told:
        yield Flag("told_values", f"{told} value(s) were told, not measured here; they enter no test.")
    strays = _left_out(result, "stray")
    if strays:
        yield Flag(
            "recipe_differs",
            f"{strays} run(s) had another version, target, parameters or kind of reading, and were left out.",
        )
    late = _left_out(result, "late")
    if late:
        yield Flag("left_out_late", f"{late} run(s) were left out after their readings had been seen.")
    causes = sorted({run.held_back for run in _runs(result.sides.units) if run.held_back})
    if causes:
        counts = [_held_back(side) for side in (result.sides.before, result.sides.after)]
        yield Flag("throttled", f"Held back by {' and '.join(causes)}: {counts[0]} before, {counts[1]} after.")


def _left_out(result: MeasureResult, kind: WhyLeftOut) -> int:
    return sum(item.kind == kind for item in result.sides.left_out)


def _held_back(side: tuple[SittingUnit, ...]) -> str:
    runs = _runs(side)
    return f"{sum(run.held_back is not None for run in runs)} of {len(runs)} runs"


def _runs(side: tuple[SittingUnit, ...]) -> list[Run]:
    return [run for unit in side for run in unit.runs]


def _stability_flags(result: MeasureResult, borrowed: Borrowed) -> Iterator[Flag]:
    if result.interval is None or result.interval.basis != "sittings" or not result.complete:
        return
    before, after = ([unit.unit for unit in side] for side in (result.sides.before, result.sides.after))
    step, doubt = result.sides.step, result.sides.doubt

    def word(left: list[float], right: list[float]) -> str:
        again = side_by_side(left, right, step=step, doubt=doubt, borrowed=borrowed)
        return decide(again, result.bound, fewest_sittings=min(len(left), len(right))).word

    whole = decide(result.interval, result.bound, fewest_sittings=min(len(before), len(after))).word
    flag = drop_one_flag(before, after, whole, word)
    if flag is not None:
        yield flag
    if result.to_settle.least is not None and result.to_settle.no_change is None:
        yield Flag(
            "cannot_settle",
            "Not settleable at this scatter, even with twenty sittings a side: it would have to matter from "
            f"{_as_said(result.to_settle.least, result.measure)}.",
        )


def _pairing_flag(result: MeasureResult) -> Iterator[Flag]:
    """Whether the same sittings without their pairs would say something else."""
    interval, sides = result.interval, result.sides
    if interval is None or interval.basis != "paired_sittings":
        return
    before = [sides.before[i].unit for i, _ in result.pairing.sittings]
    after = [sides.after[j].unit for _, j in result.pairing.sittings]
    free = side_by_side(before, after, step=sides.step, doubt=sides.doubt)
    with_pairs, without = (
        decide(estimate, result.bound, fewest_sittings=len(before)).word for estimate in (interval, free)
    )
    if with_pairs != without:
        message = f"Without its pairs this would be “{without.replace('_', ' ')}”: the result rests on their ground."
        yield Flag("rests_on_pairing", message)


def _as_said(difference: float, measure: Measure) -> str:
    size = gain_percent(difference) if measure.scale == "ratio" else difference
    return f"{size:.2g} {unit_of(difference_unit(measure)).display}".strip()


def _context_flags(result: MeasureResult, around: Surroundings) -> Iterator[Flag]:
    if result.planned.role == "claim" and around.moved_controls:
        yield Flag("control_moved", f"What should not move did: {', '.join(around.moved_controls)}.")
    if result.planned.role == "claim" and result.measure.workload in around.unloaded:
        yield Flag(
            "does_not_load_it",
            f"Its job is not said to load what was changed ({', '.join(around.changes)}): it may not show this.",
        )
    if result.estimate is None:
        return
    if len(around.changes) > 1:
        yield Flag(
            "several_changes", f"Changed together: {', '.join(around.changes)}. The gain belongs to the bundle."
        )
    if around.departures:
        said = "; ".join(f"{d.what}: {d.before} before, {d.after} after" for d in around.departures)
        yield Flag("conditions_differ", f"The sides were not measured alike: {said}.")
    if _room_unknown(result):
        yield Flag("ambient_missing", "Heat was measured without a room temperature: the room may be the change.")


def _ceiling_flags(result: MeasureResult) -> Iterator[Flag]:
    for against in result.context.ceilings:
        if against.share_percent >= 100:
            yield Flag(
                "above_ceiling",
                f"The {against.side}-figure is {against.share_percent:.0f} % of what the link can carry. Suspected: "
                "a cache answered, or the link is not the one that is noted.",
            )


def _floor_flag(result: MeasureResult) -> Iterator[Flag]:
    if result.within_floor and result.verdict.word in CALLED:
        yield Flag(
            "within_noise_floor",
            f"Unchanged builds of this machine differ by up to {_as_said(result.floor or 0.0, result.measure)} "
            "between sittings, which is as much as this change.",
        )


def moved_controls(results: tuple[MeasureResult, ...]) -> tuple[str, ...]:
    """Name the controls that moved, against the plan."""
    return tuple(r.measure.name for r in results if r.planned.role == "control" and r.verdict.word in CALLED)


def _room_unknown(result: MeasureResult) -> bool:
    return result.measure.kind == "heat" and any(unit.sitting.ambient_c is None for unit in result.sides.units)


def _grade(result: MeasureResult, around: Surroundings) -> Grade | None:
    if result.estimate is None:
        return "told" if _left_out(result, "told") else None
    if result.verdict.remark == "one_run_a_side":
        return "one_run"
    fewest = min(len(result.sides.before), len(result.sides.after))
    if result.provisional or result.by_runs or fewest < 2:
        return "one_sitting"
    if not result.complete:
        return "early_look"
    if result.interval is None and result.exact_p is None:
        return None
    return "conditions_differ" if around.departures or _room_unknown(result) else "full_plan"
