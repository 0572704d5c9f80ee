"""Runs: record some, from the run sheet, a pasted block or the bench agent; sending one twice stores it once."""

from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass, replace
from datetime import datetime
from uuid import UUID

from sqlalchemy import select
from sqlalchemy.orm import Session, selectinload

from lynxbill.core.reading.counting import is_whole
from lynxbill.core.reading.doubts import Doubt
from lynxbill.core.record.frame import Case, Frame
from lynxbill.core.record.ids import RunId
from lynxbill.core.record.run import CORRECTABLE, LateExclusion, Run
from lynxbill.core.terms.errors import BadValue, Clash, Missing, Refusal, Several, Taken
from lynxbill.services.base.act import Act
from lynxbill.services.base.transaction import SAVED_FIRST, Sessions, check_version, transaction
from lynxbill.services.evidence.doubts import say_doubts
from lynxbill.services.evidence.entries import Entry, complete_run
from lynxbill.services.evidence.sittings import refuse_closed_sitting
from lynxbill.services.evidence.trace_figures import with_figures
from lynxbill.store import rows
from lynxbill.store.database import announce_evidence
from lynxbill.store.edits import Edit, edits_of_run, keep_edits, was_of
from lynxbill.store.evidence import insert_runs, keep_sheets, load_evidence
from lynxbill.store.kept import read_case, read_snapshot
from lynxbill.store.snapshot import find_machine
from lynxbill.store.tables.evidence import RunRow
from lynxbill.store.tables.machine import MachineRow

# A larger block is no typing: it is asked about when its sitting is looked at.
MOST_ASKED = 500


@dataclass(frozen=True, slots=True)
class Saved:
    """
    Runs as they are recorded, in the order in which they were sent; the machine's count of evidence by then.

    `doubts` are of all runs of their sittings, with what is asked.
    """

    runs: tuple[Run, ...]
    versions: Mapping[str, int]
    evidence_revision: int
    doubts: tuple[tuple[RunId, Doubt, str], ...] = ()


def save_run(sessions: Sessions, act: Act, machine_id: UUID, entry: Entry) -> Saved:
    """Record a run with its readings, or correct it."""
    return _save(sessions, act, machine_id, [entry], lambda _, field: field)


def save_runs(sessions: Sessions, act: Act, machine_id: UUID, entries: Sequence[Entry]) -> Saved:
    """
    Record a block of runs, all or none: one transaction, one event.

    A refusal names each place by its number in the block: "runs.3.readings.MEASURE".
    """
    return _save(sessions, act, machine_id, entries, lambda number, field: f"runs.{number}.{field or 'id'}")


Place = Callable[[int, str | None], str | None]


def _save(sessions: Sessions, act: Act, machine_id: UUID, entries: Sequence[Entry], place: Place) -> Saved:
    with transaction(sessions) as session:
        find_machine(session, machine_id, lock=True)
        case = read_case(session, machine_id)
        entries = [with_figures(session, case, entry) for entry in entries]
        runs = _each(entries, place, lambda entry: complete_run(case, entry))
        return _store(session, act, case, [*zip(entries, runs, strict=True)], place)


def read_off_trace(session: Session, act: Act, machine_id: UUID, run_id: UUID) -> None:
    """A trace ended: the readings that its run still lacks are taken off it, where the run is recorded by now."""
    find_machine(session, machine_id, lock=True)
    row = session.get(RunRow, run_id)
    if row is None:
        return
    case = read_case(session, machine_id)
    run = next(r for r in load_evidence(session, case, {str(row.sitting_id)}).runs if r.id == str(run_id))
    entry = with_figures(session, case, Entry(row.workload_id, run, dict(run.readings), row.version))
    if entry.written != run.readings:
        _store(session, act, case, [(entry, complete_run(case, entry))], lambda _, field: field)


def _each(entries: Sequence[Entry], place: Place, make: Callable[[Entry], Run]) -> list[Run]:
    """Make every run before any refusal leaves, so that all marks appear at once."""
    made, refusals = list[Run](), list[Refusal]()
    for number, entry in enumerate(entries):
        try:
            made.append(make(entry))
        except Refusal as refusal:
            each = refusal.refusals if isinstance(refusal, Several) else (refusal,)
            for one in each:
                one.field = place(number, one.field)
            refusals += each
    if len(refusals) == 1:
        raise refusals[0]
    if refusals:
        raise Several(refusals)
    return made


def _store(session: Session, act: Act, case: Case, entered: Sequence[tuple[Entry, Run]], place: Place) -> Saved:
    block = _Block(session, case, [run for _, run in entered], act)
    runs, versions = list[Run](), dict[str, int]()
    for number, (entry, run) in enumerate(entered):
        try:
            kept, versions[run.id] = block.store(entry, run)
            runs.append(kept)
        except Refusal as refusal:
            refusal.field = place(number, refusal.field)
            raise
    evidence_revision = block.write()
    known = block.recorded | {run.id: run for run in runs}
    doubts = () if len(runs) > MOST_ASKED else tuple(say_doubts(case, known.values()))
    return Saved(tuple(runs), versions, evidence_revision, doubts)


class _Block:
    """The runs that are saved together, beside what is recorded of their sittings."""

    def __init__(self, session: Session, frame: Frame, runs: Sequence[Run], act: Act):
        self.session, self.frame, self.act = session, frame, act
        self.machine_id = UUID(frame.machine.id)
        self.workloads = {workload.name: UUID(workload.id) for workload in frame.workloads}
        self.scales = {measure.id: measure.scale for measure in frame.measures}
        ids = [UUID(run.id) for run in runs]
        found = session.scalars(select(RunRow).where(RunRow.id.in_(ids)).options(selectinload(RunRow.readings)))
        self.rows = {str(row.id): row for row in found}
        sittings = {run.sitting_id for run in runs} | {str(row.sitting_id) for row in self.rows.values()}
        names = {identifier: name for name, identifier in self.workloads.items()}
        workloads = {run.workload for run in runs} | {
            names[row.workload_id] for row in self.rows.values() if row.workload_id in names
        }
        self.recorded = {run.id: run for run in load_evidence(session, frame, sittings, workloads).runs}
        # Whose each place of a sitting's sheet is: the machine's lock keeps others from taking one meanwhile. What
        # stands in the block may leave its place to another of it.
        others = self.recorded.keys() - {run.id for run in runs}
        self.places = {_place_of(self.recorded[other]): other for other in others}
        self.fresh: list[Run] = []
        self.corrected: list[Run] = []
        self.edits: list[Edit] = []

    def store(self, entry: Entry, run: Run) -> tuple[Run, int]:
        """Take a run in, or correct the one that is recorded; answers it as it stands then, and its version."""
        if self.places.setdefault(_place_of(run), run.id) != run.id:
            raise Taken(SAVED_FIRST, field="position")
        row = self.rows.get(run.id)
        if row is not None:
            return self._correct(row, entry, run)
        if run.is_emptied and not run.warm_up:
            why = f" {run.note}" if run.note else ""
            raise BadValue(
                f"There is no figure in this run: write one, or mark what became of it.{why}", field="readings"
            )
        self._refuse_closed(run)
        run = _dated(run, self.act.at)
        self.fresh.append(run)
        return run, 1

    def _refuse_closed(self, run: Run) -> None:
        sitting = next(s for s in self.frame.sittings if s.id == run.sitting_id)
        if sitting.closed_at is None:
            return
        there = (*self.recorded.values(), *self.fresh)
        alike = [r for r in there if (r.sitting_id, r.workload, r.warm_up) == (run.sitting_id, run.workload, False)]
        refuse_closed_sitting(
            self.frame,
            sitting,
            run,
            sum(is_whole(r) and not r.is_emptied for r in alike),
            by_agent=self.act.by_agent,
        )

    def _correct(self, row: RunRow, entry: Entry, run: Run) -> tuple[Run, int]:
        if row.machine_id != self.machine_id:
            raise BadValue("This run id belongs to another machine.", field="id")
        old = self.recorded[run.id]
        for name in ("sitting_id", "workload", "warm_up"):
            if getattr(old, name) != getattr(run, name):
                raise BadValue(
                    "A run stays in the sitting and the task that it was recorded in, a warm-up a warm-up. "
                    "Record another run, and say what became of this one.",
                    field=name.removesuffix("_id"),
                )
        # What the workload asked for when it ran stays, whatever it asks for by now; so does a late exclusion.
        run = replace(
            run,
            workload_version=old.workload_version,
            parameters=old.parameters,
            excluded_late=old.excluded_late,
            written_at=old.written_at,
            left_out_at=old.left_out_at,
            was=old.was,
        )
        if run != old:
            check_version(row, entry.version, {name: getattr(row, name) for name in ("state", "reason", "position")})
            run = _dated(run, self.act.at, old)
            _overwrite(row, rows.run_row(run, row.machine_id, row.workload_id, self.scales))
            row.written_at, row.left_out_at = run.written_at, run.left_out_at
            row.version += 1
            edits = edits_of_run(old, run)
            self.edits += edits
            run = replace(run, was=(*old.was, *was_of(edits, self.act.by, self.act.at)))
            self.corrected.append(run)
        return run, row.version

    def write(self) -> int:
        """Write what was taken in, its sheets, and what was changed by whom; answers the count of evidence."""
        changed = [*self.fresh, *self.corrected]
        if not changed:
            return self.session.get_one(MachineRow, self.machine_id).evidence_revision
        # Corrected rows are written first: one may have left the place that a fresh one takes.
        self.session.flush()
        insert_runs(self.session, self.machine_id, self.workloads, self.scales, self.fresh)
        keep_edits(self.session, self.machine_id, self.act.by, self.act.at, "", self.edits)
        return _keep(self.session, self.frame, changed, self.recorded | {run.id: run for run in changed})


def _dated(run: Run, at: datetime, old: Run | None = None) -> Run:
    """Keep when its reading was first written, and when its state took it out of the test."""
    written = run.written_at or (at if run.readings else None)
    if run.state == "complete":
        return replace(run, written_at=written, left_out_at=None)
    left_out = run.left_out_at if old is not None and old.state != "complete" else at
    return replace(run, written_at=written, left_out_at=left_out)


def _place_of(run: Run) -> tuple[str, str, bool, int]:
    return run.sitting_id, run.workload, run.warm_up, run.position


def leave_out_late(sessions: Sessions, act: Act, machine_id: UUID, run_id: UUID, reason: str) -> None:
    """
    Leave a run out after its reading was seen: the reason stays for ever, and what it would change is shown.

    A correction of the run later on does not take this back.
    """
    with transaction(sessions) as session:
        find_machine(session, machine_id, lock=True)
        frame = read_snapshot(session, machine_id).frame
        row = session.get(RunRow, run_id)
        if row is None or row.machine_id != machine_id:
            raise Missing("This machine has no such run.")
        recorded = load_evidence(session, frame, {str(row.sitting_id)}).runs
        run = next(known for known in recorded if known.id == str(run_id))
        if run.warm_up or run.state != "complete":
            raise BadValue(f"This run does not count anyway: it is {'a warm-up' if run.warm_up else run.state}.")
        if run.excluded_late is not None:
            raise Clash(f"This run was left out before, “{run.excluded_late.reason}”; that stays.")
        row.excluded_late_reason, row.excluded_late_at = reason, act.at
        row.version += 1
        edit = Edit("excluded_late", None, True, sitting_id=row.sitting_id, run_id=run_id)
        keep_edits(session, machine_id, act.by, act.at, reason, [edit])
        session.flush()
        left_out = replace(run, excluded_late=LateExclusion(reason, act.at))
        _keep(session, frame, [left_out], {known.id: known for known in recorded} | {run.id: left_out})


def _keep(session: Session, frame: Frame, runs: Sequence[Run], recorded: Mapping[RunId, Run]) -> int:
    """
    Write what is kept of the runs' sheets with the runs, in the same transaction, and tell of them once.

    Args:
        recorded: every run of those sheets by its id, as it is written by now.
    """
    stamp = announce_evidence(session, frame.machine.id, runs[0].id if len(runs) == 1 else None)
    keys = sorted({(run.sitting_id, run.workload) for run in runs})
    keep_sheets(session, frame, keys, recorded.values(), stamp)
    return stamp


def _overwrite(row: RunRow, fresh: RunRow) -> None:
    for name in CORRECTABLE:
        setattr(row, name, getattr(fresh, name))
    kept = {reading.measure_id: reading for reading in row.readings}
    wanted = {reading.measure_id: reading for reading in fresh.readings}
    for measure_id, reading in wanted.items():
        old = kept.get(measure_id)
        if old is None:
            continue
        for name in ("low", "high", "about", "source", "statistic", "confirmed"):
            setattr(old, name, getattr(reading, name))
    fresh.readings = []
    row.readings = [kept.get(measure_id, reading) for measure_id, reading in wanted.items()]
