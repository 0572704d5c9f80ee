"""What was removed by a slip comes back from the screens, too; a machine only goes once its name was typed."""

import httpx
import pytest

from tests.api.bodies import STEADY, Job, new_id
from tests.api.test_ids import CANDIDATE, workload_like
from tests.browser.screen import Screen
from tests.conftest import LiveServer


@pytest.fixture
def job(api: httpx.Client) -> Job:
    return Job(api).describe(name="Bench to be removed")


def test_a_candidate_and_a_workload_are_removed_and_brought_back(
    screen: Screen, demo_server: LiveServer, job: Job
) -> None:
    job.put(f"/candidates/{new_id()}", CANDIDATE).raise_for_status()
    job.put(f"/workloads/{new_id()}", workload_like(job, "By mistake")).raise_for_status()
    before = job.case()
    screen.open(f"{demo_server.url}/machines/{job.machine}/setup")
    screen.activate("Edit Varro 6-core")
    screen.activate("Take it off the list")
    screen.sees("Removed: Varro 6-core.")
    assert job.case()["candidates"] == []
    screen.activate("Undo: bring it back")
    known = [candidate | {"recorded_at": None} for candidate in before["candidates"]]
    screen.until(
        lambda: [candidate | {"recorded_at": None} for candidate in job.case()["candidates"]] == known,
        "the candidate did not come back",
    )
    screen.activate("Edit By mistake")
    screen.activate("Remove this task")
    screen.sees("Removed: By mistake.")
    screen.activate("Undo: bring it back")
    screen.until(lambda: job.case()["open_plan"]["plan"] == before["open_plan"]["plan"], "the plan did not come back")
    assert {w["name"] for w in job.case()["workloads"]} == {w["name"] for w in before["workloads"]}


def test_a_sitting_begun_by_mistake_and_a_warm_up_are_removed(
    screen: Screen, demo_server: LiveServer, job: Job
) -> None:
    sitting, warm = job.sitting(), new_id()
    job.run(sitting, 1, 45.0, warm, warm_up=True).raise_for_status()
    screen.open(f"{demo_server.url}/machines/{job.machine}/measure")
    screen.activate("More of warm-up 1…")
    screen.activate("Remove this warm-up")
    screen.until(lambda: job.runs() == [], "the warm-up is still there")
    screen.activate("Leave it removed")
    screen.activate("Remove this empty sitting")
    screen.until(lambda: job.case()["sittings"] == [], "the sitting is still there")
    screen.activate("Undo: bring it back")
    screen.until(lambda: [s["id"] for s in job.case()["sittings"]] == [sitting], "the sitting did not come back")


def test_a_machine_goes_once_its_name_is_typed_and_can_be_brought_back(
    screen: Screen, demo_server: LiveServer, job: Job
) -> None:
    screen.open(f"{demo_server.url}/machines/{job.machine}/setup")
    screen.activate("Remove this machine…")
    screen.fill("Type its name to remove it: Bench to be removed", "Bench")
    screen.activate("Remove it with all of this")
    screen.sees("Type the machine’s name to remove it")
    screen.fill("Type its name to remove it: Bench to be removed", "Bench to be removed")
    screen.activate("Remove it with all of this")
    screen.sees("Removed: Bench to be removed.")
    assert job.api.get(f"/machines/{job.machine}").status_code == 404
    screen.activate("Undo: bring it back")
    screen.until(lambda: job.api.get(f"/machines/{job.machine}").is_success, "the machine did not come back")


def test_what_something_rests_on_is_set_aside_and_taken_back(
    screen: Screen, demo_server: LiveServer, job: Job
) -> None:
    job.put(f"/candidates/{new_id()}", CANDIDATE).raise_for_status()
    job.measure(job.build, STEADY)
    screen.open(f"{demo_server.url}/machines/{job.machine}/setup")
    screen.activate("Edit Varro 6-core")
    screen.activate("Set this candidate aside…")
    screen.fill("Why it is set aside", "sold out")
    screen.activate("Set it aside")
    screen.sees("Varro 6-core: sold out")
    screen.activate("Take Varro 6-core back")
    screen.until(lambda: job.case()["candidates"][0]["set_aside"] is None, "the candidate was not taken back")
    screen.activate("Edit Job")
    screen.activate("Set this task aside…")
    screen.fill("Why it is set aside", "its map set is gone")
    screen.activate("Set it aside")
    screen.sees("Job: its map set is gone")
    assert job.case()["open_plan"]["plan"]["measures"] == {}
    screen.activate("Set this machine aside…")
    screen.fill("Why it is set aside", "scrapped")
    screen.activate("Set it aside")
    screen.sees("Bench to be removed: scrapped")
    screen.open(f"{demo_server.url}/?find=Bench to be removed")
    screen.sees("Set aside: scrapped")
