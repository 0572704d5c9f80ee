"""The account in words: where each amount comes from, what is in no sum, and what was not paid."""

from dataclasses import replace
from datetime import date
from decimal import Decimal
from typing import Any

import pytest

from lynxbill.core.result.comparison import judge
from lynxbill.core.terms.measure import Measure, MeasureId
from lynxbill.core.value.account import Terms, account_of
from lynxbill.core.value.alternatives import options_of
from lynxbill.core.value.better import Better
from lynxbill.words.money.account import WordedAccount, say_account
from lynxbill.words.money.bill import bought_in
from lynxbill.words.money.options import WordedOption, say_better, say_option
from tests.builders import TIME, make_case
from tests.core.value.test_account import HOURS, line, steps
from tests.core.value.test_alternatives import TWO, candidate
from tests.words.test_bill import costing, given


def sentence(*lines: Any, mark: Any = ".", **terms: Any) -> WordedAccount:
    case = steps(lines)
    return say_account(account_of(case, case.swaps, Terms(**terms)), mark)


@pytest.mark.parametrize(
    ("cost", "detail"),
    [
        (line("118.00", basis="used", supplier="an auction"), "part, used, from an auction"),
        (line("35.00", "labour", quantity=Decimal("0.60"), unit="h"), "labour, 0.6 h at 35.00"),
        (line("52.00", "resale"), "resale expected"),
        (line("52.00", "resale", on=date(2026, 5, 9)), "resale received 9 May 2026"),
        (
            line("20.00", currency="USD", rate=Decimal("0.92"), rate_date=date(2026, 5, 4)),
            "part, in USD, at 0.92 of 4 May 2026",
        ),
        (line("0.00", basis="gift", worth=Decimal("49")), "part, a gift: nothing paid, 49 EUR in a shop"),
        (
            line("0.00", basis="drawer", worth=Decimal("20")),
            "part, from the drawer: nothing paid, worth about 20 EUR",
        ),
        (
            line("0.00", basis="gift", worth=Decimal("49"), currency="USD", rate=Decimal("0.92")),
            "part, a gift: nothing paid, 49 USD in a shop, in USD, at 0.92",
        ),
        (
            line("0.30", "electricity", running=HOURS),
            "electricity, 20.0 kWh a year more at 0.3 a kWh, for one year; in no sum until years are chosen",
        ),
    ],
)
def test_each_line_says_where_its_amount_comes_from(cost: Any, detail: str) -> None:
    (entry,) = sentence(cost).entries
    assert entry.detail == detail


def test_amounts_are_written_with_the_machine_s_decimal_mark() -> None:
    made = sentence(line("1240.50"), line("40.25", "resale", low=Decimal("30.00"), high=Decimal("45.00")), mark=",")
    assert [entry.amount for entry in made.entries] == ["1240,50", "\u221240,25"]
    assert made.net == "1200,25 EUR"
    assert made.range == "between 1195,50 and 1210,50 EUR"


def test_who_gave_a_part_and_what_it_is_worth_is_said_beside_the_verdict() -> None:
    made = sentence(line("0.00", label="Marl kit", basis="gift", worth=Decimal("49.00"), supplier="the maker"))
    assert made.unpaid == ("Marl kit is a gift, from the maker: nothing paid, 49.00 EUR in a shop.",)
    assert (made.net, made.at_worth) == ("0.00 EUR", "49.00 EUR")


def test_what_is_left_out_is_named() -> None:
    made = sentence(line("17.50", "measuring"), line("5.00", "labour"), labour=False)
    assert made.apart == "Measuring it took 17.50 EUR besides."
    assert made.not_counted == "Not counted: part, delivery, consumables, days out of use, electricity and resale."
    assert [entry.counts for entry in made.entries] == [False, False]


def test_an_account_is_questioned_where_it_looks_wrong() -> None:
    twice = sentence(line("5.00", label="Varro"), line("6.00", label="varro"))
    assert twice.doubts == ("“varro” stands in it twice: is it one price, quoted two ways?",)
    mixed = sentence(line("5.00", label="a", basis="list"), line("6.00", label="b", basis="used"))
    assert mixed.doubts == ("Prices of different kinds stand side by side: list price and used.",)
    free = sentence(line("0.00", label="Marl"))
    assert free.doubts[0].startswith("“Marl” stands at nothing: was it a gift, or from the drawer?")


def rows(*candidates: Any) -> dict[str, WordedOption]:
    case = replace(TWO, candidates=candidates)
    found = options_of(case, {s.id: judge(case, s.before, s.after) for s in case.swaps}, TIME, Terms())
    return {option.label: say_option(option, TIME, "EUR", ".") for option in found}


def test_a_row_and_its_point_in_the_picture_agree_and_what_is_unknown_has_no_point() -> None:
    made = rows(candidate("drive", "74.00", 4.0, 1.0, 8.0), replace(candidate("open", "9.00", 1.0), price=None))
    swap, drive = made["B to C"], made["drive"]
    assert (swap.cost, swap.verdict, swap.is_expected) == ("100.00", "real_gain", False)
    assert swap.point is not None
    assert swap.gain == f"+{swap.point.gain:.2f} %"
    assert (drive.gain, drive.gain_range, drive.value, drive.verdict) == ("+4.0 %", "+1.0 to +8.0", "0.54", None)
    assert (made["open"].cost, made["open"].point) == ("not given", None)
    assert made["Do nothing"].gain == "none"


@pytest.mark.parametrize(
    ("better", "words"),
    [
        (Better(0.9996), "Better value than “X”, more than 99.9 % sure."),
        (Better(0.97), "Better value than “X”, 97 % sure."),
        (Better(0.004), "Worse value than “X”, 99.6 % sure."),
        (Better(0.6), "Against “X” it is not settled which was better value: 60 % for this one."),
        (
            Better(None, "no_costs"),
            "Against “X”: the cost of one of them is not given, so their values can’t be weighed.",
        ),
    ],
)
def test_one_swap_is_called_better_only_where_that_is_sure(better: Better, words: str) -> None:
    assert say_better(better, "X", ".") == words


def test_what_is_weighed_by_one_measure_is_not_said_to_be_beyond_weighing() -> None:
    sentence = say_better(Better(None, "other_work"), "X", ".", "Render")
    assert sentence == (
        "Against “X” as wholes: they were judged by different work, so their values can’t be weighed. "
        "By Render alone they are weighed in the table, under “buys most”."
    )


def test_a_set_is_counted_in_what_passes_in_row_picture_and_cost() -> None:
    works = Measure(MeasureId("w"), "Programs", "job", "1", "outcome", "other", "higher", of=9)
    case = given(costing(make_case([[5.0]] * 4, [[9.0]] * 4, measure=works), "38.00"))
    (swap,) = case.swaps
    options = options_of(case, {swap.id: judge(case)}, works, Terms())
    made = next(option for option in options if option.kind == "swap")
    worded = say_option(made, works, "EUR", ",")
    assert (worded.gain, worded.value, worded.extra) == ("5 of 9 passed → 9 of 9", "9,50 each", "1,05")
    assert worded.point is not None
    assert worded.point.gain == pytest.approx(4.0)
    assert bought_in(works) == "more that pass"
