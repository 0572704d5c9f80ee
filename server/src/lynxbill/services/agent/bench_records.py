"""What is noted at the bench while a swap is made: steps, what was seen, starts, notes with pictures, suspicions."""

from dataclasses import replace
from typing import TypeVar
from uuid import UUID

from sqlalchemy import func, select
from sqlalchemy.orm import Session

from lynxbill.core.record.swap import BenchNote, Explanation, Recognition, Start, Step
from lynxbill.core.record.vocabulary import FOUND_STEPS
from lynxbill.core.terms.errors import BadValue, Clash, Missing
from lynxbill.exchange.entry import DecimalMark
from lynxbill.exchange.seen import judge_seen
from lynxbill.services.base.act import Act
from lynxbill.services.base.transaction import Sessions, edit, transaction
from lynxbill.services.evidence.pictures import media_type_of
from lynxbill.services.swap.casework import refuse_measured
from lynxbill.services.swap.swaps import find_swap
from lynxbill.store import rows
from lynxbill.store.database import announce
from lynxbill.store.snapshot import find_machine
from lynxbill.store.tables.swap import BenchNoteRow, ExplanationRow, RecognitionRow, StartRow, StepRow

Kind = TypeVar("Kind", StepRow, RecognitionRow, StartRow, BenchNoteRow, ExplanationRow)


def save_step(
    sessions: Sessions, act: Act, machine_id: UUID, swap_id: UUID, step: Step, done: bool, version: int | None
) -> None:
    """Write a step of the checklist, tick it, or take the tick back; a tick carries the time it was made."""
    with transaction(sessions) as session:
        row = _child(session, machine_id, swap_id, StepRow, step.id)
        refuse_measured(session, machine_id, swap_id)
        if row is None:
            fresh = rows.step_row(replace(step, done_at=act.at if done else None), _next(session, StepRow, swap_id))
            fresh.swap_id = swap_id
            session.add(fresh)
        else:
            changes: dict[str, object] = {"stage": step.stage, "text": step.text}
            if done != (row.done_at is not None):
                changes["done_at"] = act.at if done else None
            edit(row, version, changes)
        announce(session, machine_id, "swap", swap_id)


def save_all_done(sessions: Sessions, act: Act, machine_id: UUID, swap_id: UUID) -> None:
    """Tick every step that is still open, in one save."""
    with transaction(sessions) as session:
        find_machine(session, machine_id, lock=True)
        row = find_swap(session, machine_id, swap_id)
        refuse_measured(session, machine_id, swap_id)
        for step in (step for step in row.steps if step.done_at is None):
            edit(step, step.version, {"done_at": act.at})
        announce(session, machine_id, "swap", swap_id)


def save_all_seen(sessions: Sessions, machine_id: UUID, swap_id: UUID) -> None:
    """Note everything that was not looked at yet as seen just as expected, in one save."""
    with transaction(sessions) as session:
        find_machine(session, machine_id, lock=True)
        row = find_swap(session, machine_id, swap_id)
        refuse_measured(session, machine_id, swap_id)
        for line in (line for line in row.recognitions if line.result is None and not line.seen.strip()):
            edit(line, line.version, {"seen": line.expected, "result": "pass"})
        announce(session, machine_id, "swap", swap_id)


def save_recognition(
    sessions: Sessions, machine_id: UUID, swap_id: UUID, line: Recognition, version: int | None
) -> None:
    """
    Note what was seen. Where it is what was expected it passes; else somebody says whether it fails or will do.
    """
    if line.result is not None and not line.seen.strip():
        raise BadValue("Say what was seen.", field="seen")
    if line.result == "pass with remark" and not line.remark.strip():
        raise BadValue("Say why it will do although it is not what was expected.", field="remark")
    with transaction(sessions) as session:
        machine = find_machine(session, machine_id, lock=True)
        row = _child(session, machine_id, swap_id, RecognitionRow, line.id)
        refuse_measured(session, machine_id, swap_id)
        line = _looked_at(line, machine.decimal_mark)
        fields = {
            "what": line.what,
            "expected": line.expected,
            "seen": line.seen,
            "result": line.result,
            "remark": line.remark,
        }
        if row is None:
            fresh = rows.recognition_row(line, _next(session, RecognitionRow, swap_id))
            fresh.swap_id = swap_id
            session.add(fresh)
        else:
            edit(row, version, fields)
        announce(session, machine_id, "swap", swap_id)


def _looked_at(line: Recognition, mark: DecimalMark) -> Recognition:
    same = judge_seen(line.what, line.expected, line.seen, mark)
    if line.result is None:
        return replace(line, result=same)
    if line.result == "pass" and same is None:
        raise BadValue(
            f"{line.seen} was seen, {line.expected} expected: no plain pass. Say why it will do, or let it fail.",
            field="result",
        )
    return line


def save_start(sessions: Sessions, machine_id: UUID, swap_id: UUID, start: Start, version: int | None) -> None:
    """Keep an attempt to start, failed ones with the time that mending took."""
    if not start.booted and not start.note.strip():
        raise BadValue("Say what kept it from starting.", field="note")
    with transaction(sessions) as session:
        row = _child(session, machine_id, swap_id, StartRow, start.id)
        refuse_measured(session, machine_id, swap_id)
        if row is None:
            fresh = rows.start_row(start)
            fresh.swap_id = swap_id
            session.add(fresh)
        else:
            edit(row, version, {"booted": start.booted, "note": start.note, "rework_min": start.rework_min})
        announce(session, machine_id, "swap", swap_id)


def save_note(sessions: Sessions, machine_id: UUID, swap_id: UUID, note: BenchNote, version: int | None) -> None:
    """Keep a note of the teardown, of what was found, or of a drawback, in the order in which they were made."""
    if (note.kind in FOUND_STEPS) != (note.step is not None):
        raise BadValue("Say on its scale how it was found; other notes have no step.", field="step")
    with transaction(sessions) as session:
        row = _child(session, machine_id, swap_id, BenchNoteRow, note.id)
        if row is None:
            fresh = rows.note_row(note)
            fresh.swap_id = swap_id
            session.add(fresh)
        else:
            edit(row, version, {"text": note.text, "kind": note.kind, "step": note.step})
        announce(session, machine_id, "swap", swap_id)


def save_picture(sessions: Sessions, machine_id: UUID, swap_id: UUID, note_id: UUID, content: bytes) -> None:
    """Keep the picture of a note; what it is follows from its content, never from its name."""
    kind = media_type_of(content)
    with transaction(sessions) as session:
        row = _child(session, machine_id, swap_id, BenchNoteRow, str(note_id))
        if row is None:
            raise Missing("There is no such note; write it first, then add its picture.", field="note")
        row.picture_type, row.picture_bytes = kind, content
        row.version += 1
        announce(session, machine_id, "swap", swap_id)


def read_picture(sessions: Sessions, machine_id: UUID, swap_id: UUID, note_id: UUID) -> tuple[bytes, str]:
    """Hand out the picture of a note and its media type."""
    with sessions() as session:
        row = _child(session, machine_id, swap_id, BenchNoteRow, str(note_id), lock=False)
        if row is None or row.picture_bytes is None or row.picture_type is None:
            raise Missing("There is no such picture.")
        return row.picture_bytes, row.picture_type


def remove_child(sessions: Sessions, machine_id: UUID, swap_id: UUID, noun: type[Kind], child_id: UUID) -> None:
    """Take a step, a line, a start or a note away."""
    with transaction(sessions) as session:
        row = _child(session, machine_id, swap_id, noun, str(child_id))
        if isinstance(row, (StepRow, RecognitionRow, StartRow)):
            refuse_measured(session, machine_id, swap_id)
        if isinstance(row, RecognitionRow) and row.seen.strip():
            raise Clash(f"{row.what}: {row.seen} was seen, and that stays. Mend the line, or say why it will do.")
        if row is not None:
            session.delete(row)
            announce(session, machine_id, "swap", swap_id)


def save_explanation(
    sessions: Sessions, machine_id: UUID, swap_id: UUID, explanation: Explanation, version: int | None
) -> None:
    """Hold a suspected cause or limit as a claim, or say what became of it."""
    if explanation.state != "untested" and not explanation.grounds.strip():
        raise BadValue(f"Say what speaks for it being {explanation.state}.", field="grounds")
    with transaction(sessions) as session:
        row = _child(session, machine_id, swap_id, ExplanationRow, explanation.id)
        if row is None:
            fresh = rows.explanation_row(explanation, _next(session, ExplanationRow, swap_id))
            fresh.swap_id = swap_id
            session.add(fresh)
        else:
            edit(row, version, {name: getattr(explanation, name) for name in ("text", "state", "test", "grounds")})
        announce(session, machine_id, "explanation", explanation.id)


def _child(
    session: Session, machine_id: UUID, swap_id: UUID, noun: type[Kind], child_id: str, *, lock: bool = True
) -> Kind | None:
    """Find a thing that belongs to a swap; None where it is new."""
    find_machine(session, machine_id, lock=lock)
    find_swap(session, machine_id, swap_id)
    row = session.get(noun, UUID(child_id))
    if row is not None and row.swap_id != swap_id:
        raise BadValue("This id belongs to another swap.", field="id")
    return row


def _next(session: Session, noun: type[StepRow | RecognitionRow | ExplanationRow], swap_id: UUID) -> int:
    return (session.scalar(select(func.max(noun.position)).where(noun.swap_id == swap_id)) or 0) + 1
