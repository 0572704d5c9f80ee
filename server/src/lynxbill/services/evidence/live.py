"""A run while it lasts, beside earlier runs of the same work at the same minute."""

from collections.abc import Mapping
from dataclasses import dataclass
from uuid import UUID

import numpy as np
from sqlalchemy.orm import Session

from lynxbill.core.heat.live import clock_falls_since, find_latest, first_rise
from lynxbill.core.heat.roles import BY_MACHINE, SENSED, ChannelRole
from lynxbill.core.heat.trace import Floats, Stretches, thin_out
from lynxbill.core.plan.conditions import condition_departures, held_conditions
from lynxbill.core.reading.counting import compared_sittings
from lynxbill.core.record.frame import Case
from lynxbill.core.record.ids import BuildId
from lynxbill.core.record.run import Sitting
from lynxbill.core.record.workload import Workload
from lynxbill.core.terms.quantity import unit_of
from lynxbill.services.base.transaction import Sessions, reading
from lynxbill.services.evidence.trace_figures import channel_of
from lynxbill.store.kept import read_case
from lynxbill.store.traces import Channel, Trace, find_lasting, find_trace, read_samples, read_traces
from lynxbill.words.heat.live import Seen, WordedLive, say_live

MOST_BESIDE = 4
POINTS = 600
# What is drawn: whatever can settle.
ROLES = tuple(role for role in BY_MACHINE if SENSED[role].within)
_Samples = tuple[Floats, Floats]


@dataclass(frozen=True, slots=True)
class Curve:
    """One role of a run, as it is drawn: temperatures above the room where that was noted of all."""

    role: str
    unit: str
    sensor: str
    stretches: Stretches


@dataclass(frozen=True, slots=True)
class RunCurves:
    """A run's curves; `is_other` where it is of the side that the one that lasts is set against."""

    run: UUID
    build: str
    is_other: bool
    warm_up: bool
    position: int
    curves: tuple[Curve, ...]


@dataclass(frozen=True, slots=True)
class Live:
    """The run that lasts, with its curves before those of earlier runs, and what is to be said now."""

    trace: Trace
    workload: Workload
    above_room: bool
    runs: tuple[RunCurves, ...]
    worded: WordedLive


@dataclass(frozen=True, slots=True)
class _Told:
    """A run with the samples of one channel a role, and the sitting and build that it is of."""

    trace: Trace
    sitting: Sitting
    letter: str
    is_other: bool
    channels: Mapping[ChannelRole, Channel]
    samples: Mapping[ChannelRole, _Samples]


def view_live(sessions: Sessions, machine_id: UUID) -> Live | None:
    """Say how the run that lasts is doing; None where none does."""
    with reading(sessions) as session:
        case = read_case(session, machine_id)
        lasting = find_lasting(session, machine_id)
        trace = None if lasting is None else find_trace(session, lasting)
        if trace is None:
            return None
        told = _tell(session, machine_id, case, trace)
    this, *others = told
    workload = next(w for w in case.workloads if w.id == str(this.trace.workload_id))
    above_room = all(one.sitting.ambient_c is not None for one in told)
    seen = _see(case, workload, this, [one for one in others if one.is_other], above_room)
    return Live(
        trace=this.trace,
        workload=workload,
        above_room=above_room,
        runs=tuple(_curves(one, above_room) for one in told),
        worded=say_live(seen, case.machine.decimal_mark),
    )


def _tell(session: Session, machine_id: UUID, case: Case, trace: Trace) -> list[_Told]:
    """The run that lasts, then runs of the other side, then earlier ones of its own; of the same work."""
    sittings = {str(s.id): s for s in case.sittings}
    sitting = sittings[str(trace.sitting_id)]
    other = other_build(case, sitting.build_id)
    asked = [s for s in compared_sittings(case, sitting.build_id) if s.id != sitting.id] + [sitting]
    theirs = list(compared_sittings(case, other)) if other is not None else []
    found = []
    for side in (theirs, asked):
        runs = read_traces(session, machine_id, [UUID(s.id) for s in side]) if side else []
        alike = [t for t in runs if t.workload_id == trace.workload_id and not t.warm_up and t.ended and t.channels]
        found += alike[-MOST_BESIDE:]
    return [
        _Told(
            trace=one,
            sitting=sittings[str(one.sitting_id)],
            letter=case.build(sittings[str(one.sitting_id)].build_id).letter,
            is_other=sittings[str(one.sitting_id)].build_id == other,
            channels=_one_a_role(one),
            samples={
                role: read_samples(session, one.id, c.number, None, None) for role, c in _one_a_role(one).items()
            },
        )
        for one in [trace, *found]
    ]


def other_build(case: Case, build: BuildId) -> BuildId | None:
    """The side that a build is set against: the one before the swap into it, else the one after the swap from it."""
    into = case.swap_into(build)
    if into is not None:
        return into.before
    return next((swap.after for swap in reversed(case.swaps) if swap.before == build), None)


def _one_a_role(trace: Trace) -> dict[ChannelRole, Channel]:
    """Of each role one channel: on the processor where there is one, and of these the one that reached highest."""
    chosen: dict[ChannelRole, Channel] = {}
    for role in (*ROLES, "held back"):
        found = channel_of(trace.channels, role)
        if found is not None:
            chosen[role] = found
    return chosen


def _above(one: _Told, role: ChannelRole, above_room: bool) -> _Samples:
    at, values = one.samples[role]
    room = one.sitting.ambient_c or 0.0
    return (at, values - room) if role == "temperature" and above_room else (at, values)


def _see(case: Case, workload: Workload, this: _Told, others: list[_Told], above_room: bool) -> Seen:
    latest = {}
    for role in ROLES:
        if role not in this.samples:
            continue
        there = [_above(one, role, above_room) for one in others if role in one.samples]
        found = find_latest(role, *_above(this, role, above_room), there)
        if found is not None:
            latest[role] = found
    rooms = [one.sitting.ambient_c for one in others if one.sitting.ambient_c is not None]
    nothing = np.empty(0), np.empty(0)
    number = f"warm-up {this.trace.position}" if this.trace.warm_up else f"run {this.trace.position}"
    return Seen(
        workload=workload.name,
        build=this.letter,
        run=number,
        elapsed_s=max((float(at[-1]) for at, _ in this.samples.values() if len(at)), default=0.0),
        length_s=_length(workload, others),
        above_room=above_room,
        other_build=others[0].letter if others else None,
        rooms=(this.sitting.ambient_c, sum(rooms) / len(rooms) if rooms else None),
        units={role: unit_of(channel.key.unit).display for role, channel in this.channels.items()},
        latest=latest,
        clock_falls_s=clock_falls_since(*this.samples.get("clock", nothing)),
        held_back_s=first_rise(*this.samples.get("held back", nothing)),
        not_held=condition_departures(this.sitting, case.plan_of(this.sitting.build_id).conditions),
        held=held_conditions(this.sitting, case.plan_of(this.sitting.build_id).conditions),
        seen=this.trace.seen,
        missing={role: why for role, why in this.trace.missing.items() if role != "held back"},
        stands_in=any(channel.key.stands_in for channel in this.channels.values()),
    )


def _length(workload: Workload, others: list[_Told]) -> float | None:
    """How long a run takes: as the others did, else as the workload says."""
    lasted = [float(at[-1]) for one in others for at, _ in list(one.samples.values())[:1] if len(at)]
    if lasted:
        return float(np.median(lasted))
    return None if workload.minutes_a_run is None else 60 * workload.minutes_a_run


def _curves(one: _Told, above_room: bool) -> RunCurves:
    curves = []
    for role in ROLES:
        if role in one.samples:
            key = one.channels[role].key
            unit = "K" if role == "temperature" and above_room else unit_of(key.unit).display
            curves.append(Curve(role, unit, key.sensor, thin_out(*_above(one, role, above_room), POINTS)))
    return RunCurves(one.trace.id, one.letter, one.is_other, one.trace.warm_up, one.trace.position, tuple(curves))
