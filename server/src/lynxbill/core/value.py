"""Improvement per unit of money, with its interval."""

import math
from collections.abc import Sequence
from dataclasses import dataclass
from decimal import Decimal
from typing import Literal

import numpy as np

from lynxbill.core.draws import Floats, draw_gains, draw_prices, in_order, in_percent, seed_of
from lynxbill.core.estimate import Estimate
from lynxbill.core.measure import gain_percent
from lynxbill.core.money import Booked

ValueNote = Literal[
    "untested",
    "plan_incomplete",
    "no_costs",
    "not_settled_at_most",
    "pays_for_itself",
    "loss_that_pays",
    "at_least",
    "no_interval",
]


@dataclass(frozen=True, slots=True)
class Value:
    """Percent gained per 10 units of currency; None where a ratio would mean nothing, and `note` says why."""

    gain_per_10: float | None
    low: float | None
    high: float | None
    note: ValueNote | None


def value_of(gain: Estimate, costs: Sequence[Booked], net_cost: Decimal) -> Value:
    """
    Divide an overall gain by its net cost, carrying both uncertainties by the angle of (gain, cost).

    Args:
        gain: the overall gain on the log scale, with its se and df.
        costs: the signed lines, in the currency of account; uncertain ones triangular (low, likely, high).
        net_cost: their likely sum.
    Returns: percent per 10 units of currency with a 95 % interval from 20,000 draws; `high` is None past a
        right angle ("at least"). A gain that is not settled gives only `high` ("at most").
    Source: docs/judgement.md, "Overall gain, value, comparison of swaps".
    """
    percent = gain_percent(gain.estimate)
    if net_cost <= 0:
        return Value(None, None, None, "loss_that_pays" if percent < 0 else "pays_for_itself")
    gains, prices = _draw(gain, costs)
    point = 10 * percent / float(net_cost)
    if np.mean((gains < 0) & (prices < 0)) > 0.025:
        return Value(point, None, None, "no_interval")
    low, high = (float(angle) for angle in np.quantile(np.arctan2(gains, prices), (0.025, 0.975)))
    v_low, v_high = _per_10(low), _per_10(high)
    if gain.low <= 0 <= gain.high:
        return Value(None, None, v_high, "not_settled_at_most")
    return Value(point, v_low, v_high, "at_least" if v_high is None else None)


def _per_10(angle: float) -> float | None:
    return 10 * math.tan(angle) if abs(angle) < math.pi / 2 else None


def _draw(gain: Estimate, costs: Sequence[Booked]) -> tuple[Floats, Floats]:
    lines = in_order(costs)
    generator = np.random.default_rng(seed_of((gain.estimate, gain.se, gain.df), lines))
    return in_percent(draw_gains(generator, gain)), draw_prices(generator, lines)
