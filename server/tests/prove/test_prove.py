"""The proof itself: its short form keeps every limit, and what it counts is what it says."""

import numpy as np
import pytest

from lynxbill.prove.cells import all_cells
from lynxbill.prove.table import Outcome, prove
from lynxbill.rig.noise import (
    Bench,
    autocorrelated,
    heavy_tailed,
    normal,
    outlying,
    side_readings,
    skewed,
    skewed_around_mean,
)


@pytest.mark.nightly
def test_the_short_proof_keeps_every_limit() -> None:
    outcomes = list(prove(full=False))
    assert len(outcomes) == len(all_cells())
    assert [str(outcome) for outcome in outcomes if not outcome.kept] == []


def test_a_rate_beyond_its_limits_is_told() -> None:
    cell = all_cells()[0]
    assert "MISSED" in str(Outcome(cell, 100, 0.2, 0.0, 0.1))
    assert not Outcome(cell, 100, 0.01, 0.04, 0.06).kept


def test_the_same_proof_counts_the_same_every_time() -> None:
    first, second = ([o.rate for o in prove(full=False, names=("overall",))] for _ in range(2))
    assert first == second


@pytest.mark.parametrize("noise", [normal, heavy_tailed, skewed_around_mean, autocorrelated])
def test_every_noise_scatters_as_much_as_it_says(noise: object) -> None:
    samples = noise(np.random.default_rng(3), (40_000, 5))  # type: ignore[operator]
    assert samples.mean() == pytest.approx(0, abs=0.03)
    assert samples.std() == pytest.approx(1, abs=0.12)


@pytest.mark.parametrize("runs", [2, 3, 5])
def test_skewed_runs_are_drawn_around_what_their_median_is_expected_to_be(runs: int) -> None:
    medians = np.median(skewed(np.random.default_rng(3), (40_000, runs)), axis=1)
    assert medians.mean() == pytest.approx(0, abs=0.03)


def test_outliers_are_rare_and_far_and_reboots_move_a_whole_sitting() -> None:
    samples = outlying(np.random.default_rng(3), (100_000, 1))
    assert np.mean(np.abs(samples) > 4) == pytest.approx(0.03 * 0.4237, abs=0.002)
    still = side_readings(np.random.default_rng(3), Bench(50.0, lambda g, shape: 0 * g.random(shape)), 4, 3)
    assert all(len(set(sitting)) == 1 for sitting in still)
    assert len({sitting[0] for sitting in still}) == 4
