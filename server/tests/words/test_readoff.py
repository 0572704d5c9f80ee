"""Why a figure could not be read off a trace, in words that say what is missing."""

from dataclasses import replace
from typing import get_args

import pytest

from lynxbill.core.heat.readoff import ReadOff, Untold
from lynxbill.core.heat.settled import Course
from lynxbill.core.terms.measure import Measure, MeasureId
from lynxbill.words.heat.readoff import say_untold

HEAT = Measure(MeasureId("m"), "Soak", "soak", "Cel", "difference", "heat", "lower", trace_figure="settled")
CLIMBS = Course(68.0, False, None, 300.0, 0.5, "climbs", 150.0, 70.0, 2.0, 0.95, 3.0)


@pytest.mark.parametrize("why", get_args(Untold))
def test_every_reason_is_a_whole_sentence_with_the_measures_name(why: Untold) -> None:
    said = say_untold(HEAT, "temperature", ReadOff(None, why), ".")
    assert said.startswith("Soak: ")
    assert said.endswith(".")
    assert "_" not in said


def test_what_had_not_settled_says_where_it_was_heading() -> None:
    said = say_untold(HEAT, "temperature", ReadOff(None, "climbs", CLIMBS), ",")
    assert said == (
        "Soak: not settled at the end, still climbing: 2,0 K to go, about 3 min more; 95 % of the way to 70,0 °C."
    )
    falls = replace(CLIMBS, way="falls", left=-30.0, heading=1500.0)
    fan = replace(HEAT, name="Fan", kind="fan", unit="/min")
    assert "still falling: 30.0 rpm to go" in say_untold(fan, "fan", ReadOff(None, "falls", falls), ".")


def test_a_named_sensor_that_told_nothing_is_named() -> None:
    said = say_untold(replace(HEAT, trace_of="hotspot"), "temperature", ReadOff(None, "no channel"), ".")
    assert said == "Soak: the trace has no temperature of “hotspot”."
