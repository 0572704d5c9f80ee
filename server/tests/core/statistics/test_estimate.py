import math

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from scipy import stats

from lynxbill.core.statistics.estimate import equivalence_p, guard, paired, side_by_side, t_quantile, two_sided_p

units = st.lists(st.floats(-5, 5), min_size=2, max_size=8)


@pytest.mark.parametrize(("df", "expected"), [(2, 4.303), (4, 2.776), (8, 2.306)])
def test_quantiles_of_t_are_the_published_ones(df: float, expected: float) -> None:
    assert t_quantile(0.975, df) == pytest.approx(expected, abs=5e-4)


@pytest.mark.parametrize(("k_b", "k_a", "expected"), [(3, 3, 2.267), (5, 5, 1.458), (5, 1, 3.041)])
def test_half_widths_in_units_of_scatter_are_the_published_ones(k_b: int, k_a: int, expected: float) -> None:
    before, after = [float(i) for i in range(k_b)], [float(i) for i in range(k_a)]
    result = side_by_side(before, after, step=0)
    assert (result.high - result.low) / 2 / result.sd == pytest.approx(expected, abs=5e-4)


@given(st.lists(st.floats(-5, 5), min_size=3, max_size=8), st.floats(0.1, 2))
def test_equal_counts_give_the_pooled_t_test(before: list[float], shift: float) -> None:
    after = [value + shift for value in reversed(before)]
    if np.std(before) < 1e-3:
        return
    ours, theirs = side_by_side(before, after, step=0), stats.ttest_ind(after, before)
    interval = theirs.confidence_interval()
    assert ours.p == pytest.approx(theirs.pvalue, rel=1e-6)
    assert (ours.low, ours.high) == pytest.approx((interval.low, interval.high), rel=1e-6, abs=1e-9)


@given(units, units)
def test_unequal_counts_take_the_wider_of_pooled_and_welch(before: list[float], after: list[float]) -> None:
    if len(before) == len(after) or np.std(before) < 1e-3 or np.std(after) < 1e-3:
        return
    ours = side_by_side(before, after, step=0)
    both = [stats.ttest_ind(after, before, equal_var=equal) for equal in (True, False)]
    widths = [test.confidence_interval().high - test.confidence_interval().low for test in both]
    few, many = sorted((before, after), key=len)
    if np.std(few, ddof=1) >= np.std(many, ddof=1):
        assert ours.high - ours.low == pytest.approx(max(widths), rel=1e-6)
        assert ours.p == pytest.approx(max(test.pvalue for test in both), rel=1e-6)
    else:
        assert ours.high - ours.low >= widths[0] * (1 - 1e-9)
        assert (ours.p or 0.0) >= both[0].pvalue * (1 - 1e-9)


def test_a_side_with_fewer_units_scatters_at_least_as_the_other() -> None:
    """By hand: both variances are the larger one, 4/3, with the degrees of freedom of two a side at least."""
    many, few = [0.0, 2.0, 0.0, 2.0], [5.0, 5.01]
    found = side_by_side(many, few, step=0)
    se = math.sqrt(4 / 3 / 4 + 4 / 3 / 2)
    df = max(2.0, (4 / 3 / 4 + 4 / 3 / 2) ** 2 / ((4 / 3 / 4) ** 2 / 3 + (4 / 3 / 2) ** 2 / 1))
    assert (found.se, found.df) == pytest.approx((se, df))
    assert found.high - found.low == pytest.approx(2 * stats.t.ppf(0.975, df) * se)
    assert side_by_side(few, many, step=0).se == pytest.approx(se)


@given(units, units)
def test_swapping_the_sides_mirrors_the_estimate(before: list[float], after: list[float]) -> None:
    if len(before) + len(after) < 4:
        return
    one, other = side_by_side(before, after, step=0.1), side_by_side(after, before, step=0.1)
    assert (one.estimate, one.low, one.high, one.p) == pytest.approx(
        (-other.estimate, -other.high, -other.low, other.p), rel=1e-12, abs=1e-12
    )


def test_pairs_give_the_one_sample_t_test() -> None:
    differences = [0.31, 0.28, 0.35, 0.30]
    ours, theirs = paired(differences, step=0), stats.ttest_1samp(differences, 0)
    assert ours.p == pytest.approx(theirs.pvalue, rel=1e-9)
    assert ours.low == pytest.approx(theirs.confidence_interval().low, rel=1e-9)


def test_identical_readings_do_not_give_certainty_by_rounding() -> None:
    result = side_by_side([1.0, 1.0, 1.0], [1.1, 1.1, 1.1], step=0.1)
    assert result.sd == pytest.approx(0.1 / math.sqrt(12))
    assert result.p is not None
    assert result.p > 0.001
    assert paired([0.1, 0.1, 0.1], step=0.1).sd == pytest.approx(0.1 / math.sqrt(6))


def test_readings_noted_as_about_widen_the_interval() -> None:
    sharp = side_by_side([1.0, 1.2, 1.1], [2.0, 2.2, 2.1], step=0)
    vague = side_by_side([1.0, 1.2, 1.1], [2.0, 2.2, 2.1], step=0, doubt=0.04)
    assert vague.sd == pytest.approx(math.sqrt(sharp.sd**2 + 0.04))
    assert vague.high - vague.low > sharp.high - sharp.low
    differences = [0.31, 0.28, 0.35]
    # A difference is of two readings, and each of them is vague.
    assert paired(differences, step=0, doubt=0.04).sd == pytest.approx(
        math.sqrt(paired(differences, step=0).sd ** 2 + 2 * 0.04)
    )


def test_the_guard_allows_for_reboots_of_three_times_the_scatter() -> None:
    before, after = [0.0, 0.1, 0.2], [1.0, 1.1, 1.2]
    result = guard([[before]], [[after]], step=0)
    t = t_quantile(0.975, 4)
    assert result.df == 4
    assert result.sd == pytest.approx(0.1)
    assert result.high - result.estimate == pytest.approx(t * 0.1 * math.sqrt(1 / 3 + 1 / 3 + 9 * 2))
    assert result.p is None


@given(st.floats(0.3, 3), st.integers(3, 8))
def test_at_its_break_even_the_guard_interval_touches_zero(shift: float, n: int) -> None:
    before = [[[0.05 * math.sin(i) for i in range(n)]]]
    after = [[[shift + 0.05 * math.sin(i) for i in range(n)]]]
    found = guard(before, after, step=0)
    assert found.break_even is not None
    if found.break_even > 0:
        half = t_quantile(0.975, found.df) * found.sd * math.sqrt(2 / n + 2 * found.break_even**2)
        assert found.estimate - half == pytest.approx(0, abs=1e-9)


def test_two_and_one_sittings_pool_their_runs_in_the_guard() -> None:
    result = guard([[[0.0, 0.1, 0.2]], [[0.3, 0.4, 0.5]]], [[[1.0, 1.1, 1.2]]], step=0)
    assert result.sd == pytest.approx(0.1)
    assert result.estimate == pytest.approx(1.1 - 0.25)


def test_equivalence_is_two_one_sided_tests() -> None:
    p = equivalence_p(0.2, 0.1, 4, 0.5)
    upper = stats.t.cdf((0.2 - 0.5) / 0.1, 4)
    lower = stats.t.sf((0.2 + 0.5) / 0.1, 4)
    assert p == pytest.approx(max(upper, lower), rel=1e-9)


def test_p_values_keep_their_tail() -> None:
    assert 0 < two_sided_p(1e4, 30) < 1e-80
    assert two_sided_p(0, 4) == 1
