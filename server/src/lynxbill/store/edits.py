"""What was changed of evidence after it had been written: who, when, old and new; never taken back."""

from collections.abc import Collection, Iterable, Iterator, Mapping
from dataclasses import asdict, dataclass
from datetime import datetime
from typing import Any
from uuid import UUID

from sqlalchemy import insert, select
from sqlalchemy.orm import Session

from lynxbill.core.record.frame import Case
from lynxbill.core.record.run import CORRECTABLE, READING, Reading, Run, Was
from lynxbill.store.tables.base import Json
from lynxbill.store.tables.evidence import EditRow

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


def sittings_were(session: Session, machine_id: UUID) -> dict[UUID, tuple[Was, ...]]:
    """What stood in the members of a machine's sittings before they were changed, oldest first."""
    of_sittings = EditRow.machine_id == machine_id, EditRow.run_id.is_(None), EditRow.sitting_id.is_not(None)
    found = session.execute(select(*_WAS, EditRow.sitting_id).where(*of_sittings).order_by(EditRow.id))
    was: dict[UUID, list[Was]] = {}
    for member, old, by, at, reason, _, sitting in found:
        old = datetime.fromisoformat(old) if member in _DATES and isinstance(old, str) else old
        was.setdefault(sitting, []).extend(_was(member, old, None, by, at, reason))
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
        was.setdefault(run, []).extend(_was(member, old, measure, by, at, reason))
    return {run: tuple(entries) for run, entries in was.items()}


def was_of(edits: Iterable[Edit], by: str, at: datetime) -> tuple[Was, ...]:
    """What stood in a run until it was changed just now."""
    return tuple(was for edit in edits for was in _was(edit.member, edit.old, edit.measure_id, by, at, ""))


def _was(member: str, old: Any, measure: UUID | None, by: str, at: datetime, reason: str) -> Iterator[Was]:
    """What stood in a member; of one that has members of its own, in each of those that were changed."""
    if measure is not None:
        yield Was(f"{READING}{measure}", Reading(**old) if old is not None else None, at, by, reason)
    elif isinstance(old, dict):
        yield from (Was(f"{member}.{name}", value, at, by, reason) for name, value in old.items())
    else:
        yield Was(member, old, at, by, reason)


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
    pairs = {name: _differing(old[name], value) for name, value in new.items() if old[name] != value}
    return [Edit(name, _plain(was), _plain(now), **place) for name, (was, now) in pairs.items()]


def _differing(old: object, new: object) -> tuple[object, object]:
    """Of things with members of their own those that differ, None where one is missing."""
    if not isinstance(old, dict) or not isinstance(new, dict):
        return old, new
    names = [name for name in {**old, **new} if old.get(name) != new.get(name)]
    return {name: old.get(name) for name in names}, {name: new.get(name) for name in names}


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
