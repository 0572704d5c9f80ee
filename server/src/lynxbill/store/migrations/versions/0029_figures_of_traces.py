"""A measure can be read off a trace by a rule; traces come from sensor logs and by hand, pictures before figures."""

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects.postgresql import JSONB

revision = "0029"
down_revision = "0028"
branch_labels = None
depends_on = None

FIGURES = "'settled', 'last minute', 'highest', 'within 1 K', 'held back'"
ROLES = "'temperature', 'clock', 'power', 'fan', 'load', 'held back', 'noise', 'frame time'"
PLACE = (("workload_id", sa.Uuid), ("position", sa.Integer), ("warm_up", sa.Boolean))
SOURCES = "'agent', 'typed', 'log'"


def upgrade() -> None:
    op.add_column("measures", sa.Column("trace_figure", sa.Text(), nullable=True))
    op.add_column("measures", sa.Column("trace_of", sa.Text(), nullable=True))
    op.create_check_constraint(op.f("ck_measures_trace_figure_known"), "measures", f"trace_figure IN ({FIGURES})")
    op.add_column("traces", sa.Column("source", sa.Text(), server_default="agent", nullable=False))
    op.create_check_constraint(op.f("ck_traces_source_known"), "traces", f"source IN ({SOURCES})")
    op.drop_constraint(op.f("fk_run_pictures_run_id"), "run_pictures")
    for name, kind in PLACE:
        op.add_column("run_pictures", sa.Column(name, kind(), nullable=True))
    op.execute(
        "UPDATE run_pictures SET workload_id = runs.workload_id, position = runs.position, warm_up = runs.warm_up "
        "FROM runs WHERE runs.id = run_pictures.run_id"
    )
    for name, _ in PLACE:
        op.alter_column("run_pictures", name, nullable=False)
    op.create_foreign_key(
        op.f("fk_run_pictures_workload_id_workloads"), "run_pictures", "workloads", ["workload_id"], ["id"]
    )
    op.create_index(op.f("ix_run_pictures_workload_id"), "run_pictures", ["workload_id"])
    op.add_column("traces", sa.Column("seen", JSONB(), server_default="{}", nullable=False))
    op.create_table(
        "shown",
        sa.Column("machine_id", sa.Uuid(), nullable=False),
        sa.Column("build_id", sa.Uuid(), nullable=False),
        sa.Column("at", sa.DateTime(timezone=True), nullable=False),
        sa.Column("parts", JSONB(), nullable=False),
        sa.Column("firmware", sa.Text(), nullable=True),
        sa.Column("system", sa.Text(), nullable=True),
        sa.ForeignKeyConstraint(["machine_id"], ["machines.id"], name=op.f("fk_shown_machine_id_machines")),
        sa.ForeignKeyConstraint(["build_id"], ["builds.id"], name=op.f("fk_shown_build_id_builds")),
        sa.PrimaryKeyConstraint("machine_id", name=op.f("pk_shown")),
    )
    op.create_index(op.f("ix_shown_build_id"), "shown", ["build_id"])
    # Samples hardly shrink, and long traces would wait for it.
    for column in ("at", "held"):
        op.execute(f"ALTER TABLE trace_chunks ALTER COLUMN {column} SET STORAGE EXTERNAL")
    op.create_table(
        "log_headings",
        sa.Column("heading", sa.Text(), nullable=False),
        sa.Column("role", sa.Text(), nullable=True),
        sa.Column("of", sa.Text(), nullable=False),
        sa.Column("unit", sa.Text(), nullable=False),
        sa.CheckConstraint(f"role IN ({ROLES})", name=op.f("ck_log_headings_role_known")),
        sa.PrimaryKeyConstraint("heading", name=op.f("pk_log_headings")),
    )


def downgrade() -> None:
    op.drop_table("log_headings")
    op.drop_table("shown")
    for column in ("at", "held"):
        op.execute(f"ALTER TABLE trace_chunks ALTER COLUMN {column} SET STORAGE EXTENDED")
    op.drop_constraint(op.f("ck_traces_source_known"), "traces")
    op.drop_column("traces", "source")
    op.drop_column("traces", "seen")
    op.execute("DELETE FROM run_pictures WHERE run_id NOT IN (SELECT id FROM runs)")
    for name, _ in PLACE:
        op.drop_column("run_pictures", name)
    op.create_foreign_key(op.f("fk_run_pictures_run_id"), "run_pictures", "runs", ["run_id"], ["id"])
    op.drop_constraint(op.f("ck_measures_trace_figure_known"), "measures")
    op.drop_column("measures", "trace_of")
    op.drop_column("measures", "trace_figure")
