"""Wear: a slope over visits with its interval, and the day on which a limit is passed; a short time tells nothing."""

from collections.abc import Sequence
from dataclasses import replace
from datetime import UTC, datetime, timedelta
from itertools import zip_longest

import numpy as np
import pytest

from lynxbill.core.record.frame import Case
from lynxbill.core.record.ids import SittingId
from lynxbill.core.record.run import Reading, Sitting
from lynxbill.core.result.wear import YEAR, find_wear, slope_of
from lynxbill.core.terms.measure import MeasureId
from lynxbill.words.job.history import say_wear
from tests.builders import RISE, make_case, make_run

BEGAN = datetime(2026, 5, 4, 9, tzinfo=UTC)


def points(per_year: float, months: int, scatter: float = 0.2) -> list[tuple[datetime, float]]:
    random = np.random.default_rng(7)
    times = [BEGAN + timedelta(days=91 * number) for number in range(months // 3 + 1)]
    return [(at, 48 + per_year * ((at - BEGAN) / YEAR) + random.normal(0, scatter)) for at in times]


def test_a_slope_is_found_within_its_interval_and_so_is_the_day_of_the_limit() -> None:
    slope = slope_of(points(2.0, 36), limit=60.0)
    assert slope is not None
    assert slope.low < 2.0 < slope.high
    assert slope.sittings == 13
    assert slope.passes is not None
    assert abs((slope.passes - BEGAN) / YEAR - 6.0) < 0.8


def test_a_line_of_three_points_is_that_of_least_squares() -> None:
    at = [BEGAN, BEGAN + YEAR, BEGAN + 2 * YEAR]
    slope = slope_of(list(zip(at, (40.0, 43.0, 44.0), strict=True)))
    assert slope is not None
    # Residuals −1/3, 2/3, −1/3 around 2 K a year: sd √(2/3), error √(1/3), t(.975; 1) = 12.706.
    assert slope.per_year == pytest.approx(2.0)
    assert slope.high - slope.per_year == pytest.approx(12.706 * (1 / 3) ** 0.5, rel=1e-3)


def test_what_rises_for_no_certain_reason_passes_nothing() -> None:
    slope = slope_of(points(0.0, 24), limit=60.0)
    assert slope is not None
    assert slope.low < 0 < slope.high
    assert slope.passes is None


@pytest.mark.parametrize("many", [points(2.0, 3), [(BEGAN + timedelta(days=n), 48.0 + n) for n in range(9)]])
def test_few_visits_or_a_short_time_say_nothing(many: list[tuple[datetime, float]]) -> None:
    assert slope_of(many) is None


POWER = replace(RISE, id=MeasureId("power"), name="Power drawn", unit="W", kind="power", scale="ratio")


def visited(rises: list[float], powers: Sequence[float | None] = ()) -> Case:
    """Build B measured at once and again every half a year, as re-checks."""
    case = make_case([[rises[0]]], [], RISE)
    if powers:
        case = replace(case, measures=(*case.measures, POWER))
    visits = [
        Sitting(
            SittingId(f"V{number}"),
            case.builds[0].id,
            "recheck",
            case.sittings[0].started_at + number * YEAR / 2,
            22.0,
            boot=f"V{number}",
            boot_by="read",
        )
        for number in range(1, len(rises))
    ]
    runs = [make_run(visit.id, 1, rise, RISE) for visit, rise in zip(visits, rises[1:], strict=True)]
    told = [
        run if power is None else replace(run, readings=dict(run.readings) | {POWER.id: Reading(power, power)})
        for run, power in zip_longest([*case.runs, *runs], powers)
    ]
    machine = replace(case.machine, limits={"permitted_c": 92.0})
    return replace(case, machine=machine, sittings=(*case.sittings, *visits), runs=tuple(told), swaps=())


def test_the_paste_of_a_build_is_followed_through_its_visits_and_said_with_the_day() -> None:
    (wear,) = find_wear(visited([48.0, 49.1, 49.9, 51.0, 52.1]))
    assert wear.slope.per_year == pytest.approx(2.02, abs=0.1)
    assert wear.slope.limit == pytest.approx(70.0)
    sentence = say_wear(wear, RISE, "B", ".")
    assert sentence.startswith("Rise on build B: 2.02 K more a year (1.8")
    assert "5 sittings over 2.0 years. At that pace it passes 70 K about" in sentence
    assert sentence.endswith("2037.")
    (steady,) = find_wear(visited([48.0, 48.3, 47.9, 48.2]))
    assert "no wear shown, between −" in say_wear(steady, RISE, "B", ".")
    assert find_wear(make_case([[48.0]], [[45.0]], RISE)) == ()


def test_worn_paste_that_lets_the_power_fall_is_followed_at_one_power() -> None:
    """The chip throttles: the rise stays where it is, and what rises is the kelvin for each watt."""
    powers = [65.0, 62.0, 59.0, 56.0, 53.0]
    rises = [50.0, 50.1, 49.9, 50.0, 50.1]
    (wear,) = find_wear(visited(rises, powers))
    # 50 K at 65 W, and at 53 W, are 45.4 K and 55.7 K at 59 W, over two years.
    assert wear.slope.power_w == pytest.approx(59.0)
    assert wear.slope.per_year == pytest.approx((55.7 - 45.4) / 2, abs=0.2)
    assert say_wear(wear, RISE, "B", ".").startswith("Rise at 59 W on build B: 5.1")
    (untold,) = find_wear(visited(rises, powers[:-1]))
    assert untold.slope.power_w is None
    assert untold.slope.low < 0 < untold.slope.high
