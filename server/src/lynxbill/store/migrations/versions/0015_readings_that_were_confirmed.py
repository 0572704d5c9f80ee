"""A reading that was asked about keeps the answer: it is typed right."""

import sqlalchemy as sa
from alembic import op

revision = "0015"
down_revision = "0014"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.add_column("readings", sa.Column("confirmed", sa.Boolean(), server_default=sa.false(), nullable=False))
    op.alter_column("readings", "confirmed", server_default=None)


def downgrade() -> None:
    op.drop_column("readings", "confirmed")
