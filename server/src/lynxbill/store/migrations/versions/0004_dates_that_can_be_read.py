"""Dates at the ends of the calendar are brought into years that can be read; what was emptied seals no build."""

from alembic import op

revision = "0004"
down_revision = "0003"
branch_labels = None
depends_on = None

FIRST, LAST = "1970-01-01T00:00:00Z", "2199-12-31T23:59:59Z"
INSTANTS = {
    "sittings": ("started_at",),
    "runs": ("excluded_late_at",),
    "swaps": ("opened_at", "closed_at"),
    "steps": ("done_at",),
    "starts": ("at",),
    "bench_notes": ("at",),
    "margin_edits": ("at",),
}
DAYS = {"costs": "rate_date", "rechecks": "due_on"}
SEALED = """
CREATE OR REPLACE FUNCTION build_is_sealed(build uuid) RETURNS boolean LANGUAGE sql STABLE AS $$
  SELECT EXISTS (SELECT 1 FROM runs JOIN sittings ON sittings.id = runs.sitting_id WHERE sittings.build_id = build{also})
$$
"""
NOT_EMPTIED = " AND (runs.state <> 'complete' OR EXISTS (SELECT 1 FROM readings WHERE readings.run_id = runs.id))"


def upgrade() -> None:
    for table, columns in INSTANTS.items():
        for column in columns:
            op.execute(
                f"UPDATE {table} SET {column} = greatest('{FIRST}', least('{LAST}', {column})) "
                f"WHERE {column} NOT BETWEEN '{FIRST}' AND '{LAST}'"
            )
    for table, column in DAYS.items():
        op.execute(
            f"UPDATE {table} SET {column} = greatest('{FIRST[:10]}', least('{LAST[:10]}', {column})) "
            f"WHERE {column} NOT BETWEEN '{FIRST[:10]}' AND '{LAST[:10]}'"
        )
    # When a run began is not needed to know it: an impossible instant is unknown rather than another one.
    op.execute(f"UPDATE runs SET started_at = NULL WHERE started_at NOT BETWEEN '{FIRST}' AND '{LAST}'")
    op.execute(SEALED.format(also=NOT_EMPTIED))


def downgrade() -> None:
    op.execute(SEALED.format(also=""))
