"""A machine keeps the salt of its serial numbers: a system that is installed afresh makes no other part of a drive."""

import sqlalchemy as sa
from alembic import op

revision = "0035"
down_revision = "0034"
branch_labels = None
depends_on = None


def upgrade() -> None:
    salt: sa.Column[str] = sa.Column(
        "serial_salt", sa.Text(), nullable=False, server_default=sa.text("gen_random_uuid()::text")
    )
    op.add_column("machines", salt)


def downgrade() -> None:
    op.drop_column("machines", "serial_salt")
