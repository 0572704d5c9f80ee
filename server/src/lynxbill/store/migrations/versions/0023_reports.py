"""Reports that were handed out, as they were."""

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects import postgresql

revision = "0023"
down_revision = "0022"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.create_table(
        "reports",
        sa.Column("id", sa.Uuid(), nullable=False),
        sa.Column("machine_id", sa.Uuid(), nullable=False),
        sa.Column("number", sa.Integer(), nullable=False),
        sa.Column("made_at", sa.DateTime(timezone=True), nullable=False),
        sa.Column("by", sa.Text(), nullable=False),
        sa.Column("before_id", sa.Uuid(), nullable=False),
        sa.Column("after_id", sa.Uuid(), nullable=False),
        sa.Column("form", sa.Text(), nullable=False),
        sa.Column("digest", sa.Text(), nullable=False),
        sa.Column("since", postgresql.ARRAY(sa.Text()), nullable=False),
        sa.Column("shape", sa.Integer(), nullable=False),
        sa.Column("content", postgresql.JSONB(), nullable=False),
        sa.CheckConstraint("number > 0", name=op.f("ck_reports_number_positive")),
        sa.ForeignKeyConstraint(["machine_id"], ["machines.id"], name=op.f("fk_reports_machine_id_machines")),
        sa.PrimaryKeyConstraint("id", name=op.f("pk_reports")),
        sa.UniqueConstraint("machine_id", "number", name=op.f("uq_reports_machine_id_number")),
    )


def downgrade() -> None:
    op.drop_table("reports")
