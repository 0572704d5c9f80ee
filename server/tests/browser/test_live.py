"""A live sitting on a simulated PC: seen as it runs, and nothing lost or doubled by a killed agent or server."""

import json
import os
import signal
import subprocess
import sys
from collections.abc import Callable
from pathlib import Path
from typing import Any

import httpx
import pytest
from selenium.webdriver.common.keys import Keys

from tests.api.bodies import Job, new_id
from tests.browser.screen import Screen
from tests.browser.test_every_screen import violations
from tests.conftest import START_S, LiveServer, free_port, until

SOAKS = 2


def words(rig: str, speed: int, job: Job, server: LiveServer, folder: Path, *more: str) -> list[str]:
    where = ["--server", server.url, "--machine", job.machine, "--state", str(folder)]
    rigged = ["--rig", rig, "--speed", str(speed), "--yes", "--warm-ups", "0", "--repeats", str(SOAKS)]
    return [
        sys.executable,
        "-m",
        "lynxbill",
        "bench",
        *rigged[:4],
        "run",
        "soak",
        "--set",
        "minutes=6",
        *rigged[4:],
        *where,
        *more,
    ]


def soaks(job: Job, build: str) -> list[dict[str, Any]]:
    sittings = {s["id"] for s in job.case()["sittings"] if s["build"] == build}
    return [run for run in job.runs() if run["sitting"] in sittings]


@pytest.mark.nightly
def test_a_live_sitting_is_drawn_against_the_other_side_and_survives_kills(
    screen: Screen, migrated_database: Callable[[], str], tmp_path: Path
) -> None:
    server = LiveServer(migrated_database(), free_port(), ("--empty",))
    server.start()
    with httpx.Client(base_url=f"{server.url}/api", timeout=START_S) as api:
        job = Job(api).describe(name="Field laptop")
        done = subprocess.run(
            words("field-laptop:3", 2000, job, server, tmp_path), capture_output=True, text=True, check=False
        )
        assert done.returncode == 0, done.stderr
        job.plan(sittings_a_side=1, runs_a_sitting=SOAKS).raise_for_status()
        (sitting,) = job.case()["sittings"]
        swap = job.swap(new_id(), label="Fresh paste")
        job.post(f"/swaps/{swap['id']}/close", {"skipped": "a test", "version": swap["version"]}).raise_for_status()
        after = swap["after"]
        screen.open(f"{server.url}/machines/{job.machine}/measure")
        slow = words("field-laptop-pasted:4", 20, job, server, tmp_path, "--boot", "after the swap")
        agent = subprocess.Popen(slow, stderr=subprocess.DEVNULL, stdin=subprocess.DEVNULL, start_new_session=True)
        screen.sees("cooler than build A at this minute")
        screen.sees("Soak, minutes 6, run 1 · build B")
        screen.sees("Sensors stand in")
        screen.sees("The room’s temperature is not noted")
        assert violations(screen) == []
        screen.tab_to("Moment that is read off")
        screen.press(Keys.HOME, Keys.ARROW_RIGHT)
        screen.sees("At 0:15 min: this run")
        until(lambda: len(soaks(job, after)) == 1, "the first soak did not end")
        os.killpg(agent.pid, signal.SIGKILL)
        agent.wait()
        server.kill()
        server.start()
        first = {run["id"] for run in soaks(job, after)}
        fast = words("field-laptop-pasted:4", 2000, job, server, tmp_path, "--boot", "after the swap")
        done = subprocess.run(fast, capture_output=True, text=True, check=False)
        assert done.returncode == 0, done.stderr
        runs = soaks(job, after)
        assert first <= {run["id"] for run in runs}
        assert len(first) == 1
        assert [run["position"] for run in runs] == list(range(1, len(runs) + 1))
        states = [run["state"] for run in runs]
        assert states.count("complete") == SOAKS
        assert all("ended while it ran" in run["reason"] for run in runs if run["state"] == "partial")
        assert all(s["closed_at"] for s in job.case()["sittings"])
        kept = job.api.get(f"/machines/{job.machine}/traces", params={"sitting": runs[0]["sitting"]}).json()
        assert {trace["id"] for trace in kept} >= {run["id"] for run in runs if run["state"] == "complete"}
        assert sitting["id"] != runs[0]["sitting"]
        screen.open(f"{server.url}/machines/{job.machine}/judge")
        screen.sees("Soak, processor, last minute")
    server.stop()


def test_what_the_agent_wrote_elsewhere_is_taken_in_on_the_screen(
    screen: Screen, demo_server: LiveServer, api: httpx.Client, tmp_path: Path
) -> None:
    job = Job(api).describe(name="Bench measured elsewhere")
    sitting, run = new_id(), new_id()
    file = json.loads(api.get(f"/machines/{job.machine}/run-file").text)
    begun = {"id": sitting, "build": job.build, "started_at": "2026-05-04T09:10:00Z", "boot": "elsewhere"}
    made = {"id": run, "sitting": sitting, "workload": "Job", "workload_version": "1", "position": 1}
    file |= {"sittings": [begun], "runs": [made | {"state": "complete", "readings": {job.time: 41.9}}]}
    (tmp_path / "runs.json").write_text(json.dumps(file))
    screen.open(f"{demo_server.url}/machines/{job.machine}/measure")
    screen.sees("Show what to type")
    screen.driver.execute_script("document.querySelectorAll('details').forEach(d => d.open = true)")
    screen.upload("Run file of the agent", str(tmp_path / "runs.json"))
    screen.sees("A 1 · open")
    assert [known["id"] for known in job.runs()] == [run]
    (tmp_path / "runs.json").write_text(json.dumps(file | {"sittings": [begun | {"boot": None, "boot_by": None}]}))
    screen.driver.execute_script("document.querySelectorAll('details').forEach(d => d.open = true)")
    screen.upload("Run file of the agent", str(tmp_path / "runs.json"))
    screen.sees("An agent’s file says in which start of the machine")
