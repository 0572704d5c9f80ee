"""Scatter of sittings around their own build's mean, pooled over builds."""

import math
from collections.abc import Iterable

from lynxbill.core.judgement.sitting import split_sides
from lynxbill.core.reading.counting import RunsBySitting
from lynxbill.core.record.plan import Plan
from lynxbill.core.record.run import Sitting
from lynxbill.core.statistics.estimate import Borrowed
from lynxbill.core.terms.measure import Measure


def pool_spread(
    groups: RunsBySitting,
    measure: Measure,
    plan: Plan,
    builds: Iterable[tuple[Sitting, ...]],
    beside: tuple[Sitting, ...],
) -> Borrowed:
    """
    Pool the scatter of builds for a comparison with other sittings.

    Args:
        groups: the runs, from `group_runs`.
        plan: that of the comparison.
        builds: the sittings of each build; one sitting can't say what a reboot moves.
        beside: the compared sittings; the others are cut to no more runs than those, and need the same recipe.
    Returns: sum of squares and degrees of freedom on the scale of judgement.
    Source: docs/judgement.md, "Estimate and interval".
    """
    squares, df = 0.0, 0
    for sittings in builds:
        sides = split_sides(groups, measure, plan, sittings, beside)
        units = [unit.unit for unit in sides.before] if not sides.short else []
        if len(units) >= 2:
            mean = math.fsum(units) / len(units)
            squares += math.fsum((unit - mean) ** 2 for unit in units)
            df += len(units) - 1
    return Borrowed(squares, df)
