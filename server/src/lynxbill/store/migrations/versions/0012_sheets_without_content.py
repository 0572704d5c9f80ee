"""Sheets whose rows were all emptied have no content, rather than JSON's null: such rows seal no build."""

from alembic import op

revision = "0012"
down_revision = "0011"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.execute("UPDATE sheets SET content = NULL WHERE content = 'null'::jsonb")


def downgrade() -> None:
    """Nothing to take back: both are read as no content."""
