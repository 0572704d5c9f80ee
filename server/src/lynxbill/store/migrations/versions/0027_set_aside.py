"""What something rests on can be set aside, with a reason."""

import sqlalchemy as sa
from alembic import op

revision = "0027"
down_revision = "0026"
branch_labels = None
depends_on = None

TABLES = ("machines", "workloads", "measures", "candidates")


def upgrade() -> None:
    for table in TABLES:
        op.add_column(table, sa.Column("set_aside", sa.Text(), nullable=True))


def downgrade() -> None:
    for table in TABLES:
        op.drop_column(table, "set_aside")
