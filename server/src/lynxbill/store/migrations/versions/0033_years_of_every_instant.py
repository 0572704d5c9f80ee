"""Instants that lie outside of 1970 to 2199 once they are brought to UTC are brought to its ends; each is told."""

import logging

import sqlalchemy as sa
from alembic import op

revision = "0033"
down_revision = "0032"
branch_labels = None
depends_on = None

FIRST, LAST = "1970-01-01T00:00:00Z", "2199-12-31T23:59:59Z"
COLUMNS = """
SELECT columns.table_name, columns.column_name FROM information_schema.columns
JOIN information_schema.tables USING (table_schema, table_name)
WHERE table_schema = current_schema() AND table_type = 'BASE TABLE' AND data_type = 'timestamp with time zone'
ORDER BY 1, 2
"""


def upgrade() -> None:
    database = op.get_bind()
    for table, column in database.execute(sa.text(COLUMNS)).all():
        wrong = f"{column} NOT BETWEEN '{FIRST}' AND '{LAST}'"
        # As text: the driver can't read years that a calendar does not have.
        for (was,) in database.execute(sa.text(f"SELECT {column}::text FROM {table} WHERE {wrong}")).all():
            logging.getLogger(__name__).warning("%s.%s: %s is brought into 1970 to 2199", table, column, was)
        op.execute(f"UPDATE {table} SET {column} = greatest('{FIRST}', least('{LAST}', {column})) WHERE {wrong}")


def downgrade() -> None:
    """What was brought into years that can be read stays there."""
