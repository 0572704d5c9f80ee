"""Names that meant two things: the technician's own answer on whether a candidate fits."""

from alembic import op

revision = "0037"
down_revision = "0036"
branch_labels = None
depends_on = None

_COLUMNS = (("candidates", "fit_said", "fit_answer"), ("lines", "stand", "job_state"))
_CONSTRAINTS = (("candidates", "ck_candidates_fit_said_known", "ck_candidates_fit_answer_known"),)


def upgrade() -> None:
    for table, old, new in _COLUMNS:
        op.alter_column(table, old, new_column_name=new)
    for table, old, new in _CONSTRAINTS:
        op.execute(f"ALTER TABLE {table} RENAME CONSTRAINT {old} TO {new}")


def downgrade() -> None:
    for table, old, new in _CONSTRAINTS:
        op.execute(f"ALTER TABLE {table} RENAME CONSTRAINT {new} TO {old}")
    for table, old, new in _COLUMNS:
        op.alter_column(table, new, new_column_name=old)
