"""A comparison measured over: the sittings so far are set aside, and its levels are halved."""

from uuid import UUID

from sqlalchemy import select

from lynxbill.core.plan.agreement import MOST_ATTEMPTS, check_looks
from lynxbill.core.record.frame import Frame
from lynxbill.core.record.run import Sitting
from lynxbill.core.record.swap import Attempt, Swap
from lynxbill.core.terms.errors import Clash
from lynxbill.services.base.act import Act
from lynxbill.services.base.transaction import Sessions, check_version, transaction
from lynxbill.services.swap.swaps import find_swap
from lynxbill.store import rows
from lynxbill.store.database import announce
from lynxbill.store.kept import read_snapshot
from lynxbill.store.snapshot import find_machine
from lynxbill.store.tables.evidence import SittingRow


def measure_over(
    sessions: Sessions, act: Act, machine_id: UUID, swap_id: UUID, attempt: Attempt, version: int | None
) -> None:
    """
    Begin a comparison anew, both sides or the after-side, because its data were wrong or its look settled nothing.

    Every sitting so far is set aside with the reason and stays listed; that is no late change. Three attempts are
    all.
    """
    check_looks(attempt.sittings_a_side, attempt.at_most)
    with transaction(sessions) as session:
        find_machine(session, machine_id, lock=True)
        row = find_swap(session, machine_id, swap_id)
        frame = read_snapshot(session, machine_id).frame
        swap = next(known for known in frame.swaps if known.id == str(swap_id))
        check_version(row, version, {"attempt": swap.attempt})
        if swap.state == "planned":
            raise Clash("This swap was not begun yet: there is nothing to be measured over.")
        if swap.attempt >= MOST_ATTEMPTS:
            raise Clash("This comparison was measured over twice already; a third time would prove nothing.")
        row.attempts.append(rows.attempt_row(attempt, swap.attempt + 1))
        row.version += 1
        ids = [UUID(sitting.id) for sitting in _so_far(frame, swap, attempt)]
        for sitting in session.scalars(select(SittingRow).where(SittingRow.id.in_(ids))):
            sitting.set_aside_reason, sitting.set_aside_at, sitting.set_aside_over = attempt.reason, attempt.at, True
            sitting.closed_at = sitting.closed_at or act.at
            sitting.version += 1
        announce(session, machine_id, "swap", swap_id)


def _so_far(frame: Frame, swap: Swap, attempt: Attempt) -> list[Sitting]:
    sides = (swap.after,) if attempt.sides == "after-side" else (swap.before, swap.after)
    return [s for build in sides for s in frame.sittings_of(build) if s.set_aside is None]
