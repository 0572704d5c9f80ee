import json
import subprocess
import sys
from pathlib import Path

import pytest

from tests.conftest import ROOT

EXAMPLE = ROOT / "docs" / "example.runs.json"


def judge(*arguments: str, text: str | None = None) -> subprocess.CompletedProcess[str]:
    command = [sys.executable, "-m", "lynxbill", "judge", *arguments]
    return subprocess.run(command, input=text, capture_output=True, text=True, check=False)


def test_the_example_pair_in_the_documents_is_what_the_command_prints() -> None:
    result = judge(str(EXAMPLE))
    assert result.returncode == 0
    assert json.loads(result.stdout) == json.loads((ROOT / "docs" / "example.verdicts.json").read_text())
    assert judge("-", text=EXAMPLE.read_text()).stdout == result.stdout


def test_the_example_says_what_the_format_promises() -> None:
    """The figures of the worked example, by hand: ln(41.9/31.1), 41.9/31.1 and 1 - 31.1/41.9."""
    answer = json.loads(judge(str(EXAMPLE)).stdout)
    tiles = answer["measures"]["tiles.time"]
    assert tiles["pairs"] == [["r1", "r3"]]
    assert tiles["unpaired"] == [{"run": "r2", "reason": "spoiled: indexing ran"}]
    assert tiles["estimate"] == pytest.approx(0.2981, abs=5e-5)
    assert tiles["gain_percent"] == pytest.approx(34.7, abs=0.05)
    assert tiles["time_saved_percent"] == pytest.approx(25.8, abs=0.05)
    assert (tiles["verdict"], tiles["remark"], tiles["basis"]) == ("untested", "one_run_a_side", "one_sitting")
    untested = {"gain_per_10": None, "low": None, "high": None, "note": "untested"}
    values = dict.fromkeys(("tiles.time", "soak.rise"), untested | {"cost_per_item": None})
    assert answer["bill"] == untested | {"net_cost": "66.00", "currency": "EUR", "values": values}


def test_it_says_in_text_what_the_screens_say() -> None:
    result = judge(str(EXAMPLE), "--text")
    assert result.returncode == 0
    assert "Tile rendering: 1.35× as fast so far, untested." in result.stdout
    assert "Tile rendering: 41.9 → 31.1 s. 1.35× as fast (+34.7 %)" in result.stdout
    assert "Untested (one run a side)." in result.stdout
    assert judge(str(EXAMPLE), "--text", "--lines").returncode == 2


def test_builds_may_be_named() -> None:
    answer = json.loads(judge(str(EXAMPLE), "--before", "C", "--after", "B").stdout)
    assert answer["measures"]["tiles.time"]["estimate"] < 0


def test_unusable_input_exits_with_2_and_a_line_a_problem(tmp_path: Path) -> None:
    file = tmp_path / "bad.json"
    broken = json.loads(EXAMPLE.read_text())
    broken["runs"][0]["readings"]["tiles.time"] = 0
    broken["runs"][2]["sitting"] = "s9"
    file.write_text(json.dumps(broken))
    result = judge(str(file))
    assert result.returncode == 2
    assert result.stdout == ""
    assert [line.split(":")[0] for line in result.stderr.splitlines()] == [
        "$.runs[0].readings.tiles.time",
        "$.runs[2].sitting",
    ]


def test_missing_files_and_unknown_builds_exit_with_2() -> None:
    assert judge("/nowhere.json").returncode == 2
    unknown = judge(str(EXAMPLE), "--before", "Z")
    assert unknown.returncode == 2
    assert "B, C" in unknown.stderr


def test_lines_answer_one_for_one_even_where_a_line_is_bad() -> None:
    good = json.dumps(json.loads(EXAMPLE.read_text()))
    result = judge("-", "--lines", text=f"{good}\n{{}}\n{good}\n")
    answers = [json.loads(line) for line in result.stdout.splitlines()]
    assert len(answers) == 3
    assert answers[0] == answers[2]
    assert "problems" in answers[1]
    assert result.returncode == 2
    assert result.stderr.startswith("line 2: $.format")


def test_the_judging_path_imports_no_statistics_package_and_no_server() -> None:
    code = (
        "import sys; from lynxbill.exchange import verdict_file, run_file; import lynxbill.core.value.reckoning; "
        "print([m for m in ('scipy.stats', 'sqlalchemy', 'fastapi') if m in sys.modules])"
    )
    assert (
        subprocess.run([sys.executable, "-c", code], capture_output=True, text=True, check=True).stdout.strip()
        == "[]"
    )
