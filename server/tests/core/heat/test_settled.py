"""Settled or not: by what is left to go, not by how little it moved; what climbs says where to and how long."""

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from lynxbill.core.heat.roles import SENSED
from lynxbill.core.heat.settled import Course, find_course
from lynxbill.core.heat.trace import Floats


def soak(minutes: float, tau: float, rise: float = 40.0, sd: float = 0.0, step: float = 2.0) -> tuple[Floats, Floats]:
    at = np.arange(0.0, 60 * minutes + step / 2, step)
    return at, 70 - rise * np.exp(-at / tau) + np.random.default_rng(4).normal(0, sd, len(at))


def course(minutes: float, tau: float, **fields: float) -> Course:
    found = find_course("temperature", *soak(minutes, tau, **fields))
    assert found is not None
    return found


@given(tau=st.floats(20, 300), rise=st.floats(-60, 60).filter(lambda rise: abs(rise) > 3), share=st.floats(1.15, 20))
def test_it_has_not_settled_where_more_than_half_a_kelvin_is_left(tau: float, rise: float, share: float) -> None:
    left = SENSED["temperature"].within * share
    minutes = tau * np.log(abs(rise) / left) / 60
    if minutes < 3:
        return
    found = course(minutes, tau, rise=rise)
    assert found.moving == "left to go"
    if found.left is not None:
        assert found.left == pytest.approx(left if rise > 0 else -left, rel=0.1)
        assert found.way == ("climbs" if rise > 0 else "falls")


@given(tau=st.floats(20, 150), rise=st.floats(-60, 60), taus=st.floats(8, 20), sd=st.sampled_from([0.0, 0.1, 0.25]))
def test_what_has_come_to_its_end_has_settled(tau: float, rise: float, taus: float, sd: float) -> None:
    found = course(max(20.0, tau * taus / 60), tau, rise=rise, sd=sd)
    assert found.moving is None
    assert found.value == pytest.approx(70.0, abs=0.1)


def test_a_slow_second_part_is_not_lost_beside_a_quick_one() -> None:
    # A fifth of the rise at 600 s: after 15 minutes 1.8 K are left, and one constant alone says 0.1 K.
    at = np.arange(0.0, 901.0, 2.0)
    values = 70 - 32 * np.exp(-at / 60) - 8 * np.exp(-at / 600)
    found = find_course("temperature", at, values + np.random.default_rng(3).normal(0, 0.15, len(at)))
    assert found is not None
    assert found.moving == "left to go"
    assert found.heading == pytest.approx(70.0, abs=1.0) or found.heading is None


def test_a_drift_that_no_curve_tells_may_move() -> None:
    # Level for 20 minutes, then 0.3 K a minute, as when a room warms.
    at = np.arange(0.0, 1801.0, 2.0)
    values = 70 - 40 * np.exp(-at / 60) + 0.3 / 60 * np.maximum(0.0, at - 1200)
    found = find_course("temperature", at, values + np.random.default_rng(3).normal(0, 0.2, len(at)))
    assert found is not None
    assert not found.settled
    assert found.drift == pytest.approx((0.9, 0.9), abs=0.2)


def test_what_lies_level_has_settled_and_what_climbs_straight_has_not() -> None:
    at = np.arange(0.0, 1200.0, 2.0)
    noise = np.random.default_rng(5).normal(0, 0.2, len(at))
    for values in (np.full(len(at), 42.0), 42 + noise):
        level = find_course("temperature", at, values)
        assert level is not None
        assert level.settled
    rising = find_course("temperature", at, 42 + at / 300 + noise)
    assert rising is not None
    assert not rising.settled


def test_what_climbs_slowly_is_not_taken_for_settled() -> None:
    # 0.09 K a minute: less than a sensor's step in three minutes, and still 0.9 K to go.
    found = course(38.0, 600.0, sd=0.1)
    assert abs(found.per_min) < 0.1
    assert not found.settled
    assert found.value is None


def test_what_climbs_says_where_to_how_far_it_got_and_how_long_it_needs() -> None:
    found = course(6.0, 120.0, sd=0.1)
    assert found.heading == pytest.approx(70.0, abs=0.5)
    assert found.left == pytest.approx(40 * np.exp(-3), rel=0.15)
    assert found.gone == pytest.approx(1 - np.exp(-3), abs=0.02)
    # 2.0 K become half of one in 2 tau·ln 2 more.
    assert found.minutes == pytest.approx(2 * np.log(40 * np.exp(-3) / 0.5), abs=0.4)


def test_where_no_end_is_in_sight_none_is_told() -> None:
    at = np.arange(0.0, 600.0, 2.0)
    found = find_course("temperature", at, 30 + at / 60)
    assert found is not None
    assert (found.settled, found.heading, found.left, found.minutes, found.gone) == (False, None, None, None, None)
    assert found.per_min == pytest.approx(1.0, rel=0.25)


def test_the_settled_value_is_of_what_was_settled_alone() -> None:
    # What had come within half a kelvin, no more than three minutes of it.
    long = course(30.0, 100.0)
    assert long.since_s == pytest.approx(30 * 60 - 180, abs=2)
    assert long.value == pytest.approx(70.0, abs=0.01)


def test_other_channels_settle_within_bounds_of_their_own() -> None:
    at = np.arange(0.0, 1800.0, 2.0)
    falling = 3300 + 300 * np.exp(-at / 200)
    clock = find_course("clock", at, falling)
    assert clock is not None
    assert clock.settled
    assert clock.value == pytest.approx(3300, abs=20)
    short = find_course("clock", at[:150], falling[:150])
    assert short is not None
    assert (short.settled, short.way) == (False, "falls")


def test_too_little_says_nothing() -> None:
    assert find_course("temperature", *soak(1.5, 20.0)) is None
    assert find_course("temperature", *soak(10.0, 20.0, step=100.0)) is None
