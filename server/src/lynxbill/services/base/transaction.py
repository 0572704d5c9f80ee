"""The transaction of a use case, and the rule for saves that come too late."""

from collections.abc import Iterator, Mapping
from contextlib import contextmanager
from uuid import UUID

from psycopg import errors as database
from sqlalchemy.exc import DBAPIError
from sqlalchemy.orm import Session, sessionmaker

from lynxbill.core.terms.errors import BadValue, Sealed, Stale, Taken
from lynxbill.store.space import space_of
from lynxbill.store.tables.base import Versioned

Sessions = sessionmaker[Session]
SEALED_STATE = "LX001"
SAVED_FIRST = "Somebody saved this place first. Reload to see it, then save again."


@contextmanager
def transaction(sessions: Sessions, *, taken: str = SAVED_FIRST) -> Iterator[Session]:
    """Commit everything or nothing; what the database's own rules refuse becomes a refusal."""
    try:
        with sessions.begin() as session:
            space_of(session).refuse_if_full()
            yield session
    except DBAPIError as error:
        if isinstance(error.orig, database.UniqueViolation):
            raise Taken(taken) from error
        if getattr(error.orig, "sqlstate", None) == SEALED_STATE:
            raise sealed_build() from error
        raise


@contextmanager
def reading(sessions: Sessions) -> Iterator[Session]:
    """Read many tables as they stood at one moment, whatever is saved meanwhile."""
    with sessions() as session:
        session.connection(execution_options={"isolation_level": "REPEATABLE READ"})
        yield session


def sealed_build() -> Sealed:
    return Sealed(
        "This build has runs, so its parts and settings are sealed. Record a swap: it makes the next build.",
        field="parts",
    )


def refuse_foreign(owner: UUID, machine_id: UUID, place: str = "id") -> None:
    """Refuse to touch through one machine what belongs to another one: ids come from clients."""
    if owner != machine_id:
        raise BadValue("This id belongs to another machine.", field=place)


def edit(row: Versioned, expected: int | None, changes: Mapping[str, object]) -> bool:
    """
    Write changes into a row if the editor had seen its newest version.

    Answers False where nothing differs, so that sending the same thing twice stores it once; refuses with Stale
    and the fields that somebody else changed otherwise.
    """
    differing = {name: getattr(row, name) for name, value in changes.items() if getattr(row, name) != value}
    if not differing:
        return False
    check_version(row, expected, differing)
    for name in differing:
        setattr(row, name, changes[name])
    row.version += 1
    return True


def check_version(row: Versioned, expected: int | None, current: Mapping[str, object]) -> None:
    """Refuse a save that is based on an older version, with what stands there now."""
    if row.version != expected:
        raise Stale(
            "Somebody changed this since you opened it. Look at what stands there now, then save again.",
            details={"version": row.version, "current": {name: str(value) for name, value in current.items()}},
        )
