"""Why a figure could not be read off a trace, in words that say what is missing."""

from dataclasses import replace
from typing import get_args

import pytest

from lynxbill.core.heat.readoff import ReadOff, Untold
from lynxbill.core.heat.settled import Course
from lynxbill.core.terms.measure import Measure, MeasureId
from lynxbill.words.heat.readoff import say_untold

HEAT = Measure(MeasureId("m"), "Soak", "soak", "Cel", "difference", "heat", "lower", trace_figure="settled")
CLIMBS = Course(68.0, "left to go", None, 300.0, 0.5, (1.0, 2.0), 70.0, 2.0, 0.95, 3.0)


@pytest.mark.parametrize("why", get_args(Untold))
def test_every_reason_is_a_whole_sentence_with_the_measures_name(why: Untold) -> None:
    sentence = say_untold(HEAT, "temperature", ReadOff(None, why), ".")
    assert sentence.startswith("Soak: ")
    assert sentence.endswith(".")
    assert "_" not in sentence


def test_what_had_not_settled_says_where_it_was_heading() -> None:
    sentence = say_untold(HEAT, "temperature", ReadOff(None, "climbs", CLIMBS), ",")
    assert sentence == (
        "Soak: not settled at the end, still climbing: 2,0 K to go, about 3 min more; 95 % of the way to 70,0 °C."
    )
    falls = replace(CLIMBS, per_min=-0.5, left=-30.0, heading=1500.0)
    fan = replace(HEAT, name="Fan", kind="fan", unit="/min")
    assert "still falling: 30.0 rpm to go" in say_untold(fan, "fan", ReadOff(None, "falls", falls), ".")


def test_what_was_not_shown_to_have_settled_says_what_is_open() -> None:
    may = replace(CLIMBS, moving="may move", drift=(-0.24, 0.81))
    told = {
        may: "Soak: not shown to have settled: may still move 0.8 K in 3 min; let it run longer.",
        replace(may, drift=None): "Soak: not shown to have settled: too few samples at its end; let it run longer.",
        replace(may, moving="slower part"): (
            "Soak: not shown to have settled: a slower part of it may be left; let it run longer."
        ),
        replace(CLIMBS, heading=None, left=None, gone=None, minutes=None): (
            "Soak: not settled at the end, still climbing, 0.5 K a minute; where it ends is not known yet."
        ),
    }
    for course, says in told.items():
        assert say_untold(HEAT, "temperature", ReadOff(None, "climbs", course), ".") == says


def test_a_named_sensor_that_told_nothing_is_named() -> None:
    sentence = say_untold(replace(HEAT, trace_of="hotspot"), "temperature", ReadOff(None, "no channel"), ".")
    assert sentence == "Soak: the trace has no temperature of “hotspot”."
