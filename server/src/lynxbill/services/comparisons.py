"""Comparisons: computed by the core from what is recorded, never stored as truth; that a verdict was shown is."""

from uuid import UUID

from lynxbill.core.case import Case, Swap
from lynxbill.core.comparison import Comparison, judge
from lynxbill.services.transaction import Sessions, reading, transaction
from lynxbill.store.database import announce
from lynxbill.store.kept import read_snapshot
from lynxbill.store.snapshot import find_machine
from lynxbill.store.tables import SwapRow


def compare(sessions: Sessions, machine_id: UUID, before: str | None, after: str | None) -> Comparison:
    """Judge two builds of a machine; without them, its newest swap."""
    with reading(sessions) as session:
        case = read_snapshot(session, machine_id).case
    comparison = judge(case, before, after)
    _remember_shown(sessions, machine_id, case, [comparison])
    return comparison


def compare_all(sessions: Sessions, machine_id: UUID) -> list[Comparison]:
    """Judge every swap of a machine, oldest first."""
    with reading(sessions) as session:
        case = read_snapshot(session, machine_id).case
    comparisons = [judge(case, swap.before, swap.after) for swap in case.swaps]
    _remember_shown(sessions, machine_id, case, comparisons)
    return comparisons


def _remember_shown(sessions: Sessions, machine_id: UUID, case: Case, comparisons: list[Comparison]) -> None:
    """
    Keep for which sittings a planned verdict was given: it is given once.

    With the same sittings the same verdict is shown ever after; with others the anytime rule asks for more.
    """
    fresh = [
        (swap, sittings)
        for comparison in comparisons
        if (swap := _shown_first(case, comparison)) is not None and (sittings := comparison.sittings)
    ]
    if not fresh:
        return
    with transaction(sessions) as session:
        find_machine(session, machine_id, lock=True)
        for swap, sittings in fresh:
            row = session.get_one(SwapRow, UUID(swap.id))
            if row.verdict_shown_for is None:
                row.verdict_shown_for = [UUID(sitting) for sitting in sittings]
        announce(session, machine_id, "verdict")


def _shown_first(case: Case, comparison: Comparison) -> Swap | None:
    """The swap whose planned verdict this comparison gives for the first time, if it does."""
    swap = case.swap_between(comparison.before, comparison.after)
    if swap is None or (swap.before, swap.after) != (comparison.before, comparison.after):
        return None
    return swap if swap.verdict_shown_for is None and comparison.gives_planned_verdict else None
