"""Runs the migrations one process at a time."""

from alembic import context
from sqlalchemy import Engine, text

from lynxbill.store.tables.base import Table

# Any number that all server processes share; it keeps two of them from migrating at once.
MIGRATION_LOCK = 8440


def _run(engine: Engine) -> None:
    with engine.begin() as connection:
        connection.execute(text("SELECT pg_advisory_xact_lock(:key)"), {"key": MIGRATION_LOCK})
        context.configure(connection=connection, target_metadata=Table.metadata)
        is_new = context.get_context().get_current_revision() is None
        context.run_migrations()
        if is_new:
            # In the same transaction: whoever is killed after it leaves a database that knows what it still needs.
            for name in context.config.attributes.get("chores", ()):
                connection.execute(text("INSERT INTO chores (name) VALUES (:name)"), {"name": name})


_run(context.config.attributes["engine"])
