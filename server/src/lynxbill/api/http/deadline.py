"""Every request ends: where the database answers nobody any more, whoever waits for it is told so."""

import asyncio
from concurrent.futures import ThreadPoolExecutor

import psycopg
from sqlalchemy import make_url
from starlette.types import ASGIApp, Message, Receive, Scope, Send

from lynxbill.api.http.errors import away

# Together they stay below ten seconds.
PATIENCE_S = 6.0
PROBE_S = 2


class Deadline:
    """
    ASGI middleware: a request that takes long goes on for as long as the database still answers somebody.

    It is asked for a word over a connection of its own, in a thread of its own: those of the requests may all wait.
    """

    def __init__(self, app: ASGIApp, url: str):
        self.app = app
        self.url = make_url(url).set(drivername="postgresql").render_as_string(hide_password=False)
        self._threads = ThreadPoolExecutor(2, thread_name_prefix="probe")

    async def __call__(self, scope: Scope, receive: Receive, send: Send) -> None:
        if scope["type"] != "http" or not scope["path"].startswith("/api"):
            await self.app(scope, receive, send)
            return
        begun = asyncio.Event()

        async def sending(message: Message) -> None:
            begun.set()
            await send(message)

        work = asyncio.ensure_future(self.app(scope, receive, sending))
        waiting = asyncio.ensure_future(begun.wait())
        try:
            while not begun.is_set() and not work.done():
                await asyncio.wait((work, waiting), timeout=PATIENCE_S, return_when=asyncio.FIRST_COMPLETED)
                if begun.is_set() or work.done() or await self._answers():
                    continue
                # Nothing was sent by now, and nothing will be: the threads end when the database is back.
                if not begun.is_set():
                    work.cancel()
                    await away()(scope, receive, send)
                    return
            await work
        finally:
            waiting.cancel()
            work.cancel()

    async def _answers(self) -> bool:
        loop = asyncio.get_running_loop()
        try:
            await asyncio.wait_for(loop.run_in_executor(self._threads, self._ask), PROBE_S + 1)
        except (psycopg.Error, TimeoutError):
            return False
        return True

    def _ask(self) -> None:
        with psycopg.connect(self.url, connect_timeout=PROBE_S) as connection:
            connection.execute("SELECT 1")
