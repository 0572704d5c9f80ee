"""The demo: Fenwick Map Room, taken over through the same import that users have."""

from pathlib import Path

from sqlalchemy import select

from lynxbill.services.machines import remove_machine
from lynxbill.services.run_files import import_machine
from lynxbill.services.transaction import Sessions
from lynxbill.store.tables import MachineRow

DEMO = Path(__file__).parents[3] / "demo"


def load_demo(sessions: Sessions) -> None:
    """Take over every run file of the demo."""
    for file in sorted(DEMO.glob("*.json")):
        import_machine(sessions, file.read_bytes(), is_demo=True)


def reset_demo(sessions: Sessions) -> None:
    """Remove the demo's machines, whatever was done to them, and load them anew; others stay."""
    with sessions() as session:
        machines = session.scalars(select(MachineRow.id).where(MachineRow.is_demo)).all()
    for machine_id in machines:
        remove_machine(sessions, machine_id)
    load_demo(sessions)
