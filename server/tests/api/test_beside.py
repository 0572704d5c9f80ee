"""What the other side read at each minute, and why a trace gave a run no figure."""

from typing import Any

import httpx
import pytest

from tests.api.bodies import Job, new_id

STARTED = "2026-05-04T09:12:00Z"
HEAT = {"unit": "Cel", "scale": "difference", "kind": "heat", "better": "lower"}
LOADED, LASTED = 600.0, 1200.0


@pytest.fixture
def job(api: httpx.Client) -> Job:
    job = Job(api).describe()
    job.workload = new_id()
    settled = {"id": new_id(), "name": "Core, settled", "trace_figure": "settled"} | HEAT
    job.put(f"/workloads/{job.workload}", job.workload_body(name="Soak", measures=[settled])).raise_for_status()
    return job


def channel(role: str, unit: str, sensor: str, values: list[float]) -> dict[str, Any]:
    at = [LASTED * place / (len(values) - 1) for place in range(len(values))]
    return {"role": role, "of": "processor", "unit": unit, "sensor": sensor, "at": at, "values": values}


def soak(job: Job, sitting: str, position: int, *channels: dict[str, Any], **run: Any) -> httpx.Response:
    identifier = new_id()
    place = {"sitting": sitting, "workload": job.workload, "position": position, "started_at": STARTED}
    job.put(f"/traces/{identifier}", place | {"channels": list(channels)}).raise_for_status()
    return job.put(f"/runs/{identifier}", place | {"state": "complete", "readings": {}} | run)


def beside(job: Job, sitting: str) -> dict[str, dict[str, Any]]:
    found = job.api.get(f"/machines/{job.machine}/sittings/{sitting}/beside", params={"workload": job.workload})
    return {one["sensor"]: one for one in found.raise_for_status().json()}


def test_minutes_are_those_of_the_load_in_one_unit_of_runs_that_count(job: Job) -> None:
    sitting = job.sitting()
    load = channel("load", "%", "All cores", [100.0] * 41 + [0.0] * 40)
    heat = channel("temperature", "Cel", "Core", [70.0] * 41 + [30.0] * 40)
    told = {"source": "claimed", "typed": "70"}
    settled = job.case()["measures"][-1]["id"]
    for position, unit, clock in ((1, "GHz", 4.0), (2, "MHz", 4200.0)):
        clocks = channel("clock", unit, "Core clock", [clock] * 81)
        soak(job, sitting, position, load, heat, clocks, readings={settled: told}).raise_for_status()
    hot = channel("temperature", "Cel", "Core", [99.0] * 81)
    soak(job, sitting, 3, load, hot, state="partial", reason="broke off").raise_for_status()
    found = beside(job, sitting)
    assert (found["Core clock"]["unit"], found["Core clock"]["minutes"][4]) == ("MHz", "4100")
    assert found["Core"]["minutes"][4] == "70.0"
    assert len(found["Core"]["minutes"]) == LOADED / 60
    assert found["Core"]["last"] == "70.0"


def test_a_trace_that_gives_no_figure_says_why(job: Job) -> None:
    climbing = channel("temperature", "Cel", "Core", [30.0 + place for place in range(60)])
    refused = soak(job, job.sitting(), 1, climbing)
    assert refused.status_code == 422
    assert "There is no figure in this run" in refused.text
    assert "Core, settled" in refused.text
