"""Sensors from a folder laid out like the system's, what is sampled of them, and the watch over other programs."""

import os
import signal
import subprocess
import sys
import threading
from itertools import pairwise
from pathlib import Path
from types import SimpleNamespace

import pytest

from lynxbill.bench.preflight import Watch, read_governor, read_source, wait_for_rest
from lynxbill.bench.sensors import Channel, find_channels, hottest, missing_roles
from lynxbill.bench.system import Ticks, share_between
from lynxbill.bench.trace import Recorder
from tests.conftest import until


def lay_out(root: Path, **files: str) -> Path:
    for name, text in files.items():
        file = root / name.replace("__", "/")
        file.parent.mkdir(parents=True, exist_ok=True)
        file.write_text(f"{text}\n")
    return root


@pytest.fixture
def root(tmp_path: Path) -> Path:
    hwmon, cpu = "sys__class__hwmon__hwmon", "sys__devices__system__cpu__cpu"
    lay_out(
        tmp_path,
        **{
            f"{hwmon}0__name": "heat",
            f"{hwmon}0__temp1_input": "61500",
            f"{hwmon}0__temp1_label": "CPU die",
            f"{hwmon}0__temp2_input": "40000",
            f"{hwmon}0__fan1_input": "1420",
            f"{hwmon}1__name": "card",
            f"{hwmon}1__device__class": "0x030000",
            f"{hwmon}1__temp1_input": "70000",
            f"{hwmon}1__power1_average": "31000000",
            f"{cpu}0__cpufreq__scaling_cur_freq": "3400000",
            f"{cpu}1__cpufreq__scaling_cur_freq": "3600000",
            f"{cpu}0__cpufreq__scaling_governor": "performance",
            f"{cpu}1__cpufreq__scaling_governor": "powersave",
            f"{cpu}0__thermal_throttle__core_throttle_count": "7",
            "sys__class__powercap__pack:0__name": "package",
            "sys__class__powercap__pack:0__energy_uj": "1000000",
            "sys__class__powercap__pack:0__max_energy_range_uj": "5000000",
            "sys__class__powercap__pack:0:0__name": "cores",
            "sys__class__powercap__pack:0:0__energy_uj": "1000000",
            "sys__class__power_supply__AC__online": "0",
        },
    )
    return tmp_path


def test_each_sensor_is_told_with_its_role_place_unit_and_name(root: Path) -> None:
    told = {
        (c.role, c.of, c.unit, c.sensor): c.read() for c in find_channels(root) if c.role not in ("load", "power")
    }
    assert told == {
        ("temperature", "processor", "Cel", "heat, CPU die"): 61.5,
        ("temperature", "board", "Cel", "heat, temp2"): 40.0,
        ("fan", "board", "/min", "heat, fan1"): 1420.0,
        ("temperature", "graphics", "Cel", "card, temp1"): 70.0,
        ("clock", "processor", "MHz", "mean of 2 threads"): 3500.0,
        ("held back", "processor", "1", "times held back by heat, since the start"): 7.0,
    }
    channels = find_channels(root)
    assert all(channel.stands_in == (channel.role != "load") for channel in channels)
    # The processor's own sensor is asked, though another one is hotter.
    assert (hottest(channels) or channels[0]).sensor == "heat, CPU die"
    assert (read_governor(root), read_source(root)) == ("performance, powersave", "battery")


def test_power_follows_from_a_counter_of_energy_that_begins_anew(root: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    moments = iter([100.0, 100.5, 101.0])
    monkeypatch.setattr("lynxbill.bench.sensors.time", SimpleNamespace(monotonic=lambda: next(moments)))
    (channel,) = [c for c in find_channels(root) if c.role == "power" and c.of == "processor"]
    counter = root / "sys/class/powercap/pack:0/energy_uj"
    assert channel.read() is None
    counter.write_text("500000\n")
    # From 1 J over the brim of 5 J to 0.5 J: 4.5 J in half a second.
    assert channel.read() == pytest.approx(9.0)
    counter.write_text("not a number\n")
    assert channel.read() is None


def test_what_no_file_tells_is_missing_with_the_reason_and_never_zero(tmp_path: Path) -> None:
    channels = find_channels(tmp_path)
    missing = missing_roles(channels)
    assert {"temperature", "clock", "power", "fan", "held back"} <= set(missing)
    assert missing["temperature"] == "no temperature sensor under sys/class/hwmon"
    assert hottest(channels) is None


def steps(*values: float | None) -> Channel:
    left = list(values)
    return Channel("temperature", "processor", "Cel", "die", lambda: left.pop(0) if left else None)


def test_a_trace_hands_out_each_sample_once_and_keeps_gaps() -> None:
    now = [0.0]
    made = Recorder([steps(40.0, None, 44.0, 46.0)], 1, clock=lambda: now[0])
    for second in range(3):
        now[0] = float(second)
        made.sample()
    (first,) = made.take()
    assert (first["first"], first["at"], first["values"]) == (0, [0.0, 1.0, 2.0], [40.0, None, 44.0])
    # What did not arrive is handed out again.
    assert made.take()[0]["at"] == first["at"]
    made.confirm([first])
    assert made.take() == []
    now[0] = 3.0
    made.sample()
    assert (made.take()[0]["first"], made.take()[0]["values"]) == (3, [46.0])
    assert made.settled("temperature", 1.0) == 45.0
    assert made.settled("fan", 60.0) is None
    assert made.whole()["channels"][0]["values"] == [40.0, None, 44.0, 46.0]


def test_sampling_in_the_background_does_not_catch_up_with_what_it_missed() -> None:
    """At 100 a second, from a clock by which each reading takes 50 ms: no two samples lie closer than that."""
    now, enough = [0.0], threading.Event()

    def slow() -> float:
        now[0] += 0.05
        if now[0] > 1.0:
            enough.set()
        return 1.0

    made = Recorder([Channel("fan", "board", "/min", "fan", slow)], 100, clock=lambda: now[0])
    with made.recording():
        assert enough.wait(60)
    at = made.whole()["channels"][0]["at"]
    assert len(at) >= 10
    assert min(after - before for before, after in pairwise(at)) >= 0.049


def test_the_share_of_the_processor_is_of_what_passed_and_unknown_where_nothing_did() -> None:
    assert share_between(Ticks(100, 1000), Ticks(150, 1200)) == 0.25
    assert share_between(Ticks(100, 1000), Ticks(100, 1000)) is None
    assert share_between(None, Ticks(1, 2)) is None


def test_another_program_that_takes_the_processor_is_named() -> None:
    watch = Watch()
    # Started by way of a shell that ends at once, so that it belongs to the system and not to the agent.
    command = f"setsid {sys.executable} -c 'while True: pass' >/dev/null 2>&1 & echo $!"
    busy = int(subprocess.run(["sh", "-c", command], check=True, capture_output=True, text=True).stdout)
    try:
        until(lambda: "python" in str(watch.look()), "the busy program was not named")
    finally:
        os.kill(busy, signal.SIGKILL)


def test_a_machine_that_does_not_cool_down_is_waited_for_to_the_limit_and_said_so() -> None:
    sentences: list[str] = []
    hot = Channel("temperature", "processor", "Cel", "die", lambda: 50.0)
    rest = wait_for_rest([hot], 40.0, 1.0, sentences.append)
    assert (rest.rested, rest.temperature) == (False, 50.0)
    assert rest.conditions["start_c"] == 50.0
    cool = wait_for_rest([hot], 49.5, 0.0, sentences.append)
    assert cool.temperature == 50.0
