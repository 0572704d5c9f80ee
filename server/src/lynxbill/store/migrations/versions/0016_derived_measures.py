"""Measures that are derived from another one of the same run; totals by sum and by the lowest of their parts."""

import sqlalchemy as sa
from alembic import op

revision = "0016"
down_revision = "0015"
branch_labels = None
depends_on = None

POINTERS = ("derived_from", "per_measure")
DERIVED = "(derived_from IS NULL) = (per_measure IS NULL AND per_parameter IS NULL)"


def upgrade() -> None:
    for name in POINTERS:
        op.add_column("measures", sa.Column(name, sa.Uuid(), nullable=True))
        op.create_foreign_key(op.f(f"fk_measures_{name}"), "measures", "measures", [name], ["id"])
    op.add_column("measures", sa.Column("per_parameter", sa.Text(), nullable=True))
    op.create_check_constraint(op.f("ck_measures_derived_by_something"), "measures", DERIVED)
    _combined("'highest', 'mean', 'sum', 'lowest'")


def downgrade() -> None:
    _combined("'highest', 'mean'")
    op.drop_constraint(op.f("ck_measures_derived_by_something"), "measures")
    op.drop_column("measures", "per_parameter")
    for name in POINTERS:
        op.drop_constraint(op.f(f"fk_measures_{name}"), "measures", type_="foreignkey")
        op.drop_column("measures", name)


def _combined(listed: str) -> None:
    op.drop_constraint(op.f("ck_measures_combined_by_known"), "measures")
    op.create_check_constraint(op.f("ck_measures_combined_by_known"), "measures", f"combined_by IN ({listed})")
