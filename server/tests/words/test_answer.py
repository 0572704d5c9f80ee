"""The answer to the question that a machine came with: yes, no or not settled, and what was hoped for."""

from dataclasses import replace
from typing import Any

import pytest

from lynxbill.core.record.plan import PlannedMeasure
from lynxbill.core.result.answer import answer_of
from lynxbill.core.result.comparison import judge
from lynxbill.core.result.result import MeasureResult
from lynxbill.core.terms.measure import Measure
from lynxbill.words.results.answer import say_answer, say_hoped
from tests.builders import RATE, RISE, TIME, Side, make_case

SLOW, FAST, ODD = [[40.0], [40.2], [40.1]], [[30.0], [30.2], [30.1]], [[30.0], [41.0], [39.0]]


def judged(before: Side, after: Side, measure: Measure = TIME, hoped: float | None = None) -> MeasureResult:
    case = make_case(before, after, measure, headline=measure.id)
    (swap,) = case.swaps
    planned = PlannedMeasure("claim", 2.0, hoped)
    plan = replace(swap.plan, measures={measure.id: planned})
    (result,) = judge(replace(case, swaps=(replace(swap, plan=plan),))).measures
    return replace(result, shown=True) if not result.is_given else result


def answer(result: MeasureResult | None, mark: Any = ".") -> str:
    return say_answer(answer_of(result), result, mark)


@pytest.mark.parametrize(
    ("result", "sentence"),
    [
        (
            judged(SLOW, FAST, hoped=25.0),
            "Yes: Job takes 25 % less time (+33 % speed), and that is more than chance.",
        ),
        (judged(SLOW, FAST, hoped=50.0), "No, less than was hoped for: Job takes 25 % less time (+33 % speed)"),
        (judged(FAST, SLOW, hoped=25.0), "No, less than was hoped for: Job takes 33 % more time"),
        (judged(SLOW, ODD, hoped=25.0), "Not settled: Job takes"),
        (
            judged(SLOW, SLOW, hoped=25.0),
            "No, less than was hoped for: Job did not change by an amount that",
        ),
        (judged(SLOW, FAST), "Job takes 25 % less time (+33 % speed), and that is more than"),
        (judged(FAST, SLOW, RATE), "Rate gives +33"),
        (judged(SLOW, FAST, RISE), "Rise: 10.00 K cooler, and that is more than"),
        (None, "Nothing was measured yet."),
    ],
)
def test_one_sentence_answers_in_a_customers_words(result: MeasureResult | None, sentence: str) -> None:
    assert answer(result).startswith(sentence)


def test_what_is_not_settled_says_between_which_ends_it_may_lie() -> None:
    assert ", but that may be chance: it may lie anywhere from " in answer(judged(SLOW, ODD, hoped=25.0))


def test_what_was_hoped_for_stands_in_both_forms_where_it_is_speed() -> None:
    assert answer(judged(SLOW, FAST, hoped=25.0)).endswith("Hoped for: +25 % speed, which is 20 % less time.")
    assert say_hoped(12.5, judged(FAST, SLOW, RATE), ",") == "+12,5 % speed"
    assert say_hoped(6.0, judged(SLOW, FAST, RISE), ".") == "6 K"


def test_the_decimal_mark_is_the_machines() -> None:
    slower, faster = [[40.0], [40.2], [40.1]], [[38.0], [38.2], [38.1]]
    assert answer(judged(slower, faster), ",").startswith("Job takes 5,0 % less time (+5,2 % speed)")
