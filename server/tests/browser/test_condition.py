"""The screens say what keeps the server from its work, and go on by themselves once it can."""

import httpx
import pytest
from selenium.webdriver.common.keys import Keys

from lynxbill.cluster import Cluster
from lynxbill.installation import Watch
from tests.api.bodies import Job
from tests.browser.screen import Screen
from tests.browser.test_run_sheet import TIME, readings
from tests.conftest import START_S, LiveServer, free_port, kill_database, until


@pytest.mark.nightly
def test_a_database_that_is_away_is_said_and_what_was_typed_is_saved_when_it_is_back(
    screen: Screen, own_cluster: Cluster
) -> None:
    server = LiveServer(own_cluster.url, free_port(), ("--empty",))
    server.start()
    watch = Watch(own_cluster)
    try:
        with httpx.Client(base_url=f"{server.url}/api", timeout=START_S) as api:
            job = Job(api).describe()
            job.sitting()
            screen.open(f"{server.url}/machines/{job.machine}/measure")
            screen.tab_to(f"Run 1, {TIME}")
            kill_database(own_cluster)
            screen.press("41.9", Keys.ENTER, "50.1", Keys.ENTER)
            screen.sees("The database is away. Typed entries are kept; trying again.")
            watch.start()
            until(lambda: api.get("/health").json()["database"] == "here", "the database did not come back")
            wanted = [{job.time: 41.9, job.rise: 50.1}]
            screen.until(lambda: readings(job) == wanted, "what was typed was not saved")
            screen.until(lambda: "is away" not in screen.text(), "the screen still says that the database is away")
    finally:
        watch.stop()
        server.stop()
