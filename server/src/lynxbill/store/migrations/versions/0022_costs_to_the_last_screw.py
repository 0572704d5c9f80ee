"""Costs to the last screw: quantities, what prices are taken from, worth of what was not paid, electricity, splits."""

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects.postgresql import JSONB

revision = "0022"
down_revision = "0021"
branch_labels = None
depends_on = None

OLD_KINDS = ("part", "shipping", "tax", "consumable", "tool", "labour", "downtime", "electricity", "resale", "reuse")
KINDS = (*OLD_KINDS[:6], "waiting", "rework", "downtime", "breakage", *OLD_KINDS[7:], "measuring", "other")
BASES = "basis IN ('new', 'used', 'list', 'quoted', 'drawer', 'gift')"
COLUMNS = {
    "costs": (
        sa.Column("quantity", sa.Numeric(), nullable=True),
        sa.Column("unit", sa.Text(), nullable=False, server_default=""),
        sa.Column("basis", sa.Text(), nullable=True),
        sa.Column("worth", sa.Numeric(), nullable=True),
        sa.Column("supplier", sa.Text(), nullable=False, server_default=""),
        sa.Column("on", sa.Date(), nullable=True),
        sa.Column("running", JSONB(none_as_null=True), nullable=True),
        sa.Column("split_by", sa.Text(), nullable=True),
        sa.Column("shares", JSONB(), nullable=False, server_default=sa.text("'{}'")),
    ),
    "candidates": (
        sa.Column("price_low", sa.Numeric(), nullable=True),
        sa.Column("price_high", sa.Numeric(), nullable=True),
        sa.Column("gain_low", sa.Double(), nullable=True),
        sa.Column("gain_high", sa.Double(), nullable=True),
    ),
    "machines": (
        sa.Column("price", sa.Numeric(), nullable=True),
        sa.Column("jobs_a_week", sa.Double(), nullable=True),
        sa.Column("hour_worth", sa.Numeric(), nullable=True),
    ),
}
CHECKS = {
    "costs": {
        "quantity_positive": "quantity > 0",
        "worth_positive": "worth >= 0",
        "basis_known": BASES,
        "split_by_known": "split_by IN ('even', 'by use', 'by hand')",
        "split_has_weights": "(split_by IS NULL) = (shares = '{}')",
        "only_electricity_runs": "running IS NULL OR kind = 'electricity'",
    },
    "candidates": {
        "price_ordered": "price_low <= price AND price <= price_high",
        "gain_ordered": "gain_low <= expected_gain AND expected_gain <= gain_high",
    },
    "machines": {
        "price_positive": "price >= 0",
        "jobs_positive": "jobs_a_week > 0",
        "hour_worth_positive": "hour_worth >= 0",
    },
}
REPLACED = {
    ("costs", "kind_known"): (
        f"kind IN ({', '.join(repr(kind) for kind in KINDS)})",
        f"kind IN ({', '.join(repr(kind) for kind in (*OLD_KINDS, 'other'))})",
    ),
    ("candidates", "basis_known"): (BASES, "basis IN ('new', 'used', 'drawer')"),
    ("candidates", "price_positive"): ("price >= 0 AND price_low >= 0", "price >= 0"),
}


def upgrade() -> None:
    for table, columns in COLUMNS.items():
        for column in columns:
            op.add_column(table, column)
    for (table, name), (new, _) in REPLACED.items():
        op.drop_constraint(op.f(f"ck_{table}_{name}"), table)
        op.create_check_constraint(op.f(f"ck_{table}_{name}"), table, new)
    for table, checks in CHECKS.items():
        for name, check in checks.items():
            op.create_check_constraint(op.f(f"ck_{table}_{name}"), table, check)


# What the older shape has no place for becomes the nearest thing that it has.
FLATTENED = (
    "DELETE FROM costs WHERE running IS NOT NULL OR kind = 'measuring'",
    "UPDATE costs SET kind = 'labour' WHERE kind IN ('waiting', 'rework')",
    "UPDATE costs SET kind = 'other' WHERE kind = 'breakage'",
    "UPDATE costs SET amount = amount * quantity, low = low * quantity, high = high * quantity"
    " WHERE quantity IS NOT NULL",
    "UPDATE candidates SET basis = 'new' WHERE basis IN ('list', 'quoted')",
    "UPDATE candidates SET basis = 'drawer' WHERE basis = 'gift'",
)


def downgrade() -> None:
    for statement in FLATTENED:
        op.execute(statement)
    for table, checks in CHECKS.items():
        for name in checks:
            op.drop_constraint(op.f(f"ck_{table}_{name}"), table)
    for (table, name), (_, old) in REPLACED.items():
        op.drop_constraint(op.f(f"ck_{table}_{name}"), table)
        op.create_check_constraint(op.f(f"ck_{table}_{name}"), table, old)
    for table, columns in COLUMNS.items():
        for column in columns:
            op.drop_column(table, column.name)
