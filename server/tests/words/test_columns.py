"""Two columns of figures: both forms at once, in the right direction, and never a verdict."""

import pytest

from lynxbill.core.reading.columns import lay_beside
from lynxbill.core.terms.errors import BadValue, NonPositiveReading, Several
from lynxbill.core.terms.measure import Measure, MeasureId
from lynxbill.services.evidence.columns import compare_columns
from lynxbill.words.base.figures import shown
from lynxbill.words.results.columns import NO_VERDICT, say_columns

TIME = Measure(MeasureId("t"), "t", "", "s", "ratio", "time", "lower")
RATE = Measure(MeasureId("r"), "r", "", "MBy/s", "ratio", "rate", "higher")
HEAT = Measure(MeasureId("h"), "h", "", "Cel", "difference", "heat", "lower")
NOISE = Measure(MeasureId("n"), "n", "", "dB[SPL]", "level", "noise", "lower")
POWER = Measure(MeasureId("p"), "p", "", "W", "ratio", "power", "lower")
FAN = Measure(MeasureId("f"), "f", "", "/min", "difference", "fan", "lower")


@pytest.mark.parametrize(
    ("measure", "before", "after", "sentence"),
    [
        (TIME, "40", "30", "From 40.0 to 30.0 s: 25.0 % less time, 1.33× as fast (+33.3 %)."),
        (TIME, "30", "40", "From 30.0 to 40.0 s: 33.3 % more time, 0.75× as fast (−25.0 %)."),
        (RATE, "104 MB/s", "140", "From 104 to 140 MB/s: 1.35× as fast (+34.6 %)."),
        (HEAT, "64.5\n65.5", "61", "From 65.0 to 61.0 °C: 4.0 K cooler."),
        (HEAT, "61", "65.6", "From 61.0 to 65.6 °C: 4.6 K hotter."),
        (NOISE, "38.2", "37", "From 38.2 to 37.0 dB(A): 1.2 dB(A) quieter."),
        (POWER, "100", "80", "From 100.0 to 80.0 W: 20.0 % less power."),
        (FAN, "0", "900", "From 0 to 900 rpm: 900 rpm faster fan."),
        (TIME, "40;40", "40", "40.0 s before and after: no difference in these figures."),
    ],
)
def test_a_change_is_said_in_every_form_that_it_has(measure: Measure, before: str, after: str, sentence: str) -> None:
    lines = say_columns(compare_columns(measure, before, after, "."), ".")
    assert lines == [sentence, NO_VERDICT]


def test_columns_are_read_as_they_are_typed_by_the_decimal_mark() -> None:
    columns = compare_columns(TIME, "1:52,4\n1:52,6", "about 90\t91", ",")
    assert columns.looks == (2, 2)
    assert say_columns(columns, ",")[0].startswith("From 112,5 to 90,5 s: 19,6 % less time, 1,24× as fast (+24,")


def test_a_figure_that_cannot_be_read_is_named_with_its_column() -> None:
    with pytest.raises(Several) as refused:
        compare_columns(TIME, "40\nforty", "", ".")
    assert {refusal.field for refusal in refused.value.refusals} == {"before", "after"}
    with pytest.raises(Several) as negative:
        compare_columns(TIME, "40", "-1", ".")
    assert isinstance(negative.value.refusals[0], NonPositiveReading)
    with pytest.raises(BadValue):
        lay_beside(TIME, [], [])


@pytest.mark.parametrize(
    ("value", "decimals", "mark", "text"),
    [(1234.5, 1, ".", "1234.5"), (-12345.0, 0, ".", "−12\u202f345"), (-0.04, 1, ",", "0,0"), (2.5, 2, ",", "2,50")],
)
def test_a_shown_figure_has_one_form(value: float, decimals: int, mark: str, text: str) -> None:
    assert shown(value, decimals, mark) == text  # type: ignore[arg-type]
