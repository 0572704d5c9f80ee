"""The simulated PC: its physics on known cases, its figures, and what is true of its swaps."""

from dataclasses import replace

import pytest

from lynxbill.bench.catalogue import BUILT_IN, FOR_A_CHANGE
from lynxbill.bench.trace import Recorder
from lynxbill.bench.workload import Bench, BenchWorkload, WrongResult
from lynxbill.rig.machine import QUIET, Noise, Rig, settled_rise, start_rig, true_gain
from lynxbill.rig.parts import RIGS, Link, Pc
from lynxbill.rig.physics import DIE_J_PER_K, State, equilibrium

LAPTOP, CLEAN, PASTED = (RIGS[f"field-laptop{name}"] for name in ("", "-clean", "-pasted"))
INSTANT = float("inf")


def run(rig: Rig, key: str, **parameters: float) -> dict[str, float]:
    work = rig.known()[key]
    recorder = Recorder(rig.channels(), 1.0, rig.clock)
    bench = Bench(rig.threads, lambda _share: recorder.sample(), recorder)
    return dict(work.perform(dict(work.parameters) | parameters, bench).readings)


@pytest.mark.parametrize("rpm", [1000.0, 2200.0])
@pytest.mark.parametrize("name", ["plotting-pc", "plotting-pc-120-mm", "scanner-room-tower"])
def test_it_settles_where_power_times_resistance_puts_it(name: str, rpm: float) -> None:
    pc = replace(RIGS[name], fan_rpm=rpm)
    state = State(pc)
    state.load = 1.0
    state.move(4 * 3600)
    assert state.share == 1.0
    assert state.die_c == pytest.approx(equilibrium(pc, state.power_w, rpm), abs=0.05)
    state.load = 0.0
    state.move(4 * 3600)
    assert state.die_c == pytest.approx(equilibrium(pc, state.power_w, rpm), abs=0.05)


def test_the_die_follows_its_cooler_within_the_paste_s_time_constant() -> None:
    pc = replace(RIGS["plotting-pc"], fan_rpm=2200.0)
    state = State(pc)
    state.load = 1.0
    tau = DIE_J_PER_K * pc.paste.resistance
    state.move(5 * tau)
    # Both warm alike by then: what goes through the paste is the cooler's share of both capacities.
    through = (state.die_c - state.sink_c) / pc.paste.resistance
    capacity = pc.cooler.joule_per_kelvin
    assert through == pytest.approx(state.power_w * capacity / (capacity + DIE_J_PER_K), rel=0.02)


def test_where_heat_meets_the_limit_the_clock_gives_way_until_it_is_kept() -> None:
    worn, renewed = State(LAPTOP), State(PASTED)
    for state in (worn, renewed):
        state.load = 1.0
        state.move(1800)
    assert worn.held_back > 0
    assert worn.die_c == pytest.approx(LAPTOP.processor.limit_c, abs=1.5)
    assert worn.clock_mhz < LAPTOP.processor.boost_mhz
    assert (renewed.held_back, renewed.clock_mhz) == (0, PASTED.processor.boost_mhz)


def test_dust_and_paste_are_told_apart_and_a_faster_fan_cools() -> None:
    rises = [settled_rise(pc) for pc in (CLEAN, PASTED)]
    assert rises[0] - rises[1] > 2.0
    slow, fast = (settled_rise(replace(PASTED, fan_rpm=rpm)) for rpm in (2300.0, 4600.0))
    assert fast < slow
    assert PASTED.cooler.noise(4600.0) > PASTED.cooler.noise(2300.0)


def test_a_link_caps_the_drive_behind_it() -> None:
    narrow = replace(RIGS["plotting-pc"], link=Link(1.5, 1))
    rate = truth_of(Rig(narrow, noise=QUIET), "drive-long-read-2048KiB-1")
    # 1.5 GT/s with 8b/10b is 150 MB/s, less what packets take.
    assert rate["rate"] == pytest.approx(150 * 0.93)
    assert true_gain(narrow, RIGS["plotting-pc"], "drive-long-read-2048KiB-1") == pytest.approx(540 / (150 * 0.93))


def test_a_set_is_held_as_far_as_the_memory_goes() -> None:
    held = {gib: run(_quiet(gib), "overflow")["held"] for gib in (4.0, 8.0, 16.0)}
    for gib, mib in held.items():
        assert gib * 1024 - 1700 < mib <= gib * 1024 - 1600 + 1
    crowds = {gib: run(_quiet(gib), "crowd")["time"] for gib in (4.0, 16.0)}
    assert crowds[4.0] > crowds[16.0]


def _quiet(gib: float) -> Rig:
    pc = RIGS["scanner-room-tower"]
    return Rig(replace(pc, memory=replace(pc.memory, gib=gib)), noise=QUIET, speed=INSTANT)


def truth_of(rig: Rig, key: str) -> dict[str, float]:
    work = next(work for work in BUILT_IN if work.key == key)
    return rig.true(work, work.parameters)


@pytest.mark.parametrize("work", BUILT_IN, ids=lambda work: work.key)
def test_it_yields_every_figure_that_a_workload_states(work: BenchWorkload) -> None:
    rig = Rig(LAPTOP, noise=Noise(fails=0.0), speed=INSTANT)
    figures = run(rig, work.key, **({"minutes": 2} if work.key == "soak" else {}))
    assert set(figures) == {measure.key for measure in work.measures}
    assert all(value > 0 for value in figures.values())


def test_the_same_seed_gives_the_same_readings_and_noise_is_around_the_truth() -> None:
    one, same, other = (Rig(RIGS["plotting-pc"], seed, speed=INSTANT) for seed in (5, 5, 6))
    readings = [[run(rig, "routes-all")["rate"] for _ in range(3)] for rig in (one, same, other)]
    assert readings[0] == readings[1] != readings[2]
    truth = truth_of(Rig(RIGS["plotting-pc"], noise=QUIET), "routes-all")["rate"]
    steady = Noise(fails=0.0, disturbed=0.0, cold=0.0)
    drawn = [run(Rig(RIGS["plotting-pc"], seed, steady, INSTANT), "routes-all")["rate"] for seed in range(200)]
    assert sum(drawn) / len(drawn) == pytest.approx(truth, rel=0.002)


def test_a_failed_run_is_one_and_a_cold_first_run_is_slower() -> None:
    with pytest.raises(WrongResult):
        run(Rig(LAPTOP, noise=Noise(fails=1.0), speed=INSTANT), "routes-one")
    rig = Rig(LAPTOP, noise=replace(QUIET, cold=0.1), speed=INSTANT)
    first, second = (run(rig, "routes-one")["rate"] for _ in range(2))
    assert second == pytest.approx(1.1 * first)


def test_every_kind_of_swap_has_a_truth() -> None:
    swaps: dict[str, tuple[Pc, Pc]] = {
        "processor": (RIGS["plotting-pc"], RIGS["plotting-pc-6-cores"]),
        "memory": (RIGS["plotting-pc-6-cores"], RIGS["plotting-pc-16-gb"]),
        "drive": (RIGS["scanner-room-tower"], RIGS["scanner-room-tower-solid-state"]),
    }
    for change, (before, after) in swaps.items():
        key = FOR_A_CHANGE[change][0]
        assert true_gain(before, after, key) > 1.2, change
        assert true_gain(before, before, key) == 1.0
    assert true_gain(*swaps["drive"], "routes-one") == 1.0


def test_a_rig_is_called_by_its_name_and_seed() -> None:
    assert start_rig("field-laptop:7", 50).seed == 7
    assert start_rig("field-laptop", 50).boot != start_rig("field-laptop", 50).boot
    for name, speed in (("another", 50.0), ("field-laptop:x", 50.0), ("field-laptop", 0.0)):
        with pytest.raises(ValueError, match=r"There is no simulated PC|--speed is above 0"):
            start_rig(name, speed)
