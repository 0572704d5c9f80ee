"""A side in a few figures, and the smallest p that few sittings can give."""

from dataclasses import replace
from statistics import mean, median, stdev

import pytest
from hypothesis import given
from hypothesis import strategies as st
from scipy import stats

from lynxbill.core.result.companions import least_rank_p
from lynxbill.core.result.comparison import judge
from lynxbill.core.terms.measure import Measure, MeasureId
from tests.builders import make_case

READINGS = st.lists(st.floats(0.001, 1e6), min_size=2, max_size=8)


@given(READINGS)
def test_a_side_is_summed_up_from_what_was_read(readings: list[float]) -> None:
    (result,) = judge(make_case([readings], [[1.0]])).measures
    before, after = result.summaries
    kept = readings[:1]  # Both sides are cut to the same number of runs.
    assert before is not None
    assert (before.runs, before.low, before.high) == (1, min(kept), max(kept))
    assert after is not None
    assert (after.mean, after.sd) == (1.0, None)
    (whole,) = judge(make_case([readings], [readings])).measures
    side = whole.summaries[0]
    assert side is not None
    assert (side.runs, side.low, side.high, side.median) == (
        len(readings), min(readings), max(readings), median(readings),
    )  # fmt: skip
    assert side.mean == pytest.approx(mean(readings))
    assert side.sd == pytest.approx(stdev(readings), abs=1e-9)


def test_temperatures_are_summed_up_above_the_room_and_a_missing_side_is_none() -> None:
    heat = Measure(MeasureId("heat"), "Soak", "job", "Cel", "difference", "heat", "lower", step=0.1)
    case = make_case([[70.0, 72.0]], [], measure=heat)
    warm = replace(case, sittings=tuple(replace(sitting, ambient_c=22.0) for sitting in case.sittings))
    (result,) = judge(warm).measures
    before, after = result.summaries
    assert after is None
    assert before is not None
    assert (before.low, before.mean, before.high) == (48.0, 49.0, 50.0)


@pytest.mark.parametrize(("before", "after"), [(2, 2), (3, 3), (3, 5)])
def test_the_least_p_of_ranks_is_that_of_the_clearest_order(before: int, after: int) -> None:
    clearest = stats.mannwhitneyu(range(before), range(10, 10 + after), method="exact").pvalue
    assert least_rank_p(before, after) == pytest.approx(clearest)
    (result,) = judge(make_case([[40.0 + n] for n in range(before)], [[20.0 + n] for n in range(after)])).measures
    assert result.companions.mann_whitney_p == pytest.approx(clearest)


def test_the_least_p_of_pairs_is_that_of_one_sign_throughout() -> None:
    assert least_rank_p(3, 3, 3) == 0.25 == stats.wilcoxon([1, 2, 3], method="exact").pvalue
    assert least_rank_p(3, 3, 0) is None
    assert least_rank_p(1, 1) == 1.0
