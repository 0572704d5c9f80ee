"""Server-sent events: what changed, told to every open screen of every server process."""

import asyncio
import json
from collections.abc import AsyncIterator
from contextlib import asynccontextmanager, suppress
from dataclasses import asdict
from uuid import UUID

import psycopg
from fastapi import APIRouter, Request
from sqlalchemy.exc import OperationalError
from sse_starlette import EventSourceResponse, ServerSentEvent

from lynxbill.api.http.lines import LineKeeper
from lynxbill.services.frame.machines import count_changes
from lynxbill.store.database import CHANNEL

router = APIRouter(tags=["events"])
QUEUE_LENGTH = 100
# In the place of news: some may have been missed.
AGAIN = "again"


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
                        self._hand_out(AGAIN, None)
                    await self.keeper.look()
                    async for notice in connection.notifies():
                        news = json.loads(notice.payload)
                        self._hand_out(notice.payload, news["machine"])
                        self.keeper.hear(UUID(news["machine"]))
            was_cut = True
            await asyncio.sleep(1)

    def _hand_out(self, news: str, machine: str | None) -> None:
        for queue, followed in self.queues.items():
            # A screen that does not keep up finds by the counts of the next news it gets that it missed some.
            if machine in (followed, None) and not queue.full():
                queue.put_nowait(news)

    def close(self) -> None:
        """End every stream, so that a server that is asked to stop does not wait for open screens."""
        for queue in self.queues:
            if not queue.full():
                queue.put_nowait(None)

    async def follow(self, machine_id: UUID) -> AsyncIterator[ServerSentEvent]:
        """Yield the counts of one machine as they stand, then its news."""
        queue: asyncio.Queue[str | None] = asyncio.Queue(QUEUE_LENGTH)
        self.queues[queue] = str(machine_id)
        try:
            yield await self._ready(machine_id)
            while (news := await queue.get()) is not None:
                yield await self._ready(machine_id) if news == AGAIN else ServerSentEvent(event="changed", data=news)
        finally:
            del self.queues[queue]

    async def _ready(self, machine_id: UUID) -> ServerSentEvent:
        counts = await asyncio.to_thread(count_changes, self.keeper.sessions, machine_id)
        return ServerSentEvent(event="ready", data=json.dumps(asdict(counts)))


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
    """Follow the changes of one machine: "ready" tells its counts, "changed" what changed and the counts by then."""
    hub: EventHub = request.app.state.hub
    return EventSourceResponse(hub.follow(machine_id), ping=15)
