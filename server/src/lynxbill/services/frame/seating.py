"""What a workload that is being typed would be set against on the machine as it stands."""

from uuid import UUID

from lynxbill.core.change.seating import Aim, aim_of
from lynxbill.core.record.workload import Workload
from lynxbill.services.base.transaction import Sessions, reading
from lynxbill.store.kept import read_case
from lynxbill.words.base.figures import DecimalMark


def aim_workload(sessions: Sessions, machine_id: UUID, workload: Workload) -> tuple[Aim, DecimalMark]:
    """
    Find what a workload is set against on the build that the machine is now.

    Returns: an empty aim where the machine has no build yet; and the machine's decimal mark.
    """
    with reading(sessions) as session:
        case = read_case(session, machine_id)
    build = case.fitted
    return aim_of(case, build, workload) if build else Aim(), case.machine.decimal_mark
