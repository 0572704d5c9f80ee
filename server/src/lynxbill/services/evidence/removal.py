"""Taking things away for as long as nothing rests on them; afterwards they are set aside at most, and stay listed."""

from collections.abc import Collection
from datetime import timedelta
from typing import TypeVar
from uuid import UUID

from sqlalchemy import Select, Text, cast, delete, or_, select, text
from sqlalchemy.orm import Session

from lynxbill.core.terms.errors import BadValue, Clash, Missing
from lynxbill.services.base.act import Act
from lynxbill.services.base.tallies import remake_sheets
from lynxbill.services.base.transaction import Sessions, refuse_foreign, transaction
from lynxbill.services.frame.plans import take_out_of_plan
from lynxbill.store.database import WITH_REMOVED, announce, announce_evidence
from lynxbill.store.removal import delete_machine
from lynxbill.store.snapshot import find_machine
from lynxbill.store.tables.evidence import EditRow, ReadingRow, RunPictureRow, RunRow, SheetRow, SittingRow, TraceRow
from lynxbill.store.tables.kept import AnswerRow, LineRow
from lynxbill.store.tables.machine import (
    BuildRow,
    CandidateRow,
    MachineRow,
    MeasureRow,
    PlannedMeasureRow,
    PlanRow,
    RecheckRow,
    WorkloadRow,
)
from lynxbill.store.tables.swap import CostRow, MarginEditRow, ShowingRow, SwapRow
from lynxbill.store.traces import delete_trace, read_traces

# A removed machine can be brought back for so long; the screens offer it for ten seconds.
GRACE = timedelta(minutes=1)
Row = TypeVar("Row", CandidateRow, RunRow, SittingRow, WorkloadRow)


def remove_machine(sessions: Sessions, act: Act, machine_id: UUID, name: str) -> None:
    """Take a machine away with everything recorded of it, once its name was typed; it can be brought back a while."""
    with transaction(sessions) as session:
        row = find_machine(session, machine_id, lock=True)
        if name.strip() != row.name:
            raise BadValue(f"Type the machine’s name to remove it: {row.name}", field="name")
        announce(session, machine_id, "machine", machine_id)
        for kept in (LineRow, AnswerRow):
            session.execute(delete(kept).where(kept.machine_id == machine_id))
        row.removed_at = act.at


def bring_back(sessions: Sessions, machine_id: UUID) -> None:
    """Bring a machine back that was just removed, as it was."""
    with transaction(sessions) as session:
        found = select(MachineRow).where(MachineRow.id == machine_id, MachineRow.removed_at.is_not(None))
        row = session.scalar(found.with_for_update(), execution_options=WITH_REMOVED)
        if row is None:
            raise Missing("This machine can’t be brought back any more.")
        row.removed_at = None
        session.flush()
        announce(session, machine_id, "machine", machine_id)


def erase_removed(sessions: Sessions, act: Act, *, grace: timedelta = GRACE) -> None:
    """Erase the machines for good that were removed a while ago."""
    with transaction(sessions) as session:
        # Nobody waits for it, and years of evidence may take longer than anybody would.
        session.execute(text("SET LOCAL statement_timeout = 0"))
        due = select(MachineRow.id).where(MachineRow.removed_at <= act.at - grace)
        for machine_id in session.scalars(due, execution_options=WITH_REMOVED).all():
            delete_machine(session, machine_id)


def remove_candidate(sessions: Sessions, machine_id: UUID, candidate_id: UUID) -> None:
    """Take a candidate off the list."""
    with transaction(sessions) as session:
        row = find_thing(session, CandidateRow, machine_id, candidate_id, "candidate")
        if row.swap_id is not None:
            raise Clash(
                f"“{row.label}” was fitted in a swap: what was expected of it stays beside what it brought. It can "
                "be set aside, with a reason."
            )
        session.delete(row)
        announce(session, machine_id, "candidate", candidate_id)


def remove_run(sessions: Sessions, machine_id: UUID, run_id: UUID) -> None:
    """Take a run away that can never count: a warm-up, or one of a trial."""
    with transaction(sessions) as session:
        row = find_thing(session, RunRow, machine_id, run_id, "run")
        sitting = session.get_one(SittingRow, row.sitting_id)
        if not row.warm_up and sitting.purpose != "trial":
            raise Clash(
                "A run that was made is never removed: mark what became of it, or leave it out, with a reason that "
                "stays."
            )
        if sitting.closed_at is not None:
            raise Clash("Its sitting is closed: what was recorded in it stays.")
        is_after = _any(session, select(SwapRow.id).where(SwapRow.after_id == sitting.build_id))
        if is_after and row.written_at is not None:
            raise Clash(
                "A figure of the build after a swap was read in it, and the plan stands from then on: it stays. Mark "
                "what became of it."
            )
        if session.get(RunPictureRow, run_id) is not None:
            raise Clash("This run has a picture of what was read: it stays.")
        workload = session.get_one(WorkloadRow, row.workload_id).name
        session.execute(delete(EditRow).where(EditRow.run_id == run_id))
        delete_trace(session, run_id)
        session.delete(row)
        session.flush()
        announce_evidence(session, machine_id)
        remake_sheets(session, machine_id, workload)


def remove_sitting(sessions: Sessions, machine_id: UUID, sitting_id: UUID) -> None:
    """Take a sitting away in which nothing was measured."""
    with transaction(sessions) as session:
        row = find_thing(session, SittingRow, machine_id, sitting_id, "sitting")
        if _any(session, select(RunRow.id).where(RunRow.sitting_id == sitting_id)):
            raise Clash("This sitting has runs: set it aside, with a reason that stays.")
        if _any(session, select(RunPictureRow.run_id).where(RunPictureRow.sitting_id == sitting_id)):
            raise Clash("This sitting has a photo whose figure is still to be read: read it, then set it aside.")
        session.execute(delete(SheetRow).where(SheetRow.sitting_id == sitting_id))
        for trace in read_traces(session, machine_id, [sitting_id]):
            delete_trace(session, trace.id)
        session.execute(delete(EditRow).where(EditRow.sitting_id == sitting_id))
        session.delete(row)
        announce(session, machine_id, "sitting", sitting_id)


def remove_workload(sessions: Sessions, machine_id: UUID, workload_id: UUID) -> None:
    """Take a workload away with its measures, out of the open plan too."""
    with transaction(sessions) as session:
        row = find_thing(session, WorkloadRow, machine_id, workload_id, "workload")
        if _any(session, select(RunRow.id).where(RunRow.workload_id == workload_id)):
            raise Clash(f"“{row.name}” has runs, and what was measured stays: set it aside, with a reason.")
        measures = session.scalars(select(MeasureRow).where(MeasureRow.workload_id == workload_id)).all()
        _remove_measures(session, machine_id, measures)
        session.execute(delete(SheetRow).where(SheetRow.workload_id == workload_id))
        for trace_id in session.scalars(select(TraceRow.id).where(TraceRow.workload_id == workload_id)):
            delete_trace(session, trace_id)
        session.delete(row)
        announce(session, machine_id, "workload", workload_id)


def remove_measure(sessions: Sessions, machine_id: UUID, workload_id: UUID, measure_id: UUID) -> None:
    """Take one figure of a workload away, out of the open plan too."""
    with transaction(sessions) as session:
        workload = find_thing(session, WorkloadRow, machine_id, workload_id, "workload")
        measures = session.scalars(select(MeasureRow).where(MeasureRow.workload_id == workload_id)).all()
        row = next((measure for measure in measures if measure.id == measure_id), None)
        if row is None:
            raise Missing("This task has no such measure.")
        if len(measures) == 1:
            raise Clash(f"“{row.name}” is all that is read off “{workload.name}”: remove the task.")
        _remove_measures(session, machine_id, [row])
        workload.version += 1
        announce(session, machine_id, "workload", workload_id)


def find_thing(session: Session, kind: type[Row], machine_id: UUID, identifier: UUID, noun: str) -> Row:
    """Find a thing of a machine, which is locked; refuse what is not there, and what belongs to another one."""
    find_machine(session, machine_id, lock=True)
    row = session.get(kind, identifier)
    if row is None:
        raise Missing(f"This machine has no such {noun}; it may have been removed.")
    owner = session.get_one(BuildRow, row.build_id).machine_id if isinstance(row, SittingRow) else row.machine_id
    refuse_foreign(owner, machine_id)
    return row


def _remove_measures(session: Session, machine_id: UUID, measures: Collection[MeasureRow]) -> None:
    for measure in measures:
        if (why := _rests_on(session, machine_id, measure, {each.id for each in measures})) is not None:
            raise Clash(f"“{measure.name}” stays: {why}. It can be set aside, with a reason.")
    gone = [measure.id for measure in measures]
    take_out_of_plan(session, machine_id, gone)
    # A part points at its whole, a derived one at what it is made from.
    for measure in measures:
        measure.part_of = measure.derived_from = measure.per_measure = None
        measure.per_parameter = measure.needs = None
    session.flush()
    session.execute(delete(MeasureRow).where(MeasureRow.id.in_(gone)))


def _rests_on(session: Session, machine_id: UUID, measure: MeasureRow, along: Collection[UUID]) -> str | None:
    """Say what rests on a measure beyond those that go along with it."""
    points = (MeasureRow.part_of, MeasureRow.derived_from, MeasureRow.per_measure)
    others = or_(*(column == measure.id for column in points)) & MeasureRow.id.not_in(along)
    planned = select(SwapRow.label).join(PlanRow, PlanRow.swap_id == SwapRow.id).join(PlannedMeasureRow)
    named = f"%{measure.id}%"
    costs = select(CostRow.id).join(SwapRow, SwapRow.id == CostRow.swap_id).where(SwapRow.machine_id == machine_id)
    rests = {
        "it has readings": select(ReadingRow.run_id).where(ReadingRow.measure_id == measure.id),
        "another figure is made from it": select(MeasureRow.id).where(others),
        "the plan of a swap names it": planned.where(PlannedMeasureRow.measure_id == measure.id),
        "a verdict on it was given": select(ShowingRow.id).where(ShowingRow.measure_id == measure.id),
        "its margin has a history": select(MarginEditRow.id).where(MarginEditRow.measure_id == measure.id),
        "the plan of a re-check names it": select(RecheckRow.id).where(
            RecheckRow.machine_id == machine_id, cast(RecheckRow.plan, Text).like(named)
        ),
        "a line of a swap’s account takes its figure from it": costs.where(cast(CostRow.running, Text).like(named)),
    }
    return next((why for why, found in rests.items() if _any(session, found)), None)


def _any(session: Session, found: Select[tuple[object]] | Select[object]) -> bool:
    return session.execute(found.limit(1)).first() is not None
