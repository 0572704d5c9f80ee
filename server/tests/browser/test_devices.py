"""Several devices at one machine, and answers that come late: no update is lost and no draft left behind."""

from collections.abc import Iterator
from contextlib import contextmanager
from http.server import BaseHTTPRequestHandler, HTTPServer
from threading import Thread

import httpx
import pytest

from tests.api.bodies import Job
from tests.browser.screen import Screen
from tests.browser.test_frame import go, tick
from tests.conftest import LiveServer, free_port


class Refusing(BaseHTTPRequestHandler):
    """What stands in front of a server that is being started again: it answers, but has nothing to give."""

    asked: list[str]

    def do_GET(self) -> None:
        self.asked.append(self.path)
        self.send_error(503)

    def log_message(self, *_: object) -> None:
        """Say nothing."""


@contextmanager
def refusing(port: int) -> Iterator[list[str]]:
    asked: list[str] = []
    with HTTPServer(("127.0.0.1", port), type("Refusing", (Refusing,), {"asked": asked})) as stand_in:
        thread = Thread(target=stand_in.serve_forever)
        thread.start()
        yield asked
        stand_in.shutdown()
        thread.join()


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
            screen.activate("+ a task")
            assert screen.value_of("The task") == ""
            screen.fill("The task", name)
            tick(screen, part)
            screen.activate("Add this task")
            screen.sees_control("+ a task")
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


@pytest.mark.nightly
def test_a_screen_that_was_cut_off_shows_what_others_saved_meanwhile(
    screen: Screen, empty_server: LiveServer
) -> None:
    other = LiveServer(empty_server.database_url, free_port(), ("--empty",))
    other.start()
    with httpx.Client(base_url=f"{other.url}/api", timeout=30) as api:
        job = Job(api).describe()
        go(screen, empty_server, job, "setup")
        screen.activate("Edit the question")
        screen.fill("What result would settle it?", "Half the time")
        empty_server.kill()
        with refusing(empty_server.port) as asked:
            screen.until(lambda: [path for path in asked if path.endswith("/events")], "the screen did not come back")
        job.put(f"/builds/{job.build}", job.build_body(label="As brought in", version=1)).raise_for_status()
    other.stop()
    empty_server.start()
    screen.sees("As brought in")
    assert screen.value_of("What result would settle it?") == "Half the time"


def test_what_was_read_of_a_number_stands_beside_it(screen: Screen, demo_server: LiveServer, job: Job) -> None:
    go(screen, demo_server, job, "setup")
    screen.activate("Edit the question")
    screen.fill("Labour, EUR per hour", "1,240.50")
    screen.sees("read: 1240.50")
    screen.activate("Save the question")
    screen.until(lambda: job.case()["machine"]["labour_rate"] == "1240.50", "the rate was not saved")
