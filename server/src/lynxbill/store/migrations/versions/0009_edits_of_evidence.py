"""Who changed what of evidence after it had been written, and when."""

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects import postgresql

revision = "0009"
down_revision = "0008"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.create_table(
        "edits",
        sa.Column("id", sa.BigInteger(), sa.Identity(), nullable=False),
        sa.Column("machine_id", sa.Uuid(), nullable=False),
        sa.Column("sitting_id", sa.Uuid(), nullable=True),
        sa.Column("run_id", sa.Uuid(), nullable=True),
        sa.Column("measure_id", sa.Uuid(), nullable=True),
        sa.Column("member", sa.Text(), nullable=False),
        sa.Column("old", postgresql.JSONB(astext_type=sa.Text()), nullable=False),
        sa.Column("new", postgresql.JSONB(astext_type=sa.Text()), nullable=False),
        sa.Column("by", sa.Text(), nullable=False),
        sa.Column("at", sa.DateTime(timezone=True), nullable=False),
        sa.Column("reason", sa.Text(), nullable=False),
        sa.ForeignKeyConstraint(["machine_id"], ["machines.id"], name=op.f("fk_edits_machine_id")),
        sa.PrimaryKeyConstraint("id", name=op.f("pk_edits")),
    )
    op.create_index("ix_edits_machine_id_sitting_id", "edits", ["machine_id", "sitting_id"])


def downgrade() -> None:
    op.drop_table("edits")
