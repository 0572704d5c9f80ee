"""The bill of every kind of cost, and the report: typed, handed out, saved, and opened with no server there."""

import json
import re
import subprocess
import sys
from collections.abc import Iterator
from dataclasses import replace
from decimal import Decimal
from pathlib import Path
from typing import Any

import httpx
import pytest
from selenium.webdriver.common.keys import Keys

from lynxbill.core.terms.measure import Measure, MeasureId
from lynxbill.core.terms.money import CostLine
from lynxbill.exchange.run_file import write_run_file
from tests.api.bodies import Job, new_id, renewed
from tests.browser.screen import Screen
from tests.browser.test_every_screen import AXE, violations
from tests.builders import RISE, make_case
from tests.conftest import LiveServer
from tests.words.test_bill import FAST, SLOW, costing, given

HOURS = {"by": "hours", "a_day": 6, "days_a_year": 250, "before": 58, "after": 66}


def line(kind: str, label: str, amount: str, **members: Any) -> dict[str, Any]:
    return {"kind": kind, "label": label, "amount": amount, "currency": "EUR"} | members


@pytest.fixture(scope="module")
def ladder(api: httpx.Client, demo_id: str) -> dict[str, Any]:
    """A copy of the demo's ladder with every kind of cost on its three steps."""
    file = api.get(f"/machines/{demo_id}/run-file").json()
    first, second, third = file["swaps"]
    both = {first["id"]: "1", second["id"]: "2"}
    first["costs"] = [
        line("consumable", "Paste, a tube", "9.00", split_by="by use", shares=both),
        line("part", "Filter mats", "0.00", basis="gift", worth="6.40", supplier="the shop next door"),
    ]
    second["costs"] = [
        line("part", "Varro 6-core", "120.00", currency="USD", rate="0.92", rate_date="2026-05-04", basis="used"),
        line("labour", "Labour", "35.00", quantity="0.6", unit="h"),
        line("electricity", "While mapping", "0.32", running=HOURS),
        line("resale", "Old 4-core", "52.00", low="40.00", high="60.00"),
    ]
    third["costs"] = [line("part", "Marl kit", "40.00"), line("resale", "Old module", "45.00", on="2026-05-20")]
    return taken_in(api, file)


def taken_in(api: httpx.Client, file: dict[str, Any]) -> dict[str, Any]:
    """A copy whose verdicts were all given: under new ids none of them is known to have been."""
    copy = renewed(api, file)
    machine = copy["machine"]["id"]
    case = api.get(f"/machines/{machine}").json()
    ways = [(swap["before"], swap["after"]) for swap in case["swaps"]]
    if len(ways) > 1:
        ways.append((ways[0][0], ways[-1][1]))
    for before, after in ways:
        pair = {"before": before, "after": after}
        found = api.get(f"/machines/{machine}/comparison", params=pair).json()
        measures = [key for key, result in found["measures"].items() if result["can_be_shown"]]
        counts = {"revision": found["revision"], "evidence_revision": found["evidence_revision"]}
        if measures:
            api.post(f"/machines/{machine}/shown", json=pair | counts | {"measures": measures}).raise_for_status()
    return copy


def bill_of(ladder: dict[str, Any], server: LiveServer, step: int, page: str = "bill") -> str:
    return f"{server.url}/machines/{ladder['machine']['id']}/{page}?swap={ladder['swaps'][step]['id']}"


def test_a_gift_a_split_and_a_foreign_price_say_where_they_come_from(
    screen: Screen, demo_server: LiveServer, ladder: dict[str, Any]
) -> None:
    screen.open(bill_of(ladder, demo_server, 0))
    screen.sees("Filter mats is a gift, from the shop next door: nothing paid, 6.40 EUR in a shop.")
    screen.sees("its share of 9.00, split by use over 2 steps")
    screen.sees("real, for 3.00 EUR net")
    screen.sees("At the worth of what was not paid: 9.40 EUR")
    screen.open(bill_of(ladder, demo_server, 1))
    screen.sees("part, used, in USD, at 0.92 of 4 May 2026")
    screen.sees("between 77.40 and 97.40 EUR")
    # 6.00 of the tube, 110.40, 21.00, less 52.00.
    screen.sees("real, for 85.40 EUR net")
    assert violations(screen) == []


def test_both_switches_have_their_result_at_once_and_the_address_keeps_them(
    screen: Screen, demo_server: LiveServer, ladder: dict[str, Any]
) -> None:
    screen.open(bill_of(ladder, demo_server, 1))
    screen.sees("real, for 85.40 EUR net")
    screen.tab_to("With labour")
    screen.press(Keys.SPACE)
    screen.sees("real, for 64.40 EUR net")
    screen.choose("Electricity over", "3 y")
    screen.sees("real, for 75.92 EUR net")
    assert "labour=without" in screen.driver.current_url
    assert "years=3" in screen.driver.current_url
    screen.activate("Report for the owner")
    screen.sees("A draft: it has no number")
    screen.sees("75.92 EUR")


def test_what_earns_its_price_has_no_ratio_and_the_ladder_adds_up(
    screen: Screen, demo_server: LiveServer, ladder: dict[str, Any]
) -> None:
    screen.open(bill_of(ladder, demo_server, 2))
    screen.sees("and it pays for itself: −5.00 EUR net.")
    screen.sees("resale received 20 May 2026")
    screen.sees("The whole ladder, A to D".upper())
    screen.sees("With the machine’s own price: 323.40 EUR.")
    table = screen.text()
    assert all(net in table for net in ("3.00 EUR", "85.40 EUR", "−5.00 EUR"))


@pytest.mark.nightly
def test_the_whole_ladder_follows_a_branch_and_leaves_out_what_is_not_on_its_way(
    screen: Screen, demo_server: LiveServer, api: httpx.Client, ladder: dict[str, Any]
) -> None:
    file = api.get(f"/machines/{ladder['machine']['id']}/run-file").json()
    first, second, _ = file["swaps"]
    branch = new_id()
    old = next(build for build in file["builds"] if build["id"] == first["to"])
    kept = [part for part in old["parts"] if part["role"] != "cooler"]
    tower = {"id": new_id(), "role": "cooler", "label": "Ostrel tower", "rated": {}}
    file["builds"].append({"id": branch, "letter": "E", "label": "Tower", "parts": [*kept, tower]})
    cost = line("part", "Ostrel tower", "29.00")
    made = {"id": new_id(), "from": first["to"], "to": branch, "label": "Tower on B", "plan": second["plan"]}
    file["swaps"].append(made | {"costs": [cost], "state": "closed"})
    copy = taken_in(api, file)
    screen.open(bill_of(copy, demo_server, 3))
    screen.sees("Tower on B cost 29.00 EUR net.")
    screen.sees("The whole ladder, A to E".upper())
    # The first step's own 3.00, and the branch; the six cores are not on its way.
    screen.sees("With the machine’s own price: 272.00 EUR.")


def test_what_works_now_has_a_cost_for_each_further_program(
    screen: Screen, demo_server: LiveServer, api: httpx.Client
) -> None:
    works = Measure(MeasureId("w"), "Programs", "job", "1", "outcome", "other", "higher", of=9)
    case = given(costing(make_case([[5.0]] * 4, [[9.0]] * 4, measure=works), "38.00"))
    copy = taken_in(api, _with_uuids(api, write_run_file(case)))
    screen.open(bill_of(copy, demo_server, 0))
    screen.sees("real, for 38.00 EUR net: 9.50 EUR each.")
    screen.sees("5 of 9 passed → 9 of 9")
    assert "per 10" not in screen.heading()


def test_a_cost_around_nothing_has_words_and_no_interval(
    screen: Screen, demo_server: LiveServer, api: httpx.Client, demo_id: str
) -> None:
    file = api.get(f"/machines/{demo_id}/run-file").json()
    file["swaps"][1]["costs"] = [
        line("part", "Varro 6-core", "60.00"),
        line("resale", "Old 4-core", "55.00", low="10.00", high="100.00"),
    ]
    file["swaps"][0]["costs"] = file["swaps"][2]["costs"] = []
    copy = taken_in(api, file)
    screen.open(bill_of(copy, demo_server, 1))
    screen.sees("real, for 5.00 EUR net.")
    screen.sees("at least")
    screen.sees("So small a cost makes the figure per 10 large")
    screen.open(bill_of(copy, demo_server, 2))
    screen.sees("Cost not given.")
    screen.sees("“Memory, 8 to 16 GB”, cost not given")


def test_a_paste_job_has_a_full_bill_in_kelvin(screen: Screen, demo_server: LiveServer, api: httpx.Client) -> None:
    sides = [[50.0, 50.2, 50.1], [50.3, 50.4, 50.2], [49.8, 50.0, 49.9]], [[45.0, 45.2, 45.1]] * 3
    case = make_case(*sides, measure=replace(RISE, step=0.1), matters_from=1.0, headline=RISE.id)
    tube = CostLine("consumable", "Paste", Decimal("6.40"), "EUR", quantity=Decimal("0.2"), unit="of a tube")
    hours = CostLine("labour", "Labour", Decimal("35.00"), "EUR", quantity=Decimal("0.5"), unit="h")
    case = given(replace(case, swaps=(replace(case.swaps[0], costs=(tube, hours)),)))
    copy = taken_in(api, _with_uuids(api, write_run_file(case)))
    screen.open(bill_of(copy, demo_server, 0))
    screen.sees("Rise 5.00 K cooler, real, for 18.78 EUR net: 2.66 K per 10 EUR")
    screen.sees("0.2 of a tube at 6.40")
    screen.sees("K per 10")


def _with_uuids(api: httpx.Client, text: str) -> dict[str, Any]:
    """The file as the server keeps it, every thing under an id that is its own everywhere."""
    machine = api.post("/run-files", content=text).raise_for_status().json()["machine"]
    file: dict[str, Any] = api.get(f"/machines/{machine}/run-file").json()
    return file


def test_costs_are_typed_to_the_last_member_by_keyboard(
    screen: Screen, demo_server: LiveServer, api: httpx.Client
) -> None:
    case = given(costing(make_case(SLOW, FAST, headline="time"), "94.90"))
    copy = taken_in(api, _with_uuids(api, write_run_file(case)))
    machine, swap = copy["machine"]["id"], copy["swaps"][0]["id"]
    screen.open(f"{demo_server.url}/machines/{machine}/swap?swap={swap}")
    screen.activate("+ labour")
    screen.fill("Hours of cost 2", "0.5")
    screen.fill("Amount of cost 2", "30")
    screen.activate("+ electricity")
    screen.fill("Price of a kWh of cost 3", "0.30")
    screen.fill("What cost 3 is for", "Standby")
    screen.fill("Before, W, cost 3", "50")
    screen.fill("After, W, cost 3", "40")
    screen.fill("Hours a day, cost 3", "10")
    screen.activate("Save the account")

    def kept() -> list[dict[str, Any]]:
        costs: list[dict[str, Any]] = api.get(f"/machines/{machine}").json()["swaps"][0]["costs"]
        return costs if len(costs) == 3 else []

    _, labour, standby = screen.until(kept, "the lines were not saved")
    assert (labour["amount"], labour["quantity"], labour["unit"]) == ("30", "0.5", "h")
    assert standby["running"] == {
        "by": "hours",
        "a_day": 10.0,
        "days_a_year": 250.0,
        "before": 50.0,
        "after": 40.0,
        "power": None,
        "time": None,
    }
    screen.fill("Hours a day, cost 3", "25")
    screen.activate("Save the account")
    screen.sees("A day has 24 hours")
    assert screen.value_of("Hours a day, cost 3") == "25", "what was typed is still there"


@pytest.fixture
def downloads(screen: Screen, tmp_path: Path) -> Iterator[Path]:
    allowed = {"behavior": "allow", "downloadPath": str(tmp_path)}
    screen.driver.execute_cdp_cmd("Browser.setDownloadBehavior", allowed)
    yield tmp_path
    screen.driver.execute_cdp_cmd("Browser.setDownloadBehavior", {"behavior": "default"})


@pytest.mark.nightly
def test_a_report_is_handed_out_saved_and_read_with_no_server_there(
    screen: Screen, demo_server: LiveServer, api: httpx.Client, ladder: dict[str, Any], downloads: Path
) -> None:
    screen.open(bill_of(ladder, demo_server, 1, "report"))
    screen.sees("Yes: Tile rendering takes 25 % less time (+34 % speed)")
    screen.activate("Hand it out")
    screen.sees("Say first whether anything was changed after the last run")
    screen.choose("After the last run: cables, fans, settings?", "nothing")
    screen.fill("Advice in your own words (can be left out)", "It is 50 % faster, and quieter.")
    screen.sees("“50 %” is none of the results.")
    screen.sees("“quieter” goes against the result: Noise at 50 cm")
    screen.fill("Advice in your own words (can be left out)", "Worth it for maps.")
    screen.sees("Worth it for maps.")
    screen.choose("Form", "full")
    screen.sees("Each measure".upper())
    assert violations(screen) == []
    screen.activate("Hand it out")
    screen.sees("Report 1, as it was handed out")
    screen.activate("Save as a file")
    (file,) = screen.until(lambda: list(downloads.glob("*.html")), "no file was saved")
    text = screen.until(file.read_text, "the file is empty")
    assert "<script" not in text
    assert not re.search(r"(?:src|href)=[\"']?(?!data:)", text)
    assert "http:" not in text.replace("http://www.w3.org", "")
    offline = {"offline": True, "latency": 0, "downloadThroughput": 0, "uploadThroughput": 0}
    screen.driver.execute_cdp_cmd("Network.enable", {})
    screen.driver.execute_cdp_cmd("Network.emulateNetworkConditions", offline)
    try:
        screen.open(file.as_uri())
        screen.sees("Yes: Tile rendering takes 25 % less time (+34 % speed)")
        asked: Any = screen.driver.execute_script(
            "return performance.getEntriesByType('resource').map(e => e.name).filter(n => !n.startsWith('data:'))"
        )
        assert asked == []
        assert violations(screen) == []
        page = screen.text()
    finally:
        screen.driver.execute_cdp_cmd("Network.emulateNetworkConditions", offline | {"offline": False})
    sentences = _judged(api, ladder, 1)
    for words in sentences:
        assert words in page, words
    assert AXE


def _judged(api: httpx.Client, ladder: dict[str, Any], step: int) -> list[str]:
    """What `lynxbill judge --text` says of each measure: name and the change, as the report must say it too."""
    file = api.get(f"/machines/{ladder['machine']['id']}/run-file").json()
    swap = file["swaps"][step]
    command = [
        sys.executable,
        "-m",
        "lynxbill",
        "judge",
        "-",
        "--text",
        "--before",
        swap["from"],
        "--after",
        swap["to"],
    ]
    printed = subprocess.run(command, input=json.dumps(file), capture_output=True, text=True, check=True).stdout
    found = re.findall(r"interval ([^.]+(?:\.\d[^.]*)*)\. ", printed)
    assert len(found) >= 6, printed
    return found


@pytest.mark.parametrize(
    ("paper", "box"), [("A4", (595, 842)), pytest.param("letter", (612, 792), marks=pytest.mark.nightly)]
)
def test_a_report_is_printed_by_command_on_either_paper(
    demo_server: LiveServer, demo_id: str, tmp_path: Path, paper: str, box: tuple[int, int]
) -> None:
    file = tmp_path / "report.pdf"
    command = [sys.executable, "-m", "lynxbill", "report", demo_id, "--to", str(file), "--paper", paper]
    subprocess.run([*command, "--form", "full", "--server", demo_server.url], check=True)
    content = file.read_bytes()
    assert content.startswith(b"%PDF")
    boxes = re.findall(rb"/MediaBox \[0 0 ([\d.]+) ([\d.]+)\]", content)
    assert len(boxes) > 3
    assert {(round(float(w)), round(float(h))) for w, h in boxes} == {box}


def test_a_command_that_can_t_write_a_report_says_why(demo_server: LiveServer, tmp_path: Path) -> None:
    for machine, file, says in (
        ("Nobody's PC", "r.html", "no machine is called “Nobody's PC”"),
        ("Plotting PC", "r.txt", "give the file one of these endings"),
    ):
        command = [sys.executable, "-m", "lynxbill", "report", machine, "--to", str(tmp_path / file)]
        ended = subprocess.run([*command, "--server", demo_server.url], capture_output=True, text=True, check=False)
        assert ended.returncode == 2
        assert says in ended.stderr


def test_a_part_goes_over_the_shelf_from_one_machine_into_another(
    screen: Screen, demo_server: LiveServer, api: httpx.Client
) -> None:
    giver, taker = Job.measured(api), Job.measured(api)
    swaps = []
    for job in (giver, taker):
        swap = new_id()
        job.put(f"/swaps/{swap}", job.swap_body(new_id(), costs=[])).raise_for_status()
        swaps.append(swap)
    screen.open(f"{demo_server.url}/machines/{giver.machine}/swap?swap={swaps[0]}")
    screen.fill("Varro 4-core is worth, EUR", "21.50")
    screen.activate("Lay it on the shelf: Varro 4-core")
    screen.sees("Varro 4-core lies on the shelf.")
    screen.open(f"{demo_server.url}/shelf")
    screen.sees("Test bench")
    assert "21.50" in screen.value_of("Worth of Varro 4-core")
    screen.open(f"{demo_server.url}/machines/{taker.machine}/swap?swap={swaps[1]}")
    screen.choose("Take from the shelf", "Varro 4-core, 21")
    screen.activate("Take it into the account")
    screen.sees("21.50 EUR net")
    (line_taken,) = Job.find_swap(taker.case(), swaps[1])["costs"]
    assert line_taken["supplier"] == "the shelf, out of Test bench"


def test_tables_and_pictures_are_taken_along_as_files(
    screen: Screen, demo_server: LiveServer, ladder: dict[str, Any], downloads: Path
) -> None:
    screen.open(bill_of(ladder, demo_server, 1))
    screen.sees("Is there a better way".upper())
    screen.activate("Save as CSV: Plotting PC, ways to spend money")

    def saved(ending: str) -> Path | None:
        return next(downloads.glob(f"*.{ending}"), None)

    def content(ending: str) -> bytes:
        file = screen.until(lambda: saved(ending), f"no {ending} was saved")
        return screen.until(file.read_bytes, f"the {ending} is empty")

    rows = content("csv").decode()
    assert rows.startswith("10 EUR on,net EUR,gain,")
    assert rows.count("\r\n") == 1 + len(ladder["swaps"]) + len(ladder["candidates"]) + 1
    screen.activate("Save as SVG: Plotting PC: Tile rendering against net cost")
    drawing = content("svg").decode()
    assert "real, for 85.40" in drawing.replace("\n", " ")
    assert "var(--" not in drawing
    screen.activate("Save as PNG: Plotting PC: Tile rendering against net cost")
    assert content("png").startswith(b"\x89PNG")


def test_a_table_of_fields_is_taken_along_with_what_stands_in_them(
    screen: Screen, demo_server: LiveServer, api: httpx.Client, downloads: Path
) -> None:
    job = Job(api).describe()
    sitting = job.sitting()
    runs = [job.row(sitting, position, value) for position, value in enumerate((41.9, 42.05), start=1)]
    job.post("/runs", {"runs": runs}).raise_for_status()
    workload = job.case()["workloads"][0]["name"]
    screen.open(f"{demo_server.url}/machines/{job.machine}/measure")
    screen.activate(f"Save as CSV: {workload}, runs of this sitting")
    file = screen.until(lambda: next(downloads.glob("*.csv"), None), "no CSV was saved")
    header, *rows = screen.until(file.read_bytes, "the CSV is empty").decode().splitlines()
    assert header.startswith("Run,")
    assert [row.split(",")[:2] for row in rows] == [["1", "41.9"], ["2", "42.05"]]
    assert not any("Mark" in row for row in rows)


def test_a_file_that_is_saved_at_once_has_what_was_typed_last_and_no_doubtful_word_leaves_unread(
    screen: Screen, demo_server: LiveServer, ladder: dict[str, Any], downloads: Path
) -> None:
    screen.open(bill_of(ladder, demo_server, 1, "report"))
    screen.sees("Yes: Tile rendering takes 25 % less time (+34 % speed)")
    screen.choose("After the last run: cables, fans, settings?", "nothing")
    advice = "Advice in your own words (can be left out)"
    with screen.far_away(400):
        screen.fill(advice, "Tiles are twice as fast now.")
        screen.activate("Save as a file")
        screen.sees("“twice” is not what was shown")
        assert list(downloads.glob("*.html")) == []
        screen.fill(advice, "Worth it for maps.")
        screen.activate("Save as a file")
        (file,) = screen.until(lambda: list(downloads.glob("*.html")), "no file was saved")
    assert "Worth it for maps." in screen.until(file.read_text, "the file is empty")
