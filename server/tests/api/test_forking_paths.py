"""Every way by which a hopeful technician could talk the bench into a verdict, played through the API."""

from typing import Any

import httpx
import pytest

from tests.api.bodies import Job, comparison_of, fields_of, new_id, saved

SLOW = [[40.0, 40.2, 40.1], [40.3, 40.1, 40.2], [40.1, 40.0, 40.2]]
FAST = [[30.0, 30.2, 30.1], [30.3, 30.1, 30.2], [30.1, 30.0, 30.2]]
# A little faster, and not settled by three sittings a side.
DOUBTFUL = [[39.0, 39.4, 39.2], [41.2, 41.0, 41.1], [37.3, 37.5, 37.4]]


class Bench:
    """A machine whose swap was measured on both sides, and whose verdict was looked at."""

    def __init__(self, api: httpx.Client, after: list[list[float]], *, show: bool = True, **plan: Any):
        self.job = Job(api).describe()
        measures = {self.job.time: {"matters_from": 2}, self.job.rise: {"role": "watch", "matters_from": 1}}
        self.job.plan(runs_a_sitting=3, sittings_a_side=3, measures=measures, **plan).raise_for_status()
        self.job.measure(self.job.build, SLOW)
        self.after = new_id()
        self.swap = self.job.swap(self.after)["id"]
        self.job.measure(self.after, after, first_day=10)
        if show:
            self.job.show(self.after, [self.job.time]).raise_for_status()

    def comparison(self, before: str | None = None, after: str | None = None) -> dict[str, Any]:
        sides = {"before": before or self.job.build, "after": after or self.after}
        return comparison_of(self.job.api, self.job.machine, **sides)

    def verdict(self, before: str | None = None, after: str | None = None) -> dict[str, Any]:
        result: dict[str, Any] = self.comparison(before, after)["measures"][self.job.time]
        return result

    def runs_of(self, build: str) -> list[dict[str, Any]]:
        sittings = {s["id"] for s in self.job.case()["sittings"] if s["build"] == build}
        return [run for run in self.job.runs() if run["sitting"] in sittings]

    def save(self, run: dict[str, Any], reading: Any, **fields: Any) -> httpx.Response:
        kept = {"version": run["version"]} | fields
        return self.job.run(run["sitting"], run["position"], reading, run["id"], **kept)

    def sit(self, values: list[float], day: int, build: str | None = None, **fields: Any) -> str:
        """A sitting of three runs, closed; of the build after unless another is named."""
        sitting = self.job.sitting(build or self.after, started_at=f"2026-05-{day:02}T09:00:00Z", **fields)
        for position, value in enumerate(values, start=1):
            self.job.run(sitting, position, value).raise_for_status()
        self.job.post(f"/sittings/{sitting}/close").raise_for_status()
        return sitting

    def move(self, sitting: dict[str, Any], **fields: Any) -> None:
        names = ("build", "purpose", "started_at", "ambient_c", "conditions", "boot", "boot_by", "mount", "version")
        body = {name: sitting[name] for name in names}
        self.job.put(f"/sittings/{sitting['id']}", body | fields).raise_for_status()


def codes(result: dict[str, Any]) -> set[str]:
    return {flag["code"] for flag in result["flags"]}


def test_another_swap_over_measured_builds_brings_no_plan_of_its_own_and_taking_it_back_leaves_nothing(
    api: httpx.Client,
) -> None:
    bench = Bench(api, DOUBTFUL)
    first = bench.verdict()
    assert first["verdict"] == "not_settled"
    bench.job.plan(measures={bench.job.time: {"matters_from": 60}}).raise_for_status()
    bench.job.post(f"/swaps/{bench.swap}/close", {"skipped": "a test", "version": 2}).raise_for_status()
    back, again = new_id(), new_id()
    body = {"before": bench.after, "after": bench.job.build, "label": "Back", "costs": []}
    bench.job.put(f"/swaps/{back}", body).raise_for_status()
    assert bench.verdict() == first
    bench.job.post(f"/swaps/{back}/open", {"reason": "a test", "version": 1}).raise_for_status()
    bench.job.post(f"/swaps/{back}/close", {"skipped": "a test", "version": 2}).raise_for_status()
    there = {"before": bench.job.build, "after": bench.after, "label": "Once more", "costs": []}
    assert bench.job.put(f"/swaps/{again}", there).status_code == 200
    assert bench.verdict() == first
    turned = bench.verdict(bench.after, bench.job.build)
    assert (turned["estimate"], turned["p"], turned["matters_from"]) == (-first["estimate"], first["p"], 2)
    bench.job.api.delete(f"/machines/{bench.job.machine}/swaps/{again}").raise_for_status()
    assert bench.verdict() == first
    assert len(Job.find_swap(bench.job.case(), bench.swap)["shown"]) == 1


def test_a_build_with_the_parts_and_settings_of_an_earlier_one_is_that_build(api: httpx.Client) -> None:
    bench = Bench(api, FAST)
    bench.job.post(f"/swaps/{bench.swap}/close", {"skipped": "a test", "version": 2}).raise_for_status()
    first = bench.job.build_body()
    part = first["parts"][0] | {"id": new_id()}
    body: dict[str, Any] = {"before": bench.after, "after": new_id(), "label": "As it was", "costs": []}
    body |= {"after_build": {"label": "Another name", "parts": [part], "settings": first["settings"]}}
    refused = bench.job.put(f"/swaps/{new_id()}", body)
    assert "This is build A" in fields_of(refused)["after_build"]


def test_calling_a_bad_sitting_a_trial_after_looking_is_late_and_brings_no_gain(api: httpx.Client) -> None:
    bench = Bench(api, [[35.0, 35.2, 35.1], [35.1, 35.0, 35.2], [41.0, 41.2, 41.1]])
    assert bench.verdict()["verdict"] == "not_settled"
    bad = next(s for s in bench.job.case()["sittings"] if s["started_at"].startswith("2026-05-12"))
    bench.move(bad, purpose="trial")
    result = bench.verdict()
    assert (result["verdict"], result["remark"]) == ("not_settled", "rests_on_left_out")
    assert {"corrected_late"} <= codes(result)
    assert result["with_late"]["verdict"] == "not_settled"


def test_a_sitting_set_aside_after_looking_stays_listed_and_brings_no_gain(api: httpx.Client) -> None:
    bench = Bench(api, [[35.0, 35.2, 35.1], [35.1, 35.0, 35.2], [41.0, 41.2, 41.1]])
    bad = next(s for s in bench.job.case()["sittings"] if s["started_at"].startswith("2026-05-12"))
    path = f"/sittings/{bad['id']}/set-aside"
    assert "reason" in fields_of(bench.job.put(path, {}))
    bench.job.put(path, {"reason": "a fan rattled"}).raise_for_status()
    assert bench.job.put(path, {"reason": "again"}).status_code == 409
    result = bench.verdict()
    assert (result["verdict"], result["remark"]) == ("not_settled", "rests_on_left_out")
    kept = next(s for s in bench.job.case()["sittings"] if s["id"] == bad["id"])
    assert kept["set_aside"]["reason"] == "a fan rattled"


def test_a_reading_corrected_after_looking_is_named_and_the_first_verdict_kept(api: httpx.Client) -> None:
    bench = Bench(api, FAST)
    assert bench.verdict()["verdict"] == "real_gain"
    run = bench.runs_of(bench.after)[0]
    corrected = saved(bench.save(run, 39.9))
    changes = [(change["member"], change["old"], change["new"], change["by"]) for change in corrected["changes"]]
    assert changes == [(f"readings.{bench.job.time}", 30.0, 39.9, "this computer")]
    result = bench.verdict()
    assert (result["changed"], result["shown"], result["first_shown"]["verdict"]) == (True, False, "real_gain")
    assert {"changed_after_verdict", "corrected_late"} <= codes(result)
    assert result["grade"] == "changed_after_verdict"


@pytest.mark.parametrize(("member", "value"), [("ambient_c", 30.0), ("started_at", "2026-05-03T09:00:00Z")])
def test_the_room_and_the_start_of_a_sitting_keep_what_stood_there(
    api: httpx.Client, member: str, value: object
) -> None:
    bench = Bench(api, FAST)
    sitting = bench.job.case()["sittings"][0]
    bench.move(sitting, **{member: value})
    (change,) = next(s for s in bench.job.case()["sittings"] if s["id"] == sitting["id"])["changes"]
    assert change["member"] == member
    assert "corrected_late" in codes(bench.verdict())


@pytest.mark.parametrize("change", [{"kind": "rate"}, {"step": 1.0}, {"better": "higher"}, {"unit": "min"}])
def test_what_a_measure_is_stays_once_it_has_readings(api: httpx.Client, change: dict[str, Any]) -> None:
    bench = Bench(api, FAST)
    case = bench.job.case()
    (workload,) = case["workloads"]
    body = bench.job.workload_body(version=workload["version"])
    body["measures"][0] |= change
    assert bench.job.put(f"/workloads/{bench.job.workload}", body).status_code in (409, 422)
    assert bench.verdict()["verdict"] == "real_gain"


def test_spoiling_a_run_after_looking_is_late_and_keeps_the_mark_of_one_left_out(api: httpx.Client) -> None:
    bench = Bench(api, [[35.0, 35.2, 35.1], [35.1, 35.0, 35.2], [41.0, 41.2, 41.1]])
    for run in bench.runs_of(bench.after)[-3:]:
        bench.save(run, run["readings"][bench.job.time]["low"], state="spoiled", reason="odd").raise_for_status()
    result = bench.verdict()
    assert result["verdict"] == "not_settled"
    assert result["remark"] in ("rests_on_left_out", "waits_for_sitting")
    first = bench.runs_of(bench.job.build)[0]
    path = f"/runs/{first['id']}/late-exclusion"
    bench.job.put(path, {"reason": "the door stood open"}).raise_for_status()
    run = next(r for r in bench.job.runs() if r["id"] == first["id"])
    bench.save(run, 40.0, state="spoiled", reason="the door").raise_for_status()
    assert next(r for r in bench.job.runs() if r["id"] == first["id"])["excluded_late"] == "the door stood open"


def test_builds_that_are_no_neighbours_and_plans_without_a_number_get_no_look(api: httpx.Client) -> None:
    bench = Bench(api, FAST)
    bench.job.post(f"/swaps/{bench.swap}/close", {"skipped": "a test", "version": 2}).raise_for_status()
    third = new_id()
    part = {"id": new_id(), "role": "memory", "label": "Marl 16 GB", "rated": {"size_gb": 16}}
    build = {"label": "More memory", "parts": [part], "settings": {"threads": 12}}
    swap = new_id()
    body = {"before": bench.after, "after": third, "label": "Memory", "costs": [], "after_build": build}
    bench.job.put(f"/swaps/{swap}", body).raise_for_status()
    # The plan offers ticked that the whole is judged too; here nobody wants it.
    made = bench.job.find_swap(bench.job.case(), swap)
    plan = made["plan"] | {"judge_whole": None, "reason": "", "version": made["plan_version"]}
    bench.job.put(f"/swaps/{swap}/plan", plan).raise_for_status()
    bench.job.post(f"/swaps/{swap}/open", {"reason": "a test", "version": 1}).raise_for_status()
    bench.job.measure(third, FAST, first_day=20)
    far = bench.verdict(bench.job.build, third)
    assert (far["grade"], far["look"], far["basis"]) == ("unplanned", None, "anytime")
    assert bench.verdict(third, bench.job.build)["estimate"] == -far["estimate"]
    free = Bench(api, FAST, show=False)
    assert free.verdict()["look"] == 1


def test_the_verdict_comes_with_the_last_sitting_and_not_before_it_is_finished(api: httpx.Client) -> None:
    bench = Bench(api, FAST[:2], show=False)
    assert bench.verdict()["look"] is None
    hidden = ("p", "p_adjusted", "p_equivalence", "e_value", "least_rank_p")
    assert [bench.verdict()[name] for name in hidden] == [None] * len(hidden)
    assert set(bench.verdict()["companions"].values()) == {None}
    sitting = bench.job.sitting(bench.after, started_at="2026-05-20T09:00:00Z")
    for position, value in enumerate(FAST[2], start=1):
        assert bench.verdict()["look"] is None
        bench.job.run(sitting, position, value).raise_for_status()
    bench.job.run(sitting, 4, 20.0).raise_for_status()
    ready = bench.verdict()
    assert (ready["look"], ready["shown"]) == (1, False)
    assert bench.comparison()["closes"] == [sitting]
    bench.job.show(bench.after, [bench.job.time]).raise_for_status()
    given = bench.verdict()
    assert (given["look"], given["shown"], given["changed"]) == (1, True, False)
    assert bench.comparison()["closes"] == []


def test_a_verdict_closes_the_sitting_that_it_rests_on(api: httpx.Client) -> None:
    bench = Bench(api, FAST[:2], show=False)
    sitting = bench.job.sitting(bench.after, started_at="2026-05-20T09:00:00Z")
    for position, value in enumerate(FAST[2], start=1):
        bench.job.run(sitting, position, value).raise_for_status()
    bench.job.show(bench.after, [bench.job.time]).raise_for_status()
    refused = bench.job.run(sitting, 4, 20.0)
    assert (refused.status_code, refused.json()["code"]) == (409, "sitting_closed")
    seen = next(run for run in bench.runs_of(bench.after) if run["sitting"] == sitting)
    bench.save(seen, 29.9).raise_for_status()
    assert {"changed_after_verdict", "corrected_late"} <= codes(bench.verdict())


@pytest.mark.parametrize("by", ["read", "answered"])
def test_sittings_of_one_boot_are_one_and_an_answered_boot_is_judged_both_ways(api: httpx.Client, by: str) -> None:
    bench = Bench(api, [], show=False)
    for day in (10, 11, 12):
        bench.sit(FAST[day - 10], day, boot="one and the same", boot_by=by)
    result = bench.verdict()
    if by == "read":
        assert (result["units_after"], result["look"]) == (1, None)
    else:
        assert (result["verdict"], result["remark"]) == ("not_settled", "rests_on_boots")


def test_a_boot_called_another_after_closing_is_a_late_change(api: httpx.Client) -> None:
    bench = Bench(api, [], show=False)
    for day in (10, 11, 12):
        bench.sit(FAST[day - 10], day, boot="one and the same", boot_by="answered")
    for sitting in bench.job.case()["sittings"]:
        if sitting["build"] == bench.after:
            bench.move(sitting, boot=sitting["id"], boot_by="answered")
    result = bench.verdict()
    assert (result["verdict"], result["with_late"] is not None) == ("not_settled", True)
    assert "corrected_late" in codes(result)


def test_measured_over_everything_so_far_is_set_aside_and_the_level_halved(api: httpx.Client) -> None:
    bench = Bench(api, DOUBTFUL)
    version = Job.find_swap(bench.job.case(), bench.swap)["version"]
    body = {"reason": "a fan was unplugged", "sides": "both sides", "version": version}
    assert "at_most" in fields_of(bench.job.post(f"/swaps/{bench.swap}/attempts", body | {"at_most": 4}))
    bench.job.post(f"/swaps/{bench.swap}/attempts", body).raise_for_status()
    assert bench.verdict()["verdict"] == "untested"
    assert all(sitting["set_aside"]["over"] for sitting in bench.job.case()["sittings"])
    bench.job.measure(bench.job.build, SLOW, first_day=20)
    bench.job.measure(bench.after, FAST, first_day=24)
    result = bench.verdict()
    assert (result["verdict"], result["level"], result["with_late"]) == ("real_gain", 0.975, None)
    version = Job.find_swap(bench.job.case(), bench.swap)["version"]
    bench.job.post(f"/swaps/{bench.swap}/attempts", body | {"version": version}).raise_for_status()
    version = Job.find_swap(bench.job.case(), bench.swap)["version"]
    third = bench.job.post(f"/swaps/{bench.swap}/attempts", body | {"version": version})
    assert third.status_code == 409


def test_home_says_no_verdict_that_nobody_was_given(api: httpx.Client) -> None:
    bench = Bench(api, FAST, show=False)
    assert (bench.verdict()["can_be_shown"], bench.verdict()["shown"]) == (True, False)
    bench.job.show(bench.after, [bench.job.time]).raise_for_status()
    assert bench.verdict()["shown"] is True


def test_what_leaving_something_out_would_do_is_said_before_it_is_done(api: httpx.Client) -> None:
    """A sitting more decides here: without it only two are left, which scatter too much to show the gain."""
    bench = Bench(api, [[38.0, 38.1, 37.9], [38.9, 39.0, 38.8], [38.4, 38.5, 38.3]])
    last = bench.runs_of(bench.after)[-1]
    path = f"/machines/{bench.job.machine}/what-if"
    (change,) = api.get(path, params={"sitting": last["sitting"]}).raise_for_status().json()
    assert (change["measure"], change["now"], change["then"]) == (bench.job.time, "real_gain", "not_settled")
    # Without a run the sitting is short, and skipped as a whole.
    assert api.get(path, params={"run": last["id"]}).raise_for_status().json() == [change]
    assert bench.verdict()["verdict"] == "real_gain"
    bench.job.put(f"/sittings/{last['sitting']}/set-aside", {"reason": "the panel was off"}).raise_for_status()
    assert bench.verdict()["verdict"] == "not_settled"
    clear = Bench(api, FAST, show=False)
    run = clear.runs_of(clear.after)[0]["id"]
    assert api.get(path, params={"run": run}).status_code == 404
    assert api.get(f"/machines/{clear.job.machine}/what-if", params={"run": run}).raise_for_status().json() == []


def test_a_plan_stands_from_the_first_reading_ever_written_even_if_all_were_taken_back(api: httpx.Client) -> None:
    bench = Bench(api, DOUBTFUL, show=False)
    for run in bench.runs_of(bench.after):
        sitting = next(s for s in bench.job.case()["sittings"] if s["id"] == run["sitting"])
        body = {"sitting": run["sitting"], "workload": bench.job.workload, "position": run["position"]}
        emptied = {"readings": {}, "version": run["version"]}
        assert sitting["closed_at"] is not None
        bench.job.put(f"/runs/{run['id']}", body | emptied).raise_for_status()
    assert bench.verdict()["verdict"] == "not_settled"
    swap = Job.find_swap(bench.job.case(), bench.swap)
    plan = swap["plan"] | {"sittings_a_side": 2, "version": swap["plan_version"]}
    refused = bench.job.put(f"/swaps/{bench.swap}/plan", plan)
    assert (refused.status_code, refused.json()["code"]) == (409, "plan_fixed")


def test_a_trial_of_the_build_after_that_was_read_stays(api: httpx.Client) -> None:
    bench = Bench(api, [], show=False)
    sitting = bench.job.sitting(bench.after, purpose="trial")
    run = saved(bench.job.run(sitting, 1, 30.0))
    removed = bench.job.api.delete(f"/machines/{bench.job.machine}/runs/{run['id']}")
    assert (removed.status_code, "the plan stands from then on" in removed.json()["detail"]) == (409, True)


def test_notes_of_a_day_on_the_other_side_of_the_swap_are_refused_until_its_day_is_corrected(
    api: httpx.Client,
) -> None:
    bench = Bench(api, [], show=False)
    notes = {"build": bench.after, "started_at": "2026-05-10T12:00:00Z", "purpose": "earlier"}
    told = fields_of(bench.job.put(f"/sittings/{new_id()}", notes))["started_at"]
    assert "Build B stands after" in told
    assert "correct the day of the swap" in told
    day = f"/swaps/{bench.swap}/day"
    version = Job.find_swap(bench.job.case(), bench.swap)["version"]
    future = bench.job.put(day, {"opened_at": "2199-01-01T12:00:00Z", "version": version})
    assert "still to come" in fields_of(future)["opened_at"]
    bench.job.put(day, {"opened_at": "2026-05-08T12:00:00Z", "version": version}).raise_for_status()
    before = notes | {"build": bench.job.build}
    assert "Build A stands before" in fields_of(bench.job.put(f"/sittings/{new_id()}", before))["started_at"]
    # Nor is it let in by what it is called afterwards.
    planned = bench.job.sitting(bench.after, started_at="2026-05-04T12:00:00Z")
    kept = next(s for s in bench.job.case()["sittings"] if s["id"] == planned)
    called = {"build": bench.after, "started_at": "2026-05-04T12:00:00Z", "purpose": "earlier"}
    refused = bench.job.put(f"/sittings/{planned}", called | {"version": kept["version"]})
    assert "Build B stands after" in fields_of(refused)["started_at"]
    sitting = new_id()
    bench.job.put(f"/sittings/{sitting}", notes).raise_for_status()
    bench.job.run(sitting, 1, 30.0).raise_for_status()
    fixed = bench.job.put(day, {"opened_at": "2026-05-09T12:00:00Z", "version": version + 1})
    assert (fixed.status_code, fixed.json()["code"]) == (409, "sealed")


def test_a_sitting_whose_readings_were_taken_back_keeps_what_is_changed_of_it(api: httpx.Client) -> None:
    bench = Bench(api, [], show=False)
    sitting = bench.job.sitting(bench.after, boot="one", boot_by="answered")
    run = saved(bench.job.run(sitting, 1, 30.0))
    body = {"sitting": sitting, "workload": bench.job.workload, "position": 1, "readings": {}, "version": 1}
    bench.job.put(f"/runs/{run['id']}", body).raise_for_status()
    kept = next(s for s in bench.job.case()["sittings"] if s["id"] == sitting)
    bench.move(kept, boot="two", boot_by="answered")
    kept = next(s for s in bench.job.case()["sittings"] if s["id"] == sitting)
    assert [change["member"] for change in kept["changes"]] == ["boot"]


def _back_and_anew(bench: Bench, label: str) -> tuple[str, dict[str, Any]]:
    """The old part back in, then a part of the same role against the same build; answers the new build."""
    bench.job.post(f"/swaps/{bench.swap}/close", {"skipped": "a test", "version": 2}).raise_for_status()
    back, again, build = new_id(), new_id(), new_id()
    body = {"before": bench.after, "after": bench.job.build, "label": "Back", "costs": []}
    bench.job.put(f"/swaps/{back}", body).raise_for_status()
    bench.job.post(f"/swaps/{back}/open", {"reason": "a test", "version": 1}).raise_for_status()
    bench.job.post(f"/swaps/{back}/close", {"skipped": "a test", "version": 2}).raise_for_status()
    fitted = next(b for b in bench.job.case()["builds"] if b["id"] == bench.after)
    parts = [part | {"id": new_id(), "label": f"{part['label']} {label}"} for part in fitted["parts"]]
    described = {"label": "Spelt otherwise", "parts": parts, "settings": fitted["settings"]}
    there = {"before": bench.job.build, "after": build, "label": "Once more", "costs": [], "after_build": described}
    measures = {bench.job.time: {"matters_from": 2}, bench.job.rise: {"role": "watch", "matters_from": 1}}
    bench.job.plan(runs_a_sitting=3, sittings_a_side=3, measures=measures).raise_for_status()
    bench.job.put(f"/swaps/{again}", there).raise_for_status()
    bench.job.post(f"/swaps/{again}/open", {"reason": "a test", "version": 1}).raise_for_status()
    return build, {"swap": again, "label": parts[0]["label"], "role": parts[0]["role"]}


def test_a_part_spelt_otherwise_is_another_attempt_at_half_the_level(api: httpx.Client) -> None:
    bench = Bench(api, DOUBTFUL)
    build, _ = _back_and_anew(bench, "again")
    bench.job.measure(build, FAST, first_day=20)
    result = bench.verdict(bench.job.build, build)
    assert (result["level"], result["grade"]) == (0.975, "part_as_told")
    look = bench.comparison(bench.job.build, build)["worded"]["look"]
    assert "Attempt 2" in look
    assert "One of 2 compared with this baseline" in look


def test_a_kit_that_was_on_record_with_its_price_before_the_first_verdict_is_a_candidate(api: httpx.Client) -> None:
    bench = Bench(api, DOUBTFUL, show=False)
    kit = new_id()
    fitted = next(b for b in bench.job.case()["builds"] if b["id"] == bench.after)["parts"][0]
    record = {"role": fitted["role"], "label": f"{fitted['label']} other", "rated": {}, "price": "90.00"}
    bench.job.put(f"/candidates/{kit}", record).raise_for_status()
    bench.job.show(bench.after, [bench.job.time]).raise_for_status()
    build, there = _back_and_anew(bench, "other")
    bench.job.put(f"/candidates/{kit}", record | {"swap": there["swap"], "version": 1}).raise_for_status()
    bench.job.measure(build, FAST, first_day=20)
    assert bench.verdict(bench.job.build, build)["level"] == 0.95
    # What the agent reads of both tells them apart too.
    exported = api.get(f"/machines/{bench.job.machine}/run-file").json()
    assert exported["candidates"][0]["recorded_at"] is not None


def test_a_look_at_both_sides_is_kept_once_they_have_readings_and_only_the_first_one(api: httpx.Client) -> None:
    bench = Bench(api, [], show=False)

    def looked_at() -> str | None:
        bench.job.post("/looked", {"swaps": [bench.swap]}).raise_for_status()
        at: str | None = Job.find_swap(bench.job.case(), bench.swap)["looked_at"]
        return at

    assert looked_at() is None
    bench.job.run(bench.job.sitting(bench.after), 1, 30.0).raise_for_status()
    bench.job.api.get(f"/machines/{bench.job.machine}/comparison").raise_for_status()
    assert Job.find_swap(bench.job.case(), bench.swap)["looked_at"] is None
    first = looked_at()
    assert first is not None
    assert looked_at() == first
    assert bench.job.post("/looked", {"swaps": [new_id()]}).status_code == 404
    assert first in bench.job.api.get(f"/machines/{bench.job.machine}/run-file").text
