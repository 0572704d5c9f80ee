from datetime import date
from decimal import Decimal
from typing import Any

import pytest

from lynxbill.core.terms.errors import RateMissing
from lynxbill.core.terms.money import CostLine, book, net_cost, round_money


def line(amount: str, kind: Any = "part", currency: str = "EUR", **fields: Any) -> CostLine:
    return CostLine(kind, "x", Decimal(amount), currency, **fields)


def net_of(*lines: CostLine) -> Decimal:
    return net_cost([book(each, "EUR") for each in lines], "EUR")


def test_resale_and_reuse_come_in() -> None:
    lines = [line("118.00"), line("6.50", "shipping"), line("52.00", "resale"), line("10", "reuse")]
    assert net_of(*lines) == Decimal("62.50")


@pytest.mark.parametrize(
    ("amount", "currency", "expected"),
    [("1.005", "EUR", "1.01"), ("1.004", "EUR", "1.00"), ("1.5", "JPY", "2"), ("1.0005", "KWD", "1.001")],
)
def test_rounding_is_half_up_to_the_minor_unit(amount: str, currency: str, expected: str) -> None:
    assert round_money(Decimal(amount), currency) == Decimal(expected)


def test_foreign_lines_are_converted_and_rounded_one_by_one() -> None:
    foreign = line("0.125", currency="USD", rate=Decimal("0.92"), rate_date=date(2026, 5, 4))
    assert book(foreign, "EUR").likely == Decimal("0.12")
    assert net_of(foreign, foreign, foreign) == Decimal("0.36")


def test_a_foreign_line_without_a_rate_is_refused() -> None:
    with pytest.raises(RateMissing, match="rate of exchange"):
        net_of(line("5", currency="USD"))


def test_an_uncertain_resale_turns_its_range_round() -> None:
    booked = book(line("52", "resale", low=Decimal(40), high=Decimal(60)), "EUR")
    assert (booked.low, booked.likely, booked.high) == (Decimal(-60), Decimal(-52), Decimal(-40))
