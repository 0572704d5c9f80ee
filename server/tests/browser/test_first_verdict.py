"""From an empty database to a verdict and a bill, by keyboard and paste alone."""

from selenium.webdriver.common.keys import Keys

from tests.browser.screen import Screen
from tests.conftest import LiveServer

SLOW = ("40.0\n40.2\n40.1", "40.3\n40.1\n40.2", "40.1\n40.0\n40.2")
FAST = ("30.0\n30.2\n30.1", "30.3\n30.1\n30.2", "30.1\n30.0\n30.2")


def measure(screen: Screen, sittings: tuple[str, ...]) -> None:
    for number, column in enumerate(sittings):
        if number:
            screen.press("n")
        screen.fill("Room temperature, °C", "22.5")
        screen.activate("Begin the sitting")
        screen.sees(f"Sitting {number + 1} of 3")
        screen.tab_to("Run 1, Render the tiles")
        screen.paste(column)
        screen.until(lambda: screen.text().count("saved") >= 3, "the pasted runs were not saved")
        screen.tab_to("Mark run 1")


def test_an_empty_database_leads_to_a_verdict_and_a_bill(screen: Screen, empty_server: LiveServer) -> None:
    screen.walks = True
    screen.open(empty_server.url)
    screen.sees("Five steps lead to the first verdict")
    screen.activate("Describe the first machine")

    screen.fill("Name", "Bench PC")
    screen.fill("Labour, per hour", "35.00")
    screen.fill("Name of the processor", "Varro 4-core")
    screen.fill("Rated figures of the processor", "4 cores")
    screen.fill("Value of threads", "4")
    screen.activate("Save, and choose what to measure")

    screen.fill("The job", "Render the tiles")
    screen.activate("Add this workload")
    screen.activate("Open the plan")
    screen.fill("Runs a sitting", "3")
    screen.fill("Render the tiles matters from, %", "1.5")
    screen.activate("Save the plan")
    screen.sees("Plan saved")
    screen.tab_to("Back to Set up")
    screen.press("2")
    screen.sees("begin its first sitting")
    measure(screen, SLOW)

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
    measure(screen, FAST)

    screen.press("4")
    screen.sees("1.33× as fast, and the gain is real")
    screen.sees("and threads, because: its screen is at the customer’s")
    screen.sees("the same job takes 24.9")
    screen.press("5")
    screen.sees(
        "Processor, 4 to 6 cores: Render the tiles 1.33× as fast (25 % less time), real, for 66.00 EUR net: 5.0"
    )
    screen.sees("66.00 EUR")
    screen.sees("5.0")
    assert "for every 10 EUR" in screen.text()
