"""The parts shelf: what lies there, what a swap puts there, and what one takes."""

from dataclasses import asdict
from datetime import date
from decimal import Decimal
from uuid import UUID
from zoneinfo import ZoneInfo

from sqlalchemy import select
from sqlalchemy.orm import Session

from lynxbill.core.change.shelf import ShelfPart, arrive_line, leave_line, parts_out
from lynxbill.core.record.ids import BuildId
from lynxbill.core.terms.errors import Clash, Missing
from lynxbill.core.terms.money import CostLine
from lynxbill.services.base.act import Act
from lynxbill.services.base.transaction import Sessions, edit, reading, transaction
from lynxbill.services.swap.swaps import find_swap
from lynxbill.store import rows
from lynxbill.store.database import announce
from lynxbill.store.kept import read_snapshot
from lynxbill.store.snapshot import find_machine
from lynxbill.store.tables.machine import MachineRow, ShelfRow
from lynxbill.store.tables.swap import SwapRow

ON_IT_ALREADY = "This part is on the shelf already."


def list_shelf(sessions: Sessions) -> list[tuple[ShelfPart, int]]:
    """List the shelf with each part's version: what lies there first, the newest of each first."""
    with reading(sessions) as session:
        found = session.scalars(select(ShelfRow).order_by(ShelfRow.taken_on.isnot(None), ShelfRow.put_on.desc()))
        return [(shelf_part_of(row), row.version) for row in found]


def save_shelf_part(sessions: Sessions, part: ShelfPart, version: int | None) -> None:
    """Note a part that lies there, or edit what is known of one; one that was taken stays as it was."""
    names = ("role", "label", "worth", "currency", "put_on", "note")
    with transaction(sessions) as session:
        row = session.get(ShelfRow, UUID(part.id), with_for_update=True)
        if row is None:
            session.add(ShelfRow(**asdict(part) | {"id": UUID(part.id), "rated": dict(part.rated)}))
            return
        _refuse_taken(row)
        edit(row, version, {name: getattr(part, name) for name in names})


def remove_shelf_part(sessions: Sessions, part_id: UUID) -> None:
    """Take a part off the list; one that a machine took stays there, for its bill names it."""
    with transaction(sessions) as session:
        row = session.get(ShelfRow, part_id)
        if row is not None:
            _refuse_taken(row)
            session.delete(row)


def put_on_shelf(
    sessions: Sessions, act: Act, machine_id: UUID, swap_id: UUID, shelf_id: UUID, part_id: UUID, worth: Decimal
) -> None:
    """Lay a part that came out at a swap on the shelf: its worth comes into the swap's account."""
    with transaction(sessions, taken=ON_IT_ALREADY) as session:
        machine, swap = find_machine(session, machine_id, lock=True), find_swap(session, machine_id, swap_id)
        frame = read_snapshot(session, machine_id).frame
        before, after = (frame.build(BuildId(str(build))) for build in (swap.before_id, swap.after_id))
        part = next((out for out in parts_out(before, after) if out.id == str(part_id)), None)
        if part is None:
            raise Missing("No such part came out at this swap.", field="part")
        day = _today(act, machine)
        session.add(
            ShelfRow(
                id=shelf_id,
                role=part.role,
                label=part.label,
                rated=dict(part.rated),
                worth=worth,
                currency=machine.currency,
                put_on=day,
                from_name=machine.name,
                from_part_id=part_id,
            )
        )
        _add_cost(session, swap, leave_line(part, worth, machine.currency, day))
        announce(session, machine_id, "swap", swap_id)


def take_from_shelf(sessions: Sessions, act: Act, machine_id: UUID, swap_id: UUID, shelf_id: UUID) -> None:
    """Take a part from the shelf for a swap: it arrives in its account at what it was worth there."""
    with transaction(sessions) as session:
        machine, swap = find_machine(session, machine_id, lock=True), find_swap(session, machine_id, swap_id)
        row = session.get(ShelfRow, shelf_id, with_for_update=True)
        if row is None:
            raise Missing("No such part lies on the shelf.", field="part")
        day = _today(act, machine)
        line = arrive_line(shelf_part_of(row), machine.currency, day)
        edit(row, row.version, {"taken_name": machine.name, "taken_on": day})
        _add_cost(session, swap, line)
        announce(session, machine_id, "swap", swap_id)


def shelf_part_of(row: ShelfRow) -> ShelfPart:
    names = ("role", "label", "worth", "currency", "put_on", "from_name", "note", "taken_name", "taken_on")
    return ShelfPart(id=str(row.id), rated=dict(row.rated), **{name: getattr(row, name) for name in names})


def _refuse_taken(row: ShelfRow) -> None:
    if row.taken_on is not None:
        raise Clash(f"“{row.label}” was taken by {row.taken_name}: its bill names it as it was.")


def _add_cost(session: Session, swap: SwapRow, line: CostLine) -> None:
    (row,) = rows.cost_rows([line])
    row.position = max((cost.position for cost in swap.costs), default=0) + 1
    swap.costs.append(row)
    swap.version += 1
    session.flush()


def _today(act: Act, machine: MachineRow) -> date:
    return act.at.astimezone(ZoneInfo(machine.time_zone)).date()
