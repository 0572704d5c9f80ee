"""The parts shelf: a part leaves one machine at a value, and arrives in another one at it."""

from typing import Any

import httpx
import pytest

from tests.api.bodies import Job, fields_of, new_id


@pytest.fixture
def job(api: httpx.Client) -> Job:
    return Job.measured(api)


def planned(job: Job) -> str:
    swap = new_id()
    job.put(f"/swaps/{swap}", job.swap_body(new_id(), costs=[])).raise_for_status()
    return swap


def put(job: Job, swap: str, part: str, worth: str, shelf: str) -> httpx.Response:
    return job.put(f"/swaps/{swap}/shelf/{shelf}", {"part": part, "worth": worth})


def on_shelf(api: httpx.Client, shelf: str) -> dict[str, Any]:
    return dict(next(part for part in api.get("/shelf").json() if part["id"] == shelf))


def test_a_part_leaves_at_a_value_and_arrives_at_it_with_where_it_came_from(api: httpx.Client, job: Job) -> None:
    swap, shelf = planned(job), new_id()
    case = put(job, swap, job.processor, "20.00", shelf).raise_for_status().json()
    (left,) = Job.find_swap(case, swap)["costs"]
    assert (left["kind"], left["label"], left["amount"]) == ("reuse", "Varro 4-core, to the shelf", "20.00")
    assert Job.find_swap(case, swap)["net_written"] == "−20.00 EUR net"
    part = on_shelf(api, shelf)
    assert (part["label"], part["from_name"], part["rated"]) == ("Varro 4-core", "Test bench", {"cores": 4})

    other = Job.measured(api)
    into = planned(other)
    taken = other.post(f"/swaps/{into}/shelf/{shelf}/taken").raise_for_status().json()
    (arrived,) = Job.find_swap(taken, into)["costs"]
    assert (arrived["kind"], arrived["amount"], arrived["basis"]) == ("part", "20.00", "used")
    assert arrived["supplier"] == "the shelf, out of Test bench"
    assert on_shelf(api, shelf)["taken_name"] == "Test bench"
    again = other.post(f"/swaps/{into}/shelf/{shelf}/taken")
    assert (again.status_code, again.json()["code"]) == (409, "clash")
    assert len(Job.find_swap(other.case(), into)["costs"]) == 1


def test_only_what_came_out_goes_there_and_only_once(api: httpx.Client, job: Job) -> None:
    swap = planned(job)
    stranger = put(job, swap, new_id(), "5.00", new_id())
    assert (stranger.status_code, list(fields_of(stranger))) == (404, ["part"])
    put(job, swap, job.processor, "5.00", new_id()).raise_for_status()
    twice = put(job, swap, job.processor, "5.00", new_id())
    assert twice.status_code == 409
    assert len(Job.find_swap(job.case(), swap)["costs"]) == 1, "nothing of the second was saved"


def test_a_part_is_noted_by_hand_edited_and_taken_off_until_a_machine_took_it(api: httpx.Client, job: Job) -> None:
    shelf = new_id()
    body = {"role": "drive", "label": "Siskin 240 GB", "worth": "15.00", "currency": "EUR", "put_on": "2026-05-04"}
    api.put(f"/shelf/{shelf}", json=body).raise_for_status()
    api.put(f"/shelf/{shelf}", json=body | {"worth": "12.00", "version": 1}).raise_for_status()
    stale = api.put(f"/shelf/{shelf}", json=body | {"worth": "11.00", "version": 1})
    assert (stale.status_code, stale.json()["code"]) == (409, "stale")
    swap = planned(job)
    job.post(f"/swaps/{swap}/shelf/{shelf}/taken").raise_for_status()
    assert api.delete(f"/shelf/{shelf}").status_code == 409
    edited = api.put(f"/shelf/{shelf}", json=body | {"worth": "1.00", "version": 3})
    assert edited.status_code == 409
    assert on_shelf(api, shelf)["worth"] == "12.00"
    bare = new_id()
    api.put(f"/shelf/{bare}", json=body).raise_for_status()
    left = api.delete(f"/shelf/{bare}").raise_for_status().json()
    assert bare not in [part["id"] for part in left]


def test_a_part_in_another_currency_is_refused_with_what_to_do(api: httpx.Client, job: Job) -> None:
    shelf, swap = new_id(), planned(job)
    body = {"role": "drive", "label": "Siskin", "worth": "15.00", "currency": "CHF", "put_on": "2026-05-04"}
    api.put(f"/shelf/{shelf}", json=body).raise_for_status()
    refused = job.post(f"/swaps/{swap}/shelf/{shelf}/taken")
    assert refused.status_code == 409
    assert "change its worth on the shelf first" in refused.json()["detail"]
    assert on_shelf(api, shelf)["taken_on"] is None
