"""What was changed of evidence after it had been written: who, when, old and new; never taken back."""

from collections.abc import Collection, Iterable, Mapping
from dataclasses import asdict, dataclass
from datetime import datetime
from typing import Any
from uuid import UUID

from sqlalchemy import insert, select
from sqlalchemy.orm import Session

from lynxbill.core.case import CORRECTABLE, READING, Case, Reading, Run, Was
from lynxbill.store.tables import EditRow, Json

_WAS = (EditRow.member, EditRow.old, EditRow.by, EditRow.at, EditRow.reason, EditRow.measure_id)
_DATES = ("started_at", "closed_at")


@dataclass(frozen=True, slots=True)
class Edit:
    """
    One member of one thing: a reading where run and measure are named, else a run's, a sitting's or a measure's.

    None stands for what was, or is, not there.
    """

    member: str
    old: Json
    new: Json
    sitting_id: UUID | None = None
    run_id: UUID | None = None
    measure_id: UUID | None = None


def keep_edits(session: Session, machine_id: UUID, by: str, at: datetime, reason: str, edits: Iterable[Edit]) -> None:
    """Keep what was changed at one time, for one reason (empty where none was given)."""
    whose = {"machine_id": machine_id, "by": by, "at": at, "reason": reason}
    values = [whose | asdict(edit) for edit in edits]
    if values:
        session.execute(insert(EditRow), values)


def load_edits(session: Session, machine_id: UUID) -> list[tuple[Edit, str, datetime, str]]:
    """Every edit of a machine's evidence with who, when and why, oldest first."""
    found = session.scalars(select(EditRow).where(EditRow.machine_id == machine_id).order_by(EditRow.id))
    return [
        (Edit(row.member, row.old, row.new, row.sitting_id, row.run_id, row.measure_id), row.by, row.at, row.reason)
        for row in found
    ]


def sittings_were(session: Session, machine_id: UUID) -> dict[UUID, tuple[Was, ...]]:
    """What stood in the members of a machine's sittings before they were changed, oldest first."""
    of_sittings = EditRow.machine_id == machine_id, EditRow.run_id.is_(None), EditRow.sitting_id.is_not(None)
    found = session.execute(select(*_WAS, EditRow.sitting_id).where(*of_sittings).order_by(EditRow.id))
    was: dict[UUID, list[Was]] = {}
    for member, old, by, at, reason, _, sitting in found:
        for name, value in old.items() if isinstance(old, dict) else ((None, old),):
            value = datetime.fromisoformat(value) if member in _DATES and isinstance(value, str) else value
            place = f"{member}.{name}" if name else member
            was.setdefault(sitting, []).append(Was(place, value, at, by, reason))
    return {sitting: tuple(entries) for sitting, entries in was.items()}


def runs_were(session: Session, machine_id: UUID, sittings: Collection[UUID] | None) -> dict[UUID, tuple[Was, ...]]:
    """What stood in the members and readings of runs before they were changed, oldest first."""
    of_runs = [EditRow.machine_id == machine_id, EditRow.run_id.is_not(None)]
    if sittings is not None:
        of_runs.append(EditRow.sitting_id.in_(sittings))
    was: dict[UUID, list[Was]] = {}
    for member, old, by, at, reason, measure, run in session.execute(
        select(*_WAS, EditRow.run_id).where(*of_runs).order_by(EditRow.id)
    ):
        was.setdefault(run, []).append(_was(member, old, measure, by, at, reason))
    return {run: tuple(entries) for run, entries in was.items()}


def was_of(edits: Iterable[Edit], by: str, at: datetime) -> tuple[Was, ...]:
    """What stood in a run until it was changed just now."""
    return tuple(_was(edit.member, edit.old, edit.measure_id, by, at, "") for edit in edits)


def _was(member: str, old: Any, measure: UUID | None, by: str, at: datetime, reason: str) -> Was:
    if measure is None:
        return Was(member, old, at, by, reason)
    return Was(f"{READING}{measure}", Reading(**old) if old is not None else None, at, by, reason)


def keep_was(session: Session, case: Case) -> None:
    """Keep what a case that was taken in says of its own past."""
    machine = UUID(case.machine.id)
    rows: list[dict[str, object]] = []
    for sitting in case.sittings:
        rows += [_row(entry, machine, UUID(sitting.id), None) for entry in sitting.was]
    for run in case.runs:
        rows += [_row(entry, machine, UUID(run.sitting_id), UUID(run.id)) for entry in run.was]
    if rows:
        session.execute(insert(EditRow), sorted(rows, key=lambda row: str(row["at"])))


def _row(entry: Was, machine_id: UUID, sitting_id: UUID, run_id: UUID | None) -> dict[str, object]:
    is_reading = entry.member.startswith(READING)
    return {
        "machine_id": machine_id,
        "sitting_id": sitting_id,
        "run_id": run_id,
        "measure_id": UUID(entry.member.removeprefix(READING)) if is_reading else None,
        "member": "reading" if is_reading else entry.member,
        "old": _reading(entry.value) if isinstance(entry.value, Reading) else _plain(entry.value),
        # What came after is what the next entry, or the thing itself, says.
        "new": None,
        "by": entry.by,
        "at": entry.at,
        "reason": entry.reason,
    }


def edits_of(old: Mapping[str, object], new: Mapping[str, object], **place: UUID) -> list[Edit]:
    """Name every member in which two states of a thing differ."""
    return [
        Edit(name, _plain(old[name]), _plain(value), **place) for name, value in new.items() if old[name] != value
    ]


def edits_of_run(old: Run, new: Run) -> list[Edit]:
    """Name every member and reading in which a run, as it is written now, differs from what stood there."""
    place = {"sitting_id": UUID(new.sitting_id), "run_id": UUID(new.id)}
    members = [{name: getattr(run, name) for name in CORRECTABLE} for run in (old, new)]
    changed = edits_of(members[0], members[1], **place)
    measures = dict.fromkeys([*old.readings, *new.readings])
    return changed + [
        Edit("reading", _reading(before), _reading(after), **place, measure_id=UUID(measure))
        for measure in measures
        if _reading(before := old.readings.get(measure)) != _reading(after := new.readings.get(measure))
    ]


def _reading(reading: Reading | None) -> Json:
    return None if reading is None else {"low": reading.low, "high": reading.high, **_marks(reading)}


def _marks(reading: Reading) -> dict[str, Json]:
    marks = {"about": reading.about, "source": reading.source, "statistic": reading.statistic}
    return {name: mark for name, mark in marks.items() if mark}


def _plain(value: object) -> Json:
    if isinstance(value, datetime):
        return value.isoformat()
    if isinstance(value, UUID):
        return str(value)
    assert value is None or isinstance(value, (str, int, float, bool, list, dict))
    return value
