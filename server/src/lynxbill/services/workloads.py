"""Workloads and their measures: describe one, correct one."""

from uuid import UUID

from sqlalchemy import func, select
from sqlalchemy.orm import Session

from lynxbill.core.case import PlannedMeasure
from lynxbill.core.errors import BadValue
from lynxbill.core.measure import DEFAULT_MATTERS_FROM, Measure
from lynxbill.services.transaction import Sessions, transaction
from lynxbill.store import rows
from lynxbill.store.database import announce
from lynxbill.store.snapshot import Workload, find_machine
from lynxbill.store.tables import MeasureRow, PlannedMeasureRow, PlanRow, ReadingRow, WorkloadRow


def save_workload(sessions: Sessions, machine_id: UUID, workload: Workload, measures: tuple[Measure, ...]) -> None:
    """Create a workload with its measures, or edit it; new measures join the open plan as claims."""
    with transaction(sessions) as session:
        find_machine(session, machine_id, lock=True)
        row = session.get(WorkloadRow, UUID(workload.id))
        if row is None:
            position = session.scalar(
                select(func.count()).select_from(WorkloadRow).where(WorkloadRow.machine_id == machine_id)
            )
            row = WorkloadRow(id=UUID(workload.id), machine_id=machine_id, position=(position or 0) + 1)
            session.add(row)
        row.name, row.workload_version = workload.name, workload.workload_version
        row.parameters = dict(workload.parameters)
        session.flush()
        for number, measure in enumerate(measures, start=1):
            _save_measure(session, row, measure, number)
        session.flush()
        _plan_new_measures(session, machine_id, measures)
        announce(session, machine_id, "workload")


def _save_measure(session: Session, workload: WorkloadRow, measure: Measure, position: int) -> None:
    fresh = rows.measure_row(measure, workload.id, position)
    row = session.get(MeasureRow, UUID(measure.id))
    if row is None:
        session.add(fresh)
        return
    fixed = ("unit", "scale", "better", "workload_id")
    changed = [name for name in fixed if getattr(row, name) != getattr(fresh, name)]
    if changed and session.scalar(select(ReadingRow.run_id).where(ReadingRow.measure_id == row.id).limit(1)):
        raise BadValue(
            f"“{row.name}” has readings, so its {changed[0].replace('_', ' ')} can't change. Add another measure.",
            field=changed[0],
        )
    for name in (*fixed, "name", "kind", "step", "levels", "position"):
        setattr(row, name, getattr(fresh, name))


def _plan_new_measures(session: Session, machine_id: UUID, measures: tuple[Measure, ...]) -> None:
    plan = session.scalar(select(PlanRow).where(PlanRow.machine_id == machine_id, PlanRow.swap_id.is_(None)))
    if plan is None:
        return
    planned = {row.measure_id for row in plan.measures}
    for measure in measures:
        if UUID(measure.id) in planned:
            continue
        default = PlannedMeasure("claim", DEFAULT_MATTERS_FROM[measure.scale])
        plan.measures.append(
            PlannedMeasureRow(
                measure_id=UUID(measure.id),
                role=default.role,
                matters_from=default.matters_from,
                hoped_for=None,
                weight=default.weight,
            )
        )
        plan.headline_id = plan.headline_id or UUID(measure.id)
    plan.version += 1
