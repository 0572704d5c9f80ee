"""Taking a machine away with everything recorded of it."""

from uuid import UUID

from sqlalchemy import delete, select, update
from sqlalchemy.orm import Session

from lynxbill.store.belonging import owned_by
from lynxbill.store.tables.machine import PartRow, ShelfRow


def delete_machine(session: Session, machine_id: UUID) -> None:
    """Delete a machine's rows, those that point at others first."""
    # What lies on the shelf stays there; the part that it was of this machine is no more.
    parts = select(PartRow.id).where(PartRow.machine_id == machine_id)
    session.execute(update(ShelfRow).where(ShelfRow.from_part_id.in_(parts)).values(from_part_id=None))
    for table, condition in reversed(owned_by(machine_id)):
        session.execute(delete(table).where(condition))
