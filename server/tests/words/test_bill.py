"""The bill in words: they go with the verdict, and divide nothing that can't be divided."""

from dataclasses import replace
from decimal import Decimal
from typing import Any

import pytest

from lynxbill.core.record.frame import Case
from lynxbill.core.result.comparison import judge, showings_of
from lynxbill.core.terms.measure import Measure, MeasureId
from lynxbill.core.terms.money import CostLine
from lynxbill.core.value.bill import judge_and_bill
from lynxbill.words.money.account import money
from lynxbill.words.money.bill import WordedOfBill, say_bill
from tests.builders import DAY, RISE, make_case

SLOW = [[40.0, 40.2, 40.1], [40.3, 40.1, 40.2], [40.1, 40.0, 40.2]]
FAST = [[30.0, 30.2, 30.1], [30.3, 30.1, 30.2], [30.1, 30.0, 30.2]]


def costing(case: Case, *amounts: str, kind: Any = "part") -> Case:
    lines = tuple(CostLine(kind, "Varro", Decimal(amount), "EUR") for amount in amounts)
    return replace(case, swaps=(replace(case.swaps[0], costs=lines),))


def given(case: Case) -> Case:
    """Judge has shown all verdicts."""
    entries = showings_of(case, judge(case), judge(case).measures, at=DAY)
    return replace(case, swaps=(replace(case.swaps[0], shown=entries),))


def bill(case: Case, mark: Any = ".") -> WordedOfBill:
    billed = judge_and_bill(case)
    return say_bill(billed.comparison, billed.bill, "Processor", mark)


def test_it_leads_with_what_was_bought_that_it_is_real_its_cost_and_its_value_with_the_interval() -> None:
    worded = bill(given(costing(make_case(SLOW, FAST, headline="time"), "94.90")))
    assert worded.sentence.startswith("Processor: Job 1.33× as fast (25 % less time), real, for 94.90 EUR net: 3.4")
    assert worded.sentence.endswith(")."), "with its interval"
    assert "% speed per 10 EUR (3.4" in worded.sentence
    assert worded.interval is not None
    assert worded.interval.startswith("95 % interval 3.4")
    assert worded.values["time"].startswith(worded.per_10)
    comma = bill(given(costing(make_case(SLOW, FAST, headline="time"), "94.90")), ",")
    assert "94,90 EUR" in comma.sentence
    assert "." not in comma.sentence.removesuffix(".")


def test_heat_is_bought_in_kelvin_and_a_tiny_cost_leads_with_the_plain_pair() -> None:
    sides = [[50.0, 50.2, 50.1], [50.3, 50.4, 50.2], [49.8, 50.0, 49.9]], [[45.0, 45.2, 45.1]] * 3
    cooler = make_case(*sides, measure=replace(RISE, step=0.1), matters_from=1.0)
    worded = bill(given(costing(cooler, "1.28")))
    assert worded.sentence == "Processor: Rise 5.00 K cooler, real, for 1.28 EUR net."
    assert worded.per_10.endswith(" K")


def test_what_works_now_has_a_cost_for_each_and_felt_steps_have_none() -> None:
    works = Measure(MeasureId("w"), "Programs", "job", "1", "outcome", "other", "higher", of=9)
    worded = bill(given(costing(make_case([[5.0]] * 4, [[9.0]] * 4, measure=works), "38.00")))
    assert worded.values["w"] == "9.50 EUR each"
    assert worded.sentence.endswith("real, for 38.00 EUR net: 9.50 EUR each.")
    felt = Measure(MeasureId("f"), "Lag", "job", "1", "ordinal", "felt", "higher", levels=("a", "b", "c"))
    assert (
        bill(given(costing(make_case([[1.0]] * 4, [[3.0]] * 4, measure=felt), "38.00"))).values["f"]
        == "felt steps have no price"
    )


@pytest.mark.parametrize(
    ("amounts", "kind", "says"),
    [
        ((), "part", "real. Cost not given."),
        (("0.00",), "part", "real, for nothing."),
        (("5.00",), "resale", "and it pays for itself: −5.00 EUR net."),
    ],
)
def test_what_is_not_given_is_not_nothing_and_nothing_does_not_pay(
    amounts: tuple[str, ...], kind: Any, says: str
) -> None:
    worded = bill(given(costing(make_case(SLOW, FAST, headline="time"), *amounts, kind=kind)))
    assert worded.sentence.endswith(says)
    assert "per 10" not in worded.sentence


@pytest.mark.parametrize(
    ("before", "after", "says", "per_10"),
    [
        (FAST, SLOW, "and the loss is real.", "no gain to divide"),
        (SLOW, SLOW, "did not change by an amount that matters: no gain to divide.", "no gain to divide"),
        ([[40.0]], [[30.0]], "What it bought is not tested yet.", "–"),
        (
            [[40.0], [41.5], [40.6]],
            [[39.2], [40.9], [39.9]],
            "Whether it bought anything is not settled:",
            "not settled",
        ),
    ],
)
def test_its_words_go_with_the_verdict_and_there_is_no_ratio_without_a_real_gain(
    before: Any, after: Any, says: str, per_10: str
) -> None:
    worded = bill(given(costing(make_case(before, after, headline="time"), "94.90")))
    assert says in worded.sentence
    assert worded.per_10 == per_10
    assert "per 10" not in worded.sentence


def test_a_verdict_that_judge_has_not_given_yet_has_no_value_here() -> None:
    worded = bill(costing(make_case(SLOW, FAST, headline="time"), "94.90"))
    assert worded.sentence.endswith("Job is complete: judge it, then this says what it bought.")
    assert (worded.per_10, worded.interval, worded.values) == ("–", None, {"time": "–"})


def test_money_is_written_to_its_minor_unit() -> None:
    assert money(Decimal("118.00"), "EUR", ",") == "118,00 EUR"
    assert money(Decimal("12500"), "JPY", ".") == "12\u202f500 JPY"


def test_the_interval_is_named_by_the_level_of_its_look() -> None:
    two_looks = make_case(SLOW, FAST, headline="time", sittings_a_side=3, at_most=6)
    worded = bill(given(costing(two_looks, "94.90")))
    assert worded.interval is not None
    assert worded.interval.startswith("97 % interval ")
