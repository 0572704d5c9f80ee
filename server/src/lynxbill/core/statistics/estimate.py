"""Estimate and interval of a gain from sitting units, and the guard for a side with a single one."""

import math
from collections.abc import Sequence
from dataclasses import dataclass, replace
from functools import lru_cache
from typing import Literal

from scipy.special import fdtr, fdtrc, stdtr, stdtrit

from lynxbill.core.statistics.scatter import NO_SCATTER, Scatter, mean_of, pool, shared_rounding

Basis = Literal["sittings", "paired_sittings", "one_sitting", "anytime", "exact"]
ALPHA = 0.05
# From these on two scatters are taken for different; proven by simulation, not by taste.
RUNS_DIFFER, UNITS_DIFFER = 0.05, 0.10
REBOOT_RATIO = 3.0


@dataclass(frozen=True, slots=True)
class Estimate:
    """
    An oriented gain with its intervals, all on the scale of judgement (positive is better).

    `low` to `high` is the interval at `level` = 1 − alpha, `low90` to `high90` the one for sameness at 1 − 2·alpha
    (90 % where one look is planned). `sd` is S, the pooled scatter of units (of runs for the guard). `p` is
    two-sided; None where the rule has none. `df` is real: where `sides_differ` it is Welch's.
    """

    basis: Basis
    estimate: float
    sd: float
    se: float
    df: float
    low: float
    high: float
    low90: float
    high90: float
    p: float | None
    break_even: float | None = None
    e_value: float | None = None
    level: float = 1 - ALPHA
    sides_differ: bool = False


# Every measure of a comparison asks for the same few quantiles.
@lru_cache(maxsize=4096)
def t_quantile(probability: float, df: float) -> float:
    """
    Quantile of Student's t distribution.

    Args:
        probability: in (0, 1).
        df: degrees of freedom, above 0.
    Source: scipy.special.stdtrit.
    """
    return float(stdtrit(df, probability))


def two_sided_p(t: float, df: float) -> float:
    """
    Probability of a t at least this far from zero, in either direction; keeps its tail far below 1e-16.

    Args:
        t: the statistic (dimensionless).
        df: degrees of freedom, above 0.
    """
    return min(1.0, 2 * float(stdtr(df, -abs(t))))


def equivalence_p(estimate: float, se: float, df: float, bound: float) -> float:
    """
    p of the two one-sided tests that the true gain lies outside ±bound.

    Args:
        estimate, se, bound: on the scale of judgement; se and bound above 0.
        df: degrees of freedom.
    Source: D. J. Schuirmann, J. Pharmacokinet. Biopharm. 15 (1987) 657.
    """
    return float(stdtr(df, -(bound - abs(estimate)) / se))


def t_estimate(basis: Basis, difference: float, sd: float, se: float, df: float, *, alpha: float = ALPHA) -> Estimate:
    """
    Give a difference its t intervals at 1 − alpha and 1 − 2·alpha, and its two-sided p.

    Args:
        difference, sd, se: on the scale of judgement; se above 0.
        df: degrees of freedom, above 0, not necessarily whole.
        alpha: in (0, 0.5).
    """
    half, narrow = t_quantile(1 - alpha / 2, df) * se, t_quantile(1 - alpha, df) * se
    return Estimate(
        basis=basis,
        estimate=difference,
        sd=sd,
        se=se,
        df=df,
        low=difference - half,
        high=difference + half,
        low90=difference - narrow,
        high90=difference + narrow,
        p=two_sided_p(difference / se, df),
        level=1 - alpha,
    )


@dataclass(frozen=True, slots=True)
class Forms:
    """
    Both ways to weigh a difference of means: by a scatter that the sides share, and by a scatter of each side.

    `sd` is S; `welch_se` and `welch_df` are None where a side has a single unit.
    """

    difference: float
    sd: float
    se: float
    df: float
    welch_se: float | None = None
    welch_df: float | None = None


def two_forms(
    before: Sequence[float],
    after: Sequence[float],
    *,
    step: float,
    doubt: float = 0.0,
    borrowed: Scatter = NO_SCATTER,
) -> Forms:
    """
    Work out standard error and degrees of freedom of a difference of means, pooled and by Welch.

    Args:
        before, after: oriented units, at least one a side and three together.
        step: resolution q on the same scale; no variance falls below q²/12, and where q is as large as S both squared
            standard errors grow by q²/6: rounding is shared by a side, and more sittings don't average it away.
        doubt: variance added for readings that were noted as "about" or as a range.
        borrowed: scatter of earlier builds, joined to the before-side's own.
    Returns: by Welch, the side with fewer units scatters at least as the other does; where it was raised so, his
        degrees of freedom are at least those of two sides as small.
    Source: docs/judgement.md, "Estimate and interval"; B. L. Welch, Biometrika 34 (1947) 28.
    """
    k_b, k_a = len(before), len(after)
    own_b, own_a = pool([before], step=step).joined(borrowed), pool([after], step=step)
    both = own_b.joined(own_a)
    variance = both.variance + doubt
    coarse = 2 * shared_rounding(variance, step)
    difference = mean_of(after) - mean_of(before)
    sd, se, df = math.sqrt(variance), math.sqrt(variance * (1 / k_b + 1 / k_a) + coarse), float(both.df)
    if min(k_b, k_a) < 2:
        return Forms(difference, sd, se, df)
    v_b, v_a = own_b.variance, own_a.variance
    least_df = 0.0
    # A few units that happen to lie close say little of their side's scatter.
    if (k_b < k_a and v_b < v_a) or (k_a < k_b and v_a < v_b):
        v_b = v_a = max(v_b, v_a)
        least_df = 2.0 * min(k_b, k_a) - 2
    v_b, v_a = (v_b + doubt) / k_b, (v_a + doubt) / k_a
    welch_df = max(least_df, (v_b + v_a) ** 2 / (v_b**2 / own_b.df + v_a**2 / own_a.df))
    return Forms(difference, sd, se, df, math.sqrt(v_b + v_a + coarse), welch_df)


def side_by_side(
    before: Sequence[float],
    after: Sequence[float],
    *,
    step: float,
    doubt: float = 0.0,
    borrowed: Scatter = NO_SCATTER,
    alpha: float = ALPHA,
    runs_differ: bool = False,
) -> Estimate:
    """
    Compare two independent sets of sitting units.

    Args:
        before, after, step, doubt, borrowed: as for `two_forms`.
        alpha: of the look.
        runs_differ: the run scatter of the sides differs, from `scatter_differs`.
    Returns: difference of means with the pooled t interval. Where counts differ (both at least 2), the scatter of
        runs or of units does, or scatter is borrowed: at each level the wider of that and Welch's, and the larger p.
    Assumes: equal scatter of the two sides, unless a test says otherwise.
    Source: docs/judgement.md, "Estimate and interval".
    """
    forms = two_forms(before, after, step=step, doubt=doubt, borrowed=borrowed)
    pooled = t_estimate("sittings", forms.difference, forms.sd, forms.se, forms.df, alpha=alpha)
    if forms.welch_se is None or forms.welch_df is None:
        return pooled
    counts_differ = len(before) != len(after) or borrowed.df > 0
    if not counts_differ and not runs_differ and not _units_differ(before, after, step):
        return pooled
    welch = t_estimate("sittings", forms.difference, forms.sd, forms.welch_se, forms.welch_df, alpha=alpha)
    return wider(pooled, welch)


def _units_differ(before: Sequence[float], after: Sequence[float], step: float) -> bool:
    return variances_differ(pool([before], step=step), pool([after], step=step), level=UNITS_DIFFER)


def scatter_differs(before: Sequence[Sequence[float]], after: Sequence[Sequence[float]], step: float) -> bool:
    """
    Ask whether runs scatter more within the sittings of one side than of the other.

    Args:
        before, after: oriented readings by sitting.
        step: resolution; no variance is taken to be below step²/12.
    Returns: F test, two-sided, p < .05; never with one run a sitting.
    Source: docs/judgement.md, "Estimate and interval".
    """
    return variances_differ(pool(before, step=step), pool(after, step=step), level=RUNS_DIFFER)


def variances_differ(before: Scatter, after: Scatter, *, level: float) -> bool:
    """
    Test two variances against each other.

    Args:
        before, after: neither is taken to be below the variance of its rounding.
        level: in (0, 1).
    Returns: two-sided F test, p below `level`; False where a side has no degrees of freedom.
    """
    if min(before.df, after.df) < 1:
        return False
    variances = before.variance, after.variance
    if min(variances) == 0:
        return max(variances) > 0
    ratio = variances[1] / variances[0]
    below, above = float(fdtr(after.df, before.df, ratio)), float(fdtrc(after.df, before.df, ratio))
    return 2 * min(below, above) < level


def paired(differences: Sequence[float], *, step: float, doubt: float = 0.0, alpha: float = ALPHA) -> Estimate:
    """
    Compare sittings that were matched on purpose.

    Args:
        differences: D_i = after-unit − before-unit of each matched pair of sittings, at least three.
        step: resolution q; S² never falls below q²/6, the rounding of a difference of two readings, and where q² is
            half of S² or more, q²/6 is added to the squared standard error.
        doubt: variance added to each unit for readings noted as "about" or as a range.
        alpha: of the look.
    Source: docs/judgement.md, "Estimate and interval".
    """
    k = len(differences)
    df = float(k - 1)
    variance = pool([differences], step=step, readings=2).variance + 2 * doubt
    coarse = 2 * shared_rounding(variance / 2, step)
    se = math.sqrt(variance / k + coarse)
    return t_estimate("paired_sittings", mean_of(differences), math.sqrt(variance), se, df, alpha=alpha)


def guard(
    before: Sequence[Sequence[Sequence[float]]],
    after: Sequence[Sequence[Sequence[float]]],
    *,
    step: float,
    doubt: float = 0.0,
    alpha: float = ALPHA,
) -> Estimate:
    """
    Bound the gain where a side has a single unit, so that nobody sees what a reboot moves.

    Args:
        before, after: oriented readings by unit and sitting; each side at least one unit and three runs, every
            sitting at least two runs.
        step: resolution; no within-sitting sd falls below step/√12.
        doubt: variance added for vague readings.
        alpha: of the look.
    Returns: difference of run means with the guard interval, which allows for reboots of three times the run scatter;
        by a shared scatter and by a scatter of each side, whichever counts wider. No p; `break_even` is c*, the
        reboot ratio at which the interval would just touch zero; `se` carries the reboot allowance.
    Source: docs/judgement.md, "A side with one sitting".
    """
    sides = [[sitting for unit in side for sitting in unit] for side in (before, after)]
    n_b, n_a = (sum(map(len, side)) for side in sides)
    k_b, k_a = len(before), len(after)
    means = [mean_of([y for sitting in side for y in sitting]) for side in sides]
    difference = means[1] - means[0]
    own_b, own_a = (pool(side, step=step) for side in sides)
    both, c2 = own_b.joined(own_a), REBOOT_RATIO**2
    sd = math.sqrt(both.variance + doubt)
    shared = _guarded(difference, sd, float(both.df), 1 / n_b + 1 / n_a, 1 / k_b + 1 / k_a, alpha)
    if min(own_b.df, own_a.df) < 1:
        return shared
    v_b, v_a = own_b.variance + doubt, own_a.variance + doubt
    a, b = v_b * (1 / n_b + c2 / k_b), v_a * (1 / n_a + c2 / k_a)
    df = (a + b) ** 2 / (a**2 / own_b.df + b**2 / own_a.df)
    apart = t_estimate("one_sitting", difference, sd, math.sqrt(a + b), df, alpha=alpha)
    return replace(wider(shared, apart), p=None, break_even=shared.break_even)


def label_guard(
    by_pair: Sequence[Sequence[float]], *, step: float, doubt: float = 0.0, alpha: float = ALPHA
) -> Estimate:
    """
    Bound the gain when one or two pairs of sittings ran the same labelled inputs.

    Args:
        by_pair: for each pair of sittings, after − before of each label's median, oriented, at least three labels.
        step, doubt, alpha: as for `guard`.
    Returns: as `guard`; inputs within one sitting say nothing of reboots, however many they are.
    Source: docs/judgement.md, "A side with one sitting".
    """
    differences = [difference for labels in by_pair for difference in labels]
    n = len(differences)
    # A difference of two readings scatters as both of them do.
    within = pool(by_pair, step=step, readings=2)
    df = float(within.df)
    sd = math.sqrt(within.variance / 2 + doubt)
    return _guarded(mean_of(differences), sd, df, 2 / n, 2 / len(by_pair), alpha)


def _guarded(difference: float, sd: float, df: float, runs: float, reboots: float, alpha: float) -> Estimate:
    """The guard interval: `runs` and `reboots` are the sums of 1/n and 1/k over both sides."""
    se = sd * math.sqrt(runs + REBOOT_RATIO**2 * reboots)
    t = t_quantile(1 - alpha / 2, df)
    break_even = math.sqrt(max(0.0, (difference / (sd * t)) ** 2 - runs) / reboots)
    return replace(t_estimate("one_sitting", difference, sd, se, df, alpha=alpha), p=None, break_even=break_even)


def wider(shared: Estimate, apart: Estimate) -> Estimate:
    """
    Take the wider interval at each level, the se and df behind the (1 − alpha) one, and the larger p.

    Args:
        shared: pooled over both sides.
        apart: each side by its own scatter; both on the same scale and levels.
    """
    chosen = max(shared, apart, key=lambda estimate: estimate.high - estimate.low)
    same = max(shared, apart, key=lambda estimate: estimate.high90 - estimate.low90)
    return replace(
        chosen,
        low90=same.low90,
        high90=same.high90,
        p=max(shared.p or 0.0, apart.p or 0.0),
        sides_differ=chosen is apart,
    )
