"""The frame of a job over HTTP: every gate and refusal holds against direct calls, each with its code."""

import json
from typing import Any

import httpx
import pytest

from tests.api.bodies import STEADY, Job, comparison_of, fields_of, new_id, saved
from tests.conftest import find_machine

# Closes a case whose parts nobody looked at.
UNSEEN = {"skipped": "a test looks at nothing"}
NOW = "2026-06-01T10:00:00Z"


@pytest.fixture
def job(api: httpx.Client) -> Job:
    return Job(api).describe()


@pytest.fixture
def ready(api: httpx.Client) -> Job:
    """One whose baseline is complete."""
    return Job.measured(api)


def refused(response: httpx.Response, code: str, status: int = 409) -> dict[str, Any]:
    assert response.status_code == status, response.text
    body: dict[str, Any] = response.json()
    assert body["code"] == code
    assert body["detail"]
    return body


def planned_swap(job: Job, **fields: Any) -> tuple[str, str]:
    swap, after = new_id(), new_id()
    job.put(f"/swaps/{swap}", job.swap_body(after, **fields)).raise_for_status()
    return swap, after


def recognise(job: Job, swap: str, number: int, seen: str, **fields: Any) -> httpx.Response:
    line = Job.find_swap(job.case(), swap)["recognitions"][number]
    body = {"what": line["what"], "expected": line["expected"], "seen": seen, "version": line["version"]}
    return job.put(f"/swaps/{swap}/recognitions/{line['id']}", body | fields)


def test_the_gate_keeps_the_old_part_in_until_the_baseline_is_complete_or_a_reason_is_given(job: Job) -> None:
    job.measure(job.build, STEADY[:1])
    swap, _ = planned_swap(job)
    body = refused(job.post(f"/swaps/{swap}/open", {"version": 1}), "baseline_incomplete")
    assert any("1 of 3 sittings" in line for line in body["details"]["missing"])
    assert "reason" in fields_of(job.post(f"/swaps/{swap}/open", {"version": 1}))
    opened = job.post(f"/swaps/{swap}/open", {"reason": "it is on fire", "version": 1}).raise_for_status().json()
    kept = Job.find_swap(opened, swap)
    assert (kept["state"], kept["gate_reason"]) == ("open", "it is on fire")
    assert kept["gate_missing"] == body["details"]["missing"]
    refused(job.post(f"/swaps/{swap}/open", {"reason": "again", "version": 2}), "case_not_open")


def test_a_complete_baseline_needs_no_reason(job: Job) -> None:
    job.plan(
        runs_a_sitting=3,
        measures={job.time: {"matters_from": 2}, job.rise: {"role": "watch", "matters_from": 1}},
    )
    job.measure(job.build, STEADY)
    lacks = [(lack["code"], lack["hint"]) for lack in job.outlook()["lacks"]]
    assert lacks == [("goes_by", True), ("prospects", True), ("control", True)]
    swap, _ = planned_swap(job)
    opened = job.post(f"/swaps/{swap}/open", {"version": 1}).raise_for_status().json()
    assert Job.find_swap(opened, swap)["gate_missing"] == []


def test_a_control_that_was_planned_belongs_to_the_baseline(job: Job) -> None:
    measures = {job.time: {"matters_from": 2}, job.rise: {"role": "control", "matters_from": 1}}
    job.plan(runs_a_sitting=3, measures=measures)
    job.measure(job.build, STEADY)
    missing = [lack["message"] for lack in job.outlook()["lacks"] if not lack["hint"]]
    assert missing == ["Rise: 0 of 3 sittings."]


def test_nothing_is_measured_on_a_build_that_is_only_planned(ready: Job) -> None:
    _, after = planned_swap(ready)
    assert ready.case()["fitted"] == ready.build
    response = ready.put(f"/sittings/{new_id()}", {"build": after, "started_at": NOW})
    assert "build" in fields_of(response)
    refused(response, "case_not_open")


def test_a_planned_swap_can_be_taken_back_with_its_build_and_a_begun_one_can_not(ready: Job) -> None:
    swap, _ = planned_swap(ready)
    refused(ready.put(f"/swaps/{new_id()}", ready.swap_body(new_id())), "clash")
    case = ready.api.delete(f"/machines/{ready.machine}/swaps/{swap}").raise_for_status().json()
    assert (case["swaps"], len(case["builds"])) == ([], 1)
    begun = ready.swap(new_id())
    refused(ready.api.delete(f"/machines/{ready.machine}/swaps/{begun['id']}"), "clash")


def test_a_part_that_is_not_recognised_stops_the_after_side_and_the_close_until_it_is_resolved(ready: Job) -> None:
    after = new_id()
    swap = ready.swap(after)["id"]
    names = [line["what"] for line in Job.find_swap(ready.case(), swap)["recognitions"]]
    assert names == ["processor, name", "processor, cores", "boost and power limits", "memory speed and timings"]
    passed = Job.find_swap(recognise(ready, swap, 0, "VARRO 6-core").json(), swap)["recognitions"][0]
    assert passed["result"] == "pass"
    sitting = ready.sitting(after)
    recognise(ready, swap, 1, "4", result="fail").raise_for_status()
    refused(ready.put(f"/sittings/{new_id()}", {"build": after, "started_at": NOW}), "not_recognised")
    refused(ready.run(sitting, 1, 30.0), "not_recognised")
    refused(ready.post(f"/swaps/{swap}/close", {"version": 2}), "not_recognised")
    assert "result" in fields_of(recognise(ready, swap, 1, "4", result="pass"))
    assert "remark" in fields_of(recognise(ready, swap, 1, "4", result="pass with remark"))
    recognise(ready, swap, 1, "4", result="pass with remark", remark="two are parked by firmware").raise_for_status()
    ready.run(sitting, 1, 30.0).raise_for_status()
    closed = ready.post(f"/swaps/{swap}/close", UNSEEN | {"version": 2}).raise_for_status().json()
    assert Job.find_swap(closed, swap)["state"] == "closed"


def test_an_undeclared_difference_keeps_the_case_open_until_it_is_declared(ready: Job) -> None:
    after = new_id()
    body = ready.swap_body(after)
    body["after_build"]["settings"] |= {"memory_mts": 2133}
    swap = ready.swap(after, after_build=body["after_build"], declares=["part:processor"])["id"]
    questions = ready.outlook()["swaps"][0]["questions"]
    asked = {q["about"] for q in questions if q["code"] == "undeclared_difference"}
    assert asked == {"setting:memory_mts"}, "threads follow the processor"
    refusal = refused(ready.post(f"/swaps/{swap}/close", {"version": 2}), "question_open")
    assert "Memory speed" in refusal["details"]["questions"][0]
    edit = {k: v for k, v in body.items() if k != "after_build"}
    declared = edit | {"declares": ["part:processor", "setting:memory_mts"], "version": 2}
    ready.put(f"/swaps/{swap}", declared).raise_for_status()
    ready.post(f"/swaps/{swap}/close", UNSEEN | {"version": 3}).raise_for_status()


def test_all_that_is_left_is_ticked_and_seen_in_one_save_and_nothing_else_is_touched(ready: Job) -> None:
    swap = ready.swap(new_id())
    step = swap["steps"][0]
    body = {"stage": step["stage"], "text": step["text"], "done": True, "version": 1}
    first = Job.find_swap(ready.put(f"/swaps/{swap['id']}/steps/{step['id']}", body).json(), swap["id"])["steps"][0]
    recognise(ready, swap["id"], 1, "4", result="fail").raise_for_status()
    ready.post(f"/swaps/{swap['id']}/steps/done").raise_for_status()
    left = Job.find_swap(ready.post(f"/swaps/{swap['id']}/recognitions/as-expected").json(), swap["id"])
    assert all(step["done_at"] for step in left["steps"])
    assert left["steps"][0] == first
    assert [line["result"] for line in left["recognitions"]] == ["pass", "fail", "pass", "pass"]


def test_a_closed_case_is_opened_again_until_something_is_measured_after_it(ready: Job) -> None:
    after = new_id()
    swap = ready.swap(after)["id"]
    refused(ready.post(f"/swaps/{swap}/reopen", {"version": 2}), "case_not_open")
    ready.post(f"/swaps/{swap}/close", UNSEEN | {"version": 2}).raise_for_status()
    again = ready.post(f"/swaps/{swap}/reopen", {"version": 3}).raise_for_status().json()
    kept = Job.find_swap(again, swap)
    assert (kept["state"], kept["closed_at"], kept["recognition_skipped"]) == ("open", None, "")
    ready.post(f"/swaps/{swap}/close", UNSEEN | {"version": 4}).raise_for_status()
    ready.run(ready.sitting(after), 1, 30.0).raise_for_status()
    refused(ready.post(f"/swaps/{swap}/reopen", {"version": 5}), "sealed")


def test_a_case_stays_closed_once_the_next_swap_was_begun(ready: Job) -> None:
    after = new_id()
    swap = ready.swap(after)["id"]
    ready.post(f"/swaps/{swap}/close", UNSEEN | {"version": 2}).raise_for_status()
    memory = {"id": new_id(), "role": "memory", "label": "Marl 16 GB"}
    ready.swap(new_id(), before=after, after_build={"label": "Memory", "parts": [memory]})
    assert (
        "was begun since" in refused(ready.post(f"/swaps/{swap}/reopen", {"version": 3}), "case_not_open")["detail"]
    )


def test_what_was_found_has_a_step_on_its_scale_and_other_notes_have_none(ready: Job) -> None:
    swap = ready.swap(new_id())["id"]
    path = f"/swaps/{swap}/notes/{new_id()}"
    assert "step" in fields_of(ready.put(path, {"at": NOW, "kind": "dust found"}))
    assert "step" in fields_of(ready.put(path, {"at": NOW, "kind": "drawback", "text": "it glares", "step": 2}))
    ready.put(path, {"at": NOW, "kind": "dust found", "step": 3}).raise_for_status()
    drawback = {"at": NOW, "kind": "drawback", "text": "it glares"}
    ready.put(f"/swaps/{swap}/notes/{new_id()}", drawback).raise_for_status()
    kept = {note["kind"]: (note.get("step"), note.get("text", "")) for note in export(ready)["swaps"][0]["notes"]}
    assert kept == {"dust found": (3, ""), "drawback": (None, "it glares")}
    scales = ready.api.get("/vocabulary").json()["found_steps"]
    assert scales["dust found"][2] == "fins half closed"


def test_a_setting_and_the_passing_of_time_open_nothing_and_have_no_checklist(ready: Job) -> None:
    same = ready.build_body()
    limited = same | {"label": "Held to 45 W", "settings": {"threads": 4, "power_limit_w": 45}}
    swap = ready.swap(new_id(), after_build=limited)
    assert (swap["opens"], swap["steps"]) == (False, [])
    assert {line["what"] for line in swap["recognitions"]} == {"power limit", "fans", "cables"}
    ready.post(f"/swaps/{swap['id']}/recognitions/as-expected").raise_for_status()
    ready.post(f"/swaps/{swap['id']}/close", {"version": 2}).raise_for_status()
    before = swap["after"]
    worn = limited | {"label": "A year on", "wear": "worn"}
    passed = ready.swap(new_id(), before=before, after_build=worn, side_changes=["time passed"])
    assert (passed["opens"], passed["steps"]) == (False, [])


def test_a_difference_needs_an_answer_and_a_skip_its_reason_and_both_can_be_mended_until_the_first_run(
    ready: Job,
) -> None:
    after = new_id()
    swap = ready.swap(after)["id"]
    noted = recognise(ready, swap, 1, "4").raise_for_status().json()
    assert Job.find_swap(noted, swap)["recognitions"][1]["result"] is None
    body = refused(ready.post(f"/swaps/{swap}/close", UNSEEN | {"version": 2}), "question_open")
    assert "4 instead of 6" in body["detail"]
    recognise(ready, swap, 1, "6").raise_for_status()
    refusal = ready.post(f"/swaps/{swap}/close", {"version": 2})
    assert "Look now, or say why not" in fields_of(refusal)["skipped"]
    closed = ready.post(f"/swaps/{swap}/close", UNSEEN | {"version": 2}).raise_for_status().json()
    assert Job.find_swap(closed, swap)["recognition_skipped"] == UNSEEN["skipped"]
    assert export(ready)["swaps"][0]["recognition_skipped"] == UNSEEN["skipped"]
    (view,) = (known for known in ready.outlook()["swaps"] if known["swap"] == swap)
    assert view["measured_after"] is False

    recognise(ready, swap, 0, "Varro 6-core").raise_for_status()
    step = Job.find_swap(ready.case(), swap)["steps"][0]
    tick = {"stage": step["stage"], "text": step["text"], "done": True, "version": 1}
    ready.put(f"/swaps/{swap}/steps/{step['id']}", tick).raise_for_status()
    line = Job.find_swap(ready.case(), swap)["recognitions"][0]
    path = f"/machines/{ready.machine}/swaps/{swap}/recognitions/{line['id']}"
    assert "was seen, and that stays" in refused(ready.api.delete(path), "clash")["detail"]

    ready.run(ready.sitting(after), 1, 30.0).raise_for_status()
    refused(recognise(ready, swap, 1, "4"), "sealed")
    refused(ready.put(f"/swaps/{swap}/steps/{step['id']}", tick | {"done": False, "version": 2}), "sealed")
    refused(ready.put(f"/swaps/{swap}/starts/{new_id()}", {"at": NOW, "booted": True}), "sealed")
    refused(ready.api.delete(path), "sealed")
    ready.put(f"/swaps/{swap}/notes/{new_id()}", {"at": NOW, "text": "Lead behind the tray"}).raise_for_status()


def test_nothing_is_measured_on_a_build_whose_difference_nobody_answered(ready: Job) -> None:
    after = new_id()
    swap = ready.swap(after)["id"]
    recognise(ready, swap, 1, "4").raise_for_status()
    begun = ready.put(f"/sittings/{new_id()}", {"build": after, "started_at": NOW})
    assert "Say whether it will do" in refused(begun, "question_open")["detail"]


def test_the_checklist_comes_from_the_parts_that_change_whatever_the_plan_says(job: Job) -> None:
    job.plan(change="drive").raise_for_status()
    job.measure(job.build, STEADY)
    swap = job.swap(new_id())
    texts = {step["text"] for step in swap["steps"]}
    assert "New processor in by its corner mark, lever down without force" in texts
    assert not any("drive" in text for text in texts)


def test_a_failed_start_is_kept_with_its_rework_and_must_be_followed_by_one_that_works(ready: Job) -> None:
    swap = ready.swap(new_id())["id"]
    start = {"at": NOW, "booted": False}
    assert "note" in fields_of(ready.put(f"/swaps/{swap}/starts/{new_id()}", start))
    failed = start | {"note": "fan lead off its header", "rework_min": 12}
    ready.put(f"/swaps/{swap}/starts/{new_id()}", failed).raise_for_status()
    refused(ready.post(f"/swaps/{swap}/close", {"version": 2}), "question_open")
    ready.put(f"/swaps/{swap}/starts/{new_id()}", {"at": "2026-06-01T10:20:00Z", "booted": True}).raise_for_status()
    ready.post(f"/swaps/{swap}/close", UNSEEN | {"version": 2}).raise_for_status()
    starts = Job.find_swap(ready.case(), swap)["starts"]
    assert [(s["booted"], s["rework_min"]) for s in starts] == [(False, 12), (True, 0)]


def test_steps_come_from_the_template_and_are_ticked_with_their_time(job: Job) -> None:
    job.plan(change="processor").raise_for_status()
    job.measure(job.build, STEADY)
    swap = job.swap(new_id())
    step = swap["steps"][0]
    assert step["done_at"] is None
    path = f"/swaps/{swap['id']}/steps/{step['id']}"
    body = {"stage": step["stage"], "text": step["text"], "done": True, "version": 1}
    ticked = Job.find_swap(job.put(path, body).json(), swap["id"])["steps"][0]
    assert ticked["done_at"] is not None
    again = Job.find_swap(job.put(path, body | {"version": ticked["version"]}).json(), swap["id"])["steps"][0]
    assert again["done_at"] == ticked["done_at"]
    refused(job.put(path, body | {"text": "other", "version": 1}), "stale")
    own = new_id()
    job.put(f"/swaps/{swap['id']}/steps/{own}", {"stage": "case open", "text": "Own step"}).raise_for_status()
    assert Job.find_swap(job.case(), swap["id"])["steps"][-1]["text"] == "Own step"
    job.api.delete(f"/machines/{job.machine}/swaps/{swap['id']}/steps/{own}").raise_for_status()
    assert all(s["text"] != "Own step" for s in Job.find_swap(job.case(), swap["id"])["steps"])


PNG = bytes.fromhex(
    "89504e470d0a1a0a0000000d49484452000000010000000108060000001f15c4890000000d49444154789c6360606060000000050001"
    "5ab3f6d50000000049454e44ae426082"
)


def test_a_teardown_note_keeps_its_picture_and_only_a_picture(ready: Job) -> None:
    swap, note = ready.swap(new_id())["id"], new_id()
    path = f"/machines/{ready.machine}/swaps/{swap}/notes/{note}"
    assert ready.api.put(f"{path}/picture", content=PNG).status_code == 404
    ready.api.put(path, json={"at": NOW, "text": "Long screws left"}).raise_for_status()
    assert "picture" in fields_of(ready.api.put(f"{path}/picture", content=b"<svg onload=alert(1)>"))
    assert ready.api.put(f"{path}/picture", content=PNG + b"0" * (10 * 1024 * 1024)).status_code == 413
    kept = ready.api.put(f"{path}/picture", content=PNG).raise_for_status().json()
    assert Job.find_swap(kept, swap)["notes"][0]["picture"] is True
    answer = ready.api.get(f"{path}/picture")
    assert (answer.content, answer.headers["content-type"]) == (PNG, "image/png")
    assert answer.headers["x-content-type-options"] == "nosniff"
    ready.api.delete(path).raise_for_status()
    assert ready.api.get(f"{path}/picture").status_code == 404


def test_a_bundle_is_split_into_stages_before_anything_is_measured_on_it(ready: Job) -> None:
    body = {"kind": "consumable", "label": "air", "amount": "2.50", "currency": "EUR"}
    bundle, after = planned_swap(
        ready, side_changes=["dust-out", "fresh paste"], costs=[*ready.swap_body("x")["costs"], body]
    )
    ready.post(f"/swaps/{bundle}/open", {"reason": "test", "version": 1}).raise_for_status()
    second, between = new_id(), new_id()
    stage = {"swap": second, "build": between, "label": "Dust-out", "build_label": "Clean", "version": 2}
    assert "differences" in fields_of(ready.post(f"/swaps/{bundle}/split", stage))
    assert "differences" in fields_of(ready.post(f"/swaps/{bundle}/split", stage | {"differences": ["part:drive"]}))
    split = stage | {"side_changes": ["dust-out"], "costs": [1]}
    case = ready.post(f"/swaps/{bundle}/split", split).raise_for_status().json()
    assert [(b["letter"], b["label"]) for b in case["builds"]] == [
        ("A", "As received"),
        ("B", "Clean"),
        ("C", "Six cores"),
    ]
    first, rest = case["swaps"]
    assert (first["before"], first["after"], first["state"]) == (ready.build, between, "open")
    assert (rest["before"], rest["after"], rest["state"]) == (between, after, "planned")
    assert (first["side_changes"], rest["side_changes"]) == (["dust-out"], ["fresh paste"])
    assert ([c["label"] for c in first["costs"]], [c["label"] for c in rest["costs"]]) == (["air"], ["Varro 6-core"])
    assert case["fitted"] == between
    # Laid out in stages, the whole job is judged too.
    assert [swap["plan"]["judge_whole"] for swap in (first, rest)] == [ready.build, ready.build]
    assert {line["expected"] for line in first["recognitions"]} == {"as before"}, "no part went in"
    assert [line["what"] for line in rest["recognitions"]][:2] == ["processor, name", "processor, cores"]
    ready.post(f"/swaps/{bundle}/close", UNSEEN | {"version": first["version"]}).raise_for_status()
    ready.measure(between, STEADY)
    refused(ready.post(f"/swaps/{bundle}/split", split | {"version": 4}), "case_not_open")
    ready.post(f"/swaps/{second}/open", {"reason": "test", "version": 1}).raise_for_status()
    assert ready.case()["fitted"] == after


def test_from_the_second_stage_on_the_whole_is_judged_too_unless_that_is_taken_away(ready: Job) -> None:
    first, last = new_id(), new_id()
    ready.plan(headline=ready.time, runs_a_sitting=3).raise_for_status()
    swap = ready.swap(first)
    assert swap["plan"]["judge_whole"] is None
    ready.post(f"/swaps/{swap['id']}/close", UNSEEN | {"version": swap["version"]}).raise_for_status()
    ready.measure(first, [[time - 5 for time in sitting] for sitting in STEADY], first_day=11)
    memory = {"id": new_id(), "role": "memory", "label": "Tessel 16 GB", "rated": {"size_gb": 16}}
    built = {"label": "More memory", "parts": [memory], "settings": {"threads": 12}}
    swap = ready.swap(last, before=first, label="Memory", after_build=built, costs=[])
    assert swap["plan"]["judge_whole"] == ready.build
    assert ready.case()["open_plan"]["plan"]["judge_whole"] is None
    ready.post(f"/swaps/{swap['id']}/close", UNSEEN | {"version": swap["version"]}).raise_for_status()
    ready.measure(last, [[time - 9 for time in sitting] for sitting in STEADY], first_day=21)

    def total() -> tuple[Any, ...]:
        asked = {"before": ready.build, "after": last}
        found = ready.api.get(f"/machines/{ready.machine}/comparison", params=asked).raise_for_status().json()
        result, sentence = found["measures"][ready.time], found["worded"]["measures"][ready.time]
        return result["verdict"], result["gain_low"] is not None, sentence["grade"], found["worded"]["look"]

    verdict, has_interval, grade, look = total()
    assert (verdict, has_interval) == ("real_gain", True)
    assert "not planned" not in grade
    assert look.startswith("The plan’s one look")
    # Once the build after was read, nobody chooses whether the whole was planned.
    plan = ready.find_swap(ready.case(), swap["id"])
    body = plan["plan"] | {"judge_whole": None, "reason": "", "version": plan["plan_version"]}
    refused(ready.put(f"/swaps/{swap['id']}/plan", body), "plan_fixed")


def test_a_setting_is_flipped_back_and_forth_between_two_builds(ready: Job) -> None:
    after = new_id()
    build = ready.build_body(label="Capped", settings={"threads": 4, "power_limit_w": 45})
    there = ready.swap(after, label="Power limit 45 W", costs=[], after_build=build)
    ready.post(f"/swaps/{there['id']}/close", UNSEEN | {"version": 2}).raise_for_status()
    ready.measure(after, STEADY)
    back = new_id()
    body = {"before": after, "after": ready.build, "label": "Limit back", "costs": []}
    ready.put(f"/swaps/{back}", body).raise_for_status()
    ready.post(f"/swaps/{back}/open", {"reason": "alternating", "version": 1}).raise_for_status()
    ready.post(f"/swaps/{back}/close", UNSEEN | {"version": 2}).raise_for_status()
    case = ready.case()
    assert (case["fitted"], len(case["builds"])) == (ready.build, 2)
    ready.measure(ready.build, [[40.2, 40.1, 40.0]])
    answer = comparison_of(ready.api, ready.machine, before=ready.build, after=after)
    assert answer["measures"][ready.time]["units_before"] == 4
    assert answer["changes"] == ["power limit"]


def test_a_branch_starts_from_an_earlier_build(ready: Job) -> None:
    one, two = new_id(), new_id()
    paste = [{"id": new_id(), "role": "thermal paste", "label": f"Ostrel P{n}", "rated": {}} for n in (1, 2)]
    processor = ready.build_body()["parts"]
    for after, part, before in ((one, paste[0], ready.build), (two, paste[1], ready.build)):
        build = {"label": part["label"], "parts": [*processor, part], "settings": {"threads": 4}}
        swap = ready.swap(after, before=before, label=part["label"], costs=[], after_build=build)
        ready.post(f"/swaps/{swap['id']}/close", UNSEEN | {"version": 2}).raise_for_status()
        ready.measure(after, STEADY)
    assert [(s["before"], s["after"]) for s in ready.case()["swaps"]] == [
        (ready.build, one),
        (ready.build, two),
    ]


def test_margins_may_change_late_with_a_date_and_a_reason_and_the_rest_of_the_plan_may_not(ready: Job) -> None:
    after = new_id()
    swap = ready.swap(after)
    plan = swap["plan"]
    path = f"/swaps/{swap['id']}/plan"
    ready.put(path, plan | {"sittings_a_side": 2, "version": swap["plan_version"]}).raise_for_status()
    ready.measure(after, [[30.0, 30.1, 30.2]])
    plan = Job.find_swap(ready.case(), swap["id"])["plan"]
    version = Job.find_swap(ready.case(), swap["id"])["plan_version"]
    for late in ({"sittings_a_side": 1}, {"design": "paired"}, {"headline": ready.rise}, {"order": "abba"}):
        assert next(iter(late)) in fields_of(ready.put(path, plan | late | {"version": version}))
        refused(ready.put(path, plan | late | {"version": version}), "plan_fixed")
    measures = json.loads(json.dumps(plan["measures"]))
    measures[ready.time]["matters_from"] = 5
    measures[ready.time]["hoped_for"] = 20
    edit = plan | {"measures": measures, "version": version}
    assert "reason" in fields_of(ready.put(path, edit))
    case = ready.put(path, edit | {"reason": "the owner says so"}).raise_for_status().json()
    edits = Job.find_swap(case, swap["id"])["margin_edits"]
    assert [(e["field"], e["old"], e["new"], e["late"]) for e in edits] == [
        ("matters_from", 2.0, 5.0, True),
        ("hoped_for", None, 20.0, True),
    ]
    measures[ready.time]["role"] = "watch"
    refused(ready.put(path, plan | {"measures": measures, "reason": "x", "version": version + 1}), "plan_fixed")


def test_a_workload_with_runs_keeps_its_settings_under_its_version(job: Job) -> None:
    job.measure(job.build, STEADY[:1])
    version = job.case()["workloads"][0]["version"]
    path = f"/workloads/{job.workload}"
    other = job.workload_body(parameters={"size": 2}, version=version)
    refused(job.put(path, other), "workload_frozen")
    refused(job.put(path, job.workload_body(target="slot 2", version=version)), "workload_frozen")
    job.put(path, other | {"workload_version": "2"}).raise_for_status()
    refused(job.put(path, job.workload_body(card="How it is done", version=version)), "stale")
    noted = job.case()["workloads"][0]
    assert (noted["workload_version"], noted["frozen"]) == ("2", True)


def test_kind_unit_and_name_of_a_measure_change_until_it_has_readings(job: Job) -> None:
    job.plan(measures={job.time: {"matters_from": 2.5, "hoped_for": 30}, job.rise: {"matters_from": 1}})
    body = job.workload_body(version=1)
    heat = {"name": "Soak", "unit": "K", "scale": "difference", "kind": "heat"}
    body["measures"][0] |= heat
    case = job.put(f"/workloads/{job.workload}", body).raise_for_status().json()
    saved = next(measure for measure in case["measures"] if measure["id"] == job.time)
    assert {key: saved[key] for key in heat} == heat
    planned = case["open_plan"]["plan"]["measures"][job.time]
    assert (planned["matters_from"], planned["hoped_for"]) == (1, None)
    job.run(job.sitting(), 1, 40.0).raise_for_status()
    version = job.case()["workloads"][0]["version"]
    noise = body | {"version": version, "measures": [body["measures"][0] | {"kind": "other"}, body["measures"][1]]}
    refusal = job.put(f"/workloads/{job.workload}", noise)
    assert "has readings, so its kind can't change" in fields_of(refusal)["measures.0.kind"]


def test_what_is_derived_follows_from_what_is_read_and_is_read_by_nobody(job: Job) -> None:
    workload, time, power, rate, per_minute, per_watt = (new_id() for _ in range(6))
    speed = {"scale": "ratio", "better": "higher"}
    measures = [
        {"id": time, "name": "Time", "unit": "s", "scale": "ratio", "kind": "time", "better": "lower"},
        {"id": rate, "name": "Rate", "unit": "MBy/s", "kind": "rate"} | speed,
        {"id": power, "name": "Power", "unit": "W", "scale": "ratio", "kind": "power", "better": "lower"},
    ]
    minute = measures[0] | {
        "id": per_minute,
        "name": "A minute of film",
        "derived_from": time,
        "per_parameter": "min",
    }
    watt = {"id": per_watt, "name": "By power", "unit": "MBy/s", "kind": "other", "derived_from": rate} | speed
    body = {"name": "Export", "parameters": {"min": 4}}

    def save(*derived: dict[str, Any]) -> httpx.Response:
        return job.put(f"/workloads/{workload}", body | {"measures": measures + list(derived)})

    assert "measures.3.per_parameter" in fields_of(save(minute | {"per_parameter": "frames"}))
    assert "measures.3.derived_from" in fields_of(save(minute | {"derived_from": new_id()}))
    assert "measures.3.per_measure" in fields_of(save(watt | {"per_measure": rate}))
    assert save(watt).status_code == 422
    case = save(minute, watt | {"per_measure": power}).raise_for_status().json()
    units = {m["id"]: m["unit_display"] for m in case["measures"]}
    assert (units[per_minute], units[per_watt]) == ("s per min", "MB/s per W")
    readings = {time: "2:00", rate: "about 100", power: {"low": 40, "high": 50}}
    run = {"sitting": job.sitting(), "workload": workload, "position": 1, "readings": readings}
    made = saved(job.put(f"/runs/{new_id()}", run))["readings"]
    assert (made[per_minute]["low"], made[per_watt]["low"], made[per_watt]["high"]) == (30, 2, 2.5)
    assert made[per_watt]["about"] is True
    copied = job.api.post("/run-files", content=job.api.get(f"/machines/{job.machine}/run-file").text)
    assert copied.status_code == 409, "the same machine is not taken in twice"


def test_a_requirement_follows_from_the_amount_that_was_read(job: Job) -> None:
    workload, free, enough = (new_id() for _ in range(3))
    amount = {"id": free, "name": "Left free", "unit": "GBy", "scale": "difference", "kind": "amount"}
    kind = {"id": enough, "name": "Enough", "unit": "1", "scale": "outcome", "kind": "other"}
    need: dict[str, Any] = kind | {"derived_from": free, "needs": 0.5}
    measures = [measure | {"better": "higher"} for measure in (amount, need)]

    def save(**change: Any) -> httpx.Response:
        return job.put(f"/workloads/{workload}", {"name": "Export", "measures": [measures[0], measures[1] | change]})

    assert "measures.1.derived_from" in fields_of(save(derived_from=new_id()))
    assert "measures.1.scale" in fields_of(save(scale="ratio"))
    assert save(needs=None).status_code == 422
    save().raise_for_status()
    for position, (typed, met) in enumerate((("0.62", 1), ("0.4 to 0.6", 0)), start=1):
        run = {"sitting": job.sitting(), "workload": workload, "position": position, "readings": {free: typed}}
        assert saved(job.put(f"/runs/{new_id()}", run))["readings"][enough]["low"] == met
    text = job.api.get(f"/machines/{job.machine}/run-file").text
    kept = next(m for m in json.loads(text)["measures"] if m["name"] == "Enough")
    assert (kept["derived_from"], kept["needs"]) == (free, 0.5)


def test_sensors_make_the_quantity_and_parts_belong_to_a_whole(job: Job) -> None:
    whole, one, two, workload = new_id(), new_id(), new_id(), new_id()
    kind = {"unit": "Cel", "scale": "difference", "kind": "heat", "better": "lower"}
    measures = [
        kind | {"id": whole, "name": "Die", "combined_by": "highest"},
        kind | {"id": one, "name": "Core 1", "part_of": whole},
        kind | {"id": two, "name": "Core 2", "part_of": whole},
    ]
    lost = [measures[0], measures[1] | {"part_of": new_id()}]
    assert "measures.1.part_of" in fields_of(job.put(f"/workloads/{workload}", {"name": "Soak", "measures": lost}))
    unlike = [measures[0], measures[1] | {"unit": "K"}]
    assert "measures.1.unit" in fields_of(job.put(f"/workloads/{workload}", {"name": "Soak", "measures": unlike}))
    case = job.put(f"/workloads/{workload}", {"name": "Soak", "measures": measures}).raise_for_status().json()
    roles = {m: planned["role"] for m, planned in case["open_plan"]["plan"]["measures"].items()}
    assert (roles[job.time], roles[whole], roles[one]) == ("claim", "watch", "watch")
    run = saved(job.run(job.sitting(), 1, 0, workload=workload, readings={one: 61.0, two: 66.5}))
    assert run["readings"][whole]["low"] == 66.5
    sitting = job.sitting()
    told = {one: {"value": 61.0, "source": "remembered"}, two: {"low": 64.0, "high": 66.5, "about": True}}
    run = saved(job.run(sitting, 1, 0, workload=workload, readings=told))
    made = run["readings"][whole]
    assert (made["low"], made["high"], made["about"], made["source"]) == (64.0, 66.5, True, "remembered")
    unlike_kinds = {one: {"value": 61.0, "statistic": "mean"}, two: {"value": 64.0, "statistic": "highest"}}
    refusal = job.run(sitting, 2, 0, workload=workload, readings=unlike_kinds)
    assert "different kinds of reading (highest, mean)" in fields_of(refusal)[f"readings.{whole}"]


def test_a_template_sets_counts_conditions_and_roles_from_what_workloads_load(job: Job) -> None:
    version = job.case()["workloads"][0]["version"]
    job.put(f"/workloads/{job.workload}", job.workload_body(loads=["drive"], version=version)).raise_for_status()
    plan = job.case()["open_plan"]
    case = job.post("/plan/template", {"template": "processor", "version": plan["version"]}).raise_for_status().json()
    made = case["open_plan"]["plan"]
    assert (made["change"], made["warm_ups"], made["conditions"]["power_source"]) == ("processor", 1, "mains")
    assert {planned["role"] for planned in made["measures"].values()} == {"control"}
    stale = job.post("/plan/template", {"template": "drive", "version": plan["version"]})
    assert refused(stale, "stale")["details"]["current"]["change"] == "processor"
    refused(job.post("/plan/template", {"template": "juggling", "version": 9}), "missing", 404)


def test_own_templates_are_kept_edited_and_used(api: httpx.Client, job: Job) -> None:
    own = new_id()
    body = {
        "name": f"House rule {own[:6]}",
        "change": "drive",
        "steps": [["case open", "Label the old drive"]],
        "costs": ["part"],
    }
    kept = api.put(f"/templates/{own}", json=body).raise_for_status().json()
    mine = next(t for t in kept if t["id"] == own)
    assert (mine["version"], mine["steps"]) == (1, [["case open", "Label the old drive"]])
    assert all(t["version"] is None for t in kept if t["id"] in ("processor", "memory", "drive", "paste", "cooler"))
    api.put(f"/templates/{own}", json=body | {"runs_a_sitting": 7, "version": 1}).raise_for_status()
    refused(api.put(f"/templates/{own}", json=body | {"runs_a_sitting": 8, "version": 1}), "stale")
    refused(api.put(f"/templates/{new_id()}", json=body), "taken")
    job.measure(job.build, STEADY)
    assert [s["text"] for s in job.swap(new_id(), template=own)["steps"]] == ["Label the old drive"]
    assert all(t["id"] != own for t in api.delete(f"/templates/{own}").json())


def test_candidates_are_checked_ranked_and_later_held_against_what_was_achieved(job: Job) -> None:
    machine = {
        "name": "Test bench",
        "currency": "EUR",
        "labour_rate": "35.00",
        "limits": {"socket": "V2"},
        "version": 1,
    }
    job.put("", machine).raise_for_status()
    candidate = new_id()
    body = {
        "role": "processor",
        "label": "Varro 6-core",
        "rated": {"socket": "V2"},
        "price": "118.00",
        "expected_gain": 25,
    }
    case = job.put(f"/candidates/{candidate}", body).raise_for_status().json()
    assert case["candidates"][0]["price"] == "118.00"
    (ranked,) = job.outlook()["candidates"]
    assert (ranked["fit"]["word"], job.outlook()["worded"]["candidates"][candidate]["per_10"]) == (
        "fits",
        "2.12 %",
    )
    assert "rated.cores" in fields_of(job.put(f"/candidates/{new_id()}", body | {"rated": {"cores": "six"}}))
    job.put("", machine | {"limits": {"socket": "V3"}, "version": 2}).raise_for_status()
    assert job.outlook()["candidates"][0]["fit"]["word"] == "does not fit"
    job.measure(job.build, STEADY)
    after = new_id()
    swap = job.swap(after)["id"]
    job.measure(after, [[30.0, 30.2, 30.1]] * 3)
    job.put(f"/candidates/{candidate}", body | {"swap": swap, "worked": "at once", "version": 1}).raise_for_status()
    assert job.outlook()["worded"]["candidates"][candidate]["achieved"] == "+33.3 %"
    refused(job.api.delete(f"/machines/{job.machine}/candidates/{candidate}"), "clash")


def test_a_sitting_that_departs_from_the_planned_conditions_is_told(job: Job) -> None:
    job.plan(conditions={"fan": "auto", "ambient_high_c": 22}).raise_for_status()
    assert "conditions.ambient_high_c" in fields_of(job.plan(conditions={"ambient_high_c": "warm"}))
    held = job.sitting(conditions={"fan": "Auto"}, ambient_c=21.0)
    loose = job.sitting(conditions={"fan": "full"}, ambient_c=24.0)
    told = job.outlook()["conditions"]
    assert held not in told
    assert told[loose] == ["the room had 24 °C, up to 22 °C is planned", "fan mode was full, auto is planned"]


def test_a_recheck_keeps_a_copy_of_the_plan(ready: Job) -> None:
    after = new_id()
    swap = ready.swap(after)
    recheck = new_id()
    body = {"build": after, "due_on": "2027-05-05", "note": "has the paste aged?"}
    ready.put(f"/rechecks/{recheck}", body).raise_for_status()
    ready.put(
        f"/swaps/{swap['id']}/plan", swap["plan"] | {"sittings_a_side": 5, "version": swap["plan_version"]}
    ).raise_for_status()
    (kept,) = ready.case()["rechecks"]
    assert (kept["plan"]["sittings_a_side"], kept["due_on"]) == (3, "2027-05-05")
    ready.put(f"/rechecks/{recheck}", body | {"done": True, "version": 1}).raise_for_status()
    assert ready.case()["rechecks"][0]["done"] is True


def test_everything_of_the_frame_travels_through_the_run_file(api: httpx.Client) -> None:
    tower = api.get(f"/machines/{find_machine(api, 'Scanner-room tower')}").json()
    file = json.loads(api.get(f"/machines/{tower['machine']['id']}/run-file").text)
    (swap,) = file["swaps"]
    assert (swap["state"], len(swap["steps"])) == ("open", len(tower["swaps"][0]["steps"]))
    assert swap["starts"][0]["rework_min"] == 6
    assert file["workloads"][0]["loads"] == ["drive"]
    broken = file | {"machine": file["machine"] | {"id": new_id()}}
    broken["measures"] = [file["measures"][0] | {"part_of": "nothing"}, *file["measures"][1:]]
    assert "$.measures[0].part_of" in fields_of(api.post("/run-files", json=broken))


def test_the_comparison_carries_the_bundle(ready: Job) -> None:
    after = new_id()
    ready.swap(after, side_changes=["dust-out"])
    ready.measure(after, [[30.0, 30.2, 30.1]] * 3)
    answer = comparison_of(ready.api, ready.machine)
    assert answer["changes"] == ["processor", "dust-out"]


def test_what_a_look_said_stands_whatever_is_added_and_is_kept_once_it_was_shown(job: Job) -> None:
    measures = {job.time: {"matters_from": 2}, job.rise: {"role": "watch", "matters_from": 1}}
    job.plan(runs_a_sitting=3, measures=measures).raise_for_status()
    job.measure(job.build, STEADY)
    after = new_id()
    swap = job.swap(after)["id"]
    job.measure(after, [[39.6, 39.7, 39.8], [39.1, 39.0, 39.2]])
    early = comparison_of(job.api, job.machine)["measures"][job.time]
    assert (early["verdict"], early["remark"], early["basis"]) == ("not_settled", "plan_incomplete", None)
    job.measure(after, [[39.9, 39.8, 39.7]], first_day=9)
    planned = comparison_of(job.api, job.machine)["measures"][job.time]
    assert (planned["basis"], planned["look"], planned["shown"]) == ("sittings", 1, False)
    for read in (
        f"/machines/{job.machine}",
        f"/machines/{job.machine}/comparisons",
        "/machines",
        f"/machines/{job.machine}/job",
    ):
        job.api.get(read).raise_for_status()
    assert export(job)["swaps"][0]["shown"] == []
    job.show(after, [job.rise]).raise_for_status()
    assert export(job)["swaps"][0]["shown"] == []
    job.show(after, [job.time, job.rise]).raise_for_status()
    (entry,) = Job.find_swap(job.case(), swap)["shown"]
    assert (entry["measure"], entry["look"], entry["by"]) == (job.time, 1, "this computer")
    assert len(entry["sittings"]) == 6
    kept = comparison_of(job.api, job.machine)["measures"][job.time]
    assert kept == planned | {"shown": True, "first_shown": kept["first_shown"]}
    job.show(after, [job.time]).raise_for_status()
    assert len(Job.find_swap(job.case(), swap)["shown"]) == 1
    job.measure(after, [[39.3, 39.4, 39.5]], first_day=12)
    later = comparison_of(job.api, job.machine)["measures"][job.time]
    assert (later["verdict"], later["ci_high"] >= planned["ci_high"]) == (planned["verdict"], True)
    assert Job.find_swap(job.case(), swap)["state"] == "open"


def test_what_is_not_so_any_more_can_not_be_said_to_have_been_shown(job: Job) -> None:
    job.measure(job.build, STEADY)
    after = new_id()
    job.swap(after)
    job.measure(after, STEADY)
    case = job.case()
    stale = {"revision": case["revision"], "evidence_revision": case["evidence_revision"] - 1}
    body = {"before": job.build, "after": after, "measures": [job.time]}
    refused(job.post("/shown", body | stale), "stale")
    assert "revision" in fields_of(job.post("/shown", body))


def export(job: Job) -> dict[str, Any]:
    answer: dict[str, Any] = job.api.get(f"/machines/{job.machine}/run-file").json()
    return answer


def test_a_sitting_without_runs_seals_no_build_and_weights_stand_once_there_are_runs_after(job: Job) -> None:
    job.sitting()
    assert not job.case()["builds"][0]["sealed"]
    version = job.case()["builds"][0]["version"]
    job.put(f"/builds/{job.build}", job.build_body(settings={"threads": 2}, version=version)).raise_for_status()
    job.measure(job.build, STEADY)
    assert job.case()["builds"][0]["sealed"]
    after = new_id()
    swap = job.swap(after)
    job.measure(after, STEADY)
    heavier = swap["plan"] | {"reason": "it matters more", "version": swap["plan_version"]}
    heavier["measures"] = swap["plan"]["measures"] | {job.time: swap["plan"]["measures"][job.time] | {"weight": 9}}
    refused(job.put(f"/swaps/{swap['id']}/plan", heavier), "plan_fixed")


def test_a_candidate_of_another_machine_is_not_taken_off_its_list(api: httpx.Client, job: Job) -> None:
    other, candidate = Job(api).describe(), new_id()
    job.put(f"/candidates/{candidate}", {"role": "drive", "label": "Siskin 1 TB"}).raise_for_status()
    assert api.delete(f"/machines/{other.machine}/candidates/{candidate}").status_code == 422
    # A change of its own machine: nothing that is kept in memory of it stands any more.
    second = new_id()
    job.put(f"/candidates/{second}", {"role": "drive", "label": "Siskin 2 TB"}).raise_for_status()
    assert [kept["id"] for kept in job.case()["candidates"]] == [candidate, second]


def test_a_job_is_copied_to_the_next_machine_without_what_was_measured(ready: Job) -> None:
    after = new_id()
    swap = ready.swap(after, costs=[{"kind": "part", "label": "Varro 6-core", "amount": "118.00", "currency": "EUR"}])
    step = Job.find_swap(ready.case(), swap["id"])["steps"][0]
    ready.put(f"/swaps/{swap['id']}/steps/{step['id']}", {"done": True, "version": step.get("version")})
    copy = new_id()
    made = ready.put(f"/copies/{copy}", {"name": "Counter PC"}).raise_for_status().json()
    assert (made["machine"]["id"], made["machine"]["name"], made["sittings"]) == (copy, "Counter PC", [])
    (planned,) = made["swaps"]
    assert (planned["state"], planned["costs"][0]["amount"], planned["label"]) == ("planned", "118.00", swap["label"])
    assert planned["steps"]
    assert all(step["done_at"] is None for step in planned["steps"])
    assert [build["letter"] for build in made["builds"]] == ["A", "B"]
    old = {thing["id"] for noun in ("builds", "swaps", "measures", "workloads") for thing in ready.case()[noun]}
    assert not any(
        thing["id"] in old for noun in ("builds", "swaps", "measures", "workloads") for thing in made[noun]
    )
    assert ready.put(f"/copies/{copy}", {"name": "Again"}).status_code == 409
    assert "swap" in fields_of(ready.put(f"/copies/{new_id()}", {"name": "Other", "swap": new_id()}))
    bare = ready.put(f"/copies/{new_id()}", {"name": "Third"}).raise_for_status().json()
    assert bare["swaps"][0]["plan"]["headline"] in {measure["id"] for measure in bare["measures"]}


def test_an_alternative_is_weighed_like_a_part_and_its_ticks_are_kept(job: Job) -> None:
    candidate = new_id()
    body = {"role": "other", "label": "Dust out, nothing else", "price": "15.00", "expected_gain": 4}
    body |= {"alternative": "cleaning", "prerequisites": "air can", "ticked": ["air can", "ordered"]}
    case = job.put(f"/candidates/{candidate}", body).raise_for_status().json()
    assert case["candidates"][0]["ticked"] == ["air can", "ordered"]
    (ranked,) = job.outlook()["candidates"]
    assert (ranked["fit"]["word"], job.outlook()["worded"]["candidates"][candidate]["per_10"]) == (
        "fits",
        "2.67 %",
    )


def test_a_picture_may_come_first_and_its_run_waits_for_its_figure(job: Job, ready: Job) -> None:
    sitting, run = job.sitting(), new_id()
    path = f"/machines/{job.machine}/runs/{run}/picture"
    listed = f"/machines/{job.machine}/sittings/{sitting}/pictures"
    place: dict[str, str | int] = {"sitting": sitting, "workload": job.workload, "position": 3}
    assert job.api.put(path, content=PNG, params=place | {"workload": ready.workload}).status_code == 404
    assert job.api.put(path, content=PNG, params=place | {"sitting": ready.sitting()}).status_code == 404
    job.api.put(path, content=PNG, params=place).raise_for_status()
    waits = {"workload": job.workload, "position": 3, "warm_up": False}
    assert job.api.get(listed).json() == [{"run": run, "waits": waits}]
    other = f"/machines/{ready.machine}/runs/{run}/picture"
    ours: dict[str, str | int] = {"sitting": ready.sitting(), "workload": ready.workload, "position": 1}
    assert ready.api.put(other, content=PNG, params=ours).status_code in (404, 409, 422)
    refused(job.api.delete(f"/machines/{job.machine}/sittings/{sitting}"), "clash")
    job.run(sitting, 3, 41.0, run).raise_for_status()
    assert job.api.get(listed).json() == [{"run": run, "waits": None}]
    assert job.api.get(path).content == PNG


def test_a_run_keeps_a_picture_of_what_it_was_read_off_and_only_a_picture(job: Job, ready: Job) -> None:
    sitting, run = job.sitting(), new_id()
    base = f"/machines/{job.machine}"
    path = f"{base}/runs/{run}/picture"
    assert job.api.put(path, content=PNG).status_code == 404
    job.run(sitting, 1, 41.0, run).raise_for_status()
    assert "picture" in fields_of(job.api.put(path, content=b"<svg onload=alert(1)>"))
    assert job.api.get(f"{base}/sittings/{sitting}/pictures").json() == []
    job.api.put(path, content=PNG).raise_for_status()
    job.api.put(path, content=PNG).raise_for_status()
    assert job.api.get(f"{base}/sittings/{sitting}/pictures").json() == [{"run": run, "waits": None}]
    answer = job.api.get(path)
    assert (answer.content, answer.headers["content-type"]) == (PNG, "image/png")
    other = f"/machines/{ready.machine}/runs/{run}/picture"
    assert (job.api.get(other).status_code, job.api.put(other, content=PNG).status_code) == (404, 404)


def test_a_case_that_was_opened_too_soon_goes_back_to_the_plan_until_something_was_done_in_it(ready: Job) -> None:
    swap = ready.swap(new_id())
    back = Job.find_swap(ready.post(f"/swaps/{swap['id']}/unopen", {"version": 2}).json(), swap["id"])
    assert (back["state"], back["opened_at"], back["gate_reason"]) == ("planned", None, "")
    assert ready.case()["fitted"] == ready.build
    refused(ready.post(f"/swaps/{swap['id']}/unopen", {"version": 3}), "case_not_open")
    ready.post(f"/swaps/{swap['id']}/open", {"reason": "a test needs none", "version": 3}).raise_for_status()
    step = next(step for step in swap["steps"] if step["stage"] == "case open")
    body = {"stage": step["stage"], "text": step["text"], "done": True, "version": 1}
    ready.put(f"/swaps/{swap['id']}/steps/{step['id']}", body).raise_for_status()
    sentence = refused(ready.post(f"/swaps/{swap['id']}/unopen", {"version": 4}), "clash")["detail"]
    assert step["text"] in sentence


def test_fresh_paste_takes_the_old_one_off_the_list_and_gives_it_back_with_its_tick(ready: Job) -> None:
    after, old = new_id(), {"id": new_id(), "role": "thermal paste", "label": "As delivered"}

    def pastes(case: dict[str, Any]) -> list[str]:
        build = next(build for build in case["builds"] if build["id"] == after)
        return [part["label"] for part in build["parts"] if part["role"] == "thermal paste"]

    first = new_id()
    (processor,) = ready.case()["builds"][0]["parts"]
    pasted = {"label": "Paste noted", "parts": [processor, old]}
    swap = ready.swap(first, after_build=pasted)
    ready.post(f"/swaps/{swap['id']}/close", UNSEEN | {"version": 2}).raise_for_status()
    six = {"id": new_id(), "role": "processor", "label": "Varro 6-core"}
    body = ready.swap_body(after, before=first, after_build={"label": "Six", "parts": [six, old]})
    swap = ready.swap(after, **{key: body[key] for key in ("before", "after_build")})
    edit = {key: value for key, value in body.items() if key != "after_build"} | {"declares": ["part:processor"]}
    ticked = ready.put(f"/swaps/{swap['id']}", edit | {"side_changes": ["fresh paste"], "version": 2})
    assert pastes(ticked.raise_for_status().json()) == ["Fresh paste"]
    # The tick declares it: nobody is asked for the same thing twice.
    asked = ready.outlook()["swaps"][-1]["questions"]
    assert "undeclared_difference" not in [question["code"] for question in asked]
    back = ready.put(f"/swaps/{swap['id']}", edit | {"side_changes": [], "version": 3})
    assert pastes(back.raise_for_status().json()) == ["As delivered"]


@pytest.mark.parametrize(("member", "value"), [("borrow_spread_from", ["ñ³q"]), ("judge_whole", "nothing")])
def test_a_plan_names_builds_of_its_machine_alone(job: Job, member: str, value: Any) -> None:
    plan = job.case()["open_plan"]
    body = plan["plan"] | {"version": plan["version"]}
    for named in (value, [new_id()] if isinstance(value, list) else new_id()):
        refused_at = fields_of(job.put("/plan", body | {member: named}))
        assert "this machine does not have" in refused_at[member]
