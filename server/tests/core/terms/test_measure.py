import math
from dataclasses import replace

import pytest
from hypothesis import given
from hypothesis import strategies as st

from lynxbill.core.terms.errors import BadValue, NonPositiveReading, UnitMismatch, UnknownUnit
from lynxbill.core.terms.grain import grain_of, resolution
from lynxbill.core.terms.measure import (
    Measure,
    MeasureId,
    check_reading,
    difference_unit,
    gain_percent,
    margin_bound,
    orient,
    restore,
    time_saved_percent,
    usual_margin,
)
from lynxbill.core.terms.quantity import convert, known_units, unit_of
from tests.builders import RATE, RISE, TIME


def test_a_job_that_falls_from_40_to_30_s_takes_a_quarter_less_time_and_is_a_third_faster() -> None:
    estimate = orient(30.0, TIME) - orient(40.0, TIME)
    assert gain_percent(estimate) == pytest.approx(100 / 3)
    assert time_saved_percent(estimate) == pytest.approx(25)


@given(st.floats(1e-9, 1e12), st.sampled_from([TIME, RATE, RISE]))
def test_restoring_undoes_orienting(value: float, measure: Measure) -> None:
    assert restore(orient(value, measure), measure) == pytest.approx(value, rel=1e-12)


def test_higher_is_better_on_the_scale_of_judgement_whatever_the_measure() -> None:
    assert orient(30.0, TIME) > orient(40.0, TIME)
    assert orient(300.0, RATE) > orient(200.0, RATE)
    assert orient(48.0, RISE) > orient(52.0, RISE)


@pytest.mark.parametrize("value", [0.0, -1.0])
def test_a_ratio_reading_must_be_above_zero(value: float) -> None:
    with pytest.raises(NonPositiveReading):
        orient(value, TIME)
    with pytest.raises(NonPositiveReading, match="above zero"):
        check_reading(value, TIME)


@pytest.mark.parametrize(
    ("scale", "levels", "value"), [("outcome", (), 2), ("ordinal", ("a", "b"), 3), ("ordinal", (), 1.5)]
)
def test_readings_off_their_scale_are_refused(scale: str, levels: tuple[str, ...], value: float) -> None:
    measure = Measure("m", "M", "job", "1", scale, "other", "higher", levels=levels)  # type: ignore[arg-type]
    with pytest.raises(BadValue):
        check_reading(value, measure)


def test_margins_are_log_ratios_for_ratios_and_plain_otherwise() -> None:
    assert margin_bound(2.0, "ratio") == pytest.approx(math.log(1.02))
    assert margin_bound(1.5, "difference") == 1.5


def test_the_resolution_is_the_smallest_decimal_place_seen() -> None:
    plain = Measure(MeasureId("m"), "M", "job", "K", "difference", "heat", "lower")
    assert resolution(grain_of((41.5, 40.0)), 40.75, plain) == pytest.approx(0.1)
    assert resolution(grain_of((41.0, 40.0)), 40.5, plain) == 1.0
    ratio = Measure(MeasureId("m"), "M", "job", "s", "ratio", "time", "lower")
    assert resolution(grain_of((100.0, 400.0)), -math.log(200.0), ratio) == pytest.approx(1 / 200)


@pytest.mark.parametrize(
    ("value", "spelling", "to", "expected"),
    [(104, "MB/s", "MBy/s", 104), (1, "GB/s", "MBy/s", 1000), (2, "min", "s", 120), (1, "MiB/s", "By/s", 1048576)],
)
def test_units_convert_within_their_dimension(value: float, spelling: str, to: str, expected: float) -> None:
    assert convert(value, spelling, unit_of(to)) == pytest.approx(expected)


def test_degrees_are_never_taken_for_kelvin_of_difference() -> None:
    with pytest.raises(UnitMismatch):
        convert(50, "°C", unit_of("K"))


def test_unknown_units_are_refused_with_the_unit_wanted() -> None:
    with pytest.raises(UnknownUnit, match="MB/s"):
        convert(1, "parsecs", unit_of("MBy/s"))
    with pytest.raises(UnknownUnit):
        unit_of("furlong")


def test_every_unit_code_is_its_own() -> None:
    codes = [unit.code for unit in known_units()]
    assert len(set(codes)) == len(codes)


def test_a_unit_may_stand_by_another_or_by_what_is_counted() -> None:
    assert unit_of("MBy/s/W").display == "MB/s per W"
    assert unit_of("s/{minute of film}").display == "s per minute of film"
    assert convert(2.0, "min", unit_of("s")) == 120
    fast = unit_of("kBy/ms")
    assert (fast.factor, fast.dimension) == (1e6, "data per time")
    assert (unit_of("s/{map}").factor, unit_of("s/{map}").dimension) == (1.0, "time per map")
    for wrong in ("MBy/s/parsec", "s/{}", "parsec/{film}", "s/{a}/{b}", "/"):
        with pytest.raises(UnknownUnit):
            unit_of(wrong)


def test_gauges_and_ranks_change_by_points() -> None:
    load = Measure(MeasureId("load"), "Load", "film", "%", "difference", "gauge", "lower")
    assert difference_unit(load) == "{point}"
    assert difference_unit(replace(load, kind="rank", unit="1")) == "{point}"
    assert usual_margin("difference", "fan") == 100 * usual_margin("difference", "heat")
