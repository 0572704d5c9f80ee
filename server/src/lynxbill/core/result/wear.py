"""Wear: how a heat of one build creeps up over the years, and when it would pass what is permitted."""

import math
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace
from datetime import datetime, timedelta

import numpy as np

from lynxbill.core.heat.held_back import limits_of
from lynxbill.core.heat.run import LEAST_POWER_W
from lynxbill.core.reading.tally import is_above_room, levels_of, sheets_of, units_of
from lynxbill.core.record.frame import Case
from lynxbill.core.record.ids import BuildId, SittingId
from lynxbill.core.record.run import Sitting
from lynxbill.core.record.sheet import Sheet, SheetKey
from lynxbill.core.statistics.estimate import t_quantile
from lynxbill.core.terms.measure import Measure, MeasureId, restore
from lynxbill.core.terms.quantity import convert, unit_of

YEAR = timedelta(days=365.2425)
# Fewer sittings, or a shorter time, tell the weather rather than the wear.
LEAST_SITTINGS, LEAST_TIME = 3, timedelta(days=60)
LEVEL = 0.95


@dataclass(frozen=True, slots=True)
class Slope:
    """
    A straight line through a build's sittings: `per_year` in the measure's unit (above zero: hotter), within `low` to
    `high` at 95 %. `passes` is when the line reaches `limit`, told where it rises for certain. Where `power_w` is
    given, the levels were brought to that power before.
    """

    per_year: float
    low: float
    high: float
    sittings: int
    years: float
    limit: float | None
    passes: datetime | None
    power_w: float | None = None


@dataclass(frozen=True, slots=True)
class Wear:
    """The slope of a measure on a build."""

    measure: MeasureId
    build: BuildId
    slope: Slope


def slope_of(points: Sequence[tuple[datetime, float]], limit: float | None = None) -> Slope | None:
    """
    Fit a straight line through levels over time.

    Args:
        points: when, and the level there in the measure's unit; each of a sitting of its own.
        limit: in the same unit.
    Returns: None for fewer than three points, or less than 60 days of them.
    Source: ordinary least squares, Student's t with n − 2 degrees of freedom.
    """
    if len(points) < LEAST_SITTINGS or points[-1][0] - points[0][0] < LEAST_TIME:
        return None
    began = points[0][0]
    years = np.array([(at - began) / YEAR for at, _ in points])
    levels = np.array([level for _, level in points])
    centred = years - years.mean()
    spread = float(centred @ centred)
    per_year = float(centred @ levels / spread)
    left = levels - levels.mean() - per_year * centred
    df = len(points) - 2
    half = t_quantile(0.5 + LEVEL / 2, df) * math.sqrt(float(left @ left) / df / spread)
    now = float(levels.mean() + per_year * (years[-1] - years.mean()))
    passes = None
    if limit is not None and per_year - half > 0 and now < limit:
        passes = points[-1][0] + (limit - now) / per_year * YEAR
    return Slope(per_year, per_year - half, per_year + half, len(points), float(years[-1]), limit, passes)


def find_wear(case: Case) -> tuple[Wear, ...]:
    """
    Follow the heat of each build through its sittings, re-checks too.

    Args:
        case: the machine with all its runs.
    Returns: an entry for each measure of heat or resistance and each build that was measured over 60 days; its
        limit is the permitted temperature, above the mean room where the measure is. A rise above the room is taken
        at the mean power of the visits where each of them tells its power, for worn paste lets the power fall: rise
        ÷ power × mean power.
    """
    sheets, permitted = sheets_of(case), limits_of(case.machine.limits).temperature_c
    found = []
    for measure in (measure for measure in case.measures if _wears(measure)):
        for build in case.builds:
            sittings = [s for s in case.sittings_of(build.id) if s.purpose != "trial" and s.set_aside is None]
            held = [sitting for sitting, _ in levels_of(sheets, measure, sittings)]
            units, _ = units_of(sheets, measure, held)
            above = is_above_room(measure, held) or measure.unit == "K"
            rooms = [sitting.ambient_c for sitting in held if sitting.ambient_c is not None]
            limit = None
            if permitted is not None and measure.kind == "heat" and (rooms or not above):
                limit = permitted - (sum(rooms) / len(rooms) if above else 0.0)
            levels = [restore(unit, measure) for unit in units]
            powers = _powers(case, sheets, measure, held) if above and measure.kind == "heat" else None
            fixed = None if powers is None else sum(powers) / len(powers)
            if powers is not None and fixed is not None:
                levels = [level * fixed / power for level, power in zip(levels, powers, strict=True)]
            slope = slope_of(list(zip((s.started_at for s in held), levels, strict=True)), limit)
            if slope is not None:
                found.append(Wear(measure.id, build.id, replace(slope, power_w=fixed)))
    return tuple(found)


def _powers(
    case: Case, sheets: Mapping[SheetKey, Sheet], measure: Measure, held: Sequence[Sitting]
) -> list[float] | None:
    """What the part of a measure drew in each of some sittings, in W; None where one of them does not tell it."""
    beside = [m for m in case.measures if (m.workload, m.trace_of) == (measure.workload, measure.trace_of)]
    drawn = next((m for m in beside if _is_power(m)), None)
    if drawn is None:
        return None
    told: dict[SittingId, float] = {
        sitting.id: convert(restore(level.unit, drawn), drawn.unit, unit_of("W"))
        for sitting, level in levels_of(sheets, drawn, held)
        if level.unit is not None
    }
    powers = [told.get(sitting.id, 0.0) for sitting in held]
    return powers if powers and min(powers) >= LEAST_POWER_W else None


def _is_power(measure: Measure) -> bool:
    return measure.kind == "power" and unit_of(measure.unit).dimension == unit_of("W").dimension


def _wears(measure: Measure) -> bool:
    return measure.kind == "heat" or measure.unit == "K/W"
