"""Ids come from clients: one that belongs elsewhere is refused with its field, and its owner stays as it was."""

from collections.abc import Callable
from typing import Any

import httpx
import pytest

from lynxbill.app import api_routes
from tests.api.bodies import Job, fields_of, new_id

NOW = "2026-06-01T10:00:00Z"
CANDIDATE = {"role": "processor", "label": "Varro 6-core", "rated": {"cores": 6}, "price": "118.00"}


@pytest.fixture
def jobs(api: httpx.Client) -> tuple[Job, Job]:
    """Two machines side by side, both measured and with a case open."""
    return Job(api).describe(), Job(api).describe()


def opened(job: Job) -> dict[str, Any]:
    job.measure(job.build, [[40.0, 40.2, 40.1]])
    return job.swap(new_id())


@pytest.mark.parametrize(
    ("own", "foreign"),
    [
        (
            lambda job, i: job.put(f"/sittings/{i}", {"build": job.build, "started_at": NOW}),
            lambda job, i: job.put(
                f"/sittings/{i}", {"build": job.build, "started_at": NOW, "ambient_c": 9, "version": 1}
            ),
        ),
        (
            lambda job, i: job.put(f"/workloads/{i}", workload_like(job, "Other")),
            lambda job, i: job.put(f"/workloads/{i}", workload_like(job, "Taken over", version=1)),
        ),
        (
            lambda job, i: job.put(f"/candidates/{i}", CANDIDATE),
            lambda job, i: job.put(f"/candidates/{i}", CANDIDATE | {"label": "Taken over", "version": 1}),
        ),
        (
            lambda job, i: job.put(f"/rechecks/{i}", {"build": job.build, "due_on": "2027-01-01"}),
            lambda job, i: job.put(
                f"/rechecks/{i}", {"build": job.build, "due_on": "2027-01-01", "note": "x", "version": 1}
            ),
        ),
        (
            lambda job, i: job.put(f"/workloads/{job.workload}", measures_with(job, i, version=1)),
            lambda job, i: job.put(f"/workloads/{job.workload}", measures_with(job, i, version=1, name="Taken over")),
        ),
        (
            lambda job, i: job.put(f"/builds/{job.build}", parts_with(job, i, version=1)),
            lambda job, i: job.put(f"/builds/{job.build}", parts_with(job, i, version=1, label="Taken over")),
        ),
    ],
    ids=["sitting", "workload", "candidate", "recheck", "measure", "part"],
)
def test_what_belongs_to_another_machine_is_not_edited_from_here(
    jobs: tuple[Job, Job], own: Callable[[Job, str], httpx.Response], foreign: Callable[[Job, str], httpx.Response]
) -> None:
    here, there = jobs
    shared = new_id()
    own(there, shared).raise_for_status()
    before = there.case()
    response = foreign(here, shared)
    assert response.status_code == 422, response.text
    assert any("belongs to another machine" in message for message in fields_of(response).values())
    assert there.case() == before


def workload_like(job: Job, name: str, **fields: Any) -> dict[str, Any]:
    time, rise = job.workload_body()["measures"]
    return job.workload_body(name=name, measures=[time | {"id": new_id()}, rise | {"id": new_id()}], **fields)


def measures_with(job: Job, measure: str, version: int, name: str = "Second") -> dict[str, Any]:
    body = job.workload_body(version=version)
    second = {"id": measure, "name": name, "unit": "s", "scale": "ratio", "kind": "time", "better": "lower"}
    return body | {"measures": [*body["measures"], second]}


def parts_with(job: Job, part: str, version: int, label: str = "Marl 8 GB") -> dict[str, Any]:
    body = job.build_body(version=version)
    return body | {"parts": [*body["parts"], {"id": part, "role": "memory", "label": label, "rated": {}}]}


def test_a_run_and_a_swap_of_another_machine_are_refused(jobs: tuple[Job, Job]) -> None:
    here, there = jobs
    swap, run, sitting = opened(there)["id"], new_id(), there.sitting()
    there.run(sitting, 9, 40.0, run).raise_for_status()
    assert "id" in fields_of(here.run(here.sitting(), 9, 41.0, run))
    assert here.run(sitting, 9, 41.0).status_code == 404
    response = here.put(f"/swaps/{swap}", here.swap_body(new_id()) | {"version": 2})
    assert "another machine" in fields_of(response)["id"]
    assert here.post(f"/swaps/{swap}/close", {"version": 2}).status_code == 404


@pytest.mark.parametrize(
    ("kind", "body"),
    [
        ("steps", {"stage": "case open", "text": "Own step"}),
        ("recognitions", {"what": "name", "expected": "Varro", "seen": ""}),
        ("starts", {"at": NOW, "booted": True}),
        ("notes", {"at": NOW, "text": "Long screws left"}),
        ("explanations", {"text": "the drive caps it"}),
    ],
)
def test_what_belongs_to_another_swap_is_refused(jobs: tuple[Job, Job], kind: str, body: dict[str, Any]) -> None:
    here, there = jobs
    mine, theirs, child = opened(here)["id"], opened(there)["id"], new_id()
    there.put(f"/swaps/{theirs}/{kind}/{child}", body).raise_for_status()
    assert "another swap" in fields_of(here.put(f"/swaps/{mine}/{kind}/{child}", body))["id"]


def test_a_part_shared_with_a_sealed_build_stays_what_it_was(jobs: tuple[Job, Job]) -> None:
    job, _ = jobs
    memory = {"id": new_id(), "role": "memory", "label": "Marl 8 GB", "rated": {"capacity_gb": 8}}
    parts = [*job.build_body()["parts"], memory]
    job.put(f"/builds/{job.build}", job.build_body(parts=parts, version=1)).raise_for_status()
    job.measure(job.build, [[40.0, 40.2, 40.1]])
    after = new_id()
    fitted = {"id": new_id(), "role": "processor", "label": "Varro 6-core", "rated": {"cores": 6}}
    job.swap(after, after_build={"label": "Six", "parts": [fitted, memory], "settings": {"threads": 4}})
    renamed = {
        "label": "Six",
        "parts": [fitted, memory | {"label": "Marl 16 GB", "rated": {"capacity_gb": 16}}],
        "settings": {"threads": 4},
        "version": 1,
    }
    response = job.put(f"/builds/{after}", renamed)
    assert response.status_code == 409, response.text
    first = next(build for build in job.case()["builds"] if build["id"] == job.build)
    assert [part["label"] for part in first["parts"]] == ["Varro 4-core", "Marl 8 GB"]


def test_one_part_is_fitted_once_and_one_measure_read_once(jobs: tuple[Job, Job]) -> None:
    job, _ = jobs
    part, measure = job.build_body()["parts"][0], job.workload_body()["measures"][0]
    response = job.put(f"/builds/{job.build}", job.build_body(parts=[part, part], version=1))
    assert "Number 2 has the id of number 1" in fields_of(response)["parts"]
    response = job.put(f"/workloads/{job.workload}", job.workload_body(measures=[measure, measure], version=1))
    assert "Number 2 has the id of number 1" in fields_of(response)["measures"]


def test_an_open_sitting_goes_to_the_build_that_is_fitted_and_a_closed_one_stays(jobs: tuple[Job, Job]) -> None:
    job, _ = jobs
    after = opened(job)["after"]
    sitting = job.sitting()
    job.run(sitting, 1, 41.0).raise_for_status()
    body = {"build": after, "started_at": "2026-05-04T09:10:00Z", "ambient_c": 22.5, "version": 1}
    case = job.put(f"/sittings/{sitting}", body).raise_for_status().json()
    (moved,) = (known for known in case["sittings"] if known["id"] == sitting)
    assert (moved["build"], [(c["old"], c["new"]) for c in moved["changes"]]) == (after, [(job.build, after)])
    back = body | {"build": job.build, "version": 2}
    assert "stays with the build" in fields_of(job.put(f"/sittings/{sitting}", back))["build"]
    job.post(f"/sittings/{sitting}/close").raise_for_status()
    later = job.sitting(after)
    job.post(f"/sittings/{later}/close").raise_for_status()
    assert "stays with the build" in fields_of(job.put(f"/sittings/{later}", back))["build"]


def test_the_start_of_a_sitting_can_be_corrected(jobs: tuple[Job, Job]) -> None:
    job, _ = jobs
    sitting = job.sitting()
    body = {"build": job.build, "started_at": "2026-05-04T08:40:00Z", "ambient_c": 22.5, "version": 1}
    case = job.put(f"/sittings/{sitting}", body).raise_for_status().json()
    starts = {known["id"]: known["started_at"] for known in case["sittings"]}
    assert starts[sitting].startswith("2026-05-04T08:40:00")


# What an operation asks for beside the ids, where nothing less would do.
BODIES: dict[str, dict[str, Any]] = {
    "late-exclusion": {"reason": "odd"},
    "set-aside": {"reason": "odd"},
    "attempts": {"over": "after-side", "reason": "odd"},
    "open": {"reason": "", "version": 1},
    "close": {"skipped": "", "version": 2},
    "reopen": {"version": 2},
    "unopen": {"version": 2},
}


def owned_by(job: Job) -> dict[str, str]:
    """One of everything of a machine, by the names that operations ask for it by."""
    swap, run, sitting, candidate, recheck, note = opened(job), new_id(), job.sitting(), new_id(), new_id(), new_id()
    job.run(sitting, 9, 40.0, run).raise_for_status()
    job.put(f"/candidates/{candidate}", CANDIDATE).raise_for_status()
    job.put(f"/rechecks/{recheck}", {"build": job.build, "due_on": "2027-01-01"}).raise_for_status()
    job.put(f"/swaps/{swap['id']}/notes/{note}", {"at": NOW, "text": "Long screws left"}).raise_for_status()
    return {
        "build_id": job.build,
        "workload_id": job.workload,
        "measure_id": job.rise,
        "sitting_id": sitting,
        "run_id": run,
        "candidate_id": candidate,
        "recheck_id": recheck,
        "swap_id": swap["id"],
        "step_id": swap["steps"][0]["id"],
        "line_id": swap["recognitions"][0]["id"] if swap["recognitions"] else new_id(),
        "note_id": note,
        "start_id": new_id(),
        "explanation_id": new_id(),
        "report_id": new_id(),
        "part_id": job.processor,
    }


def operations() -> list[tuple[str, str]]:
    """Every operation that asks for a thing of a machine."""
    found = [(method, r.path) for r in api_routes() for method in sorted(r.methods or ())]
    return [
        (method, path) for method, path in found if path.startswith("/machines/{machine_id}/") and path.count("{") > 1
    ]


@pytest.fixture(scope="module")
def neighbours(api: httpx.Client) -> tuple[Job, Job, dict[str, str]]:
    here, there = Job(api).describe(), Job(api).describe()
    return here, there, owned_by(there)


@pytest.mark.parametrize(("method", "path"), operations())
def test_every_id_of_another_machine_is_refused_on_every_verb(
    neighbours: tuple[Job, Job, dict[str, str]], method: str, path: str
) -> None:
    here, there, ids = neighbours
    before = there.case()
    address = path.format(machine_id=here.machine, **ids, **{"copy_id": there.machine, "template_id": new_id()})
    body = BODIES.get(path.rsplit("/", 1)[-1], {})
    answer = here.api.request(method, address, json=None if method in ("GET", "DELETE") else body)
    # Some refuse for what is missing in the body before they look at whose it is; none lets it through.
    assert 400 <= answer.status_code < 500 or answer.json() in ([], {}), (answer.status_code, answer.text[:200])
    assert there.case() == before
