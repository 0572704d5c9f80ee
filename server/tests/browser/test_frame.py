"""The frame of a job at the screen, by keyboard: from the question to the closed case, in stages."""

import httpx
import pytest
from selenium.webdriver.common.keys import Keys

from tests.api.bodies import STEADY, Job, new_id
from tests.browser.screen import Screen
from tests.conftest import ROOT, LiveServer

GATE = "Going on without it, because (kept in the report)"


@pytest.fixture
def job(api: httpx.Client) -> Job:
    return Job(api).describe()


def go(screen: Screen, server: LiveServer, job: Job, station: str) -> None:
    screen.open(f"{server.url}/machines/{job.machine}/{station}")


def tick(screen: Screen, step: str) -> None:
    screen.tab_to(step)
    screen.press(Keys.SPACE)


def close_unseen(screen: Screen, way_out: str = "Close the case, and measure") -> None:
    """Close the case although nobody looked at what went in."""
    screen.activate(way_out)
    screen.fill("Not looked at, because", "a test")
    screen.activate(way_out)


@pytest.mark.nightly
def test_a_processor_job_from_the_question_to_the_closed_case(
    screen: Screen, demo_server: LiveServer, api: httpx.Client
) -> None:
    screen.open(f"{demo_server.url}/machines/new")
    screen.fill("Name", "Survey PC")
    screen.fill("The question: what should be better?", "Are six cores worth it?")
    screen.fill("What result would settle it?", "A third faster, as quiet.")
    for role, name, figures in (
        ("processor", "Varro 4-core", "4 cores, 3.2 to 3.6 GHz, 51 W, socket V2"),
        ("cooler", "Ostrel tower", "95 W, 92 mm fan"),
        ("thermal paste", "as delivered", "applied 2021"),
        ("memory", "Marl 8 GB", "8 GB, 1 module, 2666 MT/s"),
        ("drive", "Siskin 480 GB", "480 GB, 8 GT/s, 4 lanes"),
    ):
        screen.fill(f"Name of the {role}", name)
        screen.fill(f"Rated figures of the {role}", figures)
    screen.sees("read: 480 GB, 8 GT/s, 4 lanes")
    screen.activate("Save, and choose what to measure")
    screen.sees("Tasks: what it does all day".upper())
    machine = screen.driver.current_url.split("/")[-2]
    job = Job(api, machine=machine)
    processor = job.case()["builds"][0]["parts"][0]
    assert processor["rated"] == {"cores": 4, "base_ghz": 3.2, "boost_ghz": 3.6, "power_w": 51, "socket": "V2"}

    screen.fill("The task", "Render the tiles")
    tick(screen, "processor")
    screen.activate("Add this task")
    screen.sees("smallest gain it can show")
    screen.activate("+ a task")
    screen.fill("The task", "Read the archive")
    tick(screen, "drive")
    screen.fill("Held the same in every run: sizes, counts, presets", "40 files, queue depth = 32, order = random")
    screen.sees("read: files = 40, queue depth = 32, order = random")
    screen.activate("Add this task")
    screen.until(lambda: len(job.case()["workloads"]) == 2, "the second workload was not added")
    archive = job.case()["workloads"][1]
    assert archive["loads"] == ["drive"]
    assert archive["parameters"] == {"files": 40, "queue depth": 32, "order": "random"}
    screen.sees("always: files = 40, order = random, queue depth = 32")

    screen.activate("Edit the limits")
    screen.fill("socket", "V2")
    screen.fill("most cores", "6")
    screen.activate("Save the limits")
    screen.activate("+ a candidate")
    screen.fill("Candidate", "Varro 6-core, used")
    screen.fill("Rated figures of the candidate", "6 cores, socket V2")
    screen.fill("Price, EUR", "118.00")
    screen.fill("Expected gain, %", "25")
    screen.activate("Save the candidate")
    screen.sees("✓ fits")
    screen.sees("2.12 %")
    screen.activate("Edit the limits")
    screen.fill("most cores", "4")
    screen.activate("Save the limits")
    screen.sees("✕ does not fit")

    screen.activate("Open the plan")
    screen.activate("Use “Processor”…")
    screen.sees("What “Processor” would change")
    screen.sees("not said → processor")
    assert job.case()["open_plan"]["plan"]["change"] is None
    screen.activate("Lay it over the plan")
    screen.sees("The paste changes with the processor")
    screen.activate("Change how often it is measured")
    screen.fill("Runs a sitting", "3")
    # What it takes and could show follows while it is typed.
    screen.sees("as typed, not saved yet".upper())
    screen.sees("3 sittings of 3 runs a side")
    assert job.case()["open_plan"]["plan"]["runs_a_sitting"] == 5
    screen.activate("Save the plan")
    screen.sees("Plan saved")
    plan = job.case()["open_plan"]["plan"]
    roles = {m["name"]: plan["measures"][m["id"]]["role"] for m in job.case()["measures"]}
    assert roles == {"Render the tiles": "claim", "Read the archive": "control"}

    workloads = {w["name"]: w["id"] for w in job.case()["workloads"]}
    measures = {m["workload"]: m["id"] for m in job.case()["measures"]}
    for day, values in enumerate(STEADY, start=1):
        held = {key: str(value) for key, value in plan["conditions"].items()}
        build = job.case()["fitted"]
        sitting = job.sitting(build, started_at=f"2026-05-{day:02}T09:00:00Z", conditions=held)
        for name, workload in workloads.items():
            for position, value in enumerate(values, start=1):
                job.run(sitting, position, 0, workload=workload, readings={measures[name]: value}).raise_for_status()

    screen.press("3")
    screen.sees("The old part may leave")
    # What the plan says is changed comes out already.
    screen.sees_control("PROCESSOR Varro 4-core comes out")
    screen.fill("New processor", "Varro 6-core, used")
    screen.fill("Rated figures of the new processor", "6 cores, 3.9 GHz boost")
    screen.fill("Call this swap", "Processor, 4 to 6 cores")
    screen.activate("Plan this swap")
    screen.activate("Open the case")
    screen.sees("The case is open")
    screen.sees("was the paste renewed?")
    tick(screen, "fresh paste")
    screen.until(lambda: "was the paste renewed?" not in screen.text(), "the tick did not answer the question")
    tick(screen, "Firmware new enough for the new processor")
    screen.sees("1 of 16 steps done")

    screen.activate("It did not start")
    screen.activate("Keep it")
    screen.sees("Say what kept it from starting")
    screen.fill("What kept it from starting", "fan lead off its header")
    screen.fill("Minutes of rework", "12")
    screen.press(Keys.ENTER)
    screen.sees("12 min of rework")
    screen.activate("Close the case, and measure")
    screen.sees("The last start failed")
    screen.activate("It started")
    screen.sees("✓ started")

    screen.fill("Seen: processor, cores", "4")
    screen.press(Keys.ENTER)
    screen.sees("Not what was expected")
    screen.activate("It fails")
    screen.sees("✕ not recognised")
    screen.activate("Close the case, and measure")
    screen.sees("Mend it, or note why it will do")
    screen.fill("Seen: processor, cores", "6")
    screen.press(Keys.ENTER)
    screen.sees("✓ as expected")
    screen.activate("Close the case, and measure")
    screen.sees("Not looked at: processor, name; processor, boost clock; boost and power limits; memory")
    screen.fill("Not looked at, because", "the firmware names no part")
    screen.activate("Close the case, and measure")
    screen.sees("Build B is not measured yet")
    screen.sees("Left open at the swap")
    screen.activate("Finish it at the bench")
    screen.fill("Seen: processor, boost clock", "3.9 GHz")
    screen.press(Keys.ENTER)
    screen.until(lambda: screen.text().count("✓ as expected") == 2, "what was skipped could not be finished")
    tick(screen, "Fan leads back on their headers")
    screen.until(lambda: job.case()["swaps"][0]["steps"][-4]["done_at"], "the step could not be finished")
    # Until something is measured the whole case can be opened again; what was done in it stays done.
    screen.activate("Open the case again")
    screen.sees("The case is open: 2 of 16 steps done")
    screen.choose("It tells of", "old paste")
    screen.choose("How it was found", "3")
    screen.activate("Add the note")
    screen.sees("Paste found, 3 of 4: dry.")
    screen.activate("All as expected")
    screen.until(lambda: screen.focused().accessible_name == "Close the case, and measure", "not all was seen")
    screen.press(Keys.ENTER)
    screen.sees("Build B is not measured yet")
    swap = job.case()["swaps"][0]
    assert (swap["state"], swap["gate_missing"], swap["side_changes"]) == ("closed", [], ["fresh paste"])
    assert swap["recognition_skipped"] == ""


@pytest.mark.nightly
def test_a_bundle_is_split_into_stages_and_a_branch_leaves_from_an_earlier_build(
    screen: Screen, demo_server: LiveServer, job: Job
) -> None:
    job.measure(job.build, STEADY)
    swap, after = new_id(), new_id()
    body = job.swap_body(after, side_changes=["dust-out", "fresh paste"], label="Clean, paste, processor")
    job.put(f"/swaps/{swap}", body).raise_for_status()
    go(screen, demo_server, job, "swap")
    screen.sees("changes at once")
    screen.activate("Do it in two stages")
    screen.sees("First do, and measure".upper())
    tick_first = [
        c
        for c in screen.driver.find_elements("css selector", "form [role=checkbox]")
        if c.accessible_name == "dust-out"
    ]
    screen.driver.execute_script("arguments[0].focus()", tick_first[0])
    screen.press(Keys.SPACE)
    screen.fill("Call the first stage", "Dust-out")
    screen.activate("Split it")
    screen.sees("Build A → B, Dust-out: only the dust-out changes.")
    screen.fill(GATE, "a test")
    screen.activate("Open the case all the same")
    close_unseen(screen)
    screen.sees("Build B is not measured yet")
    clean = job.case()["fitted"]
    job.measure(clean, STEADY)

    go(screen, demo_server, job, "swap")
    screen.sees("Build B → C, Clean, paste, processor")
    screen.fill(GATE, "a test")
    screen.activate("Open the case all the same")
    screen.sees("The case is open")
    close_unseen(screen)
    screen.sees("Build C is not measured yet")
    job.measure(after, [[30.0, 30.2, 30.1]] * 3)

    go(screen, demo_server, job, "swap")
    screen.sees("From build C")
    screen.choose("Compared with", "B")
    # What is fitted now stays fitted, whatever it is compared with.
    screen.sees("From build B: processor, settings")
    assert screen.value_of("New processor") == "Varro 6-core"
    screen.fill("Value of threads", "2")
    screen.fill("Call this swap", "Two threads, same paste")
    screen.activate("Plan this swap")
    screen.fill(GATE, "a branch")
    screen.activate("Open the case all the same")
    close_unseen(screen)
    screen.sees("Build D is not measured yet")
    builds = {build["id"]: build["letter"] for build in job.case()["builds"]}
    ways = [(builds[s["before"]], builds[s["after"]]) for s in job.case()["swaps"]]
    assert ways == [("A", "B"), ("B", "C"), ("B", "D")]
    go(screen, demo_server, job, "ladder")
    screen.sees("4 builds, 3 swaps done; it is build D now")
    graph = screen.driver.find_element("css selector", "svg[role=img]")
    assert "D comes from B" in graph.accessible_name


def test_a_setting_is_flipped_there_and_back(screen: Screen, demo_server: LiveServer, job: Job) -> None:
    job.measure(job.build, STEADY)
    go(screen, demo_server, job, "swap")
    screen.fill("Value of threads", "2")
    screen.fill("Call this swap", "Two threads")
    screen.fill("Call the new build", "Half the threads")
    screen.activate("Plan this swap")
    screen.sees("only the threads changes")
    screen.sees("Before the change, this is still missing")
    screen.fill(GATE, "flipped back later")
    screen.activate("Make the change all the same")
    close_unseen(screen, "It is made: measure")
    screen.sees("Build B is not measured yet")
    job.measure(job.case()["fitted"], STEADY)
    go(screen, demo_server, job, "swap")
    screen.choose("Leads to", "back to A")
    screen.sees("From build B back to an earlier one")
    screen.activate("Plan this swap")
    screen.fill(GATE, "alternating")
    screen.activate("Make the change all the same")
    close_unseen(screen, "It is made: measure")
    screen.sees("BEFORE · BUILD A")
    screen.sees("Sitting 3 of 3")
    case = job.case()
    assert (case["fitted"], len(case["builds"]), len(case["swaps"])) == (job.build, 2, 2)


@pytest.mark.nightly
def test_a_job_is_resumed_at_its_step_after_the_server_was_restarted(
    screen: Screen, empty_server: LiveServer
) -> None:
    with httpx.Client(base_url=f"{empty_server.url}/api", timeout=30) as api:
        job = Job(api).describe()
        plan = job.case()["open_plan"]
        job.post("/plan/template", {"template": "memory", "version": plan["version"]}).raise_for_status()
        job.measure(job.build, STEADY)
        job.swap(new_id())
    go(screen, empty_server, job, "swap")
    tick(screen, "Data saved, and the copy opened once")
    screen.sees("1 of 16 steps done")
    screen.fill("Note: screws, cables, order", "Long screws left")
    empty_server.kill()
    screen.activate("Add the note")
    screen.sees("The server does not answer")
    empty_server.start()
    screen.open(empty_server.url)
    screen.sees("1 machine, one waits for you. First Test bench: its case is open")
    screen.sees("Next: Firmware new enough for the new processor")
    screen.activate("Case open, 1 of 16 steps done. Next: Firmware new enough for the new processor")
    screen.sees("1 of 16 steps done")
    assert screen.value_of("Note: screws, cables, order") == "Long screws left"
    screen.activate("Add the note")
    screen.until(lambda: screen.value_of("Note: screws, cables, order") == "", "the note was not added")
    screen.sees("Long screws left")


def test_a_photo_is_kept_with_its_note_and_shown(screen: Screen, demo_server: LiveServer, job: Job) -> None:
    job.measure(job.build, STEADY)
    job.swap(new_id())
    go(screen, demo_server, job, "swap")
    screen.fill("Note: screws, cables, order", "Lead order")
    screen.upload("Photo for the note", str(ROOT / "docs" / "screenshots" / "home.png"))
    shown = "const i = document.querySelector('img[alt=\"Lead order\"]'); return Boolean(i && i.naturalWidth > 100)"
    screen.until(lambda: screen.driver.execute_script(shown), "the photo is not shown")
    assert [note["picture"] for note in job.case()["swaps"][0]["notes"]] == [True]


def test_a_plan_is_kept_as_a_template_and_the_template_removed(
    screen: Screen, demo_server: LiveServer, job: Job
) -> None:
    name = f"House rule {job.machine[:6]}"
    go(screen, demo_server, job, "setup/plan")
    screen.activate("Keep this plan as a template")
    screen.fill("Name of the template", name)
    screen.activate("Keep it")
    screen.activate(f"Edit the template {name}")
    assert name in {template["name"] for template in job.api.get("/templates").json()}
    screen.activate("Remove this template")
    screen.until(
        lambda: name not in {template["name"] for template in job.api.get("/templates").json()}, "it was not removed"
    )


def test_a_new_machine_is_copied_from_another(screen: Screen, demo_server: LiveServer, api: httpx.Client) -> None:
    screen.open(f"{demo_server.url}/machines/new")
    screen.fill("Name", "Copied")
    screen.choose("Parts, limits and tasks as on", "Plotting")
    screen.until(lambda: screen.value_of("Name of the processor") == "Varro 6-core, used", "the parts did not come")
    screen.activate("Save, and choose what to measure")
    screen.sees("smallest gain it can show")
    case = api.get(f"/machines/{screen.driver.current_url.split('/')[-2]}").json()
    assert (len(case["workloads"]), len(case["builds"][0]["parts"])) == (7, 6)
    assert case["machine"]["limits"]["socket"] == "V2"


def test_what_is_held_in_every_run_is_frozen_with_the_runs(
    screen: Screen, demo_server: LiveServer, api: httpx.Client
) -> None:
    job = Job(api).describe()
    held = job.workload_body(parameters={"photos": 40}, version=1)
    job.put(f"/workloads/{job.workload}", held).raise_for_status()
    job.measure(job.build, [[40.0]])
    screen.open(f"{demo_server.url}/machines/{job.machine}/setup")
    screen.activate("Edit Job")
    field = "Held the same in every run: sizes, counts, presets"
    assert screen.value_of(field) == "photos = 40"
    screen.fill(field, "50 photos")
    screen.activate("Save this task")
    screen.sees("are another version: give it one")
    assert screen.value_of(field) == "50 photos"
    screen.fill("Version", "2")
    screen.activate("Save this task")
    screen.until(lambda: job.case()["workloads"][0]["workload_version"] == "2", "the new version was not saved")
    assert job.case()["workloads"][0]["parameters"] == {"photos": 50}
    exported = api.get(f"/machines/{job.machine}/run-file").json()
    assert (exported["runs"][0]["workload_version"], exported["runs"][0]["parameters"]) == ("1", {"photos": 40})


def test_parts_are_chosen_where_one_is_named_and_the_ceiling_is_shown_at_once(
    screen: Screen, demo_server: LiveServer
) -> None:
    screen.open(f"{demo_server.url}/machines/new")
    screen.fill("Name of the drive", "Dunlin 2 TB")
    screen.fill("Rated figures of the drive", "2 TB, 16 GT/s, 4 lanes, sits in the rizer")
    screen.activate("+ another part")
    screen.choose("Kind of part 6", "adapter")
    screen.fill("Name of the adapter", "Long riser")
    screen.fill("Rated figures of the adapter", "8 GT/s, 2 lanes")
    screen.sees("No part here is called “the rizer”: choose which is meant.")
    screen.choose("The drive sits in", "Long riser")
    screen.sees("Can carry 1969 MB/s here (2000 as bits are sent), limited by Long riser.")
    screen.press(Keys.UP)
    screen.sees("Can carry 7877 MB/s here (8000 as bits are sent), no end limits the other.")


def test_a_workload_is_aimed_at_a_fitted_part(screen: Screen, demo_server: LiveServer, job: Job) -> None:
    (part,) = job.case()["builds"][0]["parts"]
    go(screen, demo_server, job, "setup")
    screen.activate("+ a task")
    screen.choose("Aimed at", "a slot, cores: in words")
    screen.fill("Slot, cores or part that it is aimed at", "the stick")
    screen.sees("No part of this machine is called “the stick”")
    screen.choose("Aimed at", part["label"])
    screen.sees(f"Set against {part['label']}")


def test_a_case_opened_by_a_slip_goes_back_to_its_plan(screen: Screen, demo_server: LiveServer, job: Job) -> None:
    job.swap(new_id())
    go(screen, demo_server, job, "swap")
    screen.sees("The case is open")
    screen.activate("Nothing was changed: back to the plan")
    screen.sees("Before the old part leaves, this is still missing:")
    assert job.case()["swaps"][0]["state"] == "planned"


@pytest.mark.nightly
def test_a_limit_that_no_machine_has_is_asked_about(screen: Screen, demo_server: LiveServer, job: Job) -> None:
    go(screen, demo_server, job, "setup")
    screen.activate("Edit the limits")
    screen.fill("temperature at which a run is stopped, °C", "9500")
    screen.sees("9500 °C? No part of a PC is read at that. Is it typed right?")


def test_enter_ticks_what_was_touched_and_plans_nothing(
    screen: Screen, demo_server: LiveServer, api: httpx.Client
) -> None:
    job = Job.measured(api)
    go(screen, demo_server, job, "swap")

    def is_ticked() -> bool:
        return screen.sees_control("fresh paste").get_attribute("aria-checked") == "true"

    assert not is_ticked()
    screen.tab_to("fresh paste")
    screen.press(Keys.ENTER)
    screen.until(is_ticked, "Enter did nothing")
    screen.press(Keys.ENTER)
    screen.until(lambda: not is_ticked(), "Enter did nothing")
    assert job.case()["swaps"] == []
