"""Doubts as questions: was it typed right? Never whether to leave it out."""

from dataclasses import replace
from typing import get_args

import pytest

from lynxbill.core.reading.doubts import Doubt, DoubtCode
from lynxbill.core.terms.measure import Measure
from lynxbill.words.results.doubts import say_doubt
from tests.builders import RATE, RISE, TIME

SLIP = Doubt(TIME.id, "slip_of_digits", 418.0, 41.8, 41.8)


@pytest.mark.parametrize("code", get_args(DoubtCode))
def test_every_doubt_is_a_question_or_says_what_can_t_be(code: DoubtCode) -> None:
    asked = say_doubt(replace(SLIP, code=code), TIME)
    assert asked.startswith(("418 s", "The highest, 418 s"))
    assert asked.endswith("?")
    assert "leave" not in asked


@pytest.mark.parametrize(
    ("doubt", "measure", "mark", "asked"),
    [
        (SLIP, TIME, ".", "418 s? Its siblings are near 41.8 s. Is it typed right?"),
        (replace(SLIP, value=418.25), TIME, ",", "418,25 s? Its siblings are near 41,8 s. Is it typed right?"),
        (replace(SLIP, code="no_temperature", value=706.0), RISE, ".", "706 K? No part of a PC is read at that."),
        (
            replace(SLIP, code="above_the_link", value=7200.0, siblings=3940.0),
            RATE,
            ".",
            "7200 MB/s is more than its link can carry, 3940 MB/s: a cache, or a slip?",
        ),
        (
            replace(SLIP, code="highest_below_settled", value=61.0, siblings=68.5),
            RISE,
            ",",
            "The highest, 61 K, lies below the other, 68,5 K. Is it typed right?",
        ),
    ],
)
def test_it_is_asked_with_the_figures_as_they_were_typed(
    doubt: Doubt, measure: Measure, mark: str, asked: str
) -> None:
    assert say_doubt(doubt, measure, mark).startswith(asked)
