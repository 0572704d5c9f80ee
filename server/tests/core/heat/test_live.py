"""A run while it lasts: against the same minute of others, when its clock fell, when a counter rose."""

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from lynxbill.core.heat.live import clock_falls_since, find_latest, first_rise, level_at

AT = np.arange(0.0, 600.0, 1.0)
UP = 70 - 45 * np.exp(-AT / 100)


def test_it_is_set_against_the_same_minute_of_each_other_run() -> None:
    seen = AT <= 240
    short = (AT[:100], UP[:100])
    found = find_latest("temperature", AT[seen], UP[seen], [(AT, UP + 4), (AT, UP + 2), short])
    assert found is not None
    # What ended before this minute says nothing of it.
    assert found.others == pytest.approx(float(UP[225:256].mean()) + 3)
    assert found.now == pytest.approx(float(UP[225:241].mean()))
    assert found.course is not None
    assert not found.course.settled
    assert found.course.heading == pytest.approx(70, abs=0.2)


def test_gaps_are_left_out_and_a_channel_of_gaps_alone_stands_nowhere() -> None:
    values = UP.copy()
    values[-5:] = np.nan
    found = find_latest("temperature", AT, values, [])
    assert found is not None
    assert (found.others, round(found.now, 1)) == (None, round(float(UP[580:595].mean()), 1))
    assert find_latest("temperature", AT, np.full(len(AT), np.nan), [(AT, UP)]) is None
    assert level_at(AT, np.full(len(AT), np.nan), 30.0) is None
    assert level_at(AT, UP, 900.0) is None


@given(st.integers(6, 38), st.floats(0.5, 0.97), st.floats(100.0, 5000.0))
def test_a_clock_that_fell_for_good_is_told_from_the_quarter_minute_in_which_it_did(
    quarter: int, share: float, clock: float
) -> None:
    fell = np.where(quarter * 15 <= AT, share * clock, clock)
    assert clock_falls_since(AT, fell) == quarter * 15


def test_a_dip_that_passes_and_a_clock_that_holds_are_no_fall() -> None:
    dip = np.where((AT > 200) & (AT < 260), 3000.0, 3600.0)
    assert clock_falls_since(AT, dip) is None
    assert clock_falls_since(AT, 3600 + 20 * np.sin(AT)) is None
    # In its first two minutes nothing is said.
    assert clock_falls_since(AT[:100], np.linspace(3600, 2000, 100)) is None
    assert clock_falls_since(AT[:0], AT[:0]) is None


def test_a_counter_rises_when_it_first_counts_and_may_begin_anywhere() -> None:
    counter = np.where(AT < 250, 17.0, 18.0)
    assert first_rise(AT, counter) == 250
    assert first_rise(AT, np.full(len(AT), 17.0)) is None
    assert first_rise(AT[:0], AT[:0]) is None
    counter[:260] = np.nan
    assert first_rise(AT, counter) is None
