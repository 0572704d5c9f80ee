"""From an empty database to a verdict and a bill, by keyboard and paste alone."""

import pytest
from selenium.webdriver.common.keys import Keys

from tests.browser.screen import Screen
from tests.conftest import LiveServer

SLOW = ((40.0, 40.2, 40.1, 40.1, 40.0), (40.3, 40.1, 40.2, 40.2, 40.1), (40.1, 40.0, 40.2, 40.1, 40.3))
FAST = tuple(tuple(round(reading - 10, 1) for reading in sitting) for sitting in SLOW)
# What the template of the change asks for is answered by how the sitting is begun.
BEGIN = "All this is held: begin"
MOST_KEYS, MOST_TAPS, MOST_FIELDS = 45, 25, 3


def restart(screen: Screen, number: int) -> None:
    """Take the minutes for it that a restart takes, so that it is believed."""
    if number > 1:
        screen.let_pass(5)
        screen.until(lambda: screen.value_of("Restarted since the last sitting?") == "yes", "no restart is believed")


def measure(screen: Screen, build: str, sittings: tuple[tuple[float, ...], ...]) -> None:
    """Enter alone leads from run to run and from sitting to sitting; the readings' own keys are not counted."""
    for number, readings in enumerate(sittings, start=1):
        screen.until(lambda: screen.focused().accessible_name == BEGIN, "the cursor is elsewhere")
        restart(screen, number)
        screen.press(Keys.ENTER)
        screen.sees(f"Sitting {number} of 3")
        screen.sees(f"BUILD {build}")
        kept = screen.keys_pressed
        for place, reading in enumerate(readings, start=1):
            wanted = f"Run {place}, Render the tiles"
            screen.until(lambda wanted=wanted: screen.focused().accessible_name == wanted, f"not at {wanted}")  # type: ignore[misc]
            screen.press(str(reading), Keys.ENTER)
        screen.keys_pressed = kept
        screen.until(lambda: screen.focused().get_attribute("id") == "sitting-done", "the button is not reached")
        screen.press(Keys.ENTER)


def test_the_fast_way_to_a_first_verdict_takes_few_keys_and_fields(screen: Screen, empty_server: LiveServer) -> None:
    """All that is asked is what is changed, on which machine, what is timed, and what went in; all else can wait."""
    screen.walks = True
    screen.open(f"{empty_server.url}/new")
    screen.until(lambda: screen.focused().accessible_name == "Processor", "the cursor is not at the first question")
    screen.keys_pressed = screen.fields_filled = 0
    screen.tab_to("Which machine")
    screen.write("Bench PC")
    screen.tab_to("Task 1")
    screen.write("Render the tiles")
    screen.press(Keys.ENTER)
    screen.sees("begin its first sitting")
    measure(screen, "A", SLOW)
    screen.sees("The baseline is complete")
    screen.until(lambda: screen.focused().accessible_name == "Added part", "the cursor is not at the new part")
    screen.write("Varro 6-core")
    screen.press(Keys.ENTER)
    screen.until(lambda: screen.focused().accessible_name == "Open the case", "the gate is not reached")
    screen.press(Keys.ENTER)
    screen.until(lambda: "Firmware" in screen.focused().accessible_name, "the checklist is not reached")
    screen.activate("All 16 that are left are done")
    screen.until(lambda: screen.focused().accessible_name == "All as expected", "the next question is not reached")
    screen.press(Keys.ENTER)
    screen.until(lambda: screen.focused().accessible_name == "Close the case, and measure", "the case is not left")
    screen.press(Keys.ENTER)
    measure(screen, "B", FAST)
    screen.sees("1.33× as fast, and the gain is real")
    taken = screen.keys_pressed, screen.fields_filled
    assert taken[0] <= MOST_KEYS, taken
    assert taken[1] <= MOST_FIELDS, taken


def measure_by_touch(screen: Screen, build: str, sittings: tuple[tuple[float, ...], ...], last: str) -> None:
    for number, readings in enumerate(sittings, start=1):
        restart(screen, number)
        screen.tap(BEGIN)
        screen.sees(f"Sitting {number} of 3")
        screen.sees(f"BUILD {build}")
        taken = screen.taps
        for place, reading in enumerate(readings, start=1):
            screen.tap(f"Run {place}, Render the tiles")
            screen.press(str(reading))
            screen.tap("Next")
        screen.taps = taken
        following = f"Sitting done: restart, then sitting {number + 1}"
        screen.tap(following if number < len(sittings) else last)


@pytest.mark.nightly
def test_the_same_way_by_touch_on_a_tablet_takes_few_taps(screen: Screen, empty_server: LiveServer) -> None:
    screen.resize(820, 1180)
    screen.open(f"{empty_server.url}/new")
    screen.sees("What are you going to change?")
    screen.taps = screen.fields_filled = 0
    screen.tap("Which machine")
    screen.write("Bench PC on a tablet")
    screen.tap("Task 1")
    screen.write("Render the tiles")
    screen.tap("Go and measure")
    measure_by_touch(screen, "A", SLOW, "Baseline complete: plan the swap")
    screen.tap("Added part")
    screen.write("Varro 6-core")
    screen.tap("Plan this swap")
    screen.tap("Open the case")
    screen.tap("All 16 that are left are done")
    screen.tap("All as expected")
    screen.tap("Close the case, and measure")
    measure_by_touch(screen, "B", FAST, "Both sides done: judge")
    screen.sees("1.33× as fast, and the gain is real")
    taken = screen.taps, screen.fields_filled
    screen.resize(1280, 800)
    assert taken[0] <= MOST_TAPS, taken
    assert taken[1] <= MOST_FIELDS, taken


def paste(screen: Screen, sittings: tuple[tuple[float, ...], ...]) -> None:
    for number, readings in enumerate(sittings):
        if number:
            screen.press("n")
        restart(screen, number + 1)
        screen.fill("Room temperature, °C", "22.5")
        screen.activate("Begin the sitting")
        screen.sees(f"Sitting {number + 1} of 3")
        screen.tab_to("Run 1, Render the tiles")
        screen.paste("\n".join(map(str, readings[:3])))
        screen.until(lambda: screen.text().count("saved") >= 3, "the pasted runs were not saved")
        screen.tab_to("Mark run 1…")


@pytest.mark.nightly
def test_an_empty_database_leads_to_a_verdict_and_a_bill(screen: Screen, empty_server: LiveServer) -> None:
    screen.walks = True
    screen.open(empty_server.url)
    screen.sees("Five steps lead to the first verdict")
    screen.activate("Describe a machine with all its parts")

    screen.fill("Name", "Bench PC")
    screen.fill("Labour, per hour", "35.00")
    screen.fill("Name of the processor", "Varro 4-core")
    screen.fill("Rated figures of the processor", "4 cores")
    screen.fill("Value of threads", "4")
    screen.activate("Save, and choose what to measure")

    screen.fill("The task", "Render the tiles")
    screen.activate("Add this task")
    screen.activate("Open the plan")
    screen.activate("Change how often it is measured")
    screen.fill("Runs a sitting", "3")
    screen.fill("Render the tiles matters from, %", "1.5")
    screen.activate("Save the plan")
    screen.sees("Plan saved")
    screen.tab_to("Back to Set up")
    screen.press("2")
    screen.sees("begin its first sitting")
    paste(screen, SLOW)

    screen.press("3")
    screen.sees("No control is planned")
    screen.tab_to("PROCESSOR Varro 4-core 4 cores")
    screen.press(Keys.SPACE)
    screen.fill("New processor", "Varro 6-core")
    screen.fill("Value of threads", "12")
    screen.fill("Call this swap", "Processor, 4 to 6 cores")
    screen.fill("What cost 1 is for", "Varro 6-core, used")
    screen.fill("Amount of cost 1", "118.00")
    screen.activate("+ resale")
    screen.fill("What cost 2 is for", "Old 4-core")
    screen.fill("Amount of cost 2", "52.00")
    screen.activate("Plan this swap")
    screen.sees("A hint: No control is planned")
    screen.activate("Open the case")
    screen.sees("The case is open")
    screen.activate("Close the case, and measure")
    screen.fill("Not looked at, because", "its screen is at the customer’s")
    screen.activate("Close the case, and measure")
    screen.sees("Build B is not measured yet")
    paste(screen, FAST)

    screen.press("4")
    screen.sees("1.33× as fast, and the gain is real")
    screen.sees("limits; memory speed and timings, because: its screen is at the customer’s")
    screen.sees("the same task takes 24.9")
    screen.press("5")
    screen.sees(
        "Processor, 4 to 6 cores: Render the tiles 1.33× as fast (25 % less time), real, for 66.00 EUR net: 5.0"
    )
    screen.sees("66.00 EUR")
    screen.sees("5.0")
    assert "for every 10 EUR" in screen.text()
