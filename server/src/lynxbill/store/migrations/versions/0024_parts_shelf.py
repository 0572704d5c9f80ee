"""The shop's parts shelf."""

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects import postgresql

revision = "0024"
down_revision = "0023"
branch_labels = None
depends_on = None

ROLES = (
    "role IN ('processor', 'cooler', 'thermal paste', 'memory', 'drive', 'graphics', 'board', 'power supply', "
    "'adapter', 'other')"
)


def upgrade() -> None:
    op.create_table(
        "shelf",
        sa.Column("id", sa.Uuid(), nullable=False),
        sa.Column("role", sa.Text(), nullable=False),
        sa.Column("label", sa.Text(), nullable=False),
        sa.Column("rated", postgresql.JSONB(), nullable=False),
        sa.Column("worth", sa.Numeric(), nullable=False),
        sa.Column("currency", sa.Text(), nullable=False),
        sa.Column("put_on", sa.Date(), nullable=False),
        sa.Column("from_name", sa.Text(), nullable=False),
        sa.Column("from_part_id", sa.Uuid(), nullable=True),
        sa.Column("note", sa.Text(), nullable=False),
        sa.Column("taken_name", sa.Text(), nullable=False),
        sa.Column("taken_on", sa.Date(), nullable=True),
        sa.Column("version", sa.Integer(), server_default=sa.text("1"), nullable=False),
        sa.CheckConstraint(ROLES, name=op.f("ck_shelf_role_known")),
        sa.CheckConstraint("worth >= 0", name=op.f("ck_shelf_worth_positive")),
        sa.CheckConstraint("currency ~ '^[A-Z]{3}$'", name=op.f("ck_shelf_currency_iso")),
        sa.CheckConstraint("(taken_on IS NULL) = (taken_name = '')", name=op.f("ck_shelf_taken_by_somebody")),
        sa.PrimaryKeyConstraint("id", name=op.f("pk_shelf")),
        sa.UniqueConstraint("from_part_id", name=op.f("uq_shelf_from_part_id")),
    )


def downgrade() -> None:
    op.drop_table("shelf")
