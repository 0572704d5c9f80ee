"""A large run file is taken over beside the requests: followed, stopped, refused, and never half there."""

import json
import subprocess
import sys
import tempfile
import time
from collections.abc import Callable
from pathlib import Path
from typing import Any

import httpx
import psutil
import pytest

from lynxbill.api.routes.run_files import SMALL_BYTES
from tests.api.bodies import PATIENCE_S, new_id
from tests.conftest import LiveServer

pytestmark = pytest.mark.nightly
RUNS = 2400


def large_file(runs: int = RUNS, **first_run: Any) -> dict[str, Any]:
    measure = {"id": "t", "name": "Time", "workload": "job", "unit": "s", "scale": "ratio", "kind": "time"}
    # Few runs with much written of each: what is tested is the way of a large file, not its length.
    line = "a scratch volume on the second drive, formatted anew before each sitting, slot and cable as before"
    card = {f"card, line {number}": line for number in range(9)}
    made = [
        {"id": f"r{n}", "sitting": f"s{n // 100}", "workload": "job", "workload_version": "1", "state": "complete"}
        | {"position": n % 100 + 1, "readings": {"t": 40.0 + n % 7}, "parameters": card}
        for n in range(runs)
    ]
    made[0] |= first_run
    return {
        "format": "lynxbill-runs",
        "version": 1,
        "machine": {"id": new_id(), "name": "Large", "currency": "EUR"},
        "measures": [measure | {"better": "lower"}],
        "builds": [{"id": "A", "label": "As received"}],
        "sittings": [
            {"id": f"s{n}", "build": "A", "started_at": f"2026-05-04T09:{n % 60:02}:00Z"} for n in range(runs // 100)
        ],
        "runs": made,
    }


def post(api: httpx.Client, file: dict[str, Any]) -> dict[str, Any]:
    text = json.dumps(file)
    assert len(text) > SMALL_BYTES
    response = api.post("/run-files", content=text, headers={"Content-Type": "application/json"})
    assert response.status_code == 202
    begun: dict[str, Any] = response.json()
    assert (begun["state"], begun["machine"]) == ("running", None)
    return begun


def followed(api: httpx.Client, identifier: str, until: Callable[[dict[str, Any]], bool]) -> list[dict[str, Any]]:
    seen: list[dict[str, Any]] = []
    deadline = time.monotonic() + PATIENCE_S
    while not seen or not until(seen[-1]):
        assert time.monotonic() < deadline, seen[-1]
        seen.append(api.get(f"/run-files/{identifier}").raise_for_status().json())
        time.sleep(0.02)
    return seen


def is_over(state: dict[str, Any]) -> bool:
    return bool(state["state"] != "running")


def test_a_large_file_is_followed_until_its_machine_is_there(api: httpx.Client) -> None:
    file = large_file()
    seen = followed(api, post(api, file)["id"], is_over)
    assert (seen[-1]["state"], seen[-1]["machine"]) == ("done", file["machine"]["id"])
    told = [(each["stage"], each["done"]) for each in seen]
    assert {stage for stage, _ in told} == {"reading", "writing"}
    assert told == sorted(told)
    assert seen[-1]["total"] == RUNS
    path = f"/machines/{file['machine']['id']}"
    assert api.get(path).json()["tallies"][api.get(path).json()["fitted"]]["runs"] == RUNS
    exported = json.loads(api.get(f"{path}/run-file").text)
    assert sorted(run["readings"].popitem()[1] for run in exported["runs"]) == sorted(
        40.0 + n % 7 for n in range(RUNS)
    )
    again = followed(api, post(api, file)["id"], is_over)[-1]
    assert (again["state"], "here already" in again["problems"][0]["message"]) == ("refused", True)


def test_an_import_that_is_stopped_leaves_nothing_and_one_that_is_over_stays(api: httpx.Client) -> None:
    file = large_file()
    identifier = post(api, file)["id"]
    assert api.delete(f"/run-files/{identifier}").raise_for_status().json()["state"] == "stopped"
    wait_for_no_import()
    assert api.get(f"/run-files/{identifier}").json()["state"] == "stopped"
    assert api.get(f"/machines/{file['machine']['id']}").status_code == 404
    other = large_file()
    done = followed(api, post(api, other)["id"], is_over)[-1]
    assert api.delete(f"/run-files/{done['id']}").json()["state"] == "done"
    assert api.get(f"/machines/{other['machine']['id']}").status_code == 200
    assert api.get(f"/run-files/{new_id()}").status_code == 404


@pytest.mark.parametrize(
    ("fault", "path", "says"),
    [
        ({"position": 0}, "$.runs[0].position", "1 or more"),
        ({"sitting": "nowhere"}, "$.runs[0].sitting", "there is no sitting"),
        ({"readings": {"t": -1.0}}, "$.runs[0].readings.t", "above zero"),
    ],
)
def test_what_is_wrong_in_a_large_file_is_named_and_nothing_of_it_is_kept(
    api: httpx.Client, fault: dict[str, Any], path: str, says: str
) -> None:
    file = large_file(**fault)
    over = followed(api, post(api, file)["id"], is_over)[-1]
    assert over["state"] == "refused"
    assert says in {problem["field"]: problem["message"] for problem in over["problems"]}[path]
    assert api.get(f"/machines/{file['machine']['id']}").status_code == 404


def imports_under_way() -> list[psutil.Process]:
    return [process for process in psutil.process_iter(["cmdline"]) if "take-in" in (process.info["cmdline"] or ())]


def wait_for_no_import() -> None:
    psutil.wait_procs(imports_under_way(), timeout=PATIENCE_S)


def test_an_import_whose_process_dies_is_said_to_have_failed(api: httpx.Client) -> None:
    file = large_file()
    identifier = post(api, file)["id"]
    (process,) = [process for process in imports_under_way() if identifier in process.info["cmdline"]]
    process.kill()
    over = followed(api, identifier, is_over)[-1]
    assert over["state"] == "failed"
    assert "nothing of the file was taken over" in over["problems"][0]["message"]
    assert api.get(f"/machines/{file['machine']['id']}").status_code == 404
    assert not list(Path(tempfile.gettempdir()).glob("lynxbill-import-*"))


def test_the_command_takes_a_file_to_the_server(demo_server: LiveServer, api: httpx.Client, tmp_path: Path) -> None:
    def run(name: str, server: str = demo_server.url) -> tuple[int, str]:
        command = [sys.executable, "-m", "lynxbill", "import", str(tmp_path / name), "--server", server]
        done = subprocess.run(command, capture_output=True, text=True, timeout=120, check=False)
        return done.returncode, done.stderr

    large, small = large_file(), large_file(runs=100)
    (tmp_path / "large.json").write_text(json.dumps(large))
    (tmp_path / "small.json").write_text(json.dumps(small))
    (tmp_path / "broken.json").write_text(json.dumps(large_file(runs=100, position=0)))
    for name, file in (("large.json", large), ("small.json", small)):
        status, sentence = run(name)
        assert (status, file["machine"]["id"] in sentence) == (0, True), sentence
        assert api.get(f"/machines/{file['machine']['id']}").status_code == 200
    status, sentence = run("broken.json")
    assert (status, "$.runs[0].position" in sentence) == (2, True)
    assert run("nothing.json")[0] == 2
    status, sentence = run("small.json", "http://127.0.0.1:9")
    assert (status, "does not answer" in sentence) == (1, True)
