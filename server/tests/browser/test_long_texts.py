"""The longest and the most hostile texts that may be typed: every screen stays whole, and reads forwards."""

import json
import re
from collections.abc import Callable
from typing import Any

import httpx
import pytest

from tests.browser.screen import Screen
from tests.conftest import ROOT, LiveServer

pytestmark = pytest.mark.nightly
LONG = "Landkartenplotterwerkstattarbeitsplatzrechner" * 5
TYPED = {
    "name",
    "label",
    "owner",
    "question",
    "settles",
    "reason",
    "remark",
    "what",
    "expected",
    "seen",
    "card",
    "target",
}
# Letters from right to left around a figure, mark-up, a formula, marks stacked on one letter, a family in one sign.
HOSTILE = (
    "\u05de\u05d3\u05e4\u05e1\u05ea 12 \u05de\u05e4\u05d5\u05ea <img src=x onerror=document.title='taken'> ${1} =1+1 "
    + "o"
    + "\u0301" * 12
    + " \U0001f468\u200d\U0001f469\u200d\U0001f467 \u202f\u3000"
)
# Every letter from right to left that is shown stands within marks that isolate it.
TURNED_LOOSE = """
const texts = document.createTreeWalker(document.body, NodeFilter.SHOW_TEXT);
const loose = [];
while (texts.nextNode()) {
  const text = texts.currentNode.data.replace(/\\u2068[^\\u2069]*\\u2069/g, "");
  if (/[\\u0590-\\u08ff]/.test(text)) loose.push(texts.currentNode.data);
}
return loose;
"""
PAGES = [
    "",
    "/setup",
    "/setup/plan",
    "/ladder",
    "/measure",
    "/swap",
    "/swap?swap={swap}",
    "/judge?swap={swap}",
    "/bill?swap={swap}",
    "/report?swap={swap}",
]


def retyped(value: Any, write: Callable[[str], str]) -> Any:
    """Every typed text becomes another one."""
    if isinstance(value, list):
        return [retyped(member, write) for member in value]
    if not isinstance(value, dict):
        return value
    return {
        key: write(member) if key in TYPED and isinstance(member, str) and member else retyped(member, write)
        for key, member in value.items()
    }


def long(text: str) -> str:
    return (text.replace(" ", "") + LONG)[:200]


def hostile(text: str) -> str:
    return f"{text[:40]} {HOSTILE}"


def take_in(api: httpx.Client, write: Callable[[str], str], prefix: str) -> dict[str, str]:
    text = (ROOT / "demo" / "fenwick-1-plotting-pc.json").read_text()
    file = retyped(json.loads(re.sub(r'"([0-9a-f]{8}-[0-9a-f-]{27})"', rf'"{prefix} \1"', text)), write)
    for record in [*file["measures"], *file["runs"]]:
        record["workload"] = write(record["workload"])
    machine = api.post("/run-files", content=json.dumps(file)).raise_for_status().json()["machine"]
    return {"machine": machine, "swap": api.get(f"/machines/{machine}").json()["swaps"][1]["id"]}


@pytest.fixture(scope="module")
def crowded(api: httpx.Client) -> dict[str, str]:
    """The plotting PC with every text at its longest, beside the demo."""
    return take_in(api, long, "long")


@pytest.fixture(scope="module")
def turned(api: httpx.Client) -> dict[str, str]:
    """The plotting PC with every text hostile: from right to left, marked up, stacked up."""
    return take_in(api, hostile, "hostile")


@pytest.mark.parametrize("page", PAGES)
def test_a_screen_of_the_longest_texts_stays_within_its_width(
    screen: Screen, demo_server: LiveServer, crowded: dict[str, str], page: str
) -> None:
    # On the home screen it may stand on a later page, after the machines of other tests.
    path = f"/machines/{crowded['machine']}{page}" if page else "/?find=Landkarten"
    screen.open(demo_server.url + path.format(**crowded))
    screen.sees("PlottingPCLandkarten")
    for width, height in ((820, 1180), (1280, 800)):
        screen.resize(width, height)
        assert screen.driver.execute_script("return document.documentElement.scrollWidth") <= width


@pytest.mark.parametrize("page", PAGES)
def test_hostile_names_turn_nothing_run_nothing_and_push_nothing_aside(
    screen: Screen, demo_server: LiveServer, turned: dict[str, str], page: str
) -> None:
    path = f"/machines/{turned['machine']}{page}" if page else "/?find=onerror"
    screen.open(demo_server.url + path.format(**turned))
    screen.sees("Plotting PC")
    assert screen.driver.execute_script(TURNED_LOOSE) == []
    assert "taken" not in screen.driver.title.split(" ")[0]
    assert screen.driver.execute_script("return document.querySelectorAll('img[src=x]').length") == 0
    for width, height in ((820, 1180), (1280, 800)):
        screen.resize(width, height)
        assert screen.driver.execute_script("return document.documentElement.scrollWidth") <= width
