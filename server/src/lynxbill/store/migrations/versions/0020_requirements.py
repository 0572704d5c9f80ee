"""Outcomes that follow from a figure that is read: what is needed of it."""

import sqlalchemy as sa
from alembic import op

revision = "0020"
down_revision = "0019"
branch_labels = None
depends_on = None

DIVIDED = "per_measure IS NULL AND per_parameter IS NULL"


def upgrade() -> None:
    op.add_column("measures", sa.Column("needs", sa.Float(), nullable=True))
    _derived_by(f"{DIVIDED} AND needs IS NULL")


def downgrade() -> None:
    _derived_by(DIVIDED)
    op.drop_column("measures", "needs")


def _derived_by(nothing: str) -> None:
    op.drop_constraint(op.f("ck_measures_derived_by_something"), "measures")
    op.create_check_constraint(
        op.f("ck_measures_derived_by_something"), "measures", f"(derived_from IS NULL) = ({nothing})"
    )
