"""What endpoints are handed."""

from datetime import UTC, datetime
from typing import Annotated

from fastapi import Depends, Request
from sqlalchemy.orm import Session, sessionmaker

from lynxbill.api.lines import LineKeeper
from lynxbill.services.act import Act


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


SessionsDep = Annotated[sessionmaker[Session], Depends(_sessions)]
ActDep = Annotated[Act, Depends(_act)]
KeeperDep = Annotated[LineKeeper, Depends(_keeper)]
