"""Traces: appended while a run lasts, kept once, drawn by lowest and highest; and gone with their run."""

import json
import re
from typing import Any

import httpx
import pytest

from tests.api.bodies import Job, fields_of, new_id

UUID = re.compile(r"[0-9a-f]{8}(?:-[0-9a-f]{4}){3}-[0-9a-f]{12}")
STARTED = "2026-05-04T09:12:00Z"


@pytest.fixture
def job(api: httpx.Client) -> Job:
    return Job(api).describe(name="Bench with traces")


def channel(at: list[float], values: list[float | None], first: int = 0, **fields: Any) -> dict[str, Any]:
    body = {"role": "temperature", "of": "processor", "unit": "Cel", "sensor": "die"}
    return body | {"first": first, "at": at, "values": values} | fields


def send(job: Job, run: str, sitting: str, *channels: dict[str, Any], **fields: Any) -> httpx.Response:
    body = {"sitting": sitting, "workload": job.workload, "position": 1, "started_at": STARTED}
    return job.post(f"/traces/{run}", body | {"channels": list(channels)} | fields)


def drawn(job: Job, run: str, **query: Any) -> dict[str, Any]:
    answer: dict[str, Any] = (
        job.api.get(f"/machines/{job.machine}/traces/{run}", params=query).raise_for_status().json()
    )
    return answer


def test_samples_that_come_twice_are_kept_once_and_a_gap_is_asked_for(job: Job) -> None:
    run, sitting = new_id(), job.sitting()
    send(job, run, sitting).raise_for_status()
    begun = job.case()
    assert begun["lasting"] == run
    for _ in range(2):
        send(job, run, sitting, channel([0.0, 1.0, 2.0], [40.0, None, 44.0])).raise_for_status()
    send(job, run, sitting, channel([2.0, 3.0], [44.0, 45.0], first=2)).raise_for_status()
    refused = send(job, run, sitting, channel([9.0], [50.0], first=9))
    assert (refused.status_code, "4 samples of “die” are here" in refused.json()["detail"]) == (409, True)
    (told,) = drawn(job, run)["channels"]
    assert (told["at"], told["lows"]) == ([0.0, 1.0, 2.0, 3.0], [40.0, None, 44.0, 45.0])
    assert (told["count"], told["low"], told["high"], told["unit_display"]) == (4, 40.0, 45.0, "°C")
    # A live trace comes every few seconds: no other screen is told of it before it ends.
    assert job.case()["revision"] == begun["revision"]
    send(job, run, sitting, ended=True).raise_for_status()
    assert (job.case()["revision"] > begun["revision"], job.case()["lasting"]) == (True, None)


def test_a_run_that_lasts_is_listed_until_it_ends_or_the_next_one_begins(job: Job) -> None:
    one, other, sitting = new_id(), new_id(), job.sitting()

    def live() -> list[str]:
        return [trace["id"] for trace in job.api.get(f"/machines/{job.machine}/traces").json()]

    send(job, one, sitting, channel([0.0], [40.0]), marks=[{"at": 0.0, "phase": "load"}]).raise_for_status()
    assert live() == [one]
    later = {"started_at": "2026-05-04T09:40:00Z", "missing": {"fan": "no fan sensor"}}
    send(job, other, sitting, **later).raise_for_status()
    assert live() == [other]
    send(job, other, sitting, **later, ended=True).raise_for_status()
    assert live() == []
    listed = job.api.get(f"/machines/{job.machine}/traces", params={"sitting": sitting}).json()
    assert [trace["id"] for trace in listed] == [one, other]
    assert (listed[0]["marks"], listed[1]["missing"]) == ([[0.0, "load"]], {"fan": "no fan sensor"})


def test_peaks_and_gaps_survive_being_thinned_out_and_a_window_is_read_alone(job: Job) -> None:
    run, sitting = new_id(), job.sitting()
    values: list[float | None] = [40.0] * 3000
    values[1234] = 90.0
    values[2000:2100] = [None] * 100
    for first in range(0, 3000, 300):
        times = [float(second) for second in range(first, first + 300)]
        send(job, run, sitting, channel(times, values[first : first + 300], first)).raise_for_status()
    (told,) = drawn(job, run, points=100)["channels"]
    assert len(told["at"]) == 100
    assert max(high for high in told["highs"] if high is not None) == 90.0
    assert sum(high is None for high in told["highs"]) == 3
    assert told["highest"] == 90.0
    (window,) = drawn(job, run, from_s=1230, to_s=1240)["channels"]
    assert window["at"] == [float(second) for second in range(1230, 1241)]


@pytest.mark.parametrize(
    ("bad", "field"),
    [
        (channel([1.0, 1.0], [1.0, 2.0]), "channels.0.at.1"),
        (channel([0.0, 1.0], [1.0]), "channels.0.values"),
        (channel([-1.0], [1.0]), "channels.0.at.0"),
        (channel([0.0], [1.0], unit="furlong"), "channels.0.unit"),
        (channel([0.0], [1.0], role="mood"), "channels.0.role"),
    ],
)
def test_samples_that_no_sensor_gives_are_refused_by_their_place(job: Job, bad: dict[str, Any], field: str) -> None:
    refused = send(job, new_id(), job.sitting(), bad)
    assert refused.status_code == 422
    assert field in fields_of(refused)


def test_a_trace_belongs_to_one_machine(job: Job, api: httpx.Client) -> None:
    other = Job(api).describe(name="Another bench")
    run, sitting = new_id(), job.sitting()
    send(job, run, sitting, channel([0.0], [40.0])).raise_for_status()
    assert send(other, run, other.sitting()).status_code == 422
    assert send(other, new_id(), sitting).status_code == 422
    assert api.get(f"/machines/{other.machine}/traces/{run}").status_code == 422
    assert api.get(f"/machines/{job.machine}/traces/{new_id()}").status_code == 404


def test_a_trace_goes_with_its_run_its_sitting_and_its_machine(job: Job) -> None:
    run, trial = new_id(), job.sitting(purpose="trial")
    send(job, run, trial, channel([0.0], [40.0])).raise_for_status()
    job.run(trial, 1, 44.0, run).raise_for_status()
    job.api.delete(f"/machines/{job.machine}/runs/{run}").raise_for_status()
    assert job.api.get(f"/machines/{job.machine}/traces/{run}").status_code == 404
    empty, live = job.sitting(started_at="2026-05-05T09:00:00Z"), new_id()
    send(job, live, empty, channel([0.0], [40.0])).raise_for_status()
    job.api.delete(f"/machines/{job.machine}/sittings/{empty}").raise_for_status()
    assert job.api.get(f"/machines/{job.machine}/traces/{live}").status_code == 404


def test_a_trace_travels_with_its_run_in_the_run_file_and_comes_back_the_same(job: Job, api: httpx.Client) -> None:
    run, sitting = new_id(), job.sitting()
    told = channel([0.0, 1.0, 2.5], [40.0, None, 44.25], stands_in=True)
    marks = [{"at": 0.0, "phase": "load"}]
    send(job, run, sitting, told, marks=marks, missing={"fan": "none"}, ended=True).raise_for_status()
    job.run(sitting, 1, 41.9, run).raise_for_status()
    # One that lasts is of no run yet, and stays here.
    send(job, new_id(), sitting, channel([0.0], [40.0]), position=2).raise_for_status()
    text = api.get(f"/machines/{job.machine}/run-file").text
    (written,) = json.loads(text)["runs"]
    assert written["trace"]["channels"][0]["values"] == [40.0, None, 44.25]
    assert (written["trace"]["marks"], written["trace"]["missing"]) == (marks, {"fan": "none"})
    ids: dict[str, str] = {}
    renamed = UUID.sub(lambda found: ids.setdefault(found[0], new_id()), text)
    api.post("/run-files", content=renamed).raise_for_status()
    again = api.get(f"/machines/{ids[job.machine]}/run-file").text
    assert json.loads(again) == json.loads(renamed)


@pytest.mark.parametrize(
    ("change", "says"),
    [
        ({"at": [1.0, 0.5, 2.0]}, "Times rise from sample to sample"),
        ({"values": [1.0]}, "3 times came with 1 values"),
        ({"unit": "furlong"}, "not a known unit"),
    ],
)
def test_a_trace_in_a_file_that_no_sensor_gives_is_refused_with_its_path(
    job: Job, api: httpx.Client, change: dict[str, Any], says: str
) -> None:
    run, sitting = new_id(), job.sitting()
    send(job, run, sitting, channel([0.0, 1.0, 2.5], [40.0, None, 44.25])).raise_for_status()
    job.run(sitting, 1, 41.9, run).raise_for_status()
    file = json.loads(api.get(f"/machines/{job.machine}/run-file").text)
    file["runs"][0]["trace"]["channels"][0] |= change
    refused = api.post("/run-files", content=json.dumps(file))
    assert refused.status_code == 422
    (problem,) = refused.json()["errors"]
    assert problem["field"].startswith("$.runs[0].trace.channels[0]")
    assert says in problem["message"]


def test_a_run_that_lasts_says_what_disturbs_it_now_and_what_is_held(job: Job) -> None:
    job.plan(conditions={"fan": "automatic", "ambient_low_c": 20}).raise_for_status()
    run, sitting = new_id(), job.sitting(conditions={"fan": "automatic"})

    def live(**seen: Any) -> dict[str, Any]:
        send(job, run, sitting, seen=seen).raise_for_status()
        sentence: dict[str, Any] = job.api.get(f"/machines/{job.machine}/live").raise_for_status().json()["worded"]
        return sentence

    quiet = live(power_source="mains", power_source_before="mains")
    assert quiet["held"] == "fan mode: automatic; room, from: 20 °C"
    assert quiet["spoils"][0].startswith("Nothing disturbs it now.")
    busy = live(
        other_core_percent=12.4, other_programs="indexer", power_source="battery", power_source_before="mains"
    )
    assert busy["spoils"] == [
        "indexer takes 12 % of a core now: it would disturb this run. End it.",
        "Runs on battery now, on mains at its start: it would spoil this run.",
    ]
