"""Readings with a fault of a stated size, and clean ones: a flag must be raised on the first alone."""

from collections.abc import Callable, Mapping

import numpy as np

from lynxbill.rig.noise import Bench, side_readings

Sides = tuple[list[list[float]], list[list[float]]]
CLEAN = ("odd_run", "cold_first_run", "unequal_noise", "drift_within_sittings", "drift_across_sittings")


def clean(generator: np.random.Generator) -> Sides:
    """Three sittings of five runs a side, without a fault and without reboots."""
    return side_readings(generator, Bench(0.0), 3, 5), side_readings(generator, Bench(0.0), 3, 5)


def _odd(generator: np.random.Generator) -> Sides:
    """One run eight standard deviations away."""
    before, after = clean(generator)
    after[1][2] += 8.0
    return before, after


def _cold(generator: np.random.Generator) -> Sides:
    """First runs three standard deviations worse."""
    bench = Bench(0.0, cold=3.0)
    return side_readings(generator, bench, 3, 5), side_readings(generator, bench, 3, 5)


def _noisy(generator: np.random.Generator) -> Sides:
    """The after-side scatters four times as much."""
    return side_readings(generator, Bench(0.0), 3, 5), side_readings(generator, Bench(0.0), 3, 5, scatter=4.0)


def _drifting_runs(generator: np.random.Generator) -> Sides:
    """Runs drift by three quarters of their scatter each."""
    bench = Bench(0.0, drift=0.75)
    return side_readings(generator, bench, 3, 5), side_readings(generator, bench, 3, 5)


def _drifting_sittings(generator: np.random.Generator) -> Sides:
    """Sittings drift by two and a half times the scatter of runs each."""
    sides = clean(generator)
    before, after = ([[v + 2.5 * n for v in s] for n, s in enumerate(side)] for side in sides)
    return before, after


def _rebooting(generator: np.random.Generator) -> Sides:
    """Reboots move readings by three times their scatter."""
    return side_readings(generator, Bench(3.0), 3, 5), side_readings(generator, Bench(3.0), 3, 5)


def _one_decides(generator: np.random.Generator) -> Sides:
    """Five sittings a side with a gain that one of them more or less undoes."""
    before = side_readings(generator, Bench(0.0), 5, 1)
    after = side_readings(generator, Bench(0.0), 5, 1, gain=2.0)
    middle = [float(np.mean([s[0] for s in side])) for side in (before, after)]
    sd = float(np.sqrt(np.mean([np.var([s[0] for s in side], ddof=1) for side in (before, after)])))
    # Brought just over the threshold: t is 2.4 where 2.306 is needed.
    shift = 2.4 * sd * np.sqrt(2 / 5) - (middle[1] - middle[0])
    return before, [[v + float(shift) for v in s] for s in after]


FAULTS: Mapping[str, Callable[[np.random.Generator], Sides]] = {
    "odd_run": _odd,
    "cold_first_run": _cold,
    "unequal_noise": _noisy,
    "drift_within_sittings": _drifting_runs,
    "drift_across_sittings": _drifting_sittings,
    "reboots_matter": _rebooting,
    "one_sitting_decides": _one_decides,
}
