"""Runs the migrations one process at a time."""

from alembic import context
from sqlalchemy import Engine, text

from lynxbill.store.tables import Table

# Any number that all server processes share; it keeps two of them from migrating at once.
MIGRATION_LOCK = 8440


def _run(engine: Engine) -> None:
    with engine.begin() as connection:
        connection.execute(text("SELECT pg_advisory_xact_lock(:key)"), {"key": MIGRATION_LOCK})
        context.configure(connection=connection, target_metadata=Table.metadata)
        context.run_migrations()


_run(context.config.attributes["engine"])
