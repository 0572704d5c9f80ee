"""Figures that are read off a trace by a stated rule, and become readings of the run."""

from dataclasses import dataclass
from typing import Literal

import numpy as np

from lynxbill.core.case import Statistic
from lynxbill.core.errors import BadValue
from lynxbill.core.measure import Kind, Measure, TraceFigure
from lynxbill.core.trace import ChannelRole, Floats

LAST_S = 60.0
WITHIN_K = 1.0
# Settled: over so long, the slope of a straight line is so small that as long again would add less than half a step
# that a sensor shows.
SETTLED_OVER_S = 180.0
_LEAST_SAMPLES = 10
SETTLED_PER_MIN: dict[str, float] = {
    "temperature": 0.1,
    "clock": 5.0,
    "power": 0.2,
    "fan": 10.0,
    "load": 1.0,
    "noise": 0.1,
}
_ROLES: dict[Kind, ChannelRole] = {
    "heat": "temperature",
    "clock": "clock",
    "power": "power",
    "fan": "fan",
    "noise": "noise",
}
STATISTICS: dict[TraceFigure, Statistic] = {"highest": "highest", "last minute": "mean", "settled": "settled"}
Untold = Literal["no channel", "no value", "too short", "climbs", "falls", "not reached", "no room", "unit"]


@dataclass(frozen=True, slots=True)
class ReadOff:
    """A figure in its channel's unit (a time in s, a share in %), or why there is none."""

    value: float | None
    why: Untold | None = None


@dataclass(frozen=True, slots=True)
class TraceFigures:
    """
    What a channel comes to, in its unit; None where it has no sample for it.

    `highest` is the highest sample, `last_minute` the mean of the last 60 s, `within_s` when it came within 1 of that
    mean to stay there, in seconds since the start (meant for temperatures).
    """

    highest: float | None
    last_minute: float | None
    within_s: float | None


def role_read(measure: Measure) -> ChannelRole | None:
    """
    Say of which channels a measure's figure is read off; None where it is read off no trace.

    Raises:
        BadValue: a figure that a measure of its kind, unit or making can't have.
    """
    figure = measure.trace_figure
    if figure is None:
        if measure.trace_of is not None:
            raise BadValue(f"“{measure.name}” names a sensor, and no figure that is read off its trace.")
        return None
    if measure.derived_from is not None or measure.combined_by is not None:
        raise BadValue(f"“{measure.name}” is made from other figures: it can't be read off a trace as well.")
    if figure == "within 1 K":
        if measure.kind != "time":
            raise BadValue(f"“{measure.name}” is how long it takes to come within 1 K: its kind is a time.")
        return "temperature"
    if figure == "held back":
        if measure.unit != "%" or measure.scale != "difference":
            raise BadValue(
                f"“{measure.name}” is a share of the time: its unit is %, set against each other in points."
            )
        return "held back"
    role = _ROLES.get(measure.kind)
    if role is None:
        raise BadValue(
            f"“{measure.name}” is neither heat, clock, power, fan nor noise: no channel of a trace tells it."
        )
    return role


def read_off(figure: TraceFigure, role: ChannelRole, at: Floats, values: Floats) -> ReadOff:
    """
    Read a figure off a channel.

    Args:
        at: shape (n,), seconds since the start, rising; values: shape (n,), in the channel's unit, NaN is a gap.
    Returns: “last minute”: the mean of the last 60 s; “settled”: the mean of the last 180 s, if the slope of a
        straight line through them is at most SETTLED_PER_MIN; “within 1 K”: seconds until it stays within 1 of the
        settled mean; “held back”: the share of the time, in %, in which the counter rose.
    """
    known = ~np.isnan(values)
    at, values = at[known], values[known]
    if len(at) == 0:
        return ReadOff(None, "no value")
    match figure:
        case "highest":
            return ReadOff(float(values.max()))
        case "last minute":
            return ReadOff(float(values[at >= at[-1] - LAST_S].mean()))
        case "held back":
            return _held_back(at, values)
        case "settled":
            return _settled(role, at, values)
        case "within 1 K":
            return _within(role, at, values)


def _held_back(at: Floats, values: Floats) -> ReadOff:
    if len(at) < 2:
        return ReadOff(None, "too short")
    lasted, rose = np.diff(at), np.diff(values) > 0
    return ReadOff(float(100 * lasted[rose].sum() / lasted.sum()))


def slope_at_the_end(at: Floats, values: Floats) -> float | None:
    """
    The slope of a straight line through the last three minutes, in the channel's unit a minute.

    Args:
        at: shape (n,), seconds, rising; values: shape (n,), without gaps.
    Returns: None where they are shorter, or have too few samples.
    """
    last = at >= at[-1] - SETTLED_OVER_S
    if at[-1] - at[0] < SETTLED_OVER_S or last.sum() < _LEAST_SAMPLES:
        return None
    times = at[last] - at[last].mean()
    return float((times * values[last]).sum() / (times**2).sum() * 60)


def is_settled(role: str, per_min: float) -> bool:
    """Whether a channel with such a slope has settled."""
    return abs(per_min) <= SETTLED_PER_MIN.get(role, 0.0)


def _settled(role: ChannelRole, at: Floats, values: Floats) -> ReadOff:
    per_min = slope_at_the_end(at, values)
    if per_min is None:
        return ReadOff(None, "too short")
    if not is_settled(role, per_min):
        return ReadOff(None, "climbs" if per_min > 0 else "falls")
    return ReadOff(float(values[at >= at[-1] - SETTLED_OVER_S].mean()))


def _within(role: ChannelRole, at: Floats, values: Floats) -> ReadOff:
    settled = _settled(role, at, values)
    if settled.value is None:
        return settled
    reached = _stays_within(at, values, settled.value)
    return ReadOff(None, "not reached") if reached is None else ReadOff(reached)


def _stays_within(at: Floats, values: Floats, level: float) -> float | None:
    """When a channel came within 1 of a level to stay there, in seconds; None where it did not."""
    outside = np.flatnonzero(np.abs(values - level) > WITHIN_K)
    after = int(outside[-1]) + 1 if len(outside) else 0
    return float(at[after]) if after < len(at) else None


def figures_of(at: Floats, values: Floats) -> TraceFigures:
    """
    Say what a channel comes to, settled or not.

    Args:
        at: shape (n,), seconds, rising; values: shape (n,), NaN is a gap.
    """
    last = read_off("last minute", "load", at, values).value
    known = ~np.isnan(values)
    within = None if last is None else _stays_within(at[known], values[known], last)
    return TraceFigures(read_off("highest", "load", at, values).value, last, within)
