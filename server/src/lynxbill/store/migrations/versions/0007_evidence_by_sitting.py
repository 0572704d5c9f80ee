"""Runs and readings carry their machine and are found by sitting; sheets keep what other questions need of them."""

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects import postgresql

revision = "0007"
down_revision = "0006"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.add_column("machines", sa.Column("evidence", sa.BigInteger(), server_default=sa.text("0"), nullable=False))
    op.add_column("runs", sa.Column("machine_id", sa.Uuid(), nullable=True))
    op.execute(
        "UPDATE runs SET machine_id = builds.machine_id FROM sittings, builds "
        "WHERE sittings.id = runs.sitting_id AND builds.id = sittings.build_id"
    )
    op.alter_column("runs", "machine_id", nullable=False)
    op.create_foreign_key(op.f("fk_runs_machine_id"), "runs", "machines", ["machine_id"], ["id"])
    op.create_index("ix_runs_machine_id_sitting_id", "runs", ["machine_id", "sitting_id"])
    op.add_column("readings", sa.Column("machine_id", sa.Uuid(), nullable=True))
    op.add_column("readings", sa.Column("sitting_id", sa.Uuid(), nullable=True))
    op.execute(
        "UPDATE readings SET machine_id = runs.machine_id, sitting_id = runs.sitting_id "
        "FROM runs WHERE runs.id = readings.run_id"
    )
    op.alter_column("readings", "machine_id", nullable=False)
    op.alter_column("readings", "sitting_id", nullable=False)
    op.create_index("ix_readings_machine_id_sitting_id", "readings", ["machine_id", "sitting_id"])
    op.create_index("ix_readings_measure_id", "readings", ["measure_id"])
    op.create_table(
        "sheets",
        sa.Column("sitting_id", sa.Uuid(), nullable=False),
        sa.Column("workload_id", sa.Uuid(), nullable=False),
        sa.Column("machine_id", sa.Uuid(), nullable=False),
        sa.Column("shape", sa.Integer(), nullable=False),
        sa.Column("stamp", sa.BigInteger(), nullable=False),
        sa.Column("content", postgresql.JSONB(astext_type=sa.Text()), nullable=True),
        sa.ForeignKeyConstraint(["sitting_id"], ["sittings.id"], name=op.f("fk_sheets_sitting_id")),
        sa.ForeignKeyConstraint(["workload_id"], ["workloads.id"], name=op.f("fk_sheets_workload_id")),
        sa.ForeignKeyConstraint(["machine_id"], ["machines.id"], name=op.f("fk_sheets_machine_id")),
        sa.PrimaryKeyConstraint("sitting_id", "workload_id", name=op.f("pk_sheets")),
    )
    op.create_index("ix_sheets_machine_id", "sheets", ["machine_id"])


def downgrade() -> None:
    op.drop_table("sheets")
    op.drop_index("ix_readings_measure_id", table_name="readings")
    op.drop_index("ix_readings_machine_id_sitting_id", table_name="readings")
    op.drop_column("readings", "sitting_id")
    op.drop_column("readings", "machine_id")
    op.drop_index("ix_runs_machine_id_sitting_id", table_name="runs")
    op.drop_column("runs", "machine_id")
    op.drop_column("machines", "evidence")
