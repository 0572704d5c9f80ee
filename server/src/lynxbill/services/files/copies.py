"""A job laid out anew for the next PC of its kind."""

from dataclasses import replace
from uuid import UUID

from lynxbill.core.record.copying import copy_job
from lynxbill.core.record.ids import MachineId
from lynxbill.services.base.transaction import Sessions, reading
from lynxbill.services.files.run_files import take_in
from lynxbill.store.kept import read_snapshot


def copy_to_next(sessions: Sessions, machine_id: UUID, copy_id: UUID, name: str, swap: UUID | None) -> None:
    """Lay out a machine's job for another one: parts, jobs, plan, checklist and costs, and no runs."""
    with reading(sessions) as session:
        snapshot = read_snapshot(session, machine_id)
        frame = replace(snapshot.frame, open_plan=snapshot.open_plan)
        case = copy_job(frame, MachineId(str(copy_id)), name, str(swap) if swap else None)
    take_in(sessions, case)
