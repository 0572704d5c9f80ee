"""Traces: taken in while a run lasts, handed out as asked."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field
from datetime import datetime
from uuid import UUID

from sqlalchemy import select
from sqlalchemy.orm import Session

from lynxbill.core.heat.readoff import TraceFigures, figures_of
from lynxbill.core.heat.trace import MOST_SAMPLES, Stretches, TraceSource, check_samples, thin_out
from lynxbill.core.record.ids import Plain
from lynxbill.core.terms.errors import BadValue, Clash, Missing
from lynxbill.services.base.act import Act
from lynxbill.services.base.transaction import Sessions, reading, refuse_foreign, transaction
from lynxbill.services.evidence.runs import read_off_trace
from lynxbill.store.database import announce
from lynxbill.store.snapshot import find_machine
from lynxbill.store.tables.evidence import SittingRow, TraceRow
from lynxbill.store.tables.machine import BuildRow, WorkloadRow
from lynxbill.store.traces import (
    Channel,
    ChannelKey,
    Trace,
    append,
    as_array,
    channel_for,
    delete_trace,
    find_trace,
    last_second,
    read_samples,
    read_traces,
)


@dataclass(frozen=True, slots=True)
class Batch:
    """Samples of one channel: `first` is the number of the first of them, None is a gap."""

    key: ChannelKey
    first: int
    at: Sequence[float]
    values: Sequence[float | None]


@dataclass(frozen=True, slots=True)
class Coming:
    """What comes of a trace at once, with the run that it is of; `seen` is what was seen beside the sensors."""

    sitting: UUID
    workload: UUID
    position: int
    warm_up: bool
    started_at: datetime
    batches: tuple[Batch, ...] = ()
    marks: tuple[tuple[float, str], ...] = ()
    missing: Mapping[str, str] = field(default_factory=dict)
    ended: bool = False
    seen: Mapping[str, Plain] = field(default_factory=dict)


@dataclass(frozen=True, slots=True)
class Drawn:
    """A channel as it is drawn, with what it comes to."""

    channel: Channel
    stretches: Stretches
    figures: TraceFigures


def take_in_trace(sessions: Sessions, act: Act, machine_id: UUID, run_id: UUID, coming: Coming) -> Trace:
    """Take in what comes of a trace; what is here already is not stored twice, and what was lost is asked for."""
    with transaction(sessions) as session:
        # Its own row is locked, not the machine's: a trace comes every few seconds, and changes nothing else of it
        # until it ends; then the machine's first, as everybody does who saves.
        if coming.ended:
            find_machine(session, machine_id, lock=True)
        row = session.get(TraceRow, run_id, with_for_update=True)
        if row is None:
            row = _begin(session, act, machine_id, run_id, coming)
        refuse_foreign(row.machine_id, machine_id)
        for number, batch in enumerate(coming.batches):
            _append(session, run_id, number, batch)
        row.heard_at = act.at
        row.marks, row.missing = [list(mark) for mark in coming.marks] or row.marks, dict(coming.missing)
        row.seen = dict(coming.seen)
        if coming.ended and not row.ended:
            end_trace(session, act, row)
        session.flush()
        session.expire_all()
        trace = find_trace(session, run_id)
        assert trace is not None
        return trace


def _begin(session: Session, act: Act, machine_id: UUID, run_id: UUID, coming: Coming) -> TraceRow:
    find_machine(session, machine_id)
    sitting = session.get(SittingRow, coming.sitting)
    if sitting is None:
        raise Missing("This machine has no such sitting.", field="sitting")
    refuse_foreign(session.get_one(BuildRow, sitting.build_id).machine_id, machine_id, "sitting")
    workload = session.get(WorkloadRow, coming.workload)
    if workload is None:
        raise Missing("This machine has no such task.", field="workload")
    refuse_foreign(workload.machine_id, machine_id, "workload")
    # Of a sitting one run lasts at a time: one whose end was never told has ended by now.
    for other in session.scalars(
        select(TraceRow).where(TraceRow.sitting_id == coming.sitting, TraceRow.ended.is_(False))
    ):
        other.ended = True
    row = TraceRow(
        id=run_id,
        machine_id=machine_id,
        sitting_id=coming.sitting,
        workload_id=coming.workload,
        position=coming.position,
        warm_up=coming.warm_up,
        started_at=coming.started_at,
        heard_at=act.at,
        ended=False,
        marks=[],
        missing={},
    )
    session.add(row)
    session.flush()
    # The screens are told that a run lasts, and when it ended; they ask for what comes of it meanwhile.
    announce(session, machine_id, "trace", run_id)
    return row


def put_trace(
    sessions: Sessions, act: Act, machine_id: UUID, run_id: UUID, whole: Coming, source: TraceSource
) -> Trace:
    """Keep the whole trace of a run in place of one that was typed or taken in before; the agent's own stays."""
    with transaction(sessions) as session:
        find_machine(session, machine_id, lock=True)
        row = replace_trace(session, act, machine_id, run_id, whole, source)
        for number, batch in enumerate(whole.batches):
            _append(session, run_id, number, batch)
        row.marks = [list(mark) for mark in whole.marks]
        end_trace(session, act, row)
        session.flush()
        session.expire_all()
        trace = find_trace(session, run_id)
        assert trace is not None
        return trace


def replace_trace(
    session: Session, act: Act, machine_id: UUID, run_id: UUID, coming: Coming, source: TraceSource
) -> TraceRow:
    """Begin a trace anew; refuses where the agent's own stands."""
    known = session.get(TraceRow, run_id)
    if known is not None:
        refuse_foreign(known.machine_id, machine_id)
        if known.source == "agent":
            raise Clash("The bench agent recorded this run: what its sensors told stays.", field="run")
        delete_trace(session, run_id)
        session.expunge(known)
    row = _begin(session, act, machine_id, run_id, coming)
    row.source = source
    return row


def end_trace(session: Session, act: Act, row: TraceRow) -> None:
    """What comes of it is whole: its run, where it is recorded, gets what is read off it."""
    row.ended = True
    session.flush()
    announce(session, row.machine_id, "trace", row.id)
    read_off_trace(session, act, row.machine_id, row.id)


def _append(session: Session, run_id: UUID, number: int, batch: Batch) -> None:
    place = f"channels.{number}"
    channel = channel_for(session, run_id, batch.key)
    if batch.first > channel.count:
        message = f"{channel.count} samples of “{batch.key.sensor}” are here: send on from there."
        raise Clash(message, field=f"{place}.first")
    known = channel.count - batch.first
    at, values = batch.at[known:], batch.values[known:]
    if channel.count + len(at) > MOST_SAMPLES:
        raise BadValue(f"A channel has at most {MOST_SAMPLES} samples.", field=f"{place}.at")
    check_samples(at, values, last_second(session, run_id, channel.number), place)
    append(session, run_id, channel, as_array(at), as_array(values))


def list_traces(sessions: Sessions, machine_id: UUID, sittings: Sequence[UUID] | None) -> list[Trace]:
    """The traces of the sittings that are named; without any, those of runs that last."""
    with reading(sessions) as session:
        find_machine(session, machine_id)
        return read_traces(session, machine_id, sittings)


def draw_trace(
    sessions: Sessions, machine_id: UUID, run_id: UUID, window: tuple[float | None, float | None], points: int
) -> tuple[Trace, list[Drawn]]:
    """Read a trace as it is drawn: a window of time, at most so many stretches a channel."""
    with reading(sessions) as session:
        find_machine(session, machine_id)
        trace = find_trace(session, run_id)
        if trace is None:
            raise Missing("This run has no trace.")
        refuse_foreign(session.get_one(TraceRow, run_id).machine_id, machine_id)
        drawn = []
        for channel in trace.channels:
            at, values = read_samples(session, run_id, channel.number, *window)
            drawn.append(Drawn(channel, thin_out(at, values, points), figures_of(at, values)))
        return trace, drawn
