"""How far a large run file is with being taken over, told by the process that does it to whichever is asked."""

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects import postgresql

revision = "0010"
down_revision = "0009"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.create_table(
        "imports",
        sa.Column("id", sa.Uuid(), nullable=False),
        sa.Column("by", sa.Text(), nullable=False),
        sa.Column("begun_at", sa.DateTime(timezone=True), nullable=False),
        sa.Column("state", sa.Text(), nullable=False),
        sa.Column("stage", sa.Text(), nullable=False),
        sa.Column("done", sa.Integer(), nullable=False),
        sa.Column("total", sa.Integer(), nullable=False),
        sa.Column("machine_id", sa.Uuid(), nullable=True),
        sa.Column("problems", postgresql.JSONB(astext_type=sa.Text()), nullable=False),
        sa.CheckConstraint(
            "state IN ('running', 'done', 'refused', 'stopped', 'failed')", name=op.f("ck_imports_state_known")
        ),
        sa.PrimaryKeyConstraint("id", name=op.f("pk_imports")),
    )


def downgrade() -> None:
    op.drop_table("imports")
