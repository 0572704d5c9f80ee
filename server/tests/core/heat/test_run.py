"""The heat of a run: phases, several sensors for one quantity, held back and by what, resistance with its error."""

import math

import numpy as np
import pytest

from lynxbill.core.heat.held_back import HeldBack, Limits, find_held_back
from lynxbill.core.heat.phases import Phase, phases_by_load, phases_by_marks
from lynxbill.core.heat.roles import UNITS, ChannelRole
from lynxbill.core.heat.run import (
    Air,
    Figure,
    air_of,
    along,
    channels_by_role,
    in_units,
    look_at_run,
    resistance,
)
from lynxbill.core.heat.trace import Floats
from lynxbill.core.record.ids import RunId, SittingId
from lynxbill.core.record.run import Run

AT = np.arange(0.0, 1500.0, 1.0)
UNDER_LOAD = (AT >= 60) & (AT < 1260)
LOAD = np.where(UNDER_LOAD, 99.0, 1.0)


def temperatures() -> Floats:
    up = 72 - 41 * np.exp(-(AT - 60) / 150)
    down = 31 + (up[1259] - 31) * np.exp(-(AT - 1260) / 150)
    return np.where(AT < 60, 31.0, np.where(UNDER_LOAD, up, down))


def names(phases: tuple[Phase, ...]) -> list[tuple[str, float, float]]:
    return [(phase.name, phase.began_s, phase.ended_s) for phase in phases]


def test_phases_come_from_the_load_and_a_dip_of_a_moment_is_none() -> None:
    dips = LOAD.copy()
    dips[700:712] = 3.0
    for load in (LOAD, dips):
        assert names(phases_by_load(AT, load)) == [("rest", 0, 60), ("load", 60, 1260), ("cool-down", 1260, 1499)]
    pause = LOAD.copy()
    pause[600:700] = 2.0
    assert [phase.name for phase in phases_by_load(AT, pause)] == ["rest", "load", "cool-down", "load", "cool-down"]
    assert phases_by_load(AT[:1], LOAD[:1]) == ()


def test_phases_come_from_marks_and_steps_of_load_are_one() -> None:
    marks = [(30.0, "a third"), (200.0, "two thirds"), (400.0, "all cores"), (600.0, "cool-down")]
    assert names(phases_by_marks(marks, 900.0)) == [("rest", 0, 30), ("load", 30, 600), ("cool-down", 600, 900)]
    assert names(phases_by_marks([(0.0, "load")], 900.0)) == [("load", 0, 900)]
    assert phases_by_marks([], 900.0) == ()
    # What begins as the run ends has no time of its own.
    assert names(phases_by_marks([(0.0, "load"), (900.0, "rest")], 900.0)) == [("load", 0, 900)]


@pytest.mark.parametrize("name", ["rest", "idle", "cool", "cool-down", "cooling", "end", "done", " Idle "])
def test_whatever_a_mark_of_rest_is_called_it_is_no_load(name: str) -> None:
    assert names(phases_by_marks([(0.0, name), (60.0, "load"), (300.0, name)], 900.0)) == [
        ("rest", 0, 60),
        ("load", 60, 300),
        ("cool-down", 300, 900),
    ]


def test_a_run_is_looked_at_phase_by_phase_with_a_room_that_warms() -> None:
    power = np.where(UNDER_LOAD, 60.0, 9.0)
    heat = look_at_run(
        {"temperature": (AT, temperatures()), "load": (AT, LOAD), "power": (AT, power)}, air=Air(21, 23)
    )
    assert heat is not None
    rest, load, cooling = heat.phases
    assert [rest.mean, rest.rise] == pytest.approx([31.0, 31.0 - 21.04], abs=0.02)
    assert load.peak == pytest.approx(72, abs=0.05)
    # 22.6 °C in the room by the last minute of the load.
    assert load.rise == pytest.approx(72 - 22.64, abs=0.05)
    assert load.resistance is not None
    assert load.resistance.value == pytest.approx((72 - 22.64) / 60, abs=0.001)
    assert cooling.last_minute is not None
    assert cooling.last_minute.value < 45
    assert heat.course is not None
    assert heat.course.settled
    assert look_at_run({"load": (AT, LOAD)}) is None


def test_the_mean_of_a_phase_is_over_time_and_not_over_samples() -> None:
    often, seldom = np.arange(0.0, 100.0), np.arange(100.0, 1000.0, 100.0)
    at = np.concatenate([often, seldom])
    heat = look_at_run({"temperature": (at, np.where(at < 100, 30.0, 60.0))})
    assert heat is not None
    assert heat.phases[0].mean == pytest.approx(30 * 99.5 / 900 + 60 * 800.5 / 900, abs=0.1)


def test_several_sensors_become_the_hottest_at_each_moment_or_their_mean() -> None:
    one, other = 50 + 10 * np.sin(AT / 100), 52 + 10 * np.cos(AT / 100)
    other[500:600] = np.nan
    sensors: list[tuple[ChannelRole, str, Floats, Floats]] = [
        ("temperature", "processor", AT, one),
        ("temperature", "processor", AT, other),
        ("temperature", "drive", AT, np.full(len(AT), 90.0)),
    ]
    hottest, mean = (channels_by_role(sensors, how=how)["temperature"][1] for how in ("hottest", "mean"))
    assert hottest == pytest.approx(np.fmax(one, other), abs=1.0)
    assert mean[100] == pytest.approx((one[100] + other[100]) / 2)
    # Over a long gap of one the other stands alone.
    assert (hottest[550], mean[550]) == (one[550], one[550])
    assert channels_by_role(sensors, part="drive")["temperature"][1].max() == 90.0


def test_between_samples_far_apart_nothing_is_read() -> None:
    seconds, values = np.array([0.0, 1, 2, 3, 60, 61]), np.array([1.0, 2, 3, 4, 5, 6])
    read = along(np.array([0.5, 30.0, 60.5, 99.0]), seconds, values)
    assert read.tolist()[::2] == [1.5, 5.5]
    assert np.isnan(read[[1, 3]]).all()


def test_samples_come_into_one_unit_a_role_or_are_left_out() -> None:
    assert in_units("clock", "GHz", np.array([3.5])) == pytest.approx([3500])
    assert in_units("temperature", "W", np.array([3.5])) is None
    assert set(UNITS) == {"temperature", "load", "clock", "power", "fan", "noise", "held back"}


def held(clock: Floats, temperature: Floats, power: Floats, **fields: float) -> HeldBack:
    found = find_held_back(AT, LOAD, clock, temperature, power, None, Limits(**fields))
    assert found is not None
    return found


def test_what_held_a_clock_back_is_told_by_what_sat_at_its_limit() -> None:
    late = AT >= 660
    clock = np.where(late, 3200.0, 3600.0)
    hot, cool = np.where(late, 95.0, 80.0), np.full(len(AT), 70.0)
    by_heat = held(clock, hot, np.where(late, 50.0, 60.0))
    assert by_heat.causes == {"heat": pytest.approx(0.5, abs=0.01)}
    assert by_heat.spans[0] == pytest.approx([660, 1259], abs=1)
    assert [by_heat.sustained, by_heat.clock] == pytest.approx([3600, 3400], abs=2)
    by_power = held(clock, cool, np.full(len(AT), 65.0), temperature_c=95.0, power_w=65.0)
    assert by_power.causes == {"power": pytest.approx(0.5, abs=0.01)}
    # A clock that falls with neither at its limit is not held back: it has less to do.
    assert held(clock, cool, np.full(len(AT), 40.0), temperature_c=95.0, power_w=65.0).share == 0


def test_a_counter_tells_by_itself_and_nothing_is_told_of_what_nothing_tells() -> None:
    counter = np.cumsum((AT >= 900) & UNDER_LOAD).astype(float)
    found = find_held_back(AT, LOAD, None, None, None, counter, Limits())
    assert found is not None
    assert found.share == pytest.approx(0.3, abs=0.01)
    assert set(found.causes) == {"unknown"}
    assert find_held_back(AT, LOAD, None, temperatures(), None, None, Limits()) is None
    assert find_held_back(AT, np.zeros(len(AT)), LOAD, None, None, None, Limits()) is None


def test_the_error_of_a_resistance_is_that_of_both_its_parts() -> None:
    found = resistance(Figure(48.0, 0.3), Figure(60.0, 0.6))
    assert found is not None
    assert found.value == 0.8
    assert found.error == pytest.approx(0.8 * math.hypot(0.3 / 48, 0.6 / 60))
    assert resistance(Figure(48.0, 0.3), Figure(0.0, 0.1)) is None
    assert resistance(Figure(48.0, 0.3), None) is None


def test_the_room_of_a_run_is_its_own_where_it_was_noted_and_a_straight_line_where_it_was_noted_twice() -> None:
    def run(**conditions: float | str) -> Run:
        return Run(RunId("r"), SittingId("s"), "soak", "1", 1, "complete", {}, conditions=conditions)

    assert air_of(run(), 22.0) == Air(22.0)
    assert air_of(run(ambient_c=23.5), 22.0) == Air(23.5)
    assert air_of(run(), None) is None
    warming = air_of(run(ambient_c=22.0, ambient_end_c=24.0), None)
    assert warming is not None
    assert [warming.at(second, 1200.0) for second in (0.0, 600.0, 1200.0)] == [22.0, 23.0, 24.0]
