"""Held back: how much of a load the clock was kept down, and by what."""

from collections.abc import Mapping
from dataclasses import dataclass
from typing import Literal

import numpy as np
from numpy.typing import NDArray

from lynxbill.core.heat.trace import Floats

Bools = NDArray[np.bool_]
Cause = Literal["heat", "power", "unknown"]
FULL_LOAD_PERCENT = 90.0
# A clock below this share of the level that it sustains is held back; a sensor within so much of a limit sits at it.
SUSTAINED = 0.98
AT_LIMIT_K = 1.5
AT_CAP = 0.98
# The level that a clock sustains is what it reaches in the best tenth of the full load.
_BEST = 90.0


@dataclass(frozen=True, slots=True)
class HeldBack:
    """
    `share` of the time under full load, from 0 to 1, and its `causes` as shares of the same time; `clock` is the mean
    clock of that time, `sustained` the level it is set against (MHz). `spans` are (from, to) in s.
    """

    share: float
    causes: dict[Cause, float]
    clock: float | None
    sustained: float | None
    spans: tuple[tuple[float, float], ...]


@dataclass(frozen=True, slots=True)
class Limits:
    """
    What a part may reach: temperature in °C, power in W; None: not given, and read off the run itself. At `stop_c`
    (°C) a run is stopped.
    """

    temperature_c: float | None = None
    power_w: float | None = None
    stop_c: float | None = None


def limits_of(limits: Mapping[str, object], part: str = "processor") -> Limits:
    """
    What a machine's limits say of a part; what is not named, or no number, is not given.

    Args:
        limits: the machine's limits by key: °C, W, MHz.
        part: the role of the part asked.
    """
    power = _number(limits, "processor_held_w") if part == "processor" else None
    return Limits(permitted_by_part(limits).get(part), power, _number(limits, "stop_c"))


def permitted_by_part(limits: Mapping[str, object]) -> dict[str, float]:
    """
    The highest permitted temperature of each part that a machine's limits name, in °C.

    Args:
        limits: the machine's limits by key, temperatures in °C.
    """
    named = {"processor": "permitted_c", "graphics": "permitted_graphics_c", "drive": "permitted_drive_c"}
    told = {part: _number(limits, key) for part, key in named.items()}
    return {part: celsius for part, celsius in told.items() if celsius is not None}


def _number(limits: Mapping[str, object], key: str) -> float | None:
    value = limits.get(key)
    return float(value) if isinstance(value, (int, float)) and not isinstance(value, bool) else None


def find_held_back(
    at: Floats,
    load: Floats | None,
    clock: Floats | None,
    temperature: Floats | None,
    power: Floats | None,
    counter: Floats | None,
    limits: Limits,
    sustained: float | None = None,
) -> HeldBack | None:
    """
    Say how much of a load a processor was held back, and by what.

    Args:
        at: shape (n,), seconds; each channel shape (n,) at the same times, None where no sensor told it: load in %,
            clock in MHz, temperature in °C, power in W, the counter of steps held back;
            NaN is a gap.
        sustained: the clock that the processor sustains, in MHz; None: the level of its best tenth.
    Returns: None where neither clock nor counter is told, or nothing was under full load. A stretch between two
        samples is held back where the counter rose in it, or else where the load is at least 90 %, the clock below
        98 % of what it sustains, and the temperature within 1.5 K of its limit (heat) or the power at 98 % of its cap
        (power). Without a given limit, the highest of the run stands for it.
    Source: docs/judgement.md, "Heat".
    """
    if len(at) < 2:
        return None
    lasted = np.diff(at)
    full = (load[1:] >= FULL_LOAD_PERCENT) if load is not None else np.ones(len(at) - 1, dtype=bool)
    clock = None if clock is None or np.isnan(clock[1:][full]).all() else clock
    if not full.any() or (clock is None and counter is None):
        return None
    temperature, power = (None if each is None or np.isnan(each).all() else each for each in (temperature, power))
    level = None if clock is None else sustained or float(np.nanpercentile(clock[1:][full], _BEST))
    below = np.zeros_like(full) if clock is None or level is None else clock[1:] < SUSTAINED * level
    nowhere = np.zeros_like(full)
    capped = nowhere if power is None else power[1:] >= AT_CAP * (limits.power_w or float(np.nanmax(power)))
    if temperature is None:
        hot = nowhere
    elif limits.temperature_c is not None:
        hot = temperature[1:] >= limits.temperature_c - AT_LIMIT_K
    else:
        # Heat makes the power fall with the clock; where it stays at its highest, it is the power that is capped.
        hot = (temperature[1:] >= float(np.nanmax(temperature)) - AT_LIMIT_K) & ~capped
    risen = np.diff(counter) > 0 if counter is not None else np.zeros_like(full)
    held = full & (risen | (below & (hot | capped)))
    whole = float(lasted[full].sum())
    by_heat, by_power = held & hot, held & capped & ~hot
    causes: dict[Cause, float] = {
        "heat": float(lasted[by_heat].sum()) / whole,
        "power": float(lasted[by_power].sum()) / whole,
        "unknown": float(lasted[held & ~hot & ~capped].sum()) / whole,
    }
    told = {cause: share for cause, share in causes.items() if share > 0}
    mean = None if clock is None else _mean_of(clock[1:][full], lasted[full])
    return HeldBack(float(lasted[held].sum()) / whole, told, mean, level, _spans(at, held))


def _mean_of(values: Floats, lasted: Floats) -> float:
    known = ~np.isnan(values)
    return float(np.average(values[known], weights=lasted[known]))


def _spans(at: Floats, held: Bools) -> tuple[tuple[float, float], ...]:
    edges = np.flatnonzero(np.diff(np.concatenate([[False], held, [False]]).astype(int)))
    return tuple((float(at[a]), float(at[b])) for a, b in zip(edges[::2], edges[1::2], strict=True))
