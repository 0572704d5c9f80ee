"""Plans and templates that are kept as copies say in which shape they are written."""

from alembic import op

revision = "0011"
down_revision = "0010"
branch_labels = None
depends_on = None

COPIES = (("rechecks", "plan"), ("templates", "content"))


def upgrade() -> None:
    for table, column in COPIES:
        op.execute(f"""UPDATE {table} SET {column} = jsonb_build_object('shape', 1, 'copy', {column})""")


def downgrade() -> None:
    for table, column in COPIES:
        op.execute(f"UPDATE {table} SET {column} = {column} -> 'copy'")
