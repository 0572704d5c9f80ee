"""What may not be done in a job, called directly: each refusal names its field or its state, and nothing changes."""

from collections.abc import Callable
from typing import Any

import httpx
import pytest

from tests.api.bodies import Job, fields_of, new_id

NOW = "2026-06-01T10:00:00Z"


def with_open_case(api: httpx.Client) -> Job:
    job = Job.measured(api)
    job.swap(new_id(), side_changes=["dust-out", "fresh paste"])
    return job


@pytest.fixture
def job(api: httpx.Client) -> Job:
    """A machine with a case open, nothing measured after it yet."""
    return with_open_case(api)


@pytest.fixture(scope="module")
def unchanged(api: httpx.Client) -> Job:
    """One for all that is refused, since nothing of it may change."""
    return with_open_case(api)


def swap_of(job: Job) -> dict[str, Any]:
    first: dict[str, Any] = job.case()["swaps"][0]
    return first


def on_swap(path: str, body: dict[str, Any], method: str = "PUT") -> Callable[[Job], httpx.Response]:
    def send(job: Job) -> httpx.Response:
        address = f"/machines/{job.machine}/swaps/{swap_of(job)['id']}{path.format(new=new_id())}"
        return job.api.request(method, address, json=body)

    return send


def whole_swap_first(job: Job) -> httpx.Response:
    """Everything that the swap changes, done in the first of two stages."""
    stage = {
        "swap": new_id(),
        "build": new_id(),
        "label": "All of it",
        "build_label": "Done",
        "differences": swap_of(job)["declares"],
        "side_changes": ["dust-out", "fresh paste"],
        "version": swap_of(job)["version"],
    }
    return job.post(f"/swaps/{swap_of(job)['id']}/split", stage)


def plan_with(**fields: Any) -> Callable[[Job], httpx.Response]:
    def send(job: Job) -> httpx.Response:
        swap = swap_of(job)
        return job.put(f"/swaps/{swap['id']}/plan", swap["plan"] | fields | {"version": swap["plan_version"]})

    return send


PART = {"role": "memory", "label": "Marl 16 GB"}
LINE = {"what": "name", "expected": "Varro 6-core"}


@pytest.mark.parametrize(
    ("send", "status", "field", "says"),
    [
        (on_swap("/recognitions/{new}", LINE | {"seen": " ", "result": "fail"}), 422, "seen", "what was seen"),
        (on_swap("/recognitions/{new}", LINE | {"seen": "4-core", "result": "pass"}), 422, "result", "no plain pass"),
        (on_swap("/starts/{new}", {"at": NOW, "booted": False}), 422, "note", "kept it from starting"),
        (on_swap("/explanations/{new}", {"text": "Heat", "state": "ruled out"}), 422, "grounds", "speaks for it"),
        (on_swap("/notes/{new}/picture", {}), 422, "picture", "no PNG or JPEG"),
        (whole_swap_first, 422, "differences", "nothing is left"),
        (plan_with(headline=new_id()), 422, "headline", "planned measures"),
        (plan_with(measures={new_id(): {"matters_from": 2}}, headline=None), 422, "measures", "does not have"),
        (lambda j: j.put(f"/swaps/{new_id()}/plan", {"version": 1}), 404, "swap", "no such swap"),
        (lambda j: j.put(f"/candidates/{new_id()}", PART | {"swap": new_id()}), 404, "swap", "no such swap"),
        (lambda j: j.put(f"/sittings/{new_id()}", {"build": new_id(), "started_at": NOW}), 404, "build", "no such"),
        (lambda j: j.run(j.sitting(), 1, 40.0, workload=new_id()), 404, "workload", "no such task"),
        (lambda j: j.put(f"/rechecks/{new_id()}", {"build": j.build, "due_on": "soon"}), 422, "due_on", "date"),
    ],
)  # fmt: skip
def test_a_refusal_names_its_field_and_changes_nothing(
    unchanged: Job, send: Callable[[Job], httpx.Response], status: int, field: str, says: str
) -> None:
    def rest() -> dict[str, Any]:
        return {key: value for key, value in unchanged.case().items() if key not in ("sittings", "revision")}

    before = rest()
    response = send(unchanged)
    assert response.status_code == status, response.text
    assert says in fields_of(response)[field]
    assert rest() == before


def test_one_case_is_open_at_a_time_and_what_is_closed_stays_so(job: Job) -> None:
    swap = swap_of(job)
    second = new_id()
    body = job.swap_body(new_id(), before=swap["after"], label="Second", side_changes=["dust-out"])
    job.put(f"/swaps/{second}", body).raise_for_status()
    waiting = job.post(f"/swaps/{second}/open", {"reason": "test", "version": 1})
    assert (waiting.status_code, waiting.json()["code"]) == (409, "case_not_open")
    assert "close that one first" in waiting.json()["detail"]
    unopened = job.post(f"/swaps/{second}/close", {"version": 1})
    assert (unopened.status_code, unopened.json()["details"]["state"]) == (409, "planned")
    job.post(f"/swaps/{swap['id']}/close", {"skipped": "a test", "version": swap["version"]}).raise_for_status()
    assert whole_swap_first(job).json()["code"] == "case_not_open"
    assert job.post(f"/swaps/{swap['id']}/close", {"version": 3}).json()["details"]["state"] == "closed"


def test_what_was_measured_together_is_not_split_any_more(job: Job) -> None:
    job.measure(swap_of(job)["after"], [[30.0, 30.2]])
    response = whole_swap_first(job)
    assert (response.status_code, response.json()["code"]) == (409, "sealed")


def test_sending_a_plan_twice_changes_it_once(job: Job) -> None:
    swap = swap_of(job)
    path, body = f"/swaps/{swap['id']}/plan", swap["plan"] | {"rest_min": 2, "version": swap["plan_version"]}
    once = Job.find_swap(job.put(path, body).raise_for_status().json(), swap["id"])
    twice = Job.find_swap(job.put(path, body).raise_for_status().json(), swap["id"])
    assert (once["plan"]["rest_min"], once["plan_version"]) == (2, swap["plan_version"] + 1)
    assert twice == once


def test_measures_neither_join_nor_leave_a_plan_once_the_after_side_is_measured(job: Job) -> None:
    job.measure(swap_of(job)["after"], [[30.0, 30.2]])
    swap = swap_of(job)
    (one, *_) = swap["plan"]["measures"]
    response = plan_with(measures={one: swap["plan"]["measures"][one]}, headline=one)(job)
    assert (response.status_code, response.json()["code"]) == (409, "plan_fixed")
    assert "can't join or leave" in fields_of(response)["measures"]


def test_notes_and_starts_are_corrected_with_their_version(job: Job) -> None:
    swap, note, start = swap_of(job)["id"], new_id(), new_id()
    for path, body, change in (
        (f"/swaps/{swap}/notes/{note}", {"at": NOW, "text": "Long screws left"}, {"text": "Long screws right"}),
        (f"/swaps/{swap}/starts/{start}", {"at": NOW, "booted": True}, {"note": "beeped twice"}),
    ):
        job.put(path, body).raise_for_status()
        job.put(path, body | change | {"version": 1}).raise_for_status()
        stale = job.put(path, body | {"version": 1})
        assert (stale.status_code, stale.json()["code"]) == (409, "stale")
    kept = swap_of(job)
    assert [known["text"] for known in kept["notes"]] == ["Long screws right"]
    assert [known["note"] for known in kept["starts"]] == ["beeped twice"]
