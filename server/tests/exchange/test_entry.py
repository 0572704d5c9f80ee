import json
import math
from contextlib import nullcontext, suppress
from pathlib import Path

import pytest
from hypothesis import given
from hypothesis import strategies as st

from lynxbill.core.record.run import Reading
from lynxbill.core.terms.errors import BadValue
from lynxbill.core.terms.quantity import unit_of
from lynxbill.exchange.entry import DecimalMark, parse_entry, parse_reading

DATA = Path(__file__).parents[1] / "data"
S, RATE, K = unit_of("s"), unit_of("MBy/s"), unit_of("K")


@pytest.mark.parametrize(
    ("text", "mark", "expected"),
    [
        ("41.9", ".", 41.9),
        (" 41.9 ", ".", 41.9),
        ("1:52.4", ".", 112.4),
        ("1:02:03", ".", 3723),
        ("15 min 52 s", ".", 952),
        ("2 h 5 min", ".", 7500),
        ("1,5 s", ",", 1.5),
        ("1:52,4", ",", 112.4),
        ("1 240", ".", 1240),
        ("1,240.5", ".", 1240.5),
        ("1.240,5", ",", 1240.5),
        ("1240,5", ",", 1240.5),
        ("1.5e3", ".", 1500),
        (".5", ".", 0.5),
        ("52 min", ".", 3120),
        ("250 ms", ".", 0.25),
    ],
)
def test_times_are_read_as_technicians_write_them(text: str, mark: DecimalMark, expected: float) -> None:
    assert parse_reading(text, S, mark) == pytest.approx(expected)


def test_units_are_converted_into_the_measures_own() -> None:
    assert parse_reading("104 MB/s", RATE) == 104
    assert parse_reading("1.04 GB/s", RATE) == pytest.approx(1040)


@pytest.mark.parametrize(
    ("text", "says"),
    [
        ("", "Write a number"),
        ("fast", "not a number"),
        ("1.2.3", "two decimal marks"),
        ("1240,5", "decimal mark of this machine|this machine's decimal mark"),
        ("12,34,5", "decimal mark"),
        ("41 parsecs", "not a unit known here"),
        ("41 MB/s", "data rate"),
        ("1:75", "seconds to the minute"),
        ("1:75:10", "minutes to the hour"),
        ("4" * 70, "too long"),
        ("9e99", "too large"),
        ("12abc", "not a unit"),
    ],
)
def test_what_cannot_be_read_says_what_to_write(text: str, says: str) -> None:
    with pytest.raises(BadValue, match=says):
        parse_reading(text, S)


def test_minutes_mean_nothing_to_a_measure_in_kelvin() -> None:
    with pytest.raises(BadValue):
        parse_reading("1:30", K)


@given(st.floats(1e-6, 1e9))
def test_any_recorded_number_reads_back_as_itself(value: float) -> None:
    assert parse_reading(repr(value), S) == value


@given(st.text(max_size=60))
def test_no_text_breaks_the_reader(text: str) -> None:
    """Whatever is typed is either a finite number or a refusal in words; nothing else comes out."""
    with suppress(BadValue):
        assert math.isfinite(parse_reading(text, S))


@pytest.mark.parametrize(("text", "mark", "expected"), json.loads((DATA / "typed_numbers.json").read_text()))
def test_the_server_reads_a_typed_number_as_the_browser_does(
    text: str, mark: DecimalMark, expected: float | None
) -> None:
    with pytest.raises(BadValue) if expected is None else nullcontext():
        assert parse_reading(text, K, mark) == expected


@pytest.mark.parametrize(
    ("text", "reading"),
    [
        ("41.9", Reading(41.9, 41.9)),
        ("about 40", Reading(40, 40, about=True)),
        ("~ 1:52 min", None),
        ("~1:52", Reading(112, 112, about=True)),
        ("40 to 42 s", Reading(40, 42)),
        ("40–42", Reading(40, 42)),
        ("1-2 min", Reading(60, 120)),
        ("1:50 to 1:55.5", Reading(110, 115.5)),
        ("highest 71", Reading(71, 71, statistic="highest")),
        ("Max ~71", Reading(71, 71, about=True, statistic="highest")),
        ("mean 40-42", Reading(40, 42, statistic="mean")),
        ("about 40 to 42", None),
        ("42 to 40", None),
        ("about", None),
        ("to 40", None),
    ],
)
def test_marks_of_a_reading_are_typed_with_it(text: str, reading: Reading | None) -> None:
    if reading is None:
        with pytest.raises(BadValue):
            parse_entry(text, S)
    else:
        assert parse_entry(text, S) == reading


def test_what_is_below_zero_is_no_range() -> None:
    assert parse_entry("-3.5", K) == Reading(-3.5, -3.5)
