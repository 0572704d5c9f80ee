"""The shop's parts shelf: what lies there, where it came from, and what it is worth."""

from collections.abc import Mapping
from dataclasses import dataclass, field
from datetime import date
from decimal import Decimal

from lynxbill.core.record.build import Build, Part, PartRole
from lynxbill.core.record.ids import Plain
from lynxbill.core.terms.errors import Clash
from lynxbill.core.terms.money import CostLine


@dataclass(frozen=True, slots=True)
class ShelfPart:
    """
    A part that no machine has now; `worth` in `currency`.

    It left `from_name` (a machine's name then; empty: noted by hand) at its worth, and arrives at it: where it was
    taken, `taken_name` says by which machine, and when.
    """

    id: str
    role: PartRole
    label: str
    worth: Decimal
    currency: str
    put_on: date
    rated: Mapping[str, Plain] = field(default_factory=dict)
    from_name: str = ""
    note: str = ""
    taken_name: str = ""
    taken_on: date | None = None

    @property
    def is_taken(self) -> bool:
        return self.taken_on is not None


def parts_out(before: Build, after: Build) -> tuple[Part, ...]:
    """
    List the parts that came out on the way from one build to the other: what may go on the shelf.

    Args:
        before, after: the builds of a swap.
    """
    kept = {part.id for part in after.parts}
    return tuple(part for part in before.parts if part.id not in kept)


def leave_line(part: Part, worth: Decimal, currency: str, day: date) -> CostLine:
    """
    Make the cost line by which a part leaves a machine for the shelf: what it is worth comes in.

    Args:
        part: what leaves.
        worth: what it is worth, >= 0, in the currency.
        currency: ISO 4217 code of the machine's account.
        day: the day it leaves.
    """
    return CostLine("reuse", f"{part.label}, to the shelf", worth, currency, on=day)


def arrive_line(part: ShelfPart, currency: str, day: date) -> CostLine:
    """
    Make the cost line by which a part arrives from the shelf, at the worth that it left another machine at.

    Args:
        part: what arrives, with the worth that it left at.
        currency: ISO 4217 code of the machine that it arrives at.
        day: the day it arrives.
    Raises:
        Clash: it was taken already, or its worth is in another currency than the machine's account.
    """
    if part.is_taken:
        raise Clash(f"“{part.label}” was taken from the shelf by {part.taken_name} already.")
    if part.currency != currency:
        raise Clash(
            f"“{part.label}” is worth {part.worth} {part.currency}, the machine's account is in {currency}: "
            "change its worth on the shelf first."
        )
    supplier = f"the shelf, out of {part.from_name}" if part.from_name else "the shelf"
    return CostLine("part", part.label, part.worth, currency, basis="used", supplier=supplier, on=day)
