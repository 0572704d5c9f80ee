"""The ledger of what was shown; boots, closings and attempts of sittings; second looks; outcome sets and new kinds."""

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects import postgresql

revision = "0013"
down_revision = "0012"
branch_labels = None
depends_on = None

OLD_KINDS = ("time", "rate", "score", "heat", "noise", "power", "clock", "fan")
NEW_KINDS = (*OLD_KINDS, "amount", "gauge", "rank", "felt")
LOOKS = (
    "at_most IS NULL OR (sittings_a_side >= 2 AND at_most > sittings_a_side AND at_most <= 2 * sittings_a_side + 1)"
)


def upgrade() -> None:
    _measures(NEW_KINDS)
    op.add_column("measures", sa.Column("of", sa.Integer(), nullable=True))
    op.create_check_constraint(op.f("ck_measures_of_positive"), "measures", '"of" >= 1')
    op.add_column("plans", sa.Column("at_most", sa.Integer(), nullable=True))
    op.add_column("plans", sa.Column("runs", postgresql.JSONB(), server_default=sa.text("'{}'"), nullable=False))
    op.add_column("plans", sa.Column("judge_whole", sa.Uuid(), nullable=True))
    op.create_foreign_key(op.f("fk_plans_judge_whole"), "plans", "builds", ["judge_whole"], ["id"])
    op.create_check_constraint(op.f("ck_plans_second_look_fits"), "plans", LOOKS)
    _sittings()
    op.add_column("runs", sa.Column("written_at", sa.DateTime(timezone=True), nullable=True))
    op.add_column("runs", sa.Column("left_out_at", sa.DateTime(timezone=True), nullable=True))
    _ledger()


def _measures(kinds: tuple[str, ...]) -> None:
    listed = ", ".join(f"'{kind}'" for kind in (*kinds, "other"))
    op.drop_constraint(op.f("ck_measures_kind_known"), "measures")
    op.create_check_constraint(op.f("ck_measures_kind_known"), "measures", f"kind IN ({listed})")


def _sittings() -> None:
    op.add_column("sittings", sa.Column("boot", sa.Text(), nullable=True))
    op.add_column("sittings", sa.Column("boot_by", sa.Text(), nullable=True))
    op.add_column("sittings", sa.Column("closed_at", sa.DateTime(timezone=True), nullable=True))
    op.add_column("sittings", sa.Column("mount", sa.Integer(), nullable=True))
    op.add_column("sittings", sa.Column("set_aside_reason", sa.Text(), nullable=True))
    op.add_column("sittings", sa.Column("set_aside_at", sa.DateTime(timezone=True), nullable=True))
    op.add_column(
        "sittings", sa.Column("set_aside_over", sa.Boolean(), server_default=sa.text("false"), nullable=False)
    )
    op.add_column("sittings", sa.Column("attempt", sa.Integer(), server_default=sa.text("1"), nullable=False))
    op.create_check_constraint(op.f("ck_sittings_boot_by_known"), "sittings", "boot_by IN ('read', 'answered')")
    op.create_check_constraint(op.f("ck_sittings_boot_given"), "sittings", "boot_by IS NULL OR boot IS NOT NULL")
    op.create_check_constraint(
        op.f("ck_sittings_set_aside_dated"), "sittings", "(set_aside_reason IS NULL) = (set_aside_at IS NULL)"
    )
    # A sitting was closed when the next one of its machine began, else at its last run; one without a run is open.
    op.execute(
        """
        UPDATE sittings SET closed_at = coalesce(
            (
                SELECT min(next.started_at) FROM sittings next JOIN builds theirs ON theirs.id = next.build_id
                WHERE theirs.machine_id = builds.machine_id AND next.started_at > sittings.started_at
            ),
            (
                SELECT coalesce(max(runs.started_at), sittings.started_at) FROM runs
                WHERE runs.sitting_id = sittings.id HAVING count(*) > 0
            )
        )
        FROM builds WHERE builds.id = sittings.build_id
        """
    )


def _ledger() -> None:
    op.create_table(
        "attempts",
        sa.Column("swap_id", sa.Uuid(), nullable=False),
        sa.Column("number", sa.Integer(), nullable=False),
        sa.Column("at", sa.DateTime(timezone=True), nullable=False),
        sa.Column("reason", sa.Text(), nullable=False),
        sa.Column("sides", sa.Text(), nullable=False),
        sa.Column("sittings_a_side", sa.Integer(), nullable=True),
        sa.Column("at_most", sa.Integer(), nullable=True),
        sa.CheckConstraint("sides IN ('both sides', 'after-side')", name=op.f("ck_attempts_sides_known")),
        sa.CheckConstraint("number BETWEEN 2 AND 3", name=op.f("ck_attempts_three_at_most")),
        sa.CheckConstraint("length(trim(reason)) > 0", name=op.f("ck_attempts_reason_given")),
        sa.ForeignKeyConstraint(["swap_id"], ["swaps.id"], name=op.f("fk_attempts_swap_id")),
        sa.PrimaryKeyConstraint("swap_id", "number", name=op.f("pk_attempts")),
    )
    op.create_table(
        "showings",
        sa.Column("id", sa.BigInteger(), sa.Identity(), nullable=False),
        sa.Column("machine_id", sa.Uuid(), nullable=False),
        sa.Column("swap_id", sa.Uuid(), nullable=False),
        sa.Column("measure_id", sa.Uuid(), nullable=False),
        sa.Column("at", sa.DateTime(timezone=True), nullable=False),
        sa.Column("by", sa.Text(), nullable=False),
        sa.Column("look", sa.Integer(), nullable=True),
        sa.Column("level", sa.Float(53), nullable=False),
        sa.Column("rule", sa.Text(), nullable=False),
        sa.Column("verdict", sa.Text(), nullable=False),
        sa.Column("sittings", postgresql.ARRAY(sa.Uuid()), nullable=False),
        sa.Column("evidence", sa.Text(), nullable=False),
        sa.Column("attempt", sa.Integer(), nullable=False),
        sa.Column("compared", sa.Uuid(), nullable=True),
        sa.Column("gain", sa.Float(53), nullable=True),
        sa.Column("low", sa.Float(53), nullable=True),
        sa.Column("high", sa.Float(53), nullable=True),
        sa.Column("boots", postgresql.JSONB(), nullable=False),
        sa.Column("conditions", postgresql.JSONB(), nullable=False),
        sa.Column("plan", sa.Text(), nullable=False),
        sa.ForeignKeyConstraint(["machine_id"], ["machines.id"], name=op.f("fk_showings_machine_id")),
        sa.PrimaryKeyConstraint("id", name=op.f("pk_showings")),
    )
    op.create_index("ix_showings_machine_id", "showings", ["machine_id"])
    op.add_column("swaps", sa.Column("history_known", sa.Boolean(), server_default=sa.text("true"), nullable=False))
    # What was shown so far is known by its sittings alone; at the plan's one look, at 95 %.
    op.execute(
        """
        INSERT INTO showings (
            machine_id, swap_id, measure_id, at, by, look, level, rule, verdict, sittings, evidence, attempt, boots,
            conditions, plan
        )
        SELECT
            swaps.machine_id, swaps.id, shown.key::uuid, coalesce(swaps.closed_at, swaps.opened_at, now()), '', 1, 0.95,
            'sittings', '', ARRAY(SELECT jsonb_array_elements_text(shown.value)::uuid), '', 1, '{}', '{}', ''
        FROM swaps, jsonb_each(swaps.verdict_shown_for) shown
        """
    )
    op.drop_column("swaps", "verdict_shown_for")


def downgrade() -> None:
    op.add_column(
        "swaps", sa.Column("verdict_shown_for", postgresql.JSONB(), server_default=sa.text("'{}'"), nullable=False)
    )
    # An earlier program knows the sittings that a planned verdict was first shown for, and nothing else of it.
    op.execute(
        """
        UPDATE swaps SET verdict_shown_for = kept.shown FROM (
            SELECT swap_id, jsonb_object_agg(measure_id, to_jsonb(sittings)) AS shown FROM (
                SELECT DISTINCT ON (swap_id, measure_id) swap_id, measure_id, sittings FROM showings
                WHERE look IS NOT NULL AND compared IS NULL ORDER BY swap_id, measure_id, id
            ) first GROUP BY swap_id
        ) kept WHERE kept.swap_id = swaps.id
        """
    )
    op.drop_column("swaps", "history_known")
    op.drop_table("showings")
    op.drop_table("attempts")
    op.drop_column("runs", "left_out_at")
    op.drop_column("runs", "written_at")
    for name in ("boot_by_known", "boot_given", "set_aside_dated"):
        op.drop_constraint(op.f(f"ck_sittings_{name}"), "sittings")
    for column in (
        "attempt",
        "set_aside_over",
        "set_aside_at",
        "set_aside_reason",
        "mount",
        "closed_at",
        "boot_by",
        "boot",
    ):
        op.drop_column("sittings", column)
    op.drop_constraint(op.f("ck_plans_second_look_fits"), "plans")
    for column in ("judge_whole", "runs", "at_most"):
        op.drop_column("plans", column)
    op.drop_column("measures", "of")
    op.execute("UPDATE measures SET kind = 'other' WHERE kind IN ('amount', 'gauge', 'rank', 'felt')")
    _measures(OLD_KINDS)
