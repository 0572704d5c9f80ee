"""Readings that a run gets from its trace, by the rules of its measures."""

from collections.abc import Collection, Iterable, Sequence
from dataclasses import replace
from typing import cast
from uuid import UUID

from sqlalchemy.orm import Session

from lynxbill.core.heat.held_back import limits_of
from lynxbill.core.heat.readoff import STATISTICS, ReadOff, as_noted, phases_of, read_off, role_read
from lynxbill.core.heat.readoff import UNITS as UNITS_OF_FIGURES
from lynxbill.core.heat.roles import UNITS, ChannelRole
from lynxbill.core.heat.run import Air, air_of, channels_by_role, in_units
from lynxbill.core.heat.trace import Floats
from lynxbill.core.record.frame import Frame
from lynxbill.core.record.run import Reading
from lynxbill.core.terms.errors import UnitMismatch, UnknownUnit
from lynxbill.core.terms.measure import Measure, Summary, TraceFigure
from lynxbill.core.terms.quantity import convert, unit_of
from lynxbill.services.evidence.entries import Entry
from lynxbill.store.traces import Channel, Trace, find_trace, read_samples
from lynxbill.words.heat.readoff import say_untold

# What a figure is read off beside its own channel.
_BESIDE: dict[TraceFigure, tuple[ChannelRole, ...]] = {
    "resistance": ("power",),
    "held back": ("clock", "temperature", "power"),
}


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
    air = air_of(entry.run, room)
    readings, notes = dict(entry.written), [entry.run.note] if entry.run.note else []
    for measure, role in asked:
        found = as_noted(_read(session, frame, trace, measure, role, air), measure)
        if found.value is not None and measure.trace_figure is not None:
            statistic = STATISTICS.get(measure.trace_figure)
            readings[measure.id] = Reading(found.value, found.value, statistic=statistic)
        elif (
            found.why is not None
            and (sentence := say_untold(measure, role, found, frame.machine.decimal_mark)) not in entry.run.note
        ):
            notes.append(sentence)
    return replace(entry, run=replace(entry.run, note=" ".join(notes)), written=readings)


def _asked(frame: Frame, entry: Entry) -> Sequence[tuple[Measure, ChannelRole]]:
    name = next((w.name for w in frame.workloads if w.id == str(entry.workload_id)), None)
    asked = [m for m in frame.measures if m.workload == name and m.trace_figure and m.id not in entry.written]
    return [(measure, role) for measure in asked if (role := role_read(measure)) is not None]


def _read(
    session: Session, frame: Frame, trace: Trace, measure: Measure, role: ChannelRole, air: Air | None
) -> ReadOff:
    figure = measure.trace_figure
    if figure is None or (figure != "held back" and channel_of(trace.channels, role, measure.trace_of) is None):
        return ReadOff(None, "no channel")
    needed: set[ChannelRole] = {role, "load", *_BESIDE.get(figure, ())}
    channels = read_channels(session, trace, needed, measure.trace_of, measure.trace_by or "hottest")
    phases = phases_of(channels, trace.marks)
    limits = limits_of(frame.machine.limits, _part_of(trace.channels, measure.trace_of))
    found = read_off(measure, role, channels, phases, air, limits)
    if found.value is None or (role == "temperature" and measure.unit == "K"):
        return found
    try:
        return ReadOff(convert(found.value, UNITS_OF_FIGURES.get(figure, UNITS[role]), unit_of(measure.unit)))
    except (UnitMismatch, UnknownUnit):
        return ReadOff(None, "unit")


def _part_of(channels: Iterable[Channel], of: str | None) -> str:
    """The part that a measure's sensor sits on; where it names none, the processor."""
    return next((channel.key.of for channel in channels if channel.key.sensor == of), of or "processor")


def read_channels(
    session: Session, trace: Trace, roles: Collection[ChannelRole], of: str | None = None, how: Summary = "hottest"
) -> dict[ChannelRole, tuple[Floats, Floats]]:
    """
    The samples of a trace as heat is looked at: one channel a role, in the core's units.

    Args:
        of: the part or the sensor whose channels are taken; None: the processor's where it has any.
    """
    sensors = list[tuple[ChannelRole, str, Floats, Floats]]()
    for channel in trace.channels:
        role = cast(ChannelRole, channel.key.role)
        if role not in roles or role not in UNITS or channel.high is None:
            continue
        at, values = read_samples(session, trace.id, channel.number, None, None)
        told = in_units(role, channel.key.unit, values)
        if told is not None:
            place = of if of is not None and of == channel.key.sensor else channel.key.of
            sensors.append((role, place, at, told))
    return channels_by_role(sensors, part=of or "processor", how=how)
