"""Reckonings: the bill of two builds on every switch, kept until what it rests on changes."""

from uuid import UUID

from pydantic import TypeAdapter

from lynxbill.core.plan.agreement import plan_between
from lynxbill.core.record.frame import Frame
from lynxbill.core.record.ids import BuildId
from lynxbill.core.result.comparison import choose_builds
from lynxbill.core.value.ladder_total import whole_chain
from lynxbill.core.value.reckoning import reckon
from lynxbill.services.base.answers import answer
from lynxbill.services.base.transaction import Sessions, reading
from lynxbill.services.verdicts.comparisons import builds_compared
from lynxbill.store.kept import read_case, read_snapshot
from lynxbill.words.money.reckoning import WordedReckoning, say_reckoning

_RECKONING = TypeAdapter(WordedReckoning)


def reckon_up(sessions: Sessions, machine_id: UUID, before: BuildId | None, after: BuildId | None, years: int) -> str:
    """
    Reckon up two builds of a machine, without them its newest swap, over so many years of electricity.

    Answers the written form of a `SaidReckoning`.
    """
    with reading(sessions) as session:
        frame = read_snapshot(session, machine_id).frame
    before, after = choose_builds(frame, before, after)
    question = f"reckoning {before} {after} {years}"
    return answer(
        sessions, machine_id, question, lambda: {question: _reckon(sessions, machine_id, before, after, years)}
    )


def _reckon(sessions: Sessions, machine_id: UUID, before: BuildId, after: BuildId, years: int) -> str:
    with reading(sessions) as session:
        frame = read_snapshot(session, machine_id).frame
        case = read_case(session, machine_id, builds=builds_reckoned(frame, before, after))
    labels: dict[tuple[str, str], str] = {(one.before, one.after): one.label for one in case.swaps}
    worded = say_reckoning(
        reckon(case, before, after, years),
        name_of(case, before, after),
        labels,
        case.builds,
        case.machine.decimal_mark,
    )
    return _RECKONING.dump_json(worded).decode()


def name_of(frame: Frame, before: BuildId, after: BuildId) -> str:
    """What the way from one build to another is called: its swap's name, or their letters where it has several."""
    swap = frame.step_into(before, after)
    if swap is not None and (swap.before, swap.after) == (before, after):
        return swap.label
    return f"{frame.build(before).letter} to {frame.build(after).letter}"


def builds_reckoned(frame: Frame, before: BuildId, after: BuildId) -> set[str]:
    """The builds whose runs a reckoning needs: of its own comparison, of every swap, and of the whole ladder."""
    builds: set[str] = {before, after}
    for swap in frame.swaps:
        builds |= builds_compared(frame, swap)
    plan = plan_between(frame, before, after)
    builds |= {*plan.borrow_spread_from} if plan is not None else set()
    way = whole_chain(frame)
    return builds | {*way[:2]} if way is not None else builds
