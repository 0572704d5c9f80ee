"""Scatter is pooled in one way: around each group's own mean, never below the rounding of its readings."""

import math

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from lynxbill.core.statistics.scatter import NO_SCATTER, mean_of, pool, shared_rounding

VALUES = st.lists(st.floats(-1e3, 1e3), min_size=1, max_size=6)


@given(st.lists(VALUES, min_size=1, max_size=5))
def test_it_is_the_variance_within_groups_as_numpy_has_it(groups: list[list[float]]) -> None:
    scatter = pool(groups)
    telling = [group for group in groups if len(group) > 1]
    assert scatter.df == sum(len(group) - 1 for group in telling)
    assert scatter.size == sum(map(len, telling))
    assert scatter.squares == pytest.approx(sum(np.var(g) * len(g) for g in telling), abs=1e-6)


@given(st.lists(VALUES, min_size=2, max_size=5), st.floats(-50, 50))
def test_pooled_at_once_or_one_by_one_in_any_order_and_wherever_the_groups_lie(
    groups: list[list[float]], shift: float
) -> None:
    at_once, joined, moved = pool(groups, step=0.5), NO_SCATTER, pool([[v + shift for v in g] for g in groups])
    for group in reversed(groups):
        joined = joined.joined(pool([group], step=0.5))
    assert (joined.df, joined.rounding) == (at_once.df, at_once.rounding)
    assert joined.squares == pytest.approx(at_once.squares)
    assert moved.squares == pytest.approx(at_once.squares, rel=1e-6, abs=1e-6)


def test_readings_that_never_differ_scatter_by_their_rounding() -> None:
    assert pool([[4.0, 4.0], [5.0, 5.0, 5.0]], step=0.6).sd == pytest.approx(0.6 / math.sqrt(12))
    assert pool([[1.0, 1.0]], step=0.6, readings=2).variance == pytest.approx(0.06), "a difference has that of both"
    assert pool([[0.0, 2.0]], step=0.6).variance == 2.0


def test_rounding_is_shared_where_it_is_as_coarse_as_the_scatter() -> None:
    assert shared_rounding(1.0, 1.0) == pytest.approx(1 / 12)
    assert shared_rounding(1.01, 1.0) == 0.0
    assert shared_rounding(0.0, 0.0) == 0.0


def test_a_mean_does_not_depend_on_the_order_of_its_values() -> None:
    values = [1e16, 1.0, -1e16]
    assert mean_of(values) == mean_of(values[::-1]) == pytest.approx(1 / 3)
