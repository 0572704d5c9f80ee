"""The run sheet: nothing typed is ever lost, and nothing wrong is ever saved."""

import json
import subprocess
import sys
from pathlib import Path

import httpx
import psycopg
import pytest
from selenium.webdriver.common.keys import Keys

from tests.api.bodies import Job, new_id
from tests.api.test_large_files import large_file
from tests.browser.screen import Screen
from tests.conftest import LiveServer

TIME, RISE = "Time", "Rise"


@pytest.fixture
def job(api: httpx.Client) -> Job:
    job = Job(api).describe()
    job.sitting()
    return job


def open_sheet(screen: Screen, server: LiveServer, job: Job) -> None:
    screen.open(f"{server.url}/machines/{job.machine}/measure")
    screen.sees("Sitting 1 of 3")


def stored(server: LiveServer, query: str, machine: str) -> tuple[object, ...]:
    with psycopg.connect(server.database_url) as connection:
        found = connection.execute(query, (machine,)).fetchone()
    assert found is not None
    return tuple(found)


def readings(job: Job) -> list[dict[str, float]]:
    runs = sorted(job.case()["runs"], key=lambda run: run["position"])
    return [{key: value["low"] for key, value in run["readings"].items()} for run in runs]


def test_enter_moves_on_and_saves(screen: Screen, demo_server: LiveServer, job: Job) -> None:
    open_sheet(screen, demo_server, job)
    screen.tab_to(f"Run 1, {TIME}")
    screen.press("1:52.4", Keys.ENTER, "50.1", Keys.ENTER, "111.9", Keys.ENTER, "50.4", Keys.ENTER)
    wanted = [{job.time: 112.4, job.rise: 50.1}, {job.time: 111.9, job.rise: 50.4}]
    screen.until(lambda: readings(job) == wanted, "the runs were not saved")
    screen.until(lambda: screen.focused().accessible_name == f"Run 3, {TIME}", "the focus did not move on")


def test_a_block_is_pasted_and_taken_back(screen: Screen, demo_server: LiveServer, job: Job) -> None:
    open_sheet(screen, demo_server, job)
    screen.tab_to(f"Run 1, {TIME}")
    screen.paste("41.9\t50.1\n41.7\t50.3")
    screen.until(lambda: len(readings(job)) == 2, "the block was not saved")
    assert readings(job)[1] == {job.time: 41.7, job.rise: 50.3}
    screen.until(lambda: screen.focused().accessible_name == f"Run 3, {TIME}", "the cursor is not below the block")
    screen.press("41.8", Keys.ENTER)
    screen.until(lambda: len(readings(job)) == 3, "the run below was not saved")
    assert readings(job)[:2] == [{job.time: 41.9, job.rise: 50.1}, {job.time: 41.7, job.rise: 50.3}]
    screen.chord(Keys.CONTROL, "z")
    screen.until(lambda: readings(job)[2] == {}, "the third run was not taken back")
    screen.chord(Keys.CONTROL, "z")
    screen.until(lambda: readings(job) == [{}] * 3, "the block was not taken back")
    screen.sees("Job, run 1 of 5")
    assert "saved" not in screen.text()
    assert not job.case()["builds"][0]["sealed"]
    screen.fill(f"Run 1, {TIME}", "40.0")
    screen.press(Keys.ENTER)
    screen.until(lambda: readings(job)[0] == {job.time: 40.0}, "the emptied row could not be typed anew")
    screen.sees("Job, run 2 of 5")


def test_an_empty_line_of_a_block_is_no_run(screen: Screen, demo_server: LiveServer, job: Job) -> None:
    open_sheet(screen, demo_server, job)
    screen.tab_to(f"Run 1, {TIME}")
    screen.paste("41.9\n\n41.7\n")
    screen.until(lambda: readings(job) == [{job.time: 41.9}, {job.time: 41.7}], "the block was not saved")
    screen.until(lambda: screen.focused().accessible_name == f"Run 4, {TIME}", "the cursor is not below the block")


def asked_since(screen: Screen, begun: float) -> list[str]:
    """What the page asked the server for since then, by the last part of its address."""
    script = """return performance.getEntriesByType('resource').filter(e => e.startTime > arguments[0]
        && e.initiatorType === 'fetch').map(e => new URL(e.name).pathname)"""
    paths: list[str] = screen.driver.execute_script(script, begun)
    return [path.rpartition("/")[2] for path in paths]


def test_a_block_is_one_save_and_a_row_that_is_wrong_holds_back_no_other(
    screen: Screen, demo_server: LiveServer, job: Job
) -> None:
    open_sheet(screen, demo_server, job)
    screen.tab_to(f"Run 1, {TIME}")
    begun = screen.driver.execute_script("return performance.now()")
    screen.paste("41.9\n41.7\nquick\n41.5")
    good = [{job.time: 41.9}, {job.time: 41.7}, {job.time: 41.5}]
    screen.until(lambda: readings(job) == good, "the good rows were not saved")
    screen.sees("quick")
    # All four, of which one is refused; then the three.
    assert asked_since(screen, begun).count("runs") >= 2
    (evidence_revision,) = stored(demo_server, "SELECT evidence_revision FROM machines WHERE id = %s", job.machine)
    assert evidence_revision == 1
    screen.fill(f"Run 3, {TIME}", "41.6")
    screen.press(Keys.ENTER)
    screen.until(lambda: len(readings(job)) == 4, "the mended row was not saved")


def test_an_entry_is_one_save_and_at_most_two_reads(screen: Screen, demo_server: LiveServer, job: Job) -> None:
    open_sheet(screen, demo_server, job)
    screen.tab_to(f"Run 1, {TIME}")
    begun = screen.driver.execute_script("return performance.now()")
    screen.press("41.9", Keys.ENTER)
    # Each cell is a save: what the first one reads ends before the second begins.
    screen.until(lambda: len(asked_since(screen, begun)) >= 3, "nothing was read after the first save")
    begun = screen.driver.execute_script("return performance.now()")
    screen.press("50.1", Keys.ENTER)
    screen.until(lambda: readings(job) == [{job.time: 41.9, job.rise: 50.1}], "the run was not saved")
    screen.sees("Job, run 2 of 5")
    screen.until(lambda: len(asked_since(screen, begun)) >= 2, "nothing was read after the save")
    asked = asked_since(screen, begun)
    assert len(asked) <= 3, asked


def test_a_run_that_hung_is_recorded_without_a_figure(screen: Screen, demo_server: LiveServer, job: Job) -> None:
    open_sheet(screen, demo_server, job)
    screen.activate("Mark run 1…")
    screen.fill("Because", "hung at 80 %, switched off")
    screen.press(Keys.ENTER)
    screen.sees("failed: hung at 80 %, switched off")
    screen.until(lambda: [run["state"] for run in job.case()["runs"]] == ["failed"], "it was not recorded")
    screen.sees("Job, run 1 of 5")


def test_a_sitting_begun_on_another_build_is_the_one_that_is_typed_into(
    screen: Screen, demo_server: LiveServer, job: Job
) -> None:
    after = new_id()
    swap = job.swap(after)
    job.measure(after, [[31.0, 31.1]])
    kept = job.case()["runs"]
    screen.open(f"{demo_server.url}/machines/{job.machine}/measure")
    screen.sees("Job: 2 of 5 runs, in a closed sitting")
    screen.activate("Begin the next sitting N")
    screen.activate("On build B · Six cores, as planned · change")
    screen.choose("Build", "A")
    screen.activate("Begin the sitting")
    screen.sees("BEFORE · BUILD A")
    screen.sees("Sitting 2 of 3")
    screen.sees("Job, run 1 of 5")
    screen.fill(f"Run 1, {TIME}", "42.5")
    screen.press(Keys.ENTER)
    screen.until(lambda: len(job.case()["runs"]) == 3, "the run was not saved")
    assert [run for run in job.case()["runs"] if run in kept] == kept
    begun = job.case()["sittings"][-1]
    assert begun["build"] == job.build
    assert [run["readings"][job.time]["low"] for run in job.case()["runs"] if run["sitting"] == begun["id"]] == [42.5]
    assert swap["before"] == job.build


def test_a_sitting_that_another_device_begins_does_not_slip_under_the_hands_of_who_types(
    screen: Screen, demo_server: LiveServer, job: Job
) -> None:
    open_sheet(screen, demo_server, job)
    screen.tab_to(f"Run 1, {TIME}")
    screen.press("42.")
    other = job.sitting(started_at="2026-05-05T09:10:00Z")
    screen.until(lambda: screen.text().count("A 2"), "the other sitting is not listed")
    screen.press("5", Keys.ENTER)
    # To begin anew is to be done with what came before: what is typed stays, and says why it is not saved.
    screen.sees("(42.5): typed before the sitting was closed, and no part of it.")
    assert screen.value_of(f"Run 1, {TIME}") == "42.5"
    assert [run for run in job.case()["runs"] if run["sitting"] == other] == []


def test_what_cannot_be_read_stays_as_typed_and_is_marked(screen: Screen, demo_server: LiveServer, job: Job) -> None:
    unreadable = {"fast": "not a number", "1.2.3": "two decimal marks", "0": "above zero", "41 parsecs": "not a unit"}
    cells = {f"Run {number}, {TIME}": text for number, text in enumerate(unreadable, start=1)}
    open_sheet(screen, demo_server, job)
    for cell, text in cells.items():
        screen.tab_to(cell)
        screen.press(text, Keys.ENTER, Keys.ENTER)
        screen.sees(unreadable[text])
        assert screen.value_of(cell) == text
        assert screen.sees_control(cell).get_attribute("aria-invalid") == "true"
    assert readings(job) == []
    screen.driver.refresh()
    screen.until(lambda: {cell: screen.value_of(cell) for cell in cells} == cells, "the typed text is gone")
    for cell in cells:
        screen.fill(cell, "41.9")
        screen.press(Keys.ENTER)
    screen.until(lambda: readings(job) == [{job.time: 41.9}] * 4, "the mended runs were not saved")


def test_a_reading_mended_before_its_refusal_arrived_is_sent(
    screen: Screen, demo_server: LiveServer, job: Job
) -> None:
    with screen.answered_late():
        open_sheet(screen, demo_server, job)
        for text in ("0", "41.9"):
            screen.fill(f"Run 1, {TIME}", text)
            screen.press(Keys.ENTER)
        screen.until(lambda: readings(job) == [{job.time: 41.9}], "the mended run was not saved")


@pytest.mark.parametrize("comes_first", ["the news", "the answer", "the mark"])
def test_a_run_is_marked_while_it_is_still_being_sent(
    screen: Screen, demo_server: LiveServer, job: Job, comes_first: str
) -> None:
    with screen.answered_late(has_news=comes_first == "the news"):
        open_sheet(screen, demo_server, job)
        screen.fill(f"Run 1, {TIME}", "44.0")
        screen.press(Keys.ENTER)
        screen.tab_to("Mark run 1…")
        screen.press("x")
        screen.sees_control("Because")
        if comes_first == "the answer":
            screen.until(lambda: "saving…" not in screen.text(), "the first save was not answered")
        screen.fill("Because", "indexing")
        screen.press(Keys.ENTER)
        screen.until(lambda: [run["reason"] for run in job.case()["runs"]] == ["indexing"], "it was not marked")
    assert readings(job) == [{job.time: 44.0}]


def test_a_block_too_wide_and_a_paste_too_large_are_refused_whole(
    screen: Screen, demo_server: LiveServer, job: Job
) -> None:
    open_sheet(screen, demo_server, job)
    screen.tab_to(f"Run 1, {TIME}")
    screen.paste("1\t2\t3")
    screen.sees("3 columns and only 2 fit")
    # The giant is made in the page: fifty megabytes need not travel through the driver.
    screen.driver.execute_script(
        "const data = new DataTransfer(); data.setData('text', '41.9\\n'.repeat(10 * 2 ** 20));"
        "document.activeElement.dispatchEvent("
        "new ClipboardEvent('paste', { clipboardData: data, bubbles: true, cancelable: true }))"
    )
    screen.sees("50 MB; at most 5 MB can be pasted")
    assert readings(job) == []


def test_escape_leaves_a_field_so_that_single_keys_act_and_what_is_typed_stays(
    screen: Screen, demo_server: LiveServer, job: Job
) -> None:
    open_sheet(screen, demo_server, job)
    screen.tab_to(f"Run 1, {TIME}")
    screen.press("44.0", Keys.ENTER, "50", Keys.ENTER)
    screen.until(lambda: len(readings(job)) == 1, "the run was not saved")
    screen.tab_to(f"Run 2, {TIME}")
    screen.press("43", Keys.ESCAPE)
    screen.press("x")
    screen.sees_control("Because")
    screen.press(Keys.ESCAPE)
    # The cursor is back in the sheet, ready to type; out of it again, the next sitting can begin.
    screen.until(lambda: screen.focused().accessible_name == f"Run 3, {TIME}", "the dialog stays")
    screen.press(Keys.ESCAPE, "n")
    screen.sees_control("Begin the sitting")
    screen.press(Keys.ESCAPE)
    screen.until(lambda: "A new sitting" not in screen.text(), "the dialog stays")
    screen.press(Keys.ESCAPE)
    assert screen.value_of(f"Run 2, {TIME}") == "43"
    screen.press("?")
    screen.sees("out of a field or a dialog: then single keys act")


def test_a_run_is_marked_only_with_a_reason_and_keeps_its_figures(
    screen: Screen, demo_server: LiveServer, job: Job
) -> None:
    open_sheet(screen, demo_server, job)
    screen.tab_to(f"Run 1, {TIME}")
    screen.press("44.0", Keys.ENTER)
    screen.until(lambda: len(readings(job)) == 1, "the run was not saved")
    screen.tab_to("Mark run 1…")
    screen.press("x")
    screen.sees_control("Because")
    screen.activate("Save")
    screen.sees("A reason is needed")
    screen.fill("Because", "indexing ran")
    screen.press(Keys.ENTER)
    screen.sees("spoiled: indexing ran")
    screen.until(lambda: job.case()["runs"][0]["state"] == "spoiled", "the mark was not saved")
    assert readings(job) == [{job.time: 44.0}]


def test_what_is_typed_while_the_server_is_away_survives_a_reload_and_is_sent(
    screen: Screen, empty_server: LiveServer
) -> None:
    with httpx.Client(base_url=f"{empty_server.url}/api", timeout=30) as api:
        job = Job(api).describe()
        job.sitting()
        open_sheet(screen, empty_server, job)
        screen.tab_to(f"Run 1, {TIME}")
        screen.press("41.9", Keys.ENTER)
        screen.until(lambda: len(readings(job)) == 1, "the first run was not saved")
    empty_server.kill()
    screen.press("50.1", Keys.ENTER, "41.7", Keys.ENTER, "50.3", Keys.ENTER, "fast")
    screen.sees("The server does not answer")
    screen.sees("kept here, not sent yet")
    screen.driver.refresh()
    empty_server.start()
    open_sheet(screen, empty_server, job)
    assert screen.value_of(f"Run 3, {TIME}") == "fast"
    with httpx.Client(base_url=f"{empty_server.url}/api", timeout=30) as api:
        job.api = api
        wanted = [{job.time: 41.9, job.rise: 50.1}, {job.time: 41.7, job.rise: 50.3}]
        screen.until(lambda: readings(job) == wanted, "what was typed was not sent")


def test_two_tabs_at_one_sheet_keep_what_either_types(screen: Screen, demo_server: LiveServer, job: Job) -> None:
    first = screen.driver.current_window_handle
    open_sheet(screen, demo_server, job)
    address = screen.driver.current_url
    screen.driver.switch_to.new_window("tab")
    second = screen.driver.current_window_handle
    screen.open(address)
    screen.sees_control(f"Run 1, {TIME}")
    screen.driver.switch_to.window(first)
    screen.tab_to(f"Run 1, {TIME}")
    screen.press("fast", Keys.ENTER, Keys.ENTER)
    screen.driver.switch_to.window(second)
    screen.until(lambda: screen.value_of(f"Run 1, {TIME}") == "fast", "the other tab's typing did not come")
    screen.tab_to(f"Run 2, {TIME}")
    screen.press("slow")
    screen.driver.close()
    screen.driver.switch_to.window(first)
    screen.driver.refresh()
    screen.until(lambda: screen.value_of(f"Run 1, {TIME}") == "fast", "the first tab's typing is gone")
    assert screen.value_of(f"Run 2, {TIME}") == "slow"


def test_a_form_half_filled_survives_a_reload(screen: Screen, demo_server: LiveServer) -> None:
    screen.open(f"{demo_server.url}/machines/new")
    screen.fill("Name", "Half a machine")
    screen.fill("Currency", "E1")
    screen.fill("Name of the memory", "Marl 8 GB")
    screen.activate("Save, and choose what to measure")
    screen.sees("three capital letters, such as EUR")
    screen.driver.refresh()
    screen.until(lambda: screen.value_of("Name") == "Half a machine", "the name is gone")
    assert screen.value_of("Name of the memory") == "Marl 8 GB"


def test_a_foreign_cost_without_a_rate_is_named_at_its_field(
    screen: Screen, demo_server: LiveServer, api: httpx.Client
) -> None:
    job = Job(api).describe()
    job.measure(job.build, [[40.0, 40.1, 40.2]])
    screen.open(f"{demo_server.url}/machines/{job.machine}/swap")
    screen.tab_to("dust-out")
    screen.press(Keys.SPACE)
    screen.fill("What cost 1 is for", "Brush")
    screen.fill("Amount of cost 1", "4.00")
    screen.fill("Currency of cost 1", "USD")
    screen.activate("Plan this swap")
    screen.sees("rate of exchange")
    screen.fill("Rate of exchange of cost 1", "0.92")
    screen.activate("Plan this swap")
    screen.sees("this is still missing")
    assert job.case()["swaps"][0]["net_written"] == "3.68 EUR net"


def test_the_agents_runs_appear_without_a_reload(
    screen: Screen, demo_server: LiveServer, api: httpx.Client, tmp_path: Path
) -> None:
    job = Job(api).describe()
    screen.open(f"{demo_server.url}/machines/{job.machine}/measure")
    screen.sees("Build A is not measured yet")
    agent = [sys.executable, "-m", "lynxbill", "bench", "run", "routes-one", "--set", "sheets=20", "--yes"]
    where = ["--server", demo_server.url, "--machine", job.machine, "--state", str(tmp_path), "--rest-limit", "0"]
    process = subprocess.Popen([*agent, "--repeats", "1", *where], cwd=tmp_path, stderr=subprocess.DEVNULL)
    screen.sees("Sitting 1 of 3")
    assert process.wait(timeout=60) == 0
    screen.sees("Route counting, one core, sheets 20: 1 of 5 runs, in a closed sitting")
    assert float(screen.value_of("Run 1, Sheets routed, one core")) > 0


def test_a_broken_run_file_is_refused_with_each_problem_and_its_place(
    screen: Screen, demo_server: LiveServer, tmp_path: Path
) -> None:
    file = tmp_path / "half.json"
    file.write_text('{"format": "lynxbill-runs", "version": 1, "machine": {"name": "Half"}, "colour": "red"}')
    screen.open(demo_server.url)
    screen.sees_control("Import a run file")
    screen.upload("Run file to import", str(file))
    screen.sees("Nothing was taken over: the file has 2 problems")
    screen.sees("$.machine.currency")
    screen.sees("$.colour: this member is not part of the format")
    file.write_text('{"format": ')
    screen.upload("Run file to import", str(file))
    screen.sees("not valid JSON")


@pytest.mark.nightly
def test_a_large_run_file_shows_how_far_it_is_and_can_be_stopped(
    screen: Screen, demo_server: LiveServer, api: httpx.Client, tmp_path: Path
) -> None:
    stopped, taken = large_file(), large_file()
    for file in (stopped, taken):
        (tmp_path / f"{file['machine']['id']}.json").write_text(json.dumps(file))
    screen.open(demo_server.url)
    screen.sees_control("Import a run file")
    screen.upload("Run file to import", str(tmp_path / f"{stopped['machine']['id']}.json"))
    screen.activate("Stop the import")
    screen.sees("The import was stopped; nothing of the file was taken over.")
    screen.upload("Run file to import", str(tmp_path / f"{taken['machine']['id']}.json"))
    screen.sees("of 2,400 runs")
    machine = taken["machine"]["id"]
    screen.until(lambda: machine in screen.driver.current_url, "the machine did not open")
    assert api.get(f"/machines/{machine}").status_code == 200
    assert api.get(f"/machines/{stopped['machine']['id']}").status_code == 404
