"""Sensor logs of other programs: looked at, then taken in as the trace of a run, whole or not at all."""

import shutil
import tempfile
import time
from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from pathlib import Path
from typing import IO
from uuid import UUID, uuid4

import numpy as np
from sqlalchemy import select
from sqlalchemy.dialects.postgresql import insert
from sqlalchemy.orm import Session

from lynxbill.core.heat.trace import LONGEST_S, MOST_SAMPLES, Floats
from lynxbill.core.terms.errors import BadValue, Clash, Missing
from lynxbill.exchange.sensor_log import HEAD_BYTES, LogColumn, LogForm, LogHead, look_at_log, read_log
from lynxbill.services.base.act import Act
from lynxbill.services.base.transaction import Sessions, reading, transaction
from lynxbill.services.evidence.traces import Coming, end_trace, replace_trace
from lynxbill.store.snapshot import find_machine
from lynxbill.store.tables.evidence import LogHeadingRow
from lynxbill.store.traces import ChannelKey, append, channel_for

MOST_TAKEN = 60
# A log that nobody took in is thrown away after so long.
_KEPT_S = 3600.0
_PREFIX = "lynxbill-log-"


@dataclass(frozen=True, slots=True)
class Wanted:
    """
    What of a log is taken in: its form, the columns, and the stretch that is the run's, in seconds of the log.

    `lasts_s` None: to the end of the log.
    """

    form: LogForm
    columns: tuple[LogColumn, ...]
    begins_s: float = 0.0
    lasts_s: float | None = None


@dataclass(frozen=True, slots=True)
class TakenIn:
    """How far a log is: `share` of it is read; `samples` a channel once it is kept."""

    share: float
    samples: int | None = None


def receive_log(sessions: Sessions, file: IO[bytes]) -> tuple[UUID, LogHead]:
    """Keep a log beside, for an hour at most, and say how it is written."""
    _sweep()
    file.seek(0)
    head = file.read(HEAD_BYTES)
    with reading(sessions) as session:
        found = look_at_log(head, _known(session))
    identifier = uuid4()
    file.seek(0)
    with _path(identifier).open("xb") as kept:
        shutil.copyfileobj(file, kept)
    return identifier, found


def _known(session: Session) -> dict[str, LogColumn]:
    rows = session.scalars(select(LogHeadingRow))
    return {row.heading: LogColumn(0, row.heading, row.role, row.of, row.unit) for row in rows}


def take_in_log(
    sessions: Sessions, act: Act, machine_id: UUID, run_id: UUID, log: UUID, coming: Coming, wanted: Wanted
) -> Iterator[TakenIn]:
    """
    Take a log in as the trace of a run; whoever stops to ask for more has taken in nothing.

    Raises:
        UnusableText: cells that can't be read, by row and column; nothing is taken in then.
    """
    path = _path(log)
    if not path.exists():
        raise Missing("This log is not here any more: choose the file once more.", field="log")
    if not 1 <= len(wanted.columns) <= MOST_TAKEN:
        raise BadValue(f"Choose between 1 and {MOST_TAKEN} columns to take in.", field="columns")
    size, done = path.stat().st_size or 1, [0]
    times, values = list[Floats](), [list[Floats]() for _ in wanted.columns]
    with path.open("rb") as file:
        for rows in read_log(file, wanted.form, wanted.columns, lambda read: done.append(read)):
            inside = _inside(rows.at, wanted)
            times.append(rows.at[inside] - wanted.begins_s)
            for kept, told in zip(values, rows.values, strict=True):
                kept.append(told[inside])
            yield TakenIn(min(1.0, done[-1] / size))
    at = np.concatenate([np.empty(0), *times])
    _check(at)
    with transaction(sessions) as session:
        find_machine(session, machine_id, lock=True)
        row = replace_trace(session, act, machine_id, run_id, coming, "log")
        for column, kept in zip(wanted.columns, values, strict=True):
            key = ChannelKey(column.role or "load", column.of, column.kept_unit, column.heading, stands_in=False)
            append(session, run_id, channel_for(session, run_id, key), at, np.concatenate(kept))
            kept.clear()
        _remember(session, wanted.columns)
        end_trace(session, act, row)
    path.unlink(missing_ok=True)
    yield TakenIn(1.0, len(at))


def _inside(at: Floats, wanted: Wanted) -> np.ndarray:
    ends = np.inf if wanted.lasts_s is None else wanted.begins_s + wanted.lasts_s
    return (at >= wanted.begins_s) & (at <= ends)


def _check(at: Floats) -> None:
    if len(at) == 0:
        raise BadValue("No row of the log lies in this stretch of time.", field="begins_s")
    if len(at) > MOST_SAMPLES or at[-1] > LONGEST_S:
        raise Clash(f"A trace has at most {MOST_SAMPLES} samples and lasts at most two weeks.")
    if np.any(np.diff(at) <= 0):
        raise BadValue("Times of this log do not rise from row to row.", field="form")


def _remember(session: Session, columns: Sequence[LogColumn]) -> None:
    """What was said of a column once is what it is taken for the next time."""
    headings = [{"heading": c.heading, "role": c.role, "of": c.of, "unit": c.unit} for c in columns]
    fresh = insert(LogHeadingRow).values(headings)
    session.execute(
        fresh.on_conflict_do_update(
            index_elements=["heading"],
            set_={name: fresh.excluded[name] for name in ("role", "of", "unit")},
        )
    )


def _path(log: UUID) -> Path:
    return Path(tempfile.gettempdir()) / f"{_PREFIX}{log}"


def _sweep() -> None:
    for path in Path(tempfile.gettempdir()).glob(f"{_PREFIX}*"):
        if path.is_file() and time.time() - path.stat().st_mtime > _KEPT_S:
            path.unlink(missing_ok=True)
