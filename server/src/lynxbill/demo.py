"""The demo: Fenwick Map Room, taken over through the same import that users have."""

from contextlib import suppress
from datetime import date
from decimal import Decimal
from pathlib import Path

from sqlalchemy import select

from lynxbill.core.change.shelf import ShelfPart
from lynxbill.core.terms.errors import Taken
from lynxbill.services.base.transaction import Sessions
from lynxbill.services.files.run_files import import_machine
from lynxbill.services.frame.machines import erase_machine
from lynxbill.services.swap.shelf import list_shelf, save_shelf_part
from lynxbill.store.tables.machine import MachineRow

DEMO = Path(__file__).parents[3] / "demo"
ON_THE_SHELF = ShelfPart(
    id="0b7f5e0a-6d2c-4b57-9d3e-5f6a1c8e2b40",
    role="drive",
    label="Siskin 240 GB",
    worth=Decimal("15.00"),
    currency="EUR",
    put_on=date(2026, 4, 20),
    note="out of a laptop that was scrapped",
)


def load_demo(sessions: Sessions) -> None:
    """Take over every run file of the demo; what a start that was killed meanwhile took over already stays."""
    for file in sorted(DEMO.glob("*.json")):
        with suppress(Taken):
            import_machine(sessions, file.read_bytes(), is_demo=True)
    if all(part.id != ON_THE_SHELF.id for part, _ in list_shelf(sessions)):
        save_shelf_part(sessions, ON_THE_SHELF, None)


def reset_demo(sessions: Sessions) -> None:
    """Remove the demo's machines, whatever was done to them, and load them anew; others stay."""
    with sessions() as session:
        machines = session.scalars(select(MachineRow.id).where(MachineRow.is_demo)).all()
    for machine_id in machines:
        erase_machine(sessions, machine_id)
    load_demo(sessions)
