"""Where a run was heading: known curves come back, errors grow with autocorrelation."""

import math

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from scipy.optimize import curve_fit

from lynxbill.core.heat.curve import autocorrelation, average_down
from lynxbill.core.heat.equilibrium import LEAST_SAMPLES, Equilibrium, NotReached, fit_equilibrium
from lynxbill.core.heat.trace import Floats


def curve(at: Floats, *parts: tuple[float, float], t_inf: float = 70.0) -> Floats:
    return t_inf - sum((a * np.exp(-at / tau) for a, tau in parts), np.zeros_like(at))


def fitted(at: Floats, values: Floats) -> Equilibrium:
    found = fit_equilibrium(at, values)
    assert isinstance(found, Equilibrium)
    return found


def refused(at: Floats, values: Floats) -> NotReached:
    found = fit_equilibrium(at, values)
    assert isinstance(found, NotReached)
    return found


@given(
    t_inf=st.floats(30, 100),
    rise=st.floats(5, 60),
    tau=st.floats(20, 300),
    taus=st.floats(2.1, 8),
    step=st.floats(1, 4),
)
def test_a_curve_without_noise_comes_back(t_inf: float, rise: float, tau: float, taus: float, step: float) -> None:
    at = np.arange(0, taus * tau, min(step, taus * tau / 60))
    found = fitted(at, curve(at, (rise, tau), t_inf=t_inf))
    assert found.t_inf == pytest.approx(t_inf, rel=1e-5)
    assert found.taus[-1] == pytest.approx(tau, rel=1e-4)


def test_uneven_samples_gaps_and_a_late_first_sample_change_nothing() -> None:
    random = np.random.default_rng(5)
    at = np.sort(random.uniform(7, 900, 300))
    at = at[(at < 200) | (at > 320)]
    found = fitted(at, curve(at, (38.0, 140.0)))
    assert [found.t_inf, found.taus[0]] == pytest.approx([70.0, 140.0])
    # The amplitude is told at the load's own beginning, not at the first sample.
    assert found.amplitudes[0] == pytest.approx(38.0)
    assert found.at(at) == pytest.approx(curve(at, (38.0, 140.0)))


def test_a_second_time_constant_is_kept_where_it_is_clearly_better_and_only_there() -> None:
    random, at = np.random.default_rng(2), np.arange(0.0, 900.0, 2.0)
    noise = random.normal(0, 0.2, len(at))
    two = fitted(at, curve(at, (12.0, 9.0), (30.0, 150.0)) + noise)
    assert two.taus == pytest.approx([9.0, 150.0], rel=0.05)
    assert len(fitted(at, curve(at, (30.0, 150.0)) + noise).taus) == 1


def test_estimates_are_those_of_least_squares() -> None:
    at = np.arange(0.0, 600.0, 10.0)
    values = curve(at, (35.0, 120.0)) + 0.3 * np.sin(at)
    found = fitted(at, values)

    def left(t_inf: float, rise: float, tau: float) -> float:
        return float(((values - curve(at, (rise, tau), t_inf=t_inf)) ** 2).sum())

    best = (found.t_inf, found.amplitudes[0], found.taus[0])
    for place in range(3):
        for factor in (0.999, 1.001):
            moved = [value * (factor if number == place else 1.0) for number, value in enumerate(best)]
            assert left(*moved) > left(*best)


def test_errors_grow_with_the_autocorrelation_of_what_is_left_over() -> None:
    random, at = np.random.default_rng(11), np.arange(0.0, 600.0)
    white = random.normal(0, 0.4, len(at))
    walked = np.empty_like(white)
    walked[0] = white[0]
    for number in range(1, len(white)):
        walked[number] = 0.9 * walked[number - 1] + math.sqrt(1 - 0.81) * white[number]
    plain, tied = (fitted(at, curve(at, (38.0, 120.0)) + noise) for noise in (white, walked))
    assert plain.phi < 0.15
    assert tied.phi == pytest.approx(0.9, abs=0.06)
    assert tied.n_eff == pytest.approx(tied.n * (1 - tied.phi) / (1 + tied.phi))
    assert tied.df == pytest.approx(tied.n_eff - 3)
    assert tied.high - tied.low > 2.5 * (plain.high - plain.low)


def test_autocorrelation_is_told_for_a_second_whatever_the_step() -> None:
    random = np.random.default_rng(3)
    seconds = np.empty(40_000)
    seconds[0] = 0.0
    for number, shock in enumerate(random.normal(0, 1, len(seconds) - 1), start=1):
        seconds[number] = 0.8 * seconds[number - 1] + shock
    for step in (1, 2, 5):
        at = np.arange(0.0, len(seconds), step)
        assert autocorrelation(at, seconds[::step]) == pytest.approx(0.8, abs=0.02)


@pytest.mark.parametrize(
    ("seconds", "step", "why"),
    [(600.0, 20.0, "too_few_samples"), (180.0, 1.0, "too_short")],
)
def test_what_is_too_short_for_it_has_no_equilibrium(seconds: float, step: float, why: str) -> None:
    at = np.arange(0.0, seconds, step)
    found = refused(at, curve(at, (38.0, 120.0)))
    assert (found.why, found.n) == (why, len(at))
    assert (len(at) < LEAST_SAMPLES) == (why == "too_few_samples")


def test_a_straight_climb_and_samples_that_hang_together_are_refused() -> None:
    at = np.arange(0.0, 600.0)
    assert refused(at, 30 + 0.02 * at).why in ("no_curve", "too_short")
    # A slow wave beside the curve: six hundred samples, worth no more than a handful.
    wave = curve(at, (38.0, 120.0)) + 2 * np.sin(at / 60)
    assert refused(at, wave).why in ("too_correlated", "too_short", "no_curve")


def test_many_samples_are_averaged_before_the_fit_and_tell_the_same() -> None:
    at = np.arange(0.0, 900.0, 0.01)
    assert len(average_down(at, at, 4000)[0]) == 4000
    found = fitted(at, curve(at, (38.0, 140.0)) + np.random.default_rng(1).normal(0, 0.3, len(at)))
    assert found.n == 4000
    assert found.t_inf == pytest.approx(70.0, abs=0.02)


def test_estimates_are_those_of_another_program_for_least_squares() -> None:
    random = np.random.default_rng(9)
    for number in range(12):
        tau, step = random.uniform(60, 250), random.choice([1.0, 2.0, 5.0])
        at = np.arange(0, random.uniform(2.4, 6) * tau, step)
        die = (number % 2) * random.uniform(8, 15) * np.exp(-at / random.uniform(6, 15))
        values = curve(at, (35.0, tau)) - die + random.normal(0, 0.2, len(at))
        found = fitted(at, values)

        def model(seconds: Floats, t_inf: float, *parts: float) -> Floats:
            return curve(seconds, *zip(parts[::2], parts[1::2], strict=True), t_inf=t_inf)

        own = [found.t_inf, *(value for pair in zip(found.amplitudes, found.taus, strict=True) for value in pair)]
        other, _ = curve_fit(model, at, values, p0=np.array(own) * 1.02, xtol=1e-13, ftol=1e-13, maxfev=20_000)
        assert own == pytest.approx(other, rel=1e-4)


def test_a_sensor_that_tells_whole_kelvins_is_believed_no_finer() -> None:
    random, covered, told = np.random.default_rng(12), 0, 0
    at = np.arange(0.0, 900.0, 2.0)
    for _ in range(60):
        t_inf = random.uniform(68.5, 69.5)
        found = fit_equilibrium(at, np.round(curve(at, (38.0, 120.0), t_inf=t_inf) + random.normal(0, 0.05, len(at))))
        if isinstance(found, Equilibrium):
            told += 1
            covered += found.low <= t_inf <= found.high
            assert found.t_inf_error >= 1 / math.sqrt(12)
    assert told >= 50
    assert covered >= 0.94 * told
