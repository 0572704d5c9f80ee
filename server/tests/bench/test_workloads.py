"""Every workload of the agent, as small as it may be: a checked result, its stated figures, and refusals by name."""

import os
import signal
import subprocess
import sys
from collections.abc import Iterator
from contextlib import contextmanager
from dataclasses import replace
from pathlib import Path
from typing import Any

import pytest

from lynxbill.bench.catalogue import BUILT_IN, FOR_A_CHANGE, catalogue
from lynxbill.bench.sensors import Channel
from lynxbill.bench.trace import Recorder
from lynxbill.bench.work import compute, overflow, soak
from lynxbill.bench.work.own import OwnProgram, read_programs
from lynxbill.bench.work.target import Ground, look_at, refuse_unfit
from lynxbill.bench.workload import Bench, BenchWorkload, CannotRun, WrongResult

MIB = 1 << 20
SMALL: dict[str, dict[str, Any]] = {
    "memory": {"MiB": 4, "passes": 2, "reads": 10_000, "KiB span": 64},
    "overflow": {"most MiB": 64, "steps": 2, "passes": 1, "seconds a step": 20},
    "crowd": {"programs": 2, "MiB each": 1},
    "drive": {"MiB span": 4, "seconds a pass": 0.2, "passes": 1},
    "soak": {"minutes": 0.01},
    "stepped-load": {"minutes a step": 0.01},
}


def recorder(channels: list[Channel] | None = None) -> Recorder:
    return Recorder(channels or [], 100)


def bench_on(*programs: OwnProgram, target: Path | None = None, trace: Recorder | None = None) -> Bench:
    described = {program.name: program for program in programs}
    return Bench(2, lambda _share: None, trace or recorder(), target, described)


def small(work: BenchWorkload) -> dict[str, Any]:
    fitted = SMALL.get(work.key, SMALL.get(work.key.split("-")[0], {"sheets": 6}))
    return dict(work.parameters) | {name: value for name, value in fitted.items() if name in work.parameters}


WORKING = [work for work in BUILT_IN if work.key not in ("start", "soak", "stepped-load")]


@pytest.mark.parametrize("work", WORKING, ids=lambda work: work.key)
def test_a_workload_yields_each_figure_that_it_states(work: BenchWorkload, tmp_path: Path) -> None:
    shares: list[float] = []
    bench = replace(bench_on(target=tmp_path), progress=shares.append)
    figures = work.perform(small(work), bench)
    assert set(figures.readings) == {measure.key for measure in work.measures}
    assert all(value > 0 for value in figures.readings.values())
    assert shares
    assert all(0 <= share <= 1 for share in shares)
    assert list(tmp_path.iterdir()) == []


def test_a_job_is_shown_by_work_that_loads_the_part_and_names_are_unique() -> None:
    known = catalogue({})
    assert len({work.name for work in known.values()}) == len(known)
    for change, keys in FOR_A_CHANGE.items():
        part = "cooler" if change == "cleaning" else change
        assert part in known[keys[0]].loads, change
    # A rate and its time are one reading: no workload states both of the same work.
    assert all({"rate", "time"} - {m.key for m in work.measures} for work in known.values())


def test_a_wrong_result_is_noticed(monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(compute, "hand_out", lambda _pipes, pieces: iter(["what another sheet gives"] * pieces))
    work = next(work for work in BUILT_IN if work.key == "routes-one")
    with pytest.raises(WrongResult, match="sheet 1 of 6"):
        work.perform(small(work), bench_on())


def test_the_sheets_are_the_same_everywhere() -> None:
    assert compute.route_sheet()(0) == "2240646c54954a7"
    assert compute.relief_sheet()(0) == "1637.513"
    assert compute.packed_sheet()(0).startswith("0230fb53bf35a50c")
    assert compute.summed_sheet()(0).startswith("84816e86d147f265")


def test_the_cliff_is_the_last_set_before_the_rate_halves() -> None:
    fast: list[tuple[int, float | None]] = [(64 * MIB, 9000.0), (128 * MIB, 8000.0)]
    assert overflow.find_cliff(fast) == (128 * MIB, False)
    assert overflow.find_cliff([*fast, (256 * MIB, 4000.0)]) == (128 * MIB, True)
    assert overflow.find_cliff([*fast, (256 * MIB, None), (512 * MIB, 9000.0)]) == (128 * MIB, True)
    assert overflow.sets_up_to(100 * MIB, 4) == [25 * MIB, 50 * MIB, 75 * MIB, 100 * MIB]


@pytest.mark.parametrize(
    ("ground", "says"),
    [
        (Ground(Path("/t"), "tmpfs", "tmpfs", 10**12, 10**12), "lies in memory"),
        (Ground(Path("/t"), "/dev/a", "ext4", 10**9, 10**12), "too full"),
        (Ground(Path("/t"), "/dev/a", "ext4", 8 * 10**8, 9 * 10**8), "too full"),
    ],
)
def test_a_target_in_memory_or_nearly_full_is_refused(ground: Ground, says: str) -> None:
    with pytest.raises(CannotRun, match=says):
        refuse_unfit(ground, 2**29)


def test_a_target_is_named_by_its_device_and_file_system(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    """The last of the mounts that lie over each other; in a root of its own a system may tell none at all."""
    mounts = tmp_path / "mounts"
    monkeypatch.setattr("lynxbill.bench.work.target.MOUNTS", mounts)
    here, spaced = tmp_path / "here", tmp_path / "a folder"
    here.mkdir()
    spaced.mkdir()
    mounts.write_text(
        f"/dev/root / ext4 rw 0 0\n/dev/first {here} xfs rw 0 0\n/dev/second {here} btrfs rw 0 0\n"
        f"/dev/third {tmp_path}/a\\040folder vfat rw 0 0\n"
    )
    found = [look_at(folder) for folder in (tmp_path, here, spaced)]
    assert [(ground.device, ground.file_system) for ground in found] == [
        ("/dev/root", "ext4"),
        ("/dev/second", "btrfs"),
        ("/dev/third", "vfat"),
    ]
    mounts.unlink()
    untold = look_at(here)
    assert (untold.device, untold.file_system) == (None, None)
    assert "a device that is not told" in str(untold)
    assert untold.size >= untold.free > 0
    with pytest.raises(CannotRun, match="--target FOLDER"):
        look_at(tmp_path / "not there")


def test_the_file_on_the_target_does_not_survive_a_kill(tmp_path: Path) -> None:
    script = (
        "import sys, time; from pathlib import Path; from lynxbill.bench.work.target import file_on\n"
        f"with file_on(Path({str(tmp_path)!r})) as file:\n"
        "    import os; os.pwrite(file, b'x' * 4096, 0); print('there', flush=True); time.sleep(60)"
    )
    with subprocess.Popen([sys.executable, "-c", script], stdout=subprocess.PIPE) as process:
        assert process.stdout is not None
        assert process.stdout.readline() == b"there\n"
        process.send_signal(signal.SIGKILL)
    assert list(tmp_path.iterdir()) == []


def test_what_is_read_from_the_drive_is_not_what_the_cache_holds(tmp_path: Path) -> None:
    """Direct reads leave no page of the file in memory: the system counts what a file holds there."""
    from lynxbill.bench.work.drive import _lay_out, _past_the_cache
    from lynxbill.bench.work.target import file_on

    size = 8 * MIB
    with file_on(tmp_path) as file, _past_the_cache(file) as direct:
        _lay_out(direct, size, lambda _share: None)
        assert pages_in_memory(file, size) == 0
        os.pread(file, size, 0)
        assert pages_in_memory(file, size) > 0


def pages_in_memory(file: int, size: int) -> int:
    import ctypes
    import mmap

    libc = ctypes.CDLL(None, use_errno=True)
    with mmap.mmap(file, size) as held:
        begin = ctypes.c_char.from_buffer(held)
        told = (ctypes.c_ubyte * (size // mmap.PAGESIZE))()
        assert libc.mincore(ctypes.byref(begin), ctypes.c_size_t(size), told) == 0
        del begin
        return sum(page & 1 for page in told)


def described(tmp_path: Path, text: str) -> dict[str, OwnProgram]:
    (tmp_path / "commands.toml").write_text(text)
    return read_programs(tmp_path)


def own_work(program: OwnProgram) -> BenchWorkload:
    return catalogue({program.name: program})[f"own {program.name}"]


def test_a_program_of_the_technicians_own_is_timed_checked_and_read(tmp_path: Path) -> None:
    (program,) = described(
        tmp_path,
        """
        ["Render"]
        run = ["python3", "-c", "print('made 41,5 tiles/s')"]
        [["Render".figures]]
        name = "Tiles a second"
        find = "([0-9.,]+) tiles/s"
        unit = "/s"
        kind = "rate"
        better = "higher"
        [["Render".figures]]
        name = "Frames"
        find = "([0-9]+) frames"
        unit = "/s"
        kind = "rate"
        better = "higher"
        """,
    ).values()
    figures = own_work(program).perform({"own program": "Render"}, bench_on(program))
    assert figures.readings["figure 0"] == 41.5
    assert figures.readings["time"] > 0
    assert "was not found" in figures.missing["figure 1"]


def test_one_that_ends_otherwise_failed_and_one_that_gets_ready_is_timed_up_to_there(tmp_path: Path) -> None:
    programs = described(
        tmp_path,
        """
        ["Fails"]
        run = "python3 -c 'import sys; print(\\"no licence\\"); sys.exit(3)'"
        ["Starts"]
        run = ["python3", "-uc", "import time; print('window shown'); time.sleep(3600)"]
        ready = "window shown"
        ["Plays"]
        run = ["python3", "-c", "import time; time.sleep(60)"]
        plays = true
        seconds = 0.5
        """,
    )
    bench = bench_on(*programs.values())
    with pytest.raises(WrongResult, match="ended with 3 in place of 0: no licence"):
        own_work(programs["Fails"]).perform({"own program": "Fails"}, bench)
    # Were it waited for to its end, that would take an hour.
    assert 0 < own_work(programs["Starts"]).perform({"own program": "Starts"}, bench).readings["time"] < 3600
    played = own_work(programs["Plays"]).perform({"own program": "Plays"}, bench).readings
    assert set(played) == {"share", "taken", "free"}
    assert 0 <= played["share"] <= 100


@pytest.mark.parametrize(
    ("text", "says"),
    [
        ("run = 1", "a program is a table of its own"),
        ("['A']\nrun = ''", "“run” is the command"),
        ("['A']\nrun = 'x'\nshell = true", "“shell” is not known"),
        ("['A']\nrun = 'x'\nseconds = 0", "“seconds” is a number above 0"),
        ("['A']\nrun = 'x'\nready = '('", "“ready” is no expression"),
        ("['A']\nrun = 'x'\n[['A'.figures]]\nname = 'f'", "a figure needs its “find”"),
        ("['A'", "An example of how it is written"),
    ],
)
def test_a_description_that_cannot_be_used_is_refused_by_its_place(tmp_path: Path, text: str, says: str) -> None:
    with pytest.raises(CannotRun) as refused:
        described(tmp_path, text)
    assert says in str(refused.value)
    assert "commands.toml" in str(refused.value)


def test_a_server_names_a_workload_and_never_a_command() -> None:
    work = own_work(OwnProgram("Render", ("true",), None, 0, None, 5.0, False, ()))
    parameters = {"own program": "Another", "run": "touch /tmp/harm"}
    with pytest.raises(CannotRun, match=r"is not described in commands\.toml on this machine"):
        work.perform(parameters, bench_on())


@contextmanager
def sampled(**levels: float) -> Iterator[Recorder]:
    units = {"temperature": "Cel", "power": "W", "clock": "MHz", "fan": "/min"}
    made = recorder(
        [Channel(role, "processor", units[role], role, lambda v=value: v) for role, value in levels.items()]  # type: ignore[misc]
    )
    with made.recording():
        yield made


def test_a_soak_reads_the_last_of_its_trace_and_names_what_no_sensor_tells() -> None:
    with sampled(temperature=71.5, clock=3400.0) as trace:
        figures = soak.SOAK.perform(small(soak.SOAK), bench_on(trace=trace))
    assert (figures.readings["temperature"], figures.readings["clock"]) == (71.5, 3400.0)
    assert figures.readings["rate"] > 0
    assert figures.missing == {"power": "no sensor for power here", "fan": "no sensor for fan here"}
    assert [mark["phase"] for mark in trace.marks] == ["load"]


def test_a_stepped_load_gives_kelvin_for_each_watt_and_nothing_where_power_stood_still() -> None:
    assert soak.resistance([(20.0, 40.0), (40.0, 50.0), (60.0, 60.0)]) == pytest.approx(0.5)
    assert soak.resistance([(40.0, 50.0), (41.0, 50.5)]) is None
    with sampled(temperature=50.0, power=40.0) as trace:
        figures = soak.STEPS.perform(small(soak.STEPS), bench_on(trace=trace))
    assert figures.missing == {"resistance": "the three loads took about the same power"}
    assert soak.STEPS.perform(small(soak.STEPS), bench_on()).missing == {"resistance": "no sensor for power here"}


def test_a_stepped_load_is_refused_before_it_begins_where_no_sensor_tells_power() -> None:
    bench = replace(bench_on(), told=frozenset({"temperature", "clock"}))
    with pytest.raises(CannotRun, match="no sensor for power here"):
        soak.STEPS.needs(small(soak.STEPS), bench)
    soak.STEPS.needs(small(soak.STEPS), replace(bench, told=frozenset({"temperature", "power"})))
