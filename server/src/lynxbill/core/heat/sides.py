"""Two sides of a comparison laid over each other by minutes since the load began."""

from collections.abc import Callable, Iterable, Mapping, Sequence
from dataclasses import dataclass, field
from functools import partial

import numpy as np
from numpy.typing import NDArray

from lynxbill.core.heat.equilibrium import Equilibrium, fit_equilibrium
from lynxbill.core.heat.held_back import Cause, Limits
from lynxbill.core.heat.phases import Phase
from lynxbill.core.heat.readoff import recovery_of, within_one
from lynxbill.core.heat.roles import ChannelRole
from lynxbill.core.heat.run import (
    LAST_S,
    LEAST_POWER_W,
    Air,
    Channels,
    Fit,
    PhaseFigures,
    RunHeat,
    along,
    look_at_run,
)
from lynxbill.core.heat.settled import WINDOW_S
from lynxbill.core.heat.trace import Floats
from lynxbill.core.record.ids import RunId, SittingId
from lynxbill.core.terms.measure import TraceFigure

GRID = 121
_RISE_AND_POWER: tuple[ChannelRole, ChannelRole] = ("temperature", "power")
# Half of a side's runs held back at a moment make it held back.
_HALF = 0.5
# Where more of the load than this was held back, the load did not hold, and no equilibrium is told.
_MUCH_HELD = 0.05


@dataclass(frozen=True, slots=True)
class RunCurves:
    """
    A run's load: its channels by role, in s since the load began; temperature above the room where `above_room`.

    `heat` is what the run comes to, `of_load` its load, with temperatures as they were read. `within_s` after the
    load's beginning it stayed within 1 K of where it settled, `recovery_s` after its end half of the rise was gone.
    """

    run: RunId
    sitting: SittingId
    lasted_s: float
    above_room: bool
    channels: Channels
    heat: RunHeat
    of_load: PhaseFigures
    air: Air | None
    within_s: float | None
    recovery_s: float | None
    mount: int | None = None
    peaks: Mapping[str, float] = field(default_factory=dict)


@dataclass(frozen=True, slots=True)
class Band:
    """A level with the interval that it is known within, in °C or K above the room."""

    level: float
    low: float
    high: float


@dataclass(frozen=True, slots=True)
class SideHeat:
    """
    What the runs of a side come to: each figure is the mean over sittings of the mean over runs, None where no run
    tells it.

    Temperatures in K above the room (°C where a room is missing): `same_minute` is the mean of the minute up to that
    of the comparison, `equilibrium` where the runs would have ended. `settled` of `runs` had settled. `clock` in MHz,
    `fan` in /min, `power` in W, `noise` in dB(A), all of that same minute; `held_back` a share of the load from 0 to
    1; `resistance` in K/W; `within_s` and `recovery_s` as of a run, where every run tells them. `means` are the mean
    curves by role on one grid, `held` the spans (s) in which half of the runs were held back. `peaks` is by part the
    highest that its sensors reached, in °C. `mounts` says on how many the side stood (None: not noted),
    `mounts_apart` how far those lie apart at the same minute, in K.
    """

    runs: int
    sittings: int
    settled: int
    same_minute: float | None
    equilibrium: Band | None
    clock: float | None
    fan: float | None
    power: float | None
    noise: float | None
    held_back: float | None
    causes: dict[str, float]
    resistance: float | None
    within_s: float | None
    recovery_s: float | None
    means: dict[ChannelRole, tuple[Floats, Floats]]
    held: tuple[tuple[float, float], ...]
    peaks: dict[str, float]
    mounts: int | None
    mounts_apart: float | None


@dataclass(frozen=True, slots=True)
class Overlay:
    """Both sides at the same elapsed minute; `same_s` is the last second that every run reached, `longest_s` any."""

    before: SideHeat
    after: SideHeat
    same_s: float
    longest_s: float
    above_room: bool


def run_curves(
    run: RunId,
    sitting: SittingId,
    channels: Channels,
    marks: Sequence[tuple[float, str]],
    air: Air | None,
    mount: int | None = None,
    limits: Limits | None = None,
    peaks: Mapping[str, float] | None = None,
    fit: Fit = fit_equilibrium,
) -> RunCurves | None:
    """
    Take the longest load out of a run.

    Args:
        channels: one a role, seconds since the start of the run, values without gaps; temperatures in °C.
        air: the room; without it temperatures stay as they are.
        peaks: by part the highest that its sensors reached in the run, in °C.
        fit: as of `look_at_run`.
    Returns: None without a temperature in a load.
    """
    heat = look_at_run(channels, marks, air, limits, fit)
    if heat is None or heat.load is None or not heat.load.covers(channels["temperature"][0]).any():
        return None
    lasted = max(float(at[-1]) for at, _ in channels.values())
    loaded = {role: _loaded(role, heat.load, *channel, air, lasted) for role, channel in channels.items()}
    kept = {role: channel for role, channel in loaded.items() if len(channel[0])}
    of_load = next(figures for figures in heat.phases if figures.phase == heat.load)
    at, values = channels["temperature"]
    inside = heat.load.covers(at)
    within = within_one("temperature", at[inside] - heat.load.began_s, values[inside])
    recovery = recovery_of(channels, tuple(figures.phase for figures in heat.phases), heat.load)
    return RunCurves(
        run,
        sitting,
        heat.load.lasted_s,
        air is not None,
        kept,
        heat,
        of_load,
        air,
        within.value,
        recovery.value,
        mount,
        peaks or {},
    )


def _loaded(
    role: ChannelRole, load: Phase, at: Floats, values: Floats, air: Air | None, lasted: float
) -> tuple[Floats, Floats]:
    inside = load.covers(at)
    at, values = at[inside], values[inside]
    if role == "temperature" and air is not None:
        values = values - np.array([air.at(float(second), lasted) for second in at])
    return at - load.began_s, values


def counted_window(
    figure: TraceFigure | None, minute: float | None, overlay: "Overlay"
) -> tuple[float, float] | None:
    """
    From where to where (s of load) a measure's figure was read, the same on both sides.

    Args:
        figure: which figure is read off; None for what is typed.
        minute: the minute of load, where the figure names one.
        overlay: both sides laid over each other.
    Returns: None where no one window of both sides was: a highest or an equilibrium, a reading that was typed, or the
        last minute of runs that differ in length by more than a quarter of a minute.
    """
    end, unequal = overlay.same_s, not _is_as_long(overlay.longest_s, overlay.same_s)
    if figure == "at minute" and minute is not None:
        return max(0.0, 60 * minute - LAST_S), 60 * minute
    if figure == "last minute" and not unequal:
        return max(0.0, end - LAST_S), end
    if figure == "settled" and not unequal:
        return max(0.0, end - WINDOW_S), end
    return None


def lay_over(before: Sequence[RunCurves], after: Sequence[RunCurves]) -> Overlay | None:
    """
    Lay two sides over each other.

    Args:
        before, after: curves of every run of a side, by seconds of load.
    Returns: None where a side has no run, or one is without a room and another is not.
    """
    both = [*before, *after]
    if not before or not after or len({one.above_room for one in both}) > 1:
        return None
    same_s = min(one.lasted_s for one in both)
    longest_s = max(one.lasted_s for one in both)
    return Overlay(_side(before, same_s), _side(after, same_s), same_s, longest_s, both[0].above_room)


def _side(runs: Sequence[RunCurves], same_s: float) -> SideHeat:
    def at_minute(role: ChannelRole) -> float | None:
        return _by_sitting(runs, lambda one: _minute_up_to(one, role, same_s))

    causes = {cause for one in runs if one.of_load.held_back is not None for cause in one.of_load.held_back.causes}
    return SideHeat(
        runs=len(runs),
        sittings=len({one.sitting for one in runs}),
        settled=sum(one.heat.course is not None and one.heat.course.settled for one in runs),
        same_minute=at_minute("temperature"),
        equilibrium=_equilibrium(runs),
        clock=at_minute("clock"),
        fan=at_minute("fan"),
        power=at_minute("power"),
        noise=at_minute("noise"),
        held_back=_mean(_held_share(one, same_s) for one in runs),
        causes={cause: _mean(_share_by(one, cause) for one in runs) or 0.0 for cause in causes},
        resistance=_by_sitting(runs, lambda one: _resistance(one, same_s)),
        within_s=_of_all(runs, lambda one: one.within_s),
        recovery_s=_of_all(runs, lambda one: one.recovery_s),
        means=_means(runs),
        held=_held(runs),
        peaks=_peaks(runs),
        mounts=len({one.mount for one in runs}) if all(one.mount is not None for one in runs) else None,
        mounts_apart=_mounts_apart(runs, same_s),
    )


def _peaks(runs: Sequence[RunCurves]) -> dict[str, float]:
    """By part, of those that every run tells."""
    parts = set.intersection(*(set(one.peaks) for one in runs))
    found = {part: _by_sitting(runs, partial(_peak, part=part)) for part in sorted(parts)}
    return {part: peak for part, peak in found.items() if peak is not None}


def _peak(one: RunCurves, part: str) -> float:
    return one.peaks[part]


def _mounts_apart(runs: Sequence[RunCurves], same_s: float) -> float | None:
    """How far the mounts of a side lie apart at the same minute, in K; None with fewer than two."""
    levels: dict[int, list[float]] = {}
    for one in runs:
        level = _minute_up_to(one, "temperature", same_s)
        if one.mount is not None and level is not None:
            levels.setdefault(one.mount, []).append(level)
    means = [sum(found) / len(found) for found in levels.values()]
    return max(means) - min(means) if len(means) > 1 else None


def _is_as_long(lasted_s: float, same_s: float) -> bool:
    """Whether a load ended where the shortest did, but for a few samples."""
    return lasted_s - same_s <= LAST_S / 4


def _held_share(one: RunCurves, same_s: float) -> float | None:
    """The share of the full load in which a run was held back; of a longer run that of its load up to that second."""
    held, since = one.of_load.held_back, one.of_load.phase.began_s
    if held is None or same_s <= 0:
        return None
    if _is_as_long(one.lasted_s, same_s):
        return held.share
    return sum(max(0.0, min(to - since, same_s) - (began - since)) for began, to in held.spans) / same_s


def _share_by(one: RunCurves, cause: Cause) -> float:
    return 0.0 if one.of_load.held_back is None else one.of_load.held_back.causes.get(cause, 0.0)


def _resistance(one: RunCurves, same_s: float) -> float | None:
    if not one.above_room:
        return None
    rise, power = (_minute_up_to(one, role, same_s) for role in _RISE_AND_POWER)
    return None if rise is None or power is None or power < LEAST_POWER_W else rise / power


def _by_sitting(runs: Sequence[RunCurves], read: Callable[[RunCurves], float | None]) -> float | None:
    """The mean over sittings of the mean over their runs: a sitting with more runs weighs no more."""
    sittings: dict[SittingId, list[float]] = {}
    for one in runs:
        if (value := read(one)) is not None:
            sittings.setdefault(one.sitting, []).append(value)
    return _mean([sum(values) / len(values) for values in sittings.values()])


def _of_all(runs: Sequence[RunCurves], read: Callable[[RunCurves], float | None]) -> float | None:
    """None where a run does not tell it: those that do would be the quick ones."""
    return None if any(read(one) is None for one in runs) else _by_sitting(runs, read)


def _mean(values: Iterable[float | None]) -> float | None:
    told = [value for value in values if value is not None]
    return sum(told) / len(told) if told else None


def _minute_up_to(one: RunCurves, role: ChannelRole, second: float) -> float | None:
    if role not in one.channels:
        return None
    at, values = one.channels[role]
    near = (at > second - LAST_S) & (at <= second)
    return float(values[near].mean()) if near.any() else None


def _equilibrium(runs: Sequence[RunCurves]) -> Band | None:
    """The mean of the runs' ends, within the mean of their intervals; None where a run had none, or was held back."""
    found = [(one.heat.equilibrium, _room(one)) for one in runs if isinstance(one.heat.equilibrium, Equilibrium)]
    if len(found) < len(runs) or not found or any(_was_held(one) for one in runs):
        return None
    levels, lows, highs = (
        [end - room for end, room in zip(ends, (room for _, room in found), strict=True)]
        for ends in ([e.t_inf for e, _ in found], [e.low for e, _ in found], [e.high for e, _ in found])
    )
    return Band(sum(levels) / len(levels), sum(lows) / len(lows), sum(highs) / len(highs))


def _was_held(one: RunCurves) -> bool:
    """Whether a run was held back for so long that its load did not hold: it ends where its limit is."""
    held = one.of_load.held_back
    return held is not None and held.share > _MUCH_HELD


def _room(one: RunCurves) -> float:
    ended = one.of_load.phase.ended_s
    return 0.0 if one.air is None else one.air.at(ended, ended)


def _means(runs: Sequence[RunCurves]) -> dict[ChannelRole, tuple[Floats, Floats]]:
    """The mean curve of each role that every run tells, up to where the shortest ends."""
    roles = set.intersection(*(set(one.channels) for one in runs))
    means: dict[ChannelRole, tuple[Floats, Floats]] = {}
    for role in roles:
        ends = [(float(one.channels[role][0][0]), float(one.channels[role][0][-1])) for one in runs]
        grid = np.linspace(max(first for first, _ in ends), min(last for _, last in ends), GRID)
        levels = np.vstack([along(grid, *one.channels[role]) for one in runs])
        told = ~np.isnan(levels).any(axis=0)
        if told.any():
            means[role] = grid[told], levels[:, told].mean(axis=0)
    return means


def _held(runs: Sequence[RunCurves]) -> tuple[tuple[float, float], ...]:
    end = min(one.lasted_s for one in runs)
    grid = np.linspace(0, end, 4 * GRID)
    share = np.mean([_inside(grid, one) for one in runs], axis=0)
    held = np.concatenate([[False], share >= _HALF, [False]])
    edges = np.flatnonzero(np.diff(held.astype(int)))
    return tuple((float(grid[a]), float(grid[b - 1])) for a, b in zip(edges[::2], edges[1::2], strict=True))


def _inside(grid: Floats, one: RunCurves) -> NDArray[np.bool_]:
    held, since = one.of_load.held_back, one.of_load.phase.began_s
    inside = np.zeros(len(grid), dtype=bool)
    if held is not None:
        for began, ended in held.spans:
            inside |= (grid >= began - since) & (grid <= ended - since)
    return inside
