"""More figures off a trace: at a minute, equilibrium, resistance, recovery, last less first; of several sensors."""

import sqlalchemy as sa
from alembic import op

revision = "0030"
down_revision = "0029"
branch_labels = None
depends_on = None

BEFORE = "'settled', 'last minute', 'highest', 'within 1 K', 'held back'"
FIGURES = (
    "'settled', 'last minute', 'at minute', 'highest', 'equilibrium', 'within 1 K', 'recovery', 'resistance', "
    "'last less first', 'held back'"
)


def upgrade() -> None:
    op.add_column("measures", sa.Column("trace_by", sa.Text(), nullable=True))
    op.add_column("measures", sa.Column("trace_minute", sa.Double(), nullable=True))
    op.create_check_constraint(op.f("ck_measures_trace_by_known"), "measures", "trace_by IN ('hottest', 'mean')")
    op.create_check_constraint(op.f("ck_measures_trace_minute_positive"), "measures", "trace_minute > 0")
    op.drop_constraint(op.f("ck_measures_trace_figure_known"), "measures")
    op.create_check_constraint(op.f("ck_measures_trace_figure_known"), "measures", f"trace_figure IN ({FIGURES})")


def downgrade() -> None:
    op.drop_constraint(op.f("ck_measures_trace_figure_known"), "measures")
    op.execute(f"UPDATE measures SET trace_figure = NULL WHERE trace_figure NOT IN ({BEFORE})")
    op.create_check_constraint(op.f("ck_measures_trace_figure_known"), "measures", f"trace_figure IN ({BEFORE})")
    op.drop_constraint(op.f("ck_measures_trace_minute_positive"), "measures")
    op.drop_constraint(op.f("ck_measures_trace_by_known"), "measures")
    op.drop_column("measures", "trace_minute")
    op.drop_column("measures", "trace_by")
