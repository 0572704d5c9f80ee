"""Figures that are read off a trace by a stated rule, and become readings of the run."""

import math
from dataclasses import dataclass
from decimal import Decimal
from typing import Literal

import numpy as np

from lynxbill.core.heat.equilibrium import Equilibrium, fit_equilibrium
from lynxbill.core.heat.held_back import Limits
from lynxbill.core.heat.phases import Phase
from lynxbill.core.heat.roles import ROLE_OF_KIND, ChannelRole
from lynxbill.core.heat.run import LAST_S, Air, Channels, find_phases, held_back_in, mean_of, resistance
from lynxbill.core.heat.run import Figure as Mean
from lynxbill.core.heat.settled import Course, find_course
from lynxbill.core.heat.trace import Floats
from lynxbill.core.record.run import Statistic
from lynxbill.core.terms.errors import BadValue
from lynxbill.core.terms.measure import Measure, TraceFigure

WITHIN_K, SMOOTH_S = 1.0, 30.0
# First and last of a long session: ten minutes each.
SESSION_S = 600.0
STATISTICS: dict[TraceFigure, Statistic] = {
    "highest": "highest",
    "last minute": "mean",
    "at minute": "mean",
    "settled": "settled",
}
# What a figure comes in, where it is not its channel's unit.
UNITS: dict[TraceFigure, str] = {
    "within 1 K": "s",
    "recovery": "s",
    "held back": "%",
    "resistance": "K/W",
    "last less first": "K",
}
Untold = Literal[
    "no channel",
    "no value",
    "too short",
    "climbs",
    "falls",
    "not reached",
    "no room",
    "no power",
    "no cool-down",
    "no curve",
    "nothing",
    "unit",
]


@dataclass(frozen=True, slots=True)
class ReadOff:
    """
    A figure in its channel's unit (a time in s, a share in %, a resistance in K/W), or why there is none.

    `course` says of what had not settled where it was heading.
    """

    value: float | None
    why: Untold | None = None
    course: Course | None = None


@dataclass(frozen=True, slots=True)
class TraceFigures:
    """
    What a channel comes to, in its unit; None where it has no sample for it.

    `highest` is the highest sample, `last_minute` the mean of the last 60 s, `within_s` when it came within 1 of that
    mean to stay there, smoothed over half a minute, in seconds since the start (meant for temperatures).
    """

    highest: float | None
    last_minute: float | None
    within_s: float | None


def role_read(measure: Measure) -> ChannelRole | None:
    """
    Say of which channels a measure's figure is read off; None where it is read off no trace.

    Args:
        measure: the measure and its rule of reading.
    Raises:
        BadValue: a figure that a measure of its kind, unit or making can't have.
    """
    figure, name = measure.trace_figure, f"“{measure.name}”"
    if figure is None:
        if measure.trace_of is not None:
            raise BadValue(f"{name} names a sensor, and no figure that is read off its trace.")
        return None
    if measure.derived_from is not None or measure.combined_by is not None:
        raise BadValue(f"{name} is made from other figures: it can't be read off a trace as well.")
    if (figure == "at minute") != (measure.trace_minute is not None):
        raise BadValue(
            f"{name} is read at a minute of the load: say which."
            if figure == "at minute"
            else f"{name} names a minute, and is not read at one."
        )
    match figure:
        case "within 1 K" | "recovery":
            if measure.kind != "time":
                raise BadValue(f"{name} is how long it takes: its kind is a time.")
            return "temperature"
        case "held back":
            if measure.unit != "%" or measure.scale != "difference":
                raise BadValue(f"{name} is a share of the time: its unit is %, set against each other in points.")
            return "held back"
        case "resistance":
            if measure.unit != UNITS["resistance"]:
                raise BadValue(f"{name} is kelvin for each watt: its unit is K/W.")
            return "temperature"
        case "equilibrium" | "last less first":
            if measure.kind != "heat":
                raise BadValue(f"{name} is read off a temperature: its kind is heat.")
            if figure == "last less first" and measure.unit != "K":
                raise BadValue(f"{name} is a difference of temperatures: its unit is K.")
    role = ROLE_OF_KIND.get(measure.kind)
    if role is None:
        raise BadValue(f"{name} is neither heat, clock, power, fan nor noise: no channel of a trace tells it.")
    return role


def as_noted(found: ReadOff, measure: Measure) -> ReadOff:
    """
    Round a figure off a trace as it is noted down.

    Args:
        found: of `read_off`, in the measure's unit.
    Returns: to the decimal place of the measure's step; without one to five significant digits, which are finer than
        any sensor and short enough to be read. What is compared by ratio has no figure at zero or below.
    """
    if found.value is None:
        return found
    step = measure.step
    digits = None if step is None else max(0, -int(Decimal(str(step)).normalize().as_tuple().exponent))
    value = _to_five_digits(found.value) if digits is None else round(found.value, digits)
    return ReadOff(None, "nothing") if measure.scale == "ratio" and value <= 0 else ReadOff(value)


def _to_five_digits(value: float) -> float:
    return 0.0 if value == 0 else round(value, 4 - math.floor(math.log10(abs(value))))


def read_off(
    measure: Measure,
    role: ChannelRole,
    channels: Channels,
    phases: tuple[Phase, ...],
    air: Air | None,
    limits: Limits,
) -> ReadOff:
    """
    Read a measure's figure off the channels of a run.

    Args:
        role: of the channel that it is read off (`role_read`).
        channels: one a role, in the core's units; seconds since the start of the run, values without gaps.
        phases: those of the run; figures are of its longest load, the recovery of what follows it.
        limits: what the machine says of the part that the channels sit on; what held it back is set against them.
    Returns: “last minute”: the mean of the last 60 s of the load; “at minute”: of the 60 s up to that minute;
        “highest”: its highest; “settled”: the mean over what of the last three minutes was settled, by the rule of
        core/heat/settled.py; “equilibrium”: where the fit says that it would end; “within 1 K”: seconds until it,
        smoothed over half a minute, stays within 1 of the settled mean; “recovery”: seconds after the load until half
        of its rise is gone;
        “resistance”: rise above the room ÷ power over the last minute; “last less first”: the last ten minutes' mean
        less the first ten's; “held back”: the share of the full load, in %, by the rule of core/heat/held_back.py. A
        heat in K is told above the room, except where it is a difference already.
    """
    load = max((phase for phase in phases if phase.name == "load"), key=lambda p: p.lasted_s, default=None)
    if measure.trace_figure == "held back" and load is not None:
        return _held_back(channels, load, limits)
    if role not in channels:
        return ReadOff(None, "no channel")
    if load is None:
        return ReadOff(None, "no value")
    at, values = _of_load(load, *channels[role])
    if len(at) == 0:
        return ReadOff(None, "no value")
    found = _figure(measure, role, at, values, channels, phases, load, air)
    if found.value is None or measure.unit != "K" or measure.trace_figure in UNITS or role != "temperature":
        return found
    if air is None:
        return ReadOff(None, "no room")
    return ReadOff(found.value - _room(air, load, channels))


def _figure(
    measure: Measure,
    role: ChannelRole,
    at: Floats,
    values: Floats,
    channels: Channels,
    phases: tuple[Phase, ...],
    load: Phase,
    air: Air | None,
) -> ReadOff:
    match measure.trace_figure:
        case "highest":
            return ReadOff(float(values.max()))
        case "last minute":
            return ReadOff(float(values[at >= at[-1] - LAST_S].mean()))
        case "at minute":
            return _at_minute(at, values, measure.trace_minute or 0.0)
        case "settled":
            return _settled(role, at, values)
        case "within 1 K":
            return within_one(role, at, values)
        case "equilibrium":
            found = fit_equilibrium(at, values)
            return ReadOff(found.t_inf) if isinstance(found, Equilibrium) else ReadOff(None, "no curve")
        case "resistance":
            return _resistance(channels, load, air)
        case "recovery":
            return recovery_of(channels, phases, load)
        case "last less first":
            return _last_less_first(at, values)
        case "held back" | None:
            return ReadOff(None, "no value")


def _of_load(load: Phase, at: Floats, values: Floats) -> tuple[Floats, Floats]:
    """A channel of the load, its times counted from the load's beginning."""
    inside = load.covers(at)
    return at[inside] - load.began_s, values[inside]


def _room(air: Air, load: Phase, channels: Channels) -> float:
    lasted = max(float(at[-1]) for at, _ in channels.values())
    return air.at(load.ended_s - LAST_S / 2, lasted)


def _at_minute(at: Floats, values: Floats, minute: float) -> ReadOff:
    if at[-1] < 60 * minute - LAST_S / 4:
        return ReadOff(None, "too short")
    near = (at > 60 * minute - LAST_S) & (at <= 60 * minute)
    return ReadOff(float(values[near].mean())) if near.any() else ReadOff(None, "no value")


def _held_back(channels: Channels, load: Phase, limits: Limits) -> ReadOff:
    if not {"clock", "held back"} & set(channels):
        return ReadOff(None, "no channel")
    found = held_back_in(load, channels, limits)
    return ReadOff(None, "too short") if found is None else ReadOff(100 * found.share)


def _settled(role: ChannelRole, at: Floats, values: Floats) -> ReadOff:
    course = find_course(role, at, values)
    if course is None:
        return ReadOff(None, "too short")
    return ReadOff(course.value) if course.settled else ReadOff(None, course.way, course)


def within_one(role: ChannelRole, at: Floats, values: Floats) -> ReadOff:
    """
    Read when a channel came within 1 of its settled mean to stay there, in s.

    Args:
        at: shape (n,), seconds since the load began, rising; values: shape (n,), of the load, without gaps.
    """
    settled = _settled(role, at, values)
    if settled.value is None:
        return settled
    reached = _stays_within(at, values, settled.value)
    return ReadOff(None, "not reached") if reached is None else ReadOff(reached)


def _stays_within(at: Floats, values: Floats, level: float) -> float | None:
    """When a channel, smoothed over half a minute, came within 1 of a level to stay there, in s; None: it did not."""
    outside = np.flatnonzero(np.abs(_smooth(at, values) - level) > WITHIN_K)
    after = int(outside[-1]) + 1 if len(outside) else 0
    return float(at[after]) if after < len(at) else None


def _smooth(at: Floats, values: Floats) -> Floats:
    """The mean of the samples around each, so that none alone decides; fewer at the ends, as many on either side."""
    places = np.arange(len(at))
    before = places - np.searchsorted(at, at - SMOOTH_S / 2)
    after = np.searchsorted(at, at + SMOOTH_S / 2, side="right") - 1 - places
    around = np.minimum(before, after)
    sums = np.concatenate([[0.0], np.cumsum(values)])
    means: Floats = (sums[places + around + 1] - sums[places - around]) / (2 * around + 1)
    return means


def _resistance(channels: Channels, load: Phase, air: Air | None) -> ReadOff:
    if air is None:
        return ReadOff(None, "no room")
    if "power" not in channels:
        return ReadOff(None, "no power")
    warm, power = (_last_minute(channels, role, load) for role in ("temperature", "power"))
    if warm is None or power is None:
        return ReadOff(None, "no value")
    found = resistance(Mean(warm.value - _room(air, load, channels), warm.error), power)
    return ReadOff(None, "no power") if found is None else ReadOff(found.value)


def _last_minute(channels: Channels, role: ChannelRole, load: Phase) -> Mean | None:
    at, values = _of_load(load, *channels[role])
    return mean_of(at[at >= at[-1] - LAST_S], values[at >= at[-1] - LAST_S]) if len(at) else None


def recovery_of(channels: Channels, phases: tuple[Phase, ...], load: Phase) -> ReadOff:
    """
    Read how many seconds after its load half of the rise is gone.

    Args:
        channels: with a temperature; seconds since the start of the run, values without gaps.
    Returns: of the rise since the rest before the load or, without one, since the load's first samples.
    """
    at, values = channels["temperature"]
    cooling = next((p for p in phases if p.name == "cool-down" and p.began_s >= load.ended_s), None)
    if cooling is None:
        return ReadOff(None, "no cool-down")
    before, after = values[at <= load.began_s], cooling.covers(at)
    loaded = load.covers(at)
    last = loaded & (at >= load.ended_s - LAST_S)
    if not last.any() or not after.any():
        return ReadOff(None, "no value")
    cold = float(before[-3:].mean() if len(before) else values[loaded][:3].mean())
    hot = float(values[last].mean())
    half = np.flatnonzero(values[after] <= (hot + cold) / 2)
    return ReadOff(None, "not reached") if len(half) == 0 else ReadOff(float(at[after][half[0]] - load.ended_s))


def _last_less_first(at: Floats, values: Floats) -> ReadOff:
    if at[-1] < 2 * SESSION_S:
        return ReadOff(None, "too short")
    first, last = values[at <= SESSION_S], values[at >= at[-1] - SESSION_S]
    return ReadOff(float(last.mean() - first.mean())) if len(first) else ReadOff(None, "no value")


def figures_of(at: Floats, values: Floats) -> TraceFigures:
    """
    Say what a channel comes to, settled or not.

    Args:
        at: shape (n,), seconds, rising; values: shape (n,), NaN is a gap.
    """
    known = ~np.isnan(values)
    at, values = at[known], values[known]
    if len(at) == 0:
        return TraceFigures(None, None, None)
    last = float(values[at >= at[-1] - LAST_S].mean())
    return TraceFigures(float(values.max()), last, _stays_within(at, values, last))


def phases_of(channels: Channels, marks: tuple[tuple[float, str], ...]) -> tuple[Phase, ...]:
    """
    The phases of a run's channels; none where it has no channel.

    Args:
        channels: the run's channels; times in seconds since its start.
        marks: (second, name) of what the workload said of itself.
    """
    return find_phases(channels, marks) if channels else ()
