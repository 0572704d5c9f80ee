"""The longest texts that may be typed, in one word: every screen stays within its width."""

import json
import re
from typing import Any

import httpx
import pytest

from tests.browser.screen import Screen
from tests.conftest import ROOT, LiveServer

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
]


def lengthen(value: Any) -> Any:
    """Every typed text becomes as long as it may be."""
    if isinstance(value, list):
        return [lengthen(member) for member in value]
    if not isinstance(value, dict):
        return value
    return {
        key: long(member) if key in TYPED and isinstance(member, str) and member else lengthen(member)
        for key, member in value.items()
    }


def long(text: str) -> str:
    return (text.replace(" ", "") + LONG)[:200]


@pytest.fixture(scope="module")
def crowded(api: httpx.Client) -> dict[str, str]:
    """The plotting PC with every text at its longest, beside the demo."""
    text = (ROOT / "demo" / "fenwick-1-plotting-pc.json").read_text()
    file = lengthen(json.loads(re.sub(r'"([0-9a-f]{8}-[0-9a-f-]{27})"', r'"long \1"', text)))
    for record in [*file["measures"], *file["runs"]]:
        record["workload"] = long(record["workload"])
    machine = api.post("/run-files", content=json.dumps(file)).raise_for_status().json()["machine"]
    return {"machine": machine, "swap": api.get(f"/machines/{machine}").json()["swaps"][1]["id"]}


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
