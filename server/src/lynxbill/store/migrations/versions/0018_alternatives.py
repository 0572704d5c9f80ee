"""What may be weighed beside a part, and what of a candidate is seen to."""

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects import postgresql

revision = "0018"
down_revision = "0017"
branch_labels = None
depends_on = None

KINDS = "'part', 'nothing', 'cleaning', 'service', 'another machine'"


def upgrade() -> None:
    op.add_column("candidates", sa.Column("alternative", sa.Text(), server_default="part", nullable=False))
    op.create_check_constraint(op.f("ck_candidates_alternative_known"), "candidates", f"alternative IN ({KINDS})")
    ticked: sa.Column[list[str]] = sa.Column(
        "ticked", postgresql.ARRAY(sa.Text()), server_default=sa.text("'{}'"), nullable=False
    )
    op.add_column("candidates", ticked)


def downgrade() -> None:
    op.drop_column("candidates", "ticked")
    op.drop_constraint(op.f("ck_candidates_alternative_known"), "candidates")
    op.drop_column("candidates", "alternative")
