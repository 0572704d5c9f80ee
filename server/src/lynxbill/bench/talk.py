"""Whoever sits at the terminal: what is said to them, and what they are asked."""

import sys
import time
from collections.abc import Mapping
from typing import Any

from lynxbill.bench.preflight import Interference

BAR_WIDTH = 24
OK, LOST, UNUSABLE, INTERRUPTED = 0, 1, 2, 130


class Console:
    """Whoever sits at the terminal."""

    def __init__(self, yes: bool):
        self._yes = yes
        self._last = ""
        self._at = 0.0
        # A bar that is drawn over itself is for a terminal; a file or a pipe gets a line for each run.
        self._is_seen = sys.stderr.isatty()

    def say(self, line: str) -> None:
        say(line)

    def show(self, label: str, share: float, beside: str) -> None:
        if not self._is_seen or (label == self._last and time.monotonic() - self._at < 0.1 and share < 1):
            return
        self._last, self._at = label, time.monotonic()
        draw_bar(label, share, beside)

    def done(self, label: str, body: dict[str, Any], units: Mapping[str, str]) -> None:
        """The figures of a run, once they may be shown."""
        figures = "  ".join(
            f"{reading['value']:.5g} {say_unit(units.get(measure, ''))}".rstrip()
            for measure, reading in body["readings"].items()
        )
        if self._is_seen:
            sys.stderr.write("\r\x1b[K")
        say(f"{label}: {figures if body['state'] == 'complete' else '{state}: {reason}'.format(**body)}")
        self._last = ""

    def repeats(self, interference: Interference, label: str) -> bool:
        sys.stderr.write("\n")
        say(f"{label}: {interference}.")
        # Whoever can't be asked would measure it again for ever, on a machine that is always busy.
        return not self._yes and sys.stdin.isatty() and agrees("Do this run again? Its figures were not shown yet.")


def say_unit(code: str) -> str:
    """A unit in its usual form."""
    usual = {"Cel": "°C", "/min": "rpm", "/s": "per s", "1": ""}
    return usual.get(code, code.replace("By", "B"))


def draw_bar(label: str, share: float, beside: str = "") -> None:
    filled = round(share * BAR_WIDTH)
    sys.stderr.write(f"\r{label} [{'█' * filled}{'·' * (BAR_WIDTH - filled)}] {share:4.0%} {beside}\x1b[K")
    sys.stderr.flush()


def agrees(question: str) -> bool:
    """Ask; Enter agrees, and so does whoever can't be asked."""
    if not sys.stdin.isatty():
        return True
    sys.stderr.write(f"{question} [Enter: yes, n: no] ")
    sys.stderr.flush()
    return sys.stdin.readline().strip().lower() not in ("n", "no")


def say(line: str) -> None:
    sys.stderr.write(f"{line}\n")


def end(status: int, line: str) -> int:
    say(line)
    return status
