"""Settled or not: whether a channel had come to where it was heading when the run ended."""

from dataclasses import dataclass
from itertools import pairwise
from typing import Literal

import numpy as np
from scipy.special import fdtrc, stdtrit

from lynxbill.core.heat.curve import NOTHING, Fit, average_down, chance_of_second, fit_curve, worth_of
from lynxbill.core.heat.equilibrium import LEAST_SAMPLES as LEAST_FOR_FORECAST
from lynxbill.core.heat.equilibrium import LEAST_TAUS
from lynxbill.core.heat.roles import SENSED, ChannelRole
from lynxbill.core.heat.trace import Floats

LEAST_S = 120.0
LEAST_SAMPLES = 10
_LEAST_OF_LINE = 4
# The settled value is the mean over what of the last three minutes was settled, but at least half a minute.
WINDOW_S, LEAST_WINDOW_S = 180.0, 30.0
# What may still move is asked of as long a time ahead.
AHEAD_S = 180.0
# The die's own jump at the start is over within the first tenth.
_SKIPPED = 0.1
_MOST_SAMPLES = 600
# Below this chance a second time constant decides, above the other the first alone; in between both are asked.
_CLEARLY, _HARDLY = 0.01, 0.2
_DRIFT_LEVEL, _TAU_LEVEL = 0.90, 0.95
# Two forecasts agree that are no further apart than this share of the longer.
_AGREE = 0.25
# Whether it has settled does not hang on the last digits of a constant.
_CLOSELY = 1e-6

Way = Literal["climbs", "falls"]
Moving = Literal["left to go", "slower part", "may move"]


@dataclass(frozen=True, slots=True)
class Course:
    """
    Where a channel was at the end of a run, and where it was heading, in its unit.

    `moving`: why it has not settled: more than `within` of its role is left to go by its curve; or by a slower part
    that can't be ruled out; or neither, but its last third may move by more in three minutes. None: it has settled;
    `value` is then the mean from `since_s` on. `drift` is how far it may move in those minutes, from and to (None:
    the last third has too few samples). `heading` is where it would end, `left` how far that is from `end` (above
    zero: it climbs); `minutes` until no more than `within` is left, and `gone` the share of its way since the start
    that is behind it; these are None where the curves do not agree on it. `per_min` is the slope at the end, in its
    unit a minute.
    """

    end: float
    moving: Moving | None
    value: float | None
    since_s: float
    per_min: float
    drift: tuple[float, float] | None
    heading: float | None
    left: float | None
    gone: float | None
    minutes: float | None

    @property
    def settled(self) -> bool:
        """Nothing more is to come."""
        return self.moving is None

    @property
    def way(self) -> Way:
        """Whether it rises or sinks at the end."""
        return "climbs" if self.per_min > 0 else "falls"


def find_course(role: ChannelRole, at: Floats, values: Floats) -> Course | None:
    """
    Say whether a channel has settled.

    The rule, of the samples after the first tenth: a curve of one time constant, or of two where chance hardly brings
    the second, has at most `within` of its role left to go; where it is open which, or how long a constant is, both
    have. And the straight line through the last third moves by no more in three minutes, its whole interval asked.

    Args:
        at: shape (n,), seconds since the load began, rising, spaced as they come; values: shape (n,), no gap.
    Returns: None for what is shorter than two minutes or has under 10 samples, or half as much after that tenth.
    Source: docs/judgement.md, "Heat"; T' = (T_inf − T)/tau of bodies that heat up; calibrated by `lynxbill prove`.
    """
    if len(at) < LEAST_SAMPLES or at[-1] - at[0] < LEAST_S:
        return None
    later = at >= at[0] + _SKIPPED * (at[-1] - at[0])
    # After a long gap at the beginning too little of a curve is left.
    if later.sum() < LEAST_SAMPLES / 2 or np.ptp(at[later]) < LEAST_S / 2:
        return None
    seconds, levels = average_down(at[later], values[later], _MOST_SAMPLES)
    within = SENSED[role].within
    line = _line_of(seconds, levels, float(at[-1] - (at[-1] - at[0]) / 3))
    found = _curves_of(seconds - seconds[0], levels, float(at[-1] - at[0]))
    moving = found.moving(within) or (None if line.stays(within) else "may move")
    curve = found.asked[0] if found.asked else None
    left = 0.0 if curve is None else curve.left
    end = line.end if curve is None else curve.t_inf - left
    since = max(
        float(at[-1]) - WINDOW_S, min(float(seconds[0]) + _reached(curve, within), float(at[-1]) - LEAST_WINDOW_S)
    )
    minutes = 0.0 if moving is None else found.minutes(within, len(at), float(at[-1] - at[0]))
    told = curve is not None and minutes is not None
    heading = end + left
    return Course(
        end=end,
        moving=moving,
        value=float(values[at >= since].mean()) if moving is None else None,
        since_s=since,
        per_min=60 * (line.slope if curve is None else _slope(curve)),
        drift=line.drift,
        heading=heading if told else None,
        left=left if told else None,
        gone=_share(float(values[:3].mean()), end, heading) if told else None,
        minutes=minutes if told else None,
    )


def _share(began: float, end: float, t_inf: float) -> float | None:
    return max(0.0, min(1.0, (end - began) / (t_inf - began))) if t_inf != began else None


@dataclass(frozen=True, slots=True)
class _Line:
    """The straight line through the last third: its level at the end, its slope a second, what it moves ahead."""

    end: float
    slope: float
    drift: tuple[float, float] | None

    def stays(self, within: float) -> bool:
        return self.drift is not None and -within <= self.drift[0] and self.drift[1] <= within


def _line_of(seconds: Floats, levels: Floats, since: float) -> _Line:
    """The straight line from a moment on, its interval allowing for autocorrelation."""
    last = seconds >= since
    at, told = seconds[last], levels[last]
    if len(at) < _LEAST_OF_LINE or at[0] == at[-1]:
        return _Line(float(levels[-1]), 0.0, None)
    line = _fit_line(at, told)
    slope = float(line.coefficients[1])
    worth = worth_of(at, line.residuals)
    # A gentle bend hangs together as closely as samples can: the widest t there is bounds it.
    half = float(stdtrit(max(1.0, worth.n_eff - 2), 0.5 + _DRIFT_LEVEL / 2) * line.errors(worth)[1])
    return _Line(line.t_inf, slope, (AHEAD_S * (slope - half), AHEAD_S * (slope + half)))


def _fit_line(at: Floats, levels: Floats) -> Fit:
    """Least squares of a straight line; its coefficients are the level at the last sample and the slope a second."""
    basis = np.column_stack([np.ones_like(at), at - at[-1]])
    coefficients = np.asarray(np.linalg.lstsq(basis, levels, rcond=None)[0], dtype=np.float64)
    return Fit(at, coefficients, np.array([]), levels - basis @ coefficients, basis)


@dataclass(frozen=True, slots=True)
class _Curves:
    """
    The curves that are asked what is left to go, the one that decides first; none where a level says all.

    `both` are those of one and of two time constants, where there are two. `endless`: the samples are best told by a
    straight line.
    """

    asked: tuple[Fit, ...] = ()
    both: tuple[Fit, ...] = ()
    endless: bool = False

    def moving(self, within: float) -> Moving | None:
        if self.endless:
            return "left to go"
        over = [abs(curve.left) > within for curve in self.asked]
        if not any(over):
            return None
        return "left to go" if over[0] else "slower part"

    def minutes(self, within: float, samples: int, lasted_s: float) -> float | None:
        """How long until no more than `within` is left, where the curves agree on it and there is enough to go by."""
        if not self.asked or samples < LEAST_FOR_FORECAST or not within:
            return None
        curve = self.asked[0]
        enough = worth_of(curve.since, curve.residuals).n_eff - curve.jacobian.shape[1] >= 1
        if not enough or lasted_s < LEAST_TAUS * curve.taus[-1]:
            return None
        told = sorted(_minutes(one, within) for one in self.both)
        if any(later - sooner > _AGREE * later for sooner, later in pairwise(told)):
            return None
        return _minutes(curve, within)


def _curves_of(since: Floats, levels: Floats, lasted_s: float) -> _Curves:
    one = fit_curve(since, levels, 1, closely=_CLOSELY)
    if one is None:
        return _Curves(endless=_chance_beside_level(_fit_line(since, levels), levels) < _CLEARLY)
    if _chance_beside_level(one, levels) > _HARDLY:
        return _Curves()
    two = fit_curve(since, levels, 2, closely=_CLOSELY)
    if two is None:
        return _Curves((one,), (one,))
    chance = chance_of_second(one, two)
    first, other = (two, one) if chance < _CLEARLY else (one, two)
    open_which = _CLEARLY <= chance <= _HARDLY
    return _Curves((first, other) if open_which or _is_endless(first, lasted_s) else (first,), (one, two))


def _chance_beside_level(fit: Fit, levels: Floats) -> float:
    """How probable it is that chance alone brings what explains so much more than a level; p of F."""
    parameters = fit.jacobian.shape[1]
    left = worth_of(fit.since, fit.residuals).n_eff - parameters
    more = float(((levels - levels.mean()) ** 2).sum()) - fit.rss
    if more <= len(levels) * NOTHING**2:
        return 1.0
    # Where the samples hang together too closely to tell, a curve is taken for real.
    if left < 1 or fit.rss <= 0:
        return 0.0
    return float(fdtrc(parameters - 1, left, more / (parameters - 1) / (fit.rss / left)))


def _is_endless(curve: Fit, lasted_s: float) -> bool:
    """Whether the interval of a time constant passes the length of the load."""
    worth = worth_of(curve.since, curve.residuals)
    df = worth.n_eff - curve.jacobian.shape[1]
    if df < 1:
        return True
    errors = curve.errors(worth)[-len(curve.taus) :]
    return bool(np.any(curve.taus + stdtrit(df, 0.5 + _TAU_LEVEL / 2) * errors > lasted_s))


def _left_after(curve: Fit, seconds: Floats) -> Floats:
    """What is left to go so many seconds after the first sample; shape as given."""
    return np.asarray(np.exp(-seconds[:, None] / curve.taus) @ curve.coefficients[1:])


def _slope(curve: Fit) -> float:
    """At the last sample, a second."""
    return float((curve.coefficients[1:] / curve.taus) @ np.exp(-curve.since[-1] / curve.taus))


def _reached(curve: Fit | None, within: float) -> float:
    """From when on no more than `within` was left, in seconds since the first sample."""
    if curve is None:
        return 0.0
    over = np.flatnonzero(np.abs(_left_after(curve, curve.since)) > within)
    return 0.0 if not len(over) else float(curve.since[min(over[-1] + 1, len(curve.since) - 1)])


def _minutes(curve: Fit, within: float) -> float:
    """How long after the last sample until no more than `within` is left for good."""
    # Beyond as many of the longest constants nothing is left of any amplitude that a sensor can tell.
    ahead = np.linspace(0.0, 12 * curve.taus[-1], 2400)
    over = np.flatnonzero(np.abs(_left_after(curve, curve.since[-1] + ahead)) > within)
    return 0.0 if not len(over) else float(ahead[min(over[-1] + 1, len(ahead) - 1)]) / 60
