"""Rank and permutation figures beside the t interval: shown on demand, never deciding."""

import math
from collections.abc import Sequence
from dataclasses import dataclass
from functools import lru_cache
from statistics import median

import numpy as np
from numpy.typing import NDArray

from lynxbill.core.judgement.pairing import Pairing, unit_differences
from lynxbill.core.judgement.sitting import Sides
from lynxbill.core.record.plan import Design
from lynxbill.core.statistics.estimate import two_sided_p
from lynxbill.core.statistics.scatter import mean_of, pool

Floats = NDArray[np.float64]
MOST_FLIPPED = 20
MOST_RANKED = 200
# Sums that differ only in their last digits are the same sum.
SAME = 1e-12


@dataclass(frozen=True, slots=True)
class Companions:
    """None where a figure can't exist: signed figures need pairs, two-sample ones two free sides."""

    sign_flip_p: float | None = None
    hodges_lehmann: float | None = None
    signed_rank_p: float | None = None
    mann_whitney_p: float | None = None
    welch_p: float | None = None


def companions_of(sides: Sides, pairing: Pairing, design: Design) -> Companions:
    """
    Compute the companions that a design has.

    Args:
        sides: the units of one measure; a side without one has no companions.
        pairing: its matched sittings, for a paired design.
    """
    if sides.short or not sides.before or not sides.after:
        return Companions()
    if design == "paired":
        differences = unit_differences(sides, pairing)
        return paired_companions(differences) if differences else Companions()
    return two_sample_companions([unit.unit for unit in sides.before], [unit.unit for unit in sides.after])


def two_sample_companions(before: Sequence[float], after: Sequence[float]) -> Companions:
    """
    Compute the companions of two free sides.

    Args:
        before, after: oriented units, at least one a side.
    """
    return Companions(
        hodges_lehmann=median(a - b for a in after for b in before),
        mann_whitney_p=mann_whitney_p(before, after),
        welch_p=welch_p(before, after),
    )


def paired_companions(differences: Sequence[float]) -> Companions:
    """
    Compute the companions of matched sittings.

    Args:
        differences: D_i, oriented, at least one.
    """
    pairs = [(a + b) / 2 for i, a in enumerate(differences) for b in differences[i:]]
    return Companions(
        sign_flip_p=sign_flip_p(differences),
        hodges_lehmann=median(pairs),
        signed_rank_p=signed_rank_p(differences),
    )


def least_rank_p(before: int, after: int, pairs: int | None = None) -> float | None:
    """
    Say how small a p so few sittings could ever give a two-sided test of ranks or signs.

    Args:
        before, after: sittings a side, at least 1 each.
        pairs: matched sittings of a paired design; None for free sides.
    Returns: 2/2^pairs, or 2/C(before + after, before), at most 1; None where nothing is paired.
    Source: F. Wilcoxon, Biometrics Bull. 1 (1945) 80.
    """
    if pairs == 0:
        return None
    ways = 2**pairs if pairs is not None else math.comb(before + after, before)
    return min(1.0, 2 / ways)


def sign_flip_p(differences: Sequence[float]) -> float | None:
    """
    Exact two-sided p of the mean under all 2^k changes of sign.

    Args:
        differences: shape (k,), paired differences on the oriented scale.
    Returns: None above 20 differences, where there are too many to count.
    Source: R. A. Fisher, The Design of Experiments (1935), section 21.
    """
    if not 1 <= len(differences) <= MOST_FLIPPED:
        return None
    sums = _signed_sums(differences)
    reached = abs(math.fsum(differences))
    return float(np.mean(np.abs(sums) >= reached - SAME * max(1.0, reached)))


def signed_rank_p(differences: Sequence[float]) -> float | None:
    """
    Exact two-sided p of the signed ranks; zeros are left out, ties share their ranks.

    Args:
        differences: shape (k,), paired differences on the oriented scale.
    Returns: None above 20 differences or where all are zero.
    Source: F. Wilcoxon, Biometrics Bull. 1 (1945) 80.
    """
    moved = [difference for difference in differences if difference != 0]
    if not 1 <= len(moved) <= MOST_FLIPPED:
        return None
    ranks = midranks([abs(difference) for difference in moved])
    sums = _signed_sums(ranks)
    reached = math.fsum(rank if difference > 0 else -rank for rank, difference in zip(ranks, moved, strict=True))
    below, above = float(np.mean(sums <= reached + SAME)), float(np.mean(sums >= reached - SAME))
    return min(1.0, 2 * min(below, above))


def mann_whitney_p(before: Sequence[float], after: Sequence[float]) -> float | None:
    """
    Exact two-sided p of the rank sum of one side, ties sharing their ranks.

    Args:
        before, after: shape (m,) and (n,), unpaired values on the oriented scale.
    Returns: None where the sides have more than 200 units together.
    Source: H. B. Mann and D. R. Whitney, Ann. Math. Statist. 18 (1947) 50.
    """
    total = len(before) + len(after)
    if not before or not after or total > MOST_RANKED:
        return None
    # Twice the midranks are whole numbers, so that sums of them can be counted.
    ranks = [round(2 * rank) for rank in midranks([*before, *after])]
    counts = _count_sums(tuple(sorted(ranks)), len(before))
    reached = sum(ranks[: len(before)])
    below, above = counts[: reached + 1].sum(), counts[reached:].sum()
    return float(min(1.0, 2 * min(below, above) / counts.sum()))


def welch_p(before: Sequence[float], after: Sequence[float]) -> float | None:
    """
    Two-sided p of Welch's t.

    Args:
        before, after: shape (m,) and (n,), m, n >= 2, on the oriented scale.
    Returns: None where a side has one unit, or neither scatters.
    Source: B. L. Welch, Biometrika 34 (1947) 28.
    """
    if min(len(before), len(after)) < 2:
        return None
    v_b, v_a = (pool([side]).variance / len(side) for side in (before, after))
    if v_b + v_a == 0:
        return None
    df = (v_b + v_a) ** 2 / (v_b**2 / (len(before) - 1) + v_a**2 / (len(after) - 1))
    return two_sided_p((mean_of(after) - mean_of(before)) / math.sqrt(v_b + v_a), df)


def midranks(values: Sequence[float]) -> list[float]:
    """
    Rank values from 1; those that are the same share the mean of their ranks.

    Args:
        values: shape (n,), on any scale.
    """
    order = sorted(range(len(values)), key=lambda index: values[index])
    ranks = [0.0] * len(values)
    start = 0
    while start < len(order):
        end = start
        while end + 1 < len(order) and values[order[end + 1]] == values[order[start]]:
            end += 1
        for place in range(start, end + 1):
            ranks[order[place]] = (start + end) / 2 + 1
        start = end + 1
    return ranks


def _signed_sums(values: Sequence[float]) -> Floats:
    sums = np.zeros(1)
    for value in values:
        sums = np.concatenate((sums + value, sums - value))
    return sums


# Without ties the ranks of every measure of a comparison are the same.
@lru_cache(maxsize=64)
def _count_sums(ranks: tuple[int, ...], chosen: int) -> Floats:
    """How many choices of so many ranks have each sum."""
    counts: Floats = np.zeros((chosen + 1, sum(ranks) + 1))
    counts[0, 0] = 1.0
    for number, rank in enumerate(ranks, start=1):
        for size in range(min(chosen, number), 0, -1):
            counts[size, rank:] += counts[size - 1, : counts.shape[1] - rank]
    chosen_sums: Floats = counts[chosen]
    return chosen_sums
