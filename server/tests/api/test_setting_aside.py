"""Setting aside: what something rests on stays listed with a reason, and nothing asks for it any more."""

import json
from typing import Any

import httpx
import pytest

from lynxbill.exchange.run_file import read_run_file
from tests.api.bodies import STEADY, Job, fields_of, new_id
from tests.api.test_ids import CANDIDATE, workload_like
from tests.conftest import until

WHY = "its map set is gone"


@pytest.fixture
def job(api: httpx.Client) -> Job:
    return Job(api).describe(name="Bench with a past")


def set_aside(job: Job, path: str, reason: str | None = WHY) -> httpx.Response:
    return job.put(f"{path}/set-aside", {"reason": reason})


def planned(job: Job) -> set[str]:
    return set(job.case()["open_plan"]["plan"]["measures"])


def test_a_workload_with_runs_leaves_the_open_plan_and_comes_back_as_watched(job: Job) -> None:
    job.measure(job.build, [[40.0, 40.2, 40.1]])
    case = set_aside(job, f"/workloads/{job.workload}").raise_for_status().json()
    assert [w["set_aside"] for w in case["workloads"]] == [WHY]
    assert {m["set_aside"] for m in case["measures"]} == {WHY}
    assert (planned(job), job.case()["open_plan"]["plan"]["headline"]) == (set(), None)
    assert len(job.runs()) == 3
    plan = job.case()["open_plan"]
    again = plan["plan"] | {"measures": {job.time: {"matters_from": 2}}, "version": plan["version"]}
    assert WHY in fields_of(job.put("/plan", again))["measures"]
    set_aside(job, f"/workloads/{job.workload}", None).raise_for_status()
    measures = job.case()["open_plan"]["plan"]["measures"]
    assert set(measures) == {job.time, job.rise}
    assert {m["set_aside"] for m in job.case()["measures"]} == {None}


def test_a_comparison_that_was_planned_goes_on_with_a_measure_set_aside_later(job: Job) -> None:
    job.plan(runs_a_sitting=3).raise_for_status()
    job.measure(job.build, STEADY)
    swap = job.swap(new_id(), label="Processor")
    job.post(f"/swaps/{swap['id']}/close", {"skipped": "a test", "version": swap["version"]}).raise_for_status()
    job.measure(swap["after"], [[value - 10 for value in values] for values in STEADY], first_day=10)
    before = verdict_of(job, swap)
    set_aside(job, f"/workloads/{job.workload}/measures/{job.time}").raise_for_status()
    assert (before, verdict_of(job, swap)) == ("real_gain", "real_gain")
    assert planned(job) == {job.rise}


def verdict_of(job: Job, swap: dict[str, Any]) -> str:
    sides = {"before": job.build, "after": swap["after"]}
    answer = job.api.get(f"/machines/{job.machine}/comparison", params=sides).raise_for_status().json()
    return str(answer["measures"][job.time]["verdict"])


def test_templates_and_copies_leave_out_what_was_set_aside(job: Job) -> None:
    set_aside(job, f"/workloads/{job.workload}/measures/{job.rise}").raise_for_status()
    version = job.case()["open_plan"]["version"]
    job.post("/plan/template", {"template": "processor", "version": version}).raise_for_status()
    assert planned(job) == {job.time}
    job.put(f"/workloads/{job.workload}", workload_like(job, "Renamed") | {"version": 2})
    assert planned(job) == {job.time}
    copied = new_id()
    job.put(f"/copies/{copied}", {"name": "The next of its kind"}).raise_for_status()
    plan = job.api.get(f"/machines/{copied}").json()["open_plan"]["plan"]
    assert len(plan["measures"]) == 1


def test_what_another_figure_rests_on_is_not_set_aside_before_it(job: Job) -> None:
    body = workload_like(job, "Totals")
    whole, part = (measure["id"] for measure in body["measures"][:2])
    body["measures"][1] |= {"part_of": whole, **{k: body["measures"][0][k] for k in ("unit", "scale", "better")}}
    workload = new_id()
    job.put(f"/workloads/{workload}", body).raise_for_status()
    refused = set_aside(job, f"/workloads/{workload}/measures/{whole}")
    assert (refused.status_code, "set that one aside first" in refused.json()["detail"]) == (409, True)
    set_aside(job, f"/workloads/{workload}/measures/{part}").raise_for_status()
    set_aside(job, f"/workloads/{workload}/measures/{whole}").raise_for_status()


def test_a_candidate_set_aside_is_not_weighed_and_stays_listed(job: Job) -> None:
    candidate = new_id()
    job.put(f"/candidates/{candidate}", CANDIDATE).raise_for_status()
    set_aside(job, f"/candidates/{candidate}", "sold out").raise_for_status()
    assert job.api.get(f"/machines/{job.machine}/job").json()["candidates"] == []
    assert [c["set_aside"] for c in job.case()["candidates"]] == ["sold out"]
    assert set_aside(job, f"/candidates/{new_id()}").status_code == 404
    set_aside(job, f"/candidates/{candidate}", None).raise_for_status()
    assert len(job.api.get(f"/machines/{job.machine}/job").json()["candidates"]) == 1


def test_a_machine_set_aside_waits_for_nobody_and_is_listed_last(job: Job) -> None:
    def home(show: str = "all") -> dict[str, Any]:
        found: dict[str, Any] = job.api.get("/machines", params={"show": show, "find": "Bench with a past"}).json()
        return found

    def waits() -> bool:
        return job.machine in {bench["id"] for bench in home("waiting")["benches"]}

    until(waits, "its line was not written")
    set_aside(job, "", "scrapped").raise_for_status()
    assert [bench["set_aside"] for bench in home()["benches"]][-1] == "scrapped"
    assert not waits()
    assert job.case()["machine"]["set_aside"] == "scrapped"
    edited = {k: v for k, v in job.case()["machine"].items() if k not in ("id", "set_aside")}
    job.put("", edited | {"owner": "Nobody"}).raise_for_status()
    assert job.case()["machine"]["set_aside"] == "scrapped"
    set_aside(job, "", None).raise_for_status()


def test_what_was_set_aside_travels_in_the_run_file(job: Job) -> None:
    set_aside(job, f"/workloads/{job.workload}").raise_for_status()
    set_aside(job, "", "scrapped").raise_for_status()
    file = job.api.get(f"/machines/{job.machine}/run-file").json()
    assert (file["machine"]["set_aside"], file["workloads"][0]["set_aside"]) == ("scrapped", WHY)
    case = read_run_file(json.dumps(file).encode())
    assert (case.machine.set_aside, case.workloads[0].set_aside) == ("scrapped", WHY)
    assert case.aside == dict.fromkeys([job.time, job.rise], WHY)
