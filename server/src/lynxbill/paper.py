"""A report as a file: fetched from a running server, drawn by the screens' own code, printed by Debian's Chromium."""

import base64
import json
import shutil
import subprocess
import sys
import tempfile
from pathlib import Path
from typing import Any, Literal

import httpx

TIMEOUT_S = 120.0
CHROMIUM = "/usr/bin/chromium"
RENDERER = Path(__file__).parents[3] / "web" / "dist-report" / "report.js"
PaperSize = Literal["A4", "letter"]


class NoReport(Exception):
    """Why there is no file, in words that say what to do."""


def save_report(server: str, machine: str, file: Path, wish: dict[str, Any], size: PaperSize) -> None:
    """
    Write a machine's report into a file, HTML or PDF by its ending.

    Args:
        machine: its id or name.
        wish: what the server is asked for; with `number` a report that was handed out.
    Raises:
        NoReport: the machine, the server or a program that draws is not there.
    """
    if file.suffix not in (".html", ".pdf"):
        raise NoReport(f"{file}: a report is written as .html or .pdf; give the file one of these endings.")
    try:
        with httpx.Client(base_url=f"{server.rstrip('/')}/api", timeout=TIMEOUT_S) as client:
            paper = _fetch(client, machine, wish)
    except httpx.InvalidURL:
        raise NoReport(f"“{server}” is not an address; write one like http://127.0.0.1:8440.") from None
    except (httpx.HTTPError, ValueError) as error:
        message = f"{server} does not answer as a Lynxbill server does ({type(error).__name__}); is it started?"
        raise NoReport(message) from None
    html = _draw(paper | {"size": size})
    if file.suffix == ".pdf":
        _print(html, file)
    else:
        file.write_bytes(html)


def _fetch(client: httpx.Client, machine: str, wish: dict[str, Any]) -> dict[str, Any]:
    found = [known for known in client.get("/machine-names").json() if machine in (known["id"], known["name"])]
    if len(found) != 1:
        some = "more than one machine is" if found else "no machine is"
        raise NoReport(f"{some} called “{machine}”; its name or id stands on the home screen and in its address.")
    at = f"/machines/{found[0]['id']}"
    number, form = wish.pop("number", None), wish["form"]
    made: dict[str, Any] = {"number": None, "since": []}
    if number is not None:
        made = _made(client, at, number)
        report = made["report"]
    else:
        answer = client.post(f"{at}/report-draft", json=wish)
        if answer.is_error:
            raise NoReport(answer.json()["detail"])
        report = answer.json()
    photos = {end: _photo(client, f"{at}/{end}") for note in report["notes"] if (end := note["picture"])}
    known_photos = {end: photo for end, photo in photos.items() if photo}
    return {
        "report": report,
        "form": form,
        "number": made["number"],
        "since": made["since"],
        "photos": known_photos,
        "without": [],
    }


def _made(client: httpx.Client, at: str, number: int) -> dict[str, Any]:
    lines = client.get(f"{at}/reports").raise_for_status().json()
    line = next((known for known in lines if known["number"] == number), None)
    if line is None:
        known = ", ".join(str(one["number"]) for one in lines) or "none"
        raise NoReport(f"No report {number} was handed out of this machine; there is {known}.")
    made: dict[str, Any] = client.get(f"{at}/reports/{line['id']}").raise_for_status().json()
    return made


def _photo(client: httpx.Client, address: str) -> str | None:
    answer = client.get(address)
    if answer.is_error:
        return None
    return f"data:{answer.headers['content-type']};base64,{base64.b64encode(answer.content).decode()}"


def _draw(paper: dict[str, Any]) -> bytes:
    beside = Path(sys.executable).parent / "node"
    node = str(beside) if beside.exists() else shutil.which("node")
    if node is None or not RENDERER.exists():
        raise NoReport("What draws the report is not set up here: run bin/setup once.")
    drawn = subprocess.run([node, str(RENDERER)], input=json.dumps(paper).encode(), capture_output=True, check=False)
    if drawn.returncode:
        raise NoReport(f"The report could not be drawn: {drawn.stderr.decode(errors='replace')[-500:]}")
    return drawn.stdout


def _print(html: bytes, file: Path) -> None:
    if not Path(CHROMIUM).exists():
        raise NoReport("A PDF is printed by Debian's Chromium: install the package chromium, or write .html.")
    with tempfile.TemporaryDirectory() as folder:
        page, made = Path(folder) / "report.html", Path(folder) / "report.pdf"
        page.write_bytes(html)
        sandbox = ["--no-sandbox"] if _is_root() else []
        command = [CHROMIUM, "--headless", *sandbox, "--disable-gpu", f"--user-data-dir={folder}/profile"]
        command += ["--no-pdf-header-footer", f"--print-to-pdf={made}", page.as_uri()]
        printed = subprocess.run(command, capture_output=True, check=False, timeout=TIMEOUT_S)
        if printed.returncode or not made.exists():
            raise NoReport(f"Chromium could not print it: {printed.stderr.decode(errors='replace')[-500:]}")
        shutil.copyfile(made, file)


def _is_root() -> bool:
    import os

    return os.geteuid() == 0
