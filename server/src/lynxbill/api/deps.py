"""What endpoints are handed."""

from typing import Annotated

from fastapi import Depends, Request
from sqlalchemy.orm import Session, sessionmaker


def _sessions(request: Request) -> sessionmaker[Session]:
    sessions = request.app.state.sessions
    assert isinstance(sessions, sessionmaker)
    return sessions


SessionsDep = Annotated[sessionmaker[Session], Depends(_sessions)]
