"""A block of runs is saved all or none with one piece of news; what is changed of evidence keeps who and when."""

import json
from collections.abc import Callable, Iterator, Sequence
from datetime import UTC, datetime
from typing import Any
from uuid import UUID

import httpx
import psycopg
import pytest
from sqlalchemy import select
from sqlalchemy.orm import Session

from lynxbill.core.record.run import CORRECTABLE
from lynxbill.services.base.transaction import Sessions
from lynxbill.store.database import CHANNEL, open_engine, session_factory
from lynxbill.store.tables.evidence import EditRow
from tests.api.bodies import Job, fields_of, new_id, saved
from tests.conftest import LiveServer


@pytest.fixture
def job(api: httpx.Client) -> Job:
    return Job(api).describe()


@pytest.fixture
def stored(demo_server: LiveServer) -> Iterator[Sessions]:
    engine = open_engine(demo_server.database_url)
    yield session_factory(engine)
    engine.dispose()


def post(job: Job, rows: list[dict[str, Any]]) -> httpx.Response:
    return job.post("/runs", {"runs": rows})


def test_a_block_is_recorded_whole_in_its_order_and_sending_it_twice_stores_it_once(job: Job) -> None:
    sitting = job.sitting()
    rows = [job.row(sitting, position, f"{40 + position}") for position in (1, 2, 3)]
    answer = post(job, rows).raise_for_status().json()
    saved = answer["runs"]
    assert [(run["id"], run["readings"][job.time]["low"]) for run in saved] == [
        (each["id"], 40.0 + each["position"]) for each in rows
    ]
    assert post(job, rows).raise_for_status().json() == answer
    assert sorted(job.runs(), key=lambda run: run["position"]) == saved


@pytest.mark.parametrize(
    ("change", "field", "status"),
    [
        (lambda job: {"readings": {job.time: "fast"}}, "readings.{time}", 422),
        (lambda job: {"readings": {job.time: -1.0}}, "readings.{time}", 422),
        (lambda job: {"readings": {new_id(): 1.0}}, None, 422),
        (lambda job: {"state": "failed"}, "reason", 422),
        (lambda job: {"sitting": new_id()}, "sitting", 404),
        (lambda job: {"workload": new_id()}, "workload", 404),
        (lambda job: {"position": 1}, "position", 409),
        (lambda job: {"readings": {}}, "readings", 422),
    ],
)
def test_one_row_that_is_wrong_is_named_by_its_number_and_nothing_of_the_block_is_saved(
    job: Job, change: Callable[[Job], dict[str, Any]], field: str | None, status: int
) -> None:
    sitting = job.sitting()
    rows = [job.row(sitting, position, 41.0) for position in (1, 2, 3)]
    rows[1] |= change(job)
    response = post(job, rows)
    assert response.status_code == status
    (named,) = fields_of(response)
    assert named.startswith("runs.1.")
    assert field is None or named == f"runs.1.{field.format(time=job.time)}"
    assert job.runs() == []


def test_every_row_that_cannot_be_read_is_named_at_once(job: Job) -> None:
    rows = [job.row(job.sitting(), position, text) for position, text in enumerate(("41", "quick", "-2"), start=1)]
    assert set(fields_of(post(job, rows))) == {f"runs.1.readings.{job.time}", f"runs.2.readings.{job.time}"}


def test_ids_of_a_block_are_its_own_and_each_stands_once(job: Job, api: httpx.Client) -> None:
    sitting = job.sitting()
    twice = job.row(sitting, 1, 41.0)
    assert "Number 2 has the id of number 1" in fields_of(post(job, [twice, twice | {"position": 2}]))["runs"]
    other = Job(api).describe()
    foreign = new_id()
    other.run(other.sitting(), 1, 40.0, foreign).raise_for_status()
    response = post(job, [job.row(sitting, 1, 41.0), job.row(sitting, 2, 41.0, id=foreign)])
    assert "another machine" in fields_of(response)["runs.1.id"]
    assert job.runs() == []


def test_a_block_raises_the_count_of_evidence_once_and_is_told_once(job: Job, demo_server: LiveServer) -> None:
    sitting = job.sitting()
    with psycopg.connect(demo_server.database_url, autocommit=True) as connection:
        connection.execute(f"LISTEN {CHANNEL}")
        post(job, [job.row(sitting, position, 41.0) for position in range(1, 40)]).raise_for_status()
        told = [notice.payload for notice in connection.notifies(timeout=2) if job.machine in notice.payload]
        assert [json.loads(news)["evidence_revision"] for news in told] == [1]
        count = connection.execute("SELECT evidence_revision FROM machines WHERE id = %s", (job.machine,)).fetchone()
    assert count == (1,)
    assert job.case()["tallies"][job.build]["runs"] == 39


def test_a_block_may_correct_some_and_add_others(job: Job) -> None:
    sitting = job.sitting()
    first = job.row(sitting, 1, 41.0)
    (saved,) = post(job, [first]).json()["runs"]
    moved = first | {"position": 2, "version": saved["version"]}
    both = post(job, [moved, job.row(sitting, 1, 42.0)]).raise_for_status().json()["runs"]
    assert [(run["position"], run["version"]) for run in both] == [(2, 2), (1, 1)]
    stale = post(job, [job.row(sitting, 3, 43.0), moved | {"position": 4}])
    assert (stale.status_code, [run["position"] for run in job.runs()]) == (409, [1, 2])


def test_a_run_stays_where_it_was_recorded(job: Job) -> None:
    sitting, run = job.sitting(), new_id()
    job.run(sitting, 1, 41.0, run).raise_for_status()
    elsewhere = job.run(job.sitting(), 1, 41.0, run, version=1)
    assert (elsewhere.status_code, "sitting" in fields_of(elsewhere)) == (422, True)
    warm = job.run(sitting, 1, 41.0, run, version=1, warm_up=True)
    assert (warm.status_code, "warm_up" in fields_of(warm)) == (422, True)


def test_a_correction_answers_the_version_of_the_workload_that_ran(job: Job) -> None:
    sitting, run = job.sitting(), new_id()
    (recorded,) = job.run(sitting, 1, 41.0, run).raise_for_status().json()["runs"]
    workload = job.case()["workloads"][0]
    body = job.workload_body(workload_version="2", version=workload["version"])
    job.put(f"/workloads/{job.workload}", body).raise_for_status()
    (corrected,) = job.run(sitting, 1, 41.5, run, version=1).raise_for_status().json()["runs"]
    assert corrected["workload_version"] == recorded["workload_version"]
    assert job.runs() == [corrected]


def edits_of(session: Session, machine: UUID) -> Sequence[EditRow]:
    return session.scalars(select(EditRow).where(EditRow.machine_id == machine).order_by(EditRow.id)).all()


def test_what_is_changed_of_evidence_keeps_who_when_old_and_new(job: Job, stored: Sessions) -> None:
    begun = datetime.now(UTC)
    sitting, run = job.sitting(), new_id()
    machine, time = UUID(job.machine), UUID(job.time)
    # Before there is a reading nothing is evidence yet.
    body = {"build": job.build, "started_at": "2026-05-04T09:10:00Z", "ambient_c": 21.0, "version": 1}
    job.put(f"/sittings/{sitting}", body).raise_for_status()
    job.run(sitting, 1, 41.0, run).raise_for_status()
    with stored() as session:
        assert edits_of(session, machine) == []
    job.run(sitting, 1, 41.5, run, version=1, state="spoiled", reason="indexing ran").raise_for_status()
    job.put(f"/sittings/{sitting}", body | {"ambient_c": 22.5, "version": 2}).raise_for_status()
    measures = job.workload_body()["measures"]
    again = [measures[0] | {"step": 0.5}, measures[1]]
    job.put(f"/workloads/{job.workload}", job.workload_body(measures=again, version=1)).raise_for_status()
    job.run(sitting, 1, 41.5, run, version=2, readings={}).raise_for_status()
    with stored() as session:
        kept = edits_of(session, machine)
    assert [(edit.member, edit.old, edit.new) for edit in kept] == [
        ("state", "complete", "spoiled"),
        ("reason", None, "indexing ran"),
        ("reading", {"low": 41.0, "high": 41.0}, {"low": 41.5, "high": 41.5}),
        ("ambient_c", 21.0, 22.5),
        ("step", None, 0.5),
        ("state", "spoiled", "complete"),
        ("reason", "indexing ran", None),
        ("reading", {"low": 41.5, "high": 41.5}, None),
    ]
    assert {edit.by for edit in kept} == {"this computer"}
    assert all(begun <= edit.at <= datetime.now(UTC) for edit in kept)
    whose = [(edit.sitting_id, edit.run_id, edit.measure_id) for edit in kept]
    assert whose[0] == (UUID(sitting), UUID(run), None)
    assert whose[2:5] == [(UUID(sitting), UUID(run), time), (UUID(sitting), None, None), (None, None, time)]


def test_leaving_a_run_out_late_is_kept_as_an_edit_with_its_reason(job: Job, stored: Sessions) -> None:
    sitting, run = job.sitting(), new_id()
    job.run(sitting, 1, 41.0, run).raise_for_status()
    job.put(f"/runs/{run}/late-exclusion", {"reason": "it looked slow"}).raise_for_status()
    # A correction that changes nothing else must not undo it, nor hide it from who sent it.
    assert job.run(sitting, 1, 41.0, run, version=2).json()["runs"][0]["excluded_late"] == "it looked slow"
    with stored() as session:
        (edit,) = edits_of(session, UUID(job.machine))
    assert (edit.member, edit.new, edit.reason) == ("excluded_late", True, "it looked slow")


def test_everything_that_was_noted_of_a_run_can_be_corrected_and_stays_with_the_next_correction(job: Job) -> None:
    sitting, run = job.sitting(), new_id()
    job.run(sitting, 1, 41.0, run).raise_for_status()
    noted = {
        "target": "second drive",
        "pair_label": "tile 7",
        "started_at": "2026-05-04T09:12:00Z",
        "duration_s": 41.25,
        "soak_s": 600.0,
        "held_back": "heat",
        "conditions": {"ambient_c": 24.5, "drive_firmware": "3.10"},
        "note": "the fan rattled",
        "state": "partial",
        "reason": "power cut",
    }
    job.run(sitting, 7, 41.0, run, version=1, **noted).raise_for_status()
    (kept,) = job.runs()
    assert {name: kept[name] for name in CORRECTABLE} == noted | {"position": 7}
    job.run(sitting, 7, 41.5, run, version=2, **noted).raise_for_status()
    again = kept["readings"][job.time] | {"low": 41.5, "high": 41.5}
    (last,) = job.runs()
    assert last == kept | {"readings": {job.time: again}, "version": 3, "changes": last["changes"]}
    assert last["changes"][-1] | {"at": "", "by": ""} == {
        "member": f"readings.{job.time}", "old": 41.0, "new": 41.5, "at": "", "by": "", "reason": "",
    }  # fmt: skip


def test_what_was_said_of_a_typed_reading_stays_with_it_and_its_conditions_keep_their_trail(job: Job) -> None:
    sitting, run = job.sitting(), new_id()
    told = {"typed": "about 40", "source": "remembered", "statistic": "mean"}
    read = saved(job.run(sitting, 1, told, run))["readings"][job.time]
    assert (read["about"], read["source"], read["statistic"]) == (True, "remembered", "mean")
    louder = saved(job.run(sitting, 1, told | {"typed": "highest 41 to 42"}, run, version=1))["readings"][job.time]
    assert (louder["low"], louder["high"], louder["statistic"], louder["about"]) == (41, 42, "highest", False)
    warm = {"ambient_c": 24.5, "fan": "auto"}
    job.run(sitting, 1, told, run, version=2, conditions=warm).raise_for_status()
    after = saved(job.run(sitting, 1, told, run, version=3, conditions=warm | {"ambient_c": 26}))
    (warmer,) = (change for change in after["changes"] if change["member"] == "conditions.ambient_c")
    assert (warmer["old"], warmer["new"]) == (24.5, 26)
    wrong = job.run(sitting, 1, told, run, version=4, conditions={"ambient_c": "warm"})
    assert list(fields_of(wrong)) == ["conditions.ambient_c"]


def test_a_build_whose_only_entry_was_taken_back_may_still_be_edited(job: Job) -> None:
    sitting, run = job.sitting(), new_id()
    job.run(sitting, 1, 41.0, run).raise_for_status()
    body = job.build_body(settings={"threads": 8}, version=1)
    assert job.put(f"/builds/{job.build}", body).status_code == 409
    job.run(sitting, 1, 41.0, run, version=1, readings={}).raise_for_status()
    job.put(f"/builds/{job.build}", body).raise_for_status()


@pytest.mark.parametrize("reading", ["NaN", "Infinity", '{"value": "x"}', "[1]", "null"])
def test_a_reading_of_no_kind_is_named_by_its_own_place_once(job: Job, reading: str) -> None:
    body = json.dumps(job.row(job.sitting(), 1, 0) | {"readings": {job.time: "HERE"}}).replace('"HERE"', reading)
    path = f"/machines/{job.machine}/runs"
    response = job.api.post(path, content=f'{{"runs": [{body}]}}', headers={"Content-Type": "application/json"})
    assert response.status_code == 422
    assert all(field.startswith(f"runs.0.readings.{job.time}") for field in fields_of(response))
    assert not any(mark in field for field in fields_of(response) for mark in ("constrained", "function", "File"))
    assert job.runs() == []
