"""Connection, sessions and migration of the database."""

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
    """Open a pool of connections; accepts postgres:// and postgresql:// addresses."""
    scheme, _, rest = url.partition("://")
    driver = "postgresql+psycopg" if scheme in ("postgres", "postgresql") else scheme
    return create_engine(f"{driver}://{rest}", pool_pre_ping=True)


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


def announce(session: Session, machine_id: object, kind: str) -> None:
    """Raise a machine's revision, and tell every server process once this transaction commits."""
    session.execute(text("UPDATE machines SET revision = revision + 1 WHERE id = :id"), {"id": str(machine_id)})
    _tell(session, machine_id, kind)


def announce_evidence(session: Session, machine_id: object) -> int:
    """Raise a machine's count of evidence, tell every server process, and answer the count."""
    raised = text("UPDATE machines SET evidence = evidence + 1 WHERE id = :id RETURNING evidence")
    count = session.scalar(raised, {"id": str(machine_id)})
    _tell(session, machine_id, "run")
    return int(count or 0)


def _tell(session: Session, machine_id: object, kind: str) -> None:
    session.execute(
        text("SELECT pg_notify(:channel, :payload)"), {"channel": CHANNEL, "payload": f"{kind} {machine_id}"}
    )
