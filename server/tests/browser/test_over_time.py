"""Readings over time without an agent: typed at minute marks beside the other side's, and from a sensor log."""

import math
from pathlib import Path
from typing import Any

import httpx
import pytest
from selenium.webdriver.common.by import By
from selenium.webdriver.common.keys import Keys

from tests.api.bodies import Job, new_id
from tests.browser.screen import Screen
from tests.browser.test_every_screen import violations
from tests.conftest import LiveServer

STARTED = "2026-05-04T09:12:00Z"
HEAT = {"unit": "Cel", "scale": "difference", "kind": "heat", "better": "lower"}


@pytest.fixture
def job(api: httpx.Client) -> Job:
    job = Job(api).describe(name="Bench read by hand")
    job.workload = new_id()
    highest, last = (
        {"id": new_id(), "name": name, "trace_figure": figure} | HEAT
        for name, figure in (("Hottest", "highest"), ("At the end", "last minute"))
    )
    body = job.workload_body(name="Soak", measures=[highest, last], loads=["cooler"], minutes_a_run=10)
    job.put(f"/workloads/{job.workload}", body).raise_for_status()
    return job


def other_side(job: Job) -> str:
    """A soak of build A, then the machine as build B with a sitting; answers that sitting."""
    sitting, run = job.sitting(), new_id()
    place = {"sitting": sitting, "workload": job.workload, "position": 1, "started_at": STARTED}
    core = {"role": "temperature", "of": "processor", "unit": "Cel", "sensor": "Core"}
    channel = core | {"at": [0.0, 300.0, 600.0], "values": [31.5, 78.4, 81.0]}
    job.put(f"/traces/{run}", place | {"channels": [channel]}).raise_for_status()
    job.put(f"/runs/{run}", place | {"state": "complete", "readings": {}}).raise_for_status()
    job.post(f"/sittings/{sitting}/close").raise_for_status()
    swap = job.swap(new_id())
    job.post(f"/swaps/{swap['id']}/close", {"skipped": "a test", "version": swap["version"]}).raise_for_status()
    return job.sitting(swap["after"])


def readings(job: Job, sitting: str) -> list[dict[str, float]]:
    names: dict[str, Any] = {measure["id"]: measure["name"] for measure in job.case()["measures"]}
    runs = [run for run in job.runs() if run["sitting"] == sitting]
    return [{names[key]: reading["low"] for key, reading in run["readings"].items()} for run in runs]


def go_to_soak(screen: Screen, server: LiveServer, job: Job, sitting: str) -> None:
    screen.open(f"{server.url}/machines/{job.machine}/measure?sitting={sitting}&workload={job.workload}")
    screen.activate("Read it over time: at minute marks, or from a sensor log")


def test_a_curve_is_typed_at_minute_marks_beside_what_the_other_side_read(
    screen: Screen, demo_server: LiveServer, job: Job
) -> None:
    sitting = other_side(job)
    go_to_soak(screen, demo_server, job, sitting)
    screen.sees("what build A read at that minute")
    for told in ("A 31.5", "A 78.4", "A 81.0"):
        screen.sees(told)
    assert violations(screen) == []
    screen.activate("The load begins now")
    screen.sees("At rest: Core?")
    screen.fill("Core at rest", "30.5")
    screen.fill("Core at minute 5", "warm")
    # What is typed survives a reload.
    screen.open(f"{demo_server.url}/machines/{job.machine}/measure?sitting={sitting}&workload={job.workload}")
    screen.activate("Read it over time: at minute marks, or from a sensor log")
    screen.sees("minute 1 of the load")
    screen.activate("Keep these readings")
    screen.sees("“warm” is no number here")
    screen.fill("Core at minute 5", "66")
    screen.fill("Core at minute 10", "67.5")
    screen.press(Keys.ENTER)
    screen.until(lambda: readings(job, sitting), "the run was not recorded")
    assert readings(job, sitting) == [{"Hottest": 67.5, "At the end": 67.5}]
    screen.sees("Soak, run 2 of 5")
    # Opened again, what was typed stands there to be mended.
    screen.activate("More of run 1…")
    screen.activate("Readings over time")
    screen.until(lambda: screen.value_of("Core at minute 10") == "67.5", "what was typed does not stand there")
    screen.fill("Core at minute 10", "68.5")
    screen.activate("Keep these readings")


def test_a_curve_that_gives_no_figure_says_why_and_keeps_its_marks(
    screen: Screen, demo_server: LiveServer, job: Job
) -> None:
    settled = {"id": new_id(), "name": "Settled", "trace_figure": "settled"} | HEAT
    job.workload = new_id()
    body = job.workload_body(name="Short soak", measures=[settled], loads=["cooler"], minutes_a_run=10)
    job.put(f"/workloads/{job.workload}", body).raise_for_status()
    go_to_soak(screen, demo_server, job, job.sitting())
    screen.fill("Core at rest", "30.5")
    screen.fill("Core at minute 5", "66")
    screen.activate("Keep these readings")
    screen.sees("There is no figure in this run")
    screen.sees("Settled:")
    screen.activate("Read it over time: at minute marks, or from a sensor log")
    screen.until(lambda: screen.value_of("Core at minute 5") == "66", "what was typed is gone")


def test_a_sensor_log_is_taken_in_and_its_faults_are_named(
    screen: Screen, demo_server: LiveServer, job: Job, tmp_path: Path
) -> None:
    sitting = other_side(job)
    rows = [f"{second};{60 - 30 * math.exp(-second / 60):.1f};1200;idle\n" for second in range(0, 900, 2)]
    text = "Time [s];T die;Fan [RPM];State\n" + "".join(row.replace(".", ",") for row in rows)
    faulty, good = tmp_path / "faulty.csv", tmp_path / "log.csv"
    faulty.write_text(text + "900;hot;1200;idle\n")
    good.write_text(text)
    go_to_soak(screen, demo_server, job, sitting)
    screen.choose("Readings come from", "a sensor log of another program (CSV)")
    for file in (faulty, good):
        screen.until(lambda: screen.driver.find_elements(By.CSS_SELECTOR, "input[type=file][accept*=csv]"), "no file")
        chosen = screen.driver.find_element(By.CSS_SELECTOR, "[role=dialog] input[type=file]")
        chosen.send_keys(str(file))
        screen.sees("3 columns beside the time.")
        screen.sees("parted by semicolons, decimal mark “,”")
        if file == faulty:
            screen.choose("T die is", "temperature")
            screen.choose("T die is on the", "processor")
            assert violations(screen) == []
        screen.activate("Take in 2 columns")
        if file == faulty:
            screen.sees("row 452, “T die”: “hot” is not a number")
            assert readings(job, sitting) == []
    screen.until(lambda: readings(job, sitting), "the run was not recorded")
    assert readings(job, sitting) == [{"Hottest": 60.0, "At the end": 60.0}]


def test_a_photo_is_taken_now_and_its_figure_read_off_it_later(
    screen: Screen, demo_server: LiveServer, job: Job, tmp_path: Path
) -> None:
    sitting = other_side(job)
    page = f"{demo_server.url}/machines/{job.machine}/measure?sitting={sitting}&workload={job.workload}"
    screen.open(page)
    screen.sees_control("Photo now, figure later")
    photo = tmp_path / "screen.png"
    screen.driver.save_screenshot(str(photo))
    screen.upload("Photo of run 1", str(photo))
    screen.sees("waits for its figure")
    screen.sees("Soak, run 2 of 5")
    # Another device sees that it waits, too.
    screen.driver.execute_script("localStorage.clear()")
    screen.open(page)
    screen.sees("waits for its figure")
    assert violations(screen) == []
    (waiting,) = job.api.get(f"/machines/{job.machine}/sittings/{sitting}/pictures").json()
    screen.fill("Run 1, Hottest", "66")
    screen.press(Keys.ENTER, Keys.ENTER)
    screen.until(lambda: readings(job, sitting), "the run was not recorded")
    (run,) = (run for run in job.runs() if run["sitting"] == sitting)
    assert (run["id"], run["position"]) == (waiting["run"], 1)
    screen.sees("Photo of run 1")
