"""How a change is said, from hardly any to enormous: a table of cases."""

import pytest

from lynxbill.words.base.figures import pair
from lynxbill.words.base.times import say_time, say_times


@pytest.mark.parametrize(
    ("ratio", "sentence", "score"),
    [
        (39802.23, "over 100 times as fast", "over 100 times the score"),
        (100.0, "100.00× as fast", "100.00× the score"),
        (1.34, "1.34× as fast", "1.34× the score"),
        (1.0, "1.00× as fast", "1.00× the score"),
        (0.1, "0.10× as fast", "0.10× the score"),
        (0.08, "12.5 times slower", "8.0 % of the score"),
        (0.03, "33 times slower", "3.0 % of the score"),
        (0.001, "over 100 times slower", "under 1 % of the score"),
    ],
)
def test_a_speed_is_said_so_that_it_can_be_pictured(ratio: float, sentence: str, score: str) -> None:
    assert say_times(ratio, ".") == sentence
    assert say_times(ratio, ".", score=True) == score
    assert say_times(1.34, ",") == "1,34× as fast"


@pytest.mark.parametrize(
    ("saved", "sentence"),
    [
        (99.9975, "under 1 % of the time"),
        (99.0, "99 % less time"),
        (25.4, "25 % less time"),
        (3.64, "3.6 % less time"),
        (-3.64, "3.6 % more time"),
        (-250.0, "250 % more time"),
        (-1400.0, "15.0 times the time"),
        (-2400.0, "25 times the time"),
        (-99_900.0, "over 100 times the time"),
    ],
)
def test_time_is_said_as_less_more_a_hundredth_or_so_many_times(saved: float, sentence: str) -> None:
    assert say_time(saved, ".") == sentence


@pytest.mark.parametrize(
    ("before", "after", "sentence"),
    [
        (312.06, 313.0, ("312.1", "313.0")),
        (1104.2, 1107.4, ("1104", "1107")),
        (1104.2, 1105.0, ("1104.2", "1105.0")),
        (42.118, 31.24, ("42.1", "31.2")),
        (40.0, 40.002, ("40.0000", "40.0020")),
        (9.87, 12.3, ("9.87", "12.3")),
        (55.0, 55.0, ("55.0", "55.0")),
        (0.004, 39802.2, ("0.004", "39\u202f802")),
    ],
)
def test_a_pair_has_the_digits_that_its_difference_needs(
    before: float, after: float, sentence: tuple[str, str]
) -> None:
    assert pair(before, after) == sentence
