"""Home's lines, written anew by whichever server process hears first that a machine changed."""

import asyncio
import logging
from collections import OrderedDict
from collections.abc import AsyncIterator, Iterable
from contextlib import asynccontextmanager, suppress
from uuid import UUID

from sqlalchemy.exc import OperationalError
from sqlalchemy.orm import Session, sessionmaker

from lynxbill.api.describe import write_line
from lynxbill.services.benches import find_stale, renew_line

log = logging.getLogger(__name__)
# A row that is typed is several changes within a moment: the line waits until they are over.
SETTLE_S = 0.2
RETRY_S = 1.0


class LineKeeper:
    """Renews one line after another beside the requests; what changed now comes before what was found stale."""

    def __init__(self, sessions: sessionmaker[Session]):
        self.sessions = sessions
        self._stale: OrderedDict[UUID, None] = OrderedDict()
        self._woken = asyncio.Event()
        self._loop = asyncio.get_running_loop()

    def hear(self, machine_id: UUID) -> None:
        """A machine changed; called where events are followed."""
        self._stale[machine_id] = None
        self._stale.move_to_end(machine_id, last=False)
        self._woken.set()

    def renew_soon(self, machines: Iterable[UUID]) -> None:
        """These were found stale by a request, which runs in a thread of its own."""
        for machine_id in machines:
            self._loop.call_soon_threadsafe(self.hear, machine_id)

    async def look(self) -> None:
        """Look for every line that is stale: at the start, and after news may have been missed."""
        for machine_id in await asyncio.to_thread(find_stale, self.sessions):
            self._stale.setdefault(machine_id)
        self._woken.set()

    async def run(self) -> None:
        """Renew lines for as long as the server runs."""
        while True:
            await self._woken.wait()
            await asyncio.sleep(SETTLE_S)
            self._woken.clear()
            while self._stale:
                machine_id, _ = self._stale.popitem(last=False)
                try:
                    await asyncio.to_thread(renew_line, self.sessions, machine_id, write_line)
                except OperationalError:
                    # The database is away: the line is still stale when it is back.
                    self._stale.setdefault(machine_id)
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
