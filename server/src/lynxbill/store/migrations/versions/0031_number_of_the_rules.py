"""The number of the rules that each verdict in the ledger was reached by: those given so far are of the first."""

import sqlalchemy as sa
from alembic import op

revision = "0031"
down_revision = "0030"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.add_column("showings", sa.Column("rules", sa.Integer(), nullable=True))
    op.execute("UPDATE showings SET rules = 1")


def downgrade() -> None:
    op.drop_column("showings", "rules")
