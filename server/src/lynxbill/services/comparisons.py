"""Comparisons: computed by the core, kept until what they rest on changes; and that a verdict was shown."""

from collections.abc import Collection
from uuid import UUID

from pydantic import TypeAdapter

from lynxbill.core.better import Standing, judge_every_swap
from lynxbill.core.case import BuildId, Frame, Swap
from lynxbill.core.comparison import choose_builds, judge
from lynxbill.core.errors import Missing
from lynxbill.exchange.verdict_file import describe
from lynxbill.exchange.verdict_schema import ComparisonOut
from lynxbill.services.answers import answer
from lynxbill.services.transaction import Sessions, reading, transaction
from lynxbill.store.database import announce
from lynxbill.store.kept import read_case, read_snapshot
from lynxbill.store.snapshot import find_machine
from lynxbill.store.tables import SwapRow

_COMPARISONS = TypeAdapter(list[ComparisonOut])


def compare(sessions: Sessions, machine_id: UUID, before: BuildId | None, after: BuildId | None) -> str:
    """
    Judge two builds of a machine, without them its newest swap; only their runs are read.

    Answers the written form of a `ComparisonOut`.
    """
    with reading(sessions) as session:
        frame = read_snapshot(session, machine_id).frame
    before, after = choose_builds(frame, before, after)
    return answer(sessions, machine_id, f"{before} {after}", lambda: _judge(sessions, machine_id, before, after))


def compared(sessions: Sessions, machine_id: UUID, before: BuildId, after: BuildId) -> ComparisonOut:
    """What `compare` answers, to be read here."""
    return ComparisonOut.model_validate_json(compare(sessions, machine_id, before, after))


def compare_all(sessions: Sessions, machine_id: UUID) -> str:
    """
    Judge every swap of a machine, oldest first, and weigh their values against each other.

    Answers the written form of a list of `ComparisonOut`.
    """
    with reading(sessions) as session:
        find_machine(session, machine_id)
    return answer(sessions, machine_id, "every swap", lambda: _judge_all(sessions, machine_id))


def _judge(sessions: Sessions, machine_id: UUID, before: BuildId, after: BuildId) -> str:
    with reading(sessions) as session:
        frame = read_snapshot(session, machine_id).frame
        case = read_case(session, machine_id, builds=_builds(frame, before, after))
    return describe(Standing(judge(case, before, after), ())).model_dump_json()


def _judge_all(sessions: Sessions, machine_id: UUID) -> str:
    with reading(sessions) as session:
        frame = read_snapshot(session, machine_id).frame
        builds = {build for swap in frame.swaps for build in builds_compared(frame, swap)}
        case = read_case(session, machine_id, builds=builds)
    return _COMPARISONS.dump_json([describe(standing) for standing in judge_every_swap(case)]).decode()


def builds_compared(frame: Frame, swap: Swap) -> frozenset[str]:
    """The builds whose runs a swap's comparison needs: its two, and those that lend it their scatter."""
    return _builds(frame, swap.before, swap.after)


def _builds(frame: Frame, before: BuildId, after: BuildId) -> frozenset[str]:
    swap = frame.swap_between(BuildId(before), BuildId(after))
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
        announce(session, machine_id, "verdict", swap_id)
