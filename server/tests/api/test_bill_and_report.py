"""Bill and report over HTTP: costs are kept to the last member, and a report that was handed out stays as it was."""

from typing import Any

import httpx
import pytest

from tests.api.bodies import Job, fields_of, new_id

FAST = [[30.0, 30.2, 30.1], [30.3, 30.1, 30.2], [30.1, 30.0, 30.2]]


@pytest.fixture
def job(api: httpx.Client) -> Job:
    """One whose baseline is complete."""
    job = Job.measured(api)
    job.plan(sittings_a_side=3, runs_a_sitting=3).raise_for_status()
    return job


def line(amount: str, kind: str = "part", **members: Any) -> dict[str, Any]:
    return {"kind": kind, "label": kind, "amount": amount, "currency": "EUR"} | members


def swapped(job: Job, *costs: dict[str, Any], before: str | None = None) -> dict[str, Any]:
    """A swap that was made, with three sittings on the build after."""
    after = new_id()
    swap = job.swap(after, costs=list(costs), before=before or job.build)
    body = {"skipped": "a test", "version": swap["version"]}
    case = job.post(f"/swaps/{swap['id']}/close", body).raise_for_status().json()
    return Job.find_swap(case, swap["id"])


def measured(job: Job, *costs: dict[str, Any]) -> dict[str, Any]:
    swap = swapped(job, *costs)
    job.measure(swap["after"], FAST, first_day=10)
    job.show(swap["after"], [job.time]).raise_for_status()
    return Job.find_swap(job.case(), swap["id"])


def save_costs(job: Job, swap: dict[str, Any], *costs: dict[str, Any]) -> httpx.Response:
    names = ("before", "after", "label", "side_changes", "declares", "version")
    return job.put(f"/swaps/{swap['id']}", {name: swap[name] for name in names} | {"costs": list(costs)})


def reckoning(job: Job, swap: dict[str, Any], **query: Any) -> dict[str, Any]:
    pair = {"before": swap["before"], "after": swap["after"]}
    answer = job.api.get(f"/machines/{job.machine}/reckoning", params=pair | query).raise_for_status()
    return dict(answer.json())


def report_body(swap: dict[str, Any], **fields: Any) -> dict[str, Any]:
    return {"before": swap["before"], "after": swap["after"], "changed_since": ""} | fields


def test_every_member_of_a_cost_line_comes_back_and_is_in_the_run_file(job: Job) -> None:
    swap = swapped(job)
    running = {
        "by": "tasks",
        "a_day": 40.0,
        "days_a_year": 250.0,
        "before": None,
        "after": None,
        "power": job.rise,
        "time": job.time,
    }
    lines = [
        line("118.00", basis="used", supplier="an auction", on="2026-05-01"),
        line("0.00", basis="gift", worth="49.00"),
        line("6.40", "consumable", quantity="0.2", unit="of a tube", split_by="even", shares={swap["id"]: "1"}),
        line("0.32", "electricity", running=running),
    ]
    kept = Job.find_swap(save_costs(job, swap, *lines).raise_for_status().json(), swap["id"])
    for sent, known in zip(lines, kept["costs"], strict=True):
        assert {name: known[name] for name in sent} == sent
    file = job.api.get(f"/machines/{job.machine}/run-file").json()
    assert [cost["kind"] for cost in file["swaps"][0]["costs"]] == ["part", "part", "consumable", "electricity"]
    assert file["swaps"][0]["costs"][3]["running"]["power"] == job.rise
    copy = new_id()
    file["machine"]["id"] = copy
    again = Job(job.api, machine=copy)
    assert again.api.post("/run-files", json=file).status_code == 409, "its swaps have ids that are here already"


@pytest.mark.parametrize(
    ("cost", "field", "says"),
    [
        (line("5.00", basis="gift"), "costs.0", "nothing is paid"),
        (line("5.00", shares={new_id(): "1"}), "costs.0", "has both a rule"),
        (line("5.00", split_by="even", shares={new_id(): "1"}), "costs.0.shares", "no such swap"),
        (line("5.00", running={"by": "hours", "a_day": 1, "days_a_year": 9}), "costs.0.running", "both sides take"),
        (line("5.00", quantity="0"), "costs.0.quantity", "more than 0"),
        (line("5.00", currency="USD"), "costs.0.rate", "rate of exchange"),
    ],
)
def test_a_cost_line_that_can_t_be_is_refused_by_its_place(
    job: Job, cost: dict[str, Any], field: str, says: str
) -> None:
    swap = swapped(job)
    refused = save_costs(job, swap, cost)
    assert refused.status_code in (404, 422)
    found = fields_of(refused)
    assert any(name.startswith(field) and says in message.casefold() for name, message in found.items()), found
    assert Job.find_swap(job.case(), swap["id"])["costs"] == []


def test_a_bill_is_made_up_on_every_switch_that_makes_a_difference(job: Job) -> None:
    running = {"by": "hours", "a_day": 8, "days_a_year": 250, "before": 60, "after": 50}
    swap = measured(
        job,
        line("100.00"),
        line("35.00", "labour", quantity="0.5", unit="h"),
        line("0.30", "electricity", running=running),
    )
    assert swap["net_written"] == "117.50 EUR net"
    sentences = reckoning(job, swap, years=3)
    nets = {(one["labour"], one["years"]): one["account"]["net"] for one in sentences["settings"]}
    # 10 W less, 8 hours on 250 days: 20 kWh, 6.00 a year.
    assert nets == {
        (True, 0): "117.50 EUR",
        (False, 0): "100.00 EUR",
        (True, 3): "99.50 EUR",
        (False, 3): "82.00 EUR",
    }
    assert [len(one["options"]) for one in sentences["settings"]] == [2, 2, 2, 2]
    assert "Job" not in sentences["bundle"] if sentences["bundle"] else True
    assert job.api.get(f"/machines/{job.machine}/reckoning", params={"years": 31}).status_code == 422


def test_what_judge_has_not_given_has_no_value_here(job: Job) -> None:
    swap = swapped(job, line("100.00"))
    job.measure(swap["after"], FAST, first_day=10)
    sentences = reckoning(job, swap)
    assert sentences["to_judge"]
    assert "judge it" in sentences["settings"][0]["bill"]["sentence"]
    assert {claim["verdict"] for claim in sentences["settings"][0]["claims"]} == {"untested"}


def test_a_report_is_handed_out_once_for_the_same_evidence_and_shown_again_as_it_was(job: Job) -> None:
    swap = measured(job, line("100.00"))
    draft = job.post("/report-draft", report_body(swap)).raise_for_status().json()
    assert draft["answer"].startswith("Time takes 25 % less time (+33 % speed), and that is more")
    assert job.api.get(f"/machines/{job.machine}/reports").json() == [], "a draft is kept nowhere"
    unasked = job.post("/reports", report_body(swap, changed_since=None))
    assert "changed_since" in fields_of(unasked)
    first = job.post("/reports", report_body(swap)).raise_for_status().json()
    assert (first["number"], first["since"]) == (1, [])
    assert job.post("/reports", report_body(swap)).json()["id"] == first["id"]
    other_form = job.post("/reports", report_body(swap, form="full")).raise_for_status().json()
    assert (other_form["number"], other_form["form"], other_form["since"]) == (2, "full", [])
    save_costs(job, Job.find_swap(job.case(), swap["id"]), line("90.00")).raise_for_status()
    second = job.post("/reports", report_body(swap)).raise_for_status().json()
    assert (second["number"], second["since"]) == (3, ["The net cost was: 100.00 EUR."])
    again = job.api.get(f"/machines/{job.machine}/reports/{first['id']}").raise_for_status().json()
    assert again == first
    lines = job.api.get(f"/machines/{job.machine}/reports").json()
    assert [known["number"] for known in lines] == [3, 2, 1]


def test_a_report_of_another_machine_is_none_of_this_one(api: httpx.Client, job: Job) -> None:
    made = job.post("/reports", report_body(measured(job, line("5.00")))).raise_for_status().json()
    other = Job(api).describe()
    assert api.get(f"/machines/{other.machine}/reports/{made['id']}").status_code == 404
    assert api.get(f"/machines/{other.machine}/reports").json() == []
    assert api.get(f"/machines/{new_id()}/reports").status_code == 404


def test_the_same_figures_stand_on_judge_bill_and_report(job: Job) -> None:
    swap = measured(job, line("100.00"))
    pair = {"before": swap["before"], "after": swap["after"]}
    sentence = job.api.get(f"/machines/{job.machine}/comparison", params=pair).json()["worded"]
    bill = reckoning(job, swap)["settings"][0]
    report = job.post("/report-draft", report_body(swap)).json()
    row = next(row for row in report["rows"] if row["measure"] == job.time)
    claim = next(claim for claim in bill["claims"] if claim["measure"] == job.time)
    judged = sentence["measures"][job.time]
    assert row["change"] == judged["change"]
    assert claim["change"].startswith(judged["change"])
    assert row["interval"] == claim["interval"] == judged["interval"]
    assert row["value"] == claim["value"] == bill["bill"]["values"][job.time]
    assert report["setting"]["bill"] == bill["bill"]
