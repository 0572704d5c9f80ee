"""A curve of one or two time constants through samples, and what the samples that it rests on are worth."""

import math
from dataclasses import dataclass
from itertools import combinations

import numpy as np
from scipy.special import fdtrc

from lynxbill.core.heat.trace import Floats

# Time constants nearer to each other than this can't be told apart.
_APART = 2.0
# What is left over below this, in the channel's unit, is the arithmetic's own.
NOTHING = 1e-6
# What is over within a fifth of a step between samples is the first sample's own.
_SHORTEST = 0.2
_GRID = 48
_MOST_ROUNDS = 200
_CLOSELY = 1e-14
# Autocorrelation that samples show is taken as at most this a step: beyond, nothing is known of their mean.
_MOST_R = 0.995


@dataclass(frozen=True, slots=True)
class Fit:
    """
    Least squares of T(s) = t_inf − Σ a_i e^(−s/tau_i) through n samples.

    `since`: seconds since the first sample, shape (n,). `coefficients`: t_inf and the a_i, in the channel's unit,
    shape (1 + m,); `taus` in s, shortest first, shape (m,), none for a straight line. `residuals` have shape (n,),
    the `jacobian` of the curve in the coefficients, then the time constants, (n, 1 + 2m).
    """

    since: Floats
    coefficients: Floats
    taus: Floats
    residuals: Floats
    jacobian: Floats

    @property
    def rss(self) -> float:
        """The residuals' sum of squares."""
        return float(self.residuals @ self.residuals)

    @property
    def t_inf(self) -> float:
        """Where the curve ends."""
        return float(self.coefficients[0])

    @property
    def left(self) -> float:
        """How far the curve is from its end at the last sample; above zero where it climbs."""
        return float(self.coefficients[1:] @ np.exp(-self.since[-1] / self.taus))

    @property
    def sd(self) -> float:
        """Standard deviation of what is left over."""
        n, parameters = self.jacobian.shape
        return math.sqrt(self.rss / (n - parameters))

    def errors(self, worth: "Worth") -> Floats:
        """Standard errors of coefficients and time constants, enlarged for what hangs together; shape (1 + 2m,)."""
        covariance = self.sd**2 * np.linalg.pinv(self.jacobian.T @ self.jacobian)
        return np.sqrt(np.maximum(0.0, np.diag(covariance))) * worth.enlarged


@dataclass(frozen=True, slots=True)
class Worth:
    """
    What samples are worth that hang together.

    `phi` is the autocorrelation of residuals a second, `r` that of a usual step, `n_eff` how many independent samples
    they are worth.
    """

    phi: float
    r: float
    n_eff: float

    @property
    def enlarged(self) -> float:
        """By how much the errors of least squares are too small for independent samples."""
        return math.sqrt((1 + self.r) / (1 - self.r))


def step_of(at: Floats) -> float:
    """
    The usual step between samples, in s.

    Args:
        at: shape (n,), n >= 2, seconds, rising.
    """
    return float(np.median(np.diff(at)))


def fit_curve(since: Floats, values: Floats, count: int, *, closely: float = _CLOSELY) -> Fit | None:
    """
    Fit so many time constants by least squares.

    Args:
        since: shape (n,), seconds since the first sample, rising; values: shape (n,), without gaps; count: 1 or 2.
        closely: by what share less may be left over, still, where the search ends.
    Returns: None where it runs off, so that no curve of this form is best, and of samples that are all one.
    """
    if np.ptp(values) <= NOTHING:
        return None
    # Pairs are tried on a coarser grid.
    taus = np.geomspace(max(step_of(since) / 2, since[-1] / 1000), 4 * since[-1], _GRID if count == 1 else _GRID // 3)
    choices = list(combinations(range(len(taus)), count))
    return _refined(since, values, _best_of(since, values, taus, choices), closely)


def worth_of(at: Floats, residuals: Floats) -> Worth:
    """
    Say what samples are worth by what is left over of them.

    Args:
        at: shape (n,), n >= 3, seconds, rising; residuals: shape (n,), around zero.
    Source: n_eff = n(1 − r)/(1 + r) for the mean of an AR(1).
    """
    phi = autocorrelation(at, residuals)
    r = min(_MOST_R, phi ** step_of(at))
    return Worth(phi, r, len(at) * (1 - r) / (1 + r))


def chance_of_second(one: Fit, two: Fit) -> float:
    """
    How probable it is that chance alone brings a second time constant that explains so much more.

    Args:
        one, two: curves of one and of two time constants through the same samples.
    Returns: p of F on the independent samples that these are worth; 1 where a second one can't be told from the
        first, has nothing to explain, or there are too few samples for it.
    """
    if two.taus[1] < _APART * two.taus[0] or not np.all(np.isfinite(two.coefficients)):
        return 1.0
    if one.rss <= len(one.since) * NOTHING**2 or two.rss <= 0:
        return 1.0
    left = worth_of(two.since, two.residuals).n_eff - 5
    ratio = (one.rss - two.rss) / 2 / (two.rss / left)
    return float(fdtrc(2, left, ratio)) if left >= 1 and ratio > 0 else 1.0


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
    if spread <= NOTHING**2 or not near.any():
        return 0.0
    r = float(before @ after) / len(before) / spread
    r += (1 + 3 * r) / len(residuals)
    return float(max(0.0, min(_MOST_R, r)) ** (1 / step))


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


def _refined(since: Floats, values: Floats, start: Floats, closely: float) -> Fit | None:
    """Least squares over the logarithms of the time constants, the coefficients solved for each of them."""
    # It takes a moment to import, and most comparisons have no curve.
    from scipy.optimize import least_squares

    low, high = math.log(step_of(since) * _SHORTEST), math.log(since[-1] * 1e3)

    def residuals(logs: Floats) -> Floats:
        return _at(since, values, logs).residuals if np.all(np.isfinite(logs)) else np.full(len(values), np.nan)

    def jacobian(logs: Floats) -> Floats:
        return _jacobian(_at(since, values, logs))

    # Where nothing is left to explain, a step of the search is nothing by nothing: it is not taken.
    with np.errstate(divide="ignore", invalid="ignore"):
        found = least_squares(
            residuals,
            np.log(start),
            jacobian,
            bounds=(low, math.inf),
            ftol=closely,
            xtol=1e-10,
            gtol=None,
            max_nfev=_MOST_ROUNDS,
        )
    return None if np.any(found.x > high) else _at(since, values, np.sort(found.x))


def _at(since: Floats, values: Floats, logs: Floats) -> Fit:
    taus = np.exp(logs)
    basis = np.column_stack([np.ones_like(since), *(-np.exp(-since / tau) for tau in taus)])
    coefficients = np.asarray(np.linalg.lstsq(basis, values, rcond=None)[0], dtype=np.float64)
    slopes = [
        -coefficient * np.exp(-since / tau) * since / tau**2
        for coefficient, tau in zip(coefficients[1:], taus, strict=True)
    ]
    return Fit(since, coefficients, taus, values - basis @ coefficients, np.column_stack([basis, *slopes]))


def _jacobian(now: Fit) -> Floats:
    """Of the residuals, in the logarithms, with what the coefficients take up taken out (Kaufman's step)."""
    m = len(now.taus)
    basis, slopes = now.jacobian[:, : m + 1], now.jacobian[:, m + 1 :] * now.taus
    orthogonal, _ = np.linalg.qr(basis)
    return np.asarray(orthogonal @ (orthogonal.T @ slopes) - slopes)
