"""What was written under older names is read as what it says."""

import json
from pathlib import Path
from typing import Any

from lynxbill.exchange.older_names import RUN_FILE, take_older_names
from lynxbill.exchange.run_file import read_run_file

ROOT = Path(__file__).parents[3]
OLD = Path(__file__).parents[1] / "data" / "old" / "2026-12-02-light-table.runs.json"


def test_a_run_file_of_before_says_the_same_as_that_of_today() -> None:
    today = ROOT / "demo" / "fenwick-4-light-table-pc.json"
    assert read_run_file(OLD.read_bytes()) == read_run_file(today.read_bytes())


def test_every_older_name_is_read_at_its_place_and_nowhere_else() -> None:
    for place, names in RUN_FILE.items():
        for old, new in names.items():
            inner: Any = {old: "typed"}
            elsewhere = {"of its own": {old: "kept"}}
            file: Any = inner
            for member in reversed(place):
                file = {member: [file]}
            take_older_names(whole := {**file, **elsewhere} if place else {**inner, **elsewhere}, RUN_FILE)
            assert f'"{new}": "typed"' in json.dumps(whole)
            assert whole["of its own"] == {old: "kept"}


def test_a_word_of_before_is_read_as_that_of_today() -> None:
    file: Any = {"swaps": [{"costs": [{"running": {"by": "jobs", "a_day": 3}}, {"label": "jobs"}]}]}
    take_older_names(file, RUN_FILE)
    assert file == {"swaps": [{"costs": [{"running": {"by": "tasks", "a_day": 3}}, {"label": "jobs"}]}]}
