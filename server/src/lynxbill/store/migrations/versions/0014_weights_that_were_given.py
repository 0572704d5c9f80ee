"""A weight is given or not: the overall gain is made only where a plan gives some."""

import sqlalchemy as sa
from alembic import op

revision = "0014"
down_revision = "0013"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.alter_column("planned_measures", "weight", existing_type=sa.Float(precision=53), nullable=True)
    # Every measure had the weight 1 until somebody wrote another: where nobody did, none was given.
    op.execute(
        """
        UPDATE planned_measures SET weight = NULL WHERE plan_id IN (
            SELECT plan_id FROM planned_measures GROUP BY plan_id HAVING bool_and(weight = 1)
        )
        """
    )


def downgrade() -> None:
    op.execute("UPDATE planned_measures SET weight = 1 WHERE weight IS NULL")
    op.alter_column("planned_measures", "weight", existing_type=sa.Float(precision=53), nullable=False)
