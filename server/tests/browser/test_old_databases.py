"""Every screen of every machine, on databases that earlier states of this repository left."""

import httpx
import pytest

from tests.browser.screen import Screen
from tests.conftest import LiveServer
from tests.store.test_old_databases import STATES, old

__all__ = ["old"]
STATIONS = ("setup", "setup/plan", "measure", "swap", "judge", "bill", "report", "ladder")


FIRST, *OTHERS = STATES


@pytest.mark.parametrize(
    "old", [FIRST, *(pytest.param(name, marks=pytest.mark.nightly) for name in OTHERS)], indirect=True
)
def test_every_screen_of_an_old_database_opens(screen: Screen, old: tuple[str, LiveServer]) -> None:
    _, server = old
    machines = httpx.get(f"{server.url}/api/machine-names", timeout=60).json()
    for path in ("/", *(f"/machines/{machine['id']}/{station}" for machine in machines for station in STATIONS)):
        screen.open(f"{server.url}{path}")
        screen.until(lambda: screen.driver.find_elements("css selector", "main h1"), f"no screen came: {path}")
        assert "Try again" not in screen.text(), path
