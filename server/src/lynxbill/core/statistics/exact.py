"""Steps of a scale and passes or failures: an exact permutation of sitting units, without any interval."""

import math
from collections import Counter
from collections.abc import Sequence

# Sums that differ only in their last digits are the same sum.
DIGITS = 9
SAME = 1e-9


def permutation_p(before: Sequence[float], after: Sequence[float]) -> float:
    """
    Exact two-sided p of the difference of means over all ways to share the sittings out to two sides.

    Args:
        before, after: one unit a sitting: the median step, or the share of passes; at least one a side.
    Returns: at least 2/C(n, k) where no two arrangements tie.
    Source: docs/judgement.md, "Steps and outcomes"; E. J. G. Pitman, J. R. Statist. Soc. Suppl. 4 (1937) 119.
    """
    k_b, k_a = len(before), len(after)
    whole = math.fsum([*before, *after])

    def difference(before_sum: float) -> float:
        return (whole - before_sum) / k_a - before_sum / k_b

    reached = abs(difference(math.fsum(before))) - SAME
    ways = _count_sums([*before, *after], k_b)
    return sum(count for total, count in ways.items() if abs(difference(total)) >= reached) / math.comb(
        k_b + k_a, k_b
    )


def _count_sums(units: Sequence[float], chosen: int) -> Counter[float]:
    """How many ways of choosing so many units have each sum; steps and shares have few sums, however many ways."""
    ways: list[Counter[float]] = [Counter() for _ in range(chosen + 1)]
    ways[0][0.0] = 1
    for unit in units:
        for taken in range(chosen - 1, -1, -1):
            for total, count in ways[taken].items():
                ways[taken + 1][round(total + unit, DIGITS)] += count
    return ways[chosen]
