"""How readings of a bench scatter: laws of noise, reboots, cold first runs and drift; of the rig and of the proof."""

import math
from collections.abc import Callable
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

Floats = NDArray[np.float64]
# Draws of standard deviation 1 in the wanted shape; the last axis runs along the runs of a sitting.
Law = Callable[[np.random.Generator, tuple[int, ...]], Floats]
# Around what a reading scatters, in its unit.
LEVEL = 100.0


def normal(generator: np.random.Generator, shape: tuple[int, ...]) -> Floats:
    readings: Floats = generator.standard_normal(shape)
    return readings


def heavy_tailed(generator: np.random.Generator, shape: tuple[int, ...]) -> Floats:
    """Student's t with 3 degrees of freedom, brought to a standard deviation of 1."""
    samples: Floats = generator.standard_t(3, shape) / np.sqrt(3)
    return samples


def skewed(generator: np.random.Generator, shape: tuple[int, ...]) -> Floats:
    """Exponential, around what a unit of so many runs is expected to be: its median, not its mean."""
    return generator.exponential(1.0, shape) - _expected_median(shape[-1])


def skewed_around_mean(generator: np.random.Generator, shape: tuple[int, ...]) -> Floats:
    """Exponential, around its mean: for the guard, which takes means of runs."""
    return generator.exponential(1.0, shape) - 1


def _expected_median(runs: int) -> float:
    """Expectation of the median of so many exponential draws; of two their mean."""

    def order_statistic(place: int) -> float:
        return math.fsum(1 / (runs - before) for before in range(place))

    if runs % 2:
        return order_statistic((runs + 1) // 2)
    return (order_statistic(runs // 2) + order_statistic(runs // 2 + 1)) / 2


def outlying(generator: np.random.Generator, shape: tuple[int, ...]) -> Floats:
    """Normal, but three readings in a hundred scatter five times as far."""
    return generator.standard_normal(shape) * np.where(generator.random(shape) < 0.03, 5.0, 1.0)


def autocorrelated(generator: np.random.Generator, shape: tuple[int, ...]) -> Floats:
    """AR(1) with coefficient 0.6 along the runs of a sitting, standard deviation 1."""
    steps = generator.standard_normal(shape)
    for run in range(1, shape[-1]):
        steps[..., run] = 0.6 * steps[..., run - 1] + 0.8 * steps[..., run]
    return steps


def two_states(generator: np.random.Generator, shape: tuple[int, ...]) -> Floats:
    """A boot ends in one of two states, as often in either."""
    return np.where(generator.random(shape) < 0.5, -1.0, 1.0)


def rare_good_boots(generator: np.random.Generator, shape: tuple[int, ...]) -> Floats:
    """One boot in eight is a good one."""
    return (np.where(generator.random(shape) < 0.125, 1.0, 0.0) - 0.125) / math.sqrt(0.125 * 0.875)


@dataclass(frozen=True, slots=True)
class Bench:
    """
    How a machine scatters: `reboot` between sittings by the law `boots`, `noise` between runs, `cold` first runs,
    `drift` a run and `creep` a sitting.
    """

    reboot: float = 1.0
    noise: Law = normal
    cold: float = 0.0
    drift: float = 0.0
    boots: Law = normal


def side_readings(
    generator: np.random.Generator,
    bench: Bench,
    sittings: int,
    runs: int,
    *,
    gain: float = 0.0,
    scatter: float = 1.0,
    reboots: float | None = None,
) -> list[list[float]]:
    """
    Readings of one side, a list a sitting.

    `scatter` scales the noise of this side's runs, `reboots` what its reboots move (without it, as its runs).
    """
    readings = LEVEL + gain + scatter * bench.noise(generator, (sittings, runs))
    moved = scatter if reboots is None else reboots
    readings += moved * bench.reboot * bench.boots(generator, (sittings, 1))
    readings[:, 0] -= bench.cold
    readings += bench.drift * np.arange(runs)
    answer: list[list[float]] = readings.tolist()
    return answer
