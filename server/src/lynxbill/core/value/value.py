"""Improvement per unit of money, with its interval."""

import math
from collections.abc import Sequence
from dataclasses import dataclass
from decimal import Decimal
from typing import Literal

import numpy as np

from lynxbill.core.statistics.estimate import Estimate
from lynxbill.core.statistics.samples import Floats, draw_gains, draw_prices, in_order, in_percent, seed_of
from lynxbill.core.terms.measure import gain_percent
from lynxbill.core.terms.money import Booked

ValueNote = Literal[
    "untested",
    "plan_incomplete",
    "no_costs",
    "not_settled",
    "not_settled_at_most",
    "no_change",
    "loss",
    "loss_that_pays",
    "pays_for_itself",
    "cost_nothing",
    "no_ratio",
    "at_least",
    "no_interval",
]


@dataclass(frozen=True, slots=True)
class Value:
    """
    Gain of a measure per 10 units of currency: percent for work, the measure's own unit for heat and noise.

    None where a ratio would mean nothing, and `note` says why. `cost_per_item` is what each further thing that passes
    cost, of an outcome that tries several.
    """

    gain_per_10: float | None
    low: float | None
    high: float | None
    note: ValueNote | None
    cost_per_item: float | None = None


def no_value(note: ValueNote) -> Value:
    """
    Say why there is nothing to divide.

    Args:
        note: why.
    """
    return Value(None, None, None, note)


def value_of(
    gain: Estimate, costs: Sequence[Booked], net_cost: Decimal, *, percent: bool = True, proven: bool = True
) -> Value:
    """
    Divide a gain by its net cost, carrying both uncertainties by the angle of (gain, cost).

    Args:
        gain: on the scale of judgement, with its se and df.
        costs: the signed lines, in the currency of account; uncertain ones triangular (low, likely, high).
        net_cost: their likely sum.
        percent: the gain is a log ratio, to be divided as percent; else a difference in the measure's unit.
        proven: the gain's verdict is a real one; a gain that is not gets no ratio but its upper end ("at most").
    Returns: gain per 10 units of currency with an interval at the gain's own level from 20,000 draws; `high` is None
        past a right angle ("at least").
    Source: docs/judgement.md, "Overall gain, value, comparison of swaps".
    """
    size = gain_percent(gain.estimate) if percent else gain.estimate
    if net_cost <= 0:
        return no_value(_free_of_cost(size, costs, net_cost))
    gains, prices = _draw(gain, costs, percent=percent)
    point = 10 * size / float(net_cost)
    is_settled = proven and not gain.low <= 0 <= gain.high
    if np.mean((gains < 0) & (prices < 0)) > 0.025:
        return Value(point if is_settled else None, None, None, "no_interval" if is_settled else "not_settled")
    low, high = (
        float(angle) for angle in np.quantile(np.arctan2(gains, prices), ((1 - gain.level) / 2, (1 + gain.level) / 2))
    )
    v_low, v_high = _per_10(low), _per_10(high)
    if not is_settled:
        return Value(None, None, v_high, "not_settled_at_most")
    return Value(point, v_low, v_high, "at_least" if v_high is None else None)


def _free_of_cost(gain: float, costs: Sequence[Booked], net_cost: Decimal) -> ValueNote:
    """What earns or gives back its price pays for itself; what never had one does not."""
    earned = any(line.likely < 0 for line in costs)
    if gain < 0:
        return "loss_that_pays" if earned else "loss"
    return "pays_for_itself" if net_cost < 0 or earned else "cost_nothing"


def _per_10(angle: float) -> float | None:
    return 10 * math.tan(angle) if abs(angle) < math.pi / 2 else None


def _draw(gain: Estimate, costs: Sequence[Booked], *, percent: bool) -> tuple[Floats, Floats]:
    lines = in_order(costs)
    generator = np.random.default_rng(seed_of((gain.estimate, gain.se, gain.df), lines))
    drawn = draw_gains(generator, gain)
    return in_percent(drawn) if percent else drawn, draw_prices(generator, lines)
