"""What endpoints are handed."""

from typing import Annotated

from fastapi import Depends, Request
from sqlalchemy.orm import Session, sessionmaker


def _sessions(request: Request) -> sessionmaker[Session]:
    sessions = request.app.state.sessions
    assert isinstance(sessions, sessionmaker)
    return sessions


async def raw_body(request: Request) -> bytes:
    """The body as it came, for what is no JSON or has a reader of its own."""
    return await request.body()


SessionsDep = Annotated[sessionmaker[Session], Depends(_sessions)]
