"""The bench agent as it is carried to the machine under test, against the real server."""

import ast
import json
import os
import signal
import subprocess
import sys
from collections.abc import Callable
from datetime import UTC, datetime, timedelta
from pathlib import Path
from typing import Any

import httpx
import pytest

from lynxbill.agent_file import MAIN, build_agent
from lynxbill.bench.client import Client
from lynxbill.bench.console import _parser
from lynxbill.bench.identify import identify
from lynxbill.bench.keep import Keep
from lynxbill.bench.send import close, refused_of, send_kept
from lynxbill.exchange.run_file import read_run_file
from tests.api.bodies import Job, new_id
from tests.conftest import LiveServer, free_port, until

# Other tests run beside: rest is not waited for.
BUSY = ("--yes", "--rest-limit", "0")
SMALL = ("--set", "sheets=20", *BUSY)
Agent = Callable[..., "subprocess.CompletedProcess[str]"]


@pytest.fixture
def stick(tmp_path: Path) -> Path:
    """An empty folder with nothing but the agent's file in it."""
    (tmp_path / "lynxbill-bench.pyz").write_bytes(build_agent())
    return tmp_path


def command(*words: str) -> list[str]:
    # Isolated: neither this project nor its packages are within its reach.
    return [sys.executable, "-I", "-S", "lynxbill-bench.pyz", *words]


@pytest.fixture
def agent(stick: Path) -> Agent:
    def call(*words: str) -> "subprocess.CompletedProcess[str]":
        return subprocess.run(
            command(*words), capture_output=True, text=True, check=False, cwd=stick, stdin=subprocess.DEVNULL
        )

    return call


@pytest.fixture
def job(api: httpx.Client) -> Job:
    job = Job(api).describe(name="Bench with an agent")
    job.put(f"/builds/{job.build}", job.build_body(settings={"threads": 2}, version=1)).raise_for_status()
    return job


def pair(job: Job, agent: Agent, server: LiveServer) -> None:
    code = job.post("/pairing").raise_for_status().json()["code"]
    paired = agent("pair", server.url.removeprefix("http://"), code.lower())
    assert paired.returncode == 0, paired.stderr


def of_agent(job: Job, workload: str = "Route counting, one core") -> list[dict[str, Any]]:
    return [run for run in job.runs() if run["workload"].startswith(workload)]


def test_paired_by_a_code_it_measures_what_was_named_and_the_sitting_closes(
    job: Job, agent: Agent, demo_server: LiveServer, stick: Path
) -> None:
    pair(job, agent, demo_server)
    done = agent("run", "routes-one", "--repeats", "2", "--warm-ups", "1", *SMALL)
    assert done.returncode == 0, done.stderr
    assert "Bench with an agent, build A, sitting 1" in done.stderr
    assert "in 2 threads, as the build says" in done.stderr
    runs = of_agent(job)
    assert [(run["warm_up"], run["position"], run["state"]) for run in runs] == [
        (True, 1, "complete"), (False, 1, "complete"), (False, 2, "complete"),
    ]  # fmt: skip
    assert all(len(run["readings"]) == 1 for run in runs)
    assert {run["workload_version"] for run in runs} == {"1 (CPython {}.{}.{})".format(*sys.version_info)}
    assert all("rest_min" in run["conditions"] for run in runs)
    (sitting,) = job.case()["sittings"]
    assert (sitting["boot_by"], sitting["closed_at"] is None) == ("read", False)
    # All is on the server: nothing of it is kept beside the agent but whom it is paired with.
    assert {file.name for file in (stick / "lynxbill-bench").iterdir()} == {"paired.json", "job.json"}


def test_one_word_does_what_the_plan_asks_and_goes_on_at_the_run_where_it_was_killed(
    job: Job, agent: Agent, demo_server: LiveServer, stick: Path
) -> None:
    pair(job, agent, demo_server)
    first = agent("run", "routes-one", "--repeats", "1", "--warm-ups", "0", *SMALL)
    assert first.returncode == 0, first.stderr
    job.plan(runs_a_sitting=3, warm_ups=0).raise_for_status()
    process = subprocess.Popen(
        command("run", *BUSY, "--boot", "a later start"),
        cwd=stick,
        stderr=subprocess.DEVNULL,
        stdin=subprocess.DEVNULL,
        start_new_session=True,
    )
    begun = stick / "lynxbill-bench" / "begun.json"
    until(lambda: len(of_agent(job)) >= 2 and begun.exists(), "the agent made no run")
    os.killpg(process.pid, signal.SIGKILL)
    process.wait()
    before = of_agent(job)
    again = agent(*BUSY, "--boot", "a later start")
    assert again.returncode == 0, again.stderr
    after = of_agent(job)
    assert {run["id"]: run["readings"] for run in before}.items() <= {r["id"]: r["readings"] for r in after}.items()
    later = [run for run in after if run["sitting"] == after[-1]["sitting"]]
    assert [run["position"] for run in later] == list(range(1, len(later) + 1))
    states = [run["state"] for run in later]
    assert (states.count("complete"), states.count("partial") <= 1) == (3, True)
    assert all("ended while it ran" in run["reason"] for run in later if run["state"] == "partial")
    sittings = job.case()["sittings"]
    assert [sitting["closed_at"] is None for sitting in sittings] == [False, False]


@pytest.mark.nightly
def test_a_lost_server_costs_no_run_and_what_was_kept_arrives_once(
    migrated_database: Any, agent: Agent, stick: Path
) -> None:
    server = LiveServer(migrated_database(), free_port(), ("--empty",))
    server.start()
    with httpx.Client(base_url=f"{server.url}/api", timeout=30) as api:
        job = Job(api).describe()
        pair(job, agent, server)
        process = subprocess.Popen(
            command("run", "routes-one", "--repeats", "3", "--warm-ups", "0", "--set", "sheets=60", *BUSY),
            cwd=stick,
            stderr=subprocess.PIPE,
            stdin=subprocess.DEVNULL,
            text=True,
        )
        until(lambda: of_agent(job), "the agent made no run")
        server.kill()
        _, sentence = process.communicate(timeout=120)
        assert process.returncode == 1, sentence
        (file,) = stick.glob("lynxbill-runs-*.json")
        assert str(file) in sentence
        kept = [run for run in read_run_file(file.read_bytes()).runs if run.state == "complete"]
        assert len(kept) == 3
        server.start()
        for _ in range(2):
            sent = agent("send")
            assert sent.returncode == 0, sent.stderr
            assert {run["id"] for run in of_agent(job)} == {run.id for run in kept}
    server.stop()


@pytest.mark.nightly
def test_a_job_is_carried_on_a_stick_and_its_file_is_taken_in_however_often(
    job: Job, agent: Agent, demo_server: LiveServer, stick: Path
) -> None:
    pair(job, agent, demo_server)
    brought = agent("run", "routes-one", "--repeats", "1", "--warm-ups", "0", *SMALL)
    assert brought.returncode == 0, brought.stderr
    job.plan(runs_a_sitting=2, warm_ups=0).raise_for_status()
    carried = stick / "lynxbill-job.json"
    carried.write_text(job.api.get(f"/machines/{job.machine}/bench").text)
    elsewhere = ("--job", "lynxbill-job.json", "--state", "elsewhere", "--boot", "another PC", *BUSY)
    done = agent(*elsewhere)
    assert done.returncode == 0, done.stderr
    (file,) = stick.glob("lynxbill-runs-*.json")
    assert (str(file) in done.stderr, len(of_agent(job))) == (True, 1)
    # Called again in the same start of the machine, it has nothing left to do, and begins no other sitting.
    assert "All 0 runs" in agent(*elsewhere).stderr
    for _ in range(2):
        taken = job.api.post(f"/machines/{job.machine}/agent-file", content=file.read_bytes())
        assert taken.raise_for_status().json()["runs"] == 2
    runs = of_agent(job)
    assert [run["state"] for run in runs] == ["complete"] * 3
    (sitting,) = {run["sitting"] for run in runs[1:]}
    assert next(s["boot"] for s in job.case()["sittings"] if s["id"] == sitting) == "another PC"
    traces = job.api.get(f"/machines/{job.machine}/traces", params={"sitting": sitting}).json()
    assert {trace["id"] for trace in traces} == {run["id"] for run in runs[1:]}
    other = Job(job.api).describe(name="Another bench")
    refused = other.api.post(f"/machines/{other.machine}/agent-file", content=file.read_bytes())
    assert (refused.status_code, "This file is of another machine" in refused.json()["detail"]) == (422, True)
    (stick / "lynxbill-job.json").write_text("{}")
    assert "save it anew on the Measure screen" in agent(*elsewhere).stderr


def test_interrupted_by_hand_it_keeps_what_was_done(
    job: Job, agent: Agent, demo_server: LiveServer, stick: Path
) -> None:
    pair(job, agent, demo_server)
    # Tests that were started in the background inherit an ignored Ctrl-C, which the agent would rightly ignore too.
    words = command("run", "routes-one", "--repeats", "50", "--set", "sheets=60", *BUSY)
    process = subprocess.Popen(
        ["env", "--default-signal=INT", *words], cwd=stick, stderr=subprocess.PIPE, start_new_session=True
    )
    until(lambda: len(of_agent(job)) >= 2, "the agent made no run")
    os.killpg(process.pid, signal.SIGINT)
    _, sentence = process.communicate(timeout=90)
    assert process.returncode == 130, sentence
    states = [run["state"] for run in of_agent(job)]
    assert states.count("partial") <= 1
    assert states.count("complete") >= 2
    assert len(states) == len({run["id"] for run in of_agent(job)})


def test_the_plan_of_a_processor_is_offered_what_shows_it(job: Job, agent: Agent, demo_server: LiveServer) -> None:
    pair(job, agent, demo_server)
    listed = agent("list")
    assert {"routes-all", "soak", "overflow", "drive-scattered-read-16KiB-8"} <= set(listed.stderr.splitlines())
    refused = agent("--machine", job.machine, "--server", demo_server.url, "run", "juggle")
    assert (refused.returncode, "There is no workload “juggle”" in refused.stderr) == (2, True)


@pytest.mark.parametrize(
    ("words", "says"),
    [
        (("pair", "127.0.0.1:1", "ABCDEF"), "does not answer. Is Lynxbill started there?"),
        (("pair", "not an address", "ABCDEF"), "is not an address: type one like 127.0.0.1:8440"),
        (("--server", "127.0.0.1:1",), "does not answer"),
        (("--sensors", "/no/such/folder", "--server", "127.0.0.1:1", "--machine", "x"), "does not answer"),
        (("run", "routes-one", "--set", "speed"), "does not answer"),
    ],
)  # fmt: skip
def test_what_it_cannot_do_is_said_with_what_to_type_instead(agent: Agent, words: tuple[str, ...], says: str) -> None:
    result = agent(*words)
    assert result.returncode == 2, result.stderr
    assert says in result.stderr
    assert "Traceback" not in result.stderr


def test_a_code_does_once_and_is_asked_for_again(job: Job, agent: Agent, demo_server: LiveServer) -> None:
    address = demo_server.url.removeprefix("http://")
    old, new = (job.post("/pairing").json()["code"] for _ in range(2))
    assert (len(old), len(new)) == (6, 6)
    for code, status in ((old, 2), (new, 0), (new, 2)):
        result = agent("pair", address, code)
        assert result.returncode == status, result.stderr
        assert status == 0 or "Ask for another one on the Measure screen" in result.stderr


def test_the_file_is_handed_out_and_says_what_an_older_python_lacks(demo_server: LiveServer) -> None:
    assert httpx.get(f"{demo_server.url}/agent/lynxbill-bench.pyz").content == build_agent()
    # An interpreter of 2015 must still be able to read it.
    ast.parse(MAIN, feature_version=(3, 4))
    script = f"import sys; sys.version_info = (3, 10, 2); exec({MAIN!r})"
    old = subprocess.run([sys.executable, "-c", script], capture_output=True, text=True, check=False)
    assert (old.returncode, old.stderr.startswith("This agent needs Python 3.11 or newer; this is 3.10.")) == (
        2,
        True,
    )


def test_nothing_that_exists_on_linux_alone_is_imported_at_its_start(stick: Path) -> None:
    hidden = ("fcntl", "grp", "pwd", "resource", "termios", "tty", "pty", "syslog", "crypt", "spwd", "nis")
    script = (
        f"import sys; sys.path.insert(0, 'lynxbill-bench.pyz')\n"
        f"for name in {hidden!r}: sys.modules[name] = None\n"
        "import os\n"
        "for name in ('sched_getaffinity', 'preadv', 'pwritev', 'O_DIRECT', 'O_TMPFILE', 'killpg', 'sysconf'):\n"
        "    if hasattr(os, name): delattr(os, name)\n"
        "from lynxbill.bench.console import main\n"
        "sys.exit(main(['list']))"
    )
    listed = subprocess.run(
        [sys.executable, "-I", "-S", "-c", script], cwd=stick, capture_output=True, text=True, check=False
    )
    assert listed.returncode == 0, listed.stderr
    assert "overflow" in listed.stderr


def test_what_is_fitted_is_told_without_serial_numbers(agent: Agent, tmp_path: Path) -> None:
    system = tmp_path / "system"
    for name, text in {
        "sys/block/nvme0n1/size": "937703088",
        "sys/block/nvme0n1/device/model": "Siskin 480 GB",
        "sys/block/nvme0n1/device/serial": "S3CRET",
        "sys/block/nvme0n1/device/device/current_link_speed": "8.0 GT/s PCIe",
        "sys/block/nvme0n1/device/device/current_link_width": "4",
        "sys/class/dmi/id/board_name": "Quarl B2",
        "sys/class/power_supply/AC/online": "1",
        "proc/cpuinfo": "processor\t: 0\nmodel name\t: Varro 4-core\nphysical id\t: 0\ncore id\t\t: 0\n",
    }.items():
        (system / name).parent.mkdir(parents=True, exist_ok=True)
        (system / name).write_text(f"{text}\n")
    told = agent("identify", "--sensors", str(system)).stderr
    assert "Varro 4-core" in told
    # Without the salt that its server keeps with the machine there is no sum.
    assert "Siskin 480 GB (size_gb 480, link_gts 8.0, lanes 4)" in told
    assert "S3CRET" not in told

    def drive(salt: str) -> dict[str, Any]:
        (found,) = (part for part in identify(system, salt=salt)["parts"] if part["role"] == "drive")
        rated: dict[str, Any] = found["rated"]
        return rated

    assert drive("one") == drive("one")
    assert drive("one")["sum"] != drive("other")["sum"]
    assert "S3CRET" not in str(drive("one"))
    assert "missing      fan: no fan sensor under sys/class/hwmon" in told


def test_a_kept_line_that_a_power_cut_tore_is_left_out(stick: Path) -> None:
    keep = Keep(stick / "kept")
    keep.add("one", {"id": "a", "run": {}})
    with (stick / "kept" / "one.jsonl").open("a") as file:
        file.write(json.dumps({"id": "b", "run": {}})[:9])
    assert [entry["id"] for entry in keep.entries("one")] == ["a"]


def test_a_trace_that_the_server_refuses_holds_up_no_run_and_is_not_forgotten(job: Job, stick: Path) -> None:
    keep, sitting = Keep(stick / "kept"), job.sitting()
    client = Client(str(job.api.base_url).removesuffix("/api/").removesuffix("/api"))
    sensor = {"role": "fan", "of": "board", "unit": "/min", "sensor": "fan", "stands_in": False}
    trace = {"started_at": "2026-05-04T09:12:00Z", "channels": [{**sensor, "at": [2.0, 1.0], "values": [1.0, 1.0]}]}
    for position in (1, 2):
        run = {key: value for key, value in job.row(sitting, position, 41.9).items() if key != "id"}
        keep.add(sitting, {"id": new_id(), "run": run | {"warm_up": False}, "trace": trace})
    assert send_kept(keep, client, job.machine, sitting) == 0
    assert [run["position"] for run in job.runs()] == [1, 2]
    assert all("Times rise" in refused for refused in refused_of(keep, sitting))
    close(client, job.machine, sitting, keep)
    assert len(refused_of(keep, sitting)) == 2


def test_what_is_told_before_the_word_holds_as_well_as_after_it() -> None:
    parser = _parser("lynxbill bench")
    told = ["--machine", "Bench", "--hertz", "5", "--yes"]
    before, after = parser.parse_args([*told, "run", "soak"]), parser.parse_args(["run", "soak", *told])
    assert vars(before) == vars(after)
    assert (before.machine, before.hertz, before.yes, before.sensors) == ("Bench", 5.0, True, "/")


def test_what_the_machine_shows_is_set_against_its_build(job: Job, demo_server: LiveServer, tmp_path: Path) -> None:
    def identify(rig: str) -> str:
        words = ("--rig", rig, "--machine", job.machine, "--server", demo_server.url, "--state", str(tmp_path))
        command = [sys.executable, "-m", "lynxbill", "bench", *words, "identify"]
        return subprocess.run(command, capture_output=True, text=True, check=True).stderr

    assert "As build A says, as far as the machine tells." in identify("plotting-pc")
    told = "Processor, cores: the build says 4, the machine shows 6: is the build written down as it is?"
    assert told in identify("plotting-pc-6-cores")
    assert job.case()["shown"]["departs"] == [told]


# The agent under a clock that a firmware reset set 400 days back.
RESET = """
import sys
from datetime import datetime, timedelta
import lynxbill.bench.console as console, lynxbill.bench.runner as runner
class Reset(datetime):
    @classmethod
    def now(cls, zone=None):
        return super().now(zone) - timedelta(days=400)
console.datetime = runner.datetime = Reset
from lynxbill.cli import main
sys.argv = ["lynxbill", "bench", *sys.argv[1:]]
main()
"""


def test_runs_are_dated_by_the_servers_clock_where_the_machines_own_is_wrong(
    job: Job, demo_server: LiveServer, tmp_path: Path
) -> None:
    rig = ("--rig", "plotting-pc:3", "--speed", "2000")
    words = (*rig, "--machine", job.machine, "--server", demo_server.url, "--state", str(tmp_path))
    began = datetime.now(UTC)
    done = subprocess.run(
        [sys.executable, "-c", RESET, *words, "run", "routes-one", "--repeats", "1", *SMALL],
        capture_output=True,
        text=True,
        check=False,
    )
    assert done.returncode == 0, done.stderr
    assert "This machine’s clock is 400 days behind" in done.stderr
    started = [datetime.fromisoformat(run["started_at"]) for run in job.runs()]
    started += [datetime.fromisoformat(job.case()["sittings"][0]["started_at"])]
    assert all(began - timedelta(minutes=1) < at < datetime.now(UTC) + timedelta(minutes=1) for at in started)


def test_a_run_is_stopped_where_the_machine_says_so_and_not_done_again(
    api: httpx.Client, demo_server: LiveServer, tmp_path: Path
) -> None:
    job = Job(api).describe(name="Hot bench", limits={"permitted_c": 92, "stop_c": 60})
    rig = ("--rig", "field-laptop:3", "--speed", "500")
    words = (*rig, "--machine", job.machine, "--server", demo_server.url, "--state", str(tmp_path))
    command = [sys.executable, "-m", "lynxbill", "bench", *words, "run", "soak", "--repeats", "2", "--warm-ups", "0"]
    done = subprocess.run([*command, "--yes"], capture_output=True, text=True, check=False)
    assert "stopped for safety" in done.stderr
    (run,) = job.runs()
    assert (run["state"], run["readings"]) == ("failed", {})
    assert run["reason"].startswith("stopped for safety: 6")
    assert run["reason"].endswith("stopped at 60 °C")
    # What its sensors told by then is kept.
    (channel,) = (
        channel
        for channel in api.get(f"/machines/{job.machine}/traces/{run['id']}").json()["channels"]
        if channel["role"] == "temperature"
    )
    assert 60 <= channel["highest"] < 70
