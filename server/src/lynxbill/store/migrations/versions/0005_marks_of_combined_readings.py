"""A figure that was made from several sensors carries their marks: what was told of one was tested as measured."""

from alembic import op

revision = "0005"
down_revision = "0004"
branch_labels = None
depends_on = None

# In the order of the alphabet the least trusted source stands first.
MARKS = """
UPDATE readings SET about = readings.about OR parts.about, source = coalesce(parts.source, readings.source)
FROM (
    SELECT readings.run_id, measures.part_of AS whole, bool_or(readings.about) AS about, min(readings.source) AS source
    FROM readings JOIN measures ON measures.id = readings.measure_id
    WHERE measures.part_of IS NOT NULL GROUP BY readings.run_id, measures.part_of
) AS parts, measures
WHERE readings.run_id = parts.run_id AND readings.measure_id = parts.whole
  AND measures.id = parts.whole AND measures.combined_by IS NOT NULL
"""


def upgrade() -> None:
    op.execute(MARKS)


def downgrade() -> None:
    """The marks are true and stay."""
