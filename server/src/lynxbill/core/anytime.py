"""The rule for looking before the plan is complete, and after its verdict was shown: valid whenever one looks."""

import math
from dataclasses import replace
from functools import lru_cache

from lynxbill.core.estimate import Estimate
from lynxbill.core.measure import MOST_LOG

PRIOR_SPREAD = 4.0
EARLY_ALPHA = 0.05
AFTER_SHOWING_ALPHA = 0.025
LARGEST_T = 1e150


def e_value(t: float, df: float, size: float) -> float:
    """
    Evidence against "nothing changed", as a bet that may be settled at any moment: 20 is as much as p = 0.05.

    Args:
        t: the difference over its standard error (dimensionless).
        df: degrees of freedom, at least 1.
        size: N of the comparison: k_b·k_a/(k_b + k_a), or the number of pairs.
    Returns: above 0; at most e^700.
    Source: docs/judgement.md, "Looking before the plan is complete": the t statistic's Bayes factor with a normal
        effect of variance g = 4 scatters squared (V. H. de la Peña, T. L. Lai, Q.-M. Shao, Self-Normalized
        Processes, 2009).
    """
    r = 1 + PRIOR_SPREAD * size
    # The square of a larger t would be no number any more; its evidence is past all telling apart long before.
    t = min(abs(t), LARGEST_T)
    log_e = -0.5 * math.log(r) + (df + 1) / 2 * (math.log1p(t * t / df) - math.log1p(t * t / (df * r)))
    return math.exp(min(log_e, MOST_LOG))


@lru_cache(maxsize=4096)
def critical_t(df: float, size: float, alpha: float) -> float | None:
    """
    Find the t from which the e-value reaches 1/alpha.

    Args:
        df, size: as for `e_value`.
        alpha: in (0, 1).
    Returns: above 0; None where so few sittings can never reach it.
    """
    r = 1 + PRIOR_SPREAD * size
    q = (math.sqrt(r) / alpha) ** (2 / (df + 1))
    return math.sqrt(df * (q - 1) / (1 - q / r)) if q < r else None


def look(planned: Estimate, size: float, *, after_showing: bool) -> Estimate | None:
    """
    Replace a planned t interval by one that stays valid however often one looks.

    Args:
        planned: the pooled or paired estimate of the sittings there are.
        size: as for `e_value`.
        after_showing: a planned verdict was given already; then e must reach 40 instead of 20.
    Returns: the interval at alpha .05 (after a showing .025), `low90`/`high90` at twice that, p = 1/e (2/e), and the
        e-value; None where there are too few sittings for any interval.
    """
    alpha = AFTER_SHOWING_ALPHA if after_showing else EARLY_ALPHA
    narrow, wide = critical_t(planned.df, size, 2 * alpha), critical_t(planned.df, size, alpha)
    if narrow is None or wide is None:
        return None
    e = e_value(planned.estimate / planned.se, planned.df, size)
    d, se = planned.estimate, planned.se
    return replace(
        planned,
        basis="anytime",
        low=d - wide * se,
        high=d + wide * se,
        low90=d - narrow * se,
        high90=d + narrow * se,
        p=min(1.0, EARLY_ALPHA / alpha / e),
        e_value=e,
    )
