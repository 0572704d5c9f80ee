"""What a server sees to by itself, now and then."""

import asyncio
from collections.abc import AsyncIterator
from contextlib import asynccontextmanager, suppress
from datetime import UTC, datetime

from sqlalchemy.exc import DBAPIError
from sqlalchemy.orm import Session, sessionmaker

from lynxbill.core.terms.errors import DiskFull
from lynxbill.services.base.act import Act
from lynxbill.services.evidence.removal import erase_removed
from lynxbill.services.files.imports import end_orphans

EVERY_S = 30


@asynccontextmanager
async def running_tidy(sessions: sessionmaker[Session]) -> AsyncIterator[None]:
    """
    Erase for the lifetime of the server what was removed and can't be brought back any more.

    Imports whose process is gone are said to have ended.
    """
    task = asyncio.create_task(_tidy(sessions))
    try:
        yield
    finally:
        task.cancel()
        with suppress(asyncio.CancelledError):
            await task


async def _tidy(sessions: sessionmaker[Session]) -> None:
    while True:
        # What can't be done now is done next time.
        with suppress(DBAPIError, DiskFull):
            await asyncio.to_thread(erase_removed, sessions, Act("this program", datetime.now(UTC)))
            await asyncio.to_thread(end_orphans, sessions, datetime.now(UTC))
        await asyncio.sleep(EVERY_S)
