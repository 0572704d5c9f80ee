"""Money to the last cent: quantities, splits, electricity by hours and jobs, and what is in no sum."""

from collections.abc import Mapping
from dataclasses import replace
from decimal import Decimal
from typing import Any

import numpy as np
import pytest

from lynxbill.core.record.frame import Case
from lynxbill.core.record.ids import SwapId
from lynxbill.core.record.plan import Plan
from lynxbill.core.record.swap import Swap
from lynxbill.core.terms.money import CostLine, Running, book, split_exactly
from lynxbill.core.value.account import Account, Terms, account_of
from tests.builders import B, C, D, make_case

HOURS = Running(by="hours", a_day=8, days_a_year=250, before=50.0, after=60.0)
MEASURED = Running(by="tasks", a_day=100, days_a_year=200, power="power", time="time")


def line(amount: str, kind: Any = "part", **members: Any) -> CostLine:
    return CostLine(kind, members.pop("label", kind), Decimal(amount), members.pop("currency", "EUR"), **members)


def steps(*costs: tuple[CostLine, ...], change: Any = "processor") -> Case:
    """Swaps B to C and C to D with cost lines."""
    ways = ((B, C), (C, D))
    swaps = tuple(
        Swap(SwapId(f"s{n}"), *ways[n], f"Step {n}", Plan(change=change), costs=lines)
        for n, lines in enumerate(costs)
    )
    return replace(make_case([[1.0]], [[1.0]]), swaps=swaps)


def account(case: Case, *swaps: int, means: Mapping[str, tuple[float, float]] | None = None, **terms: Any) -> Account:
    return account_of(case, [case.swaps[n] for n in swaps], Terms(**terms), means)


def test_a_quantity_is_counted_before_it_is_rounded_and_after_it_is_converted() -> None:
    share = line("6.40", "consumable", quantity=Decimal("0.2"))
    hours = line("35.00", "labour", quantity=Decimal("0.6667"), unit="h")
    foreign = line("9.99", currency="USD", rate=Decimal("0.915"), quantity=Decimal(3))
    assert [book(each, "EUR").likely for each in (share, hours, foreign)] == [
        Decimal("1.28"),
        Decimal("23.33"),
        Decimal("27.42"),
    ]


@pytest.mark.parametrize("seed", range(40))
def test_parts_of_a_split_add_up_to_the_last_cent_in_any_currency(seed: int) -> None:
    generator = np.random.default_rng(seed)
    currency = ("EUR", "JPY", "KWD")[seed % 3]
    unit = {"EUR": Decimal("0.01"), "JPY": Decimal(1), "KWD": Decimal("0.001")}[currency]
    amount = unit * int(generator.integers(-500_000, 500_000))
    weights = [Decimal(int(w)) / 100 for w in generator.integers(0, 700, int(generator.integers(1, 9)))]
    weights[0] += 1
    parts = split_exactly(amount, weights, currency)
    assert sum(parts) == amount
    assert all(part % unit == 0 for part in parts)
    total = sum(weights)
    for part, weight in zip(parts, weights, strict=True):
        assert abs(part - amount * weight / total) < unit
        assert weight or not part


def test_a_line_that_is_shared_falls_on_each_step_and_once_on_the_whole() -> None:
    tube = line("10.00", "consumable", split_by="by use", shares={"s0": Decimal(1), "s1": Decimal(2)})
    case = steps((tube, line("5.00")), (line("7.00"),))
    assert [account(case, 0).net, account(case, 1).net] == [Decimal("8.33"), Decimal("13.67")]
    assert account(case, 0, 1).net == Decimal("22.00")
    first = account(case, 0).entries[0]
    assert first.of == Decimal("10.00")
    only_shared = steps((tube,), ())
    assert account(only_shared, 1).net == Decimal("6.67"), "a share is a cost line of the step it falls on"


def test_what_is_not_given_is_not_nothing() -> None:
    case = steps((line("5.00"),), ())
    assert account(case, 1).net is None
    assert account(case, 0, 1).net is None
    assert account_of(case, None).net is None


def test_labour_and_years_are_switches_and_measuring_is_in_no_sum() -> None:
    case = steps(
        (
            line("100.00"),
            line("20.00", "labour"),
            line("10.00", "rework"),
            line("0.30", "electricity", running=HOURS),
            line("17.50", "measuring"),
        )
    )
    # 10 W more, 8 hours on 250 days: 20 kWh, 6.00 a year.
    nets = {
        (labour, years): account(case, 0, labour=labour, years=years).net
        for labour in (True, False)
        for years in (0, 3)
    }
    assert nets == {
        (True, 0): Decimal("130.00"),
        (False, 0): Decimal("100.00"),
        (True, 3): Decimal("148.00"),
        (False, 3): Decimal("118.00"),
    }
    made = account(case, 0)
    assert made.apart == Decimal("17.50")
    assert {e.line.kind: e.left_out for e in made.entries if not e.counts} == {
        "electricity": "no_years",
        "measuring": "apart",
    }


def test_a_faster_part_is_not_charged_for_hours_that_it_no_longer_runs() -> None:
    case = steps((line("0.40", "electricity", running=MEASURED),))
    means = {"power": (60.0, 80.0), "time": (36.0, 18.0)}
    # 0.6 Wh and 0.4 Wh a job, 20 000 jobs a year.
    (entry,) = account(case, 0, means=means, years=2).entries
    assert entry.kwh_a_year == pytest.approx(-4.0)
    assert entry.booked is not None
    assert entry.booked.likely == Decimal("-3.20")
    by_hours = replace(MEASURED, by="hours", time=None)
    always = steps((line("0.40", "electricity", running=by_hours),))
    (entry,) = account(always, 0, means=means, years=2).entries
    assert entry.kwh_a_year == pytest.approx(400.0)


def test_power_that_was_not_measured_is_in_no_sum() -> None:
    case = steps((line("5.00"), line("0.40", "electricity", running=MEASURED)))
    made = account(case, 0, means={"power": (60.0, 80.0)}, years=2)
    assert made.net == Decimal("5.00")
    assert made.entries[1].left_out == "not_measured"


def test_a_gift_has_two_bases_and_only_what_was_not_paid_has_a_worth() -> None:
    gift = line("0.00", basis="gift", worth=Decimal("49.00"), supplier="the maker")
    paid = line("10.00", "shipping", worth=Decimal("99.00"))
    made = account(steps((gift, paid)), 0)
    assert (made.net, made.at_worth) == (Decimal("10.00"), Decimal("59.00"))
    assert [entry.line.supplier for entry in made.unpaid] == ["the maker"]
    assert account(steps((paid,)), 0).at_worth is None
    halves = replace(gift, split_by="even", shares={"s0": Decimal(1), "s1": Decimal(1)})
    case = steps((halves, paid), (line("7.00"),))
    assert [account(case, n).at_worth for n in (0, 1)] == [Decimal("34.50"), Decimal("31.50")]
    assert account(case, 0, 1).at_worth == Decimal("66.00")


def test_the_range_is_that_of_all_uncertain_lines() -> None:
    resale = line("52.00", "resale", low=Decimal("40.00"), high=Decimal("60.00"))
    assert account(steps((line("100.00"), resale)), 0).range == (Decimal("40.00"), Decimal("60.00"))
    assert account(steps((line("100.00"),)), 0).range is None


def test_kinds_that_such_a_change_has_and_nobody_entered_are_named() -> None:
    assert account(steps((line("100.00"),), change="thermal paste"), 0).empty == ("consumable", "tool", "labour")
    full = steps((line("2.00", "consumable"), line("0.00", "tool"), line("5.00", "labour")), change="thermal paste")
    assert account(full, 0).empty == ()
