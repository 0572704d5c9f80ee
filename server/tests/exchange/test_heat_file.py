"""What `lynxbill heat` says of a table and of a run file: phases, settled or not, the fit, or why there is none."""

import json
import subprocess
import sys
from pathlib import Path
from typing import Any

import numpy as np
import pytest

from lynxbill.exchange.heat_file import describe_heat
from lynxbill.exchange.problem import UnusableText
from lynxbill.words.heat.heat import say_not_reached
from tests.conftest import ROOT

AT = np.arange(0.0, 1500.0, 5.0)
LOADED = (AT >= 60) & (AT < 1260)
UP = 72 - 41 * np.exp(-(AT - 60) / 150)
DOWN = 31 + (72 - 31) * np.exp(-(AT - 1260) / 150)
DIE = np.where(AT < 60, 31.0, np.where(LOADED, UP, DOWN))


def table(heading: str, *columns: np.ndarray, mark: str = ".", separator: str = ",") -> bytes:
    rows = [separator.join(f"{value:.6g}".replace(".", mark) for value in row) for row in zip(*columns, strict=True)]
    return "\n".join([*([heading] if heading else []), *rows, ""]).encode()


def described(text: bytes) -> dict[str, Any]:
    found = describe_heat(text, say_not_reached)
    # Every figure of it is one that JSON knows.
    json.dumps(found, allow_nan=False)
    return found


def test_a_table_comes_with_its_phases_and_the_end_of_its_curve() -> None:
    load = np.where(LOADED, 100.0, 0.0)
    found = described(table("s,CPU °C,CPU load %,CPU W", AT, DIE, load, np.where(LOADED, 60.0, 8.0)))
    assert [phase["name"] for phase in found["phases"]] == ["rest", "load", "cool-down"]
    assert found["phases"][1]["power_w"] == pytest.approx(60)
    assert found["settled"]["settled"] is True
    assert found["fit"]["t_inf"] == pytest.approx(72, abs=0.01)
    assert found["fit"]["tau"] == pytest.approx(150, abs=0.5)
    assert found["fit"]["low"] <= found["fit"]["t_inf"] <= found["fit"]["high"]
    assert (found["fit"]["refusal"], found["fit"]["tau_2"]) == (None, None)


@pytest.mark.parametrize(
    ("heading", "mark", "separator"),
    [("", ".", ","), ("Zeit s;Kern °C", ",", ";"), ("t\ttemp", ".", "\t"), ("seconds,die", ".", ",")],
)
def test_however_it_is_written_it_says_the_same(heading: str, mark: str, separator: str) -> None:
    load = LOADED
    found = described(table(heading, AT[load] - 60, UP[load], mark=mark, separator=separator))
    assert found["fit"]["t_inf"] == pytest.approx(72, abs=0.01)


def test_a_load_that_was_too_short_says_how_long_it_needs_and_gives_no_figure() -> None:
    short = LOADED & (AT < 340)
    found = described(table("s,CPU °C", AT[short] - 60, UP[short]))
    assert found["settled"]["settled"] is False
    assert found["settled"]["value_c"] is None
    assert (found["fit"]["t_inf"], found["fit"]["refusal"]) == (None, "too_short")
    assert "are needed at its time constant" in found["fit"]["reason"]
    few = described(table("s,CPU °C", AT[:20], DIE[:20]))
    assert few["fit"]["refusal"] == "too_few_samples"


@pytest.mark.parametrize(
    ("text", "sentence"),
    [
        (b"", "No row of headings"),
        (b"s,CPU W\n0,65\n1,66\n", "No column of this table has a temperature"),
        (b"s,CPU \xc2\xb0C\n0,x\n1,66\n", "No row of headings"),
        (b"s,CPU \xc2\xb0C\n0,50\n1,x\n", "row 3, “CPU °C”"),
        (b"{}", "format"),
        (b"{", "JSON"),
    ],
)
def test_what_tells_no_heat_is_refused_by_its_place(text: bytes, sentence: str) -> None:
    with pytest.raises(UnusableText) as refused:
        describe_heat(text, say_not_reached)
    assert sentence in " ".join(str(problem) for problem in refused.value.problems)


def test_each_trace_of_a_run_file_is_told_above_the_room_of_its_sitting() -> None:
    file = json.loads((ROOT / "demo" / "fenwick-4-light-table-pc.json").read_text())
    found = described(json.dumps(file).encode())
    traced = [run["id"] for run in file["runs"] if "trace" in run]
    assert [run["run"] for run in found["runs"]] == traced
    load = next(phase for phase in found["runs"][0]["phases"] if phase["name"] == "load")
    assert load["rise_k"] == pytest.approx(load["last_minute_c"] - file["sittings"][0]["ambient_c"], abs=0.01)
    one = file | {"runs": [run for run in file["runs"] if run["id"] == traced[0]]}
    assert described(json.dumps(one).encode())["run"] == traced[0]
    bare = file | {"runs": [{k: v for k, v in run.items() if k != "trace"} for run in file["runs"]]}
    with pytest.raises(UnusableText, match="No run of this file has a trace"):
        describe_heat(json.dumps(bare).encode(), say_not_reached)


def test_the_command_prints_one_object_or_names_the_fault_and_leaves_with_2(tmp_path: Path) -> None:
    good, bad = tmp_path / "good.csv", tmp_path / "bad.csv"
    good.write_bytes(table("s,CPU °C", AT, DIE))
    bad.write_text("s,CPU W\n0,65\n1,66\n")

    def heat(file: Path) -> subprocess.CompletedProcess[str]:
        return subprocess.run(
            [sys.executable, "-m", "lynxbill", "heat", str(file)], capture_output=True, text=True, check=False
        )

    assert json.loads(heat(good).stdout)["format"] == "lynxbill-heat"
    refused = heat(bad)
    assert (refused.returncode, refused.stdout) == (2, "")
    assert "has a temperature" in refused.stderr
