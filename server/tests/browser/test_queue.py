"""The queue at the bench: order, labels, what goes wrong and what is typed wrong, each by keyboard."""

import httpx
import pytest
from selenium.webdriver.common.keys import Keys

from tests.api.bodies import Job, comparison_of, new_id
from tests.browser.screen import Screen
from tests.conftest import LiveServer

TIME = "Time"


@pytest.fixture
def job(api: httpx.Client) -> Job:
    """A machine whose job yields a time alone."""
    job = Job(api)
    job.put("", {"name": "Test bench", "currency": "EUR"}).raise_for_status()
    job.put(f"/builds/{job.build}", job.build_body()).raise_for_status()
    body = job.workload_body(measures=job.workload_body()["measures"][:1])
    job.put(f"/workloads/{job.workload}", body).raise_for_status()
    return job


def is_at(screen: Screen, name: str) -> None:
    screen.until(lambda: screen.focused().accessible_name == name, f"the cursor is not at “{name}”")


def enter(screen: Screen, *readings: object, first: int = 1) -> None:
    for number, reading in enumerate(readings, start=first):
        is_at(screen, f"Run {number}, {TIME}")
        screen.press(str(reading), Keys.ENTER)


def is_done(screen: Screen, words: str = "") -> None:
    """The cursor has come to the one button, which says what is next once the server has counted."""

    def says() -> bool:
        button = screen.focused()
        return button.get_attribute("id") == "sitting-done" and words in button.text

    screen.until(says, f"the button that says “{words}” is not reached")


@pytest.mark.nightly
def test_a_change_that_can_be_flipped_is_measured_in_turns_to_eight_pairs(
    screen: Screen, demo_server: LiveServer, job: Job
) -> None:
    after = new_id()
    change = {"order": "alternating", "design": "paired", "sittings_a_side": 8, "runs_a_sitting": 1, "at_most": None}
    measures = {job.time: {"role": "claim", "matters_from": 2}}
    job.plan(measures=measures, headline=job.time, **change).raise_for_status()
    job.swap(after)
    screen.open(f"{demo_server.url}/machines/{job.machine}/measure")
    for number in range(1, 9):
        for build, reading in (("A", 40 + number / 10), ("B", 30 + number / 7)):
            is_at(screen, "Begin the sitting")
            screen.press(Keys.ENTER)
            screen.sees(f"BUILD {build}")
            screen.sees(f"Sitting {number} of 8")
            enter(screen, f"{reading:.1f}")
            following = f"sitting {number} on B" if build == "A" else f"sitting {number + 1} on A"
            is_done(screen, "Both sides done: judge" if (number, build) == (8, "B") else following)
            screen.press(Keys.ENTER)
    screen.sees("the gain is real")
    result = comparison_of(job.api, job.machine)["measures"][job.time]
    assert (len(result["pairs"]), result["units_before"], result["basis"]) == (8, 8, "paired_sittings")


@pytest.mark.nightly
def test_jobs_paired_by_label_come_to_a_provisional_verdict_from_one_sitting_a_side(
    screen: Screen, demo_server: LiveServer, job: Job
) -> None:
    after = new_id()
    plan = {"pair_by": "label", "design": "paired", "sittings_a_side": 1, "runs_a_sitting": 4, "at_most": None}
    job.plan(measures={job.time: {"role": "claim", "matters_from": 2}}, headline=job.time, **plan).raise_for_status()
    screen.open(f"{demo_server.url}/machines/{job.machine}/measure")
    is_at(screen, "Begin the sitting")
    screen.press(Keys.ENTER)
    labels = ["harbour", "hill", "moor", "town"]
    for number, (label, reading) in enumerate(zip(labels, [40.0, 80.5, 55.2, 20.1], strict=True), start=1):
        is_at(screen, f"Run {number}, label that pairs it")
        screen.press(label, Keys.ENTER)
        is_at(screen, f"Run {number}, {TIME}")
        screen.press(str(reading), Keys.ENTER)
    is_done(screen, "Baseline complete")
    job.swap(after)
    screen.open(f"{demo_server.url}/machines/{job.machine}/measure")
    screen.press("n")
    is_at(screen, "Begin the sitting")
    screen.press(Keys.ENTER)
    screen.sees("BUILD B")
    # The labels of the other side stand there already: the same inputs, in the same order.
    assert screen.value_of("Run 1, label that pairs it") == "harbour"
    enter(screen, 30.1, 60.3, 41.0, 15.2)
    is_done(screen, "judge")
    runs = {run["pair_label"]: run["readings"][job.time]["low"] for run in job.runs() if run["position"] == 3}
    assert set(runs) == {"moor"}
    screen.press(Keys.ENTER)
    screen.sees("provisional")
    result = comparison_of(job.api, job.machine)["measures"][job.time]
    assert (len(result["pairs"]), result["provisional"], result["basis"]) == (4, True, "one_sitting")


def test_what_goes_wrong_is_one_key_and_a_slip_is_asked_about_and_mended(
    screen: Screen, demo_server: LiveServer, job: Job
) -> None:
    job.sitting()
    screen.open(f"{demo_server.url}/machines/{job.machine}/measure")
    screen.sees("run 1 of 5")
    screen.tab_to(f"Run 1, {TIME}")
    enter(screen, 41.9, 41.7)
    for number, (key, sentence) in enumerate([("h", "hung"), ("c", "crashed"), ("s", "stopped for safety")], start=3):
        is_at(screen, f"Run {number}, {TIME}")
        screen.chord(Keys.ALT, key)
        screen.sees(f"failed: {sentence}")
    screen.sees("3 runs gave no figure. Repeat until 5 count")
    enter(screen, 41.8, 418, first=6)
    screen.sees("418 s? Its siblings are near 41.8")
    screen.activate("41.8 s")
    slip = f"readings.{job.time}"
    screen.until(
        lambda: any(change["member"] == slip for run in job.runs() for change in run["changes"]),
        "the slip was not mended",
    )
    screen.until(lambda: "Its siblings" not in screen.text(), "the question stays")
    screen.tab_to(f"Run 8, {TIME}")
    enter(screen, "about 42", first=8)
    is_done(screen)
    screen.until(lambda: len(job.runs()) == 8, "the last run was not saved")
    kept = {run["position"]: (run["state"], run["reason"]) for run in job.runs()}
    assert (kept[3], kept[5]) == (("failed", "hung"), ("failed", "stopped for safety"))
    readings = [run["readings"][job.time] for run in sorted(job.runs(), key=lambda run: run["position"])[5:]]
    assert [(reading["low"], reading["about"]) for reading in readings] == [(41.8, False), (41.8, False), (42, True)]


def test_a_rising_column_is_one_run_over_time_until_somebody_says_otherwise(
    screen: Screen, demo_server: LiveServer, job: Job
) -> None:
    job.sitting()
    screen.open(f"{demo_server.url}/machines/{job.machine}/measure")
    screen.sees("run 1 of 5")
    screen.tab_to(f"Run 1, {TIME}")
    screen.paste("0\n10\n20\n30\n40\n50")
    screen.sees("0 to 50 in even steps: is this one run over time?")
    assert job.runs() == []
    screen.activate("It is one run: take nothing")
    is_at(screen, f"Run 1, {TIME}")
    screen.paste("10\n20\n30\n40\n50")
    screen.activate("Each row is a run of its own")
    screen.until(lambda: len(job.runs()) == 5, "the rows were not taken")


def test_what_belongs_to_a_run_is_noted_at_its_row(screen: Screen, demo_server: LiveServer, job: Job) -> None:
    job.run(job.sitting(), 1, 41.9).raise_for_status()
    screen.open(f"{demo_server.url}/machines/{job.machine}/measure")
    screen.activate("More of run 1…")
    screen.choose("Held back by", "heat")
    screen.fill("Clock held, GHz", "3.4")
    screen.fill("Note", "the fan rattled")
    screen.activate("How it was read, label, room, length, nuisance")
    screen.choose("Time was", "remembered")
    screen.fill("Room, °C", "warm")
    screen.activate("Save")
    screen.sees("Write a number like 2.5.")
    screen.fill("Room, °C", "24.5")
    screen.activate("Save")
    screen.sees("held back by heat · remembered, kept out of the test · room 24.5 °C · clock held 3.4 GHz · the fan")
    (run,) = job.runs()
    assert run["conditions"] == {"clock_ghz": 3.4, "ambient_c": 24.5}
    assert (run["held_back"], run["readings"][job.time]["source"]) == ("heat", "remembered")
    # What is only remembered is no run of the plan.
    screen.sees("run 1 of 5")


def test_an_old_log_is_entered_for_its_day_and_a_wrong_build_is_put_right_while_the_sitting_is_open(
    screen: Screen, demo_server: LiveServer, job: Job
) -> None:
    screen.open(f"{demo_server.url}/machines/{job.machine}/measure")
    screen.activate("On build A · As received, as planned · change")
    screen.tab_to("Held on another day (an old log)")
    screen.press("05042026")
    screen.sees("held on 4 May 2026, from an old log, counts")
    screen.activate("Begin the sitting")
    screen.sees("Sitting 1 of 3")
    (old,) = job.case()["sittings"]
    assert (old["started_at"][:10], old["purpose"]) == ("2026-05-04", "earlier")
    after = new_id()
    job.swap(after)
    wrong = job.sitting(started_at="2026-05-20T09:00:00Z")
    job.run(wrong, 1, 31.0).raise_for_status()
    screen.open(f"{demo_server.url}/machines/{job.machine}/measure?sitting={wrong}")
    screen.sees("BUILD A")
    screen.activate("Correct the conditions")
    screen.choose("Build", "B")
    screen.activate("Save conditions")
    screen.sees("AFTER · BUILD B")
    moved = next(sitting for sitting in job.case()["sittings"] if sitting["id"] == wrong)
    assert moved["build"] == after


def test_a_candidate_is_fitted_without_retyping_and_the_job_done_again_on_the_next_machine(
    screen: Screen, demo_server: LiveServer, api: httpx.Client
) -> None:
    job = Job.measured(api)
    body = {"role": "processor", "label": "Varro 6-core", "rated": {"cores": 6}, "price": "118.00", "basis": "used"}
    job.put(f"/candidates/{new_id()}", body | {"prerequisites": "firmware 1.40"}).raise_for_status()
    screen.open(f"{demo_server.url}/machines/{job.machine}/setup")
    screen.tab_to("firmware 1.40")
    screen.press(Keys.SPACE)
    screen.until(lambda: job.case()["candidates"][0]["ticked"] == ["firmware 1.40"], "the tick was not kept")
    screen.activate("Fit it: Varro 6-core")
    screen.sees("Comes out".upper())
    assert screen.value_of("New processor") == "Varro 6-core"
    assert screen.value_of("Amount of cost 1") == "118.00"
    screen.activate("Plan this swap")
    screen.sees("only the processor changes")
    screen.until(lambda: job.case()["swaps"], "the swap was not planned")
    case = job.case()
    (swap,) = case["swaps"]
    assert (case["candidates"][0]["swap"], swap["costs"][0]["label"]) == (swap["id"], "Varro 6-core")
    screen.open(f"{demo_server.url}/machines/{job.machine}/setup")
    screen.activate("Same job on the next PC…")
    screen.write("Counter PC")
    screen.press(Keys.ENTER)
    screen.sees("Build A is not measured yet: begin its first sitting.")
    other = next(line["id"] for line in job.api.get("/machine-names").json() if line["name"] == "Counter PC")
    copied = job.api.get(f"/machines/{other}").json()
    assert [part["label"] for part in copied["builds"][1]["parts"]] == ["Varro 6-core"]


def test_two_columns_give_both_forms_at_once_and_no_verdict(screen: Screen, empty_server: LiveServer) -> None:
    screen.open(f"{empty_server.url}/columns")
    screen.sees("Two columns of figures")
    screen.tab_to("Before")
    screen.paste("40\t30\n40\t30")
    screen.sees("25.0 % less time, 1.33× as fast (+33.3 %)")
    screen.sees("No verdict: one look each.")
    assert (screen.value_of("Before"), screen.value_of("After")) == ("40\n40", "30\n30")
    screen.fill("After", "thirty")
    screen.sees("“thirty” is not a number")


def test_a_quick_look_on_a_tablet_asks_for_nothing_else_and_says_what_it_cannot_show(
    screen: Screen, empty_server: LiveServer
) -> None:
    screen.resize(820, 1180)
    screen.open(f"{empty_server.url}/new")
    screen.tab_to("Which machine")
    screen.write("Counter PC")
    screen.tab_to("Task 1")
    screen.write("Time")
    screen.activate("Quick look instead: a quarter of an hour")
    is_at(screen, "All this is held: begin")
    screen.press(Keys.ENTER)
    enter(screen, 40.1, 40.3, 40.2)
    is_done(screen, "Baseline complete")
    screen.press(Keys.ENTER)
    screen.sees("can't grow")
    is_at(screen, "Added part")
    screen.write("Varro 6-core")
    screen.press(Keys.ENTER)
    screen.activate("Open the case")
    screen.activate("All 16 that are left are done")
    screen.activate("All as expected")
    screen.activate("Close the case, and measure")
    is_at(screen, "All this is held: begin")
    screen.press(Keys.ENTER)
    screen.sees("BUILD B")
    enter(screen, 30.1, 30.3, 30.2)
    is_done(screen, "judge")
    screen.press(Keys.ENTER)
    screen.sees("provisional")
    wide = screen.driver.execute_script("return document.documentElement.scrollWidth > window.innerWidth")
    assert not wide, "the page is wider than the tablet"
    screen.resize(1280, 800)
