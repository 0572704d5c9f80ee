"""Two columns of figures laid beside each other: what changed, and nothing about whether it is real."""

from collections.abc import Sequence
from dataclasses import dataclass

from lynxbill.core.reading.reading import judged_value
from lynxbill.core.record.run import Reading
from lynxbill.core.statistics.scatter import mean_of
from lynxbill.core.terms.errors import BadValue
from lynxbill.core.terms.measure import Measure, check_reading, gain_percent, orient, restore, time_saved_percent


@dataclass(frozen=True, slots=True)
class Columns:
    """
    The change between two columns of readings.

    `before` and `after` are their means in the measure's unit (geometric for `ratio`), `estimate` the oriented
    change; `gain_percent` and `time_saved_percent` are None where the measure has no such form. `looks` counts the
    readings of each side.
    """

    measure: Measure
    before: float
    after: float
    estimate: float
    looks: tuple[int, int]

    @property
    def gain_percent(self) -> float | None:
        return gain_percent(self.estimate) if self.measure.scale == "ratio" else None

    @property
    def time_saved_percent(self) -> float | None:
        return time_saved_percent(self.estimate) if self.measure.kind == "time" else None


def lay_beside(measure: Measure, before: Sequence[Reading], after: Sequence[Reading]) -> Columns:
    """
    Say how the readings of one look differ from those of another.

    Args:
        before, after: readings in the measure's unit, at least one each.
    Returns: the change of the means on the scale of judgement; one look a side carries no verdict.
    Raises:
        BadValue: a column without a reading, or with one that the measure's scale can't hold.
        NonPositiveReading: zero or below on a `ratio` scale.
    Source: docs/judgement.md, "From readings to units".
    """
    if not before or not after:
        raise BadValue("Two columns are needed: figures of before, and figures of after.")
    means = []
    for side in (before, after):
        values = [judged_value(reading, measure) for reading in side]
        for value in values:
            check_reading(value, measure)
        means.append(mean_of([orient(value, measure) for value in values]))
    return Columns(
        measure,
        restore(means[0], measure),
        restore(means[1], measure),
        means[1] - means[0],
        (len(before), len(after)),
    )
