"""Comparisons: computed by the core from what is recorded, never stored as truth; that a verdict was shown is."""

from collections.abc import Iterable
from uuid import UUID

from lynxbill.core.better import Standing, judge_beside_others, judge_every_swap
from lynxbill.core.case import Case, Swap
from lynxbill.core.result import Comparison
from lynxbill.services.transaction import Sessions, reading, transaction
from lynxbill.store.database import announce
from lynxbill.store.kept import read_snapshot
from lynxbill.store.snapshot import find_machine
from lynxbill.store.tables import SwapRow


def compare(sessions: Sessions, machine_id: UUID, before: str | None, after: str | None) -> Standing:
    """Judge two builds of a machine; without them, its newest swap."""
    with reading(sessions) as session:
        case = read_snapshot(session, machine_id).case
    standing = judge_beside_others(case, before, after)
    remember_shown(sessions, machine_id, case, [standing.comparison])
    return standing


def compare_all(sessions: Sessions, machine_id: UUID) -> tuple[Standing, ...]:
    """Judge every swap of a machine, oldest first."""
    with reading(sessions) as session:
        case = read_snapshot(session, machine_id).case
    standings = judge_every_swap(case)
    remember_shown(sessions, machine_id, case, [standing.comparison for standing in standings])
    return standings


def remember_shown(sessions: Sessions, machine_id: UUID, case: Case, comparisons: Iterable[Comparison]) -> None:
    """
    Keep for which sittings a measure's planned verdict was given: it is given once.

    With the same sittings the same verdict is shown ever after; with others the anytime rule asks for more.
    """
    fresh = [found for comparison in comparisons if (found := _shown_first(case, comparison))]
    if not fresh:
        return
    with transaction(sessions) as session:
        find_machine(session, machine_id, lock=True)
        for swap, verdicts in fresh:
            row = session.get_one(SwapRow, UUID(swap.id))
            row.verdict_shown_for = {
                **{measure: list(sittings) for measure, sittings in verdicts.items()},
                **row.verdict_shown_for,
            }
        announce(session, machine_id, "verdict")


def _shown_first(case: Case, comparison: Comparison) -> tuple[Swap, dict[str, tuple[str, ...]]] | None:
    """The swap, and those of its planned verdicts that this comparison gives for the first time."""
    swap = case.swap_between(comparison.before, comparison.after)
    if swap is None or (swap.before, swap.after) != (comparison.before, comparison.after):
        return None
    verdicts = comparison.planned_verdicts
    first = {measure: sittings for measure, sittings in verdicts.items() if measure not in swap.verdict_shown_for}
    return (swap, first) if first else None
