"""Readings of the evidence: with what was taken out or changed late, and as all stands now."""

from collections import Counter
from collections.abc import Callable, Collection, Iterable, Mapping
from dataclasses import dataclass, replace
from datetime import datetime
from typing import Any, TypeVar

from lynxbill.core.judgement.free_changes import changed_freely, left_out_freely, was_open
from lynxbill.core.judgement.sitting import Readable, read_sides
from lynxbill.core.plan.agreement import Agreement
from lynxbill.core.reading.counting import (
    RunsBySitting,
    boots_of,
    counts_for,
    group_runs,
    is_under_way,
    may_be_compared,
)
from lynxbill.core.reading.order import Order, order_of
from lynxbill.core.record.frame import Case
from lynxbill.core.record.ids import BuildId, RunId, SittingId
from lynxbill.core.record.plan import Plan
from lynxbill.core.record.run import READING, Reading, Run, Sitting, Was
from lynxbill.core.terms.measure import Measure, MeasureId

# Whatever of a sitting is edited changes what its runs are compared with.
_LATE_OF_SITTING = ("purpose", "build_id", "started_at", "ambient_c", "boot", "boot_by")
_LATE_OF_RUN = (
    "state",
    "workload_version",
    "parameters",
    "target",
    "warm_up",
    "pair_label",
    "position",
    "started_at",
)
Kept = TypeVar("Kept", Run, Sitting)


@dataclass(frozen=True, slots=True)
class Variant:
    """
    One way to read the evidence of two builds.

    `with_late` says that every late change is undone in it, `merge_answered` that an answered "not restarted" is
    taken for true. `before` and `after` are the sittings that may be compared, in their `order`; `under_way` are
    those of them that are open and short of a planned run.
    """

    with_late: bool
    merge_answered: bool
    groups: RunsBySitting
    before: tuple[Sitting, ...]
    after: tuple[Sitting, ...]
    under_way: frozenset[SittingId]
    order: Order

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
class Variants:
    """
    The readings of the evidence that a verdict has to hold in: "with" first, and as many as differ.

    `touched` names the workloads in which something was taken out or changed late, or a closed sitting is short;
    `short` those in which nothing else was.
    """

    all: tuple[Variant, ...]
    touched: frozenset[str]
    boots_answered: bool
    short: frozenset[str] = frozenset()


def variants_of(case: Case, agreement: Agreement) -> Variants:
    """
    Lay out in how many ways the evidence of two builds may be read.

    Args:
        agreement: says which builds, and which attempt.
    Returns: one variant where nothing was touched late and no boot rests on an answer; else "with" and
        "without", each with answered boots merged and on their own.
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
    judged = [m for m in case.measures if m.id in planned and planned[m.id].role != "watch"]
    made = tuple(
        evidence.variant(agreement, judged, with_late, merge) for evidence, with_late in kinds for merge in merges
    )
    return Variants(made, touched | short, answered, short - touched)


@dataclass(frozen=True, slots=True)
class _Evidence:
    sittings: tuple[Sitting, ...]
    runs: tuple[Run, ...]

    def variant(self, agreement: Agreement, judged: Collection[Measure], with_late: bool, merge: bool) -> Variant:
        before, after = self._side(agreement.before), self._side(agreement.after)
        here = {sitting.id for sitting in before + after}
        runs = [run for run in self.runs if run.sitting_id in here]
        order = order_of(before + after, runs, agreement.shown_at)
        before, after = order.sort(before), order.sort(after)
        groups = group_runs(runs)
        under_way = (s.id for s in before + after if is_under_way(s, judged, agreement.plan, groups))
        return Variant(with_late, merge, groups, before, after, frozenset(under_way), order)

    def _side(self, build: BuildId) -> tuple[Sitting, ...]:
        return tuple(s for s in self.sittings if s.build_id == build and may_be_compared(s))


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
    old = _first_values(sitting.was, _LATE_OF_SITTING, lambda entry: _is_free_of_sitting(entry, sitting))
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


def _is_free_of_sitting(entry: Was, sitting: Sitting) -> bool:
    """
    Whether a change of a sitting that has readings is no late one.

    The room may be noted and mended while a sitting is open, and noted for the first time after it: what was never
    noted left nothing to be undone, and a verdict on temperatures waits for it. A boot may be noted while it is open,
    once.
    """
    is_first = entry.value is None
    if entry.member == "ambient_c":
        return is_first or was_open(sitting, entry.at)
    return entry.member in ("boot", "boot_by") and is_first and was_open(sitting, entry.at)


def _first_values(was: Iterable[Was], members: Iterable[str], is_free: Callable[[Was], bool]) -> dict[str, Any]:
    """What stood in each member before its first late change."""
    found: dict[str, Any] = {}
    for entry in was:
        if entry.member in members and not is_free(entry):
            found.setdefault(entry.member, entry.value)
    return found


def _undo_runs(case: Case, sittings: Mapping[SittingId, Sitting]) -> tuple[Run, ...]:
    # Most benches are touched by nobody, and this is asked before every verdict.
    if not any(run.was or run.left_out_at or run.excluded_late for run in case.runs):
        return case.runs
    here = [run for run in case.runs if run.sitting_id in sittings]
    free = _Free(left_out_freely(here, sittings), changed_freely(case, here, sittings))
    return tuple(
        _undo_run(run, sittings[run.sitting_id], free) if run.sitting_id in sittings else run for run in case.runs
    )


@dataclass(frozen=True, slots=True)
class _Free:
    """What is no late change although it looks like one: runs that were left out, and changes of readings."""

    runs: frozenset[RunId]
    changes: frozenset[tuple[RunId, int]]


def _undo_run(run: Run, sitting: Sitting, free: _Free) -> Run:
    old: dict[str, Any] = {}
    if run.was:
        # When it began says nothing of itself while its sitting is open.
        old = _first_values(
            run.was, _LATE_OF_RUN, lambda entry: entry.member == "started_at" and was_open(sitting, entry.at)
        )
    if run.excluded_late is not None:
        old["excluded_late"] = None
    if "state" not in old and _is_left_out_late(run) and run.id not in free.runs:
        old["state"] = "complete"
    if any(entry.member.startswith(READING) for entry in run.was):
        old["readings"] = _old_readings(run, sitting, free)
    changed = {name: value for name, value in old.items() if getattr(run, name) != value}
    return replace(run, **changed) if changed else run


def _is_left_out_late(run: Run) -> bool:
    """Left out by hand, at or after the time its reading was written; who never read anything left nothing out."""
    return run.state != "complete" and bool(run.readings) and run.left_out_at is not None


def _old_readings(run: Run, sitting: Sitting, free: _Free) -> Mapping[MeasureId, Reading]:
    """The figures as they were first left; what was written where nothing stood is late after closing alone."""
    readings = dict(run.readings)
    for number in reversed(range(len(run.was))):
        entry = run.was[number]
        if not entry.member.startswith(READING) or (run.id, number) in free.changes:
            continue
        measure = MeasureId(entry.member.removeprefix(READING))
        if isinstance(entry.value, Reading):
            readings[measure] = entry.value
        elif not was_open(sitting, entry.at):
            readings.pop(measure, None)
    return readings


def _short_workloads(case: Case, plan: Plan, builds: set[BuildId]) -> frozenset[str]:
    """The workloads of which a closed sitting has fewer complete runs than planned, and yet some."""
    closed = {s.id for s in case.sittings if s.build_id in builds and s.closed_at is not None and may_be_compared(s)}
    workloads = {measure.id: measure.workload for measure in case.measures}
    counts = Counter((run.sitting_id, m) for run in case.runs if run.sitting_id in closed for m in counts_for(run))
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
