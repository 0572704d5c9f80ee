"""Bodies made to be slow to refuse are refused by a process of their own, with fifty problems at most."""

import json
from typing import Any

import httpx
import pytest

from lynxbill.exchange.shape import MOST_DEEP, MOST_MEMBERS, MOST_PROBLEMS, check_shape
from tests.api.bodies import Job, new_id


@pytest.fixture
def job(api: httpx.Client) -> Job:
    return Job(api).describe()


def rows(job: Job, count: int, bad: tuple[int, ...] = ()) -> list[dict[str, Any]]:
    sitting = job.sitting()
    return [
        job.row(sitting, 0 if number in bad else number + 1, 40 + number / 1e5, note="x" * 40)
        for number in range(count)
    ]


def test_a_large_block_is_refused_by_the_places_of_what_is_wrong_in_it(job: Job) -> None:
    refused = job.post("/runs", {"runs": rows(job, 2500, bad=(3, 1700, 2499))})
    assert refused.status_code == 422
    assert [error["field"] for error in refused.json()["errors"]] == [
        "runs.3.position",
        "runs.1700.position",
        "runs.2499.position",
    ]
    assert refused.json()["errors"][0]["message"] == "Write 1 or more"
    assert job.runs() == []


def test_a_large_block_that_is_right_is_saved(job: Job) -> None:
    block = rows(job, 1200)
    assert len(json.dumps(block)) > 64 * 1024
    job.post("/runs", {"runs": block}).raise_for_status()
    assert len(job.runs()) == 1200
    twice = [*block, block[7]]
    refused = job.post("/runs", {"runs": twice})
    assert (refused.status_code, "ids are unique" in refused.text) == (422, True)


@pytest.mark.parametrize("members", [200, 2000, 100_000])
def test_no_more_than_fifty_problems_are_listed_whatever_is_sent(job: Job, members: int) -> None:
    body = {"name": "x", "currency": "EUR", "version": 1} | {f"member {n}": 1 for n in range(members)}
    refused = job.put("", body)
    assert refused.status_code == 422
    assert len(refused.json()["errors"]) == (1 if members > MOST_MEMBERS * 2 else MOST_PROBLEMS)
    assert len(refused.content) < 20_000
    assert job.case()["machine"]["name"] == "Test bench"


def test_a_large_body_that_is_no_json_or_deep_is_refused(job: Job) -> None:
    for text in ("[" * 100_000, '{"name": "' + "x" * 100_000, '{"limits":' * 20_000 + "1" + "}" * 20_000):
        refused = job.api.put(f"/machines/{job.machine}", content=text, headers={"Content-Type": "application/json"})
        assert (refused.status_code, refused.json()["errors"][0]["field"]) == (422, "body")


def test_a_file_with_more_than_it_may_have_is_refused_by_its_place(job: Job) -> None:
    file = json.loads(job.api.get(f"/machines/{job.machine}/run-file").text)
    file["machine"]["id"] = new_id()
    build = file["builds"][0]
    limits = {f"l{n}": 1 for n in range(MOST_MEMBERS + 1)}
    for change, place in (
        ({"builds": [build | {"id": f"b{n}"} for n in range(1000)]}, "$.builds"),
        (
            {"machine": file["machine"] | {"limits": limits}},
            "$.machine.limits",
        ),
        ({f"m{n}": 1 for n in range(5000)}, "$"),
    ):
        refused = job.api.post("/run-files", json=file | change)
        assert [error["field"] for error in refused.json()["errors"]] == [place]


def test_shapes_are_looked_at_as_deep_as_anything_here_goes() -> None:
    def nested(depth: int) -> object:
        return {"a": [nested(depth - 1)]} if depth else 1

    assert list(check_shape(nested(MOST_DEEP // 2))) == []
    (deep,) = check_shape(nested(MOST_DEEP))
    assert "deep" in deep.message
