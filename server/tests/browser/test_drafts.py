"""Whatever a browser kept of a form, no draft ends a screen, and what was typed can still be read."""

import json
import random
from typing import Any

import httpx
import pytest
from selenium.webdriver.common.keys import Keys

from tests.api.bodies import Job, new_id
from tests.browser.screen import Screen
from tests.conftest import LiveServer
from tests.tiers import examples

# Where a form is, what opens it there, and a field of it.
FORMS = {
    "sitting": ("/machines/{machine}/measure", "Begin the next sitting N", "Room temperature, °C"),
    "run sheet": ("/machines/{machine}/measure", None, "Run 1, Time"),
    "new machine": ("/machines/new", None, "Name"),
    "new job": ("/new", None, "What hurts (can wait)"),
    "question": ("/machines/{machine}/setup", "Edit the question", "What result would settle it?"),
    "plan": (
        "/machines/{machine}/setup/plan",
        "Change the plan: roles, margins, counts, order, conditions",
        "Time matters from, %",
    ),
    "swap": ("/machines/{machine}/swap", None, "Call this swap"),
    "shelf": ("/shelf", None, "Part"),
}
# Those that hold little, or hold it as others do: at night.
MORE = {
    "limits": ("/machines/{machine}/setup", "Edit the limits", "most processor power, W"),
    "build": ("/machines/{machine}/setup", "Correct parts and settings", "Name of this build"),
    "workload": ("/machines/{machine}/setup", "+ a task", "The task"),
    "candidate": ("/machines/{machine}/setup", "+ a candidate", "Candidate"),
    "columns": ("/columns", None, "Before"),
    "explanation": ("/machines/{machine}/judge", "Note a suspected cause", "Suspected cause or limit"),
    "report": ("/machines/{machine}/report", None, "Technician"),
    "swap day and account": ("/machines/{machine}/swap", None, "Call this swap"),
}
TEXTS = ("", "12345-05-04", "99999999", "-0", "1e999", "\0", "\u202ex", "x" * 5000, "{}", "__proto__", "2026-13-45")
READABLE = "return Object.entries(localStorage).filter(([key]) => key.startsWith('lynxbill.draft.'))"
PUT = "for (const [key, value] of arguments[0]) localStorage.setItem(key, value)"


@pytest.fixture(scope="module")
def job(api: httpx.Client) -> Job:
    job = Job(api).describe()
    job.sitting()
    return job


def damaged(value: Any, chance: random.Random) -> Any:
    """The same value with some of it as another program, or another hand, would have left it."""
    if chance.random() < 0.12:
        return chance.choice([None, [], {}, [None], "text", 7, -1, 1e300, True, {"id": 3}, [[]]])
    if isinstance(value, dict):
        return {key: damaged(each, chance) for key, each in value.items()} | (
            {"12345678": {"id": "x"}} if chance.random() < 0.2 else {}
        )
    if isinstance(value, list):
        return [damaged(each, chance) for each in value]
    if isinstance(value, str) and chance.random() < 0.5:
        return chance.choice(TEXTS)
    return value


def kept(screen: Screen) -> list[tuple[str, str]]:
    found: list[tuple[str, str]] = screen.driver.execute_script(READABLE)
    return found


def stands(screen: Screen) -> None:
    """A screen is there, with what leads on from it."""
    screen.until(lambda: screen.driver.find_elements("css selector", "main h1, main form"), "no screen came")
    assert "Try again" not in screen.text()


@pytest.fixture
def machine(job: Job, demo_id: str, request: pytest.FixtureRequest) -> str:
    """The machine on which a form is: what is to be swapped is asked once something was measured."""
    form: str = request.getfixturevalue("form")
    if form == "swap":
        return Job.measured(job.api).machine
    if form == "swap day and account":
        measured = Job.measured(job.api)
        measured.swap(new_id())
        return measured.machine
    return demo_id if form in ("explanation", "report") else job.machine


@pytest.mark.parametrize("form", [*FORMS, *(pytest.param(form, marks=pytest.mark.nightly) for form in MORE)])
def test_no_draft_ends_a_screen(screen: Screen, demo_server: LiveServer, machine: str, form: str) -> None:
    path, opener, field = (FORMS | MORE)[form]
    screen.open(demo_server.url + path.format(machine=machine))
    stands(screen)
    if opener:
        screen.activate(opener)
    screen.fill(field, "7")
    drafts = screen.until(lambda: kept(screen), "nothing was kept of what was typed")
    chance = random.Random(form)
    for _ in range(examples(24)):
        changed = [(key, json.dumps(damaged(json.loads(draft), chance))) for key, draft in drafts]
        screen.driver.execute_script("localStorage.clear()")
        screen.driver.execute_script(PUT, changed)
        screen.driver.refresh()
        stands(screen)
        if opener:
            screen.activate(opener)
        screen.press(Keys.ESCAPE)
        stands(screen)


def test_a_draft_that_can_t_be_shown_is_set_aside_and_named(
    screen: Screen, demo_server: LiveServer, job: Job
) -> None:
    screen.open(f"{demo_server.url}/machines/{job.machine}/measure")
    stands(screen)
    broken = {"build": "x", "restarted": "yes", "ambient": "21.5", "conditions": None}
    key = f"lynxbill.draft.sitting.{job.machine}"
    screen.driver.execute_script(PUT, [(key, json.dumps({"shape": 1, "draft": broken}))])
    screen.activate("Begin the next sitting N")
    screen.sees("was set aside, and nothing of it was saved")
    screen.sees("the conditions of a sitting: “x”, “yes”, “21.5”.")
    screen.activate("Begin the next sitting N")
    screen.sees_control("Room temperature, °C")
    screen.press(Keys.ESCAPE)
    screen.activate("Drop it")
    screen.until(lambda: "set aside" not in screen.text(), "the note stays")


def test_a_day_that_is_none_is_named_at_its_field(screen: Screen, demo_server: LiveServer, api: httpx.Client) -> None:
    job = Job(api).describe()
    job.sitting()
    screen.open(f"{demo_server.url}/machines/{job.machine}/measure")
    stands(screen)
    screen.activate("Begin the next sitting N")
    screen.fill("Room temperature, °C", "21.5")
    (found,) = [(key, json.loads(draft)) for key, draft in kept(screen) if ".sitting." in key]
    key, draft = found
    draft["draft"]["day"] = "12345-05-04"
    screen.driver.execute_script(PUT, [(key, json.dumps(draft))])
    screen.driver.refresh()
    stands(screen)
    screen.activate("Begin the next sitting N")
    screen.sees("held on 12345-05-04")
    screen.activate("Begin the sitting")
    screen.sees("Write a day from 1970 to 2199.")
    assert screen.value_of("Room temperature, °C") == "21.5"
