"""The sheets that are kept: made anew where an older program, or none, made them."""

from uuid import UUID

from sqlalchemy import select
from sqlalchemy.orm import Session

from lynxbill.services.base.transaction import Sessions, transaction
from lynxbill.store.database import announce_evidence
from lynxbill.store.evidence import has_old_sheets, keep_sheets, load_evidence
from lynxbill.store.snapshot import find_machine, load_snapshot
from lynxbill.store.tables.machine import MachineRow


def renew_sheets(sessions: Sessions) -> None:
    """Make the sheets of every machine that has none, or has some of another shape; one transaction a machine."""
    with sessions() as session:
        machines = session.scalars(select(MachineRow.id)).all()
    for machine_id in machines:
        with transaction(sessions) as session:
            find_machine(session, machine_id, lock=True)
            if has_old_sheets(session, machine_id):
                remake_sheets(session, machine_id)


def remake_sheets(session: Session, machine_id: UUID, workload: str | None = None) -> None:
    """Make the sheets of a machine, or of one workload of it, from its runs; the session holds the machine's lock."""
    # Read past what is kept in memory: this session may have written already.
    frame = load_snapshot(session, machine_id).frame
    runs = load_evidence(session, frame, None).runs
    keys = {(run.sitting_id, run.workload) for run in runs if workload in (None, run.workload)}
    keep_sheets(session, frame, sorted(keys), runs, announce_evidence(session, machine_id))
