"""Every screen: no accessibility violation, light and dark, at the bench's sizes, without horizontal scroll."""

import json
from typing import Any

import httpx
import pytest
from selenium.webdriver.common.keys import Keys

from tests.api.bodies import Job
from tests.browser.screen import Screen
from tests.conftest import ROOT, LiveServer, find_machine

AXE = (ROOT / "web" / "node_modules" / "axe-core" / "axe.min.js").read_text()
RULES = {"type": "tag", "values": ["wcag2a", "wcag2aa", "wcag21a", "wcag21aa", "wcag22aa", "best-practice"]}
COLOUR_RULES = {"type": "rule", "values": ["color-contrast", "link-in-text-block"]}
PAGES = {
    "home": ("/", "Scanner-room tower"),
    "new job": ("/new", "What are you going to change?"),
    "new machine": ("/machines/new", "what hurts"),
    "setup": ("/machines/{demo}/setup", "smallest gain it can show"),
    "plan": ("/machines/{demo}/setup/plan", "The plan for the next swap".upper()),
    "swap's plan": ("/machines/{demo}/setup/plan?swap={swap}", "Change the plan"),
    "ladder": ("/machines/{demo}/ladder", "4 builds, 3 swaps done"),
    "measure": ("/machines/{demo}/measure", "Sitting 3 of 3"),
    "open sitting": ("/machines/{bench}/measure", "Is it typed right?"),
    "swap": ("/machines/{demo}/swap", "The baseline is complete"),
    "open case": ("/machines/{tower}/swap", "8 of 13 steps done"),
    "recorded swap": ("/machines/{demo}/swap?swap={swap}", "94.90 EUR net"),
    "judge": ("/machines/{demo}/judge?swap={swap}", "and the gain is real"),
    "bill": ("/machines/{demo}/bill?swap={swap}", "94.90 EUR"),
    "report": ("/machines/{demo}/report?swap={swap}", "Yes: Tile rendering takes"),
    "shelf": ("/shelf", "Siskin 240 GB"),
    "nothing yet": ("/machines/{fresh}/judge", "nothing to judge"),
}


@pytest.fixture(scope="module")
def places(api: httpx.Client, demo_id: str) -> dict[str, str]:
    swaps = api.get(f"/machines/{demo_id}").json()["swaps"]
    tower = find_machine(api, "Scanner-room tower")
    bench = Job(api).describe()
    sitting = bench.sitting()
    for position, reading in enumerate((41.9, 41.7, 419.0), start=1):
        bench.run(sitting, position, reading).raise_for_status()
    fresh = Job(api).describe().machine
    return {"demo": demo_id, "swap": swaps[1]["id"], "tower": tower, "fresh": fresh, "bench": bench.machine}


def violations(screen: Screen, rules: dict[str, Any] = RULES) -> list[str]:
    if not screen.driver.execute_script("return 'axe' in window"):
        screen.driver.execute_script(AXE)
    found: Any = screen.driver.execute_async_script(
        "const done = arguments[1];"
        "axe.run(document, { runOnly: arguments[0] }).then(r => done(JSON.stringify(r.violations)))",
        rules,
    )
    return [f"{v['id']}: {v['nodes'][0]['html'][:160]} {v['nodes'][0]['failureSummary']}" for v in json.loads(found)]


@pytest.mark.parametrize("page", PAGES)
def test_a_screen_is_accessible_in_both_schemes_and_never_scrolls_sideways(
    screen: Screen, demo_server: LiveServer, places: dict[str, str], page: str
) -> None:
    path, words = PAGES[page]
    screen.open(demo_server.url + path.format(**places))
    screen.sees(words)
    # What is folded away is looked at too.
    screen.driver.execute_script("document.querySelectorAll('details').forEach(d => d.open = true)")
    assert violations(screen) == []
    # In the dark only the colours are others.
    screen.prefer("dark")
    assert violations(screen, COLOUR_RULES) == []
    for width, height in ((820, 1180), (1280, 800)):
        screen.resize(width, height)
        assert screen.driver.execute_script("return document.documentElement.scrollWidth") <= width


def test_dialogs_are_accessible_and_single_keys_can_be_switched_off(
    screen: Screen, demo_server: LiveServer, demo_id: str
) -> None:
    screen.open(f"{demo_server.url}/machines/{demo_id}/measure")
    screen.sees("Sitting 3 of 3")
    screen.press("?")
    screen.sees("Single keys act outside fields")
    assert violations(screen) == []
    screen.tab_to("Single keys act outside fields")
    screen.press(Keys.SPACE, Keys.ESCAPE)
    screen.until(lambda: "Single keys act" not in screen.text(), "the list of keys stayed open")
    screen.press("4")
    assert screen.driver.current_url.endswith("/measure")
    screen.press("?")
    screen.sees("Single keys act outside fields")


SMALL_TARGETS = """
const inside = 'main a, main button, main input, main select, main [role=checkbox], aside button';
return [...document.querySelectorAll(inside)]
  .map(e => [e.getAttribute('aria-label') || e.textContent || e.id, e.getBoundingClientRect()])
  .filter(([, box]) => box.width > 1 && (box.height < 44 || box.width < 24))
  .map(([name, box]) => `${name}: ${box.width} x ${box.height}`)
"""


@pytest.mark.parametrize("page", ["measure", "swap", "open case", "recorded swap"])
def test_targets_at_the_bench_are_large(
    screen: Screen, demo_server: LiveServer, places: dict[str, str], page: str
) -> None:
    path, words = PAGES[page]
    screen.open(demo_server.url + path.format(**places))
    screen.sees(words)
    assert screen.driver.execute_script(SMALL_TARGETS) == []
