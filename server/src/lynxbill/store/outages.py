"""When the database itself can't be asked, or can't take more: what is wrong, and what to tell whoever asks."""

from collections.abc import Mapping
from typing import Literal

from psycopg import errors as database
from sqlalchemy.exc import DBAPIError
from sqlalchemy.exc import TimeoutError as PoolTimeout

Outage = Literal["database_away", "disk_full"]
OUTAGES: Mapping[Outage, str] = {
    "database_away": "The database is away; typed entries are kept; trying again.",
    "disk_full": "The disk is full: nothing is saved until there is space again; reading goes on. Make space.",
}
# It was ended, starts or stops, can't be reached, has no connection left, or took longer than anybody waits.
_AWAY = ("57P", "57014", "08", "53300", "XX000")


def find_outage(error: BaseException) -> Outage | None:
    """Say what keeps the database from answering; None for an error of another kind."""
    if isinstance(error, PoolTimeout):
        return "database_away"
    original = error.orig if isinstance(error, DBAPIError) else error
    if isinstance(original, database.DiskFull):
        return "disk_full"
    state = getattr(original, "sqlstate", None)
    if isinstance(original, database.OperationalError | database.InterfaceError) and state is None:
        return "database_away"
    return "database_away" if state is not None and state.startswith(_AWAY) else None
