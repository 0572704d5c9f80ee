"""The heat of one run: its channels by role, its phases, and what each comes to."""

import math
from collections.abc import Callable, Iterable, Mapping, Sequence
from dataclasses import dataclass

import numpy as np

from lynxbill.core.heat.curve import average_down, worth_of
from lynxbill.core.heat.equilibrium import Equilibrium, NotReached, fit_equilibrium
from lynxbill.core.heat.held_back import HeldBack, Limits, find_held_back
from lynxbill.core.heat.phases import Phase, phases_by_load, phases_by_marks
from lynxbill.core.heat.roles import SENSED, UNITS, ChannelRole
from lynxbill.core.heat.settled import Course, find_course
from lynxbill.core.heat.trace import Floats
from lynxbill.core.record.run import Run
from lynxbill.core.terms.measure import Kind, Summary
from lynxbill.core.terms.quantity import convert, unit_of

LAST_S = 60.0
# Less than a milliwatt is no power that heats anything; a rise divided by it would be no resistance.
LEAST_POWER_W = 1e-3
# Between samples further apart than so many usual steps nothing is known.
_GAP_STEPS = 5.0
_MOST_FOR_ERRORS = 4000
Channels = Mapping[ChannelRole, tuple[Floats, Floats]]
Fit = Callable[[Floats, Floats], Equilibrium | NotReached]


@dataclass(frozen=True, slots=True)
class Air:
    """The room's temperature in °C as the run began and, where it was measured twice, as it ended."""

    start_c: float
    end_c: float | None = None

    def at(self, second: float, lasted_s: float) -> float:
        """In between, a straight line from one to the other."""
        if self.end_c is None or lasted_s <= 0:
            return self.start_c
        return self.start_c + (self.end_c - self.start_c) * min(1.0, max(0.0, second / lasted_s))


def air_of(run: Run, sitting_c: float | None) -> Air | None:
    """
    The room of a run: as it was noted of it, at its end too where it was; else that of its sitting (°C).

    Args:
        run: the run, with its own room where that was noted.
        sitting_c: room of its sitting in °C, or None.
    """
    start, end = _noted(run, "ambient_c"), _noted(run, "ambient_end_c")
    start = sitting_c if start is None else start
    return None if start is None else Air(start, end)


def _noted(run: Run, key: str) -> float | None:
    value = run.conditions.get(key)
    return float(value) if isinstance(value, (int, float)) and not isinstance(value, bool) else None


@dataclass(frozen=True, slots=True)
class Figure:
    """A mean with its standard error, enlarged for the autocorrelation of its samples."""

    value: float
    error: float


@dataclass(frozen=True, slots=True)
class PhaseFigures:
    """
    What a phase comes to; None where no sensor, or no room, tells it.

    `mean`, `peak` and `last_minute` in °C; `rise` of the last minute above the room in K; `clock` (MHz), `power` (W),
    `fan` (/min) and `noise` (dB(A)) are means of the last minute; `resistance` in K/W is rise ÷ power there.
    """

    phase: Phase
    mean: float | None
    peak: float | None
    last_minute: Figure | None
    rise: float | None
    clock: float | None
    power: Figure | None
    fan: float | None
    noise: float | None
    held_back: HeldBack | None
    resistance: Figure | None


@dataclass(frozen=True, slots=True)
class RunHeat:
    """A run's heat: its phases; of its longest load, where it was heading and where it would have ended."""

    phases: tuple[PhaseFigures, ...]
    load: Phase | None
    course: Course | None
    equilibrium: Equilibrium | NotReached | None


def in_units(role: ChannelRole, unit: str, values: Floats) -> Floats | None:
    """
    Bring samples into the unit in which the role's channels are looked at.

    Args:
        unit: a UCUM code; values: shape (n,), NaN is a gap.
    Returns: None where the unit is of another kind.
    """
    wanted = UNITS[role]
    if unit == wanted:
        return values
    if unit_of(unit).dimension != unit_of(wanted).dimension:
        return None
    # A change of unit is a straight line: two points tell it.
    zero, one = (convert(value, unit, unit_of(wanted)) for value in (0.0, 1.0))
    return zero + (one - zero) * values


def channels_by_role(
    sensors: Iterable[tuple[ChannelRole, str, Floats, Floats]], *, part: str = "processor", how: Summary = "hottest"
) -> dict[ChannelRole, tuple[Floats, Floats]]:
    """
    Bring several sensors for one quantity down to one channel a role.

    Args:
        sensors: role, the part that each sits on, seconds (shape (n,), rising) and values (shape (n,), NaN is a gap).
        part: whose sensors are taken where it has any of a role, or the name of a sensor; else all of that role.
        how: the highest of them at each moment, or their mean; the same on both sides of a comparison.
    """
    told: dict[ChannelRole, list[tuple[str, Floats, Floats]]] = {}
    for role, of, at, values in sensors:
        known = ~np.isnan(values)
        if known.any():
            told.setdefault(role, []).append((of, at[known], values[known]))
    chosen = {
        role: [(at, values) for of, at, values in several if of == part]
        or [(at, values) for _, at, values in several]
        for role, several in told.items()
    }
    return {role: several[0] if len(several) == 1 else _together(several, how) for role, several in chosen.items()}


def _together(several: Sequence[tuple[Floats, Floats]], how: Summary) -> tuple[Floats, Floats]:
    at = several[0][0]
    levels = np.vstack([along(at, *one) for one in several])
    told = ~np.isnan(levels).all(axis=0)
    levels = levels[:, told]
    return at[told], np.nanmax(levels, axis=0) if how == "hottest" else np.nanmean(levels, axis=0)


def along(at: Floats, seconds: Floats, values: Floats) -> Floats:
    """
    Read a channel at other times.

    Args:
        at: shape (m,), where it is asked; seconds, values: shape (n,), rising, without gaps.
    Returns: shape (m,), by straight lines between samples; NaN outside them, and where they are far apart.
    """
    if len(seconds) == 1:
        return np.where(np.abs(at - seconds[0]) < 1e-9, values[0], np.nan)
    read = np.interp(at, seconds, values, left=np.nan, right=np.nan)
    after = np.clip(np.searchsorted(seconds, at), 1, len(seconds) - 1)
    steps = np.diff(seconds)
    apart = steps[after - 1] > _GAP_STEPS * float(np.median(steps))
    on_sample = np.isin(at, seconds)
    read[apart & ~on_sample] = np.nan
    return read


def look_at_run(
    channels: Channels,
    marks: Sequence[tuple[float, str]] = (),
    air: Air | None = None,
    limits: Limits | None = None,
    fit: Fit = fit_equilibrium,
) -> RunHeat | None:
    """
    Say what the heat of a run comes to.

    Args:
        channels: one a role, seconds since the start of the run (rising) and values without gaps: temperature in °C,
            load in %, clock in MHz, power in W, fan in /min, noise in dB(A), the counter of steps held back.
        marks: phases as the run was given them; without any the load tells them, and without that all is load.
        fit: `fit_equilibrium`, or what remembers its answers.
    Returns: None without a temperature.
    """
    if "temperature" not in channels:
        return None
    at, values = channels["temperature"]
    phases = find_phases(channels, marks)
    lasted = float(at[-1])
    figures = tuple(_figures(phase, channels, air, limits or Limits(), lasted) for phase in phases)
    load = max((phase for phase in phases if phase.name == "load"), key=lambda phase: phase.lasted_s, default=None)
    if load is None:
        return RunHeat(figures, None, None, None)
    inside = load.covers(at)
    seconds, levels = at[inside] - load.began_s, values[inside]
    return RunHeat(figures, load, find_course("temperature", seconds, levels), fit(seconds, levels))


def find_phases(channels: Channels, marks: Sequence[tuple[float, str]] = ()) -> tuple[Phase, ...]:
    """
    The phases of a run: by its marks, else by its load; without either it is load from end to end.

    Args:
        channels: the run's channels; times in seconds since its start.
        marks: (second, name) of what the workload said of itself.
    """
    end = max(float(at[-1]) for at, _ in channels.values())
    if found := phases_by_marks(marks, end):
        return found
    if "load" in channels and (found := phases_by_load(*channels["load"])):
        return found
    return (Phase("load", min(float(at[0]) for at, _ in channels.values()), end),)


def last_levels(channels: Channels, marks: Sequence[tuple[float, str]] = ()) -> dict[Kind, float]:
    """
    Say where each channel stood at the end of a run's longest load.

    Args:
        channels: one a role, seconds since the start of the run and values without gaps.
        marks: as of `find_phases`.
    Returns: by the kind of measure that would read it the mean over the last minute of the load, in the unit of its
        role; none where the run has no load.
    """
    phases = find_phases(channels, marks) if channels else ()
    load = max((phase for phase in phases if phase.name == "load"), key=lambda phase: phase.lasted_s, default=None)
    if load is None:
        return {}
    last = {SENSED[role].kind: _last(load, *_within(load, *channel)) for role, channel in channels.items()}
    return {kind: figure.value for kind, figure in last.items() if kind is not None and figure is not None}


def mean_of(at: Floats, values: Floats) -> Figure:
    """
    The mean of samples with its standard error.

    Args:
        at: shape (n,), n >= 1, seconds; values: shape (n,), without gaps.
    Returns: an error of zero for a single sample.
    """
    at, values = average_down(at, values, _MOST_FOR_ERRORS)
    mean, n = float(values.mean()), len(values)
    if n < 3:
        return Figure(mean, float(values.std()))
    return Figure(mean, float(values.std(ddof=1)) / math.sqrt(n) * worth_of(at, values - mean).enlarged)


def _figures(phase: Phase, channels: Channels, air: Air | None, limits: Limits, lasted_s: float) -> PhaseFigures:
    inside = {role: _within(phase, *channel) for role, channel in channels.items()}
    last = {role: _last(phase, at, values) for role, (at, values) in inside.items() if len(at)}
    at, values = inside["temperature"]
    warm = last.get("temperature")
    room = None if air is None else air.at(max(phase.began_s, phase.ended_s - LAST_S / 2), lasted_s)
    rise = None if warm is None or room is None else warm.value - room
    power = last.get("power")
    return PhaseFigures(
        phase,
        mean=over_time(at, values) if len(at) else None,
        peak=float(values.max()) if len(at) else None,
        last_minute=warm,
        rise=rise,
        clock=_value(last.get("clock")),
        power=power,
        fan=_value(last.get("fan")),
        noise=_value(last.get("noise")),
        held_back=held_back_in(phase, channels, limits) if phase.name == "load" else None,
        resistance=None if rise is None or warm is None else resistance(Figure(rise, warm.error), power),
    )


def over_time(at: Floats, values: Floats) -> float:
    """
    The mean over time of samples spaced as they come; shape (n,), n >= 1.

    Args:
        at: shape (n,), seconds, rising.
        values: shape (n,), in any unit.
    Source: trapezoidal rule, divided by the length.
    """
    return float(values[0]) if len(at) == 1 else float(np.trapezoid(values, at) / (at[-1] - at[0]))


def resistance(rise: Figure, power: Figure | None) -> Figure | None:
    """
    Thermal resistance in K/W: rise above the room (K) ÷ power (W), its error by the propagation of both errors.

    Args:
        rise: K above the room.
        power: W; None where it was not measured.
    Returns: None without power, or where there is less of it than `LEAST_POWER_W`.
    Source: JCGM 100:2008, 5.1.2 (propagation of two independent errors).
    """
    if power is None or power.value < LEAST_POWER_W:
        return None
    value = rise.value / power.value
    error = math.hypot(rise.error / power.value, value * power.error / power.value)
    return Figure(value, error)


def _within(phase: Phase, at: Floats, values: Floats) -> tuple[Floats, Floats]:
    inside = phase.covers(at)
    return at[inside], values[inside]


def _last(phase: Phase, at: Floats, values: Floats) -> Figure | None:
    last = at >= max(phase.began_s, phase.ended_s - LAST_S)
    return mean_of(at[last], values[last]) if last.any() else None


def _value(figure: Figure | None) -> float | None:
    return None if figure is None else figure.value


def held_back_in(phase: Phase, channels: Channels, limits: Limits) -> HeldBack | None:
    """
    How much of a phase a run was held back, at the times of its clock, or of its counter without one.

    Args:
        phase: from when to when, in seconds since the start.
        channels: the run's channels: MHz, °C, W and counters.
        limits: what the part may reach.
    """
    inside = {role: _within(phase, *channel) for role, channel in channels.items()}
    guide = next(
        (inside[role] for role in ("clock", "held back") if role in inside and len(inside[role][0]) > 1), None
    )
    if guide is None:
        return None
    at = guide[0]

    def read(role: ChannelRole) -> Floats | None:
        channel = inside.get(role)
        return None if channel is None or len(channel[0]) < 2 else along(at, *channel)

    return find_held_back(
        at, read("load"), read("clock"), read("temperature"), read("power"), read("held back"), limits
    )
