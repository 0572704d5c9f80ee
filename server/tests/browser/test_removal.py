"""What was removed by a slip comes back from the screens, too; a machine only goes once its name was typed."""

import httpx
import pytest

from tests.api.bodies import Job, new_id
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
    screen.until(lambda: job.case()["candidates"] == before["candidates"], "the candidate did not come back")
    screen.activate("Edit By mistake")
    screen.activate("Remove this workload")
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
