"""How good the evidence behind a result is, and what around it a technician should know."""

from collections.abc import Callable, Iterator, Set
from dataclasses import dataclass, replace
from datetime import timedelta
from itertools import pairwise
from typing import get_args

from lynxbill.core.change.difference import find_differences
from lynxbill.core.judgement.sitting import MISMATCHES, SittingUnit, WhyLeftOut, room_came_late
from lynxbill.core.judgement.verdict import CALLED, decide
from lynxbill.core.plan.agreement import Agreement
from lynxbill.core.plan.conditions import Departure
from lynxbill.core.reading.order import begun_at, is_from_notes, typed_too_soon
from lynxbill.core.record.disturbance import Cause, disturbances
from lynxbill.core.record.frame import Case
from lynxbill.core.record.ids import SittingId
from lynxbill.core.record.run import Run
from lynxbill.core.record.swap import MarginEdit
from lynxbill.core.result.flags import Flag, drop_one_flag, reading_flags
from lynxbill.core.result.result import Grade, MeasureResult
from lynxbill.core.statistics.estimate import scatter_differs, side_by_side
from lynxbill.core.statistics.scatter import Scatter, mean_of
from lynxbill.core.terms.measure import MeasureId

# Sittings begun sooner after the last one's end were hardly held in another boot of the machine.
SOON = timedelta(minutes=10)
# Of a side's runs, or more of one side than of the other: more than so many bear on the comparison.
MANY_DISTURBED = 0.2
CARRIES_HEAT_AWAY = ("part:cooler", "part:thermal paste")
REMOUNTED = ("fresh paste", "remounted the cooler")


@dataclass(frozen=True, slots=True)
class History:
    """
    How a comparison came about.

    `remounts` says that what carries the heat away was changed, `unknown` that nobody knows what was shown of it, or
    by which rules; `margins` are those that were changed after readings. `hurried` are the sittings whose runs were
    typed sooner than they can have been made: whatever was answered, nobody knows of a restart before them.
    """

    planned: bool = True
    unknown: bool = False
    remounts: bool = False
    margins: tuple[MarginEdit, ...] = ()
    hurried: frozenset[SittingId] = frozenset()


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
    history: History = History()


def grade_evidence(result: MeasureResult, around: Surroundings, borrowed: Scatter) -> MeasureResult:
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
        *_mount_flag(result, around.history),
        *_context_flags(result, around),
        *_ceiling_flags(result),
        *_floor_flag(result),
        *_history_flags(result, around),
    ]
    return replace(result, flags=tuple(flags), grade=_grade(result, around))


def history_of(case: Case, agreement: Agreement) -> History:
    """
    Say how a comparison came about, as far as its evidence does not show it.

    Args:
        agreement: by which the two builds are compared.
    """
    swap = agreement.swap
    differences = find_differences(case.build(agreement.before), case.build(agreement.after))
    touched = swap.side_changes if swap is not None else ()
    return History(
        planned=agreement.planned,
        unknown=swap is not None and (swap.shown is None or any(entry.rules is None for entry in swap.shown)),
        remounts=any(d.key in CARRIES_HEAT_AWAY for d in differences) or any(tick in REMOUNTED for tick in touched),
        margins=tuple(e for e in swap.margin_edits if e.late and e.field == "matters_from") if swap else (),
        hurried=_hurried(case, agreement),
    )


def _hurried(case: Case, agreement: Agreement) -> frozenset[SittingId]:
    sittings = [s for build in (agreement.before, agreement.after) for s in case.sittings_of(build)]
    if all(sitting.boot_by == "read" or is_from_notes(sitting) for sitting in sittings):
        return frozenset()
    lasted = {m.id for m in case.measures if m.kind == "time" and m.scale == "ratio" and m.unit == "s"}
    held = {sitting.id for sitting in sittings}
    runs = [_with_duration(run, lasted) for run in case.runs if run.sitting_id in held]
    return typed_too_soon(sittings, runs, agreement.plan.rest_min)


def _with_duration(run: Run, lasted: Set[MeasureId]) -> Run:
    """A run with what it lasted at least: as it was noted, else the longest time that was read in it."""
    times = [reading.low for measure, reading in run.readings.items() if measure in lasted]
    return run if run.duration_s or not times else replace(run, duration_s=max(times))


def _count_flags(result: MeasureResult) -> Iterator[Flag]:
    if result.verdict.remark in ("one_run_a_side", "too_few_runs"):
        yield Flag("too_few_runs")
    told = _left_out(result, "told")
    if told:
        yield Flag("told_values", count=told)
    strays = _left_out(result, "stray", *MISMATCHES)
    if strays:
        yield Flag("recipe_differs", count=strays)
    late = sum(item.why == "late" for item in result.late)
    if late:
        yield Flag("left_out_late", count=late)
    causes = sorted({run.held_back for run in _runs(result.sides.units) if run.held_back})
    if causes:
        held = [_count(side, lambda run: run.held_back is not None) for side in result.sides.both]
        yield Flag("throttled", names=tuple(causes), runs=tuple(held))
    yield from _disturbed(result)


def _left_out(result: MeasureResult, *whys: WhyLeftOut) -> int:
    return sum(item.why in whys for item in result.sides.left_out)


def _count(side: tuple[SittingUnit, ...], holds: Callable[[Run], bool]) -> tuple[int, int]:
    """Of how many runs of a side it holds, and how many there are."""
    runs = _runs(side)
    return sum(map(holds, runs)), len(runs)


def _disturbed(result: MeasureResult) -> Iterator[Flag]:
    """Runs that the agent saw disturbed: many of a side, or of one side more than of the other."""
    if not result.sides.before or not result.sides.after:
        return
    source = result.agreement.plan.conditions.get("power_source")
    counts = tuple(_count(side, lambda run: bool(disturbances(run.conditions, source))) for side in result.sides.both)
    shares = [disturbed / runs for disturbed, runs in counts]
    if max(shares) > MANY_DISTURBED or abs(shares[0] - shares[1]) > MANY_DISTURBED:
        seen = {cause for run in _runs(result.sides.units) for cause in disturbances(run.conditions, source)}
        yield Flag("disturbed", names=tuple(cause for cause in get_args(Cause) if cause in seen), runs=counts)


def _runs(side: tuple[SittingUnit, ...]) -> list[Run]:
    return [run for unit in side for run in unit.runs]


def _stability_flags(result: MeasureResult, borrowed: Scatter) -> Iterator[Flag]:
    if result.interval is None or result.interval.basis != "sittings" or not result.complete:
        return
    before, after = ([unit.unit for unit in side] for side in (result.sides.before, result.sides.after))
    step, doubt = result.sides.step, result.sides.doubt

    alpha = result.terms.alpha
    runs = [[v for u in side for v in u.by_sitting] for side in (result.sides.before, result.sides.after)]
    differs = scatter_differs(runs[0], runs[1], step)

    def word(left: list[float], right: list[float]) -> str:
        again = side_by_side(left, right, step=step, doubt=doubt, borrowed=borrowed, alpha=alpha, runs_differ=differs)
        return decide(again, result.bound, alpha=alpha, fewest_sittings=min(len(left), len(right))).word

    whole = decide(result.interval, result.bound, alpha=alpha, fewest_sittings=min(len(before), len(after))).word
    flag = drop_one_flag(before, after, whole, word)
    if flag is not None:
        yield flag
    if result.to_settle.least is not None:
        yield Flag("cannot_settle")


def _pairing_flag(result: MeasureResult) -> Iterator[Flag]:
    """Whether the same sittings without their pairs would say something else."""
    interval, sides = result.interval, result.sides
    if interval is None or interval.basis != "paired_sittings":
        return
    before = [sides.before[i].unit for i, _ in result.pairing.sittings]
    after = [sides.after[j].unit for _, j in result.pairing.sittings]
    alpha = result.terms.alpha
    free = side_by_side(before, after, step=sides.step, doubt=sides.doubt, alpha=alpha)
    with_pairs, without = (
        decide(estimate, result.bound, alpha=alpha, fewest_sittings=len(before)).word for estimate in (interval, free)
    )
    if with_pairs != without:
        yield Flag("rests_on_pairing", word=without)


def _mount_flag(result: MeasureResult, history: History) -> Iterator[Flag]:
    """Whether what is called would also be by mounts as the units, where sittings share them."""
    if result.interval is None or not history.remounts or result.verdict.word not in CALLED:
        return
    mounts = [_by_mount(side) for side in (result.sides.before, result.sides.after)]
    count = sum(map(len, mounts))
    if min(map(len, mounts)) < 2 or count == len(result.sides.units):
        return
    alpha, sides = result.terms.alpha, result.sides
    again = side_by_side(mounts[0], mounts[1], step=sides.step, doubt=sides.doubt, alpha=alpha)
    word = decide(again, result.bound, alpha=alpha, fewest_sittings=min(map(len, mounts))).word
    if word != result.verdict.word:
        yield Flag("rests_on_mounts", word=word, count=count)


def _by_mount(side: tuple[SittingUnit, ...]) -> list[float]:
    """The mean unit of each mount of a side; nothing where one was not noted."""
    found: dict[int, list[float]] = {}
    for unit in side:
        mount = unit.sitting.mount
        if mount is None or any(sitting.mount != mount for sitting in unit.sittings):
            return []
        found.setdefault(mount, []).append(unit.unit)
    return [mean_of(units) for units in found.values()]


def _context_flags(result: MeasureResult, around: Surroundings) -> Iterator[Flag]:
    if result.planned.role == "claim" and around.moved_controls:
        yield Flag("control_moved", names=around.moved_controls)
    if result.planned.role == "claim" and result.measure.workload in around.unloaded:
        yield Flag("does_not_load_it", names=around.changes)
    if result.estimate is None:
        return
    if len(around.changes) > 1:
        yield Flag("several_changes", names=around.changes)
    departures = _departures(result, around)
    if departures:
        yield Flag("conditions_differ", departures=departures)
    if _room_unknown(result):
        yield Flag("ambient_missing")
    if late := _rooms_noted_late(result):
        yield Flag("room_noted_late", count=late)


def _ceiling_flags(result: MeasureResult) -> Iterator[Flag]:
    for against in result.context.ceilings:
        if against.share_percent >= 100:
            yield Flag("above_ceiling", side=against.side, figures=(against.share_percent,))


def _floor_flag(result: MeasureResult) -> Iterator[Flag]:
    if result.within_floor and result.verdict.word in CALLED:
        yield Flag("within_noise_floor")


def moved_controls(results: tuple[MeasureResult, ...]) -> tuple[str, ...]:
    """
    Name the controls that moved, against the plan.

    Args:
        results: the results of one comparison.
    """
    return tuple(r.measure.name for r in results if r.planned.role == "control" and r.verdict.word in CALLED)


def _room_unknown(result: MeasureResult) -> bool:
    return result.measure.kind == "heat" and any(unit.sitting.ambient_c is None for unit in result.sides.units)


def _rooms_noted_late(result: MeasureResult) -> int:
    """How many sittings stand above a room that nobody had noted when their readings were seen."""
    if not result.sides.above_room:
        return 0
    held = [sitting for unit in result.sides.units for sitting in unit.sittings]
    return sum(map(room_came_late, held))


def _departures(result: MeasureResult, around: Surroundings) -> tuple[Departure, ...]:
    """How the sides differ, as far as it touches this measure."""
    return tuple(d for d in around.departures if d.workload in (None, result.measure.workload))


def _history_flags(result: MeasureResult, around: Surroundings) -> Iterator[Flag]:
    history = around.history
    if result.estimate is None or result.planned.role == "watch":
        return
    if _close_sittings(result):
        yield Flag("sittings_close")
    if _boots_unknown(result, history.hurried):
        yield Flag("boots_unknown")
    if history.remounts and _one_mount(result):
        yield Flag("one_mount")
    if _in_blocks(result):
        yield Flag("block_order")
    if result.changed and result.first_shown is not None:
        yield Flag("changed_after_verdict")
    if result.with_late is not None:
        yield Flag("closed_short" if result.closed_short else "corrected_late")
    if history.unknown:
        yield Flag("history_unknown")
    edits = [edit for edit in history.margins if edit.measure == result.measure.id]
    if edits:
        yield Flag("margin_changed", figures=(edits[0].old or 0.0, edits[-1].new or 0.0))


def _close_sittings(result: MeasureResult) -> bool:
    for side in (result.sides.before, result.sides.after):
        begun = {s.id: min(s.started_at, begun_at(s, unit.runs)) for unit in side for s in unit.sittings}
        sittings = sorted((s for unit in side for s in unit.sittings), key=lambda s: begun[s.id])
        for earlier, later in pairwise(sittings):
            told_apart = None not in (earlier.boot, later.boot)
            ended, at = earlier.closed_at or begun[earlier.id], begun[later.id]
            if not told_apart and at - min(ended, at) <= SOON:
                return True
    return False


def _boots_unknown(result: MeasureResult, hurried: Set[SittingId]) -> bool:
    return any(s.boot is None or s.id in hurried for unit in result.sides.units for s in unit.sittings)


def _one_mount(result: MeasureResult) -> bool:
    sides = (result.sides.before, result.sides.after)
    return any(len({s.mount for unit in side for s in unit.sittings}) < 2 for side in sides)


def _in_blocks(result: MeasureResult) -> bool:
    """Whether every sitting of one side was held before any of the other."""
    before, after = (
        [begun_at(s, unit.runs) for unit in side for s in unit.sittings]
        for side in (result.sides.before, result.sides.after)
    )
    return bool(before and after) and (max(before) < min(after) or max(after) < min(before))


def _grade(result: MeasureResult, around: Surroundings) -> Grade | None:
    """The lowest that holds: how it was measured first, then what was done to it, then what stays open for ever."""
    if result.estimate is None:
        return "told" if _left_out(result, "told") else None
    if result.verdict.remark == "one_run_a_side":
        return "one_run"
    fewest = min(len(result.sides.before), len(result.sides.after))
    if result.provisional or result.by_runs or fewest < 2:
        return "one_sitting"
    if not around.history.planned:
        return "unplanned"
    if not result.complete:
        return "early_look"
    if result.interval is None and result.exact_p is None:
        return None
    codes = {flag.code for flag in _history_flags(result, around)}
    found: dict[Grade, bool] = {
        "changed_after_verdict": "changed_after_verdict" in codes,
        "history_unknown": "history_unknown" in codes,
        "corrected_late": "corrected_late" in codes,
        "closed_short": "closed_short" in codes,
        "conditions_differ": bool(
            _departures(result, around)
            or _room_unknown(result)
            or _rooms_noted_late(result)
            or any(_disturbed(result))
        ),
        "margin_changed": "margin_changed" in codes,
        "part_as_told": result.agreement.rivals.as_told,
        "from_notes": any(is_from_notes(s) for unit in result.sides.units for s in unit.sittings),
        "boots_unknown": "boots_unknown" in codes or "sittings_close" in codes,
        "one_mount": "one_mount" in codes,
        "block_order": "block_order" in codes,
    }
    return next((grade for grade, holds in found.items() if holds), "full_plan")
