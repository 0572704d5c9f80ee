"""Traces of runs, and codes that pair an agent with a machine."""

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects import postgresql

revision = "0028"
down_revision = "0027"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.create_table(
        "pairings",
        sa.Column("code", sa.Text(), nullable=False),
        sa.Column("machine_id", sa.Uuid(), nullable=False),
        sa.Column("until", sa.DateTime(timezone=True), nullable=False),
        sa.ForeignKeyConstraint(["machine_id"], ["machines.id"], name=op.f("fk_pairings_machine_id_machines")),
        sa.PrimaryKeyConstraint("code", name=op.f("pk_pairings")),
    )
    op.create_index(op.f("ix_pairings_machine_id"), "pairings", ["machine_id"])
    op.create_table(
        "traces",
        sa.Column("id", sa.Uuid(), nullable=False),
        sa.Column("machine_id", sa.Uuid(), nullable=False),
        sa.Column("sitting_id", sa.Uuid(), nullable=False),
        sa.Column("workload_id", sa.Uuid(), nullable=False),
        sa.Column("position", sa.Integer(), nullable=False),
        sa.Column("warm_up", sa.Boolean(), nullable=False),
        sa.Column("started_at", sa.DateTime(timezone=True), nullable=False),
        sa.Column("heard_at", sa.DateTime(timezone=True), nullable=False),
        sa.Column("ended", sa.Boolean(), server_default=sa.text("false"), nullable=False),
        sa.Column("marks", postgresql.JSONB(astext_type=sa.Text()), nullable=False),
        sa.Column("missing", postgresql.JSONB(astext_type=sa.Text()), nullable=False),
        sa.ForeignKeyConstraint(["machine_id"], ["machines.id"], name=op.f("fk_traces_machine_id_machines")),
        sa.ForeignKeyConstraint(["sitting_id"], ["sittings.id"], name=op.f("fk_traces_sitting_id_sittings")),
        sa.ForeignKeyConstraint(["workload_id"], ["workloads.id"], name=op.f("fk_traces_workload_id_workloads")),
        sa.PrimaryKeyConstraint("id", name=op.f("pk_traces")),
    )
    op.create_index("ix_traces_machine_id_ended", "traces", ["machine_id", "ended"])
    op.create_index(op.f("ix_traces_sitting_id"), "traces", ["sitting_id"])
    op.create_index(op.f("ix_traces_workload_id"), "traces", ["workload_id"])
    op.create_table(
        "trace_channels",
        sa.Column("trace_id", sa.Uuid(), nullable=False),
        sa.Column("number", sa.Integer(), nullable=False),
        sa.Column("role", sa.Text(), nullable=False),
        sa.Column("of", sa.Text(), nullable=False),
        sa.Column("unit", sa.Text(), nullable=False),
        sa.Column("sensor", sa.Text(), nullable=False),
        sa.Column("stands_in", sa.Boolean(), nullable=False),
        sa.Column("count", sa.Integer(), nullable=False),
        sa.Column("low", sa.Float(), nullable=True),
        sa.Column("high", sa.Float(), nullable=True),
        sa.ForeignKeyConstraint(["trace_id"], ["traces.id"], name=op.f("fk_trace_channels_trace_id_traces")),
        sa.PrimaryKeyConstraint("trace_id", "number", name=op.f("pk_trace_channels")),
    )
    op.create_table(
        "trace_chunks",
        sa.Column("trace_id", sa.Uuid(), nullable=False),
        sa.Column("channel", sa.Integer(), nullable=False),
        sa.Column("first", sa.Integer(), nullable=False),
        sa.Column("count", sa.Integer(), nullable=False),
        sa.Column("from_s", sa.Float(), nullable=False),
        sa.Column("to_s", sa.Float(), nullable=False),
        sa.Column("at", sa.LargeBinary(), nullable=False),
        sa.Column("held", sa.LargeBinary(), nullable=False),
        sa.ForeignKeyConstraint(
            ["trace_id", "channel"],
            ["trace_channels.trace_id", "trace_channels.number"],
            name=op.f("fk_trace_chunks_trace_id_trace_channels"),
        ),
        sa.PrimaryKeyConstraint("trace_id", "channel", "first", name=op.f("pk_trace_chunks")),
    )


def downgrade() -> None:
    for table in ("trace_chunks", "trace_channels", "traces", "pairings"):
        op.drop_table(table)
