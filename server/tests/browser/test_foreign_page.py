"""A page of somebody else, open in the same browser, reads nothing here and changes nothing."""

import re
import threading
from collections.abc import Iterator
from http.server import BaseHTTPRequestHandler, ThreadingHTTPServer

import httpx
import pytest

from tests.api.bodies import Job, new_id
from tests.browser.screen import Screen
from tests.conftest import LiveServer

IDS = re.compile(r"[0-9a-f]{8}(?:-[0-9a-f]{4}){3}-[0-9a-f]{12}")
PAGE = """<!doctype html><title>harmless</title><p>Harmless.</p><form method="post" enctype="text/plain"></form>"""
# Every way in which a page can speak to another server; each is tried to its end.
ATTACK = """
const [api, machine, file, done] = arguments;
const place = `${api}/machines/${machine}`;
const body = JSON.stringify({name: "Taken over", currency: "EUR"});
const tries = [
  fetch(place, {method: "PUT", body, headers: {"Content-Type": "application/json"}}),
  fetch(place, {method: "PUT", body, mode: "no-cors"}),
  fetch(`${place}/runs`, {method: "POST", body, mode: "no-cors", headers: {"Content-Type": "text/plain"}}),
  fetch(`${api}/run-files`, {method: "POST", body: file, mode: "no-cors", credentials: "include"}),
  fetch(`${place}/swaps/${machine}`, {method: "DELETE"}),
  fetch(place).then(answer => answer.text()),
  fetch(place, {mode: "no-cors"}).then(answer => answer.text().then(text => { if (text) throw text; })),
  new Promise((_, refuse) => {
    const picture = new Image();
    picture.onerror = refuse; picture.src = `${place}/run-file`;
  }),
  new Promise(sent => sent(navigator.sendBeacon(`${place}/shown`, body))),
  new Promise(sent => {
    const form = document.forms[0];
    const frame = document.createElement("iframe");
    frame.name = "inner"; document.body.append(frame);
    form.action = `${place}/runs`; form.target = "inner"; form.submit();
    setTimeout(sent, 1500);
  }),
];
Promise.allSettled(tries).then(ends => done(ends.map(end => end.status)));
"""


class Foreign(BaseHTTPRequestHandler):
    def do_GET(self) -> None:
        self.send_response(200)
        self.send_header("Content-Type", "text/html")
        self.end_headers()
        self.wfile.write(PAGE.encode())

    def log_message(self, *_: object) -> None:
        """Says nothing."""


@pytest.fixture(scope="module")
def foreign() -> Iterator[int]:
    server = ThreadingHTTPServer(("127.0.0.1", 0), Foreign)
    threading.Thread(target=server.serve_forever, daemon=True).start()
    yield server.server_address[1]
    server.shutdown()
    server.server_close()


@pytest.mark.parametrize("host", ["127.0.0.1", "localhost"])
def test_a_foreign_page_reads_nothing_and_changes_nothing(
    screen: Screen, demo_server: LiveServer, api: httpx.Client, foreign: int, host: str
) -> None:
    job = Job.measured(api)
    before = api.get(f"/machines/{job.machine}/run-file").text
    screen.open(f"http://{host}:{foreign}/")
    screen.driver.set_script_timeout(30)
    api_address = f"http://127.0.0.1:{demo_server.port}/api"
    ids: dict[str, str] = {}
    file = IDS.sub(lambda found: ids.setdefault(found[0], new_id()), before)
    planted = ids[job.machine]
    ends = screen.driver.execute_async_script(ATTACK, api_address, job.machine, file)
    # What answers nothing but an opaque "sent" may end; what would read or needs leave is refused.
    assert ends[0] == ends[4] == ends[5] == ends[7] == "rejected"
    assert api.get(f"/machines/{job.machine}/run-file").text == before
    assert api.get(f"/machines/{planted}").status_code == 404
    # The same file comes in where it is sent from here: only who sent it was wrong.
    api.post("/run-files", content=file).raise_for_status()
    screen.until(lambda: api.get(f"/machines/{planted}").status_code == 200, "the file was not taken in")
