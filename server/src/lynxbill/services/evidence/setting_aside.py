"""Setting aside what can't be removed any more: it stays listed with the reason, and nothing more is done with it."""

from collections.abc import Sequence
from uuid import UUID

from sqlalchemy import Select, or_, select
from sqlalchemy.orm import Session

from lynxbill.core.terms.errors import Clash, Missing
from lynxbill.services.base.transaction import Sessions, transaction
from lynxbill.services.evidence.removal import find_thing
from lynxbill.services.frame.plans import take_out_of_plan
from lynxbill.services.frame.workloads import plan_new_measures
from lynxbill.store.database import announce
from lynxbill.store.nouns import measure_of
from lynxbill.store.snapshot import find_machine
from lynxbill.store.tables.machine import CandidateRow, MeasureRow, WorkloadRow

# In each of these, a reason of None takes it back.


def set_machine_aside(sessions: Sessions, machine_id: UUID, reason: str | None) -> None:
    """A machine that waits for nobody any more: sold, or scrapped."""
    with transaction(sessions) as session:
        row = find_machine(session, machine_id, lock=True)
        row.set_aside = reason
        row.version += 1
        announce(session, machine_id, "machine", machine_id)


def set_candidate_aside(sessions: Sessions, machine_id: UUID, candidate_id: UUID, reason: str | None) -> None:
    """A candidate that is not weighed any more."""
    with transaction(sessions) as session:
        row = find_thing(session, CandidateRow, machine_id, candidate_id, "candidate")
        row.set_aside = reason
        row.version += 1
        announce(session, machine_id, "candidate", candidate_id)


def set_workload_aside(sessions: Sessions, machine_id: UUID, workload_id: UUID, reason: str | None) -> None:
    """A workload that no further plan asks for; plans of swaps that name its measures keep them."""
    with transaction(sessions) as session:
        row = find_thing(session, WorkloadRow, machine_id, workload_id, "workload")
        measures = session.scalars(_measures_of(workload_id)).all()
        row.set_aside = reason
        _plan_anew(session, row, measures, reason)


def set_measure_aside(
    sessions: Sessions, machine_id: UUID, workload_id: UUID, measure_id: UUID, reason: str | None
) -> None:
    """A measure that no further plan asks for; plans of swaps that name it keep it."""
    with transaction(sessions) as session:
        row = find_thing(session, WorkloadRow, machine_id, workload_id, "workload")
        measures = session.scalars(_measures_of(workload_id).where(MeasureRow.id == measure_id)).all()
        if not measures:
            raise Missing("This task has no such measure.")
        if reason is not None:
            _refuse_base(session, measures[0])
        measures[0].set_aside = reason
        _plan_anew(session, row, measures, reason)


def _measures_of(workload_id: UUID) -> Select[MeasureRow]:
    return select(MeasureRow).where(MeasureRow.workload_id == workload_id).order_by(MeasureRow.position)


def _refuse_base(session: Session, measure: MeasureRow) -> None:
    """What another figure is made from is read as long as that one is asked for."""
    points = (MeasureRow.part_of, MeasureRow.derived_from, MeasureRow.per_measure)
    made = _measures_of(measure.workload_id).where(
        or_(*(column == measure.id for column in points)), MeasureRow.set_aside.is_(None)
    )
    other = session.scalar(made.limit(1))
    if other is None and measure.part_of is not None:
        whole = session.get_one(MeasureRow, measure.part_of)
        other = whole if whole.combined_by and whole.set_aside is None else None
    if other is not None:
        raise Clash(f"“{other.name}” rests on “{measure.name}”: set that one aside first.")


def _plan_anew(session: Session, workload: WorkloadRow, measures: Sequence[MeasureRow], reason: str | None) -> None:
    """What is set aside leaves the plan for the next swap; what is taken back is watched by it."""
    if reason is not None:
        take_out_of_plan(session, workload.machine_id, {measure.id for measure in measures})
    else:
        session.flush()
        plan_new_measures(session, workload.machine_id, [measure_of(row, workload.name) for row in measures])
    workload.version += 1
    announce(session, workload.machine_id, "workload", workload.id)
