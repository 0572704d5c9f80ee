"""While the case is open: begin a swap through its gate, tick, look, start, note, and close it again."""

from collections.abc import Mapping
from dataclasses import dataclass, replace
from typing import TypeVar
from uuid import UUID

from sqlalchemy import func, select
from sqlalchemy.orm import Session

from lynxbill.core.case import BenchNote, Build, Case, Explanation, Recognition, Start, Step, Swap
from lynxbill.core.difference import find_differences
from lynxbill.core.errors import BadValue, CaseNotOpen, Clash, GateClosed, Missing, NotRecognised, Questioned, Sealed
from lynxbill.core.gate import baseline_gate
from lynxbill.core.questions import question_swap
from lynxbill.core.recognition import find_failed, find_unanswered, find_unseen, is_measured_after, judge_seen
from lynxbill.core.templates import checklist_of
from lynxbill.services.act import Act
from lynxbill.services.builds import add_build, build_letter
from lynxbill.services.swaps import find_swap, fresh_recognitions, fresh_steps
from lynxbill.services.transaction import Sessions, check_version, edit, transaction
from lynxbill.store import rows
from lynxbill.store.database import announce
from lynxbill.store.evidence import is_sealed
from lynxbill.store.kept import read_case
from lynxbill.store.snapshot import find_machine
from lynxbill.store.tables import BenchNoteRow, BuildRow, ExplanationRow, RecognitionRow, StartRow, StepRow, SwapRow

PICTURE_TYPES: Mapping[bytes, str] = {b"\x89PNG\r\n\x1a\n": "image/png", b"\xff\xd8\xff": "image/jpeg"}
MAX_PICTURE = 10 * 1024 * 1024
Kind = TypeVar("Kind", StepRow, RecognitionRow, StartRow, BenchNoteRow, ExplanationRow)


@dataclass(frozen=True, slots=True)
class Stage:
    """
    The part of a bundle that is done first: the build that it leads to, and what of the swap belongs to it.

    `differences` are keys of the swap's differences; `costs` the numbers of its cost lines that stay with it.
    """

    swap_id: str
    build_id: str
    label: str
    build_label: str
    differences: tuple[str, ...]
    side_changes: tuple[str, ...]
    costs: tuple[int, ...]


def open_case(
    sessions: Sessions, act: Act, machine_id: UUID, swap_id: UUID, reason: str, version: int | None
) -> None:
    """Begin a planned swap: the old part may leave once the baseline is complete, or for a reason that is kept."""
    with transaction(sessions) as session:
        find_machine(session, machine_id, lock=True)
        row = find_swap(session, machine_id, swap_id)
        case, swap = _read(session, machine_id, swap_id)
        if swap.state != "planned":
            raise CaseNotOpen(f"This swap was begun already; it is {swap.state}.", details={"state": swap.state})
        other = next((known for known in case.swaps if known.state == "open"), None)
        if other is not None:
            raise CaseNotOpen(f"The case is still open for “{other.label}”: close that one first.")
        missing = [lack.message for lack in baseline_gate(case, swap.before, swap.plan) if not lack.hint]
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
        find_machine(session, machine_id, lock=True)
        row = find_swap(session, machine_id, swap_id)
        case, swap = _read(session, machine_id, swap_id)
        if swap.state != "open":
            raise CaseNotOpen(f"The case is not open; this swap is {swap.state}.", details={"state": swap.state})
        refuse_unrecognised(swap)
        undeclared = [q.message for q in question_swap(case, swap) if q.code == "undeclared_difference"]
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


def _refuse_measured(session: Session, machine_id: UUID, swap_id: UUID) -> None:
    """Refuse to mend what was ticked and seen once the build after has runs: they rest on it."""
    case, swap = _read(session, machine_id, swap_id)
    if is_measured_after(case, swap, case.used_sittings):
        letter = case.build(swap.after).letter
        raise Sealed(f"Build {letter} has runs by now: what was ticked and seen before them stands.")


def save_step(
    sessions: Sessions, act: Act, machine_id: UUID, swap_id: UUID, step: Step, done: bool, version: int | None
) -> None:
    """Write a step of the checklist, tick it, or take the tick back; a tick carries the time it was made."""
    with transaction(sessions) as session:
        row = _child(session, machine_id, swap_id, StepRow, step.id)
        _refuse_measured(session, machine_id, swap_id)
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


def save_recognition(
    sessions: Sessions, machine_id: UUID, swap_id: UUID, line: Recognition, version: int | None
) -> None:
    """
    Note what was seen. Where it is what was expected it passes; else somebody says whether it fails or will do.
    """
    if line.result is None:
        line = replace(line, result=judge_seen(line.expected, line.seen))
    if line.result is not None and not line.seen.strip():
        raise BadValue("Say what was seen.", field="seen")
    if line.result == "pass" and judge_seen(line.expected, line.seen) is None:
        raise BadValue(
            f"{line.seen} was seen, {line.expected} expected: no plain pass. Say why it will do, or let it fail.",
            field="result",
        )
    if line.result == "pass with remark" and not line.remark.strip():
        raise BadValue("Say why it will do although it is not what was expected.", field="remark")
    with transaction(sessions) as session:
        row = _child(session, machine_id, swap_id, RecognitionRow, line.id)
        _refuse_measured(session, machine_id, swap_id)
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


def save_start(sessions: Sessions, machine_id: UUID, swap_id: UUID, start: Start, version: int | None) -> None:
    """Keep an attempt to start, failed ones with the time that mending took."""
    if not start.booted and not start.note.strip():
        raise BadValue("Say what kept it from starting.", field="note")
    with transaction(sessions) as session:
        row = _child(session, machine_id, swap_id, StartRow, start.id)
        _refuse_measured(session, machine_id, swap_id)
        if row is None:
            fresh = rows.start_row(start)
            fresh.swap_id = swap_id
            session.add(fresh)
        else:
            edit(row, version, {"booted": start.booted, "note": start.note, "rework_min": start.rework_min})
        announce(session, machine_id, "swap", swap_id)


def save_note(sessions: Sessions, machine_id: UUID, swap_id: UUID, note: BenchNote, version: int | None) -> None:
    """Keep a note of the teardown, in the order in which notes were made."""
    with transaction(sessions) as session:
        row = _child(session, machine_id, swap_id, BenchNoteRow, note.id)
        if row is None:
            session.add(BenchNoteRow(id=UUID(note.id), swap_id=swap_id, at=note.at, text=note.text))
        else:
            edit(row, version, {"text": note.text})
        announce(session, machine_id, "swap", swap_id)


def save_picture(sessions: Sessions, machine_id: UUID, swap_id: UUID, note_id: UUID, content: bytes) -> None:
    """Keep the picture of a note; what it is follows from its content, never from its name."""
    kind = next((kind for start, kind in PICTURE_TYPES.items() if content.startswith(start)), None)
    if kind is None:
        raise BadValue("This is no PNG or JPEG picture.", field="picture")
    if len(content) > MAX_PICTURE:
        raise BadValue("The picture is larger than 10 MB; make it smaller first.", field="picture")
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
            _refuse_measured(session, machine_id, swap_id)
        if isinstance(row, RecognitionRow) and row.seen.strip():
            raise Clash(f"{row.what}: {row.seen} was seen, and that stays. Mend the line, or say why it will do.")
        if row is not None:
            session.delete(row)
            announce(session, machine_id, "swap", swap_id)


def save_explanation(
    sessions: Sessions, machine_id: UUID, swap_id: UUID, explanation: Explanation, version: int | None
) -> None:
    """Hold a suspected cause or limit as a claim, or say what became of it."""
    if explanation.state != "untested" and not explanation.evidence.strip():
        raise BadValue(f"Say what speaks for it being {explanation.state}.", field="evidence")
    with transaction(sessions) as session:
        row = _child(session, machine_id, swap_id, ExplanationRow, explanation.id)
        if row is None:
            fresh = rows.explanation_row(explanation, _next(session, ExplanationRow, swap_id))
            fresh.swap_id = swap_id
            session.add(fresh)
        else:
            edit(row, version, {name: getattr(explanation, name) for name in ("text", "state", "test", "evidence")})
        announce(session, machine_id, "explanation", explanation.id)


def split_swap(sessions: Sessions, machine_id: UUID, swap_id: UUID, stage: Stage, version: int | None) -> None:
    """
    Take a bundle apart into two stages: what is done first, measured on a build of its own, then the rest.

    Only while nothing was measured on the build after and the case is not closed.
    """
    with transaction(sessions) as session:
        find_machine(session, machine_id, lock=True)
        row = find_swap(session, machine_id, swap_id)
        case, swap = _read(session, machine_id, swap_id)
        if swap.state == "closed":
            raise CaseNotOpen("The case is closed: what was done together stays together.")
        if is_sealed(session, UUID(swap.after)):
            raise Sealed("The build after has runs already: what was done together stays together.")
        check_version(row, version, {"label": swap.label})
        before, after = case.build(swap.before), case.build(swap.after)
        between = _build_between(before, after, stage)
        _check_stage(swap, before, between, after, stage)
        _insert_between(session, machine_id, between, after)
        _divide(session, machine_id, row, swap, (before, between, after), stage)
        announce(session, machine_id, "swap", swap_id)


def _build_between(before: Build, after: Build, stage: Stage) -> Build:
    """The build before with only the first stage's differences made."""
    roles = {key.removeprefix("part:") for key in stage.differences if key.startswith("part:")}
    parts = [part for part in before.parts if part.role not in roles]
    parts += [part for part in after.parts if part.role in roles]
    settings = dict(before.settings)
    for key in stage.differences:
        name = key.removeprefix("setting:")
        if key.startswith("setting:"):
            settings |= {name: after.settings[name]} if name in after.settings else {}
            if name not in after.settings:
                settings.pop(name, None)
    return Build(stage.build_id, "", stage.build_label, tuple(parts), settings)


def _check_stage(swap: Swap, before: Build, between: Build, after: Build, stage: Stage) -> None:
    known = {difference.key for difference in find_differences(before, after)}
    strays = [key for key in stage.differences if key not in known]
    strays += [tick for tick in stage.side_changes if tick not in swap.side_changes]
    if strays:
        raise BadValue(f"The swap does not change {strays[0]}.", field="differences")
    left = len(known) + len(swap.side_changes) - len(stage.differences) - len(stage.side_changes)
    if not stage.differences and not stage.side_changes:
        raise BadValue("Say what is done first; a stage changes something.", field="differences")
    if left == 0:
        raise BadValue(
            "Everything would be done first, and nothing is left for the second stage.", field="differences"
        )


def _insert_between(session: Session, machine_id: UUID, between: Build, after: Build) -> None:
    """Give the build between the place and letter of the one after, which moves one on where it is the last."""
    row = session.get_one(BuildRow, UUID(after.id))
    last = session.scalar(select(func.max(BuildRow.position)).where(BuildRow.machine_id == machine_id)) or 0
    place = row.position
    if place != last:
        add_build(session, machine_id, between, last + 1)
        return
    row.position, row.letter = last + 1, build_letter(last + 1)
    session.flush()
    add_build(session, machine_id, between, place)


def _divide(
    session: Session, machine_id: UUID, row: SwapRow, swap: Swap, builds: tuple[Build, Build, Build], stage: Stage
) -> None:
    before, between, after = builds
    rest = [key for key in swap.declares if key not in stage.differences]
    side_changes = tuple(tick for tick in swap.side_changes if tick not in stage.side_changes)
    second = Swap(
        id=stage.swap_id,
        before=between.id,
        after=after.id,
        label=swap.label,
        plan=swap.plan,
        side_changes=side_changes,
        costs=tuple(line for number, line in enumerate(swap.costs) if number not in stage.costs),
        state="planned",
        declares=tuple(rest),
        recognitions=fresh_recognitions(between, after),
        steps=fresh_steps(checklist_of(find_differences(between, after), side_changes)),
    )
    for later in session.scalars(
        select(SwapRow).where(SwapRow.machine_id == machine_id, SwapRow.position > row.position)
    ):
        later.position += 1
    row.after_id, row.label = UUID(between.id), stage.label
    row.side_changes, row.declares = list(stage.side_changes), list(stage.differences)
    row.costs, row.recognitions = [], []
    if not any(step.done_at for step in row.steps):
        row.steps = []
    session.flush()
    row.costs = rows.cost_rows(line for number, line in enumerate(swap.costs) if number in stage.costs)
    row.recognitions = [
        rows.recognition_row(line, number) for number, line in enumerate(fresh_recognitions(before, between), start=1)
    ]
    if not row.steps:
        first = checklist_of(find_differences(before, between), stage.side_changes)
        row.steps = [rows.step_row(step, number) for number, step in enumerate(fresh_steps(first), start=1)]
    row.version += 1
    session.add(rows.swap_row(second, machine_id, row.position + 1))
    session.flush()
    session.add(rows.plan_row(swap.plan, machine_id, UUID(second.id)))


def _read(session: Session, machine_id: UUID, swap_id: UUID) -> tuple[Case, Swap]:
    case = read_case(session, machine_id)
    return case, next(swap for swap in case.swaps if swap.id == str(swap_id))


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
