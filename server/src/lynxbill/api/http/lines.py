"""Home's lines, written anew by whichever server process hears first that a machine changed."""

import asyncio
from collections.abc import AsyncIterator, Iterable
from contextlib import asynccontextmanager, suppress
from uuid import UUID

from sqlalchemy.exc import OperationalError
from sqlalchemy.orm import Session, sessionmaker

from lynxbill.api.wire.describe import KeptForm
from lynxbill.services.verdicts.benches import find_stale, renew_line

# While somebody types, a machine changes every other second: its line waits until it is quiet, but not for ever.
QUIET_S = 1.0
LONGEST_S = 10.0
RETRY_S = 1.0
# Judging computes in one thread at a time, and waits for the database beside it.
AT_ONCE = 3


class LineKeeper:
    """
    Renews lines beside the requests, a few at a time.

    What changed now comes before what was found stale, and of that what is on somebody's screen comes first.
    """

    def __init__(self, sessions: sessionmaker[Session]):
        self.sessions = sessions
        # When a machine was first heard of since its last line, and when last.
        self._changed: dict[UUID, tuple[float, float]] = {}
        self._stale: dict[UUID, None] = {}
        self._busy: dict[UUID, asyncio.Task[None]] = {}
        self._woken = asyncio.Event()
        self._loop = asyncio.get_running_loop()

    def hear(self, machine_id: UUID) -> None:
        """A machine changed; called where events are followed."""
        now = self._loop.time()
        first, _ = self._changed.get(machine_id, (now, now))
        self._changed[machine_id] = first, now
        self._stale.pop(machine_id, None)
        self._woken.set()

    def renew_soon(self, machines: Iterable[UUID]) -> None:
        """These were found stale by a request, which runs in a thread of its own."""
        self._loop.call_soon_threadsafe(self._ask_for, list(machines))

    async def look(self) -> None:
        """Look for every line that is stale: at the start, and after news may have been missed."""
        self._find_stale(await asyncio.to_thread(find_stale, self.sessions))

    async def run(self) -> None:
        """Renew lines for as long as the server runs."""
        try:
            while True:
                self._woken.clear()
                machine_id = self._next() if len(self._busy) < AT_ONCE else None
                if machine_id is not None:
                    self._busy[machine_id] = self._loop.create_task(self._renew(machine_id))
                    continue
                waiting = [self._due(machine) for machine in self._changed if machine not in self._busy]
                wait_s = min(waiting) - self._loop.time() if waiting and len(self._busy) < AT_ONCE else None
                with suppress(TimeoutError):
                    await asyncio.wait_for(self._woken.wait(), wait_s)
        finally:
            for task in self._busy.values():
                task.cancel()

    def _ask_for(self, machines: Iterable[UUID]) -> None:
        """What is on a screen has its turn before all else that is stale."""
        asked = dict.fromkeys(machine for machine in machines if machine not in self._changed)
        self._stale = asked | {machine: None for machine in self._stale if machine not in asked}
        self._woken.set()

    def _find_stale(self, machines: Iterable[UUID]) -> None:
        # One that was heard of has its turn anyway.
        self._stale |= dict.fromkeys(machine for machine in machines if machine not in self._changed)
        self._woken.set()

    def _due(self, machine_id: UUID) -> float:
        first, last = self._changed[machine_id]
        return min(last + QUIET_S, first + LONGEST_S)

    def _next(self) -> UUID | None:
        """Take the machine whose turn it is; one that is being renewed has its next turn after that."""
        free = (machine for machine in self._changed if machine not in self._busy)
        due = min(free, key=self._due, default=None)
        if due is not None and self._due(due) <= self._loop.time():
            del self._changed[due]
            return due
        stale = next((machine for machine in self._stale if machine not in self._busy), None)
        if stale is not None:
            del self._stale[stale]
        return stale

    async def _renew(self, machine_id: UUID) -> None:
        try:
            await asyncio.to_thread(renew_line, self.sessions, machine_id, KeptForm())
        except OperationalError:
            # The database is away: the line is still stale when it is back.
            self._stale[machine_id] = None
            await asyncio.sleep(RETRY_S)
        finally:
            del self._busy[machine_id]
            self._woken.set()


@asynccontextmanager
async def running_keeper(sessions: sessionmaker[Session]) -> AsyncIterator[LineKeeper]:
    """Run a keeper for the lifetime of the server."""
    keeper = LineKeeper(sessions)
    task = asyncio.create_task(keeper.run())
    try:
        yield keeper
    finally:
        task.cancel()
        with suppress(asyncio.CancelledError):
            await task
