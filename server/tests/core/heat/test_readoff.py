"""Figures off a trace: each by its stated rule, and why there is none."""

from dataclasses import replace

import numpy as np
import pytest

from lynxbill.core.heat.held_back import Limits
from lynxbill.core.heat.readoff import (
    ReadOff,
    TraceFigures,
    as_noted,
    figures_of,
    phases_of,
    read_off,
    role_read,
)
from lynxbill.core.heat.run import Air, Channels
from lynxbill.core.terms.errors import BadValue
from lynxbill.core.terms.measure import Kind, Measure, MeasureId, TraceFigure

AT = np.arange(0.0, 2400.0, 2.0)
LOADED = (AT >= 60) & (AT < 1860)
UP = 72 - 42 * np.exp(-(AT - 60) / 150)
DIE = np.where(AT < 60, 30.0, np.where(LOADED, UP, 30 + 42 * np.exp(-(AT - 1860) / 150)))
CHANNELS: Channels = {
    "temperature": (AT, DIE),
    "load": (AT, np.where(LOADED, 100.0, 0.0)),
    "power": (AT, np.where(LOADED, 60.0, 8.0)),
    "clock": (AT, np.where(AT < 960, 3600.0, 3300.0)),
    "held back": (AT, np.cumsum((AT >= 960) & LOADED).astype(float)),
}
HEAT = Measure(MeasureId("heat"), "Heat", "soak", "Cel", "difference", "heat", "lower")
RISE = replace(HEAT, unit="K")
LASTS = replace(HEAT, unit="s", kind="time", scale="ratio")
RESISTANCE = replace(HEAT, unit="K/W", kind="other", scale="ratio")
SHARE = replace(HEAT, unit="%", kind="other")
CLOCK = replace(HEAT, unit="MHz", kind="clock", scale="ratio", better="higher")
ROOM = Air(22.0)
NO_LIMITS = Limits()


def read(
    measure: Measure,
    figure: TraceFigure,
    channels: Channels = CHANNELS,
    air: Air | None = ROOM,
    limits: Limits = NO_LIMITS,
) -> ReadOff:
    asked = replace(measure, trace_figure=figure, trace_minute=5.0 if figure == "at minute" else None)
    role = role_read(asked)
    assert role is not None
    return read_off(asked, role, channels, phases_of(channels, ()), air, limits)


@pytest.mark.parametrize(
    ("measure", "figure", "value"),
    [
        (HEAT, "highest", 72.0),
        (HEAT, "last minute", 72.0),
        (HEAT, "settled", 72.0),
        (RISE, "settled", 50.0),
        (HEAT, "equilibrium", 72.0),
        (RISE, "equilibrium", 50.0),
        # Counted from the beginning of the load: the mean of its fifth minute.
        (HEAT, "at minute", 72 - 42 * np.exp(-2) * 150 / 60 * (np.exp(0.4) - 1)),
        (LASTS, "within 1 K", 150 * np.log(42)),
        (LASTS, "recovery", 150 * np.log(2)),
        (RESISTANCE, "resistance", 50 / 60),
        # The first ten minutes' mean lies 42·150/600·(1 − e^−4) under the end.
        (RISE, "last less first", 42 * 0.25 * (1 - np.exp(-4))),
        (SHARE, "held back", 50.0),
        (CLOCK, "last minute", 3300.0),
    ],
)
def test_a_figure_is_read_by_its_rule(measure: Measure, figure: TraceFigure, value: float) -> None:
    assert read(measure, figure).value == pytest.approx(value, rel=0.005, abs=0.1)


def test_what_held_a_run_back_is_set_against_what_the_machine_permits() -> None:
    told = {role: channel for role, channel in CHANNELS.items() if role not in ("held back", "power")}
    # Without a counter, the clock's fall counts where the die is at its limit: at 72, and not at 95.
    for limits, share in ((NO_LIMITS, 50.0), (Limits(temperature_c=72.0), 50.0), (Limits(temperature_c=95.0), 0.0)):
        assert read(SHARE, "held back", told, limits=limits).value == pytest.approx(share, abs=0.1)


def test_no_sample_alone_says_when_it_had_settled() -> None:
    at, values = CHANNELS["temperature"]
    odd = values + np.random.default_rng(5).normal(0, 0.4, len(at))
    odd[700] += 2.0
    found = read(LASTS, "within 1 K", dict(CHANNELS) | {"temperature": (at, odd)}).value
    assert found == pytest.approx(150 * np.log(42), abs=60)
    assert at[700] - 60 == 1340


def test_half_of_the_rise_is_counted_from_the_rest_before_or_else_from_the_loads_first_samples() -> None:
    at = np.arange(0.0, 1000.0, 10.0)
    loaded = (at >= 100) & (at < 700)
    load = np.where(loaded, 100.0, 0.0)
    # Falls by 1 K in 10 s from 80: half of the rise from 30 is 55, half of that from 40 is 60.
    heat = np.where(at < 100, 30.0, np.where(at < 130, 40.0, np.where(loaded, 80.0, 80.0 - (at - 690) / 10)))
    rested: Channels = {"temperature": (at, heat), "load": (at, load)}
    assert read(LASTS, "recovery", rested).value == pytest.approx(940 - 700, abs=10)
    begun = at >= 100
    straight: Channels = {role: (at[begun] - 100, values[begun]) for role, (at, values) in rested.items()}
    assert read(LASTS, "recovery", straight).value == pytest.approx(890 - 700, abs=10)


def test_the_resistance_is_that_of_the_last_minute_alone() -> None:
    at, power = CHANNELS["power"]
    early = dict(CHANNELS) | {"power": (at, np.where(at < 1700, 2 * power, power))}
    assert read(RESISTANCE, "resistance", early) == read(RESISTANCE, "resistance")
    idle = dict(CHANNELS) | {"power": (at, 0.0 * power)}
    assert read(RESISTANCE, "resistance", idle) == ReadOff(None, "no power")


def test_a_channel_is_smoothed_over_half_a_minute_to_say_when_it_came_to_stay() -> None:
    at = np.arange(0.0, 600.0, 5.0)
    ramp = np.where(at < 300, 60 + at / 30, 70.0)
    # The ramp comes within 1 K of 70 at 270 s; around that the mean of half a minute of a line is the line itself.
    assert figures_of(at, ramp).within_s == 270.0
    # At 295 s the mean takes in the flat, so that what lies under 69.9 does not; a single sample is outvoted.
    ramp[80] = 66.0
    assert figures_of(at, ramp).within_s == 270.0
    ramp[80] = 60.0
    assert figures_of(at, ramp).within_s == 420.0


@pytest.mark.parametrize(
    ("measure", "value", "noted"),
    [
        (HEAT, 61.99963500511, 62.0),
        (CLOCK, 3498.3412, 3498.3),
        (RESISTANCE, 1.7634412, 1.7634),
        (replace(CLOCK, step=1.0), 3498.34, 3498.0),
        (replace(HEAT, step=0.1), 61.96, 62.0),
        (HEAT, 0.0, 0.0),
        # A time of zero is no ratio: the load began as warm as it ended; nor is what rounds to nothing.
        (LASTS, 0.0, None),
        (replace(LASTS, step=1.0), 0.4, None),
        (CLOCK, -3.0, None),
    ],
)
def test_a_figure_is_noted_to_its_step_or_to_five_digits(measure: Measure, value: float, noted: float | None) -> None:
    assert as_noted(ReadOff(value), measure) == (ReadOff(noted) if noted is not None else ReadOff(None, "nothing"))


def cut(seconds: float) -> Channels:
    return {role: (at[at < seconds], values[at < seconds]) for role, (at, values) in CHANNELS.items()}


@pytest.mark.parametrize(
    ("measure", "figure", "channels", "why"),
    [
        (HEAT, "settled", cut(360), "climbs"),
        (LASTS, "within 1 K", cut(360), "climbs"),
        (HEAT, "settled", cut(150), "too short"),
        (HEAT, "at minute", cut(300), "too short"),
        (RISE, "last less first", cut(900), "too short"),
        (HEAT, "equilibrium", cut(300), "no curve"),
        (LASTS, "recovery", cut(1200), "no cool-down"),
        (LASTS, "recovery", cut(1900), "not reached"),
        (RESISTANCE, "resistance", {k: v for k, v in CHANNELS.items() if k != "power"}, "no power"),
        (CLOCK, "highest", {"temperature": CHANNELS["temperature"]}, "no channel"),
    ],
)
def test_what_a_trace_does_not_tell_has_no_figure(
    measure: Measure, figure: TraceFigure, channels: Channels, why: str
) -> None:
    found = read(measure, figure, channels)
    assert (found.value, found.why) == (None, why)


def test_what_climbs_comes_with_where_it_was_heading() -> None:
    found = read(HEAT, "settled", cut(420))
    assert found.course is not None
    assert found.course.heading == pytest.approx(72, abs=0.2)


@pytest.mark.parametrize(("measure", "figure"), [(RISE, "settled"), (RISE, "highest"), (RESISTANCE, "resistance")])
def test_nothing_is_above_a_room_that_nobody_noted(measure: Measure, figure: TraceFigure) -> None:
    assert read(measure, figure, air=None) == ReadOff(None, "no room")


@pytest.mark.parametrize(
    ("kind", "unit", "figure", "minute", "says"),
    [
        ("time", "s", "settled", None, "neither heat"),
        ("heat", "K", "within 1 K", None, "its kind is a time"),
        ("heat", "K", "recovery", None, "its kind is a time"),
        ("other", "K", "resistance", None, "its unit is K/W"),
        ("clock", "MHz", "equilibrium", None, "its kind is heat"),
        ("heat", "Cel", "last less first", None, "its unit is K"),
        ("heat", "K", "at minute", None, "say which"),
        ("heat", "K", "settled", 5.0, "not read at one"),
        ("gauge", "K", "held back", None, "its unit is %"),
    ],
)
def test_a_figure_that_a_measure_can_t_have_is_refused(
    kind: Kind, unit: str, figure: TraceFigure, minute: float | None, says: str
) -> None:
    measure = replace(HEAT, kind=kind, unit=unit, trace_figure=figure, trace_minute=minute)
    with pytest.raises(BadValue, match=says):
        role_read(measure)


def test_the_last_minute_of_a_channel_is_the_last_sixty_seconds() -> None:
    at = np.array([0.0, 100.0, 139.0, 141.0, 200.0])
    found = figures_of(at, np.array([90.0, 80.0, 70.0, 50.0, 40.0]))
    assert (found.highest, found.last_minute) == (90.0, 45.0)
    assert figures_of(at[:0], at[:0]) == TraceFigures(None, None, None)
