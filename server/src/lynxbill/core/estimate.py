"""Estimate and interval of a gain from sitting units, and the guard for one sitting a side."""

import math
from collections.abc import Sequence
from dataclasses import dataclass
from functools import lru_cache
from typing import Literal

from scipy.special import stdtr, stdtrit

Basis = Literal["sittings", "paired_sittings", "one_sitting", "anytime", "exact"]


@dataclass(frozen=True, slots=True)
class Estimate:
    """
    An oriented gain with its intervals, all on the scale of judgement (positive is better).

    `sd` is S, the pooled scatter of units (of runs for the guard). `p` is two-sided; None where the rule has
    none. `df` is real: the wider of two rules may bring Welch's.
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


def t_estimate(basis: Basis, difference: float, sd: float, se: float, df: float) -> Estimate:
    """
    Give a difference its t intervals at 95 and 90 % and its two-sided p.

    Args:
        difference, sd, se: on the scale of judgement; se above 0.
        df: degrees of freedom, above 0, not necessarily whole.
    """
    half95, half90 = t_quantile(0.975, df) * se, t_quantile(0.95, df) * se
    return Estimate(
        basis=basis,
        estimate=difference,
        sd=sd,
        se=se,
        df=df,
        low=difference - half95,
        high=difference + half95,
        low90=difference - half90,
        high90=difference + half90,
        p=two_sided_p(difference / se, df),
    )


@dataclass(frozen=True, slots=True)
class Borrowed:
    """Scatter of other builds' sittings, each around its own mean: a sum of squares and its degrees of freedom."""

    squares: float = 0.0
    df: int = 0


NOTHING_BORROWED = Borrowed()


def side_by_side(
    before: Sequence[float],
    after: Sequence[float],
    *,
    step: float,
    doubt: float = 0.0,
    borrowed: Borrowed = NOTHING_BORROWED,
) -> Estimate:
    """
    Compare two independent sets of sitting units.

    Args:
        before, after: oriented units, at least one a side and three together.
        step: resolution on the same scale; S never falls below step/√12.
        doubt: variance added for readings that were noted as "about" or as a range.
        borrowed: scatter of other builds, only where the plan says so.
    Returns: difference of means with the pooled t interval; with unequal counts, both at least 2, the wider
        of that and Welch's interval, and the larger p.
    Assumes: equal scatter of the two sides (relaxed by Welch's rule where counts differ).
    Source: docs/judgement.md, "Estimate and interval"; B. L. Welch, Biometrika 34 (1947) 28.
    """
    k_b, k_a = len(before), len(after)
    pooled = pooled_estimate(before, after, step=step, doubt=doubt, borrowed=borrowed)
    if k_b == k_a or min(k_b, k_a) < 2:
        return pooled
    floor = step**2 / 12
    v_b = (max(_squares(before) / (k_b - 1), floor) + doubt) / k_b
    v_a = (max(_squares(after) / (k_a - 1), floor) + doubt) / k_a
    welch_df = (v_b + v_a) ** 2 / (v_b**2 / (k_b - 1) + v_a**2 / (k_a - 1))
    welch = t_estimate("sittings", pooled.estimate, pooled.sd, math.sqrt(v_b + v_a), welch_df)
    return _wider(pooled, welch)


def pooled_estimate(
    before: Sequence[float],
    after: Sequence[float],
    *,
    step: float,
    doubt: float = 0.0,
    borrowed: Borrowed = NOTHING_BORROWED,
) -> Estimate:
    """
    Compare two sets of sitting units by their pooled scatter alone; the arguments of `side_by_side`.

    Assumes: equal scatter of the two sides.
    Source: Student, Biometrika 6 (1908) 1.
    """
    k_b, k_a = len(before), len(after)
    df = float(k_b + k_a - 2 + borrowed.df)
    variance = max((_squares(before) + _squares(after) + borrowed.squares) / df, step**2 / 12) + doubt
    sd = math.sqrt(variance)
    return t_estimate("sittings", _mean(after) - _mean(before), sd, sd * math.sqrt(1 / k_b + 1 / k_a), df)


def paired(differences: Sequence[float], *, step: float, doubt: float = 0.0) -> Estimate:
    """
    Compare sittings that were matched on purpose.

    Args:
        differences: D_i = after-unit − before-unit of each matched pair of sittings, at least three.
        step: resolution; S² never falls below step²/6, the rounding of a difference of two readings.
        doubt: variance added to each unit for readings noted as "about" or as a range.
    Source: docs/judgement.md, "Estimate and interval".
    """
    k = len(differences)
    df = float(k - 1)
    sd = math.sqrt(max(_squares(differences) / df, step**2 / 6) + 2 * doubt)
    return t_estimate("paired_sittings", _mean(differences), sd, sd / math.sqrt(k), df)


def guard(
    before: Sequence[Sequence[float]],
    after: Sequence[Sequence[float]],
    *,
    step: float,
    doubt: float = 0.0,
    reboot_ratio: float = 3.0,
) -> Estimate:
    """
    Bound the gain when there are too few sittings to see what a reboot moves.

    Args:
        before, after: oriented readings by sitting, each side at least one sitting and three runs, every
            sitting at least two runs.
        step: resolution; the within-sitting sd never falls below step/√12.
        reboot_ratio: c, the largest sitting-to-sitting sd allowed for, in run-to-run sds.
    Returns: difference of run means with the guard interval; no p; `break_even` is c*, the reboot ratio at
        which the 95 % interval would just touch zero; `se` carries the reboot allowance.
    Assumes: equal run-to-run scatter on both sides.
    Source: docs/judgement.md, "One sitting a side".
    """
    n_b, n_a = sum(map(len, before)), sum(map(len, after))
    difference = _mean([y for sitting in after for y in sitting]) - _mean([y for sitting in before for y in sitting])
    sittings = [*before, *after]
    df = float(sum(len(sitting) - 1 for sitting in sittings))
    sd = math.sqrt(max(sum(map(_squares, sittings)) / df, step**2 / 12) + doubt)
    runs, reboots = 1 / n_b + 1 / n_a, 1 / len(before) + 1 / len(after)
    return _guarded(difference, sd, df, runs, reboots, reboot_ratio)


def label_guard(
    by_pair: Sequence[Sequence[float]], *, step: float, doubt: float = 0.0, reboot_ratio: float = 3.0
) -> Estimate:
    """
    Bound the gain when one or two pairs of sittings ran the same labelled inputs.

    Args:
        by_pair: for each pair of sittings, after − before of each label's median, oriented, at least three labels.
        step, doubt, reboot_ratio: as for `guard`.
    Returns: as `guard`; inputs within one sitting say nothing of reboots, however many they are.
    Source: docs/judgement.md, "One sitting a side".
    """
    differences = [difference for labels in by_pair for difference in labels]
    n = len(differences)
    df = float(n - len(by_pair))
    sd = math.sqrt(max(sum(map(_squares, by_pair)) / df / 2, step**2 / 12) + doubt)
    runs, reboots = 2 / n, 2 / len(by_pair)
    return _guarded(_mean(differences), sd, df, runs, reboots, reboot_ratio)


def _guarded(difference: float, sd: float, df: float, runs: float, reboots: float, reboot_ratio: float) -> Estimate:
    """The guard interval: `runs` and `reboots` are the sums of 1/n and 1/k over both sides."""
    se = sd * math.sqrt(runs + reboot_ratio**2 * reboots)
    core = t_estimate("one_sitting", difference, sd, se, df)
    t = t_quantile(0.975, df)
    break_even = math.sqrt(max(0.0, (difference / (sd * t)) ** 2 - runs) / reboots)
    return Estimate(
        core.basis, difference, sd, se, df, core.low, core.high, core.low90, core.high90, None, break_even
    )


def _wider(pooled: Estimate, welch: Estimate) -> Estimate:
    """Take the wider interval at each level, the se and df behind the 95 % one, and the larger p."""
    chosen = max(pooled, welch, key=lambda estimate: estimate.high - estimate.low)
    wide90 = max(pooled, welch, key=lambda estimate: estimate.high90 - estimate.low90)
    return Estimate(
        basis=chosen.basis,
        estimate=chosen.estimate,
        sd=chosen.sd,
        se=chosen.se,
        df=chosen.df,
        low=chosen.low,
        high=chosen.high,
        low90=wide90.low90,
        high90=wide90.high90,
        p=max(pooled.p or 0.0, welch.p or 0.0),
    )


# Exact summation: the order in which runs stand in a file must not move the last digit of a result.
def _mean(values: Sequence[float]) -> float:
    return math.fsum(values) / len(values)


def _squares(values: Sequence[float]) -> float:
    mean = _mean(values)
    gaps = [value - mean for value in values]
    return math.fsum([gap * gap for gap in gaps])
