"""The parts shelf: what came out, and how its worth goes from one machine's account into another's."""

from dataclasses import replace
from datetime import date
from decimal import Decimal

import pytest

from lynxbill.core.change.shelf import ShelfPart, arrive_line, leave_line, parts_out
from lynxbill.core.record.build import Build, Part
from lynxbill.core.record.ids import BuildId
from lynxbill.core.terms.errors import Clash
from lynxbill.core.terms.money import book, net_cost

TODAY = date(2026, 5, 4)
OLD, KEPT = Part("1", "processor", "Varro 4-core"), Part("2", "memory", "Oln 8 GB")
NEW = Part("3", "processor", "Varro 6-core")
LYING = ShelfPart("1", "processor", "Varro 4-core", Decimal("52.00"), "EUR", TODAY, from_name="Plotting PC")


def test_what_came_out_is_what_the_build_after_has_no_more() -> None:
    before = Build(BuildId("A"), "A", "As received", parts=(OLD, KEPT))
    after = Build(BuildId("B"), "B", "Six cores", parts=(NEW, KEPT))
    assert parts_out(before, after) == (OLD,)
    assert parts_out(before, before) == ()


def test_a_part_goes_from_one_account_into_another_at_one_worth() -> None:
    left, arrived = leave_line(OLD, LYING.worth, "EUR", TODAY), arrive_line(LYING, "EUR", TODAY)
    assert (left.kind, arrived.kind, arrived.basis) == ("reuse", "part", "used")
    assert net_cost([book(left, "EUR"), book(arrived, "EUR")], "EUR") == 0
    assert arrived.supplier == "the shelf, out of Plotting PC"
    assert arrive_line(replace(LYING, from_name=""), "EUR", TODAY).supplier == "the shelf"


def test_it_is_taken_once_and_only_in_its_currency() -> None:
    with pytest.raises(Clash, match="taken from the shelf by Field laptop already"):
        arrive_line(replace(LYING, taken_on=TODAY, taken_name="Field laptop"), "EUR", TODAY)
    with pytest.raises(Clash, match="account is in CHF"):
        arrive_line(LYING, "CHF", TODAY)
