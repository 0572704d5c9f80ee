"""What a run gets from its trace: from the agent's, from one that was typed, and from another program's log."""

import json
import math
from typing import Any

import httpx
import pytest

from tests.api.bodies import Job, fields_of, new_id

STARTED = "2026-05-04T09:12:00Z"
HEAT = {"unit": "Cel", "scale": "difference", "kind": "heat", "better": "lower"}


def figure(name: str, of: str, **fields: Any) -> dict[str, Any]:
    return {"id": new_id(), "name": name, "trace_figure": of} | HEAT | fields


SETTLED, HIGHEST = figure("Settled", "settled"), figure("Highest", "highest")
RISE = figure("Rise", "last minute", unit="K")
WITHIN = figure("Within", "within 1 K", unit="s", kind="time", scale="ratio")
HELD = figure("Held back", "held back", unit="%", kind="other")
FAN = figure("Fan", "last minute", unit="/min", kind="fan")


@pytest.fixture
def job(api: httpx.Client) -> Job:
    job = Job(api).describe(name="Bench with figures of traces")
    measures = [m | {"id": new_id()} for m in (SETTLED, HIGHEST, RISE, WITHIN, HELD, FAN)]
    job.workload = new_id()
    job.put(f"/workloads/{job.workload}", job.workload_body(name="Soak", measures=measures)).raise_for_status()
    return job


def place(job: Job, sitting: str) -> dict[str, Any]:
    return {"sitting": sitting, "workload": job.workload, "position": 1, "started_at": STARTED}


def soak(seconds: int) -> tuple[list[float], list[float]]:
    at = [float(second) for second in range(0, seconds, 5)]
    return at, [62.0 - 20.0 * math.exp(-second / 100) for second in at]


def trace(job: Job, sitting: str, seconds: int) -> dict[str, Any]:
    at, values = soak(seconds)
    die = {"role": "temperature", "of": "processor", "unit": "Cel", "sensor": "die", "at": at, "values": values}
    times = [float(int(second > seconds / 2) * int(second)) for second in at]
    held = die | {"role": "held back", "unit": "1", "sensor": "times held back", "values": times}
    return place(job, sitting) | {"channels": [die, held]}


def readings(job: Job, run: str) -> dict[str, Any]:
    (found,) = (known for known in job.runs() if known["id"] == run)
    names = {measure["id"]: measure["name"] for measure in job.case()["measures"]}
    return {names[key]: reading for key, reading in found["readings"].items()} | {"note": found["note"]}


def record(job: Job, run: str, sitting: str, **fields: Any) -> httpx.Response:
    body = place(job, sitting) | {"state": "complete", "readings": {}}
    return job.put(f"/runs/{run}", body | fields)


def check(told: dict[str, Any]) -> None:
    values = {name: reading["low"] for name, reading in told.items() if name != "note"}
    # The mean of half a minute around it is within 1 K of the end at the sample after 300 s.
    assert values == pytest.approx(
        {"Settled": 62.0, "Highest": 62.0, "Rise": 39.5, "Within": 305.0, "Held back": 50.0}, abs=0.5
    )
    assert (told["Settled"]["statistic"], told["Highest"]["statistic"]) == ("settled", "highest")
    assert told["note"] == "Fan: the trace has no fan."


@pytest.mark.parametrize("recorded_first", [True, False])
def test_a_run_gets_what_its_measures_say_whichever_came_first(job: Job, recorded_first: bool) -> None:
    run, sitting = new_id(), job.sitting()
    if recorded_first:
        record(job, run, sitting, state="partial", reason="going on").raise_for_status()
        job.put(f"/traces/{run}", trace(job, sitting, 1200)).raise_for_status()
        assert readings(job, run) == {"note": ""}
        version = next(known["version"] for known in job.runs() if known["id"] == run)
        record(job, run, sitting, version=version).raise_for_status()
    else:
        job.put(f"/traces/{run}", trace(job, sitting, 1200)).raise_for_status()
        record(job, run, sitting).raise_for_status()
    check(readings(job, run))


def test_what_was_typed_stands_and_a_trace_that_ends_later_fills_what_is_left(job: Job) -> None:
    run, sitting = new_id(), job.sitting()
    highest = next(m["id"] for m in job.case()["measures"] if m["name"] == "Highest")
    record(job, run, sitting, readings={highest: 63.4}).raise_for_status()
    job.put(f"/traces/{run}", trace(job, sitting, 1200)).raise_for_status()
    told = readings(job, run)
    assert (told["Highest"]["low"], told["Settled"]["low"]) == (63.4, pytest.approx(62.0, abs=0.1))
    # Once more changes nothing.
    revision = job.case()["evidence_revision"]
    job.put(f"/traces/{run}", trace(job, sitting, 1200)).raise_for_status()
    assert job.case()["evidence_revision"] == revision


def test_what_still_climbs_is_no_settled_reading_and_says_so(job: Job) -> None:
    run, sitting = new_id(), job.sitting(ambient_c=None)
    job.put(f"/traces/{run}", trace(job, sitting, 250)).raise_for_status()
    record(job, run, sitting).raise_for_status()
    told = readings(job, run)
    assert set(told) == {"Highest", "Held back", "note"}
    assert "Settled: not settled at the end, still climbing: 1.7 K to go, about 2 min more; 91 % of" in told["note"]
    assert "Rise: the room’s temperature of this sitting is not noted." in told["note"]


@pytest.mark.parametrize(("permitted", "share"), [(60, 50.0), (95, 0.0)])
def test_what_held_a_run_back_is_read_against_what_its_machine_permits(
    job: Job, permitted: float, share: float
) -> None:
    run, sitting = new_id(), job.sitting()
    machine = job.case()["machine"]
    limited = {"name": "Limited", "currency": "EUR", "limits": {"permitted_c": permitted}}
    job.put("", limited | {"version": machine["version"]}).raise_for_status()
    told = trace(job, sitting, 1200)
    die = told["channels"][0]
    clock = die | {"role": "clock", "unit": "MHz", "sensor": "clock"}
    clock["values"] = [3600.0 if second <= 600 else 3200.0 for second in die["at"]]
    job.put(f"/traces/{run}", told | {"channels": [die, clock]}).raise_for_status()
    record(job, run, sitting).raise_for_status()
    assert readings(job, run)["Held back"]["low"] == pytest.approx(share, abs=0.5)


def test_a_typed_trace_gives_way_to_the_next_but_the_agents_stays(job: Job) -> None:
    run, sitting = new_id(), job.sitting()
    for seconds in (1200, 600):
        job.put(f"/traces/{run}", trace(job, sitting, seconds)).raise_for_status()
    (told,) = job.api.get(f"/machines/{job.machine}/traces", params={"sitting": sitting}).json()
    assert (told["source"], told["channels"][0]["count"], told["ended"]) == ("typed", 120, True)
    other = new_id()
    job.post(f"/traces/{other}", trace(job, sitting, 600) | {"position": 2, "ended": True}).raise_for_status()
    refused = job.put(f"/traces/{other}", trace(job, sitting, 600) | {"position": 2})
    assert (refused.status_code, "bench agent recorded" in refused.json()["detail"]) == (409, True)


@pytest.mark.parametrize(
    ("measure", "sentence"),
    [
        (figure("Score", "settled", kind="score", unit="{point}", scale="ratio", better="higher"), "no channel"),
        (figure("Wait", "within 1 K"), "its kind is a time"),
        (figure("Held", "held back"), "its unit is %"),
        (figure("Sensor", "highest") | {"trace_figure": None, "trace_of": "drive"}, "names a sensor"),
    ],
)
def test_a_figure_that_no_trace_can_give_is_refused(job: Job, measure: dict[str, Any], sentence: str) -> None:
    body = job.workload_body(name="Other", measures=[measure | {"id": new_id()}])
    refused = job.put(f"/workloads/{new_id()}", body)
    assert sentence in fields_of(refused)["measures.0.trace_figure"]
    file = job.api.get(f"/machines/{job.machine}/run-file").json()
    file["measures"][0] |= {key: measure[key] for key in ("unit", "scale", "kind", "trace_figure")}
    file["measures"][0]["trace_of"] = measure.get("trace_of")
    refused = job.api.post("/run-files", content=json.dumps(file))
    assert any("trace_figure" in field for field in fields_of(refused))


LOG = "Time [s];CPU °C;Fan [RPM];Remark\n" + "".join(
    f"{second};{62.0 - 20.0 * math.exp(-second / 100):.2f};900;x\n".replace(".", ",") for second in range(1200)
)


def look(job: Job, text: str) -> dict[str, Any]:
    answer = job.api.post("/sensor-logs", content=text.encode(), headers={"Content-Type": "text/csv"})
    found: dict[str, Any] = answer.raise_for_status().json()
    return found


def put_log(job: Job, run: str, sitting: str, text: str, **fields: Any) -> httpx.Response:
    found = look(job, text)
    columns = [column for column in found["columns"] if column["role"]]
    body = place(job, sitting) | {"log": found["id"], "form": found["form"], "columns": columns}
    return job.put(f"/traces/{run}/log", body | fields)


def take_in(job: Job, run: str, sitting: str, text: str, **fields: Any) -> list[dict[str, Any]]:
    answer = put_log(job, run, sitting, text, **fields).raise_for_status()
    return [json.loads(line) for line in answer.text.splitlines()]


def test_a_log_becomes_the_trace_of_a_run_and_its_figures_the_readings(job: Job) -> None:
    run, sitting = new_id(), job.sitting()
    record(job, run, sitting, state="partial", reason="its log is still to come").raise_for_status()
    assert take_in(job, run, sitting, LOG)[-1] == {"share": 1.0, "samples": 1200}
    record(job, run, sitting, version=1).raise_for_status()
    told = readings(job, run)
    assert told["Settled"]["low"] == pytest.approx(62.0, abs=0.1)
    assert told["Fan"]["low"] == 900
    (kept,) = job.api.get(f"/machines/{job.machine}/traces", params={"sitting": sitting}).json()
    assert (kept["source"], [c["sensor"] for c in kept["channels"]]) == ("log", ["CPU °C", "Fan [RPM]"])
    # A stretch of it alone takes the place of the whole.
    assert take_in(job, run, sitting, LOG, begins_s=100, lasts_s=199.5)[-1]["samples"] == 200
    assert job.api.get(f"/machines/{job.machine}/traces/{run}").json()["channels"][0]["at"][0] == 0


def test_what_was_said_of_a_heading_is_remembered(job: Job) -> None:
    run, sitting, heading = new_id(), job.sitting(), f"T{new_id()[:6]}"
    text = f"s,{heading}\n0,41\n1,42\n"
    found = look(job, text)
    assert found["columns"][0]["role"] is None
    columns = [found["columns"][0] | {"role": "temperature", "of": "drive", "unit": "Cel"}]
    take_in(job, run, sitting, text, columns=columns)
    assert look(job, text)["columns"][0] | {"number": 0} == columns[0] | {"number": 0}


def test_a_log_in_degrees_fahrenheit_is_kept_in_celsius_and_remembered_as_it_is_written(job: Job) -> None:
    run, sitting, heading = new_id(), job.sitting(), f"CPU {new_id()[:6]} °F"
    text = f"s,{heading}\n" + "".join(f"{second},143.6\n" for second in range(600))
    record(job, run, sitting, state="partial", reason="its log is still to come").raise_for_status()
    take_in(job, run, sitting, text)
    record(job, run, sitting, version=1).raise_for_status()
    told = readings(job, run)
    assert told["Settled"]["low"] == pytest.approx(62.0)
    # As warm at once as at the end: that is no time, and no reason to refuse the run.
    assert "Within: it came to zero" in told["note"]
    (channel,) = job.api.get(f"/machines/{job.machine}/traces/{run}").json()["trace"]["channels"]
    assert (channel["unit"], channel["high"]) == ("Cel", pytest.approx(62.0))
    assert look(job, text)["columns"][0]["unit"] == "[degF]"


def test_of_a_log_with_faults_nothing_is_kept(job: Job) -> None:
    run, sitting = new_id(), job.sitting()
    faults = "1200;hot;900;x\n1200;62\n"
    at_once = put_log(job, run, sitting, LOG + faults)
    assert sorted(fields_of(at_once)) == ["row 1202, “CPU °C”", "row 1203"]
    # Of a long one it is told while it is read.
    long = "".join(f"{second};62;900;x\n" for second in range(1200, 25_000))
    last = take_in(job, run, sitting, LOG + long + "1200;62\n")[-1]
    assert [problem["field"] for problem in last["problems"]] == ["row 25002"]
    assert job.api.get(f"/machines/{job.machine}/traces", params={"sitting": sitting}).json() == []
    gone = job.put(
        f"/traces/{run}/log",
        place(job, sitting)
        | {"log": new_id(), "form": look(job, LOG)["form"], "columns": [look(job, LOG)["columns"][0]]},
    )
    assert (gone.status_code, "choose the file once more" in gone.json()["detail"]) == (404, True)
    refused = job.api.post("/sensor-logs", content=b"no table", headers={"Content-Type": "text/csv"})
    assert refused.status_code == 422
