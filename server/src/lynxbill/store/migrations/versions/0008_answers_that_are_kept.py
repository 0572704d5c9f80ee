"""What was computed of a machine is kept for every server process: answers, and its line on the home screen."""

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects import postgresql

revision = "0008"
down_revision = "0007"
branch_labels = None
depends_on = None

STATE = (
    ("described", sa.DateTime(timezone=True)),
    ("revision", sa.BigInteger()),
    ("evidence", sa.BigInteger()),
    ("program", sa.Text()),
)
# Until now these were found by reading those of all machines.
OF_MACHINE = ("parts", "plans", "rechecks")


def _state() -> list[sa.Column[object]]:
    return [sa.Column(name, kind, nullable=False) for name, kind in STATE]


def upgrade() -> None:
    op.create_table(
        "answers",
        sa.Column("machine_id", sa.Uuid(), nullable=False),
        sa.Column("question", sa.Text(), nullable=False),
        *_state(),
        sa.Column("content", sa.Text(), nullable=False),
        sa.ForeignKeyConstraint(["machine_id"], ["machines.id"], name=op.f("fk_answers_machine_id")),
        sa.PrimaryKeyConstraint("machine_id", "question", name=op.f("pk_answers")),
    )
    op.create_table(
        "lines",
        sa.Column("machine_id", sa.Uuid(), nullable=False),
        *_state(),
        sa.Column("stand", sa.Text(), nullable=True),
        sa.Column("due_on", postgresql.ARRAY(sa.Date()), nullable=False),
        sa.Column("content", sa.Text(), nullable=True),
        sa.ForeignKeyConstraint(["machine_id"], ["machines.id"], name=op.f("fk_lines_machine_id")),
        sa.PrimaryKeyConstraint("machine_id", name=op.f("pk_lines")),
    )
    # Home lists machines in the order in which they were described, and looks for one among its parts.
    op.create_index("ix_machines_created_at", "machines", ["created_at", "id"])
    for table in OF_MACHINE:
        op.create_index(f"ix_{table}_machine_id", table, ["machine_id"])


def downgrade() -> None:
    for table in OF_MACHINE:
        op.drop_index(f"ix_{table}_machine_id", table_name=table)
    op.drop_index("ix_machines_created_at", table_name="machines")
    op.drop_table("lines")
    op.drop_table("answers")
