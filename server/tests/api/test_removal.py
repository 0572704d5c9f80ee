"""Removal: what nothing rests on goes and comes back as it was; what something rests on stays, with a reason."""

from datetime import UTC, datetime, timedelta
from typing import Any

import httpx
import pytest

from lynxbill.services.base.act import Act
from lynxbill.services.evidence.removal import GRACE, erase_removed
from lynxbill.services.frame.machines import list_names
from lynxbill.store.database import open_engine, session_factory
from tests.api.bodies import Job, fields_of, new_id
from tests.api.test_ids import CANDIDATE, workload_like
from tests.conftest import LiveServer

NOW = "2026-06-01T10:00:00Z"


@pytest.fixture
def job(api: httpx.Client) -> Job:
    return Job(api).describe()


def delete(job: Job, path: str = "", **query: str) -> httpx.Response:
    return job.api.delete(f"/machines/{job.machine}{path}", params=query)


def body_of(thing: dict[str, Any], *dropped: str) -> dict[str, Any]:
    return {key: value for key, value in thing.items() if key not in {"id", "version", *dropped}}


def test_a_candidate_is_removed_and_sent_again_as_it_was(job: Job) -> None:
    candidate = new_id()
    job.put(f"/candidates/{candidate}", CANDIDATE).raise_for_status()
    (before,) = job.case()["candidates"]
    answer = delete(job, f"/candidates/{candidate}").raise_for_status().json()
    assert (answer["name"], answer["candidate"]) == ("Varro 6-core", before)
    assert answer["machine"]["candidates"] == job.case()["candidates"] == []
    job.put(f"/candidates/{candidate}", body_of(answer["candidate"], "set_aside", "recorded_at")).raise_for_status()
    (again,) = job.case()["candidates"]
    # What was taken off the list is on record anew.
    assert again | {"recorded_at": before["recorded_at"]} == before
    assert delete(job, f"/candidates/{new_id()}").status_code == 404


def test_a_candidate_that_was_fitted_stays(job: Job) -> None:
    job.measure(job.build, [[40.0, 40.2, 40.1]])
    swap, candidate = job.swap(new_id())["id"], new_id()
    job.put(f"/candidates/{candidate}", CANDIDATE | {"swap": swap}).raise_for_status()
    refused = delete(job, f"/candidates/{candidate}")
    assert (refused.status_code, "was fitted in a swap" in refused.json()["detail"]) == (409, True)


def test_an_empty_sitting_is_removed_and_one_with_runs_stays(job: Job) -> None:
    empty, full = job.sitting(), new_id()
    answer = delete(job, f"/sittings/{empty}").raise_for_status().json()
    assert job.case()["sittings"] == []
    kept = {"build", "started_at", "ambient_c", "conditions", "purpose"}
    job.put(f"/sittings/{empty}", {key: answer["sitting"][key] for key in kept}).raise_for_status()
    assert [s["id"] for s in job.case()["sittings"]] == [empty]
    full = job.sitting(started_at="2026-05-05T09:00:00Z")
    job.run(full, 1, 41.9).raise_for_status()
    refused = delete(job, f"/sittings/{full}")
    assert (refused.status_code, "set it aside" in refused.json()["detail"]) == (409, True)


def test_a_run_that_was_made_is_never_removed_but_a_warm_up_or_trial_may_be(job: Job) -> None:
    made, warm, tried = new_id(), new_id(), new_id()
    trial = job.sitting(purpose="trial")
    job.run(trial, 1, 44.0, tried).raise_for_status()
    delete(job, f"/runs/{tried}").raise_for_status()
    sitting = job.sitting(started_at="2026-05-05T09:00:00Z")
    job.run(sitting, 1, 41.9, made).raise_for_status()
    job.run(sitting, 1, 45.0, warm, warm_up=True).raise_for_status()
    refused = delete(job, f"/runs/{made}")
    assert (refused.status_code, "never removed" in refused.json()["detail"]) == (409, True)
    evidence_revision = job.case()["evidence_revision"]
    answer = delete(job, f"/runs/{warm}").raise_for_status().json()
    assert answer["run"]["readings"][job.time]["low"] == 45.0
    assert [run["id"] for run in job.runs()] == [made]
    assert job.case()["evidence_revision"] > evidence_revision
    again = job.row(sitting, 1, 45.0, warm_up=True) | {"id": warm}
    job.post("/runs", {"runs": [again]}).raise_for_status()
    job.post(f"/sittings/{sitting}/close").raise_for_status()
    assert "sitting is closed" in delete(job, f"/runs/{warm}").json()["detail"]


def test_a_workload_without_runs_goes_out_of_the_open_plan_and_comes_back_into_it(job: Job) -> None:
    other = new_id()
    job.put(f"/workloads/{other}", workload_like(job, "By mistake")).raise_for_status()
    plan = job.case()["open_plan"]
    answer = delete(job, f"/workloads/{other}").raise_for_status().json()
    assert [w["name"] for w in job.case()["workloads"]] == [answer["machine"]["workloads"][0]["name"]]
    assert len(job.case()["open_plan"]["plan"]["measures"]) == len(plan["plan"]["measures"]) - 2
    measures = [
        body_of(m, "workload", "unit_display", "difference_display", "set_aside") | {"id": m["id"]}
        for m in answer["measures"]
    ]
    job.put(
        f"/workloads/{other}", body_of(answer["workload"], "frozen", "set_aside") | {"measures": measures}
    ).raise_for_status()
    version = job.case()["open_plan"]["version"]
    job.put("/plan", answer["plan"]["plan"] | {"version": version}).raise_for_status()
    assert job.case()["open_plan"]["plan"] == plan["plan"]


def test_a_measure_without_readings_goes_alone_and_the_last_one_stays(job: Job) -> None:
    case = delete(job, f"/workloads/{job.workload}/measures/{job.rise}").raise_for_status().json()["machine"]
    assert [m["id"] for m in case["measures"]] == [job.time]
    assert job.rise not in case["open_plan"]["plan"]["measures"]
    refused = delete(job, f"/workloads/{job.workload}/measures/{job.time}")
    assert (refused.status_code, "remove the task" in refused.json()["detail"]) == (409, True)
    assert delete(job, f"/workloads/{job.workload}/measures/{new_id()}").status_code == 404


def test_what_was_measured_or_planned_stays(job: Job) -> None:
    job.measure(job.build, [[40.0, 40.2, 40.1]])
    assert "has runs" in delete(job, f"/workloads/{job.workload}").json()["detail"]
    assert "has readings" in delete(job, f"/workloads/{job.workload}/measures/{job.time}").json()["detail"]
    job.swap(new_id())
    assert "plan of a swap" in delete(job, f"/workloads/{job.workload}/measures/{job.rise}").json()["detail"]


def test_a_machine_goes_by_its_name_and_comes_back_whole_for_a_minute(job: Job, demo_server: LiveServer) -> None:
    job.measure(job.build, [[40.0, 40.2, 40.1]])
    before = job.api.get(f"/machines/{job.machine}/run-file").text
    refused = delete(job, name="another")
    assert (refused.status_code, "Test bench" in fields_of(refused)["name"]) == (422, True)
    assert delete(job, name="Test bench").raise_for_status().json()["name"] == "Test bench"
    names = {machine["id"] for machine in job.api.get("/machine-names").json()}
    assert job.machine not in names
    assert job.api.get(f"/machines/{job.machine}").status_code == 404
    assert job.put("", {"name": "In its place", "currency": "EUR"}).status_code == 409
    job.api.put(f"/machines/{job.machine}/return").raise_for_status()
    assert job.api.get(f"/machines/{job.machine}/run-file").text == before
    assert job.api.put(f"/machines/{job.machine}/return").status_code == 404
    delete(job, name="Test bench").raise_for_status()
    engine = open_engine(demo_server.database_url)
    sessions = session_factory(engine)
    soon = datetime.now(UTC)
    erase_removed(sessions, Act("a test", soon))
    with engine.connect() as connection:
        row = "SELECT count(*) FROM machines WHERE id = '" + job.machine + "'"
        assert connection.exec_driver_sql(row).scalar() == 1
        erase_removed(sessions, Act("a test", soon + GRACE + timedelta(seconds=1)))
        assert connection.exec_driver_sql(row).scalar() == 0
    assert all(str(identifier) != job.machine for identifier, _ in list_names(sessions))
    engine.dispose()
    assert job.api.put(f"/machines/{job.machine}/return").status_code == 404


@pytest.mark.parametrize("kind", ["candidates", "sittings", "runs", "workloads"])
def test_what_belongs_to_another_machine_is_not_removed_from_here(job: Job, api: httpx.Client, kind: str) -> None:
    there = Job(api).describe()
    sitting, run, candidate = there.sitting(), new_id(), new_id()
    there.run(sitting, 1, 41.9, run, warm_up=True).raise_for_status()
    there.put(f"/candidates/{candidate}", CANDIDATE).raise_for_status()
    ids = {"candidates": candidate, "sittings": sitting, "runs": run, "workloads": there.workload}
    before = there.case()
    assert delete(job, f"/{kind}/{ids[kind]}").status_code in (404, 422)
    assert delete(job, f"/workloads/{there.workload}/measures/{there.rise}").status_code == 422
    assert there.case() == before
