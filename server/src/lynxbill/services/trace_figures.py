"""Readings that a run gets from its trace, by the rules of its measures."""

from collections.abc import Iterable, Sequence
from dataclasses import replace
from uuid import UUID

from sqlalchemy.orm import Session

from lynxbill.core.case import Frame, Reading
from lynxbill.core.errors import UnitMismatch, UnknownUnit
from lynxbill.core.measure import Measure
from lynxbill.core.quantity import convert, unit_of
from lynxbill.core.readoff import STATISTICS, ReadOff, read_off, role_read
from lynxbill.core.trace import ChannelRole
from lynxbill.services.entries import Entry
from lynxbill.store.traces import Channel, Trace, find_trace, read_samples
from lynxbill.words.readoff import say_untold


def channel_of(channels: Iterable[Channel], role: str, of: str | None = None) -> Channel | None:
    """
    Of a trace's channels of a role the one on a part or sensor: the processor's unless another is named.

    Of several the one that reached highest; where none is named and the processor has none, any of the role.
    """
    told = [channel for channel in channels if channel.key.role == role and channel.high is not None]
    on = [channel for channel in told if (of or "processor") in (channel.key.of, channel.key.sensor)]
    return max(on or ([] if of else told), key=lambda channel: channel.high or 0.0, default=None)


def with_figures(session: Session, frame: Frame, entry: Entry) -> Entry:
    """An entry with the readings that its run's trace gives; what was written stands, what can't be read is noted."""
    asked = _asked(frame, entry)
    trace = find_trace(session, UUID(entry.run.id)) if asked and entry.run.state == "complete" else None
    if trace is None or not trace.ended:
        return entry
    room = next((s.ambient_c for s in frame.sittings if s.id == entry.run.sitting_id), None)
    readings, notes = dict(entry.written), [entry.run.note] if entry.run.note else []
    for measure, role in asked:
        found = _read(session, trace, measure, role, room)
        if found.value is not None and measure.trace_figure is not None:
            statistic = STATISTICS.get(measure.trace_figure)
            readings[measure.id] = Reading(found.value, found.value, statistic=statistic)
        elif found.why is not None and (said := say_untold(measure, role, found.why)) not in entry.run.note:
            notes.append(said)
    return replace(entry, run=replace(entry.run, note=" ".join(notes)), written=readings)


def _asked(frame: Frame, entry: Entry) -> Sequence[tuple[Measure, ChannelRole]]:
    name = next((w.name for w in frame.workloads if w.id == str(entry.workload_id)), None)
    asked = [m for m in frame.measures if m.workload == name and m.trace_figure and m.id not in entry.written]
    return [(measure, role) for measure in asked if (role := role_read(measure)) is not None]


def _read(session: Session, trace: Trace, measure: Measure, role: ChannelRole, room: float | None) -> ReadOff:
    channel = channel_of(trace.channels, role, measure.trace_of)
    if channel is None or measure.trace_figure is None:
        return ReadOff(None, "no channel")
    found = read_off(measure.trace_figure, role, *read_samples(session, trace.id, channel.number, None, None))
    unit = {"within 1 K": "s", "held back": "%"}.get(measure.trace_figure, channel.key.unit)
    if found.value is None:
        return found
    if unit == "Cel" and measure.unit == "K":
        # A rise above the room.
        return ReadOff(None, "no room") if room is None else ReadOff(found.value - room)
    try:
        return ReadOff(convert(found.value, unit, unit_of(measure.unit)))
    except (UnitMismatch, UnknownUnit):
        return ReadOff(None, "unit")
