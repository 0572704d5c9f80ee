"""A figure made from several sensors is no better than what it is made from."""

import math
from dataclasses import replace

import pytest

from lynxbill.core.reading.reading import combine_readings, derive_reading, hold_against, reading_width
from lynxbill.core.record.run import Reading
from lynxbill.core.terms.errors import BadValue
from lynxbill.core.terms.measure import Measure, MeasureId
from tests.builders import TIME

HOTTEST = Measure(MeasureId("die"), "Die", "soak", "Cel", "difference", "heat", "lower", combined_by="highest")
MEAN = replace(HOTTEST, combined_by="mean")


def exact(value: float) -> Reading:
    return Reading(value, value)


def test_an_about_among_the_parts_stays_one_and_widens_a_mean_by_its_share() -> None:
    parts = [exact(61.5), Reading(60.0, 60.0, about=True)]
    assert combine_readings(HOTTEST, parts) == Reading(61.5, 61.5, about=True)
    mean = combine_readings(MEAN, parts)
    assert (mean.low, mean.high, mean.about) == (58.25, 63.25, True)
    assert reading_width(mean, MEAN) == pytest.approx(10 / 2, rel=0.01)


@pytest.mark.parametrize(
    ("sources", "made"),
    [
        ((None, None), None),
        ((None, "remembered"), "remembered"),
        (("remembered", "claimed"), "claimed"),
        (("inherited", "remembered"), "inherited"),
    ],
)
def test_what_was_told_of_one_part_is_told_of_the_whole(sources: tuple[None, None], made: str | None) -> None:
    parts = [replace(exact(60.0), source=source) for source in sources]
    assert combine_readings(HOTTEST, parts).source == made


def test_ranges_combine_end_by_end_and_one_statistic_is_kept() -> None:
    parts = [Reading(60.0, 64.0, statistic="settled"), Reading(62.0, 63.0, statistic="settled")]
    assert combine_readings(HOTTEST, parts) == Reading(62.0, 64.0, statistic="settled")
    assert combine_readings(MEAN, parts) == Reading(61.0, 63.5, statistic="settled")
    with pytest.raises(BadValue, match="highest, settled"):
        combine_readings(HOTTEST, [parts[0], replace(parts[1], statistic="highest")])


def test_an_about_is_as_wide_as_its_last_digit() -> None:
    assert reading_width(Reading(40.0, 40.0, about=True), HOTTEST) == 10.0
    assert reading_width(Reading(41.5, 41.5, about=True), HOTTEST) == pytest.approx(0.1)
    assert reading_width(Reading(40.0, 44.0), TIME) == pytest.approx(math.log(44 / 40))
    assert reading_width(exact(40.0), TIME) == 0.0


def test_a_total_follows_its_rule_and_what_is_derived_its_division() -> None:
    parts = [exact(12.5), Reading(7.0, 8.0)]
    total = combine_readings(replace(MEAN, combined_by="sum"), parts)
    assert (total.low, total.high) == (19.5, 20.5)
    assert combine_readings(replace(MEAN, combined_by="lowest"), parts) == Reading(7.0, 8.0)
    told = Reading(100.0, 100.0, source="remembered")
    assert derive_reading(told, Reading(4.0, 5.0, about=True)) == Reading(20.0, 25.0, about=True, source="remembered")
    with pytest.raises(BadValue):
        derive_reading(told, 0.0)


def test_a_need_is_met_only_where_all_that_a_reading_leaves_open_meets_it() -> None:
    free = replace(HOTTEST, kind="amount", unit="GBy", better="higher")
    assert hold_against(exact(0.5), free, 0.5).value == 1
    for reading in (exact(0.49), Reading(0.4, 0.6), Reading(0.5, 0.5, about=True)):
        assert hold_against(reading, free, 0.5).value == 0
    assert hold_against(Reading(60.0, 70.0, source="claimed"), HOTTEST, 70.0) == Reading(1.0, 1.0, source="claimed")
    assert hold_against(Reading(60.0, 71.0), HOTTEST, 70.0).value == 0
