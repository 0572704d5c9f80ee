"""Several devices save at the same moment: each is answered, nothing is stored twice, nothing is lost."""

from collections import Counter
from collections.abc import Callable, Sequence
from concurrent.futures import ThreadPoolExecutor
from functools import partial
from typing import Any

import httpx
import psycopg
import pytest

from tests.api.bodies import Job, new_id
from tests.conftest import LiveServer

DEVICES = 8


@pytest.fixture
def job(api: httpx.Client) -> Job:
    return Job(api).describe()


def at_once(calls: Sequence[Callable[[], httpx.Response]]) -> Counter[int]:
    with ThreadPoolExecutor(DEVICES) as pool:
        return Counter(answer.status_code for answer in pool.map(lambda call: call(), calls))


def test_one_run_sent_by_many_is_stored_once(job: Job) -> None:
    sitting, run = job.sitting(), new_id()
    answers = at_once([partial(job.run, sitting, 1, 40.0, run)] * DEVICES)
    assert answers == {200: DEVICES}
    assert [kept["id"] for kept in job.case()["runs"]] == [run]


def test_of_many_runs_for_one_place_one_is_kept_and_the_others_are_told(job: Job) -> None:
    sitting = job.sitting()
    answers = at_once([partial(job.run, sitting, 1, 40.0 + n) for n in range(DEVICES)])
    assert answers == {200: 1, 409: DEVICES - 1}
    assert len(job.case()["runs"]) == 1


def test_many_edits_of_one_version_lose_none_silently(job: Job) -> None:
    body = {"currency": "EUR", "version": 1}
    answers = at_once([partial(job.put, "", body | {"name": f"Bench {n}"}) for n in range(DEVICES)])
    assert answers == {200: 1, 409: DEVICES - 1}
    assert job.case()["machine"]["version"] == 2


def test_many_edits_of_one_template_lose_none_silently(api: httpx.Client) -> None:
    own = new_id()
    body = {"name": f"House rule {own}", "change": "drive", "steps": [], "costs": []}
    api.put(f"/templates/{own}", json=body).raise_for_status()
    # None is what stands there already (five runs), for saving that is no edit.
    edits = [body | {"runs_a_sitting": 6 + n, "version": 1} for n in range(DEVICES)]
    answers = at_once([partial(api.put, f"/templates/{own}", json=edit) for edit in edits])
    assert answers == {200: 1, 409: DEVICES - 1}


def test_sittings_begun_at_once_each_get_a_place(job: Job) -> None:
    body = {"build": job.build, "started_at": "2026-05-04T09:10:00Z"}
    answers = at_once([partial(job.put, f"/sittings/{new_id()}", body) for _ in range(DEVICES)])
    assert answers == {200: DEVICES}
    assert len(job.case()["sittings"]) == DEVICES


def test_of_two_swaps_planned_at_once_one_waits_for_nobody(job: Job) -> None:
    job.measure(job.build, [[40.0, 40.2, 40.1]])
    bodies = [job.swap_body(new_id()) for _ in range(DEVICES)]
    answers = at_once([partial(job.put, f"/swaps/{new_id()}", body) for body in bodies])
    assert answers == {200: 1, 409: DEVICES - 1}
    assert len(job.case()["builds"]) == 2


def test_reading_and_saving_at_once_always_reads_whole(job: Job) -> None:
    """Every case that is read has each run's sitting, however many are saved meanwhile."""
    cases: list[dict[str, Any]] = []

    sitting = job.sitting()

    def save(number: int) -> httpx.Response:
        return job.run(sitting, number + 1, 40.0 + number)

    def read() -> httpx.Response:
        answer = job.api.get(f"/machines/{job.machine}/run-file")
        cases.append(answer.json())
        return answer

    calls = [call for n in range(20) for call in (partial(save, n), read)]
    assert at_once(calls) == {200: 40}
    for case in cases:
        sittings = {sitting["id"] for sitting in case.get("sittings", [])}
        assert {run["sitting"] for run in case.get("runs", [])} <= sittings
    assert len(job.case()["runs"]) == 20


def test_a_screen_is_told_to_look_again_after_the_servers_own_news_were_cut(
    api: httpx.Client, demo_server: LiveServer, job: Job
) -> None:
    cut = (
        "SELECT pg_terminate_backend(pid) FROM pg_stat_activity "
        "WHERE query LIKE 'LISTEN%' AND datname = current_database()"
    )
    with api.stream("GET", f"/machines/{job.machine}/events", timeout=60) as stream:
        lines = stream.iter_lines()
        assert next(line for line in lines if line.startswith("event:")) == "event: ready"
        with psycopg.connect(demo_server.database_url, autocommit=True) as connection:
            assert connection.execute(cut).fetchall()
        # Its counts as they stand by now: a screen that knows others asks again.
        assert next(line for line in lines if line.startswith("event:")) == "event: ready"
