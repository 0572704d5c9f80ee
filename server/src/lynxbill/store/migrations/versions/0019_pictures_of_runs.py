"""A picture of what a run's figure was read off."""

import sqlalchemy as sa
from alembic import op

revision = "0019"
down_revision = "0018"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.create_table(
        "run_pictures",
        sa.Column("run_id", sa.Uuid(), nullable=False),
        sa.Column("machine_id", sa.Uuid(), nullable=False),
        sa.Column("sitting_id", sa.Uuid(), nullable=False),
        sa.Column("picture_type", sa.Text(), nullable=False),
        sa.Column("picture_bytes", sa.LargeBinary(), nullable=False),
        sa.Column("at", sa.DateTime(timezone=True), nullable=False),
        sa.CheckConstraint("length(picture_bytes) <= 10485760", name=op.f("ck_run_pictures_picture_size")),
        sa.ForeignKeyConstraint(["machine_id"], ["machines.id"], name=op.f("fk_run_pictures_machine_id")),
        sa.ForeignKeyConstraint(["run_id"], ["runs.id"], name=op.f("fk_run_pictures_run_id")),
        sa.ForeignKeyConstraint(["sitting_id"], ["sittings.id"], name=op.f("fk_run_pictures_sitting_id")),
        sa.PrimaryKeyConstraint("run_id", name=op.f("pk_run_pictures")),
    )
    op.create_index("ix_run_pictures_machine_id_sitting_id", "run_pictures", ["machine_id", "sitting_id"])


def downgrade() -> None:
    op.drop_table("run_pictures")
