"""Figures as they are shown: one form everywhere, rounded once, with the machine's decimal mark."""

from dataclasses import replace
from decimal import Decimal

import pytest

from lynxbill.core.change.candidates import Ranked
from lynxbill.core.change.fit import Fit
from lynxbill.core.plan.planning import Strength
from lynxbill.core.record.build import Candidate
from lynxbill.core.result.restoring import BuildMean, HistoryLine, Recovered
from lynxbill.core.result.traits import TraitPoint, Trend
from lynxbill.core.statistics.scatter import Noise
from lynxbill.core.terms.measure import MeasureId
from lynxbill.words.base.figures import decimals_for, figure, pair, reading, shown, signed_percent, step
from lynxbill.words.job.history import say_candidate, say_line, say_recovered
from lynxbill.words.job.planned import say_strength
from lynxbill.words.money.account import bare
from lynxbill.words.results.statistics import exact
from lynxbill.words.results.trends import say_trend
from tests.builders import TIME

SOAK = replace(TIME, id=MeasureId("m"), name="Soak", unit="Cel", scale="difference", kind="heat")


@pytest.mark.parametrize(
    ("half_width", "decimals"), [(None, 1), (0.0, 1), (12.0, 0), (1.2, 1), (0.12, 2), (0.0123, 3), (1e-9, 6)]
)
def test_an_estimate_is_shown_to_the_digit_that_its_interval_deserves(
    half_width: float | None, decimals: int
) -> None:
    assert decimals_for(half_width) == decimals


def test_numbers_carry_a_true_minus_sign_and_none_on_what_rounds_to_nothing() -> None:
    assert [shown(-4.56, 1), shown(-0.01, 1), shown(1234567.8, 1), shown(1240, 0)] == [
        "−4.6",
        "0.0",
        "1\u202f234\u202f567.8",
        "1240",
    ]
    assert [signed_percent(34.14, 1), signed_percent(-2.5, 1), signed_percent(0.04, 1)] == [
        "+34.1 %",
        "−2.5 %",
        "0.0 %",
    ]
    assert shown(41.5, 1, ",") == "41,5"
    assert [figure(value) for value in (512, 41.93, 9.124, 0.1234)] == ["512", "41.9", "9.12", "0.123"]


def test_long_times_are_minutes_and_seconds() -> None:
    assert [reading(952, "s"), reading(41.9, "s"), reading(7260, "s"), reading(123, "")] == [
        "15 min 52 s",
        "41.9 s",
        "2 h 1 min",
        "123",
    ]


def test_money_passes_through_no_float() -> None:
    assert bare(Decimal("123456789012345678.91"), ",") == "123\u202f456\u202f789\u202f012\u202f345\u202f678,91"
    assert bare(Decimal("-0.10"), ".") == "−0.10"


@pytest.mark.parametrize(
    ("before", "after", "unit", "sentence"),
    [
        (117.8, 118.6, "", ("117.8", "118.6", "0.8")),
        (966, 790, "s", ("16 min 6 s", "13 min 10 s", "2 min 56 s")),
        (330, 290, "s", ("5 min 30 s", "4 min 50 s", "40 s")),
        (966.2, 965.9, "s", ("966.2", "965.9 s", "0.3 s")),
        (41.94, 31.16, "s", ("41.9", "31.2 s", "10.7 s")),
        (212.4, 271.3, "MB/s", ("212", "271 MB/s", "59 MB/s")),
        (5200, 8100, "s", ("1 h 27 min", "2 h 15 min", "48 min")),
    ],
)
def test_a_step_is_shown_in_one_form_and_what_is_shown_adds_up(
    before: float, after: float, unit: str, sentence: tuple[str, str, str]
) -> None:
    assert step(before, after, unit) == sentence


@pytest.mark.parametrize(
    ("value", "text"),
    [
        (0.298123456789, "0.2981235"),
        (-1234567.89, "−1234568"),
        (0.0000001234, "1.234e−7"),
        (42, "42"),
        (1e-30, "1e−30"),
    ],
)
def test_a_figure_behind_its_rounded_one_has_seven_digits(value: float, text: str) -> None:
    assert exact(value, ".") == text


def test_the_history_stands_above_the_room_and_says_where_none_was_noted() -> None:
    point = BuildMean("a", 38.6, 1, 3, recheck=False, above_room=True)
    raw = replace(point, build="b", mean=61.2, above_room=False)
    worded = say_line(HistoryLine("m", (point, raw)), SOAK, ".")
    assert (worded.unit, worded.means) == ("K above the room", ("38.6", "61.2 °C, room not noted"))
    assert say_line(HistoryLine("m", (raw,)), SOAK, ",").means == ("61,2",)


def test_what_came_back_is_said_with_what_it_rests_on() -> None:
    share = Recovered(
        "m", "a", "b", "c", 2 / 3, 0.5, 0.9, ("thermal paste",), as_new_measured=True, room_missing=False
    )
    names = {"m": "Soak"}
    assert say_recovered(share, names, ".") == "Soak: 67 % of what was lost came back (50 to 90 %)."
    beyond = say_recovered(replace(share, share=1.2), names, ".")
    assert beyond.endswith("Better than new: more than the wear was changed.")
    bundle = replace(share, low=None, high=None, changes=("thermal paste", "dust-out"))
    assert "(between which ends is not settled) by thermal paste and dust-out together" in say_recovered(
        bundle, names, "."
    )
    assert "remembered or claimed" in say_recovered(replace(share, as_new_measured=False), names, ".")
    assert "no share" in say_recovered(replace(share, share=None), names, ".")


def test_a_plan_with_two_looks_says_what_each_finds() -> None:
    noise = Noise(0.01, 4, 3)
    strength = Strength("time", noise, 3, 2.44, 0.4, 3.1, 2.2, 12.6, 5.0, 4)
    worded = say_strength(strength, TIME, 6, ".")
    assert (worded.detectable, worded.with_five) == ("2.4 %", "13 %")
    assert worded.two_looks == (
        "A gain from 2.4 % on is found in 8 of 10 jobs: 50 of 100 of those after 3 sittings a side, "
        "the rest after up to 6."
    )
    assert say_strength(strength, TIME, None, ".").two_looks is None


def test_a_candidate_says_what_is_not_known_with_a_dash() -> None:
    candidate = Candidate("c", "drive", "Siskin", expected_gain=4.5)
    ranked = Ranked(candidate, Fit("fits", (), ()), 0.54)
    assert say_candidate(ranked, None, ",") == say_candidate(ranked, None, ",")
    worded = say_candidate(ranked, 3.96, ",")
    assert (worded.expected, worded.per_10, worded.achieved) == ("+4,5 %", "0,54 %", "+4,0 %")
    bare_one = say_candidate(Ranked(replace(candidate, expected_gain=None), ranked.fit, None), None, ".")
    assert (bare_one.expected, bare_one.per_10, bare_one.achieved) == ("–", "–", "–")


@pytest.mark.parametrize(
    ("rising", "falling", "says"),
    [
        (5, 1, "In 5 of 6 pairs of tasks the one with more photos gained more."),
        (0, 6, "In all 6 pairs of tasks the one with more photos gained less."),
        (1, 0, "In the only pair of tasks the one with more photos gained more."),
        (3, 3, "The gain does not follow photos: of 6 pairs of tasks, half rise with it and half fall."),
        (0, 0, "The tasks gained alike, whatever their photos."),
    ],
)
def test_a_trend_says_in_how_many_pairs_of_jobs_more_meant_more(rising: int, falling: int, says: str) -> None:
    points = tuple(TraitPoint("time", float(n), 0.1) for n in range(4))
    worded = say_trend(Trend("photos", points, rising, falling, None, ("files",)), {"time": "Job"}, ".")
    assert worded.says == says
    assert worded.doubt == (
        "A suggestion only: 4 tasks are few; it takes twelve to tell a trend from chance, "
        "and files moves with it and may be what counts."
    )
    assert worded.points.startswith("Job: 0 photos, 10.5 %")


def test_means_that_differ_in_their_last_binary_digit_are_written_as_one_figure() -> None:
    before, after = 46.35, 46.35 + 2**-46
    assert before != after
    first, second = pair(before, after)
    assert first == second
    assert len(first) <= len("46.35")
