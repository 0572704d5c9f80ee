"""What Judge and Bill show of the demo is what `lynxbill judge` computes from the exported run file."""

import json
import math
import subprocess
import sys
from typing import Any

import httpx
import pytest
from selenium.webdriver.common.by import By

from tests.browser.screen import Screen
from tests.conftest import LiveServer
from tests.tiers import noises

WORDS = {"real_gain": "Real gain", "real_loss": "Real loss", "no_change": "No change", "not_settled": "Not settled"}


def decimals(half_width: float) -> int:
    """Two significant digits of the half-width, as docs/judgement.md asks for."""
    return max(0, 1 - math.floor(math.log10(half_width)))


def shown(value: float, places: int) -> str:
    text = f"{value:.{places}f}"
    return text.removeprefix("-") if float(text) == 0 else text.replace("-", "−")


def expected_change(result: dict[str, Any], measure: dict[str, Any]) -> str:
    if result["gain_percent"] is not None:
        places = min(2, decimals((result["gain_high"] - result["gain_low"]) / 2))
        sign = "+" if round(result["gain_percent"], places) > 0 else ""
        return f"{sign}{shown(result['gain_percent'], places)} %"
    words = {"heat": ("cooler", "hotter"), "noise": ("quieter", "louder")}[measure["kind"]]
    places = decimals((result["ci_high"] - result["ci_low"]) / 2)
    unit = {"K": "K", "dB[SPL]": "dB(A)"}[measure["unit"]]
    size = shown(abs(result["estimate"]), places)
    return f"{size} {unit} {words[result['estimate'] < 0]}" if float(size) else "alike"


@pytest.fixture(scope="module")
def run_file(api: httpx.Client, demo_id: str) -> dict[str, Any]:
    answer: dict[str, Any] = api.get(f"/machines/{demo_id}/run-file").json()
    return answer


def judge(run_file: dict[str, Any], swap: dict[str, Any]) -> dict[str, Any]:
    command = [sys.executable, "-m", "lynxbill", "judge", "-", "--before", swap["from"], "--after", swap["to"]]
    output = subprocess.run(command, input=json.dumps(run_file), capture_output=True, text=True, check=True).stdout
    answer: dict[str, Any] = json.loads(output)
    return answer


@pytest.mark.parametrize("number", noises(0, 1, 2))
def test_judge_and_bill_show_the_commands_figures(
    screen: Screen, demo_server: LiveServer, demo_id: str, run_file: dict[str, Any], number: int
) -> None:
    swap = run_file["swaps"][number]
    answer = judge(run_file, swap)
    machine = f"{demo_server.url}/machines/{demo_id}"
    screen.open(f"{machine}/judge?swap={swap['id']}")
    screen.sees_control("Build before")
    for measure in run_file["measures"]:
        result = answer["measures"][measure["id"]]
        row = screen.driver.find_element(By.CSS_SELECTOR, f"tr[data-measure='{measure['name']}']")
        assert expected_change(result, measure) in row.text
        assert WORDS[result["verdict"]] in row.text
    losses = [r for r in answer["measures"].values() if r["verdict"] == "real_loss"]
    assert ("Got worse" in screen.text()) == bool(losses)

    screen.open(f"{machine}/bill?swap={swap['id']}")
    bill, overall = answer["bill"], answer["overall"]
    screen.sees(f"{bill['net_cost']} EUR")
    lead = answer["measures"][answer["lead"]]
    assert lead["verdict"] == "real_gain"
    places = min(3, decimals((bill["high"] - bill["low"]) / 2))
    per_ten = screen.driver.find_element(By.CSS_SELECTOR, "[data-testid=per-ten]").text
    assert per_ten == f"{shown(bill['gain_per_10'], places)} % speed"
    assert f"95 % interval {shown(bill['low'], places)} to {shown(bill['high'], places)}" in screen.text()
    assert (
        f"{shown(1 + lead['gain_percent'] / 100, 3 if lead['gain_percent'] < 10 else 2)}× as fast" in screen.heading()
    )
    half = (overall["high"] - overall["low"]) / 2
    assert f"All work together: +{shown(overall['gain_percent'], min(2, decimals(half)))} %" in screen.text()
