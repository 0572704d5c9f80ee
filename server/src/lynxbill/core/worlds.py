"""Readings of the evidence: with what was taken out or changed late, and as all stands now."""

import math
from collections.abc import Collection, Iterable, Mapping
from dataclasses import dataclass, replace
from datetime import datetime
from typing import Any, TypeVar

from lynxbill.core.agreement import Agreement
from lynxbill.core.case import READING, BuildId, Case, Plan, Reading, Run, Sitting, SittingId, Was
from lynxbill.core.counting import RunsBySitting, boots_of, group_runs, is_under_way, may_be_compared
from lynxbill.core.measure import Measure, MeasureId
from lynxbill.core.sitting import Readable, read_sides

# One slip of the pen a side is no late change, if the old value can't have been one of the others.
FAR_RATIO, FAR_RANGES, FEWEST_OTHERS = 2.0, 10.0, 3
# Whatever of a sitting is edited changes what its runs are compared with.
_LATE_OF_SITTING = ("purpose", "build_id", "started_at", "ambient_c")
_LATE_OF_RUN = ("state", "workload_version", "parameters", "target", "warm_up", "pair_label")
Kept = TypeVar("Kept", Run, Sitting)


@dataclass(frozen=True, slots=True)
class World:
    """
    One way to read the evidence of two builds.

    `with_late` says that every late change is undone in it, `merge_answered` that an answered "not restarted" is
    taken for true. `before` and `after` are the sittings that may be compared, oldest first; `under_way` are those
    of them that are open and short of a planned run.
    """

    with_late: bool
    merge_answered: bool
    groups: RunsBySitting
    before: tuple[Sitting, ...]
    after: tuple[Sitting, ...]
    under_way: frozenset[SittingId]

    def read(self, measure: Measure, plan: Plan) -> Readable:
        """Find what may be judged of a measure in this reading of the evidence."""
        return read_sides(
            self.groups,
            measure,
            plan,
            self.before,
            self.after,
            under_way=self.under_way,
            take_short=self.with_late,
            merge_answered=self.merge_answered,
        )


@dataclass(frozen=True, slots=True)
class Worlds:
    """
    The readings of the evidence that a verdict has to hold in: "with" first, and as many as differ.

    `touched` names the workloads in which something was taken out or changed late, or a closed sitting is short.
    """

    all: tuple[World, ...]
    touched: frozenset[str]
    boots_answered: bool


def worlds_of(case: Case, agreement: Agreement) -> Worlds:
    """
    Lay out in how many ways the evidence of two builds may be read.

    Args:
        agreement: says which builds, and which attempt.
    Returns: one world where nothing was touched late and no boot rests on an answer; else "with" and "without", each
        with answered boots merged and on their own.
    Source: docs/judgement.md, "Late changes" and "Boots".
    """
    builds = {agreement.before, agreement.after}
    now = _Evidence(case.sittings, case.runs)
    then, touched = _before_late_changes(case, builds)
    short = _short_workloads(case, agreement.plan, builds)
    kinds = [(then, True), (now, False)] if touched or short else [(now, True)]
    answered = _rests_on_answers(case, builds)
    merges = (True, False) if answered else (True,)
    # What is only watched holds no verdict up.
    planned = agreement.plan.measures
    workloads = {m.workload for m in case.measures if m.id in planned and planned[m.id].role != "watch"}
    made = tuple(
        evidence.world(agreement, workloads, with_late, merge) for evidence, with_late in kinds for merge in merges
    )
    return Worlds(made, touched | short, answered)


@dataclass(frozen=True, slots=True)
class _Evidence:
    sittings: tuple[Sitting, ...]
    runs: tuple[Run, ...]

    def world(self, agreement: Agreement, workloads: Collection[str], with_late: bool, merge: bool) -> World:
        before, after = self._side(agreement.before), self._side(agreement.after)
        here = {sitting.id for sitting in before + after}
        groups = group_runs(run for run in self.runs if run.sitting_id in here)
        under_way = (s.id for s in before + after if is_under_way(s, workloads, agreement.plan, groups))
        return World(with_late, merge, groups, before, after, frozenset(under_way))

    def _side(self, build: BuildId) -> tuple[Sitting, ...]:
        own = (s for s in self.sittings if s.build_id == build and may_be_compared(s))
        return tuple(sorted(own, key=lambda s: s.started_at))


def _before_late_changes(case: Case, builds: set[BuildId]) -> tuple[_Evidence, frozenset[str]]:
    """The evidence as it stood before each member's first late change; and the workloads that this concerns."""
    sittings = [_undo_sitting(case, sitting) for sitting in case.sittings]
    concerned = {
        s.id
        for s, old in zip(case.sittings, sittings, strict=True)
        if s != old and {s.build_id, old.build_id} & builds
    }
    here = {s.id: s for s in case.sittings if s.build_id in builds} | {
        old.id: old for old in sittings if old.build_id in builds
    }
    runs = _undo_runs(case, here)
    touched = {run.workload for run in case.runs if run.sitting_id in concerned}
    touched |= {run.workload for run, old in zip(case.runs, runs, strict=True) if run is not old}
    return _Evidence(tuple(sittings), runs), frozenset(touched)


def _undo_sitting(case: Case, sitting: Sitting) -> Sitting:
    old = _first_values(sitting.was, _LATE_OF_SITTING, sitting.closed_at)
    # Brought to the build that was fitted when it began: it had been put down wrong, and no reading says so.
    if "build_id" in old and sitting.build_id == _fitted_at(case, sitting.started_at):
        del old["build_id"]
    if sitting.set_aside is not None and not sitting.set_aside.over:
        old["set_aside"] = None
    return replace(sitting, **old) if old else sitting


def _fitted_at(case: Case, at: datetime) -> BuildId | None:
    """The build that the closing of a swap recorded as fitted; None before the first."""
    closed = [(swap.closed_at, swap.after) for swap in case.swaps if swap.closed_at and swap.closed_at <= at]
    return max(closed)[1] if closed else None


def _first_values(was: Iterable[Was], members: Iterable[str], closed_at: datetime | None) -> dict[str, Any]:
    """
    What stood in each member before its first late change.

    The room may be noted while a sitting is open, and for the first time after it: what was never noted left nothing
    to be undone, and a verdict on temperatures waits for it.
    """
    found: dict[str, Any] = {}
    for entry in was:
        free = entry.member == "ambient_c" and (closed_at is None or entry.at <= closed_at or entry.value is None)
        if entry.member in members and not free:
            found.setdefault(entry.member, entry.value)
    return found


def _undo_runs(case: Case, sittings: Mapping[SittingId, Sitting]) -> tuple[Run, ...]:
    # Most benches are touched by nobody, and this is asked before every verdict.
    if not any(run.was or run.left_out_at or run.excluded_late for run in case.runs):
        return case.runs
    free = _free_ones(case, sittings)
    return tuple(
        _undo_run(run, sittings[run.sitting_id], free) if run.sitting_id in sittings else run for run in case.runs
    )


def _undo_run(run: Run, sitting: Sitting, free: frozenset[tuple[str, str]]) -> Run:
    old = _first_values(run.was, _LATE_OF_RUN, None) if run.was else {}
    if run.excluded_late is not None:
        old["excluded_late"] = None
    if "state" not in old and _is_left_out_late(run) and (run.id, "state") not in free:
        old["state"] = "complete"
    readings = _old_readings(run, sitting, free) if run.was else None
    if readings is not None:
        old["readings"] = readings
    changed = {name: value for name, value in old.items() if getattr(run, name) != value}
    return replace(run, **changed) if changed else run


def _is_left_out_late(run: Run) -> bool:
    """Left out by hand, at or after the time its reading was written; who never read anything left nothing out."""
    return run.state != "complete" and bool(run.readings) and run.left_out_at is not None


def _old_readings(run: Run, sitting: Sitting, free: frozenset[tuple[str, str]]) -> Mapping[MeasureId, Reading] | None:
    if sitting.closed_at is None:
        return None
    readings = dict(run.readings)
    for entry in reversed(run.was):
        if not entry.member.startswith(READING):
            continue
        measure = MeasureId(entry.member[len(READING) :])
        # Emptied for retyping, and nothing retyped by closing: left out.
        emptied = measure not in run.readings
        if (entry.at > sitting.closed_at or emptied) and (run.id, entry.member) not in free:
            if isinstance(entry.value, Reading):
                readings[measure] = entry.value
            else:
                readings.pop(measure, None)
    return readings


def _free_ones(case: Case, sittings: Mapping[SittingId, Sitting]) -> frozenset[tuple[str, str]]:
    """
    The few changes that are no late ones: (run, member).

    One run a workload and build that was left out in the same save as its reading; and one corrected reading a side
    that can only have been a slip of the pen.
    """
    free: set[tuple[str, str]] = set()
    saved: set[tuple[BuildId, str]] = set()
    corrected: set[BuildId] = set()
    measures = {measure.id: measure for measure in case.measures}
    for run in sorted(
        (r for r in case.runs if r.sitting_id in sittings),
        key=lambda r: (r.written_at is None, str(r.written_at), r.id),
    ):
        sitting = sittings[run.sitting_id]
        place = sitting.build_id, run.workload
        same_save = run.left_out_at is not None and run.left_out_at == run.written_at
        if run.state != "complete" and run.reason and same_save and place not in saved:
            saved.add(place)
            free.add((run.id, "state"))
        for entry in run.was:
            if sitting.build_id in corrected or not entry.member.startswith(READING):
                continue
            measure = measures.get(MeasureId(entry.member[len(READING) :]))
            if measure is not None and _is_slip(case, sittings, run, entry, measure):
                corrected.add(sitting.build_id)
                free.add((run.id, entry.member))
    return frozenset(free)


def _is_slip(case: Case, sittings: Mapping[SittingId, Sitting], run: Run, entry: Was, measure: Measure) -> bool:
    now = run.readings.get(measure.id)
    sitting = sittings[run.sitting_id]
    if (
        now is None
        or not isinstance(entry.value, Reading)
        or sitting.closed_at is None
        or entry.at <= sitting.closed_at
    ):
        return False
    others = [
        other.readings[measure.id].value
        for other in case.runs
        if other.id != run.id
        and measure.id in other.readings
        and other.state == "complete"
        and other.sitting_id in sittings
        and sittings[other.sitting_id].build_id == sitting.build_id
    ]
    if len(others) < FEWEST_OTHERS or not min(others) <= now.value <= max(others):
        return False
    old, span = entry.value.value, max(others) - min(others)
    if measure.scale == "ratio":
        far = [abs(math.log(old / other)) > math.log(FAR_RATIO) for other in others if old > 0]
    else:
        far = [abs(old - other) > FAR_RANGES * span for other in others]
    return sum(far) >= FEWEST_OTHERS


def _short_workloads(case: Case, plan: Plan, builds: set[BuildId]) -> frozenset[str]:
    """The workloads of which a closed sitting has fewer complete runs than planned, and yet some."""
    closed = {s.id for s in case.sittings if s.build_id in builds and s.closed_at is not None and may_be_compared(s)}
    workloads = {measure.id: measure.workload for measure in case.measures}
    counts: dict[tuple[SittingId, MeasureId], int] = {}
    for run in case.runs:
        if run.sitting_id in closed and run.state == "complete" and run.excluded_late is None and not run.warm_up:
            for measure in run.readings:
                counts[run.sitting_id, measure] = counts.get((run.sitting_id, measure), 0) + 1
    return frozenset(
        workloads[measure]
        for (_, measure), count in counts.items()
        if measure in plan.measures and count < (plan.runs_of(workloads[measure]) or 0)
    )


def _rests_on_answers(case: Case, builds: set[BuildId]) -> bool:
    """Whether sittings count as one because somebody said so."""
    for build in builds:
        sittings = [s for s in case.sittings_of(build) if may_be_compared(s)]
        if len(boots_of(sittings)) != len(boots_of(sittings, merge_answered=False)):
            return True
    return False
