"""What a start has to finish."""

import sqlalchemy as sa
from alembic import op

revision = "0025"
down_revision = "0024"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.create_table(
        "chores",
        sa.Column("name", sa.Text(), nullable=False),
        sa.PrimaryKeyConstraint("name", name=op.f("pk_chores")),
    )


def downgrade() -> None:
    op.drop_table("chores")
