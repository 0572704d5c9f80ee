"""A job from describing the machine to the bill, over HTTP."""

import json
import threading
from collections.abc import Iterator
from typing import Any

import httpx
import pytest

from lynxbill.api.wire.spoken import WordedBesideOut, WordedOfAllOut, WordedStatisticsOut
from lynxbill.core.heat.trace import WholeTrace
from lynxbill.core.record.ids import RunId
from lynxbill.core.value.better import judge_every_swap
from lynxbill.exchange.heat_file import with_traced
from lynxbill.exchange.run_file import read_run_file
from lynxbill.exchange.verdict_file import describe
from lynxbill.words.report.beside import say_beside
from lynxbill.words.results.comparison import say_comparison
from lynxbill.words.results.statistics import say_statistics
from lynxbill.words.results.voice import Voice
from tests.api.bodies import Job, assert_within, comparison_of, fields_of, new_id, renewed, saved
from tests.conftest import LiveServer

SLOW = [[40.0, 40.2, 40.1], [40.3, 40.1, 40.2], [40.1, 40.0, 40.2]]
FAST = [[30.0, 30.2, 30.1], [30.3, 30.1, 30.2], [30.1, 30.0, 30.2]]


@pytest.fixture
def job(api: httpx.Client) -> Job:
    return Job(api).describe()


def test_a_job_leads_to_a_verdict_and_a_bill(job: Job) -> None:
    job.plan(runs_a_sitting=3).raise_for_status()
    job.measure(job.build, SLOW)
    after = new_id()
    job.swap(after)
    case = job.case()
    assert [build["letter"] for build in case["builds"]] == ["A", "B"]
    assert case["swaps"][0]["plan"]["sittings_a_side"] == 3
    assert job.time in case["open_plan"]["plan"]["measures"]
    job.measure(after, FAST)
    answer = comparison_of(job.api, job.machine)
    assert answer["measures"][job.time]["verdict"] == "real_gain"
    assert answer["measures"][job.time]["gain_percent"] == pytest.approx(33.2, abs=0.1)
    assert answer["bill"]["net_cost"] == "118.00"
    assert answer["bill"]["gain_per_10"] == pytest.approx(2.8, abs=0.05)


def test_the_exported_run_file_judges_to_the_same_figures_and_words_as_the_server(
    api: httpx.Client, demo_id: str
) -> None:
    text = api.get(f"/machines/{demo_id}/run-file").text
    ours = api.get(f"/machines/{demo_id}/comparisons").json()
    traces: dict[RunId, WholeTrace] = {}
    case = with_traced(read_run_file(text, traces=traces), traces)
    placings = judge_every_swap(case)
    theirs = [
        json.loads(describe(placing, Voice(case.machine.decimal_mark)).model_dump_json()) for placing in placings
    ]
    sentence, beside, statistics = (
        [comparison.pop(name) for comparison in ours] for name in ("worded", "beside", "statistics")
    )
    nowhere = {"revision": None, "evidence_revision": None}
    assert_within([comparison | nowhere for comparison in ours], theirs)
    words = [say_comparison(placing.comparison, case.machine.decimal_mark) for placing in placings]
    assert sentence == [WordedOfAllOut.model_validate(one).model_dump() for one in words]
    lines = [say_beside(case, placing.comparison) for placing in placings]
    assert beside == [WordedBesideOut.model_validate(one).model_dump() for one in lines]
    for figures, placing in zip(statistics, placings, strict=True):
        for result in placing.comparison.measures:
            known = say_statistics(result, case.machine.decimal_mark)
            assert figures[result.measure.id] == WordedStatisticsOut.model_validate(known).model_dump()


def test_an_import_is_a_new_machine_with_the_same_verdicts(api: httpx.Client, demo_id: str) -> None:
    file = json.loads(api.get(f"/machines/{demo_id}/run-file").text)
    stripped = json.dumps(file).replace(demo_id, "plotting")
    for noun in ("sittings", "runs", "builds", "measures", "swaps", "workloads", "candidates", "rechecks"):
        for number, item in enumerate(file[noun]):
            stripped = stripped.replace(item["id"], f"{noun}-{number}")
    for explanation in (e["id"] for swap in file["swaps"] for e in swap.get("explanations", [])):
        stripped = stripped.replace(explanation, f"explanation {explanation[:6]}")
    for part in {part["id"] for build in file["builds"] for part in build["parts"]}:
        stripped = stripped.replace(part, f"part {part[:6]}")
    machine = api.post("/run-files", content=stripped).raise_for_status().json()["machine"]
    ours, theirs = (api.get(f"/machines/{m}/comparisons").json() for m in (machine, demo_id))
    verdicts = [[list(c["measures"].values())[i]["verdict"] for i in range(8)] for c in ours]
    assert verdicts == [[list(c["measures"].values())[i]["verdict"] for i in range(8)] for c in theirs]
    # Measures have ids of their own in the new machine, in the same order.
    bills = [
        [bill | {"values": list(bill["values"].values())} for bill in (c["bill"] for c in every)]
        for every in (every_comparison(api, machine), every_comparison(api, demo_id))
    ]
    assert bills[0] == bills[1]


def every_comparison(api: httpx.Client, machine: str) -> list[dict[str, Any]]:
    swaps = api.get(f"/machines/{machine}").json()["swaps"]
    return [comparison_of(api, machine, before=swap["before"], after=swap["after"]) for swap in swaps]


def test_importing_what_is_here_already_is_refused(api: httpx.Client, demo_id: str) -> None:
    text = api.get(f"/machines/{demo_id}/run-file").text
    response = api.post("/run-files", content=text)
    assert response.status_code == 409
    assert "here already" in response.json()["detail"]


def test_an_import_takes_all_or_nothing(api: httpx.Client) -> None:
    count = api.get("/machines").json()["total"]
    file = {"format": "lynxbill-runs", "version": 1, "machine": {"name": "Half", "currency": "EUR"}}
    broken = file | {"sittings": [{"id": "s", "build": "Z", "started_at": "2026-05-04T09:10:00Z"}]}
    response = api.post("/run-files", json=broken)
    assert response.status_code == 422
    assert fields_of(response) == {"$.sittings[0].build": "there is no build “Z” in this file"}
    assert api.get("/machines").json()["total"] == count


def test_sending_a_run_twice_stores_it_once(job: Job) -> None:
    sitting, run = job.sitting(), new_id()
    first = job.run(sitting, 1, 41.9, run).json()
    second = job.run(sitting, 1, 41.9, run).json()
    assert first == second
    assert len(job.case()["runs"]) == 1


def test_readings_may_be_typed_text(job: Job) -> None:
    sitting = job.sitting()
    answer = saved(job.run(sitting, 1, "1:52.4"))
    assert answer["readings"][job.time]["low"] == pytest.approx(112.4)


def test_a_comma_is_the_decimal_mark_where_the_machine_says_so(api: httpx.Client) -> None:
    job = Job(api).describe(decimal_mark=",")
    assert saved(job.run(job.sitting(), 1, "41,9"))["readings"][job.time]["low"] == 41.9


def test_a_spoiled_run_keeps_its_figures_and_its_reason(job: Job) -> None:
    sitting, run = job.sitting(), new_id()
    version = saved(job.run(sitting, 1, 44.0, run))["version"]
    answer = saved(job.run(sitting, 1, 44.0, run, state="spoiled", reason="indexing ran", version=version))
    assert (answer["state"], answer["reason"]) == ("spoiled", "indexing ran")
    assert answer["readings"][job.time]["low"] == 44.0


def test_a_stale_save_is_refused_with_what_stands_there_now(job: Job) -> None:
    sitting, run = job.sitting(), new_id()
    job.run(sitting, 1, 44.0, run).raise_for_status()
    job.run(sitting, 1, 45.0, run, version=1).raise_for_status()
    late = job.run(sitting, 1, 46.0, run, version=1)
    assert late.status_code == 409
    assert late.json()["details"]["version"] == 2
    machine = {"name": "Renamed", "currency": "EUR", "labour_rate": "35.00"}
    job.put("", machine | {"version": 1}).raise_for_status()
    stale = job.put("", machine | {"name": "Other", "version": 1})
    assert stale.status_code == 409
    assert stale.json()["details"]["current"] == {"name": "Renamed"}


def test_another_edit_of_the_account_keeps_the_rest(job: Job) -> None:
    job.measure(job.build, [[40.0]])
    swap, after = new_id(), new_id()
    made = job.put(f"/swaps/{swap}", job.swap_body(after)).json()["swaps"][0]
    resale = {"kind": "resale", "label": "old", "amount": "52.00", "low": "40", "high": "60", "currency": "EUR"}
    body = {
        k: v
        for k, v in job.swap_body(after, costs=[*made["costs"], resale], version=made["version"]).items()
        if k != "after_build"
    }
    edited = job.put(f"/swaps/{swap}", body).json()["swaps"][0]
    assert edited["net_written"] == "66.00 EUR net"
    assert [line["amount"] for line in edited["costs"]] == ["118.00", "52.00"]


def test_finished_runs_are_told_to_open_screens(job: Job, demo_server: LiveServer) -> None:
    heard: list[dict[str, Any]] = []
    ready = threading.Event()

    def listen() -> None:
        with httpx.stream("GET", f"{demo_server.url}/api/machines/{job.machine}/events", timeout=60) as stream:
            for news in _events(stream):
                ready.set()
                heard.append(news)
                if news.get("noun") == "run":
                    return

    listener = threading.Thread(target=listen)
    listener.start()
    assert ready.wait(60)
    run = saved(job.run(job.sitting(), 1, 40.0))["id"]
    listener.join(60)
    # Described, a build, a workload; then the sitting, and the run in it.
    assert heard[0] == {"revision": 3, "evidence_revision": 0}
    assert [(news["noun"], news["revision"], news["evidence_revision"]) for news in heard[1:]] == [
        ("sitting", 4, 0),
        ("run", 4, 1),
    ]
    assert (heard[-1]["machine"], heard[-1]["id"]) == (job.machine, run)


def _events(stream: httpx.Response) -> Iterator[dict[str, Any]]:
    for line in stream.iter_lines():
        if line.startswith("data:"):
            yield json.loads(line.removeprefix("data:"))


def test_a_machine_is_read_whole_while_another_device_adds_to_it(job: Job) -> None:
    """Many tables make a case; what is saved between two of them must not tear it apart."""
    stop = threading.Event()

    def add() -> None:
        while not stop.is_set():
            measure = job.workload_body()["measures"][0] | {"id": new_id()}
            job.put(f"/workloads/{new_id()}", {"name": new_id(), "measures": [measure]}).raise_for_status()

    writer = threading.Thread(target=add)
    writer.start()
    try:
        for _ in range(40):
            case = job.api.get(f"/machines/{job.machine}").raise_for_status().json()
            names = {workload["name"] for workload in case["workloads"]}
            assert {measure["workload"] for measure in case["measures"]} == names
    finally:
        stop.set()
        writer.join(60)


def test_a_run_left_out_late_stays_out_and_both_results_are_told(job: Job) -> None:
    job.measure(job.build, SLOW)
    after = new_id()
    job.swap(after)
    job.measure(after, [*FAST[:2], [30.0, 30.2, 48.0]])
    odd = next(run for run in job.case()["runs"] if run["readings"][job.time]["low"] == 48.0)
    place = f"/machines/{job.machine}/runs/{odd['id']}/late-exclusion"
    assert job.api.put(place, json={"reason": "  "}).status_code == 422
    job.api.put(place, json={"reason": "a scan had begun"}).raise_for_status()
    again = job.api.put(place, json={"reason": "another"})
    assert (again.status_code, "a scan had begun" in again.json()["detail"]) == (409, True)
    result = comparison_of(job.api, job.machine)["measures"][job.time]
    assert result["with_late"]["runs_after"] == 9
    assert result["runs_after"] == 6
    assert "left_out_late" in [flag["code"] for flag in result["flags"]]
    left = next(run for run in job.case()["runs"] if run["id"] == odd["id"])
    assert left["excluded_late"] == "a scan had begun"
    stale = job.run(left["sitting"], left["position"], 46.0, left["id"], version=odd["version"])
    assert stale.status_code == 409, "whoever has not seen that it was left out does not write over it"
    job.run(left["sitting"], left["position"], 47.0, left["id"], version=left["version"])
    assert next(run for run in job.case()["runs"] if run["id"] == odd["id"])["excluded_late"] == "a scan had begun"


def test_when_a_run_was_left_out_outlasts_its_corrections(job: Job) -> None:
    sitting = job.sitting()
    run = saved(job.run(sitting, 1, 40.0))
    spoiled = {"state": "spoiled", "reason": "a scan had begun"}
    out = saved(job.run(sitting, 1, 40.0, run["id"], version=1, **spoiled))
    assert out["left_out_at"] is not None
    noted = saved(job.run(sitting, 1, 40.0, run["id"], version=2, note="it was on a timer", **spoiled))
    assert noted["left_out_at"] == out["left_out_at"]
    back = saved(job.run(sitting, 1, 40.0, run["id"], version=3))
    assert back["left_out_at"] is None


@pytest.mark.parametrize(
    ("boot_by", "by_agent", "status"),
    [("read", True, 200), ("read", False, 409), ("answered", True, 409), (None, False, 409)],
)
def test_a_closed_sitting_is_filled_up_to_its_plan_only_by_the_agent_in_a_boot_that_it_read(
    job: Job, boot_by: str | None, by_agent: bool, status: int
) -> None:
    job.plan(runs_a_sitting=2).raise_for_status()
    boot = {} if boot_by is None else {"boot": "6f3a", "boot_by": boot_by}
    sitting = job.sitting(**boot)
    job.run(sitting, 1, 40.0).raise_for_status()
    job.post(f"/sittings/{sitting}/close").raise_for_status()
    assert job.run(sitting, 2, 40.1, by_agent=by_agent).status_code == status
    assert job.run(sitting, 3, 40.2, by_agent=by_agent).status_code == 409


def test_what_began_before_the_closing_is_believed_of_the_agent_alone(job: Job) -> None:
    job.plan(runs_a_sitting=1).raise_for_status()
    sitting = job.sitting(boot="6f3a", boot_by="read")
    job.run(sitting, 1, 40.0).raise_for_status()
    job.post(f"/sittings/{sitting}/close").raise_for_status()
    typed = job.run(sitting, 2, 30.0, started_at="2026-05-04T09:20:00Z")
    assert (typed.status_code, typed.json()["code"]) == (409, "sitting_closed")
    job.run(sitting, 2, 40.1, started_at="2026-05-04T09:20:00Z", by_agent=True).raise_for_status()


def test_only_the_agent_says_that_it_read_a_boot(job: Job) -> None:
    body = {"build": job.build, "started_at": "2026-05-04T09:10:00Z", "boot": "6f3a", "boot_by": "read"}
    refused = job.put(f"/sittings/{new_id()}", body)
    assert "Only the bench agent" in fields_of(refused)["boot_by"]
    sitting = job.sitting(boot="6f3a", boot_by="read")
    kept = next(s for s in job.case()["sittings"] if s["id"] == sitting)
    job.put(f"/sittings/{sitting}", body | {"version": kept["version"], "ambient_c": 21.0}).raise_for_status()
    moved = job.put(f"/sittings/{sitting}", body | {"version": kept["version"] + 1, "boot": "other"})
    assert "boot_by" in fields_of(moved)


def test_a_run_that_does_not_count_anyway_is_not_left_out(job: Job) -> None:
    sitting = job.sitting()
    failed = saved(job.run(sitting, 1, 40.0, state="failed", reason="crashed"))["id"]
    answer = job.api.put(f"/machines/{job.machine}/runs/{failed}/late-exclusion", json={"reason": "x"})
    assert (answer.status_code, "does not count anyway: it is failed" in answer.json()["detail"]) == (422, True)
    unknown = job.api.put(f"/machines/{job.machine}/runs/{new_id()}/late-exclusion", json={"reason": "x"})
    assert unknown.status_code == 404


def test_what_held_a_run_back_and_its_soak_and_label_stay_with_it(job: Job) -> None:
    sitting = job.sitting()
    fields: dict[str, Any] = {"held_back": "heat", "soak_s": 600.0, "pair_label": "sheet 4", "duration_s": 41.0}
    run = saved(job.run(sitting, 1, 40.0, **fields))
    assert {name: run[name] for name in fields} == fields
    assert job.run(sitting, 2, 40.0, held_back="gremlins").status_code == 422
    exported = json.loads(job.api.get(f"/machines/{job.machine}/run-file").text)["runs"][0]
    assert {name: exported[name] for name in fields} == fields


def test_a_suspected_cause_is_held_as_a_claim_until_something_speaks_for_it(job: Job) -> None:
    job.measure(job.build, SLOW)
    swap = job.swap(new_id())["id"]
    place = f"/swaps/{swap}/explanations/{new_id()}"
    body = {"text": "The graphics part caps the render", "test": "halve the window and render again"}
    job.put(place, body).raise_for_status()
    too_sure = job.put(place, body | {"state": "supported", "version": 1})
    assert fields_of(too_sure) == {"grounds": "Say what speaks for it being supported."}
    told = body | {"state": "ruled out", "grounds": "half the window, same time"}
    job.put(place, told | {"version": 1}).raise_for_status()
    assert job.put(place, body | {"version": 1}).status_code == 409
    (kept,) = Job.find_swap(job.case(), swap)["explanations"]
    assert (kept["state"], kept["test"], kept["version"]) == ("ruled out", body["test"], 2)
    exported = json.loads(job.api.get(f"/machines/{job.machine}/run-file").text)
    assert exported["swaps"][0]["explanations"][0]["grounds"] == told["grounds"]
    job.api.delete(f"/machines/{job.machine}{place}").raise_for_status()
    assert Job.find_swap(job.case(), swap)["explanations"] == []


def test_a_plan_is_looked_at_before_it_is_saved_and_a_template_before_it_is_laid(job: Job) -> None:
    version = job.case()["open_plan"]["version"]
    plan = job.case()["open_plan"]["plan"] | {"sittings_a_side": 4, "runs_a_sitting": 2, "runs": {"Job": 3}}
    found = job.post("/plan/preview", {"plan": plan}).raise_for_status().json()
    one_less = job.post("/plan/preview", {"plan": plan | {"sittings_a_side": 3}}).raise_for_status().json()
    assert found["time"]["at_hand_a_side"] > one_less["time"]["at_hand_a_side"] > 0
    path = f"/machines/{job.machine}/plan/template/memory"
    laid = job.api.get(path).raise_for_status().json()
    assert (laid["change"], job.case()["open_plan"]["plan"]["change"]) == ("memory", None)
    assert job.case()["open_plan"]["version"] == version


def test_what_a_part_can_carry_where_it_sits_is_said_while_it_is_typed_and_nothing_is_kept(job: Job) -> None:
    drive = {"id": new_id(), "role": "drive", "label": "Dunlin 2 TB"}
    riser = {"id": new_id(), "role": "adapter", "label": "Long riser", "rated": {"link_gts": 8, "lanes": 2}}

    def sentence(seat: str | None) -> dict[str, Any]:
        parts = [{**drive, "rated": {"link_gts": 16, "lanes": 4, "seat": seat}}, riser]
        seated = job.api.post("/seating", json={"parts": parts, "decimal_mark": ","}).json()
        return next(each for each in seated if each["part"] == drive["id"])

    assert (
        sentence("the riser")["sentence"]
        == "Can carry 1969 MB/s here (2000 as bits are sent), limited by Long riser."
    )
    assert sentence("rizer") | {"part": ""} == {
        "part": "",
        "sentence": "",
        "asks": ["No part here is called “rizer”: choose which is meant."],
    }
    assert sentence(None)["asks"] == ["Where does it sit? Until that is said, what it can carry isn’t known."]
    assert "Long riser" not in job.api.get(f"/machines/{job.machine}").text


def test_what_a_workload_is_aimed_at_is_asked_about_where_no_part_goes_by_it(job: Job) -> None:
    (part,) = job.case()["builds"][0]["parts"]

    def aim(target: str) -> dict[str, Any]:
        body = {"target": target, "loads": [part["role"], "drive"]}
        answer: dict[str, Any] = job.api.post(f"/machines/{job.machine}/aim", json=body).json()
        return answer

    assert aim(part["label"].upper()) == {"sentence": f"Set against {part['label']}.", "asks": []}
    assert aim("the stick")["sentence"] == ""
    assert aim("the stick")["asks"][0].startswith("No part of this machine is called “the stick”")


def test_a_machine_that_was_just_imported_answers_the_same_at_once_and_later(api: httpx.Client, demo_id: str) -> None:
    file = api.get(f"/machines/{demo_id}/run-file").json()
    machine = renewed(api, file)["machine"]["id"]
    at_once = {
        path: api.get(f"/machines/{machine}{path}").json() for path in ("", "/job", "/comparisons", "/run-file")
    }
    for path, answer in at_once.items():
        assert api.get(f"/machines/{machine}{path}").json() == answer, path
    assert len(at_once["/run-file"]["runs"]) == len(file["runs"])
