"""What was changed of evidence after it had been written: who, when, old and new; never taken back."""

from collections.abc import Iterable, Mapping
from dataclasses import asdict, dataclass
from datetime import datetime
from uuid import UUID

from sqlalchemy import insert, select
from sqlalchemy.orm import Session

from lynxbill.core.case import CORRECTABLE, Reading, Run
from lynxbill.store.tables import EditRow, Json


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
        if (before := old.readings.get(measure)) != (after := new.readings.get(measure))
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
