"""The rule for other times than the plan's looks: valid whenever one looks."""

import math
from functools import lru_cache

from lynxbill.core.statistics.estimate import ALPHA, Estimate, Forms
from lynxbill.core.terms.measure import MOST_LOG

# Two bets on how large an effect is, in squared scatters, with their shares of the stake: one alone can't see both a
# small gain from many sittings and a very large one from three a side.
BETS = ((0.8, 4.0), (0.2, 400.0))
# After the last planned look half of the error is spent: e must reach 40 instead of 20.
AFTER_LAST_LOOK = 0.5
FEWEST_UNITS = 3
LARGEST_T = 1e150
# Halvings of a bracket until neighbouring numbers are reached, whatever its ends.
_HALVINGS = 200


def e_value(t: float, df: float, size: float) -> float:
    """
    Evidence against "nothing changed", as a bet that may be settled at any moment: 20 is as much as p = 0.05.

    Args:
        t: the difference over its standard error (dimensionless).
        df: degrees of freedom, at least 1.
        size: N of the comparison: k_b·k_a/(k_b + k_a), or the number of pairs.
    Returns: above 0; at most e^700. It rises with |t|.
    Source: docs/judgement.md, "Looking at other times": the t statistic's Bayes factor with a normal
        effect of variance g scatters squared (V. H. de la Peña, T. L. Lai, Q.-M. Shao, Self-Normalized
        Processes, 2009), mixed over g = 4 and g = 400.
    """
    # The square of a larger t would be no number any more; its evidence is past all telling apart long before.
    t = min(abs(t), LARGEST_T)
    return math.fsum(share * math.exp(min(_log_bet(t, df, 1 + g * size), MOST_LOG)) for share, g in BETS)


def _log_bet(t: float, df: float, r: float) -> float:
    return -0.5 * math.log(r) + (df + 1) / 2 * (math.log1p(t * t / df) - math.log1p(t * t / (df * r)))


@lru_cache(maxsize=4096)
def critical_t(df: float, size: float, alpha: float) -> float | None:
    """
    Find the t from which the e-value reaches 1/alpha.

    Args:
        df, size: as for `e_value`.
        alpha: in (0, 1).
    Returns: above 0; None where so few sittings can never reach it.
    """
    # What the evidence comes near to as t grows without bound.
    most = math.fsum(share * math.exp(min(df / 2 * math.log(1 + g * size), MOST_LOG)) for share, g in BETS)
    if most <= 1 / alpha:
        return None
    low, high = 0.0, 1.0
    while e_value(high, df, size) < 1 / alpha:
        low, high = high, 2 * high
        if high > LARGEST_T:
            return None
    for _ in range(_HALVINGS):
        middle = (low + high) / 2
        if middle in (low, high):
            break
        low, high = (middle, high) if e_value(middle, df, size) < 1 / alpha else (low, middle)
    return high


def fewest_units(*, after_last_look: bool, paired: bool = False, alpha: float = ALPHA) -> int:
    """
    Say from how many units a side, or pairs, this rule gives an interval.

    Args:
        after_last_look, alpha: as for `at_any_time`.
        paired: whether they are pairs.
    Returns: at least 3; for sides that scatter alike.
    """
    spent = AFTER_LAST_LOOK if after_last_look else 1.0
    units = FEWEST_UNITS
    while critical_t(units - 1 if paired else 2 * units - 2, units if paired else units / 2, alpha * spent) is None:
        units += 1
    return units


def at_any_time(forms: Forms, size: float, *, after_last_look: bool, alpha: float = ALPHA) -> Estimate | None:
    """
    Judge two sides by a rule that stays valid however often one looks.

    Args:
        forms: of the units there are; the larger standard error and the smaller degrees of freedom count.
        size: as for `e_value`.
        after_last_look: the plan's last look is over.
        alpha: of the plan as a whole; divided where it is measured over.
    Returns: as `any_time`.
    """
    se = max(forms.se, forms.welch_se or 0.0)
    df = min(forms.df, forms.welch_df or forms.df)
    differs = se > forms.se or df < forms.df
    return any_time(
        forms.difference,
        forms.sd,
        se,
        df,
        size,
        after_last_look=after_last_look,
        alpha=alpha,
        differs=differs,
    )


def any_time(
    difference: float,
    sd: float,
    se: float,
    df: float,
    size: float,
    *,
    after_last_look: bool,
    alpha: float = ALPHA,
    differs: bool = False,
) -> Estimate | None:
    """
    Give a difference the interval of the anytime rule.

    Args:
        difference, sd, se: on the scale of judgement; se above 0.
        df, size: as for `e_value`.
        after_last_look, alpha: as for `at_any_time`.
    Returns: the interval at alpha (after the last look alpha/2), `low90`/`high90` at twice that, p = 1/e (2/e) to be
        held against alpha, and the e-value; None where there are too few sittings for any interval.
    """
    spent = AFTER_LAST_LOOK if after_last_look else 1.0
    narrow, wide = critical_t(df, size, 2 * alpha * spent), critical_t(df, size, alpha * spent)
    if narrow is None or wide is None:
        return None
    e = e_value(difference / se, df, size)
    return Estimate(
        basis="anytime",
        estimate=difference,
        sd=sd,
        se=se,
        df=df,
        low=difference - wide * se,
        high=difference + wide * se,
        low90=difference - narrow * se,
        high90=difference + narrow * se,
        p=min(1.0, 1 / (spent * e)),
        e_value=e,
        level=1 - alpha * spent,
        sides_differ=differs,
    )
