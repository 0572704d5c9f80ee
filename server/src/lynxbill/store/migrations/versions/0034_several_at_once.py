"""A plan may be made for several changes at once; until now it was told apart from none of the other parts."""

from alembic import op

revision = "0034"
down_revision = "0033"
branch_labels = None
depends_on = None

BEFORE = "'processor', 'memory', 'drive', 'thermal paste', 'cooler', 'graphics', 'settings', 'cleaning', 'other'"
AFTER = BEFORE.replace("'other'", "'several', 'other'")


def upgrade() -> None:
    _allow(AFTER)


def downgrade() -> None:
    for table in ("plans", "templates"):
        op.execute(f"UPDATE {table} SET change = 'other' WHERE change = 'several'")
    _allow(BEFORE)


def _allow(words: str) -> None:
    for table in ("plans", "templates"):
        op.drop_constraint(op.f(f"ck_{table}_change_known"), table)
        op.create_check_constraint(op.f(f"ck_{table}_change_known"), table, f"change IN ({words})")
