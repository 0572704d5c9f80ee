"""What a measure is rated as, what held a run back, what may explain a result, and which verdicts were shown."""

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects import postgresql

revision = "0003"
down_revision = "0002"
branch_labels = None
depends_on = None


# A verdict that was shown for a swap was shown for each of its planned measures.
BY_MEASURE = """
UPDATE swaps SET shown = coalesce((
    SELECT jsonb_object_agg(planned_measures.measure_id::text, to_jsonb(swaps.verdict_shown_for))
    FROM plans JOIN planned_measures ON planned_measures.plan_id = plans.id WHERE plans.swap_id = swaps.id
), '{}') WHERE verdict_shown_for IS NOT NULL
"""
FOR_ALL = """
UPDATE swaps SET shown = (
    SELECT array_agg(DISTINCT sitting::uuid)
    FROM jsonb_each(swaps.verdict_shown_for) AS measures, jsonb_array_elements_text(measures.value) AS sitting
)
"""


def upgrade() -> None:
    op.add_column(
        "swaps",
        sa.Column("shown", postgresql.JSONB(astext_type=sa.Text()), server_default=sa.text("'{}'"), nullable=False),
    )
    op.execute(BY_MEASURE)
    op.drop_column("swaps", "verdict_shown_for")
    op.alter_column("swaps", "shown", new_column_name="verdict_shown_for")
    op.add_column("measures", sa.Column("rated_as", sa.Text(), nullable=True))
    op.add_column("runs", sa.Column("held_back", sa.Text(), nullable=True))
    op.create_check_constraint(
        op.f("ck_runs_held_back_known"), "runs", "held_back IN ('heat', 'power', 'current', 'other')"
    )
    op.create_table(
        "explanations",
        sa.Column("id", sa.Uuid(), nullable=False),
        sa.Column("swap_id", sa.Uuid(), nullable=False),
        sa.Column("position", sa.Integer(), nullable=False),
        sa.Column("text", sa.Text(), nullable=False),
        sa.Column("state", sa.Text(), nullable=False),
        sa.Column("test", sa.Text(), nullable=False),
        sa.Column("evidence", sa.Text(), nullable=False),
        sa.Column("version", sa.Integer(), server_default=sa.text("1"), nullable=False),
        sa.CheckConstraint(
            "state IN ('untested', 'supported', 'ruled out')", name=op.f("ck_explanations_state_known")
        ),
        sa.CheckConstraint(
            "state = 'untested' OR length(trim(evidence)) > 0", name=op.f("ck_explanations_evidence_given")
        ),
        sa.ForeignKeyConstraint(["swap_id"], ["swaps.id"], name=op.f("fk_explanations_swap_id")),
        sa.PrimaryKeyConstraint("id", name=op.f("pk_explanations")),
    )
    op.create_index(op.f("ix_explanations_swap_id"), "explanations", ["swap_id"])


def downgrade() -> None:
    op.drop_index(op.f("ix_explanations_swap_id"), table_name="explanations")
    op.drop_table("explanations")
    op.drop_constraint(op.f("ck_runs_held_back_known"), "runs")
    op.drop_column("runs", "held_back")
    op.drop_column("measures", "rated_as")
    op.add_column("swaps", sa.Column("shown", postgresql.ARRAY(sa.Uuid()), nullable=True))
    op.execute(FOR_ALL)
    op.drop_column("swaps", "verdict_shown_for")
    op.alter_column("swaps", "shown", new_column_name="verdict_shown_for")
