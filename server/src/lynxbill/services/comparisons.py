"""Comparisons: computed by the core from what is recorded, never stored as truth; that a verdict was shown is."""

from collections.abc import Collection
from uuid import UUID

from lynxbill.core.better import Standing, judge_every_swap
from lynxbill.core.case import Frame, Swap
from lynxbill.core.comparison import choose_builds, judge
from lynxbill.core.errors import Missing
from lynxbill.exchange.verdict_file import describe
from lynxbill.exchange.verdict_schema import ComparisonOut
from lynxbill.services.judged import JUDGED
from lynxbill.services.transaction import Sessions, reading, transaction
from lynxbill.store.database import announce
from lynxbill.store.kept import read_case, read_snapshot, read_stamp
from lynxbill.store.snapshot import find_machine
from lynxbill.store.tables import SwapRow


def compare(sessions: Sessions, machine_id: UUID, before: str | None, after: str | None) -> ComparisonOut:
    """Judge two builds of a machine, without them its newest swap; only their runs are read."""
    with reading(sessions) as session:
        frame = read_snapshot(session, machine_id).frame
        before, after = choose_builds(frame, before, after)
        stamp = read_stamp(session, machine_id)
        known = JUDGED.find((machine_id, before, after), stamp)
        if known is not None:
            return known
        case = read_case(session, machine_id, builds=_builds(frame, before, after))
    answer = describe(Standing(judge(case, before, after), ()))
    JUDGED.keep((machine_id, before, after), stamp, answer)
    return answer


def compare_all(sessions: Sessions, machine_id: UUID) -> list[ComparisonOut]:
    """Judge every swap of a machine, oldest first, and weigh their values against each other."""
    with reading(sessions) as session:
        frame = read_snapshot(session, machine_id).frame
        builds = {build for swap in frame.swaps for build in builds_compared(frame, swap)}
        case = read_case(session, machine_id, builds=builds)
    return [describe(standing) for standing in judge_every_swap(case)]


def builds_compared(frame: Frame, swap: Swap) -> frozenset[str]:
    """The builds whose runs a swap's comparison needs: its two, and those that lend it their scatter."""
    return _builds(frame, swap.before, swap.after)


def _builds(frame: Frame, before: str, after: str) -> frozenset[str]:
    swap = frame.swap_between(before, after)
    return frozenset({before, after, *(swap.plan.borrow_spread_from if swap else ())})


def note_shown(sessions: Sessions, machine_id: UUID, swap_id: UUID, measures: Collection[UUID]) -> None:
    """
    Keep for which sittings the planned verdicts of measures were given to somebody: each is given once.

    With the same sittings the same verdict is shown ever after; with others the anytime rule asks for more.
    """
    with transaction(sessions) as session:
        find_machine(session, machine_id, lock=True)
        frame = read_snapshot(session, machine_id).frame
        swap = next((known for known in frame.swaps if known.id == str(swap_id)), None)
        if swap is None:
            raise Missing("This machine has no such swap.")
        case = read_case(session, machine_id, builds=builds_compared(frame, swap))
        given = judge(case, swap.before, swap.after).planned_verdicts
        asked = {str(measure) for measure in measures} - swap.verdict_shown_for.keys()
        first = {measure: list(sittings) for measure, sittings in given.items() if measure in asked}
        if not first:
            return
        row = session.get_one(SwapRow, swap_id)
        row.verdict_shown_for = {**first, **row.verdict_shown_for}
        announce(session, machine_id, "verdict")
