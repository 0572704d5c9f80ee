"""Connection, sessions and migration of the database."""

import json
from collections.abc import Iterator, Sequence
from contextlib import contextmanager
from dataclasses import asdict, dataclass
from pathlib import Path

from alembic import command
from alembic.config import Config
from alembic.runtime.migration import MigrationContext
from alembic.script import ScriptDirectory
from sqlalchemy import Engine, create_engine, event, text
from sqlalchemy.engine.interfaces import DBAPIConnection
from sqlalchemy.orm import ORMExecuteState, Session, sessionmaker, with_loader_criteria

from lynxbill.store.repair import repair
from lynxbill.store.space import Space
from lynxbill.store.tables.kept import ChoreRow
from lynxbill.store.tables.machine import MachineRow

NOWHERE = Space()
MIGRATIONS = Path(__file__).parent / "migrations"
CHANNEL = "lynxbill"
WITH_REMOVED = {"with_removed": True}


class NewerDatabase(Exception):
    """The database was migrated by a newer version of the program."""


# What is asked by a request ends by then, in ms and s: somebody waits for it.
_STATEMENT_MS = 8_000
_CONNECTION_S = 5


def open_engine(url: str, *, is_asked: bool = False) -> Engine:
    """
    Open a pool of connections; accepts postgres:// and postgresql:// addresses. Errors never quote values.

    Args:
        is_asked: it serves requests; no statement of one takes longer than somebody waits for it.
    """
    scheme, _, rest = url.partition("://")
    driver = "postgresql+psycopg" if scheme in ("postgres", "postgresql") else scheme
    address = f"{driver}://{rest}"
    if not is_asked:
        return create_engine(address, pool_pre_ping=True, hide_parameters=True)
    # A server that is gone without a word is found out.
    alive = {"keepalives_idle": 10, "keepalives_interval": 5, "keepalives_count": 3}
    limits = {"connect_timeout": _CONNECTION_S, **alive}
    engine = create_engine(
        address, pool_pre_ping=True, hide_parameters=True, connect_args=limits, pool_timeout=_CONNECTION_S
    )
    # Not among the options of the connection: those of the address are its owner's.
    event.listen(engine, "connect", _limit_statements)
    return engine


def _limit_statements(connection: DBAPIConnection, _record: object) -> None:
    cursor = connection.cursor()
    cursor.execute(f"SET statement_timeout = {_STATEMENT_MS}")
    cursor.close()
    connection.commit()


def session_factory(engine: Engine, space: Space = NOWHERE) -> sessionmaker[Session]:
    """Make sessions; `space` is the room where the database keeps its data."""
    return sessionmaker(engine, class_=_Session, expire_on_commit=False, info={"space": space})


class _Session(Session):
    """Sees no machine that was removed, unless it is asked `WITH_REMOVED`."""


@event.listens_for(_Session, "do_orm_execute")
def _hide_removed(asked: ORMExecuteState) -> None:
    if asked.is_select and not asked.is_column_load and not asked.execution_options.get("with_removed"):
        there = with_loader_criteria(MachineRow, MachineRow.removed_at.is_(None))
        asked.statement = asked.statement.options(there)


def migration_config(engine: Engine) -> Config:
    config = Config()
    config.set_main_option("script_location", str(MIGRATIONS))
    config.attributes["engine"] = engine
    return config


def pending_revision(engine: Engine) -> str | None:
    """The revision that a migration would leave; None where there is none to leave. Refuses a newer program's."""
    scripts = ScriptDirectory.from_config(migration_config(engine))
    with engine.connect() as connection:
        current = MigrationContext.configure(connection).get_current_revision()
    if current is not None and current not in {script.revision for script in scripts.walk_revisions()}:
        raise NewerDatabase(
            f"The database was made by a newer Lynxbill (its revision is {current}): update this program."
        )
    return None if current == scripts.get_current_head() else current


def is_behind(engine: Engine) -> bool:
    """Whether a database is new, or of an older program."""
    with engine.connect() as connection:
        current = MigrationContext.configure(connection).get_current_revision()
    return current is None or pending_revision(engine) is not None


def migrate(engine: Engine, chores: Sequence[str] = ()) -> None:
    """
    Bring the database to the newest revision, mended where an early one left something out.

    Refuses one of a newer program.

    Args:
        chores: what has still to be done in a new database; `chore` does it.
    """
    pending_revision(engine)
    repair(engine)
    config = migration_config(engine)
    config.attributes["chores"] = tuple(chores)
    command.upgrade(config, "head")


@contextmanager
def chore(sessions: sessionmaker[Session], name: str) -> Iterator[bool]:
    """
    Say whether a chore is still to be done, and note that it is done once the block is through.

    Other servers that start meanwhile wait for it; where this one is killed, the next one does it.
    """
    with sessions.begin() as session:
        row = session.get(ChoreRow, name, with_for_update=True)
        yield row is not None
        if row is not None:
            session.delete(row)


@dataclass(frozen=True, slots=True)
class News:
    """
    What changed of a machine, and its counts by then.

    `noun` and `id` name the thing; no id stands for more than one of them.
    """

    machine: str
    noun: str
    id: str | None
    revision: int
    evidence_revision: int


def announce(session: Session, machine_id: object, noun: str, thing_id: object) -> None:
    """Raise a machine's revision, and tell every server process once this transaction commits."""
    _tell(session, "revision", machine_id, noun, thing_id)


def announce_evidence(session: Session, machine_id: object, run_id: object | None = None) -> int:
    """Raise a machine's revision of evidence, tell every server process, and answer it."""
    return _tell(session, "evidence_revision", machine_id, "run", run_id)


def _tell(session: Session, count: str, machine_id: object, noun: str, thing_id: object | None) -> int:
    raised = text(f"UPDATE machines SET {count} = {count} + 1 WHERE id = :id RETURNING revision, evidence_revision")
    found = session.execute(raised, {"id": str(machine_id)}).one_or_none()
    if found is None:
        return 0
    identifier = None if thing_id is None else str(thing_id)
    news = News(str(machine_id), noun, identifier, found.revision, found.evidence_revision)
    payload = json.dumps(asdict(news))
    session.execute(text("SELECT pg_notify(:channel, :payload)"), {"channel": CHANNEL, "payload": payload})
    return int(getattr(found, count))
