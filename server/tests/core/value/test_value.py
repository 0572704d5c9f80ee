import math
from decimal import Decimal

import numpy as np
import pytest

from lynxbill.core.statistics.estimate import Estimate, side_by_side
from lynxbill.core.terms.money import Booked
from lynxbill.core.value.value import value_of


def gain(before: list[float], after: list[float]) -> Estimate:
    return side_by_side(before, after, step=1e-9)


STEADY = gain([0.0, 0.001, -0.001], [0.2, 0.201, 0.199])
LOOSE = gain([0.0, 0.05, -0.05], [0.02, 0.07, -0.03])


def sure(amount: str) -> list[Booked]:
    return [Booked(Decimal(amount), Decimal(amount), Decimal(amount))]


def test_value_is_percent_per_ten_units() -> None:
    value = value_of(STEADY, sure("50"), Decimal(50))
    assert value.gain_per_10 == pytest.approx(100 * math.expm1(0.2) / 5)
    assert value.gain_per_10 is not None
    assert value.low is not None
    assert value.high is not None
    assert value.low < value.gain_per_10 < value.high


def test_with_a_sure_cost_the_interval_is_that_of_the_gain() -> None:
    value = value_of(STEADY, sure("50"), Decimal(50))
    assert value.low == pytest.approx(20 * math.expm1(STEADY.low), rel=0.02)
    assert value.high == pytest.approx(20 * math.expm1(STEADY.high), rel=0.02)


def test_the_interval_is_at_the_gains_own_level() -> None:
    before, after = [0.0, 0.02, -0.02], [0.2, 0.22, 0.18]
    for alpha in (0.05, 0.03, 0.01):
        own = side_by_side(before, after, step=1e-9, alpha=alpha)
        value = value_of(own, sure("50"), Decimal(50))
        assert value.low == pytest.approx(20 * math.expm1(own.low), rel=0.02)
        assert value.high == pytest.approx(20 * math.expm1(own.high), rel=0.02)


@pytest.mark.parametrize(
    ("estimate", "note"),
    [(STEADY, "pays_for_itself"), (gain([0.2, 0.201, 0.199], [0, 0.001, -0.001]), "loss_that_pays")],
)
def test_no_ratio_where_the_swap_earned_money(estimate: Estimate, note: str) -> None:
    value = value_of(estimate, sure("-5"), Decimal(-5))
    assert (value.gain_per_10, value.low, value.high, value.note) == (None, None, None, note)


def test_a_gain_that_is_not_settled_gets_no_figure_but_an_upper_end() -> None:
    value = value_of(LOOSE, sure("50"), Decimal(50))
    assert value.note == "not_settled_at_most"
    assert value.gain_per_10 is None
    assert value.high is not None


def test_a_cost_that_may_vanish_gives_at_least() -> None:
    value = value_of(STEADY, [Booked(Decimal(5), Decimal(-20), Decimal(30))], Decimal(5))
    assert value.note == "at_least"
    assert value.high is None
    assert value.low is not None


def test_the_same_data_give_the_same_figures_in_any_order() -> None:
    lines = [*sure("50"), Booked(Decimal(-5), Decimal(-9), Decimal(-1))]
    assert value_of(STEADY, lines, Decimal(45)) == value_of(STEADY, lines[::-1], Decimal(45))


@pytest.mark.nightly
def test_the_interval_covers_the_true_value() -> None:
    generator = np.random.default_rng(8)
    covered, n, truth = 0, 300, 100 * math.expm1(0.2) / 5
    for _ in range(n):
        before, after = generator.normal(0, 0.02, 3), generator.normal(0.2, 0.02, 3)
        value = value_of(gain(list(before), list(after)), sure("50"), Decimal(50))
        covered += (value.low or 0) <= truth <= (value.high or math.inf)
    assert covered / n >= 0.95 - 3.3 * math.sqrt(0.95 * 0.05 / n)
