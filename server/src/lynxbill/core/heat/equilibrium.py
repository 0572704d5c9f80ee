"""The temperature that a run was heading for, fitted with one or two time constants."""

import math
from dataclasses import dataclass
from typing import Literal

import numpy as np
from scipy.special import stdtrit

from lynxbill.core.heat.curve import Fit, average_down, chance_of_second, fit_curve, step_of, worth_of
from lynxbill.core.heat.trace import Floats
from lynxbill.core.terms.grain import ENOUGH, grain_of

LEAST_SAMPLES = 40
LEAST_TAUS = 2.0
LEVEL = 0.95
# A second time constant is kept where so much less is left over that chance brings it once in a thousand.
CLEARLY = 0.001
# More samples than this are averaged down to it before a fit: it takes no longer, and tells no less.
MOST_SAMPLES = 4000

Refusal = Literal["too_few_samples", "too_short", "no_curve", "too_correlated"]


@dataclass(frozen=True, slots=True)
class Equilibrium:
    """
    T(t) = t_inf − Σ a_i e^(−t/tau_i), with what is known of it.

    `t_inf` in °C (or K above the room, as it came), `taus` and `tau_errors` in s, shortest first (an error is None
    where the constant is shorter than a step); `amplitudes` are the a_i. `low` and `high` bound t_inf at `level` by
    Student's t at `df`. `phi` is the autocorrelation of what is left over for each second, `sd` its standard
    deviation, `n` the samples, `n_eff` how many independent ones they are worth. Errors are those of least squares,
    enlarged for the autocorrelation; that of t_inf knows how coarsely the sensor tells.
    """

    t_inf: float
    t_inf_error: float
    low: float
    high: float
    level: float
    df: float
    taus: tuple[float, ...]
    tau_errors: tuple[float | None, ...]
    amplitudes: tuple[float, ...]
    phi: float
    sd: float
    n: int
    n_eff: float

    def at(self, seconds: Floats) -> Floats:
        """The fitted curve; shape as given."""
        curve = np.full_like(np.asarray(seconds, dtype=float), self.t_inf)
        for tau, amplitude in zip(self.taus, self.amplitudes, strict=True):
            curve -= amplitude * np.exp(-np.asarray(seconds) / tau)
        return curve


@dataclass(frozen=True, slots=True)
class NotReached:
    """
    Why there is no equilibrium.

    `lasted_s` and `n` are what came. `tau` is the longest time constant that the samples showed, where that was what
    was too long; what they were heading for is not told with it.
    """

    why: Refusal
    lasted_s: float
    n: int
    tau: float | None = None


def fit_equilibrium(at: Floats, values: Floats, *, level: float = LEVEL) -> Equilibrium | NotReached:
    """
    Fit one, then two time constants by least squares, and enlarge the errors for AR(1) residuals.

    Args:
        at: shape (n,), seconds since the load began, rising; values: shape (n,), °C or K, without gaps.
        level: confidence in (0, 1) of the interval of t_inf.
    Returns: a refusal below 40 samples, where the samples last shorter than two of the longest time constant, where
        no curve of this form fits best, and where residuals hang together so that under four independent ones remain.
    Assumes: the load held, and AR(1) residuals.
    Source: docs/judgement.md, "Heat"; n_eff = n(1 − r)/(1 + r), Student's t with n_eff less the parameters; a step q
        of the sensor adds q²/12 to the variance of t_inf, undivided.
    """
    n = len(at)
    lasted = float(at[-1] - at[0]) if n else 0.0
    if n < LEAST_SAMPLES:
        return NotReached("too_few_samples", lasted, n)
    step_read = _step_read(values)
    at, values = average_down(at, values, MOST_SAMPLES)
    since = at - at[0]
    one = fit_curve(since, values, 1)
    if one is None:
        return NotReached("no_curve", lasted, n)
    two = fit_curve(since, values, 2)
    best = two if two is not None and chance_of_second(one, two) < CLEARLY else one
    longest = max(best.taus)
    if lasted < LEAST_TAUS * longest:
        return NotReached("too_short", lasted, n, longest)
    return _result(best, level, float(at[0]), step_read) or NotReached("too_correlated", lasted, n)


def _step_read(values: Floats) -> float:
    """How coarsely the sensor tells, in its unit; 0 where its samples show no step."""
    told = np.unique(values)
    return grain_of(float(value) for value in told).step if len(told) >= ENOUGH else 0.0


def _result(fit: Fit, level: float, began: float, step_read: float) -> Equilibrium | None:
    worth = worth_of(fit.since, fit.residuals)
    n, parameters = fit.jacobian.shape
    df = worth.n_eff - parameters
    if df < 1:
        return None
    errors = fit.errors(worth)
    t_inf_error = math.hypot(float(errors[0]), step_read / math.sqrt(12))
    half = float(stdtrit(df, 0.5 + level / 2)) * t_inf_error
    m = len(fit.taus)
    # Amplitudes are told at the load's own start, from which the times were counted.
    amplitudes = tuple(
        float(a * math.exp(began / tau)) for a, tau in zip(fit.coefficients[1:], fit.taus, strict=True)
    )
    return Equilibrium(
        t_inf=fit.t_inf,
        t_inf_error=t_inf_error,
        low=fit.t_inf - half,
        high=fit.t_inf + half,
        level=level,
        df=df,
        taus=tuple(float(tau) for tau in fit.taus),
        tau_errors=tuple(
            None if tau < step_of(fit.since) else float(error)
            for tau, error in zip(fit.taus, errors[m + 1 :], strict=True)
        ),
        amplitudes=amplitudes,
        phi=worth.phi,
        sd=fit.sd,
        n=n,
        n_eff=worth.n_eff,
    )
