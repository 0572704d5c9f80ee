"""The frame of the job: candidates, plans in full, the open case, re-checks, templates."""

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects import postgresql

revision = "0002"
down_revision = "0001"
branch_labels = None
depends_on = None

CHECKS = (
    ("builds", "wear_known", "wear IN ('as new', 'worn', 'renewed')"),
    ("measures", "combined_by_known", "combined_by IN ('highest', 'mean')"),
    ("measures", "part_of_another", "part_of <> id"),
    ("planned_measures", "statistic_known", "statistic IN ('lowest', 'mean', 'highest', 'settled', 'momentary')"),
    (
        "plans",
        "change_known",
        "change IN ('processor', 'memory', 'drive', 'thermal paste', 'cooler', 'graphics', 'settings', 'cleaning', 'other')",
    ),
    ("plans", "order_known", "\"order\" IN ('before_then_after', 'alternating', 'abba', 'swap_back')"),
    ("plans", "times_positive", "warm_ups >= 0 AND rest_min >= 0 AND soak_min >= 0"),
    ("swaps", "state_known", "state IN ('planned', 'open', 'closed')"),
    ("swaps", "opening_dated", "state <> 'open' OR opened_at IS NOT NULL"),
    ("workloads", "minutes_positive", "minutes_a_run > 0"),
)

# Swaps made before there were declarations declared whatever differed.
DECLARE = """
UPDATE swaps SET declares = ARRAY(
  SELECT DISTINCT 'part:' || parts.role FROM parts JOIN build_parts ON build_parts.part_id = parts.id
   WHERE build_parts.build_id IN (before_id, after_id)
     AND (SELECT count(*) FROM build_parts AS other
           WHERE other.part_id = parts.id AND other.build_id IN (before_id, after_id)) = 1
  UNION
  SELECT 'setting:' || coalesce(b.key, a.key)
    FROM (SELECT e.* FROM builds, jsonb_each(builds.settings) AS e WHERE builds.id = before_id) AS b
    FULL JOIN (SELECT e.* FROM builds, jsonb_each(builds.settings) AS e WHERE builds.id = after_id) AS a
      ON a.key = b.key
   WHERE a.value IS DISTINCT FROM b.value
)
"""
PLACE = "uq_swaps_machine_id_position"


def upgrade() -> None:
    op.create_table(
        "templates",
        sa.Column("id", sa.Uuid(), nullable=False),
        sa.Column("name", sa.Text(), nullable=False),
        sa.Column("change", sa.Text(), nullable=False),
        sa.Column("content", postgresql.JSONB(astext_type=sa.Text()), nullable=False),
        sa.Column("version", sa.Integer(), server_default=sa.text("1"), nullable=False),
        sa.CheckConstraint(
            "change IN ('processor', 'memory', 'drive', 'thermal paste', 'cooler', 'graphics', 'settings', 'cleaning', 'other')",
            name=op.f("ck_templates_change_known"),
        ),
        sa.PrimaryKeyConstraint("id", name=op.f("pk_templates")),
        sa.UniqueConstraint("name", name=op.f("uq_templates_name")),
    )
    op.create_table(
        "rechecks",
        sa.Column("id", sa.Uuid(), nullable=False),
        sa.Column("machine_id", sa.Uuid(), nullable=False),
        sa.Column("build_id", sa.Uuid(), nullable=False),
        sa.Column("due_on", sa.Date(), nullable=False),
        sa.Column("plan", postgresql.JSONB(astext_type=sa.Text()), nullable=False),
        sa.Column("note", sa.Text(), nullable=False),
        sa.Column("done", sa.Boolean(), nullable=False),
        sa.Column("version", sa.Integer(), server_default=sa.text("1"), nullable=False),
        sa.ForeignKeyConstraint(
            ["machine_id", "build_id"],
            ["builds.machine_id", "builds.id"],
            name=op.f("fk_rechecks_machine_id_build_id"),
        ),
        sa.ForeignKeyConstraint(["machine_id"], ["machines.id"], name=op.f("fk_rechecks_machine_id")),
        sa.PrimaryKeyConstraint("id", name=op.f("pk_rechecks")),
    )
    op.create_table(
        "bench_notes",
        sa.Column("id", sa.Uuid(), nullable=False),
        sa.Column("swap_id", sa.Uuid(), nullable=False),
        sa.Column("at", sa.DateTime(timezone=True), nullable=False),
        sa.Column("text", sa.Text(), nullable=False),
        sa.Column("picture_type", sa.Text(), nullable=True),
        sa.Column("picture_bytes", sa.LargeBinary(), nullable=True),
        sa.Column("version", sa.Integer(), server_default=sa.text("1"), nullable=False),
        sa.CheckConstraint(
            "(picture_bytes IS NULL) = (picture_type IS NULL)", name=op.f("ck_bench_notes_picture_typed")
        ),
        sa.CheckConstraint("length(picture_bytes) <= 10485760", name=op.f("ck_bench_notes_picture_size")),
        sa.ForeignKeyConstraint(["swap_id"], ["swaps.id"], name=op.f("fk_bench_notes_swap_id")),
        sa.PrimaryKeyConstraint("id", name=op.f("pk_bench_notes")),
    )
    op.create_index(op.f("ix_bench_notes_swap_id"), "bench_notes", ["swap_id"], unique=False)
    op.create_table(
        "candidates",
        sa.Column("id", sa.Uuid(), nullable=False),
        sa.Column("machine_id", sa.Uuid(), nullable=False),
        sa.Column("position", sa.Integer(), nullable=False),
        sa.Column("role", sa.Text(), nullable=False),
        sa.Column("label", sa.Text(), nullable=False),
        sa.Column("rated", postgresql.JSONB(astext_type=sa.Text()), nullable=False),
        sa.Column("price", sa.Numeric(), nullable=True),
        sa.Column("basis", sa.Text(), nullable=False),
        sa.Column("prerequisites", sa.Text(), nullable=False),
        sa.Column("expected_gain", sa.Float(precision=53), nullable=True),
        sa.Column("expected_from", sa.Text(), nullable=False),
        sa.Column("fit_said", sa.Text(), nullable=True),
        sa.Column("fit_source", sa.Text(), nullable=False),
        sa.Column("swap_id", sa.Uuid(), nullable=True),
        sa.Column("worked", sa.Text(), nullable=False),
        sa.Column("version", sa.Integer(), server_default=sa.text("1"), nullable=False),
        sa.CheckConstraint("basis IN ('new', 'used', 'drawer')", name=op.f("ck_candidates_basis_known")),
        sa.CheckConstraint(
            "fit_said IN ('fits', 'doubtful', 'does not fit')", name=op.f("ck_candidates_fit_said_known")
        ),
        sa.CheckConstraint(
            "role IN ('processor', 'cooler', 'thermal paste', 'memory', 'drive', 'graphics', 'board', 'power supply', 'adapter', 'other')",
            name=op.f("ck_candidates_role_known"),
        ),
        sa.CheckConstraint("price >= 0", name=op.f("ck_candidates_price_positive")),
        sa.ForeignKeyConstraint(["machine_id"], ["machines.id"], name=op.f("fk_candidates_machine_id")),
        sa.ForeignKeyConstraint(["swap_id"], ["swaps.id"], name=op.f("fk_candidates_swap_id")),
        sa.PrimaryKeyConstraint("id", name=op.f("pk_candidates")),
    )
    op.create_index(op.f("ix_candidates_machine_id"), "candidates", ["machine_id"], unique=False)
    op.create_table(
        "margin_edits",
        sa.Column("id", sa.Uuid(), server_default=sa.text("gen_random_uuid()"), nullable=False),
        sa.Column("swap_id", sa.Uuid(), nullable=False),
        sa.Column("measure_id", sa.Uuid(), nullable=False),
        sa.Column("at", sa.DateTime(timezone=True), nullable=False),
        sa.Column("field", sa.Text(), nullable=False),
        sa.Column("old", sa.Float(precision=53), nullable=True),
        sa.Column("new", sa.Float(precision=53), nullable=True),
        sa.Column("reason", sa.Text(), nullable=False),
        sa.Column("late", sa.Boolean(), nullable=False),
        sa.CheckConstraint("field IN ('matters_from', 'hoped_for')", name=op.f("ck_margin_edits_field_known")),
        sa.CheckConstraint("length(trim(reason)) > 0", name=op.f("ck_margin_edits_reason_given")),
        sa.ForeignKeyConstraint(["measure_id"], ["measures.id"], name=op.f("fk_margin_edits_measure_id")),
        sa.ForeignKeyConstraint(["swap_id"], ["swaps.id"], name=op.f("fk_margin_edits_swap_id")),
        sa.PrimaryKeyConstraint("id", name=op.f("pk_margin_edits")),
    )
    op.create_index(op.f("ix_margin_edits_swap_id"), "margin_edits", ["swap_id"], unique=False)
    op.create_table(
        "recognitions",
        sa.Column("id", sa.Uuid(), nullable=False),
        sa.Column("swap_id", sa.Uuid(), nullable=False),
        sa.Column("position", sa.Integer(), nullable=False),
        sa.Column("what", sa.Text(), nullable=False),
        sa.Column("expected", sa.Text(), nullable=False),
        sa.Column("seen", sa.Text(), nullable=False),
        sa.Column("result", sa.Text(), nullable=True),
        sa.Column("remark", sa.Text(), nullable=False),
        sa.Column("version", sa.Integer(), server_default=sa.text("1"), nullable=False),
        sa.CheckConstraint(
            "result <> 'pass with remark' OR length(trim(remark)) > 0", name=op.f("ck_recognitions_remark_given")
        ),
        sa.CheckConstraint(
            "result IN ('pass', 'pass with remark', 'fail')", name=op.f("ck_recognitions_result_known")
        ),
        sa.CheckConstraint("result IS NULL OR length(trim(seen)) > 0", name=op.f("ck_recognitions_seen_given")),
        sa.ForeignKeyConstraint(["swap_id"], ["swaps.id"], name=op.f("fk_recognitions_swap_id")),
        sa.PrimaryKeyConstraint("id", name=op.f("pk_recognitions")),
    )
    op.create_index(op.f("ix_recognitions_swap_id"), "recognitions", ["swap_id"], unique=False)
    op.create_table(
        "starts",
        sa.Column("id", sa.Uuid(), nullable=False),
        sa.Column("swap_id", sa.Uuid(), nullable=False),
        sa.Column("at", sa.DateTime(timezone=True), nullable=False),
        sa.Column("booted", sa.Boolean(), nullable=False),
        sa.Column("note", sa.Text(), nullable=False),
        sa.Column("rework_min", sa.Float(precision=53), nullable=False),
        sa.Column("version", sa.Integer(), server_default=sa.text("1"), nullable=False),
        sa.CheckConstraint("rework_min >= 0", name=op.f("ck_starts_rework_positive")),
        sa.ForeignKeyConstraint(["swap_id"], ["swaps.id"], name=op.f("fk_starts_swap_id")),
        sa.PrimaryKeyConstraint("id", name=op.f("pk_starts")),
    )
    op.create_index(op.f("ix_starts_swap_id"), "starts", ["swap_id"], unique=False)
    op.create_table(
        "steps",
        sa.Column("id", sa.Uuid(), nullable=False),
        sa.Column("swap_id", sa.Uuid(), nullable=False),
        sa.Column("position", sa.Integer(), nullable=False),
        sa.Column("stage", sa.Text(), nullable=False),
        sa.Column("text", sa.Text(), nullable=False),
        sa.Column("done_at", sa.DateTime(timezone=True), nullable=True),
        sa.Column("version", sa.Integer(), server_default=sa.text("1"), nullable=False),
        sa.CheckConstraint(
            "stage IN ('before opening', 'case open', 'first start')", name=op.f("ck_steps_stage_known")
        ),
        sa.CheckConstraint("length(trim(text)) > 0", name=op.f("ck_steps_text_given")),
        sa.ForeignKeyConstraint(["swap_id"], ["swaps.id"], name=op.f("fk_steps_swap_id")),
        sa.PrimaryKeyConstraint("id", name=op.f("pk_steps")),
    )
    op.create_index(op.f("ix_steps_swap_id"), "steps", ["swap_id"], unique=False)
    op.add_column("builds", sa.Column("wear", sa.Text(), nullable=True))
    op.add_column("machines", sa.Column("revision", sa.Integer(), server_default=sa.text("0"), nullable=False))
    op.add_column("machines", sa.Column("settles", sa.Text(), server_default="", nullable=False))
    op.add_column("machines", sa.Column("asked_by", sa.Text(), server_default="", nullable=False))
    op.add_column("machines", sa.Column("use", sa.Text(), server_default="", nullable=False))
    op.add_column(
        "machines",
        sa.Column("limits", postgresql.JSONB(astext_type=sa.Text()), server_default=sa.text("'{}'"), nullable=False),
    )
    op.add_column("measures", sa.Column("part_of", sa.Uuid(), nullable=True))
    op.add_column("measures", sa.Column("combined_by", sa.Text(), nullable=True))
    op.create_foreign_key(op.f("fk_measures_part_of"), "measures", "measures", ["part_of"], ["id"])
    op.add_column("planned_measures", sa.Column("statistic", sa.Text(), nullable=True))
    op.add_column("plans", sa.Column("change", sa.Text(), nullable=True))
    op.add_column("plans", sa.Column("order", sa.Text(), server_default="before_then_after", nullable=False))
    op.add_column(
        "plans",
        sa.Column(
            "conditions", postgresql.JSONB(astext_type=sa.Text()), server_default=sa.text("'{}'"), nullable=False
        ),
    )
    op.add_column("plans", sa.Column("warm_ups", sa.Integer(), server_default=sa.text("0"), nullable=False))
    op.add_column("plans", sa.Column("rest_min", sa.Float(precision=53), server_default=sa.text("0"), nullable=False))
    op.add_column("plans", sa.Column("soak_min", sa.Float(precision=53), server_default=sa.text("0"), nullable=False))
    op.add_column("swaps", sa.Column("state", sa.Text(), server_default="closed", nullable=False))
    op.add_column(
        "swaps", sa.Column("declares", postgresql.ARRAY(sa.Text()), server_default=sa.text("'{}'"), nullable=False)
    )
    op.add_column("swaps", sa.Column("opened_at", sa.DateTime(timezone=True), nullable=True))
    op.add_column("swaps", sa.Column("closed_at", sa.DateTime(timezone=True), nullable=True))
    op.add_column("swaps", sa.Column("gate_reason", sa.Text(), server_default="", nullable=False))
    op.add_column(
        "swaps",
        sa.Column("gate_missing", postgresql.ARRAY(sa.Text()), server_default=sa.text("'{}'"), nullable=False),
    )
    op.add_column(
        "workloads", sa.Column("loads", postgresql.ARRAY(sa.Text()), server_default=sa.text("'{}'"), nullable=False)
    )
    op.add_column("workloads", sa.Column("target", sa.Text(), nullable=True))
    op.add_column("workloads", sa.Column("card", sa.Text(), server_default="", nullable=False))
    op.add_column("workloads", sa.Column("minutes_a_run", sa.Float(precision=53), nullable=True))
    op.add_column("workloads", sa.Column("version", sa.Integer(), server_default=sa.text("1"), nullable=False))
    for table, name, rule in CHECKS:
        op.create_check_constraint(op.f(f"ck_{table}_{name}"), table, rule)
    op.drop_constraint(op.f(PLACE), "swaps")
    op.create_unique_constraint(
        op.f(PLACE), "swaps", ["machine_id", "position"], deferrable=True, initially="DEFERRED"
    )
    op.execute(DECLARE)


def downgrade() -> None:
    op.drop_constraint(op.f(PLACE), "swaps")
    op.create_unique_constraint(op.f(PLACE), "swaps", ["machine_id", "position"])
    for table, name, _ in CHECKS:
        op.drop_constraint(op.f(f"ck_{table}_{name}"), table)
    op.drop_column("workloads", "version")
    op.drop_column("workloads", "minutes_a_run")
    op.drop_column("workloads", "card")
    op.drop_column("workloads", "target")
    op.drop_column("workloads", "loads")
    op.drop_column("swaps", "gate_missing")
    op.drop_column("swaps", "gate_reason")
    op.drop_column("swaps", "closed_at")
    op.drop_column("swaps", "opened_at")
    op.drop_column("swaps", "declares")
    op.drop_column("swaps", "state")
    op.drop_column("plans", "soak_min")
    op.drop_column("plans", "rest_min")
    op.drop_column("plans", "warm_ups")
    op.drop_column("plans", "conditions")
    op.drop_column("plans", "order")
    op.drop_column("plans", "change")
    op.drop_column("planned_measures", "statistic")
    op.drop_constraint(op.f("fk_measures_part_of"), "measures", type_="foreignkey")
    op.drop_column("measures", "combined_by")
    op.drop_column("measures", "part_of")
    op.drop_column("machines", "revision")
    op.drop_column("machines", "limits")
    op.drop_column("machines", "use")
    op.drop_column("machines", "asked_by")
    op.drop_column("machines", "settles")
    op.drop_column("builds", "wear")
    op.drop_index(op.f("ix_steps_swap_id"), table_name="steps")
    op.drop_table("steps")
    op.drop_index(op.f("ix_starts_swap_id"), table_name="starts")
    op.drop_table("starts")
    op.drop_index(op.f("ix_recognitions_swap_id"), table_name="recognitions")
    op.drop_table("recognitions")
    op.drop_index(op.f("ix_margin_edits_swap_id"), table_name="margin_edits")
    op.drop_table("margin_edits")
    op.drop_index(op.f("ix_candidates_machine_id"), table_name="candidates")
    op.drop_table("candidates")
    op.drop_index(op.f("ix_bench_notes_swap_id"), table_name="bench_notes")
    op.drop_table("bench_notes")
    op.drop_table("rechecks")
    op.drop_table("templates")
