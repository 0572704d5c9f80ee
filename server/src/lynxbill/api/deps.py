"""What endpoints are handed."""

from typing import Annotated

from fastapi import Depends, Request
from sqlalchemy.orm import Session, sessionmaker

from lynxbill.api.lines import LineKeeper


def _sessions(request: Request) -> sessionmaker[Session]:
    sessions = request.app.state.sessions
    assert isinstance(sessions, sessionmaker)
    return sessions


def _keeper(request: Request) -> LineKeeper:
    keeper = request.app.state.keeper
    assert isinstance(keeper, LineKeeper)
    return keeper


async def raw_body(request: Request) -> bytes:
    """The body as it came, for what is no JSON or has a reader of its own."""
    return await request.body()


SessionsDep = Annotated[sessionmaker[Session], Depends(_sessions)]
KeeperDep = Annotated[LineKeeper, Depends(_keeper)]
