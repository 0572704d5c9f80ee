"""A machine on the server, as small as a test needs it."""

import json
import re
import time
from dataclasses import dataclass, field
from functools import cache
from typing import Any
from uuid import uuid4

import httpx

from lynxbill.core.record.ids import BuildId
from lynxbill.core.value.better import judge_beside_others
from lynxbill.exchange.run_file import read_run_file
from lynxbill.exchange.verdict_file import describe
from lynxbill.words.results.voice import Voice

PATIENCE_S = 60
STEADY = [[40.0, 40.2, 40.1], [40.3, 40.1, 40.2], [40.1, 40.0, 40.2]]
_UUID = re.compile(r"[0-9a-f]{8}(?:-[0-9a-f]{4}){3}-[0-9a-f]{12}")


def new_id() -> str:
    return str(uuid4())


@dataclass
class Job:
    """A machine with one build and a workload that yields a time and a rise; every call answers the response."""

    api: httpx.Client
    machine: str = field(default_factory=new_id)
    build: str = field(default_factory=new_id)
    workload: str = field(default_factory=new_id)
    time: str = field(default_factory=new_id)
    rise: str = field(default_factory=new_id)
    processor: str = field(default_factory=new_id)

    @staticmethod
    def measured(api: httpx.Client) -> "Job":
        """One whose build has three steady sittings: measured once, and taken in anew under other ids each time."""
        file, first = _measured_once(api)
        ids: dict[str, str] = {}
        renamed = _UUID.sub(lambda found: ids.setdefault(found[0], new_id()), file)
        api.post("/run-files", content=renamed).raise_for_status()
        return Job(api, **{name: ids[known] for name, known in first.items()})

    def put(self, path: str, body: dict[str, Any]) -> httpx.Response:
        return self.api.put(f"/machines/{self.machine}{path}", json=body)

    def case(self) -> dict[str, Any]:
        """The machine as the server has it, with all its runs."""
        answer: dict[str, Any] = self.api.get(f"/machines/{self.machine}").json()
        return answer | {"runs": self.runs()}

    def runs(self) -> list[dict[str, Any]]:
        answer: list[dict[str, Any]] = self.api.get(f"/machines/{self.machine}/runs").json()
        return answer

    def describe(self, **machine: Any) -> "Job":
        self.put("", {"name": "Test bench", "currency": "EUR", "labour_rate": "35.00"} | machine).raise_for_status()
        self.put(f"/builds/{self.build}", self.build_body()).raise_for_status()
        self.put(f"/workloads/{self.workload}", self.workload_body()).raise_for_status()
        return self

    def build_body(self, **fields: Any) -> dict[str, Any]:
        part = {"id": self.processor, "role": "processor", "label": "Varro 4-core", "rated": {"cores": 4}}
        return {"label": "As received", "parts": [part], "settings": {"threads": 4}} | fields

    def workload_body(self, **fields: Any) -> dict[str, Any]:
        time = {"id": self.time, "name": "Time", "unit": "s", "scale": "ratio", "kind": "time", "better": "lower"}
        rise = {
            "id": self.rise,
            "name": "Rise",
            "unit": "K",
            "scale": "difference",
            "kind": "heat",
            "better": "lower",
        }
        return {"name": "Job", "measures": [time, rise]} | fields

    def sitting(self, build: str | None = None, **fields: Any) -> str:
        """A sitting as a screen begins it; one in a boot that was read as the agent does."""
        sitting = new_id()
        body = {"build": build or self.build, "started_at": "2026-05-04T09:10:00Z", "ambient_c": 22.5} | fields
        if body.get("boot_by") == "read":
            read = {name: body[name] for name in ("build", "started_at", "boot")}
            self.put(f"/bench/sittings/{sitting}", read).raise_for_status()
        else:
            self.put(f"/sittings/{sitting}", body).raise_for_status()
        return sitting

    def run(self, sitting: str, position: int, reading: Any, run: str | None = None, **fields: Any) -> httpx.Response:
        body = {"sitting": sitting, "workload": self.workload, "position": position, "readings": {self.time: reading}}
        by_agent = "/bench" if fields.pop("by_agent", False) else ""
        return self.put(f"{by_agent}/runs/{run or new_id()}", body | fields)

    def measure(self, build: str, readings: list[list[float]], first_day: int = 1) -> None:
        """Sittings of a build, a day after another, each closed once its runs are saved."""
        for day, values in enumerate(readings, start=first_day):
            sitting = self.sitting(build, started_at=f"2026-05-{day:02}T09:00:00Z")
            runs = [self.row(sitting, position, value) for position, value in enumerate(values, start=1)]
            self.post("/runs", {"runs": runs}).raise_for_status()
            self.post(f"/sittings/{sitting}/close").raise_for_status()

    def show(self, after: str, measures: list[str], before: str | None = None) -> httpx.Response:
        """Say that verdicts were shown, as they are now."""
        case = self.case()
        counts = {"revision": case["revision"], "evidence_revision": case["evidence_revision"]}
        return self.post("/shown", {"before": before or self.build, "after": after, "measures": measures} | counts)

    def row(self, sitting: str, position: int, reading: Any, **fields: Any) -> dict[str, Any]:
        """A run as a block holds it."""
        body = {"sitting": sitting, "workload": self.workload, "position": position}
        return {"id": new_id()} | body | {"readings": {self.time: reading}} | fields

    def post(self, path: str, body: dict[str, Any] | None = None) -> httpx.Response:
        return self.api.post(f"/machines/{self.machine}{path}", json=body or {})

    def plan(self, **fields: Any) -> httpx.Response:
        """Edit the open plan."""
        plan = self.case()["open_plan"]
        return self.put("/plan", plan["plan"] | fields | {"version": plan["version"]})

    def outlook(self) -> dict[str, Any]:
        answer: dict[str, Any] = self.api.get(f"/machines/{self.machine}/job").raise_for_status().json()
        return answer

    def swap(self, after: str, **fields: Any) -> dict[str, Any]:
        """Plan a swap, begin it whatever its baseline lacks, and answer it as the server has it."""
        swap = new_id()
        self.put(f"/swaps/{swap}", self.swap_body(after, **fields)).raise_for_status()
        body = {"reason": "a test needs no baseline", "version": 1}
        return self.find_swap(self.post(f"/swaps/{swap}/open", body).raise_for_status().json(), swap)

    @staticmethod
    def find_swap(case: dict[str, Any], swap: str) -> dict[str, Any]:
        found: dict[str, Any] = next(known for known in case["swaps"] if known["id"] == swap)
        return found

    def swap_body(self, after: str, **fields: Any) -> dict[str, Any]:
        part = {"id": new_id(), "role": "processor", "label": "Varro 6-core", "rated": {"cores": 6}}
        cost = {"kind": "part", "label": "Varro 6-core", "amount": "118.00", "currency": "EUR"}
        return {
            "before": self.build,
            "after": after,
            "label": "Processor",
            "costs": [cost],
            "after_build": {"label": "Six cores", "parts": [part], "settings": {"threads": 12}},
        } | fields


def renewed(api: httpx.Client, file: dict[str, Any]) -> dict[str, Any]:
    """Take a run file in under ids of its own, and answer it as it was sent."""
    ids: dict[str, str] = {}
    text = _UUID.sub(lambda found: ids.setdefault(found[0], new_id()), json.dumps(file))
    api.post("/run-files", content=text).raise_for_status()
    answer: dict[str, Any] = json.loads(text)
    return answer


@cache
def _measured_once(api: httpx.Client) -> tuple[str, dict[str, str]]:
    job = Job(api).describe()
    job.measure(job.build, STEADY)
    file = api.get(f"/machines/{job.machine}/run-file").raise_for_status().text
    return file, {name: getattr(job, name) for name in ("machine", "build", "workload", "time", "rise", "processor")}


def judged_benches(api: httpx.Client, **asked: Any) -> list[dict[str, Any]]:
    """A page of home once none of its machines is being judged any more."""
    deadline = time.monotonic() + PATIENCE_S
    while True:
        benches: list[dict[str, Any]] = api.get("/machines", params=asked).raise_for_status().json()["benches"]
        if all(bench["state"] != "being judged" for bench in benches):
            return benches
        assert time.monotonic() < deadline, "a machine is still being judged"
        time.sleep(0.05)


def comparison_of(api: httpx.Client, machine: str, **sides: str) -> dict[str, Any]:
    """A comparison with every figure, as a file of the machine is judged, and what the server says, which agrees."""

    def ask() -> dict[str, Any]:
        answer: dict[str, Any] = api.get(f"/machines/{machine}/comparison", params=sides).raise_for_status().json()
        return answer

    # An open screen may give a verdict at any time.
    ours: dict[str, Any] = {}
    file, now = b"", ask()
    while now != ours:
        ours = now
        file = api.get(f"/machines/{machine}/run-file").raise_for_status().content
        now = ask()
    case = read_run_file(file)
    placing = judge_beside_others(case, *(BuildId(ours[side]) for side in ("before", "after")))
    written = json.loads(describe(placing, Voice(case.machine.decimal_mark)).model_dump_json())
    at_the_server = {name: ours[name] for name in ("revision", "evidence_revision", "worded", "beside", "statistics")}
    whole: dict[str, Any] = written | at_the_server
    assert_within(ours, whole)
    return whole


def assert_within(part: Any, whole: Any) -> None:
    """Every member of `part` has the same value in `whole`, which may have more."""
    if isinstance(part, dict):
        for name, value in part.items():
            assert_within(value, whole[name])
    elif isinstance(part, list):
        for one, other in zip(part, whole, strict=True):
            assert_within(one, other)
    else:
        assert part == whole


def saved(response: httpx.Response) -> dict[str, Any]:
    """The one run that was saved, as it is recorded."""
    (run,) = response.raise_for_status().json()["runs"]
    answer: dict[str, Any] = run
    return answer


def fields_of(response: httpx.Response) -> dict[str, str]:
    """The problem's fields with their messages; checks that it is a problem in full."""
    assert response.headers["content-type"] == "application/problem+json"
    body = response.json()
    assert body["status"] == response.status_code
    assert body["title"]
    assert body["detail"]
    return {error["field"]: error["message"] for error in body["errors"]}
