"""What endpoints are handed."""

import asyncio
from collections.abc import AsyncIterator
from datetime import UTC, datetime
from tempfile import SpooledTemporaryFile
from typing import IO, Annotated

from fastapi import Depends, Request
from sqlalchemy.orm import Session, sessionmaker

from lynxbill.api.http.lines import LineKeeper
from lynxbill.services.base.act import Act

IN_MEMORY_BYTES = 4 * 1024 * 1024


def _sessions(request: Request) -> sessionmaker[Session]:
    sessions = request.app.state.sessions
    assert isinstance(sessions, sessionmaker)
    return sessions


def _act() -> Act:
    """Who asks is not known further than the computer, while the server listens on loopback alone."""
    return Act("this computer", datetime.now(UTC))


def _keeper(request: Request) -> LineKeeper:
    keeper = request.app.state.keeper
    assert isinstance(keeper, LineKeeper)
    return keeper


async def raw_body(request: Request) -> bytes:
    """The body as it came, for what is no JSON or has a reader of its own."""
    return await request.body()


async def _spooled_body(request: Request) -> AsyncIterator[IO[bytes]]:
    """A body that may be large, on the disk where it is; its end is where the file stands."""
    with SpooledTemporaryFile(max_size=IN_MEMORY_BYTES) as file:
        async for chunk in request.stream():
            await asyncio.to_thread(file.write, chunk)
        yield file


SpooledDep = Annotated[IO[bytes], Depends(_spooled_body)]
SessionsDep = Annotated[sessionmaker[Session], Depends(_sessions)]
ActDep = Annotated[Act, Depends(_act)]
KeeperDep = Annotated[LineKeeper, Depends(_keeper)]
