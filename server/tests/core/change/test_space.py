"""Room that a swap bought: what grew, and nothing of what a part does not say."""

from decimal import Decimal

import pytest

from lynxbill.core.change.space import Room, room_gained
from lynxbill.core.record.build import Build, Part, PartRole
from lynxbill.core.record.ids import Plain
from tests.builders import B


def build(*parts: tuple[PartRole, dict[str, Plain]]) -> Build:
    return Build(B, "B", "B", parts=tuple(Part(f"{role} {rated}", role, "a part", rated) for role, rated in parts))


OLD = build(("memory", {"size_gb": 8}), ("drive", {"size_gb": 500, "lanes": 2}))


def test_room_is_counted_over_all_parts_of_a_role_and_priced_by_the_unit() -> None:
    same: tuple[PartRole, dict[str, Plain]] = ("drive", {"size_gb": 500, "lanes": 2})
    new = build(("memory", {"size_gb": 8}), ("memory", {"size_gb": 16}), same)
    assert room_gained(OLD, new, Decimal("64.00")) == (Room("memory", "size_gb", 8, 24, Decimal(4)),)
    assert room_gained(OLD, new, Decimal("0.15"))[0].each is None, "0.00 for each is no price"


def test_a_whole_platform_is_no_price_of_its_memory() -> None:
    new = build(("memory", {"size_gb": 16}), ("drive", {"size_gb": 500, "lanes": 4}))
    assert room_gained(OLD, new, Decimal("64.00")) == (
        Room("memory", "size_gb", 8, 16, None),
        Room("drive", "lanes", 2, 4, None),
    )


@pytest.mark.parametrize("net", [None, Decimal(0), Decimal(-5)])
def test_room_that_cost_nothing_has_no_price(net: Decimal | None) -> None:
    (gained,) = room_gained(OLD, build(("memory", {"size_gb": 16})), net)
    assert gained.each is None


def test_of_a_part_whose_size_is_not_known_nothing_is_counted_nor_of_what_shrank_or_is_gone() -> None:
    for parts in (
        [("memory", {"size_gb": 16}), ("memory", {})],
        [("memory", {"size_gb": 4})],
        [("memory", {"size_gb": True})],
        [],
    ):
        assert room_gained(OLD, build(*parts), Decimal(1)) == ()
        assert room_gained(build(*parts), build(*parts), Decimal(1)) == ()
