"""
Databases as earlier states of this repository left them, opened by today's code.

`tests/data/old/make_dump.py` made each with the code of then: two of them are of migrations that were changed after
they had landed.
"""

import subprocess
from collections.abc import Callable, Iterator
from pathlib import Path
from typing import Any

import httpx
import pytest
from sqlalchemy import text

from lynxbill.cluster import find_program
from lynxbill.serve import refuse_other_shape
from lynxbill.services.base.tallies import renew_sheets
from lynxbill.store.database import migrate, open_engine, session_factory
from lynxbill.store.repair import find_broken
from tests.conftest import LiveServer, free_port

OLD = Path(__file__).parents[1] / "data" / "old"
# By name, what early migrations left out of them.
STATES = {
    "2026-11-24-frame": ("the count of a machine's changes",),
    "2026-11-27-figures-of-traces": (
        "what the agent was shown of a machine",
        "what was seen of a trace",
        "the place of a picture that waits for its run",
    ),
    "2026-11-27-disturbances": ("the place of a picture that waits for its run",),
    "2026-12-01-rules-2": (),
    "0.1.0": (),
}


def restored(url: str, name: str) -> None:
    dump = OLD / f"{name}.dump"
    command = [str(find_program("pg_restore")), "--exit-on-error", "--no-owner", f"--dbname={url}", str(dump)]
    subprocess.run(command, check=True, capture_output=True)


def given_before(url: str) -> dict[tuple[str, str], list[Any]]:
    """Verdicts as the ledger held them then, by machine's measure and swap."""
    engine = open_engine(url)
    with engine.connect() as connection:
        there = connection.scalar(text("SELECT to_regclass('showings') IS NOT NULL"))
        rows = (
            connection.execute(text("SELECT swap_id, measure_id, verdict FROM showings ORDER BY at")) if there else ()
        )
        found: dict[tuple[str, str], list[Any]] = {}
        for swap, measure, word in rows:
            found.setdefault((str(swap), str(measure)), []).append(word)
    engine.dispose()
    return found


@pytest.fixture(params=STATES)
def old(request: pytest.FixtureRequest, new_database: Callable[[], str]) -> Iterator[tuple[str, LiveServer]]:
    """A server of today on an old database, which was brought up to date as every start does."""
    name: str = request.param
    url = new_database()
    restored(url, name)
    engine = open_engine(url)
    assert tuple(one.what for one in find_broken(engine)) == STATES[name]
    migrate(engine)
    refuse_other_shape(engine, Path())
    renew_sheets(session_factory(engine))
    engine.dispose()
    server = LiveServer(url, free_port())
    server.start()
    try:
        yield url, server
    finally:
        server.stop()


def test_every_machine_and_report_of_an_old_database_opens_and_verdicts_stand_as_given(
    old: tuple[str, LiveServer],
) -> None:
    url, server = old
    given = given_before(url)
    with httpx.Client(base_url=f"{server.url}/api", timeout=120) as api:

        def get(path: str, **query: Any) -> Any:
            answer = api.get(path, params=query)
            assert answer.status_code == 200, (path, answer.text)
            return answer.json()

        get("/machines")
        machines = get("/machine-names")
        assert {machine["name"] for machine in machines} >= {"Plotting PC", "Field laptop"}
        for machine in machines:
            place = f"/machines/{machine['id']}"
            case = get(place)
            for station in ("job", "comparisons", "runs", "bench"):
                get(f"{place}/{station}")
            assert api.get(f"{place}/run-file").status_code == 200
            for swap in case["swaps"]:
                pair = {"before": swap["before"], "after": swap["after"]}
                seen = get(f"{place}/comparison", **pair)
                get(f"{place}/reckoning", **pair)
                get(f"{place}/heat", **pair)
                for measure, result in seen["measures"].items():
                    for word in given.get((swap["id"], measure), [])[-1:]:
                        assert result["verdict"] == word, (machine["name"], swap["label"], result["name"])
            for report in get(f"{place}/reports"):
                assert api.get(f"{place}/reports/{report['id']}").status_code == 200
