"""When both sides of a swap were first on a screen: what is typed from notes after that is no part of their batch."""

import sqlalchemy as sa
from alembic import op

revision = "0036"
down_revision = "0035"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.add_column("swaps", sa.Column("looked_at", sa.DateTime(timezone=True), nullable=True))


def downgrade() -> None:
    op.drop_column("swaps", "looked_at")
