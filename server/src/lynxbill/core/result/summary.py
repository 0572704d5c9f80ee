"""One side of a measure in a few figures, beside its single runs; nothing is judged by them."""

import math
from collections.abc import Sequence
from dataclasses import dataclass
from statistics import median

from lynxbill.core.judgement.sitting import SittingUnit
from lynxbill.core.reading.reading import judged_value
from lynxbill.core.statistics.scatter import mean_of, squares_around_mean
from lynxbill.core.terms.measure import Measure, restore


@dataclass(frozen=True, slots=True)
class Summary:
    """
    The runs of one side that count, in the measure's unit (rises above the room where temperatures stand so).

    `mean` is arithmetic; `sd` the standard deviation over all runs, sittings not told apart, None for a single run.
    """

    runs: int
    mean: float
    median: float
    sd: float | None
    low: float
    high: float


def summarise(units: Sequence[SittingUnit], measure: Measure) -> Summary | None:
    """
    Sum up one side.

    Args:
        units: its sittings after the cut.
    Returns: None for a side without a run.
    """
    values = [value for unit in units for value in _readings(unit, measure)]
    if not values:
        return None
    mean = mean_of(values)
    squares = squares_around_mean(values)
    return Summary(
        runs=len(values),
        mean=mean,
        median=median(values),
        sd=math.sqrt(squares / (len(values) - 1)) if len(values) > 1 else None,
        low=min(values),
        high=max(values),
    )


def _readings(unit: SittingUnit, measure: Measure) -> list[float]:
    """As they were read where nothing was taken off them, so that no digit is lost to a logarithm and back."""
    if measure.scale == "ratio":
        return [judged_value(run.readings[measure.id], measure) for run in unit.runs]
    return [restore(value, measure) for value in unit.values]
