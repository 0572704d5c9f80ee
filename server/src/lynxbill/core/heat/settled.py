"""Settled or not: whether a channel had come to where it was heading when the run ended."""

import math
from dataclasses import dataclass
from typing import Literal

import numpy as np

from lynxbill.core.heat.equilibrium import average_down
from lynxbill.core.heat.roles import SENSED, ChannelRole
from lynxbill.core.heat.trace import Floats

LEAST_S = 120.0
LEAST_SAMPLES = 10
# The settled value is the mean over what of the last three minutes was settled, but at least half a minute.
WINDOW_S, LEAST_WINDOW_S = 180.0, 30.0
# The die's own jump at the start is over within the first tenth.
_SKIPPED = 0.1
_TAUS = 48
_MOST_SAMPLES = 600
# Where the time constant is longer than so many lengths of the run, the samples look straight: no end is in sight.
_IN_SIGHT = 1.5

Way = Literal["climbs", "falls"]


@dataclass(frozen=True, slots=True)
class Course:
    """
    Where a channel was at the end of a run, and where it was heading, in its unit.

    `settled`: what is left is at most `within` of its role; `value` is then the mean from `since_s` on. `heading` is
    where it would end, `left` how far that is from `end` (above zero: it climbs); `minutes` until it is settled, and
    `gone` the share of its way since the start that is behind it; these are None where no end is in sight. `per_min`
    is the slope of the curve at the end, in its unit a minute.
    """

    end: float
    settled: bool
    value: float | None
    since_s: float
    per_min: float
    way: Way
    tau_s: float
    heading: float | None
    left: float | None
    gone: float | None
    minutes: float | None


def find_course(role: ChannelRole, at: Floats, values: Floats) -> Course | None:
    """
    Say whether a channel has settled.

    The rule: a curve with one time constant is fitted to the samples after the first tenth; what is left to go is the
    slope of that curve at the end times its time constant, and settled is what has at most `within` of its role left.

    Args:
        at: shape (n,), seconds since the load began, rising, spaced as they come; values: shape (n,), no gap.
    Returns: None for what is shorter than two minutes or has under 10 samples, or half as much after that tenth.
    Source: T' = (T_inf − T)/tau of a body that heats up; calibrated by `lynxbill prove` on 10,000 traces with AR(1)
        noise, wrong in at most 5 % of them either way.
    """
    if len(at) < LEAST_SAMPLES or at[-1] - at[0] < LEAST_S:
        return None
    within = SENSED[role].within
    later = at >= at[0] + _SKIPPED * (at[-1] - at[0])
    # After a long gap at the beginning too little of a curve is left.
    if later.sum() < LEAST_SAMPLES / 2 or np.ptp(at[later]) < LEAST_S / 2:
        return None
    seconds, levels = average_down(at[later], values[later], _MOST_SAMPLES)
    t_inf, amplitude, tau = _fit_one(seconds - seconds[0], levels)
    lasted = float(at[-1] - seconds[0])
    left = amplitude * math.exp(-lasted / tau)
    end = t_inf - left
    settled = abs(left) <= within
    # The curve comes within reach where its amplitude has shrunk to it.
    reached = tau * math.log(abs(amplitude) / within) if within and abs(amplitude) > within else 0.0
    since = max(float(at[-1]) - WINDOW_S, min(float(seconds[0]) + reached, float(at[-1]) - LEAST_WINDOW_S))
    in_sight = settled or tau <= _IN_SIGHT * lasted
    began = float(values[:3].mean())
    return Course(
        end=end,
        settled=settled,
        value=float(values[at >= since].mean()) if settled else None,
        since_s=since,
        per_min=60 * left / tau,
        way="climbs" if left > 0 else "falls",
        tau_s=tau,
        heading=t_inf if in_sight else None,
        left=left if in_sight else None,
        gone=_share(began, end, t_inf) if in_sight else None,
        minutes=(0.0 if settled else tau * math.log(abs(left) / within) / 60) if in_sight and within else None,
    )


def _share(began: float, end: float, t_inf: float) -> float | None:
    return max(0.0, min(1.0, (end - began) / (t_inf - began))) if t_inf != began else None


def _fit_one(since: Floats, values: Floats) -> tuple[float, float, float]:
    """Where it ends, its amplitude at the first sample, its time constant in s: the best of a grid, then nearby."""
    taus = np.geomspace(max(5.0, since[-1] / 60), 4 * since[-1], _TAUS)
    _, _, tau = _best_of(since, values, taus)
    step = float(taus[1] / taus[0])
    return _best_of(since, values, np.geomspace(tau / step, tau * step, _TAUS // 2))


def _best_of(since: Floats, values: Floats, taus: Floats) -> tuple[float, float, float]:
    """Of time constants the one that leaves least over, with where it ends and its amplitude."""
    curves = np.exp(-since / taus[:, None])
    centred = curves - curves.mean(axis=1, keepdims=True)
    spread = (centred**2).sum(axis=1)
    onto = centred @ (values - values.mean())
    explained = np.where(spread > 1e-12, onto**2 / np.maximum(spread, 1e-12), 0.0)
    best = int(np.argmax(explained))
    amplitude = -float(onto[best] / max(spread[best], 1e-12))
    return float(values.mean() + amplitude * curves[best].mean()), amplitude, float(taus[best])
