"""Comparisons: computed by the core from what is recorded, never stored as truth."""

from uuid import UUID

from lynxbill.core.comparison import Comparison, judge
from lynxbill.services.transaction import Sessions, reading
from lynxbill.store.kept import read_snapshot


def compare(sessions: Sessions, machine_id: UUID, before: str | None, after: str | None) -> Comparison:
    """Judge two builds of a machine; without them, its newest swap."""
    with reading(sessions) as session:
        case = read_snapshot(session, machine_id).case
    return judge(case, before, after)


def compare_all(sessions: Sessions, machine_id: UUID) -> list[Comparison]:
    """Judge every swap of a machine, oldest first."""
    with reading(sessions) as session:
        case = read_snapshot(session, machine_id).case
    return [judge(case, swap.before, swap.after) for swap in case.swaps]
