"""The temperature that a run was heading for, fitted with one or two time constants."""

import math
from dataclasses import dataclass
from itertools import combinations
from typing import Literal

import numpy as np
from scipy.special import fdtrc, stdtrit

from lynxbill.core.heat.trace import Floats

LEAST_SAMPLES = 40
LEAST_TAUS = 2.0
LEVEL = 0.95
# A second time constant is kept where so much less is left over that chance brings it once in a thousand.
CLEARLY = 0.001
# Time constants nearer to each other than this can't be told apart.
_APART = 2.0
# What is left over below this, in the channel's unit, is the arithmetic's own.
_NOTHING = 1e-6
# What is over within a fifth of a step between samples is the first sample's own.
_SHORTEST = 0.2
_GRID = 48
_MOST_ROUNDS = 200
# More samples than this are averaged down to it before a fit: it takes no longer, and tells no less.
MOST_SAMPLES = 4000
# Autocorrelation that samples show is taken as at most this a step: beyond, nothing is known of their mean.
_MOST_R = 0.995

Refusal = Literal["too_few_samples", "too_short", "no_curve", "too_correlated"]


@dataclass(frozen=True, slots=True)
class Equilibrium:
    """
    T(t) = t_inf − Σ a_i e^(−t/tau_i), with what is known of it.

    `t_inf` in °C (or K above the room, as it came), `taus` and `tau_errors` in s, shortest first (an error is None
    where the constant is shorter than a step); `amplitudes` are the a_i. `low` and `high` bound t_inf at `level` by
    Student's t at `df`. `phi` is the autocorrelation of what is left over for each second, `sd` its standard
    deviation, `n` the samples, `n_eff` how many independent ones they are worth. Errors are those of least squares,
    enlarged for the autocorrelation.
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
    Source: docs/judgement.md, "Heat"; n_eff = n(1 − r)/(1 + r), Student's t with n_eff less the parameters.
    """
    n = len(at)
    lasted = float(at[-1] - at[0]) if n else 0.0
    if n < LEAST_SAMPLES:
        return NotReached("too_few_samples", lasted, n)
    at, values = average_down(at, values, MOST_SAMPLES)
    since = at - at[0]
    one = _fit(since, values, _grid_one(since, values))
    if one is None:
        return NotReached("no_curve", lasted, n)
    two = _fit(since, values, _grid_two(since, values))
    best = two if two is not None and _is_clearly_better(since, one, two) else one
    longest = max(best.taus)
    if lasted < LEAST_TAUS * longest:
        return NotReached("too_short", lasted, n, longest)
    return _result(since, best, level, float(at[0])) or NotReached("too_correlated", lasted, n)


@dataclass(frozen=True, slots=True)
class _Fit:
    """Coefficients (t_inf, a_1 …) and time constants (s); shape (n,) residuals; (n, 1 + 2m) Jacobian."""

    coefficients: Floats
    taus: Floats
    residuals: Floats
    jacobian: Floats

    @property
    def rss(self) -> float:
        return float(self.residuals @ self.residuals)


def _grid_one(since: Floats, values: Floats) -> Floats:
    """The best single time constant of a coarse grid."""
    taus = _tau_grid(since, _GRID)
    return _best_of(since, values, taus, [(number,) for number in range(len(taus))])


def _grid_two(since: Floats, values: Floats) -> Floats:
    """The best pair of a coarser one."""
    taus = _tau_grid(since, _GRID // 3)
    return _best_of(since, values, taus, list(combinations(range(len(taus)), 2)))


def _best_of(since: Floats, values: Floats, taus: Floats, choices: list[tuple[int, ...]]) -> Floats:
    """Of choices among time constants the one that leaves least; by normal equations, near enough for a start."""
    rows = np.vstack([np.ones_like(since), *(np.exp(-since / tau) for tau in taus)])
    products, onto = rows @ rows.T, rows @ (values - values.mean())
    of = np.array([(0, *(number + 1 for number in choice)) for choice in choices])
    blocks = products[of[:, :, None], of[:, None, :]]
    # A trifle on the diagonal keeps alike ones solvable.
    blocks = blocks + 1e-12 * products[0, 0] * np.eye(of.shape[1])
    explained = (np.linalg.solve(blocks, onto[of][:, :, None])[:, :, 0] * onto[of]).sum(axis=1)
    return taus[list(choices[int(np.argmax(explained))])]


def _step(since: Floats) -> float:
    """The usual step between samples, in s."""
    return float(np.median(np.diff(since)))


def _tau_grid(since: Floats, count: int) -> Floats:
    return np.array(np.geomspace(max(_step(since) / 2, since[-1] / 1000), 4 * since[-1], count))


def _basis(since: Floats, taus: Floats) -> Floats:
    """Shape (n, 1 + m): a column of ones, and minus each exponential."""
    return np.column_stack([np.ones_like(since), *(-np.exp(-since / tau) for tau in taus)])


def _solve(since: Floats, values: Floats, taus: Floats) -> Floats:
    """The linear coefficients that fit best with the time constants held; shape (1 + m,)."""
    return np.asarray(np.linalg.lstsq(_basis(since, taus), values, rcond=None)[0], dtype=np.float64)


def _fit(since: Floats, values: Floats, start: Floats) -> _Fit | None:
    """
    Least squares over the logarithms of the time constants, the coefficients solved for each of them.

    Returns None where it runs off: no curve of this form is best.
    """
    # It takes a moment to import, and most comparisons have no curve.
    from scipy.optimize import least_squares

    low, high = math.log(_step(since) * _SHORTEST), math.log(since[-1] * 1e3)

    def residuals(logs: Floats) -> Floats:
        return _at(since, values, logs).residuals

    def jacobian(logs: Floats) -> Floats:
        return _jacobian(_at(since, values, logs))

    found = least_squares(
        residuals,
        np.log(start),
        jacobian,
        bounds=(low, math.inf),
        ftol=1e-14,
        xtol=1e-10,
        gtol=None,
        max_nfev=_MOST_ROUNDS,
    )
    return None if np.any(found.x > high) else _at(since, values, np.sort(found.x))


def _at(since: Floats, values: Floats, logs: Floats) -> _Fit:
    taus = np.exp(logs)
    basis = _basis(since, taus)
    coefficients = _solve(since, values, taus)
    slopes = [
        -coefficient * np.exp(-since / tau) * since / tau**2
        for coefficient, tau in zip(coefficients[1:], taus, strict=True)
    ]
    return _Fit(coefficients, taus, values - basis @ coefficients, np.column_stack([basis, *slopes]))


def _jacobian(now: _Fit) -> Floats:
    """Of the residuals, in the logarithms, with what the coefficients take up taken out (Kaufman's step)."""
    m = len(now.taus)
    basis, slopes = now.jacobian[:, : m + 1], now.jacobian[:, m + 1 :] * now.taus
    orthogonal, _ = np.linalg.qr(basis)
    return np.asarray(orthogonal @ (orthogonal.T @ slopes) - slopes)


def _is_clearly_better(since: Floats, one: _Fit, two: _Fit) -> bool:
    if two.taus[1] < _APART * two.taus[0] or not np.all(np.isfinite(two.coefficients)):
        return False
    # Where one leaves no more than the arithmetic's own, there is nothing for a second to explain.
    if one.rss <= len(since) * _NOTHING**2 or two.rss <= 0:
        return False
    left = _worth(since, two)[1] - 5
    if left < 1:
        return False
    ratio = (one.rss - two.rss) / 2 / (two.rss / left)
    return bool(ratio > 0 and fdtrc(2, left, ratio) < CLEARLY)


def average_down(at: Floats, values: Floats, most: int) -> tuple[Floats, Floats]:
    """
    Bring a channel down to at most so many samples, each the mean of neighbours in time.

    Args:
        at: shape (n,), seconds, rising; values: shape (n,), any unit, no gap; most: at least 1.
    Returns: as they came where there are no more.
    """
    if len(at) <= most:
        return at, values
    edges = np.linspace(0, len(at), most + 1).astype(int)[:-1]
    counts = np.diff(np.append(edges, len(at)))
    return np.add.reduceat(at, edges) / counts, np.add.reduceat(values, edges) / counts


def _worth(since: Floats, fit: _Fit) -> tuple[float, float, float]:
    """Autocorrelation a second, how many independent samples these are worth, and a step's autocorrelation."""
    phi = autocorrelation(since, fit.residuals)
    r = min(_MOST_R, phi ** _step(since))
    n = len(since)
    return phi, n * (1 - r) / (1 + r), r


def autocorrelation(at: Floats, residuals: Floats) -> float:
    """
    Estimate the autocorrelation of residuals a second, in [0, 1), for samples spaced as they come.

    Args:
        at: shape (n,), seconds; residuals: shape (n,), around zero.
    Source: an AR(1) in time has the correlation phi^dt between samples dt apart; least squares of each residual on
        the one before, for the median step, with the samples further apart than twice that left out; its bias, (1 +
        3r)/n, is added (F. H. C. Marriott and J. A. Pope, Biometrika 41, 1954).
    """
    steps = np.diff(at)
    step = float(np.median(steps))
    near = steps <= 2 * step
    before, after = residuals[:-1][near], residuals[1:][near]
    spread = float(residuals @ residuals) / len(residuals)
    if spread <= _NOTHING**2 or not near.any():
        return 0.0
    r = float(before @ after) / len(before) / spread
    r += (1 + 3 * r) / len(residuals)
    return float(max(0.0, min(_MOST_R, r)) ** (1 / step))


def _result(since: Floats, fit: _Fit, level: float, began: float) -> Equilibrium | None:
    n, parameters = fit.jacobian.shape
    phi, n_eff, r = _worth(since, fit)
    df = n_eff - parameters
    if df < 1:
        return None
    variance = fit.rss / (n - parameters)
    covariance = variance * np.linalg.pinv(fit.jacobian.T @ fit.jacobian)
    errors = np.sqrt(np.maximum(0.0, np.diag(covariance)) * (1 + r) / (1 - r))
    half = float(stdtrit(df, 0.5 + level / 2)) * errors[0]
    m = len(fit.taus)
    t_inf = float(fit.coefficients[0])
    # Amplitudes are told at the load's own start, from which the times were counted.
    amplitudes = tuple(
        float(a * math.exp(began / tau)) for a, tau in zip(fit.coefficients[1:], fit.taus, strict=True)
    )
    return Equilibrium(
        t_inf=t_inf,
        t_inf_error=float(errors[0]),
        low=t_inf - float(half),
        high=t_inf + float(half),
        level=level,
        df=float(df),
        taus=tuple(float(tau) for tau in fit.taus),
        tau_errors=tuple(
            None if tau < _step(since) else float(error) for tau, error in zip(fit.taus, errors[m + 1 :], strict=True)
        ),
        amplitudes=amplitudes,
        phi=phi,
        sd=math.sqrt(variance),
        n=n,
        n_eff=float(n_eff),
    )
