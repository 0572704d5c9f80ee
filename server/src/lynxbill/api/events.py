"""Server-sent events: what changed, told to every open screen of every server process."""

import asyncio
from collections.abc import AsyncIterator
from contextlib import asynccontextmanager, suppress
from uuid import UUID

import psycopg
from fastapi import APIRouter, Request
from sqlalchemy.exc import OperationalError
from sse_starlette import EventSourceResponse, ServerSentEvent

from lynxbill.api.lines import LineKeeper
from lynxbill.store.database import CHANNEL

router = APIRouter(tags=["events"])
QUEUE_LENGTH = 100
EVERY_MACHINE = "*"


class EventHub:
    """Listens on PostgreSQL's channel once for this process; tells the screens that wait, and the keeper of lines."""

    def __init__(self, url: str, keeper: LineKeeper):
        self.url = url
        self.keeper = keeper
        # The machine that each waiting screen follows.
        self.queues: dict[asyncio.Queue[str | None], str] = {}

    async def listen(self) -> None:
        """Follow the channel for as long as the server runs; connects anew when the database was away."""
        was_cut = False
        while True:
            with suppress(psycopg.OperationalError, OperationalError):
                async with await psycopg.AsyncConnection.connect(self.url, autocommit=True) as connection:
                    await connection.execute(f"LISTEN {CHANNEL}")
                    if was_cut:
                        # What was told meanwhile is lost: every screen has to look for itself.
                        self._hand_out("again", EVERY_MACHINE)
                    await self.keeper.look()
                    async for notice in connection.notifies():
                        kind, _, machine = notice.payload.partition(" ")
                        self._hand_out(kind, machine)
                        self.keeper.hear(UUID(machine))
            was_cut = True
            await asyncio.sleep(1)

    def _hand_out(self, kind: str, machine: str) -> None:
        for queue, followed in self.queues.items():
            # A screen that does not keep up reads everything afresh on the next notice it gets; one is waiting.
            if machine in (followed, EVERY_MACHINE) and not queue.full():
                queue.put_nowait(kind)

    def close(self) -> None:
        """End every stream, so that a server that is asked to stop does not wait for open screens."""
        for queue in self.queues:
            if not queue.full():
                queue.put_nowait(None)

    async def follow(self, machine_id: UUID) -> AsyncIterator[ServerSentEvent]:
        """Yield the notices of one machine."""
        queue: asyncio.Queue[str | None] = asyncio.Queue(QUEUE_LENGTH)
        self.queues[queue] = str(machine_id)
        try:
            yield ServerSentEvent(event="ready", data="")
            while (kind := await queue.get()) is not None:
                yield ServerSentEvent(event="changed", data=kind)
        finally:
            del self.queues[queue]


@asynccontextmanager
async def running_hub(url: str, keeper: LineKeeper) -> AsyncIterator[EventHub]:
    """Run a hub for the lifetime of the server."""
    hub = EventHub(url, keeper)
    task = asyncio.create_task(hub.listen())
    try:
        yield hub
    finally:
        task.cancel()
        with suppress(asyncio.CancelledError):
            await task


@router.get("/machines/{machine_id}/events", response_class=EventSourceResponse)
async def follow_machine(machine_id: UUID, request: Request) -> EventSourceResponse:
    """Follow the changes of one machine; each event names the noun that changed."""
    hub: EventHub = request.app.state.hub
    return EventSourceResponse(hub.follow(machine_id), ping=15)
