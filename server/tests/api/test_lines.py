"""The keeper of home's lines: what changed comes first, then what is on a screen; a few at a time."""

import asyncio
import time
from contextlib import suppress
from typing import Any
from uuid import UUID, uuid4

import pytest

from lynxbill.api.http import lines
from lynxbill.api.http.lines import AT_ONCE, LineKeeper


class Bench:
    """What the keeper asks for, in place of judging: each line takes as long as it is told."""

    def __init__(self, monkeypatch: pytest.MonkeyPatch, stale: list[UUID], seconds: float = 0.02):
        self.renewed: list[UUID] = []
        self.now: list[UUID] = []
        self.most = 0
        self.seconds = seconds
        monkeypatch.setattr(lines, "QUIET_S", 0.0)
        monkeypatch.setattr(lines, "find_stale", lambda _: stale)
        monkeypatch.setattr(lines, "renew_line", self.renew)

    def renew(self, _sessions: Any, machine_id: UUID, _write: Any) -> None:
        assert machine_id not in self.now
        self.now.append(machine_id)
        self.most = max(self.most, len(self.now))
        self.renewed.append(machine_id)
        time.sleep(self.seconds)
        self.now.remove(machine_id)

    def run(self, *heard: UUID, asked: tuple[UUID, ...] = (), count: int) -> None:
        async def go() -> None:
            keeper = LineKeeper(None)  # type: ignore[arg-type]
            await keeper.look()
            keeper.renew_soon(asked)
            for machine in heard:
                keeper.hear(machine)
            task = asyncio.create_task(keeper.run())
            while len(self.renewed) < count or self.now:
                await asyncio.sleep(0.005)
            task.cancel()
            with suppress(asyncio.CancelledError):
                await task

        asyncio.run(go())


def test_what_changed_comes_first_then_what_is_on_a_screen_then_the_rest(monkeypatch: pytest.MonkeyPatch) -> None:
    stale, changed = [uuid4() for _ in range(8)], uuid4()
    monkeypatch.setattr(lines, "AT_ONCE", 1)
    bench = Bench(monkeypatch, stale)
    bench.run(changed, asked=(stale[5], stale[6]), count=9)
    assert bench.renewed == [changed, stale[5], stale[6], *stale[:5], stale[7]]


def test_a_few_are_renewed_at_a_time_and_none_twice_at_once(monkeypatch: pytest.MonkeyPatch) -> None:
    stale = [uuid4() for _ in range(12)]
    bench = Bench(monkeypatch, stale)
    bench.run(stale[0], count=12)
    assert (bench.most, sorted(bench.renewed)) == (AT_ONCE, sorted(stale))
