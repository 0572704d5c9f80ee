"""The open plan: what the next swap will be judged by."""

from uuid import UUID

from sqlalchemy import select
from sqlalchemy.orm import Session

from lynxbill.core.case import Plan
from lynxbill.core.errors import BadValue
from lynxbill.services.transaction import Sessions, check_version, transaction
from lynxbill.store import rows
from lynxbill.store.database import announce
from lynxbill.store.snapshot import find_machine, load_snapshot
from lynxbill.store.tables import PlanRow


def save_plan(sessions: Sessions, machine_id: UUID, plan: Plan, version: int | None) -> None:
    """Replace the open plan; the plans of swaps already made stay as they were."""
    with transaction(sessions) as session:
        find_machine(session, machine_id, lock=True)
        snapshot = load_snapshot(session, machine_id)
        _check_measures(plan, {measure.id for measure in snapshot.case.measures})
        row = open_plan(session, machine_id)
        if snapshot.open_plan == plan:
            return
        check_version(row, version, {"sittings_a_side": row.sittings_a_side, "runs_a_sitting": row.runs_a_sitting})
        rows.fill_plan(row, plan)
        row.version += 1
        announce(session, machine_id, "plan")


def open_plan(session: Session, machine_id: UUID) -> PlanRow:
    """Find the plan for the next swap; every machine has one."""
    return session.scalars(select(PlanRow).where(PlanRow.machine_id == machine_id, PlanRow.swap_id.is_(None))).one()


def _check_measures(plan: Plan, known: set[str]) -> None:
    for measure in plan.measures:
        if measure not in known:
            raise BadValue(f"The plan names a measure that this machine does not have: {measure}.", field="measures")
    if plan.headline is not None and plan.headline not in plan.measures:
        raise BadValue("The headline must be one of the planned measures.", field="headline")
