"""First tables"""

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects import postgresql

revision = "0001"
down_revision = None
branch_labels = None
depends_on = None


# A build is sealed once it has runs: its parts and settings, and the parts themselves, then stand as measured.
SEAL = """
CREATE FUNCTION build_is_sealed(build uuid) RETURNS boolean LANGUAGE sql STABLE AS $$
  SELECT EXISTS (SELECT 1 FROM runs JOIN sittings ON sittings.id = runs.sitting_id WHERE sittings.build_id = build)
$$;
CREATE FUNCTION refuse_sealed_build() RETURNS trigger LANGUAGE plpgsql AS $$
BEGIN
  IF OLD.settings IS DISTINCT FROM NEW.settings AND build_is_sealed(OLD.id) THEN
    RAISE EXCEPTION 'build % is sealed', OLD.id USING ERRCODE = 'LX001';
  END IF;
  RETURN NEW;
END $$;
CREATE TRIGGER seal BEFORE UPDATE ON builds FOR EACH ROW EXECUTE FUNCTION refuse_sealed_build();
CREATE FUNCTION refuse_sealed_fitting() RETURNS trigger LANGUAGE plpgsql AS $$
BEGIN
  IF build_is_sealed(CASE WHEN TG_OP = 'DELETE' THEN OLD.build_id ELSE NEW.build_id END) THEN
    RAISE EXCEPTION 'the build is sealed' USING ERRCODE = 'LX001';
  END IF;
  RETURN CASE WHEN TG_OP = 'DELETE' THEN OLD ELSE NEW END;
END $$;
CREATE TRIGGER seal BEFORE INSERT OR UPDATE OR DELETE ON build_parts
  FOR EACH ROW EXECUTE FUNCTION refuse_sealed_fitting();
CREATE FUNCTION refuse_sealed_part() RETURNS trigger LANGUAGE plpgsql AS $$
BEGIN
  IF EXISTS (SELECT 1 FROM build_parts WHERE part_id = OLD.id AND build_is_sealed(build_id)) THEN
    RAISE EXCEPTION 'part % belongs to a sealed build', OLD.id USING ERRCODE = 'LX001';
  END IF;
  RETURN NEW;
END $$;
CREATE TRIGGER seal BEFORE UPDATE ON parts FOR EACH ROW EXECUTE FUNCTION refuse_sealed_part();
"""

UNSEAL = """
DROP TRIGGER seal ON parts;
DROP TRIGGER seal ON build_parts;
DROP TRIGGER seal ON builds;
DROP FUNCTION refuse_sealed_part, refuse_sealed_fitting, refuse_sealed_build, build_is_sealed;
"""


def upgrade() -> None:
    op.create_table(
        "machines",
        sa.Column("id", sa.Uuid(), nullable=False),
        sa.Column("name", sa.Text(), nullable=False),
        sa.Column("owner", sa.Text(), nullable=False),
        sa.Column("question", sa.Text(), nullable=False),
        sa.Column("currency", sa.Text(), nullable=False),
        sa.Column("labour_rate", sa.Numeric(), nullable=True),
        sa.Column("decimal_mark", sa.Text(), nullable=False),
        sa.Column("time_zone", sa.Text(), nullable=False),
        sa.Column("is_demo", sa.Boolean(), server_default=sa.text("false"), nullable=False),
        sa.Column("created_at", sa.DateTime(timezone=True), server_default=sa.text("now()"), nullable=False),
        sa.Column("version", sa.Integer(), server_default=sa.text("1"), nullable=False),
        sa.CheckConstraint("currency ~ '^[A-Z]{3}$'", name=op.f("ck_machines_currency_iso")),
        sa.CheckConstraint("decimal_mark IN ('.', ',')", name=op.f("ck_machines_decimal_mark_known")),
        sa.CheckConstraint("labour_rate >= 0", name=op.f("ck_machines_labour_rate_positive")),
        sa.PrimaryKeyConstraint("id", name=op.f("pk_machines")),
    )
    op.create_table(
        "builds",
        sa.Column("id", sa.Uuid(), nullable=False),
        sa.Column("machine_id", sa.Uuid(), nullable=False),
        sa.Column("letter", sa.Text(), nullable=False),
        sa.Column("label", sa.Text(), nullable=False),
        sa.Column("position", sa.Integer(), nullable=False),
        sa.Column("settings", postgresql.JSONB(astext_type=sa.Text()), nullable=False),
        sa.Column("version", sa.Integer(), server_default=sa.text("1"), nullable=False),
        sa.ForeignKeyConstraint(["machine_id"], ["machines.id"], name=op.f("fk_builds_machine_id")),
        sa.PrimaryKeyConstraint("id", name=op.f("pk_builds")),
        sa.UniqueConstraint("machine_id", "id", name=op.f("uq_builds_machine_id_id")),
        sa.UniqueConstraint("machine_id", "letter", name=op.f("uq_builds_machine_id_letter")),
        sa.UniqueConstraint("machine_id", "position", name=op.f("uq_builds_machine_id_position")),
    )
    op.create_table(
        "parts",
        sa.Column("id", sa.Uuid(), nullable=False),
        sa.Column("machine_id", sa.Uuid(), nullable=False),
        sa.Column("role", sa.Text(), nullable=False),
        sa.Column("label", sa.Text(), nullable=False),
        sa.Column("rated", postgresql.JSONB(astext_type=sa.Text()), nullable=False),
        sa.CheckConstraint(
            "role IN ('processor', 'cooler', 'thermal paste', 'memory', 'drive', 'graphics', 'board', 'power supply', 'adapter', 'other')",
            name=op.f("ck_parts_role_known"),
        ),
        sa.ForeignKeyConstraint(["machine_id"], ["machines.id"], name=op.f("fk_parts_machine_id")),
        sa.PrimaryKeyConstraint("id", name=op.f("pk_parts")),
    )
    op.create_table(
        "workloads",
        sa.Column("id", sa.Uuid(), nullable=False),
        sa.Column("machine_id", sa.Uuid(), nullable=False),
        sa.Column("name", sa.Text(), nullable=False),
        sa.Column("workload_version", sa.Text(), nullable=False),
        sa.Column("parameters", postgresql.JSONB(astext_type=sa.Text()), nullable=False),
        sa.Column("position", sa.Integer(), nullable=False),
        sa.ForeignKeyConstraint(["machine_id"], ["machines.id"], name=op.f("fk_workloads_machine_id")),
        sa.PrimaryKeyConstraint("id", name=op.f("pk_workloads")),
        sa.UniqueConstraint("machine_id", "name", name=op.f("uq_workloads_machine_id_name")),
    )
    op.create_table(
        "build_parts",
        sa.Column("build_id", sa.Uuid(), nullable=False),
        sa.Column("part_id", sa.Uuid(), nullable=False),
        sa.Column("position", sa.Integer(), nullable=False),
        sa.ForeignKeyConstraint(["build_id"], ["builds.id"], name=op.f("fk_build_parts_build_id")),
        sa.ForeignKeyConstraint(["part_id"], ["parts.id"], name=op.f("fk_build_parts_part_id")),
        sa.PrimaryKeyConstraint("build_id", "part_id", name=op.f("pk_build_parts")),
        sa.UniqueConstraint("build_id", "position", name=op.f("uq_build_parts_build_id_position")),
    )
    op.create_table(
        "measures",
        sa.Column("id", sa.Uuid(), nullable=False),
        sa.Column("workload_id", sa.Uuid(), nullable=False),
        sa.Column("name", sa.Text(), nullable=False),
        sa.Column("unit", sa.Text(), nullable=False),
        sa.Column("scale", sa.Text(), nullable=False),
        sa.Column("kind", sa.Text(), nullable=False),
        sa.Column("better", sa.Text(), nullable=False),
        sa.Column("step", sa.Float(precision=53), nullable=True),
        sa.Column("levels", postgresql.ARRAY(sa.Text()), nullable=False),
        sa.Column("position", sa.Integer(), nullable=False),
        sa.CheckConstraint("better IN ('higher', 'lower')", name=op.f("ck_measures_better_known")),
        sa.CheckConstraint(
            "kind IN ('time', 'rate', 'score', 'heat', 'noise', 'power', 'clock', 'fan', 'other')",
            name=op.f("ck_measures_kind_known"),
        ),
        sa.CheckConstraint(
            "scale IN ('ratio', 'difference', 'level', 'ordinal', 'outcome')", name=op.f("ck_measures_scale_known")
        ),
        sa.CheckConstraint("step > 0", name=op.f("ck_measures_step_positive")),
        sa.ForeignKeyConstraint(["workload_id"], ["workloads.id"], name=op.f("fk_measures_workload_id")),
        sa.PrimaryKeyConstraint("id", name=op.f("pk_measures")),
        sa.UniqueConstraint("id", "workload_id", "scale", name=op.f("uq_measures_id_workload_id_scale")),
        sa.UniqueConstraint("workload_id", "name", name=op.f("uq_measures_workload_id_name")),
    )
    op.create_table(
        "sittings",
        sa.Column("id", sa.Uuid(), nullable=False),
        sa.Column("build_id", sa.Uuid(), nullable=False),
        sa.Column("position", sa.Integer(), nullable=False),
        sa.Column("purpose", sa.Text(), nullable=False),
        sa.Column("started_at", sa.DateTime(timezone=True), nullable=False),
        sa.Column("ambient_c", sa.Float(precision=53), nullable=True),
        sa.Column("conditions", postgresql.JSONB(astext_type=sa.Text()), nullable=False),
        sa.Column("version", sa.Integer(), server_default=sa.text("1"), nullable=False),
        sa.CheckConstraint(
            "purpose IN ('plan', 'earlier', 'trial', 'recheck')", name=op.f("ck_sittings_purpose_known")
        ),
        sa.CheckConstraint("ambient_c BETWEEN -60 AND 80", name=op.f("ck_sittings_ambient_sensible")),
        sa.ForeignKeyConstraint(["build_id"], ["builds.id"], name=op.f("fk_sittings_build_id")),
        sa.PrimaryKeyConstraint("id", name=op.f("pk_sittings")),
        sa.UniqueConstraint("build_id", "position", name=op.f("uq_sittings_build_id_position")),
    )
    op.create_table(
        "swaps",
        sa.Column("id", sa.Uuid(), nullable=False),
        sa.Column("machine_id", sa.Uuid(), nullable=False),
        sa.Column("before_id", sa.Uuid(), nullable=False),
        sa.Column("after_id", sa.Uuid(), nullable=False),
        sa.Column("label", sa.Text(), nullable=False),
        sa.Column("position", sa.Integer(), nullable=False),
        sa.Column("side_changes", postgresql.ARRAY(sa.Text()), nullable=False),
        sa.Column("verdict_shown_for", postgresql.ARRAY(sa.Uuid()), nullable=True),
        sa.Column("version", sa.Integer(), server_default=sa.text("1"), nullable=False),
        sa.CheckConstraint("before_id <> after_id", name=op.f("ck_swaps_leads_to_another_build")),
        sa.ForeignKeyConstraint(
            ["machine_id", "after_id"], ["builds.machine_id", "builds.id"], name=op.f("fk_swaps_machine_id_after_id")
        ),
        sa.ForeignKeyConstraint(
            ["machine_id", "before_id"],
            ["builds.machine_id", "builds.id"],
            name=op.f("fk_swaps_machine_id_before_id"),
        ),
        sa.ForeignKeyConstraint(["machine_id"], ["machines.id"], name=op.f("fk_swaps_machine_id")),
        sa.PrimaryKeyConstraint("id", name=op.f("pk_swaps")),
        sa.UniqueConstraint("machine_id", "position", name=op.f("uq_swaps_machine_id_position")),
    )
    op.create_table(
        "costs",
        sa.Column("id", sa.Uuid(), server_default=sa.text("gen_random_uuid()"), nullable=False),
        sa.Column("swap_id", sa.Uuid(), nullable=False),
        sa.Column("position", sa.Integer(), nullable=False),
        sa.Column("kind", sa.Text(), nullable=False),
        sa.Column("label", sa.Text(), nullable=False),
        sa.Column("amount", sa.Numeric(), nullable=False),
        sa.Column("low", sa.Numeric(), nullable=True),
        sa.Column("high", sa.Numeric(), nullable=True),
        sa.Column("currency", sa.Text(), nullable=False),
        sa.Column("rate", sa.Numeric(), nullable=True),
        sa.Column("rate_date", sa.Date(), nullable=True),
        sa.CheckConstraint(
            "kind IN ('part', 'shipping', 'tax', 'consumable', 'tool', 'labour', 'downtime', 'electricity', 'resale', 'reuse', 'other')",
            name=op.f("ck_costs_kind_known"),
        ),
        sa.CheckConstraint("amount >= 0 AND low >= 0", name=op.f("ck_costs_amounts_positive")),
        sa.CheckConstraint(
            "coalesce(low, amount) <= amount AND amount <= coalesce(high, amount)", name=op.f("ck_costs_ordered")
        ),
        sa.CheckConstraint("rate > 0", name=op.f("ck_costs_rate_positive")),
        sa.ForeignKeyConstraint(["swap_id"], ["swaps.id"], name=op.f("fk_costs_swap_id")),
        sa.PrimaryKeyConstraint("id", name=op.f("pk_costs")),
        sa.UniqueConstraint(
            "swap_id", "position", deferrable=True, initially="DEFERRED", name=op.f("uq_costs_swap_id_position")
        ),
    )
    op.create_table(
        "plans",
        sa.Column("id", sa.Uuid(), server_default=sa.text("gen_random_uuid()"), nullable=False),
        sa.Column("machine_id", sa.Uuid(), nullable=False),
        sa.Column("swap_id", sa.Uuid(), nullable=True),
        sa.Column("design", sa.Text(), nullable=False),
        sa.Column("pair_by", sa.Text(), nullable=False),
        sa.Column("sittings_a_side", sa.Integer(), nullable=True),
        sa.Column("runs_a_sitting", sa.Integer(), nullable=True),
        sa.Column("headline_id", sa.Uuid(), nullable=True),
        sa.Column("pairs", postgresql.JSONB(astext_type=sa.Text()), nullable=False),
        sa.Column("borrow_spread_from", postgresql.ARRAY(sa.Uuid()), nullable=False),
        sa.Column("version", sa.Integer(), server_default=sa.text("1"), nullable=False),
        sa.CheckConstraint("design IN ('side_by_side', 'paired')", name=op.f("ck_plans_design_known")),
        sa.CheckConstraint("pair_by IN ('order', 'ambient', 'label', 'none')", name=op.f("ck_plans_pair_by_known")),
        sa.CheckConstraint("runs_a_sitting BETWEEN 1 AND 10000", name=op.f("ck_plans_runs_sensible")),
        sa.CheckConstraint("sittings_a_side BETWEEN 1 AND 100", name=op.f("ck_plans_sittings_sensible")),
        sa.ForeignKeyConstraint(["headline_id"], ["measures.id"], name=op.f("fk_plans_headline_id")),
        sa.ForeignKeyConstraint(["machine_id"], ["machines.id"], name=op.f("fk_plans_machine_id")),
        sa.ForeignKeyConstraint(["swap_id"], ["swaps.id"], name=op.f("fk_plans_swap_id")),
        sa.PrimaryKeyConstraint("id", name=op.f("pk_plans")),
        sa.UniqueConstraint("swap_id", name=op.f("uq_plans_swap_id")),
    )
    op.create_index(
        "uq_plans_open", "plans", ["machine_id"], unique=True, postgresql_where=sa.text("swap_id IS NULL")
    )
    op.create_table(
        "runs",
        sa.Column("id", sa.Uuid(), nullable=False),
        sa.Column("sitting_id", sa.Uuid(), nullable=False),
        sa.Column("workload_id", sa.Uuid(), nullable=False),
        sa.Column("workload_version", sa.Text(), nullable=False),
        sa.Column("parameters", postgresql.JSONB(astext_type=sa.Text()), nullable=False),
        sa.Column("position", sa.Integer(), nullable=False),
        sa.Column("state", sa.Text(), nullable=False),
        sa.Column("reason", sa.Text(), nullable=True),
        sa.Column("warm_up", sa.Boolean(), nullable=False),
        sa.Column("target", sa.Text(), nullable=True),
        sa.Column("pair_label", sa.Text(), nullable=True),
        sa.Column("started_at", sa.DateTime(timezone=True), nullable=True),
        sa.Column("duration_s", sa.Float(precision=53), nullable=True),
        sa.Column("soak_s", sa.Float(precision=53), nullable=True),
        sa.Column("excluded_late_reason", sa.Text(), nullable=True),
        sa.Column("excluded_late_at", sa.DateTime(timezone=True), nullable=True),
        sa.Column("version", sa.Integer(), server_default=sa.text("1"), nullable=False),
        sa.CheckConstraint("state = 'complete' OR length(trim(reason)) > 0", name=op.f("ck_runs_reason_given")),
        sa.CheckConstraint("state = 'complete' OR reason IS NOT NULL", name=op.f("ck_runs_reason_present")),
        sa.CheckConstraint("state IN ('complete', 'partial', 'failed', 'spoiled')", name=op.f("ck_runs_state_known")),
        sa.CheckConstraint("position > 0", name=op.f("ck_runs_position_positive")),
        sa.ForeignKeyConstraint(["sitting_id"], ["sittings.id"], name=op.f("fk_runs_sitting_id")),
        sa.ForeignKeyConstraint(["workload_id"], ["workloads.id"], name=op.f("fk_runs_workload_id")),
        sa.PrimaryKeyConstraint("id", name=op.f("pk_runs")),
        sa.UniqueConstraint("id", "workload_id", name=op.f("uq_runs_id_workload_id")),
        sa.UniqueConstraint(
            "sitting_id",
            "workload_id",
            "warm_up",
            "position",
            name=op.f("uq_runs_sitting_id_workload_id_warm_up_position"),
        ),
    )
    op.create_table(
        "planned_measures",
        sa.Column("plan_id", sa.Uuid(), nullable=False),
        sa.Column("measure_id", sa.Uuid(), nullable=False),
        sa.Column("role", sa.Text(), nullable=False),
        sa.Column("matters_from", sa.Float(precision=53), nullable=False),
        sa.Column("hoped_for", sa.Float(precision=53), nullable=True),
        sa.Column("weight", sa.Float(precision=53), nullable=False),
        sa.CheckConstraint("role IN ('claim', 'control', 'watch')", name=op.f("ck_planned_measures_role_known")),
        sa.CheckConstraint("matters_from > 0", name=op.f("ck_planned_measures_matters_from_positive")),
        sa.CheckConstraint("weight >= 0", name=op.f("ck_planned_measures_weight_positive")),
        sa.ForeignKeyConstraint(["measure_id"], ["measures.id"], name=op.f("fk_planned_measures_measure_id")),
        sa.ForeignKeyConstraint(["plan_id"], ["plans.id"], name=op.f("fk_planned_measures_plan_id")),
        sa.PrimaryKeyConstraint("plan_id", "measure_id", name=op.f("pk_planned_measures")),
    )
    op.create_table(
        "readings",
        sa.Column("run_id", sa.Uuid(), nullable=False),
        sa.Column("measure_id", sa.Uuid(), nullable=False),
        sa.Column("workload_id", sa.Uuid(), nullable=False),
        sa.Column("scale", sa.Text(), nullable=False),
        sa.Column("low", sa.Float(precision=53), nullable=False),
        sa.Column("high", sa.Float(precision=53), nullable=False),
        sa.Column("about", sa.Boolean(), nullable=False),
        sa.Column("source", sa.Text(), nullable=True),
        sa.Column("statistic", sa.Text(), nullable=True),
        sa.CheckConstraint(
            "low > '-Infinity' AND low <= high AND high < 'Infinity'", name=op.f("ck_readings_finite_and_ordered")
        ),
        sa.CheckConstraint("scale <> 'ratio' OR low > 0", name=op.f("ck_readings_ratio_above_zero")),
        sa.CheckConstraint("source IN ('remembered', 'inherited', 'claimed')", name=op.f("ck_readings_source_known")),
        sa.CheckConstraint(
            "statistic IN ('lowest', 'mean', 'highest', 'settled', 'momentary')",
            name=op.f("ck_readings_statistic_known"),
        ),
        sa.ForeignKeyConstraint(
            ["measure_id", "workload_id", "scale"],
            ["measures.id", "measures.workload_id", "measures.scale"],
            name=op.f("fk_readings_measure_id_workload_id_scale"),
        ),
        sa.ForeignKeyConstraint(
            ["run_id", "workload_id"], ["runs.id", "runs.workload_id"], name=op.f("fk_readings_run_id_workload_id")
        ),
        sa.PrimaryKeyConstraint("run_id", "measure_id", name=op.f("pk_readings")),
    )
    op.execute(SEAL)


def downgrade() -> None:
    op.execute(UNSEAL)
    op.drop_table("readings")
    op.drop_table("planned_measures")
    op.drop_table("runs")
    op.drop_index("uq_plans_open", table_name="plans", postgresql_where=sa.text("swap_id IS NULL"))
    op.drop_table("plans")
    op.drop_table("costs")
    op.drop_table("swaps")
    op.drop_table("sittings")
    op.drop_table("measures")
    op.drop_table("build_parts")
    op.drop_table("workloads")
    op.drop_table("parts")
    op.drop_table("builds")
    op.drop_table("machines")
