"""Connection, sessions and migration of the database."""

import json
from dataclasses import asdict, dataclass
from pathlib import Path

from alembic import command
from alembic.config import Config
from alembic.runtime.migration import MigrationContext
from alembic.script import ScriptDirectory
from sqlalchemy import Engine, create_engine, text
from sqlalchemy.orm import Session, sessionmaker

MIGRATIONS = Path(__file__).parent / "migrations"
CHANNEL = "lynxbill"


class NewerDatabase(Exception):
    """The database was migrated by a newer version of the program."""


def open_engine(url: str) -> Engine:
    """Open a pool of connections; accepts postgres:// and postgresql:// addresses. Errors never quote values."""
    scheme, _, rest = url.partition("://")
    driver = "postgresql+psycopg" if scheme in ("postgres", "postgresql") else scheme
    return create_engine(f"{driver}://{rest}", pool_pre_ping=True, hide_parameters=True)


def session_factory(engine: Engine) -> sessionmaker[Session]:
    return sessionmaker(engine, expire_on_commit=False)


def migration_config(engine: Engine) -> Config:
    config = Config()
    config.set_main_option("script_location", str(MIGRATIONS))
    config.attributes["engine"] = engine
    return config


def migrate(engine: Engine) -> bool:
    """Bring the database to the newest revision, and say whether it was new; refuses one of a newer program."""
    config = migration_config(engine)
    with engine.connect() as connection:
        current = MigrationContext.configure(connection).get_current_revision()
    known = {script.revision for script in ScriptDirectory.from_config(config).walk_revisions()}
    if current is not None and current not in known:
        raise NewerDatabase(
            f"The database was made by a newer Lynxbill (its revision is {current}): update this program."
        )
    command.upgrade(config, "head")
    return current is None


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
    evidence: int


def announce(session: Session, machine_id: object, noun: str, thing_id: object) -> None:
    """Raise a machine's revision, and tell every server process once this transaction commits."""
    _tell(session, "revision", machine_id, noun, thing_id)


def announce_evidence(session: Session, machine_id: object, run_id: object | None = None) -> int:
    """Raise a machine's count of evidence, tell every server process, and answer the count."""
    return _tell(session, "evidence", machine_id, "run", run_id)


def _tell(session: Session, count: str, machine_id: object, noun: str, thing_id: object | None) -> int:
    raised = text(f"UPDATE machines SET {count} = {count} + 1 WHERE id = :id RETURNING revision, evidence")
    found = session.execute(raised, {"id": str(machine_id)}).one_or_none()
    if found is None:
        return 0
    identifier = None if thing_id is None else str(thing_id)
    news = News(str(machine_id), noun, identifier, found.revision, found.evidence)
    payload = json.dumps(asdict(news))
    session.execute(text("SELECT pg_notify(:channel, :payload)"), {"channel": CHANNEL, "payload": payload})
    return int(getattr(found, count))
