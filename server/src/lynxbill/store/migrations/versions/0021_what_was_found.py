"""Notes of a swap that say what was found on a described scale, or what is a drawback."""

import sqlalchemy as sa
from alembic import op

revision = "0021"
down_revision = "0020"
branch_labels = None
depends_on = None

CHECKS = {
    "kind_known": "kind IN ('teardown', 'dust found', 'paste found', 'drawback')",
    "step_of_what_was_found": "(kind IN ('dust found', 'paste found')) = (step IS NOT NULL)",
    "step_on_scale": "step BETWEEN 1 AND 4",
}


def upgrade() -> None:
    op.add_column("bench_notes", sa.Column("kind", sa.Text(), nullable=False, server_default="teardown"))
    op.alter_column("bench_notes", "kind", server_default=None)
    op.add_column("bench_notes", sa.Column("step", sa.Integer(), nullable=True))
    for name, check in CHECKS.items():
        op.create_check_constraint(op.f(f"ck_bench_notes_{name}"), "bench_notes", check)


def downgrade() -> None:
    for name in CHECKS:
        op.drop_constraint(op.f(f"ck_bench_notes_{name}"), "bench_notes")
    op.drop_column("bench_notes", "step")
    op.drop_column("bench_notes", "kind")
