"""Whether the server can do its work: is the database there, and is there space to save anything?"""

from typing import Literal

from fastapi import APIRouter
from sqlalchemy import text
from sqlalchemy.exc import DBAPIError
from sqlalchemy.exc import TimeoutError as PoolTimeout

from lynxbill.api.http.deps import SessionsDep
from lynxbill.exchange.fields import Strict
from lynxbill.store.outages import find_outage
from lynxbill.store.space import FULL_MB, SpaceWord, space_of

router = APIRouter(tags=["health"])


class HealthOut(Strict):
    """`free_mb` is None where the database keeps its data is not known; below `full_mb` nothing is saved."""

    database: Literal["here", "away"]
    space: SpaceWord
    free_mb: int | None
    full_mb: int


@router.get("/health")
def read_health(sessions: SessionsDep) -> HealthOut:
    """Say how the server is; this answers whatever else does not."""
    with sessions() as session:
        space = space_of(session)
        try:
            session.execute(text("SELECT 1"))
            is_here = True
        except (DBAPIError, PoolTimeout) as error:
            if find_outage(error) != "database_away":
                raise
            is_here = False
    database: Literal["here", "away"] = "here" if is_here else "away"
    return HealthOut(database=database, space=space.word, free_mb=space.free_mb, full_mb=FULL_MB)
