"""Steps of a scale and passes or failures: an exact permutation of sitting units, without any interval."""

import math
from collections.abc import Sequence
from itertools import combinations

MOST_ARRANGEMENTS = 200_000
SAME = 1e-12


def permutation_p(before: Sequence[float], after: Sequence[float]) -> float | None:
    """
    Exact two-sided p of the difference of means over all ways to share the sittings out to two sides.

    Args:
        before, after: one unit a sitting: the median step, or the share of passes.
    Returns: at least 2/C(n, k) where no two arrangements tie; None where there are more arrangements than can be
        counted.
    Source: docs/judgement.md, "Estimate and interval"; E. J. G. Pitman, J. R. Statist. Soc. Suppl. 4 (1937) 119.
    """
    units = [*before, *after]
    if math.comb(len(units), len(before)) > MOST_ARRANGEMENTS:
        return None
    whole = math.fsum(units)
    reached = abs(_difference(math.fsum(before), whole, len(before), len(after)))
    sums = [math.fsum(chosen) for chosen in combinations(units, len(before))]
    at_least = sum(abs(_difference(s, whole, len(before), len(after))) >= reached - SAME for s in sums)
    return at_least / len(sums)


def _difference(before_sum: float, whole: float, k_b: int, k_a: int) -> float:
    return (whole - before_sum) / k_a - before_sum / k_b
