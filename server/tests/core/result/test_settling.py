"""What would settle a measure: both goals, the fewest sittings first, and nothing where nothing helps."""

import math
from dataclasses import replace

import numpy as np
import pytest

from lynxbill.core.judgement.ruling import Terms
from lynxbill.core.judgement.verdict import Verdict
from lynxbill.core.plan.agreement import agreement_of
from lynxbill.core.record.plan import PlannedMeasure
from lynxbill.core.result.settling import (
    GOOD_CHANCE,
    NOTHING_TO_SETTLE,
    SoFar,
    ToSettle,
    scatters,
    what_would_settle,
)
from lynxbill.core.statistics.scatter import Noise
from tests.builders import TIME, B, C, make_case

CASE = make_case([[40.0] * 3] * 3, [[40.0] * 3] * 3, order="alternating", sittings_a_side=3)
AGREED = agreement_of(CASE, B, C)
OPEN = Verdict("not_settled", "too_wide")
PLANNED = PlannedMeasure("claim", 3.0, 6.0)
NEAR = SoFar(3, 3, 0.0, Noise(0.008, 10, 6))


def ways(so_far: SoFar | None, verdict: Verdict = OPEN, planned: PlannedMeasure = PLANNED) -> ToSettle:
    return what_would_settle(so_far, verdict, TIME, planned, AGREED, Terms(1, 0.05))


def test_each_goal_has_its_ways_and_what_takes_fewest_sittings_stands_first() -> None:
    found = ways(NEAR).ways
    assert {(way.name, way.goal) for way in found} == {
        (name, goal) for name in ("more sittings", "measured over") for goal in ("gain", "no change")
    }
    assert [way.more for way in found] == sorted(way.more for way in found)
    for way in found:
        assert way.bound >= GOOD_CHANCE
        # In turn, both sides grow by as many; measured over, both begin anew.
        fresh = way.sittings_a_side - 3 if way.name == "more sittings" else way.sittings_a_side
        assert way.more == 2 * fresh


def test_more_noise_takes_more_sittings_and_a_larger_hope_fewer() -> None:
    def fewest(so_far: SoFar, planned: PlannedMeasure = PLANNED) -> int:
        return min(
            w.more for w in ways(so_far, planned=planned).ways if (w.name, w.goal) == ("more sittings", "gain")
        )

    noisy = replace(NEAR, noise=Noise(0.015, 10, 6))
    assert fewest(noisy) > fewest(NEAR)
    assert fewest(noisy, replace(PLANNED, hoped_for=20.0)) < fewest(noisy)
    assert fewest(NEAR, replace(PLANNED, hoped_for=None)) > fewest(NEAR)


def test_where_twenty_sittings_would_not_do_the_least_that_they_show_is_told() -> None:
    hopeless = ways(replace(NEAR, noise=Noise(0.5, 4, 6)))
    assert hopeless.ways == ()
    assert hopeless.least is not None
    assert hopeless.least > 0.06
    assert ways(NEAR).least is None


def test_nothing_is_to_be_settled_where_something_is_or_where_only_the_family_stands_against_it() -> None:
    assert ways(None) == NOTHING_TO_SETTLE
    assert ways(NEAR, Verdict("real_gain")) == NOTHING_TO_SETTLE
    assert ways(NEAR, Verdict("not_settled", "blocked_by_family")) == NOTHING_TO_SETTLE


def test_a_chance_is_told_as_the_mean_over_what_the_scatter_may_be() -> None:
    """Known from few sittings a scatter may be much smaller, or larger: the mean lies above its cautious bound."""
    points = scatters(10 * 0.008**2, 10)
    assert np.mean([10 * 0.008**2 / value for value in points]) == pytest.approx(10, rel=0.01), "a chi² of 10 df"
    assert points == sorted(points, reverse=True)
    # Where the scatter is known as well as can be, there is nothing to average over.
    sure = replace(NEAR, noise=Noise(0.008, 1_000_000, 6), difference=math.log1p(0.06))
    for way in ways(sure).ways:
        if way.goal == "gain":
            assert way.chance == pytest.approx(way.bound, abs=0.03)
