"""
Every operation asked what its description allows and what it does not: extreme dates, wrong kinds, real ids.

A short run each time; LYNXBILL_FUZZ=200 asks every operation two hundred times (some ten thousand questions in all).
"""

import os
import random
from collections.abc import Callable, Iterator
from typing import Any

import httpx
import pytest
import schemathesis
from hypothesis import HealthCheck, Phase, settings
from schemathesis import Case
from schemathesis.generation import GenerationMode

from lynxbill.app import create_app
from tests.api.bodies import Job, new_id
from tests.api.test_ids import CANDIDATE
from tests.conftest import LiveServer, free_port

pytestmark = pytest.mark.nightly

SHORT = 1
EXAMPLES = int(os.environ.get("LYNXBILL_FUZZ", SHORT))
# An import would fill the list of machines with thousands; a removal would take away what the next question is about.
LEFT_OUT = {("DELETE", "/api/machines/{machine_id}")}
DATES = ("0001-01-01T00:00:00Z", "9999-12-31T23:59:59+14:00", "1969-12-31T23:59:59Z", "2026-02-30", "0", "2200-01-01")
WRONG: tuple[Any, ...] = (False, True, 0, -1, 1e308, "yes", "", [], {}, None, "x" * 5000, "\u202e", "\x00", *DATES)

described = schemathesis.openapi.from_dict(create_app("postgresql://nobody@127.0.0.1/none").openapi())
# To make up what a description does not allow takes long; in the short run bodies are bent by hand alone.
MODES = [GenerationMode.POSITIVE] + ([GenerationMode.NEGATIVE] if EXAMPLES > SHORT else [])
described.config.generation.update(modes=MODES)


@pytest.fixture(scope="module")
def server(demo_database: Callable[[], str]) -> Iterator[LiveServer]:
    """A server of its own: who knows what is left on it."""
    server = LiveServer(demo_database(), free_port())
    server.start()
    yield server
    server.stop()


@pytest.fixture(scope="module")
def there(server: LiveServer) -> Iterator[httpx.Client]:
    with httpx.Client(base_url=f"{server.url}/api", timeout=60) as client:
        yield client


@pytest.fixture(scope="module")
def known(there: httpx.Client) -> dict[str, str]:
    """One machine with one of everything, by the names of the parameters that ask for it."""
    job = Job(there).describe(name="Asked anything")
    job.measure(job.build, [[41.9, 42.0]])
    sitting, run, candidate = job.sitting(started_at="2026-05-09T09:00:00Z"), new_id(), new_id()
    job.run(sitting, 1, 41.9, run).raise_for_status()
    job.put(f"/candidates/{candidate}", CANDIDATE).raise_for_status()
    swap = job.swap(new_id())
    return {
        "machine_id": job.machine,
        "build_id": job.build,
        "workload_id": job.workload,
        "measure_id": job.rise,
        "sitting_id": sitting,
        "run_id": run,
        "candidate_id": candidate,
        "swap_id": swap["id"],
        "step_id": swap["steps"][0]["id"],
    }


def bent(body: Any, generator: random.Random) -> Any:
    """A body with one of its members, however deep, made wrong."""
    if isinstance(body, dict) and body:
        name = generator.choice(sorted(body))
        inner = bent(body[name], generator) if generator.random() < 0.6 else generator.choice(WRONG)
        return {**body, name: inner}
    if isinstance(body, list) and body:
        place = generator.randrange(len(body))
        return [*body[:place], bent(body[place], generator), *body[place + 1 :]]
    return generator.choice(WRONG)


@described.parametrize()
@settings(
    max_examples=EXAMPLES,
    deadline=None,
    derandomize=True,
    phases=[Phase.explicit, Phase.generate],
    suppress_health_check=list(HealthCheck),
)
def test_no_question_is_a_fault(case: Case[Any], server: LiveServer, known: dict[str, str]) -> None:
    method, path = case.method, case.path
    if (method, path) in LEFT_OUT:
        return
    generator = random.Random(repr((case.body, case.path_parameters)))
    if isinstance(case.path_parameters, dict) and generator.random() < 0.8:
        case.path_parameters = case.path_parameters | {
            name: known[name] for name in case.path_parameters if name in known
        }
    if isinstance(case.body, dict | list) and generator.random() < 0.5:
        case.body = bent(case.body, generator)
    if path.endswith("/events"):
        # It goes on for as long as somebody listens: how it begins is the answer.
        asked = case.as_transport_kwargs(base_url=server.url)
        named = {name: asked[name] for name in ("method", "url", "params", "headers") if asked.get(name)}
        with httpx.stream(**named, timeout=60) as begun:
            assert begun.status_code < 500
        return
    answer = case.call(base_url=server.url, timeout=60)
    assert answer.status_code < 500, answer.text
    if answer.status_code >= 400:
        assert answer.headers["content-type"][0] == "application/problem+json"


def test_afterwards_home_and_every_machine_can_be_read(there: httpx.Client, known: dict[str, str]) -> None:
    assert there.get("/machines").status_code == 200
    for machine in there.get("/machine-names").json():
        for path in ("", "/job", "/comparisons", "/run-file"):
            answer = there.get(f"/machines/{machine['id']}{path}")
            assert answer.status_code == 200, (machine, path, answer.text)
    assert known["machine_id"] in {machine["id"] for machine in there.get("/machine-names").json()}
