"""The bench agent against the real server."""

import json
import os
import subprocess
import sys
import time
from pathlib import Path
from uuid import uuid4

import httpx
import pytest

from lynxbill.bench.workload import WrongResult
from lynxbill.bench.workloads import compress
from tests.api.bodies import Job
from tests.conftest import LiveServer


def agent(*arguments: str, cwd: Path) -> subprocess.CompletedProcess[str]:
    command = [sys.executable, "-m", "lynxbill", "bench", *arguments]
    return subprocess.run(command, capture_output=True, text=True, check=False, cwd=cwd)


@pytest.fixture
def job(api: httpx.Client) -> Job:
    job = Job(api).describe()
    job.put(f"/builds/{job.build}", job.build_body(settings={"threads": 2}, version=1)).raise_for_status()
    return job


def test_the_workload_checks_its_result_and_states_rate_and_time() -> None:
    shares: list[float] = []
    figures = compress.perform(1, shares.append)
    assert figures["rate"] * figures["time"] == pytest.approx(compress.BLOCKS * compress.BLOCK_BYTES / 1e6)
    assert shares == sorted(shares)
    assert shares[-1] == 1


def test_the_block_is_the_same_everywhere() -> None:
    import hashlib

    assert len(compress.make_block()) == compress.BLOCK_BYTES
    digest = hashlib.sha256(compress.make_block()).hexdigest()
    assert digest == hashlib.sha256(compress.make_block()).hexdigest()
    assert digest.startswith("0230fb53bf35a50c")


def test_a_wrong_result_is_noticed(monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(compress, "BLOCKS", 1)

    # The processes of the pool are fresh and make the true block; only the expectation differs here.
    monkeypatch.setattr(compress, "make_block", lambda: b"true")
    monkeypatch.setattr(compress, "digest_of", lambda _: "what another block would give")
    with pytest.raises(WrongResult):
        compress.perform(1, lambda _: None)


def test_a_sitting_of_the_agent_lands_on_the_server(job: Job, demo_server: LiveServer, tmp_path: Path) -> None:
    result = agent("run", "--server", demo_server.url, "--machine", job.machine, "--repeats", "2", cwd=tmp_path)
    assert result.returncode == 0, result.stderr
    case = job.case()
    runs = [run for run in case["runs"] if run["workload"] == "compress"]
    assert [(run["warm_up"], run["position"], run["state"]) for run in runs] == [
        (True, 1, "complete"), (False, 1, "complete"), (False, 2, "complete"),
    ]  # fmt: skip
    assert all(len(run["readings"]) == 2 for run in runs)
    assert "codec" in runs[0]["workload_version"]
    assert list(tmp_path.iterdir()) == []


def test_a_lost_server_costs_no_run(new_database: object, tmp_path: Path) -> None:
    from tests.conftest import free_port

    server = LiveServer(new_database(), free_port(), ("--empty",))  # type: ignore[operator]
    server.start()
    with httpx.Client(base_url=f"{server.url}/api", timeout=30) as api:
        job = Job(api).describe()
        command = [sys.executable, "-m", "lynxbill", "bench", "run", "--server", server.url, "--machine", job.machine]
        process = subprocess.Popen([*command, "--repeats", "1"], cwd=tmp_path, stderr=subprocess.PIPE, text=True)
        deadline = time.monotonic() + 120
        while not job.case()["runs"]:
            assert time.monotonic() < deadline
            time.sleep(0.05)
    server.kill()
    _, said = process.communicate(timeout=120)
    assert process.returncode == 1
    (file,) = tmp_path.iterdir()
    assert f"lynxbill bench send {file}" in said
    assert len(json.loads(file.read_text())["runs"]) == 2
    server.start()
    for _ in range(2):
        sent = agent("send", str(file), "--server", server.url, cwd=tmp_path)
        assert sent.returncode == 0, sent.stderr
        runs = httpx.get(f"{server.url}/api/machines/{job.machine}/runs").json()
        assert len(runs) == 2
    server.stop()


@pytest.mark.parametrize(
    ("arguments", "says"),
    [
        (("--machine", "11111111-1111-4111-8111-111111111111"), "no such machine"),
        (("--machine", "not-an-id"), "UUID"),
        (("--machine", "x", "--workload", "juggle"), "no workload “juggle”"),
    ],
)
def test_what_the_agent_cannot_do_is_one_clear_line(
    demo_server: LiveServer, tmp_path: Path, arguments: tuple[str, ...], says: str
) -> None:
    result = agent("run", "--server", demo_server.url, *arguments, cwd=tmp_path)
    assert result.returncode == 2
    assert says in result.stderr
    assert "Traceback" not in result.stderr


def test_a_build_without_threads_says_where_to_set_them(
    api: httpx.Client, demo_server: LiveServer, tmp_path: Path
) -> None:
    job = Job(api).describe()
    job.put(f"/builds/{job.build}", job.build_body(settings={}, version=1)).raise_for_status()
    result = agent("run", "--server", demo_server.url, "--machine", job.machine, cwd=tmp_path)
    assert result.returncode == 2
    assert "threads" in result.stderr
    assert job.case()["sittings"] == []


def test_ctrl_c_keeps_the_finished_runs(job: Job, demo_server: LiveServer, tmp_path: Path) -> None:
    import signal

    # Tests that were started in the background inherit an ignored Ctrl-C, which the agent would rightly ignore too.
    command = [
        "env",
        "--default-signal=INT",
        sys.executable,
        "-m",
        "lynxbill",
        "bench",
        "run",
        "--server",
        demo_server.url,
        "--machine",
        job.machine,
    ]
    process = subprocess.Popen(
        [*command, "--repeats", "50"], cwd=tmp_path, stderr=subprocess.PIPE, start_new_session=True
    )
    deadline = time.monotonic() + 120
    while len(job.case()["runs"]) < 2:
        assert time.monotonic() < deadline
        time.sleep(0.05)
    os.killpg(process.pid, signal.SIGINT)
    _, said = process.communicate(timeout=90)
    assert process.returncode == 130, said
    states = [run["state"] for run in job.case()["runs"]]
    assert states.count("partial") == 1
    assert states.count("complete") >= 2


def test_all_that_is_noted_of_a_kept_run_reaches_the_server(
    job: Job, demo_server: LiveServer, tmp_path: Path
) -> None:
    sitting = job.sitting()
    file = json.loads(job.api.get(f"/machines/{job.machine}/run-file").text)
    noted = {"started_at": "2026-05-04T09:12:00Z", "duration_s": 41.25, "soak_s": 600.0, "pair_label": "tile 7"}
    kept = {"id": str(uuid4()), "sitting": sitting, "workload": "Job", "workload_version": "1", "position": 1}
    kept |= {"state": "complete", "held_back": "heat", "target": "second drive"} | noted
    readings = {job.time: {"low": 41.0, "high": 42.0}, job.rise: {"value": 30.0, "source": "remembered"}}
    (tmp_path / "kept.json").write_text(json.dumps(file | {"runs": [kept | {"readings": readings}]}))
    sent = agent("send", "kept.json", "--server", demo_server.url, cwd=tmp_path)
    assert sent.returncode == 0, sent.stderr
    (run,) = job.runs()
    assert {name: run[name] for name in kept} == kept | {"workload": "Job"}
    assert (run["readings"][job.time]["low"], run["readings"][job.time]["high"]) == (41.0, 42.0)
    assert run["readings"][job.rise]["source"] == "remembered"
