"""Traces as they are drawn, and what follows from them."""

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from lynxbill.core.heat.readoff import figures_of
from lynxbill.core.heat.trace import check_samples, thin_out
from lynxbill.core.terms.errors import BadValue

VALUES = st.lists(st.one_of(st.just(float("nan")), st.floats(-50, 150)), min_size=1, max_size=300)


@given(VALUES, st.integers(1, 400))
def test_thinned_out_a_channel_keeps_its_extremes_and_its_times_rise(values: list[float], points: int) -> None:
    held = np.array(values)
    drawn = thin_out(np.arange(len(held), dtype=float), held, points)
    assert len(drawn.at) == min(points, len(held))
    assert list(drawn.at) == sorted(set(drawn.at))
    known = held[~np.isnan(held)]
    lows, highs = ([value for value in side if value is not None] for side in (drawn.low, drawn.high))
    assert bool(lows) == bool(len(known))
    if len(known):
        assert (min(lows), max(highs)) == (known.min(), known.max())


def test_a_curve_that_settles_comes_within_one_kelvin_when_it_stays_there() -> None:
    at = np.arange(0, 1200.0)
    figures = figures_of(at, 60 - 30 * np.exp(-at / 120))
    assert figures.last_minute == pytest.approx(60, abs=0.01)
    # 30 exp(-t/120) = 1 at t = 120 ln 30.
    assert figures.within_s == pytest.approx(120 * np.log(30), abs=2)
    assert figures.highest == pytest.approx(60, abs=0.01)


def test_a_channel_of_gaps_comes_to_nothing() -> None:
    figures = figures_of(np.arange(3.0), np.full(3, np.nan))
    assert (figures.highest, figures.last_minute, figures.within_s) == (None, None, None)


@pytest.mark.parametrize(("at", "since"), [([1.0, 1.0], -1.0), ([2.0, 1.0], -1.0), ([5.0], 5.0), ([2e6], -1.0)])
def test_times_rise(at: list[float], since: float) -> None:
    with pytest.raises(BadValue):
        check_samples(at, [1.0] * len(at), since, "channel")
