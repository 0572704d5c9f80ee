"""Comparisons: computed by the core, kept until what they rest on changes; and that a verdict was shown."""

import json
from collections.abc import Callable, Collection, Sequence
from dataclasses import asdict, dataclass
from uuid import UUID

from sqlalchemy.orm import Session

from lynxbill.core.plan.agreement import plan_between
from lynxbill.core.record.frame import Case, Frame
from lynxbill.core.record.ids import BuildId, RunId
from lynxbill.core.record.swap import Swap
from lynxbill.core.result.comparison import choose_builds, judge, showings_of
from lynxbill.core.result.what_if import WhatIf, what_if_run_left_out, what_if_sitting_set_aside
from lynxbill.core.terms.errors import Missing, Stale
from lynxbill.core.value.better import Placing, judge_every_swap
from lynxbill.core.value.bill import judge_and_bill
from lynxbill.services.base.act import Act
from lynxbill.services.base.answers import answer
from lynxbill.services.base.transaction import Sessions, reading, transaction
from lynxbill.services.evidence.sittings import close_open_ones
from lynxbill.services.evidence.traced import with_traced
from lynxbill.services.swap.swaps import find_swap
from lynxbill.store import rows
from lynxbill.store.database import announce
from lynxbill.store.kept import read_case, read_snapshot
from lynxbill.store.snapshot import find_machine
from lynxbill.store.tables.evidence import RunRow
from lynxbill.words.results.comparison import say_bundle
from lynxbill.words.results.results import say_result


@dataclass(frozen=True, slots=True)
class Compared:
    """Two builds compared on a machine as it was at `counts` (revision, evidence)."""

    case: Case
    placing: Placing
    counts: tuple[int, int]


@dataclass(frozen=True, slots=True)
class Outcome:
    """
    What a comparison came to, for lists of machines and candidates.

    `gain_percent` and `known` are of the measure that leads: its gain, and what may be said of it anywhere.
    """

    gain_percent: float | None
    bundle: str | None
    known: str | None


# Comparisons are kept in the form in which they travel, which is whoever asks to write.
Write = Callable[[Compared], str]


def compare(sessions: Sessions, machine_id: UUID, before: BuildId | None, after: BuildId | None, write: Write) -> str:
    """Judge two builds of a machine, without them its newest swap; only their runs are read."""
    with reading(sessions) as session:
        frame = read_snapshot(session, machine_id).frame
    before, after = choose_builds(frame, before, after)
    return _answer(sessions, machine_id, before, after, write, _question(before, after))


def outcome_of(sessions: Sessions, machine_id: UUID, before: BuildId, after: BuildId, write: Write) -> Outcome:
    """Say what a comparison came to; what is judged for it is kept for whoever asks for all of it."""
    return Outcome(**json.loads(_answer(sessions, machine_id, before, after, write, _short(before, after))))


def compare_all(sessions: Sessions, machine_id: UUID, write: Callable[[Sequence[Compared]], str]) -> str:
    """Judge every swap of a machine, oldest first, and weigh their values against each other."""
    with reading(sessions) as session:
        find_machine(session, machine_id)
    question = "every swap"
    return answer(sessions, machine_id, question, lambda: {question: write(_judge_all(sessions, machine_id))})


def _question(before: BuildId, after: BuildId) -> str:
    return f"{before} {after}"


def _short(before: BuildId, after: BuildId) -> str:
    return f"outcome {before} {after}"


def _answer(
    sessions: Sessions, machine_id: UUID, before: BuildId, after: BuildId, write: Write, question: str
) -> str:
    def judge_once() -> dict[str, str]:
        compared = _judge(sessions, machine_id, before, after)
        outcome = json.dumps(asdict(_outcome(compared)))
        return {_question(before, after): write(compared), _short(before, after): outcome}

    return answer(sessions, machine_id, question, judge_once)


def _judge(sessions: Sessions, machine_id: UUID, before: BuildId, after: BuildId) -> Compared:
    with reading(sessions) as session:
        frame = read_snapshot(session, machine_id).frame
        case = with_traced(session, machine_id, read_case(session, machine_id, builds=_builds(frame, before, after)))
        counts = _counts(session, machine_id)
    return Compared(case, Placing(judge_and_bill(case, before, after), ()), counts)


def _outcome(compared: Compared) -> Outcome:
    comparison = compared.placing.comparison
    lead, bundle = comparison.lead, say_bundle(comparison.changes)
    if lead is None or lead.estimate is None:
        return Outcome(None, bundle, None)
    worded = say_result(lead, compared.case.machine.decimal_mark, comparison.shares)
    return Outcome(lead.gain_percent, bundle, worded.known)


def _counts(session: Session, machine_id: UUID) -> tuple[int, int]:
    machine = find_machine(session, machine_id)
    return machine.revision, machine.evidence_revision


def _judge_all(sessions: Sessions, machine_id: UUID) -> list[Compared]:
    with reading(sessions) as session:
        frame = read_snapshot(session, machine_id).frame
        builds = {build for swap in frame.swaps for build in builds_compared(frame, swap)}
        case = with_traced(session, machine_id, read_case(session, machine_id, builds=builds))
        counts = _counts(session, machine_id)
    return [Compared(case, placing, counts) for placing in judge_every_swap(case)]


def builds_compared(frame: Frame, swap: Swap) -> frozenset[str]:
    """The builds whose runs a swap's comparison needs: its two, and those that lend it their scatter."""
    return _builds(frame, swap.before, swap.after)


def _builds(frame: Frame, before: BuildId, after: BuildId) -> frozenset[str]:
    plan = plan_between(frame, before, after)
    if plan is None:
        return frozenset({before, after})
    # Where the whole is judged too, the step and the total are weighed together.
    swap = frame.swap_between(before, after)
    beside = {plan.judge_whole, *((swap.before, swap.after) if swap else ())} - {None} if plan.judge_whole else set()
    whole = {s.before for s in frame.swaps if s.plan.judge_whole in (before, after)}
    return frozenset({before, after, *plan.borrow_spread_from, *(b for b in beside if b), *whole})


def what_if(
    sessions: Sessions, act: Act, machine_id: UUID, *, run: UUID | None = None, sitting: UUID | None = None
) -> tuple[WhatIf, ...]:
    """Say which verdicts would change if a run were left out now, or a sitting set aside; nothing is changed."""
    with reading(sessions) as session:
        frame = read_snapshot(session, machine_id).frame
        if run is not None:
            row = session.get(RunRow, run)
            sitting = row.sitting_id if row is not None and row.machine_id == machine_id else None
        held = next((s for s in frame.sittings if s.id == str(sitting)), None)
        if held is None:
            raise Missing("This machine has no such run or sitting.")
        swaps = [swap for swap in frame.swaps if held.build_id in (swap.before, swap.after)]
        builds = {build for swap in swaps for build in builds_compared(frame, swap)} | {held.build_id}
        case = read_case(session, machine_id, builds=builds)
    if run is not None:
        return what_if_run_left_out(case, RunId(str(run)), act.at)
    return what_if_sitting_set_aside(case, held.id, act.at)


def note_looked(sessions: Sessions, act: Act, machine_id: UUID, swaps: Collection[UUID]) -> None:
    """
    Keep when both sides of swaps were first on a screen; of a swap without readings on both sides nothing is kept.

    What is typed from notes after that was typed by somebody who knew how it stands.
    """
    with transaction(sessions) as session:
        find_machine(session, machine_id, lock=True)
        case = read_case(session, machine_id)
        measured = {sitting.build_id for sitting in case.sittings if sitting.id in case.used_sittings}
        both = {UUID(swap.id) for swap in case.swaps if {swap.before, swap.after} <= measured}
        for key in swaps:
            row = find_swap(session, machine_id, key)
            if key in both and row.looked_at is None:
                row.looked_at = act.at
                announce(session, machine_id, "swap", key)


def note_shown(
    sessions: Sessions,
    act: Act,
    machine_id: UUID,
    pair: tuple[BuildId, BuildId],
    measures: Collection[UUID],
    seen: tuple[int, int],
) -> None:
    """
    Keep in the ledger that verdicts were given to somebody, with the evidence that they rest on.

    The open sittings among it are closed: who has seen what they say corrects no reading of them without a trace.

    Args:
        pair: the builds before and after whose comparison was shown.
        seen: the machine's counts (revision, evidence) of what was shown.
    Refuses with Stale what is not so any more: who shows it has to look again.
    """
    with transaction(sessions) as session:
        machine = find_machine(session, machine_id, lock=True)
        if (machine.revision, machine.evidence_revision) != seen:
            raise Stale("This machine was changed since: what was shown is not what stands here now. Look again.")
        frame = read_snapshot(session, machine_id).frame
        case = read_case(session, machine_id, builds=_builds(frame, *pair))
        comparison = judge(case, *pair)
        asked = {str(measure) for measure in measures}
        agreement = comparison.agreement
        if agreement is None or agreement.swap is None:
            raise Missing("No swap leads from one of these builds to the other: there is nothing to keep it with.")
        shown = [result for result in comparison.measures if result.measure.id in asked]
        entries = showings_of(case, comparison, shown, at=act.at, by=act.by)
        if not entries:
            return
        close_open_ones(session, act, map(UUID, comparison.closes))
        swap_id = UUID(agreement.swap.id)
        session.add_all(rows.showing_row(entry, machine_id, swap_id) for entry in entries)
        announce(session, machine_id, "verdict", swap_id)
