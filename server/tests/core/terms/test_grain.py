"""How finely readings were read: known grids first, then what must hold for any readings."""

from decimal import Decimal
from fractions import Fraction

import pytest
from hypothesis import given
from hypothesis import strategies as st

from lynxbill.core.terms.grain import ENOUGH, NO_GRAIN, grain_of

USUAL = [
    Fraction(usual) * Fraction(10) ** power for usual in ("1", "1.25", "2", "2.5", "5") for power in range(-4, 5)
]
readings = st.lists(st.integers(-4000, 4000).map(lambda whole: whole / 8), min_size=ENOUGH, max_size=12)


@pytest.mark.parametrize(
    ("values", "step"),
    [
        ((40.0, 40.5, 41.5, 42.0, 40.0, 43.5), 0.5),
        ((40.0, 40.125, 41.5, 42.0, 40.0, 43.5), 0.125),
        ((40.0, 40.25, 41.5, 42.0, 40.0, 43.5), 0.25),
        ((0.2, 0.4, 0.6, 1.2, 0.4, 0.8), 0.2),
        ((1200.0, 1250.0, 1300.0, 1200.0, 1350.0, 1400.0), 50.0),
        ((41.1, 41.2, 41.7, 41.3, 41.4, 41.1), 0.1),
        ((3.0, 6.0, 9.0, 3.0, 6.0, 12.0), 1.0),
    ],
)
def test_from_six_readings_on_a_step_is_what_all_of_them_fit(values: tuple[float, ...], step: float) -> None:
    assert grain_of(values).step == step


def test_fewer_than_six_tell_their_decimal_place_and_zeros_tell_nothing() -> None:
    assert grain_of((40.0, 40.5, 41.5, 42.0, 40.0)).step == 0.1
    assert grain_of((40.0, 40.5, 41.5, 42.0, 40.0, 0.0, 0.0)).step == 0.1
    assert grain_of((50.0, 55.0, 0.0)).step == 1.0


def test_whole_readings_of_which_two_differ_are_taken_for_no_coarser_than_ten() -> None:
    assert grain_of((400.0,) * 6).step == 10.0
    assert grain_of((400.0, 500.0) * 3).step == 10.0
    assert grain_of((400.0, 500.0, 700.0) * 2).step == 100.0
    assert grain_of((4000.5, 4001.0) * 3).step == 0.5


@given(readings)
def test_no_usual_step_is_larger_and_fits_all(values: list[float]) -> None:
    grain = grain_of(values)
    exact = [Fraction(Decimal(repr(value))) for value in values if value]
    fitting = [step for step in USUAL if all((value / step).denominator == 1 for value in exact)]
    if grain.count >= ENOUGH and (len(grain.some) > 2 or any(value % 1 for value in values)):
        assert Fraction(Decimal(repr(grain.step))) == max(fitting)


@given(readings, readings)
def test_readings_of_two_sittings_together_are_those_of_one_list(ours: list[float], theirs: list[float]) -> None:
    assert grain_of(ours).joined(grain_of(theirs)) == grain_of([*ours, *theirs])
    assert NO_GRAIN.joined(grain_of(ours)) == grain_of(ours)
