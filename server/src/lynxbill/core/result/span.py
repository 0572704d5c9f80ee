"""Where a result stands on the axis that it is drawn on: percent for ratios, the unit otherwise; right is better."""

import math
from dataclasses import dataclass

from lynxbill.core.result.result import MeasureResult
from lynxbill.core.terms.measure import Measure, gain_percent


@dataclass(frozen=True, slots=True)
class Span:
    """
    Estimate, interval and the band that does not matter, all in the same unit; `low` and `high` None without one.
    """

    estimate: float
    low: float | None
    high: float | None
    margin_low: float
    margin_high: float


def span_of(result: MeasureResult) -> Span | None:
    """
    Say where a result is drawn.

    Args:
        result: its estimate and bounds on the oriented scale.
    Returns: percent of speed for work, percent of what it was for other ratios, else the measure's unit, each with
        better to the right; None where a side has no run.
    """
    if result.estimate is None:
        return None
    interval, bound = result.interval, result.bound
    return Span(
        estimate=_drawn(result.estimate, result.measure),
        low=_drawn(interval.low, result.measure) if interval is not None else None,
        high=_drawn(interval.high, result.measure) if interval is not None else None,
        margin_low=_drawn(-bound, result.measure),
        margin_high=_drawn(bound, result.measure),
    )


def _drawn(oriented: float, measure: Measure) -> float:
    if measure.scale != "ratio":
        return oriented
    if measure.is_work:
        return gain_percent(oriented)
    # Percent of what it was, as the words beside it say.
    sign = 1 if measure.better == "higher" else -1
    return sign * 100 * math.expm1(sign * oriented)
