"""Names that meant two things: what a machine says, where its job is, how often its evidence was changed."""

from alembic import op

revision = "0037"
down_revision = "0036"
branch_labels = None
depends_on = None

_COLUMNS = (
    ("candidates", "fit_said", "fit_answer"),
    ("lines", "stand", "job_state"),
    ("answers", "evidence", "evidence_revision"),
    ("lines", "evidence", "evidence_revision"),
    ("machines", "evidence", "evidence_revision"),
    ("machines", "jobs_a_week", "tasks_a_week"),
    ("showings", "evidence", "digest"),
    ("explanations", "evidence", "grounds"),
)
_CONSTRAINTS = (
    ("machines", "ck_machines_jobs_positive", "ck_machines_tasks_positive"),
    ("candidates", "ck_candidates_fit_said_known", "ck_candidates_fit_answer_known"),
    ("explanations", "ck_explanations_evidence_given", "ck_explanations_grounds_given"),
)


def upgrade() -> None:
    for table, old, new in _COLUMNS:
        op.alter_column(table, old, new_column_name=new)
    for table, old, new in _CONSTRAINTS:
        op.execute(f"ALTER TABLE {table} RENAME CONSTRAINT {old} TO {new}")
    _count_by("jobs", "tasks")


def downgrade() -> None:
    _count_by("tasks", "jobs")
    for table, old, new in _CONSTRAINTS:
        op.execute(f"ALTER TABLE {table} RENAME CONSTRAINT {new} TO {old}")
    for table, old, new in _COLUMNS:
        op.alter_column(table, new, new_column_name=old)


def _count_by(old: str, new: str) -> None:
    """What electricity is counted by, beside hours."""
    op.execute(
        f"UPDATE costs SET running = jsonb_set(running, '{{by}}', '\"{new}\"') WHERE running ->> 'by' = '{old}'"
    )
