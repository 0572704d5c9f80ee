"""What is noted of a run beside its readings: conditions of its own, and a note."""

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects import postgresql

revision = "0017"
down_revision = "0016"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.add_column("runs", sa.Column("conditions", postgresql.JSONB(), server_default=sa.text("'{}'"), nullable=False))
    op.add_column("runs", sa.Column("note", sa.Text(), server_default="", nullable=False))


def downgrade() -> None:
    op.drop_column("runs", "note")
    op.drop_column("runs", "conditions")
