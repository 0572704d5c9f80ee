"""Takes a run file to a server from the terminal, and follows how far it is."""

import time
from pathlib import Path
from typing import Any

import httpx

from lynxbill.bench.talk import INTERRUPTED, LOST, OK, UNUSABLE, draw_bar, say

TIMEOUT_S = 120.0
ASK_S = 0.5


def import_on_console(file: Path, server: str) -> int:
    """Send a run file, wait until it is taken over, and answer the exit status; Ctrl-C stops it."""
    address = f"{server.rstrip('/')}/api/run-files"
    try:
        with httpx.Client(timeout=TIMEOUT_S) as client:
            return _follow(client, address, file)
    except OSError as error:
        return _end(UNUSABLE, f"{file}: {error.strerror or error}")
    except httpx.InvalidURL:
        return _end(UNUSABLE, f"“{server}” is not an address; write one like http://127.0.0.1:8440.")
    except (httpx.HTTPError, ValueError) as error:
        return _end(LOST, f"{server} does not answer as a Lynxbill server does ({type(error).__name__}).")


def _follow(client: httpx.Client, address: str, file: Path) -> int:
    with file.open("rb") as content:
        headers = {"Content-Type": "application/json", "Content-Length": str(file.stat().st_size)}
        answer = client.post(address, content=content, headers=headers)
    if answer.is_error:
        return _refused(answer.json()["detail"], answer.json()["errors"])
    state = answer.json()
    try:
        while state["state"] == "running":
            draw_bar(f"{state['stage']} runs", state["done"] / state["total"] if state["total"] else 0.0)
            time.sleep(ASK_S)
            state = client.get(f"{address}/{state['id']}").raise_for_status().json()
    except KeyboardInterrupt:
        state = client.delete(f"{address}/{state['id']}").raise_for_status().json()
    if state["state"] == "done":
        return _end(OK, f"\nTaken over: machine {state['machine']}.")
    if state["state"] == "stopped":
        return _end(INTERRUPTED, "\nStopped; nothing of the file was taken over.")
    return _refused("\nNothing was taken over.", state["problems"])


def _refused(detail: str, problems: list[dict[str, Any]]) -> int:
    return _end(UNUSABLE, "\n".join([detail, *(f"{problem['field']}: {problem['message']}" for problem in problems)]))


def _end(status: int, line: str) -> int:
    say(line)
    return status
