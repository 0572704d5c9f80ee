"""Since when a candidate is on record with model and price, and what the agent read of a build's parts."""

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects import postgresql

revision = "0032"
down_revision = "0031"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.add_column("candidates", sa.Column("recorded_at", sa.DateTime(timezone=True), nullable=True))
    op.add_column("builds", sa.Column("read", postgresql.JSONB(), nullable=False, server_default=sa.text("'{}'")))


def downgrade() -> None:
    op.drop_column("builds", "read")
    op.drop_column("candidates", "recorded_at")
