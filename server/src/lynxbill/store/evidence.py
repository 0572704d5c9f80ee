"""Runs with their readings, found by sitting; and the sheets that are kept of them."""

from collections.abc import Callable, Collection, Iterable, Mapping, Sequence
from dataclasses import asdict, dataclass
from itertools import chain
from typing import Any
from uuid import UUID

from psycopg.types.json import Jsonb
from sqlalchemy import ColumnElement, Row, select
from sqlalchemy.dialects.postgresql import insert
from sqlalchemy.orm import Session

from lynxbill.core.reading.tally import SHEETS_VERSION, make_sheet
from lynxbill.core.record.frame import Frame
from lynxbill.core.record.ids import RunId, SittingId
from lynxbill.core.record.run import RUN_MEMBERS, LateExclusion, Reading, Run, Was
from lynxbill.core.record.sheet import Level, Sheet, SheetKey
from lynxbill.core.terms.grain import Grain
from lynxbill.core.terms.measure import MeasureId
from lynxbill.store.edits import runs_were
from lynxbill.store.rows import reading_values, run_values
from lynxbill.store.tables.evidence import ReadingRow, RunRow, SheetRow, SittingRow

_TABLE = ReadingRow.__table__.c
_FIGURES = (_TABLE.low, _TABLE.high, _TABLE.about, _TABLE.source, _TABLE.statistic, _TABLE.confirmed)
_READING = (_TABLE.run_id, _TABLE.measure_id, *_FIGURES)
# So many runs are written in one stream: whoever waits is told after each.
BATCH = 5000
KeptSheets = Mapping[tuple[UUID, UUID], Sheet]


@dataclass(frozen=True, slots=True)
class Evidence:
    """Runs in the order of their sittings, and the version of each by its id."""

    runs: tuple[Run, ...]
    versions: Mapping[str, int]


def load_evidence(
    session: Session, frame: Frame, sittings: Collection[str] | None, workloads: Collection[str] | None = None
) -> Evidence:
    """
    Read the runs of some sittings, or (None) of the whole machine; nothing else of it is touched.

    Args:
        workloads: names; None for all.
    """
    if sittings is not None and not sittings:
        return Evidence((), {})
    machine = UUID(frame.machine.id)
    # Many and only read here: plain rows, past the mapping of objects, spare half of the time.
    connection = session.connection()
    session.flush()
    names = {UUID(w.id): w.name for w in frame.workloads if workloads is None or w.name in workloads}
    asked = None if workloads is None else list(names)
    found = connection.execute(select(RunRow.__table__).where(*_within(RunRow, machine, sittings, asked))).all()
    measures = {UUID(measure.id): measure.id for measure in frame.measures}
    readings: dict[UUID, dict[MeasureId, Reading]] = {}
    for row in connection.execute(select(*_READING).where(*_within(ReadingRow, machine, sittings, asked))):
        run_id, measure_id, *figures = row
        readings.setdefault(run_id, {})[measures[measure_id]] = Reading(*figures)
    known = enumerate(sitting.id for sitting in frame.sittings)
    place = {UUID(sitting): number for number, sitting in known if sittings is None or sitting in sittings}
    ordered = sorted(found, key=lambda r: (place[r.sitting_id], r.workload_id, not r.warm_up, r.position))
    was = runs_were(session, machine, None if sittings is None else [UUID(sitting) for sitting in sittings])
    runs = tuple(_run(row, names[row.workload_id], readings.get(row.id, {}), was.get(row.id, ())) for row in ordered)
    return Evidence(runs, {str(row.id): row.version for row in found})


def insert_runs(
    session: Session,
    machine_id: UUID,
    workloads: Mapping[str, UUID],
    scales: Mapping[MeasureId, str],
    runs: Sequence[Run],
    written: Callable[[int], None] = lambda _: None,
) -> None:
    """
    Write runs that are new with their readings, in streams.

    Args:
        workloads: ids by name.
        scales: of every measure by its id.
        written: told how many runs are written by now; what it raises ends the writing.
    """
    for first in range(0, len(runs), BATCH):
        made = [(UUID(run.id), workloads[run.workload], run) for run in runs[first : first + BATCH]]
        _copy(session, RunRow, ({"id": i, "machine_id": machine_id, **run_values(r, w)} for i, w, r in made))
        _copy(
            session,
            ReadingRow,
            (
                {"machine_id": machine_id, "run_id": i, "scale": scales[m], **reading_values(r, w, m)}
                for i, w, r in made
                for m in r.readings
            ),
        )
        written(first + len(made))


def load_sheets(session: Session, machine_id: UUID, *, since: int = -1) -> tuple[KeptSheets, frozenset[Any]]:
    """Read the sheets of a machine that were written after its evidence had a count; and which of them are empty."""
    query = select(SheetRow.sitting_id, SheetRow.workload_id, SheetRow.content)
    asked = query.where(SheetRow.machine_id == machine_id, SheetRow.stamp > since)
    rows = session.connection().execute(asked).all()
    sheets = {(row.sitting_id, row.workload_id): _sheet(row.content) for row in rows if row.content is not None}
    return sheets, frozenset((row.sitting_id, row.workload_id) for row in rows if row.content is None)


def keep_sheets(session: Session, frame: Frame, keys: Iterable[SheetKey], runs: Iterable[Run], stamp: int) -> None:
    """Make the sheets of some sittings and workloads anew; `runs` holds all that stand in them, as written by now."""
    ids = {workload.name: workload.id for workload in frame.workloads}
    by_key: dict[SheetKey, list[Run]] = {key: [] for key in keys}
    for run in runs:
        if (run.sitting_id, run.workload) in by_key:
            by_key[run.sitting_id, run.workload].append(run)
    for (sitting, workload), of_sheet in by_key.items():
        measures = [measure for measure in frame.measures if measure.workload == workload]
        of_sheet.sort(key=lambda run: (not run.warm_up, run.position))
        _put(session, frame, sitting, ids[workload], make_sheet(of_sheet, measures), stamp)


def insert_sheets(session: Session, frame: Frame, sheets: Mapping[SheetKey, Sheet]) -> None:
    """Keep the sheets of a machine that was just taken in."""
    ids = {workload.name: UUID(workload.id) for workload in frame.workloads}
    kept = {"machine_id": UUID(frame.machine.id), "shape": SHEETS_VERSION, "stamp": 0}
    keys = (
        {"sitting_id": UUID(sitting), "workload_id": ids[workload], **kept, "content": asdict(sheet)}
        for (sitting, workload), sheet in sheets.items()
    )
    _copy(session, SheetRow, keys)


def has_old_sheets(session: Session, machine_id: UUID) -> bool:
    """Whether a machine has runs without sheets, or sheets of another shape than this program makes."""
    of_machine = SheetRow.machine_id == machine_id
    older = select(SheetRow.sitting_id).where(of_machine, SheetRow.shape != SHEETS_VERSION).limit(1)
    if session.scalar(older) is not None:
        return True
    has_sheet = session.scalar(select(SheetRow.sitting_id).where(of_machine).limit(1)) is not None
    return (
        not has_sheet
        and session.scalar(select(RunRow.id).where(RunRow.machine_id == machine_id).limit(1)) is not None
    )


def has_runs_of(session: Session, machine_id: UUID, workload_id: UUID) -> bool:
    """Whether a workload has runs."""
    of_workload = SheetRow.machine_id == machine_id, SheetRow.workload_id == workload_id
    query = select(SheetRow.sitting_id).where(*of_workload, SheetRow.content.is_not(None)).limit(1)
    return session.scalar(query) is not None


def has_runs_in(session: Session, machine_id: UUID, sitting_id: UUID) -> bool:
    """Whether a sitting has runs, or had readings that were taken back."""
    of_sitting = RunRow.machine_id == machine_id, RunRow.sitting_id == sitting_id
    return session.scalar(select(RunRow.id).where(*of_sitting).limit(1)) is not None


def was_ever_read(session: Session, machine_id: UUID, build_id: UUID) -> bool:
    """Whether a reading of a build was ever written, of any purpose, whether or not it was taken back since."""
    of_build = RunRow.machine_id == machine_id, SittingRow.build_id == build_id
    has_reading = select(ReadingRow.run_id).where(ReadingRow.run_id == RunRow.id).exists()
    query = select(RunRow.id).join(SittingRow, SittingRow.id == RunRow.sitting_id)
    read = query.where(*of_build, RunRow.written_at.is_not(None) | has_reading).limit(1)
    return session.scalar(read) is not None


def is_sealed(session: Session, build_id: UUID) -> bool:
    """Whether a build has runs, so that its parts and settings stand as they were measured."""
    query = select(SheetRow.sitting_id).join(SittingRow, SittingRow.id == SheetRow.sitting_id)
    sealed = query.where(SittingRow.build_id == build_id, SheetRow.content.is_not(None)).limit(1)
    return session.scalar(sealed) is not None


def _within(
    table: type[RunRow] | type[ReadingRow],
    machine: UUID,
    sittings: Collection[str] | None,
    workloads: Collection[UUID] | None,
) -> list[ColumnElement[bool]]:
    asked: list[ColumnElement[bool]] = [table.machine_id == machine]
    if sittings is not None:
        asked.append(table.sitting_id.in_([UUID(s) for s in sittings]))
    if workloads is not None:
        asked.append(table.workload_id.in_(workloads))
    return asked


def _put(session: Session, frame: Frame, sitting: str, workload: str, sheet: Sheet | None, stamp: int) -> None:
    kept = {
        "machine_id": UUID(frame.machine.id),
        "shape": SHEETS_VERSION,
        "stamp": stamp,
        "content": None if sheet is None else asdict(sheet),
    }
    written = insert(SheetRow).values(sitting_id=UUID(sitting), workload_id=UUID(workload), **kept)
    session.execute(written.on_conflict_do_update(index_elements=["sitting_id", "workload_id"], set_=kept))


def _sheet(content: Mapping[str, Any]) -> Sheet:
    return Sheet(
        runs=content["runs"],
        failed=content["failed"],
        recipes=tuple((version, target, parameters) for version, target, parameters in content["recipes"]),
        soaks=tuple(content["soaks"]) if content["soaks"] else None,
        seconds=content["seconds"],
        levels={measure: _level(level) for measure, level in content["levels"].items()},
    )


def _level(content: Mapping[str, Any]) -> Level:
    grain = content["grain"]
    return Level(**{**content, "grain": Grain(**{**grain, "some": tuple(grain["some"])})})


def _run(row: Row[Any], workload: str, readings: Mapping[MeasureId, Reading], was: tuple[Was, ...]) -> Run:
    late = row.excluded_late_reason
    return Run(
        id=RunId(str(row.id)),
        sitting_id=SittingId(str(row.sitting_id)),
        workload=workload,
        readings=readings,
        excluded_late=LateExclusion(late, row.excluded_late_at) if late else None,
        was=was,
        **{name: getattr(row, name) for name in RUN_MEMBERS},
    )


def _copy(
    session: Session, table: type[RunRow] | type[ReadingRow] | type[SheetRow], rows: Iterable[Mapping[str, object]]
) -> None:
    """Stream rows in past the mapping of objects; a row's members stand in the same order every time."""
    rows = iter(rows)
    first = next(rows, None)
    if first is None:
        return
    statement = f"COPY {table.__tablename__} ({', '.join(first)}) FROM STDIN"
    cursor = session.connection().connection.cursor()
    with cursor.copy(statement) as stream:
        for row in chain((first,), rows):
            stream.write_row([Jsonb(value) if isinstance(value, dict) else value for value in row.values()])
