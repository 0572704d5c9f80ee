"""Traces: compact arrays a channel and chunk, appended while a run lasts, read only as asked."""

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import datetime, timedelta
from typing import cast
from uuid import UUID

import numpy as np
from sqlalchemy import delete, func, select, update
from sqlalchemy.dialects.postgresql import insert
from sqlalchemy.orm import Session

from lynxbill.core.heat.roles import ChannelRole
from lynxbill.core.heat.trace import Floats, Samples, TraceSource, WholeTrace
from lynxbill.core.record.ids import Plain
from lynxbill.core.record.run import Run
from lynxbill.store.tables.evidence import ChannelRow, ChunkRow, TraceRow

# A trace that was not heard of for so long: its agent is gone, or away from the server.
SILENT = timedelta(minutes=2)
# A live trace grows its last chunk up to this many samples: more would be written anew with each batch.
GROWS_TO = 512
# What comes at once is cut into chunks of so many.
CHUNK = 16_384


@dataclass(frozen=True, slots=True)
class ChannelKey:
    """What tells the channels of a trace apart."""

    role: str
    of: str
    unit: str
    sensor: str
    stands_in: bool


@dataclass(frozen=True, slots=True)
class Channel:
    """A channel as it is kept: how many samples, and from where to where in its unit (None: no value yet)."""

    number: int
    key: ChannelKey
    count: int
    low: float | None
    high: float | None


@dataclass(frozen=True, slots=True)
class Trace:
    """A trace without its samples."""

    id: UUID
    sitting_id: UUID
    workload_id: UUID
    position: int
    warm_up: bool
    started_at: datetime
    heard_at: datetime
    ended: bool
    marks: tuple[tuple[float, str], ...]
    missing: dict[str, str]
    source: TraceSource
    seen: dict[str, Plain]
    channels: tuple[Channel, ...]


def read_traces(session: Session, machine_id: UUID, sittings: Sequence[UUID] | None = None) -> list[Trace]:
    """The traces of a machine's sittings; without any named, those that still come in."""
    found = select(TraceRow).where(TraceRow.machine_id == machine_id).order_by(TraceRow.started_at, TraceRow.id)
    found = (
        found.where(TraceRow.ended.is_(False)) if sittings is None else found.where(TraceRow.sitting_id.in_(sittings))
    )
    return [_trace(session, row) for row in session.scalars(found)]


def find_lasting(session: Session, machine_id: UUID) -> UUID | None:
    """The run that lasts on a machine, by its trace: one that ended, or was not heard of for long, does not."""
    lasts = TraceRow.ended.is_(False) & (TraceRow.heard_at > func.now() - SILENT)
    newest = select(TraceRow.id).where(TraceRow.machine_id == machine_id, lasts).order_by(TraceRow.started_at.desc())
    return session.scalar(newest.limit(1))


def find_trace(session: Session, trace_id: UUID) -> Trace | None:
    row = session.get(TraceRow, trace_id)
    return None if row is None else _trace(session, row)


def _trace(session: Session, row: TraceRow) -> Trace:
    channels = session.scalars(select(ChannelRow).where(ChannelRow.trace_id == row.id).order_by(ChannelRow.number))
    return Trace(
        *(row.id, row.sitting_id, row.workload_id, row.position, row.warm_up),
        *(row.started_at, row.heard_at, row.ended),
        marks=tuple((float(at), str(phase)) for at, phase in row.marks),
        missing={role: str(why) for role, why in row.missing.items()},
        source=row.source,
        seen=row.seen,
        channels=tuple(
            Channel(c.number, ChannelKey(c.role, c.of, c.unit, c.sensor, c.stands_in), c.count, c.low, c.high)
            for c in channels
        ),
    )


def channel_for(session: Session, trace_id: UUID, key: ChannelKey) -> Channel:
    """Find a channel of a trace by what it is, or begin it."""
    rows = session.scalars(select(ChannelRow).where(ChannelRow.trace_id == trace_id)).all()
    for row in rows:
        if (row.role, row.of, row.unit, row.sensor) == (key.role, key.of, key.unit, key.sensor):
            return Channel(row.number, key, row.count, row.low, row.high)
    number = len(rows)
    session.add(
        ChannelRow(
            trace_id=trace_id,
            number=number,
            role=key.role,
            of=key.of,
            unit=key.unit,
            sensor=key.sensor,
            stands_in=key.stands_in,
            count=0,
            low=None,
            high=None,
        )
    )
    session.flush()
    return Channel(number, key, 0, None, None)


def last_second(session: Session, trace_id: UUID, channel: int) -> float:
    """When the last sample of a channel was taken, in seconds since the start; -1 where it has none."""
    of = (ChunkRow.trace_id == trace_id) & (ChunkRow.channel == channel)
    found = session.scalar(select(func.max(ChunkRow.to_s)).where(of))
    return -1.0 if found is None else found


def append(session: Session, trace_id: UUID, channel: Channel, at: Floats, values: Floats) -> None:
    """
    Append samples to a channel.

    Args:
        at: shape (n,), seconds, rising, after all that is kept; values: shape (n,), NaN is a gap.
    """
    if len(at) == 0:
        return
    first = channel.count
    last = session.scalars(
        select(ChunkRow)
        .where(ChunkRow.trace_id == trace_id, ChunkRow.channel == channel.number)
        .order_by(ChunkRow.first.desc())
        .limit(1)
    ).first()
    if last is not None and last.count + len(at) <= GROWS_TO:
        last.at, last.held = last.at + at.tobytes(), last.held + values.tobytes()
        last.count += len(at)
        last.to_s = float(at[-1])
    else:
        chunks = [
            {
                "trace_id": trace_id,
                "channel": channel.number,
                "first": first + start,
                "count": len(at[start : start + CHUNK]),
                "from_s": float(at[start]),
                "to_s": float(at[start : start + CHUNK][-1]),
                "at": at[start : start + CHUNK].tobytes(),
                "held": values[start : start + CHUNK].tobytes(),
            }
            for start in range(0, len(at), CHUNK)
        ]
        session.execute(insert(ChunkRow), chunks)
    known = values[~np.isnan(values)]
    low, high = (float(known.min()), float(known.max())) if len(known) else (None, None)
    session.execute(
        update(ChannelRow)
        .where(ChannelRow.trace_id == trace_id, ChannelRow.number == channel.number)
        .values(
            count=ChannelRow.count + len(at),
            low=func.least(ChannelRow.low, low),
            high=func.greatest(ChannelRow.high, high),
        )
    )


def read_samples(
    session: Session, trace_id: UUID, channel: int, from_s: float | None, to_s: float | None
) -> tuple[Floats, Floats]:
    """
    Read the samples of a channel in a window.

    Returns: seconds and values, shape (n,) each; NaN is a gap.
    """
    found = select(ChunkRow.at, ChunkRow.held).where(ChunkRow.trace_id == trace_id, ChunkRow.channel == channel)
    if from_s is not None:
        found = found.where(ChunkRow.to_s >= from_s)
    if to_s is not None:
        found = found.where(ChunkRow.from_s <= to_s)
    chunks = session.execute(found.order_by(ChunkRow.first)).all()
    at = np.concatenate([np.empty(0), *(np.frombuffer(chunk.at) for chunk in chunks)])
    held = np.concatenate([np.empty(0), *(np.frombuffer(chunk.held) for chunk in chunks)])
    inside = np.ones(len(at), dtype=bool)
    if from_s is not None:
        inside &= at >= from_s
    if to_s is not None:
        inside &= at <= to_s
    return at[inside], held[inside]


def insert_trace(session: Session, run: Run, machine_id: UUID, workload_id: UUID, trace: WholeTrace) -> None:
    """Keep the whole trace of a run."""
    session.add(
        TraceRow(
            id=UUID(run.id),
            machine_id=machine_id,
            sitting_id=UUID(run.sitting_id),
            workload_id=workload_id,
            position=run.position,
            warm_up=run.warm_up,
            started_at=trace.started_at,
            heard_at=trace.started_at,
            ended=True,
            marks=[list(mark) for mark in trace.marks],
            missing=dict(trace.missing),
            source=trace.source,
        )
    )
    session.flush()
    for samples in trace.channels:
        key = ChannelKey(samples.role, samples.of, samples.unit, samples.sensor, samples.stands_in)
        channel = channel_for(session, UUID(run.id), key)
        append(session, UUID(run.id), channel, as_array(samples.at), as_array(samples.values))


def read_whole(session: Session, trace: Trace) -> WholeTrace:
    """Read a trace with all its samples."""
    return WholeTrace(
        started_at=trace.started_at,
        channels=tuple(_samples(session, trace.id, channel) for channel in trace.channels),
        marks=trace.marks,
        missing=trace.missing,
        source=trace.source,
    )


def _samples(session: Session, trace_id: UUID, channel: Channel) -> Samples:
    at, held = read_samples(session, trace_id, channel.number, None, None)
    key = channel.key
    values = tuple(None if gap else value for value, gap in zip(held.tolist(), np.isnan(held).tolist(), strict=True))
    role = cast(ChannelRole, key.role)
    return Samples(role, key.of, key.unit, key.sensor, tuple(at.tolist()), values, key.stands_in)


def as_array(values: Sequence[float | None]) -> Floats:
    """Samples as an array; NaN is a gap."""
    return np.array([np.nan if value is None else value for value in values], dtype=np.float64)


def delete_trace(session: Session, trace_id: UUID) -> None:
    """Take a trace away with all its samples."""
    session.execute(delete(ChunkRow).where(ChunkRow.trace_id == trace_id))
    session.execute(delete(ChannelRow).where(ChannelRow.trace_id == trace_id))
    session.execute(delete(TraceRow).where(TraceRow.id == trace_id))
