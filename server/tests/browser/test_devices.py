"""Several devices at one machine, and answers that come late: no update is lost and no draft left behind."""

import httpx
import pytest

from tests.api.bodies import Job
from tests.browser.screen import Screen
from tests.browser.test_frame import go, tick
from tests.conftest import LiveServer


@pytest.fixture
def job(api: httpx.Client) -> Job:
    return Job(api).describe()


def test_two_devices_at_one_machine_lose_no_update(screen: Screen, demo_server: LiveServer, job: Job) -> None:
    go(screen, demo_server, job, "setup")
    screen.activate("Edit the question")
    screen.fill("What result would settle it?", "Half the time")
    version = job.case()["machine"]["version"]
    other = {
        "name": "Test bench",
        "currency": "EUR",
        "labour_rate": "35.00",
        "settles": "A third less",
        "version": version,
    }
    job.put("", other).raise_for_status()
    screen.activate("Save the question")
    screen.sees("Another device saved this first")
    screen.sees("settles is now")
    screen.sees("A third less")
    assert screen.value_of("What result would settle it?") == "Half the time"
    assert job.case()["machine"]["settles"] == "A third less"
    screen.activate("Save mine over it")
    screen.sees("Half the time")
    screen.until(lambda: job.case()["machine"]["settles"] == "Half the time", "it was not saved over")
    screen.activate("Correct parts and settings")
    screen.fill("Name of this build", "As found")
    job.put(f"/builds/{job.build}", job.build_body(label="As brought in", version=1)).raise_for_status()
    screen.activate("Save")
    screen.sees("label is now")
    screen.activate("Take what stands there")
    screen.sees("As brought in")
    assert job.case()["builds"][0]["label"] == "As brought in"


def test_the_news_of_a_save_before_its_answer_leaves_no_draft_behind(
    screen: Screen, demo_server: LiveServer, job: Job
) -> None:
    with screen.answered_late():
        go(screen, demo_server, job, "setup")
        for name, part in (("Render the tiles", "processor"), ("Read the archive", "drive")):
            screen.activate("+ a workload")
            assert screen.value_of("The job") == ""
            screen.fill("The job", name)
            tick(screen, part)
            screen.activate("Add this workload")
            screen.sees_control("+ a workload")
    loads = {workload["name"]: workload["loads"] for workload in job.case()["workloads"]}
    assert loads["Render the tiles"] == ["processor"]
    assert loads["Read the archive"] == ["drive"]


def test_an_answer_that_comes_after_newer_news_does_not_undo_it(
    screen: Screen, demo_server: LiveServer, job: Job
) -> None:
    with screen.answered_late():
        go(screen, demo_server, job, "setup")
        screen.activate("Edit the question")
        screen.fill("What result would settle it?", "Half the time")
        screen.activate("Save the question")
        screen.until(lambda: job.case()["machine"]["settles"] == "Half the time", "it was not saved")
        job.put(f"/builds/{job.build}", job.build_body(label="As brought in", version=1)).raise_for_status()
        screen.sees_control("Edit the question")
        screen.sees("As brought in")
