"""Home's lines, written anew by whichever server process hears first that a machine changed."""

import asyncio
from collections.abc import AsyncIterator, Iterable
from contextlib import asynccontextmanager, suppress
from uuid import UUID

from sqlalchemy.exc import OperationalError
from sqlalchemy.orm import Session, sessionmaker

from lynxbill.api.describe import write_line
from lynxbill.services.benches import find_stale, renew_line

# While somebody types, a machine changes every other second: its line waits until it is quiet, but not for ever.
QUIET_S = 1.0
LONGEST_S = 10.0
RETRY_S = 1.0


class LineKeeper:
    """Renews one line after another beside the requests; what changed now comes before what was found stale."""

    def __init__(self, sessions: sessionmaker[Session]):
        self.sessions = sessions
        # When a machine was first heard of since its last line, and when last.
        self._changed: dict[UUID, tuple[float, float]] = {}
        self._stale: dict[UUID, None] = {}
        self._woken = asyncio.Event()
        self._loop = asyncio.get_running_loop()

    def hear(self, machine_id: UUID) -> None:
        """A machine changed; called where events are followed."""
        now = self._loop.time()
        first, _ = self._changed.get(machine_id, (now, now))
        self._changed[machine_id] = first, now
        self._woken.set()

    def renew_soon(self, machines: Iterable[UUID]) -> None:
        """These were found stale by a request, which runs in a thread of its own."""
        self._loop.call_soon_threadsafe(self._find_stale, list(machines))

    async def look(self) -> None:
        """Look for every line that is stale: at the start, and after news may have been missed."""
        self._find_stale(await asyncio.to_thread(find_stale, self.sessions))

    async def run(self) -> None:
        """Renew lines for as long as the server runs."""
        while True:
            self._woken.clear()
            machine_id = self._next()
            if machine_id is not None:
                await self._renew(machine_id)
                continue
            wait_s = min((self._due(machine) - self._loop.time() for machine in self._changed), default=None)
            with suppress(TimeoutError):
                await asyncio.wait_for(self._woken.wait(), wait_s)

    def _find_stale(self, machines: Iterable[UUID]) -> None:
        # One that was heard of has its turn anyway.
        self._stale |= dict.fromkeys(machine for machine in machines if machine not in self._changed)
        self._woken.set()

    def _due(self, machine_id: UUID) -> float:
        first, last = self._changed[machine_id]
        return min(last + QUIET_S, first + LONGEST_S)

    def _next(self) -> UUID | None:
        """Take the machine whose turn it is."""
        due = min(self._changed, key=self._due, default=None)
        if due is not None and self._due(due) <= self._loop.time():
            del self._changed[due]
            return due
        if not self._stale:
            return None
        machine_id = next(iter(self._stale))
        del self._stale[machine_id]
        return machine_id

    async def _renew(self, machine_id: UUID) -> None:
        try:
            await asyncio.to_thread(renew_line, self.sessions, machine_id, write_line)
        except OperationalError:
            # The database is away: the line is still stale when it is back.
            self._stale[machine_id] = None
            await asyncio.sleep(RETRY_S)


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
