"""The case of a swap: begun through its gate, and closed again once everything fitted is recognised."""

from datetime import datetime
from uuid import UUID

from sqlalchemy.orm import Session

from lynxbill.core.change.recognition import find_done, find_failed, find_unanswered, find_unseen, is_measured_after
from lynxbill.core.plan.gate import baseline_gate
from lynxbill.core.plan.questions import question_swap
from lynxbill.core.record.frame import Case
from lynxbill.core.record.swap import Swap
from lynxbill.core.terms.errors import BadValue, CaseNotOpen, Clash, GateClosed, NotRecognised, Questioned, Sealed
from lynxbill.services.base.act import Act
from lynxbill.services.base.transaction import Sessions, edit, transaction
from lynxbill.services.swap.swaps import find_swap
from lynxbill.store.database import announce
from lynxbill.store.evidence import was_ever_read
from lynxbill.store.kept import read_case
from lynxbill.store.snapshot import find_machine
from lynxbill.store.tables.swap import SwapRow
from lynxbill.words.job.questions import say_lack, say_question


def open_case(
    sessions: Sessions, act: Act, machine_id: UUID, swap_id: UUID, reason: str, version: int | None
) -> None:
    """Begin a planned swap: the old part may leave once the baseline is complete, or for a reason that is kept."""
    with transaction(sessions) as session:
        row, case, swap = _hold(session, machine_id, swap_id)
        if swap.state != "planned":
            raise CaseNotOpen(f"This swap was begun already; it is {swap.state}.", details={"state": swap.state})
        other = next((known for known in case.swaps if known.state == "open"), None)
        if other is not None:
            raise CaseNotOpen(f"The case is still open for “{other.label}”: close that one first.")
        lacks = [lack for lack in baseline_gate(case, swap.before, swap.plan) if not lack.hint]
        missing = [say_lack(lack, case.machine.decimal_mark).message for lack in lacks]
        if missing and not reason:
            raise GateClosed(
                "Something is still missing from the before-side, and it can't be measured once the old part is out. "
                "Measure it, or say why you go on without it.",
                field="reason",
                details={"missing": missing},
            )
        changes = {
            "state": "open",
            "opened_at": act.at,
            "gate_reason": reason if missing else "",
            "gate_missing": missing,
        }
        edit(row, version, changes)
        announce(session, machine_id, "swap", swap_id)


def close_case(
    sessions: Sessions, act: Act, machine_id: UUID, swap_id: UUID, skipped: str, version: int | None
) -> None:
    """
    Close the case: everything fitted is recognised, every difference declared, and the machine starts.

    What was not looked at needs a reason, `skipped`, which stands beside the verdict.
    """
    with transaction(sessions) as session:
        row, case, swap = _hold(session, machine_id, swap_id)
        if swap.state != "open":
            raise CaseNotOpen(f"The case is not open; this swap is {swap.state}.", details={"state": swap.state})
        refuse_unrecognised(swap)
        machine = case.machine
        asked = [question for question in question_swap(case, swap) if question.code == "undeclared_difference"]
        undeclared = [say_question(question, machine.currency, machine.decimal_mark).message for question in asked]
        if undeclared:
            raise Questioned(
                "The builds differ in something that the swap does not declare. Declare it, or correct the build.",
                field="declares",
                details={"questions": undeclared},
            )
        if swap.starts and not swap.starts[-1].booted:
            raise Questioned("The last start failed. Note one that worked, then close the case.", field="starts")
        unseen = find_unseen(swap)
        if unseen and not skipped:
            raise Questioned(
                f"Not looked at: {'; '.join(line.what for line in unseen)}. Look now, or say why not: "
                "the reason stands beside the verdict.",
                field="skipped",
                details={"unseen": [line.id for line in unseen]},
            )
        reason = skipped if unseen else ""
        edit(row, version, {"state": "closed", "closed_at": act.at, "recognition_skipped": reason})
        announce(session, machine_id, "swap", swap_id)


def take_opening_back(sessions: Sessions, machine_id: UUID, swap_id: UUID, version: int | None) -> None:
    """Go back to the plan where a case was opened too soon, for as long as nothing was done or seen in it."""
    with transaction(sessions) as session:
        row, _, swap = _hold(session, machine_id, swap_id)
        refuse_measured(session, machine_id, swap_id)
        if swap.state != "open":
            raise CaseNotOpen(f"The case is not open; this swap is {swap.state}.", details={"state": swap.state})
        if done := find_done(swap):
            raise Clash(
                f"Something was done in this case: {', '.join(done)}. Take those ticks back if they were slips; else "
                "finish the swap, and record another one that undoes it."
            )
        edit(row, version, {"state": "planned", "opened_at": None, "gate_reason": "", "gate_missing": []})
        announce(session, machine_id, "swap", swap_id)


def reopen_case(sessions: Sessions, machine_id: UUID, swap_id: UUID, version: int | None) -> None:
    """Open a closed case again, to mend what was done in it, for as long as nothing was measured after it."""
    with transaction(sessions) as session:
        row, case, swap = _hold(session, machine_id, swap_id)
        refuse_measured(session, machine_id, swap_id)
        if swap.state != "closed":
            raise CaseNotOpen(f"Only a closed case is opened again; this swap is {swap.state}.")
        later = case.swaps[case.swaps.index(swap) + 1 :]
        if begun := next((other for other in later if other.state != "planned"), None):
            raise CaseNotOpen(f"“{begun.label}” was begun since: what was done before it stands.")
        edit(row, version, {"state": "open", "closed_at": None, "recognition_skipped": ""})
        announce(session, machine_id, "swap", swap_id)


def date_swap(
    sessions: Sessions, act: Act, machine_id: UUID, swap_id: UUID, at: datetime, version: int | None
) -> None:
    """Say on which day a swap of an old log was made, until anything was read after it."""
    with transaction(sessions) as session:
        row, case, swap = _hold(session, machine_id, swap_id)
        if swap.state == "planned":
            raise CaseNotOpen("This swap is only planned: begin it, then say on which day it was made.")
        if was_ever_read(session, machine_id, row.after_id):
            letter = case.build(swap.after).letter
            raise Sealed(f"Build {letter} was read by now: the day of the swap stands.", field="opened_at")
        if at > act.at:
            raise BadValue("That day is still to come.", field="opened_at")
        changes: dict[str, object] = {"opened_at": at}
        if swap.closed_at is not None:
            changes["closed_at"] = at
        edit(row, version, changes)
        announce(session, machine_id, "swap", swap_id)


def refuse_unrecognised(swap: Swap) -> None:
    """Refuse whatever needs the build after while something that went in is not seen as it should be."""
    failed = find_failed(swap)
    if failed:
        raise NotRecognised(
            "Not recognised: "
            + "; ".join(f"{line.what}, expected {line.expected}, seen {line.seen}" for line in failed)
            + ". Mend it, or note why it will do; nothing is measured on this build before.",
            details={"failed": [line.id for line in failed]},
        )
    unanswered = find_unanswered(swap)
    if unanswered:
        raise Questioned(
            "Seen otherwise than expected: "
            + "; ".join(f"{line.what}, {line.seen} instead of {line.expected}" for line in unanswered)
            + ". Say whether it will do; nothing is measured on this build before.",
            field="recognitions",
            details={"unanswered": [line.id for line in unanswered]},
        )


def refuse_measured(session: Session, machine_id: UUID, swap_id: UUID) -> None:
    """Refuse to mend what was ticked and seen once the build after has runs: they rest on it."""
    case, swap = read_swap(session, machine_id, swap_id)
    if is_measured_after(case, swap, case.used_sittings):
        letter = case.build(swap.after).letter
        raise Sealed(f"Build {letter} has runs by now: what was ticked and seen before them stands.")


def _hold(session: Session, machine_id: UUID, swap_id: UUID) -> tuple[SwapRow, Case, Swap]:
    """Lock a machine, and read one of its swaps for a change of it."""
    find_machine(session, machine_id, lock=True)
    row = find_swap(session, machine_id, swap_id)
    return row, *read_swap(session, machine_id, swap_id)


def read_swap(session: Session, machine_id: UUID, swap_id: UUID) -> tuple[Case, Swap]:
    """A swap with its machine, as they stand."""
    case = read_case(session, machine_id)
    return case, next(swap for swap in case.swaps if swap.id == str(swap_id))
