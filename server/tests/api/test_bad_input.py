# ruff: noqa: E501
"""Everything from outside can be wrong: each gets an error that names its place and the remedy, and saves nothing."""

import json
from collections.abc import Callable
from typing import Any

import httpx
import psycopg
import pytest

from tests.api.bodies import Job, fields_of, judged_benches, new_id
from tests.conftest import ROOT, LiveServer


@pytest.fixture(scope="module")
def job(api: httpx.Client) -> Job:
    return Job(api).describe()


@pytest.fixture(scope="module")
def sealed(api: httpx.Client) -> Job:
    job = Job(api).describe()
    job.measure(job.build, [[40.0]])
    return job


@pytest.mark.parametrize(
    ("reading", "says"),
    [
        (0, "above zero"),
        (-4, "above zero"),
        ("-4", "above zero"),
        ("fast", "not a number"),
        ("1.2.3", "two decimal marks"),
        ("41 parsecs", "not a unit known here"),
        ("41 MB/s", "data rate"),
        ("1e999", "too large"),
        ("9" * 100, "too long"),
        ("1e-200", "lies between"),
    ],
)
def test_a_bad_reading_is_named_with_its_measure(job: Job, reading: object, says: str) -> None:
    response = job.run(job.sitting(), 1, reading)
    assert response.status_code == 422
    assert says in fields_of(response)[f"readings.{job.time}"]


def test_all_bad_cells_of_a_row_are_named_at_once(job: Job) -> None:
    response = job.run(job.sitting(), 1, "fast", readings={job.time: "fast", job.rise: "5:30"})
    assert set(fields_of(response)) == {f"readings.{job.time}", f"readings.{job.rise}"}


@pytest.mark.parametrize(
    ("held", "says"),
    [
        ("a\x00b", "control character"),
        ("x" * 501, "at most 500 characters"),
        (10**400, "too large"),
        ([1, 2], "a text, a number, true or false"),
        ({"a": 1}, "a text, a number, true or false"),
    ],
)
def test_what_a_workload_is_held_to_is_checked_once_and_named(job: Job, held: object, says: str) -> None:
    response = job.put(f"/workloads/{job.workload}", job.workload_body(parameters={"preset": held}, version=1))
    assert response.status_code == 422
    assert list(fields_of(response)) == ["parameters.preset"]
    assert says in fields_of(response)["parameters.preset"]


@pytest.mark.parametrize("half", ["\\ud800", "\\u0000"])
@pytest.mark.parametrize("field", ["name", "owner", "question", "time_zone", "currency"])
def test_half_a_character_and_a_nul_are_refused_wherever_they_stand(job: Job, field: str, half: str) -> None:
    body = json.dumps({"name": "Bench", "currency": "EUR", "version": 1, field: "aHERE"}).replace("HERE", half)
    headers = {"content-type": "application/json"}
    response = job.api.put(f"/machines/{job.machine}", content=body.encode(), headers=headers)
    assert response.status_code == 422
    assert field in fields_of(response)


@pytest.mark.parametrize(
    ("change", "field", "says"),
    [
        ({"state": "spoiled"}, "reason", "Say why"),
        ({"state": "failed", "reason": "   "}, "reason", "Say why"),
        ({"state": "fine"}, "state", "complete"),
        ({"position": 0}, "position", "1 or more"),
        ({"sitting": None}, "sitting", "UUID"),
        ({"colour": "red"}, "colour", "not part of the format"),
        ({"reason": "x" * 300}, "reason", "at most 200 characters"),
        ({"readings": {"not-a-measure": 4}}, "readings.not-a-measure.[key]", "UUID"),
    ],
)
def test_a_bad_run_is_named_with_its_field(job: Job, change: dict[str, Any], field: str, says: str) -> None:
    run = {"sitting": job.sitting(), "workload": job.workload, "position": 1, "readings": {job.time: 40.0}}
    response = job.put(f"/runs/{new_id()}", run | change)
    assert response.status_code == 422
    assert says in fields_of(response)[field]


def test_a_run_without_a_sitting_that_exists_is_refused(job: Job) -> None:
    response = job.run(new_id(), 1, 40.0)
    assert response.status_code == 404
    assert "Begin a sitting" in fields_of(response)["sitting"]


def test_a_reading_of_another_workload_is_refused(job: Job) -> None:
    foreign = new_id()
    response = job.run(job.sitting(), 1, 40.0, readings={foreign: 3})
    assert "does not belong" in fields_of(response)[f"readings.{foreign}"]


def test_two_runs_cannot_take_one_place(job: Job) -> None:
    sitting = job.sitting()
    job.run(sitting, 1, 40.0).raise_for_status()
    response = job.run(sitting, 1, 41.0)
    assert response.status_code == 409
    assert response.json()["code"] == "taken"


def test_nothing_of_a_refused_run_is_saved(job: Job) -> None:
    before = len(job.case()["runs"])
    job.run(job.sitting(), 1, "fast")
    assert len(job.case()["runs"]) == before


def swap(change: dict[str, Any]) -> Callable[[Job], httpx.Response]:
    return lambda job: job.put(f"/swaps/{new_id()}", job.swap_body(new_id(), **change))


FOREIGN = {"kind": "part", "label": "x", "amount": "5", "currency": "USD"}


@pytest.mark.parametrize(
    ("send", "status", "field", "says"),
    [
        (swap({"costs": [FOREIGN]}), 422, "costs.0.rate", "rate of exchange"),
        (swap({"costs": [FOREIGN | {"currency": "EUR", "amount": "a lot"}]}), 422, "costs.0.amount", "one decimal mark"),
        (swap({"costs": [FOREIGN | {"currency": "EUR", "amount": 5.5}]}), 422, "costs.0.amount", "decimal string"),
        (swap({"costs": [FOREIGN | {"currency": "EUR", "amount": "-5"}]}), 422, "costs.0.amount", "0 or more"),
        (swap({"costs": [FOREIGN | {"currency": "euro"}]}), 422, "costs.0.currency", "three capital letters"),
        (swap({"label": "x" * 300}), 422, "label", "at most 200 characters"),
        (swap({"label": " "}), 422, "label", "at least 1 character"),
        (swap({"after_build": None}), 422, "after_build", "after the swap"),
        (lambda j: j.put(f"/swaps/{new_id()}", j.swap_body(j.build)), 422, "after", "leads to another build"),
        (
            lambda j: j.put(f"/swaps/{new_id()}", j.swap_body(new_id(), after_build=j.build_body())),
            422, "after_build", "Nothing differs",
        ),
        (lambda j: j.put(f"/builds/{j.build}", j.build_body(settings={"threads": 8}, version=1)), 409, "parts", "sealed"),
        (lambda j: j.put(f"/builds/{j.build}", j.build_body(parts=[], version=1)), 409, "parts", "sealed"),
        (
            lambda j: j.put(f"/workloads/{j.workload}", j.workload_body(measures=[j.workload_body()["measures"][0] | {"unit": "min"}])),
            422, "measures.0.unit", "has readings",
        ),
        (lambda j: j.put("", {"name": "x", "currency": "EUR", "time_zone": "Moon/Base"}), 422, "time_zone", "not a time zone"),
        (lambda j: j.put("", {"name": "x", "currency": "EUR", "question": "x" * 20_001}), 422, "question", "at most 20,000"),
        (lambda j: j.put("/plan", {"headline": new_id(), "version": 1}), 422, "headline", "planned measures"),
        (lambda j: j.put("/plan", {"sittings_a_side": 0}), 422, "sittings_a_side", "1 or more"),
    ],
)  # fmt: skip
def test_other_bad_input_is_named_with_its_field(
    sealed: Job, send: Callable[[Job], httpx.Response], status: int, field: str, says: str
) -> None:
    response = send(sealed)
    assert response.status_code == status
    assert says in fields_of(response)[field]


def test_a_label_may_still_be_corrected_on_a_sealed_build(sealed: Job) -> None:
    version = sealed.case()["builds"][0]["version"]
    sealed.put(f"/builds/{sealed.build}", sealed.build_body(label="Renamed", version=version)).raise_for_status()
    assert sealed.case()["builds"][0]["label"] == "Renamed"


def test_a_second_first_build_is_refused(job: Job) -> None:
    response = job.put(f"/builds/{new_id()}", job.build_body())
    assert response.status_code == 422
    assert "swap" in response.json()["detail"]


def test_what_is_not_there_is_404(api: httpx.Client) -> None:
    response = api.get(f"/machines/{new_id()}")
    assert response.status_code == 404
    assert response.json()["code"] == "missing"
    assert api.get("/nowhere").status_code == 404


@pytest.mark.parametrize("content", [b'{"name": ', b"\xff\xfe", b"[]"])
def test_broken_json_is_refused_in_words(job: Job, content: bytes) -> None:
    response = job.api.put(f"/machines/{job.machine}", content=content, headers={"Content-Type": "application/json"})
    assert response.status_code in (400, 422)
    assert response.json()["detail"]
    assert job.api.post("/run-files", content=content).status_code == 422


def test_a_paste_of_50_mb_is_refused_before_it_is_read(job: Job) -> None:
    giant = b'{"name": "' + b"x" * (50 * 2**20) + b'"}'
    response = job.api.put(f"/machines/{job.machine}", content=giant)
    assert response.status_code == 413
    assert "at most 5 MB" in response.json()["detail"]
    chunks = (giant[i : i + 2**20] for i in range(0, len(giant), 2**20))
    assert job.api.post("/run-files", content=(b"x" * 2**20 for _ in range(102))).status_code == 413
    assert job.api.put(f"/machines/{job.machine}", content=chunks).status_code == 413


@pytest.mark.parametrize(
    ("headers", "status"),
    [
        ({"Host": "evil.example"}, 421),
        ({"Host": "127.0.0.1.evil.example"}, 421),
        ({"Origin": "http://evil.example"}, 403),
        ({"Origin": "null"}, 403),
        ({"Sec-Fetch-Site": "cross-site", "Sec-Fetch-Mode": "no-cors", "Sec-Fetch-Dest": "image"}, 403),
        ({"Sec-Fetch-Site": "cross-site", "Sec-Fetch-Mode": "navigate", "Sec-Fetch-Dest": "iframe"}, 403),
        ({"Sec-Fetch-Site": "same-site", "Sec-Fetch-Mode": "cors", "Sec-Fetch-Dest": "empty"}, 403),
        ({"Sec-Fetch-Site": "cross-site", "Sec-Fetch-Mode": "navigate", "Sec-Fetch-Dest": "document"}, 200),
        ({"Sec-Fetch-Site": "same-origin", "Sec-Fetch-Mode": "cors", "Sec-Fetch-Dest": "empty"}, 200),
        ({"Sec-Fetch-Site": "none", "Sec-Fetch-Mode": "navigate", "Sec-Fetch-Dest": "document"}, 200),
    ],
)
def test_strangers_are_refused(api: httpx.Client, headers: dict[str, str], status: int) -> None:
    assert api.get("/machines", headers=headers).status_code == status


def test_the_description_is_openapi_3_1(api: httpx.Client) -> None:
    assert api.get("/openapi.json").json()["openapi"].startswith("3.1")


@pytest.mark.parametrize(
    "instant",
    [
        *("0001-01-01T00:00:00Z", "0001-01-01T00:00:00+05:00", "9999-12-31T23:59:59Z", "9999-12-31T23:00:00-05:00"),
        # In its own zone it is a year of the bench, and stored it is none.
        *("2199-12-31T23:59:59-10:00", "1970-01-01T00:00:00+05:00"),
    ],
)
def test_an_instant_that_no_bench_saw_is_refused_with_its_field(job: Job, instant: str) -> None:
    sitting = job.sitting()
    begun = job.put(f"/sittings/{new_id()}", {"build": job.build, "started_at": instant})
    ran = job.run(sitting, 1, 40.0, started_at=instant)
    for response in (begun, ran):
        assert response.status_code == 422
        assert "write one from 1970 to 2199" in fields_of(response)["started_at"]
    file = json.loads(job.api.get(f"/machines/{job.machine}/run-file").text)
    file["machine"]["id"], file["sittings"][0]["started_at"] = new_id(), instant
    assert "write one from 1970" in fields_of(job.api.post("/run-files", json=file))["$.sittings[0].started_at"]


def test_home_shows_every_other_machine_whatever_one_of_them_holds(
    api: httpx.Client, demo_server: LiveServer
) -> None:
    job = Job(api).describe(name="Damaged bench")
    sitting = job.sitting()
    move = "UPDATE sittings SET started_at = %s WHERE id = %s"
    touch = "UPDATE machines SET revision = revision + 1 WHERE id = %s"
    with psycopg.connect(demo_server.database_url, autocommit=True) as connection:
        connection.execute(move, ("10000-01-01T00:00:00Z", sitting))
        connection.execute(touch, (job.machine,))
        (damaged,) = judged_benches(api, find="Damaged bench")
        assert (damaged["state"], damaged["line"]) == ("unreadable", None)
        assert judged_benches(api, find="Plotting PC")[0]["state"] == "judged"
        connection.execute(move, ("2026-05-04T09:10:00Z", sitting))
        connection.execute(touch, (job.machine,))
    assert judged_benches(api, find="Damaged bench")[0]["state"] == "judged"


def test_one_thing_that_is_dated_impossibly_takes_nothing_of_its_machine_with_it(
    api: httpx.Client, demo_server: LiveServer
) -> None:
    job = Job(api).describe(name="Out of its years")
    sitting = job.sitting()
    run = job.run(sitting, 1, 40.0).raise_for_status().json()["runs"][0]
    with psycopg.connect(demo_server.database_url, autocommit=True) as connection:
        connection.execute("UPDATE sittings SET started_at = %s WHERE id = %s", ("2200-01-01T09:00:00Z", sitting))
        connection.execute("UPDATE runs SET written_at = %s WHERE id = %s", ("1969-12-31T19:00:00Z", run["id"]))
        connection.execute("UPDATE machines SET revision = revision + 1 WHERE id = %s", (job.machine,))
    assert job.case()["sittings"][0]["started_at"].startswith("2200")
    assert job.runs()[0]["written_at"].startswith("1969")
    assert job.api.get(f"/machines/{job.machine}/run-file").status_code == 200


@pytest.mark.parametrize("mark", ["\u202e", "\u2066", "\u200f", "\u061c", "\u2069"])
def test_marks_that_turn_what_stands_behind_them_are_refused_in_every_name(job: Job, mark: str) -> None:
    name = f"Plotting{mark} PC"
    machine = job.put("", {"name": name, "currency": "EUR", "version": 1})
    build = job.put(f"/builds/{job.build}", job.build_body(label=name, version=1))
    part = job.build_body(version=1)
    part["parts"][0]["label"] = name
    note = job.run(job.sitting(), 1, 41.9, note=name)
    setting = job.put(f"/builds/{job.build}", job.build_body(settings={"desk": name}, version=1))
    for response in (machine, build, job.put(f"/builds/{job.build}", part), note, setting):
        assert response.status_code == 422
        assert "control character" in response.json()["errors"][0]["message"]


def test_letters_from_right_to_left_are_names_like_others(job: Job) -> None:
    name = "\u05de\u05d3\u05e4\u05e1\u05ea"
    assert job.put("", {"name": name, "currency": "EUR", "version": 1}).json()["machine"]["name"] == name


@pytest.mark.parametrize(
    ("typed", "says"),
    [("1,5", "one decimal mark"), ("abc", "one decimal mark"), ("-3", "write 0 or more"), ("1.23456", "at most 4")],
)
def test_an_amount_that_is_none_is_refused_in_words(job: Job, typed: str, says: str) -> None:
    refused = job.put("", {"name": "x", "currency": "EUR", "labour_rate": typed, "version": 1})
    assert says in fields_of(refused)["labour_rate"].lower()


@pytest.mark.parametrize(
    "path", ["/machines?find=%00", "/machines?find=a%00b&page=1", "/machine-names%00", "/pairings"]
)
def test_a_nul_is_refused_wherever_it_stands_and_is_no_fault_of_the_database(api: httpx.Client, path: str) -> None:
    answer = api.post(path, json={"code": "ab\0c"}) if path == "/pairings" else api.get(path)
    assert answer.status_code == 422
    assert answer.headers["content-type"] == "application/problem+json"


@pytest.mark.parametrize("name", ["\u200b", " \u00a0 ", "\u3164", "\u2060\u00ad", "\uffa0\u3164", "\ufeff"])
def test_a_name_of_which_nothing_can_be_seen_is_refused(api: httpx.Client, name: str) -> None:
    answer = api.put(f"/machines/{new_id()}", json={"name": name, "currency": "EUR"})
    assert answer.status_code == 422
    assert "name" in fields_of(answer)


def test_a_file_brings_no_name_in_that_cannot_be_seen(api: httpx.Client) -> None:
    file = json.loads((ROOT / "docs" / "example.runs.json").read_text())
    file["builds"][0]["label"] = "\u3164"
    answer = api.post("/run-files", content=json.dumps(file))
    assert "$.builds[0].label" in fields_of(answer)


def test_a_name_that_was_stored_before_it_was_asked_for_takes_its_machine_nowhere(
    api: httpx.Client, demo_server: LiveServer
) -> None:
    job = Job(api).describe()
    job.measure(job.build, [[10.0, 10.1]])
    with psycopg.connect(demo_server.database_url) as connection:
        for table, column in (("machines", "name"), ("workloads", "name"), ("builds", "label")):
            key = "id" if table == "machines" else "machine_id"
            change = f"UPDATE {table} SET {column} = %s WHERE {key} = %s"
            connection.execute(change, ["\u3164", job.machine])
        connection.execute("UPDATE machines SET revision = revision + 1 WHERE id = %s", [job.machine])
    for path in ("", "/job", "/runs", "/run-file", "/bench"):
        assert api.get(f"/machines/{job.machine}{path}").status_code == 200, path
    assert api.get("/machines").status_code == 200


def test_a_name_in_any_script_is_taken(api: httpx.Client) -> None:
    for name in ("한글", "ﬁ", "é", "🔧", "1"):
        api.put(f"/machines/{new_id()}", json={"name": name, "currency": "EUR"}).raise_for_status()
