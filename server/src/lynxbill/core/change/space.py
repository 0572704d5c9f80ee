"""Room that a swap bought: memory, drive space, slots and lanes, and what each unit of it cost."""

from collections.abc import Iterable
from dataclasses import dataclass
from decimal import Decimal

from lynxbill.core.change.difference import find_differences
from lynxbill.core.record.build import Build, Part, PartRole

# Of which role which rated figure is room.
_ROOM: tuple[tuple[PartRole, str], ...] = (
    ("memory", "size_gb"),
    ("drive", "size_gb"),
    ("drive", "lanes"),
    ("graphics", "lanes"),
    ("board", "memory_slots"),
)
# What is less than this a unit is no price.
_CENT = Decimal("0.01")


@dataclass(frozen=True, slots=True)
class Room:
    """
    How much of a rated figure there is more than before, over all parts of its role.

    `each` is the net cost of one unit in the currency of account, not rounded; None where the cost is not above zero,
    comes to nothing a unit, or was paid for parts of another role too.
    """

    role: PartRole
    figure: str
    before: float
    after: float
    each: Decimal | None


def room_gained(before: Build, after: Build, net: Decimal | None) -> tuple[Room, ...]:
    """
    Say which room grew from one build to the other.

    Args:
        before, after: builds of one machine; capacities in the units of their figures.
        net: net cost in the machine's currency; None where it is not known.
    Returns: nothing of a figure that a part of either side lacks.
    """
    found = []
    changed = {d.key for d in find_differences(before, after) if d.kind != "setting"}
    for role, figure in _ROOM:
        sides = [_sum(build.parts, role, figure) for build in (before, after)]
        if sides[0] is None or sides[1] is None or sides[1] <= sides[0]:
            continue
        gained = Decimal(repr(round(sides[1] - sides[0], 6)))
        each = net / gained if net is not None and changed <= {f"part:{role}"} else None
        found.append(Room(role, figure, sides[0], sides[1], each if each is not None and each >= _CENT else None))
    return tuple(found)


def _sum(parts: Iterable[Part], role: PartRole, figure: str) -> float | None:
    of_role = [part for part in parts if part.role == role]
    sizes = [part.rated.get(figure) for part in of_role]
    known = [float(size) for size in sizes if isinstance(size, (int, float)) and not isinstance(size, bool)]
    return sum(known) if of_role and len(known) == len(sizes) else None
