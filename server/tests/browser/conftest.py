from collections.abc import Iterator

import pytest

from tests.browser.screen import Screen


@pytest.fixture(scope="session")
def browser() -> Iterator[Screen]:
    screen = Screen()
    yield screen
    screen.close()


@pytest.fixture
def screen(browser: Screen) -> Iterator[Screen]:
    """The one browser, at its usual size and with nothing left of an earlier test."""
    browser.resize(1280, 800)
    browser.prefer("light")
    browser.walks = False
    yield browser
    browser.driver.execute_script("localStorage.clear()")
    browser.open("about:blank")
