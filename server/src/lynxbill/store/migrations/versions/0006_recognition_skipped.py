"""Why a case was closed although something that went in had not been looked at."""

import sqlalchemy as sa
from alembic import op

revision = "0006"
down_revision = "0005"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.add_column("swaps", sa.Column("recognition_skipped", sa.Text(), server_default=sa.text("''"), nullable=False))


def downgrade() -> None:
    op.drop_column("swaps", "recognition_skipped")
