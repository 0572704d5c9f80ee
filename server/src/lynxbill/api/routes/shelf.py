"""The parts shelf."""

from datetime import date
from decimal import Decimal
from uuid import UUID

from fastapi import APIRouter

from lynxbill.api.http.deps import ActDep, SessionsDep
from lynxbill.api.wire.bodies import Version
from lynxbill.api.wire.describe import case_out
from lynxbill.api.wire.schemas import CaseOut
from lynxbill.core.change.shelf import ShelfPart
from lynxbill.core.record.build import PartRole
from lynxbill.core.record.ids import Plain
from lynxbill.exchange.fields import Currency, Day, Name, OptionalLine, PositiveMoney, Strict
from lynxbill.services.frame.machines import view_machine
from lynxbill.services.swap.shelf import list_shelf, put_on_shelf, remove_shelf_part, save_shelf_part, take_from_shelf

router = APIRouter(tags=["shelf"])


class ShelfPartIn(Strict):
    role: PartRole
    label: Name
    worth: PositiveMoney
    currency: Currency
    put_on: Day
    note: OptionalLine = ""
    version: Version = None

    def to_core(self, part_id: UUID) -> ShelfPart:
        return ShelfPart(id=str(part_id), **self.model_dump(exclude={"version"}))


class ShelfPartOut(Strict):
    """A part on the shelf; `taken_name` is the machine that took it, empty while it lies there."""

    id: UUID
    role: PartRole
    label: str
    rated: dict[str, Plain]
    worth: Decimal
    currency: str
    put_on: date
    from_name: str
    note: str
    taken_name: str
    taken_on: date | None
    version: int


class PutOnShelfIn(Strict):
    """Which part that came out at the swap goes on the shelf, and what it is worth there."""

    part: UUID
    worth: PositiveMoney


@router.get("/shelf")
def read_shelf(sessions: SessionsDep) -> list[ShelfPartOut]:
    """Every part that lies on the shelf, then those that were taken from it."""
    return _shelf_out(sessions)


@router.put("/shelf/{part_id}")
def put_shelf_part(part_id: UUID, body: ShelfPartIn, sessions: SessionsDep) -> list[ShelfPartOut]:
    """Note a part that lies there, or edit what is known of one."""
    save_shelf_part(sessions, body.to_core(part_id), body.version)
    return _shelf_out(sessions)


@router.delete("/shelf/{part_id}")
def delete_shelf_part(part_id: UUID, sessions: SessionsDep) -> list[ShelfPartOut]:
    """Take a part off the list that no machine took."""
    remove_shelf_part(sessions, part_id)
    return _shelf_out(sessions)


@router.put("/machines/{machine_id}/swaps/{swap_id}/shelf/{part_id}")
def put_swapped_part(
    machine_id: UUID, swap_id: UUID, part_id: UUID, body: PutOnShelfIn, sessions: SessionsDep, act: ActDep
) -> CaseOut:
    """Lay a part that came out at a swap on the shelf; its worth comes into the account."""
    put_on_shelf(sessions, act, machine_id, swap_id, part_id, body.part, body.worth)
    return case_out(view_machine(sessions, machine_id))


@router.post("/machines/{machine_id}/swaps/{swap_id}/shelf/{part_id}/taken")
def post_taken(machine_id: UUID, swap_id: UUID, part_id: UUID, sessions: SessionsDep, act: ActDep) -> CaseOut:
    """Take a part from the shelf for a swap; it arrives at what it was worth there."""
    take_from_shelf(sessions, act, machine_id, swap_id, part_id)
    return case_out(view_machine(sessions, machine_id))


def _shelf_out(sessions: SessionsDep) -> list[ShelfPartOut]:
    names = [name for name in ShelfPartOut.model_fields if name != "version"]
    return [
        ShelfPartOut.model_validate({name: getattr(part, name) for name in names} | {"version": version})
        for part, version in list_shelf(sessions)
    ]
