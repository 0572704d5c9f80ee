"""What the agent saw of a machine: kept, set against its build, and noted in the case that is open."""

from typing import Any

import httpx
import pytest

from tests.api.bodies import Job, new_id


@pytest.fixture
def job(api: httpx.Client) -> Job:
    return Job(api).describe(name="Bench that shows itself")


def show(job: Job, *parts: tuple[str, str, dict[str, Any]]) -> dict[str, Any]:
    body = {"parts": [{"role": role, "label": label, "rated": rated} for role, label, rated in parts]}
    answer: dict[str, Any] = job.put("/bench/shown", body).raise_for_status().json()
    return answer


def test_what_departs_is_said_until_it_is_put_right(job: Job) -> None:
    told = show(job, ("processor", "x", {"cores": 2}))
    (line,) = told["departs"]
    assert (told["build"], "the build says 4, the machine shows 2" in line) == ("A", True)
    assert job.case()["shown"]["departs"] == [line]
    revision = job.case()["revision"]
    show(job, ("processor", "x", {"cores": 2}))
    assert job.case()["revision"] == revision
    assert show(job, ("processor", "x", {"cores": 4}))["departs"] == []
    assert (job.case()["shown"]["departs"], job.case()["revision"]) == ([], revision + 1)


def test_the_open_case_takes_what_is_shown_for_seen(job: Job) -> None:
    job.measure(job.build, [[10.0, 10.1, 10.2]])
    part = {"id": new_id(), "role": "processor", "label": "Varro 6-core", "rated": {"cores": 6, "threads": 12}}
    show(job, ("processor", "x", {"cores": 2}))
    swap = job.swap(new_id(), after_build={"label": "Six cores", "parts": [part]})
    # What was shown before is not of this build.
    assert job.case()["shown"] is None
    show(job, ("processor", "Some other name", {"cores": 6, "threads": 6}))
    lines = {line["what"]: line for line in Job.find_swap(job.case(), swap["id"])["recognitions"]}
    seen = {what: (line["seen"], line["result"]) for what, line in lines.items() if what.startswith("processor")}
    assert seen == {
        "processor, name": ("", None),
        "processor, cores": ("6", "pass"),
        "processor, threads": ("6", None),
    }
    # What somebody noted stands.
    show(job, ("processor", "Varro 6-core", {"cores": 5, "threads": 12}))
    lines = {line["what"]: line for line in Job.find_swap(job.case(), swap["id"])["recognitions"]}
    assert (lines["processor, cores"]["seen"], lines["processor, name"]["result"]) == ("6", "pass")
    assert lines["processor, threads"]["seen"] == "6"


def test_the_salt_of_serial_numbers_stays_with_the_machine_and_leaves_in_no_file(job: Job) -> None:
    def salt(of: Job) -> str:
        told: str = of.api.get(f"/machines/{of.machine}/bench").json()["serial_salt"]
        return told

    assert salt(job) == salt(job)
    assert salt(job) != salt(Job(job.api).describe())
    assert salt(job) not in job.api.get(f"/machines/{job.machine}/run-file").text
    assert salt(job) not in job.api.get(f"/machines/{job.machine}").text
