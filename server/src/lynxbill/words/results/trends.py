"""Whether the gain follows what the jobs are held to, in words: a suggestion, and never more."""

import math
from collections.abc import Mapping
from dataclasses import dataclass

from lynxbill.core.result.traits import Trend
from lynxbill.words.base.figures import DecimalMark, figure, listed


@dataclass(frozen=True, slots=True)
class WordedTrend:
    """`doubt` says why it is no rule; `points` what its picture shows, for those who can't see it."""

    trait: str
    says: str
    doubt: str | None
    points: str


def say_trend(trend: Trend, names: Mapping[str, str], mark: DecimalMark) -> WordedTrend:
    """Put a trend into words; `names` are those of the measures."""
    points = (
        f"{names.get(point.measure, point.measure)}: {figure(point.value, mark)} {trend.trait}, "
        f"{figure(100 * math.expm1(point.estimate), mark)} %"
        for point in trend.points
    )
    return WordedTrend(trend.trait, _say_way(trend), _say_doubt(trend), "; ".join(points))


def _say_way(trend: Trend) -> str:
    """ "In 5 of 6 pairs of tasks the one with more photos gained more." """
    pairs = trend.rising + trend.falling
    if pairs == 0:
        return f"The tasks gained alike, whatever their {trend.trait}."
    if trend.rising == trend.falling:
        return f"The gain does not follow {trend.trait}: of {pairs} pairs of tasks, half rise with it and half fall."
    count, word = (trend.rising, "more") if trend.rising > trend.falling else (trend.falling, "less")
    which = f"In {count} of {pairs} pairs"
    if count == pairs:
        which = "In the only pair" if pairs == 1 else f"In all {pairs} pairs"
    return f"{which} of tasks the one with more {trend.trait} gained {word}."


def _say_doubt(trend: Trend) -> str | None:
    reasons = []
    if trend.few:
        reasons.append(f"{len(trend.points)} tasks are few; it takes twelve to tell a trend from chance")
    if trend.moves_with:
        reasons.append(f"{listed(trend.moves_with)} moves with it and may be what counts")
    return f"A suggestion only: {', and '.join(reasons)}." if reasons else None
