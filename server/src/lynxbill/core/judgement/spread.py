"""Scatter of sittings around their own build's mean, pooled over builds."""

from collections.abc import Iterable

from lynxbill.core.judgement.sitting import split_sides
from lynxbill.core.reading.counting import RunsBySitting
from lynxbill.core.record.plan import Plan
from lynxbill.core.record.run import Sitting
from lynxbill.core.statistics.scatter import Scatter, pool
from lynxbill.core.terms.measure import Measure


def pool_spread(
    groups: RunsBySitting,
    measure: Measure,
    plan: Plan,
    builds: Iterable[tuple[Sitting, ...]],
    beside: tuple[Sitting, ...],
) -> Scatter:
    """
    Pool the scatter of builds for a comparison with other sittings.

    Args:
        groups: the runs, from `group_runs`.
        plan: that of the comparison.
        builds: the sittings of each build; one sitting can't say what a reboot moves.
        beside: the compared sittings; the others are cut to no more runs than those, and need the same recipe.
    Returns: on the scale of judgement; what it is rounded to is known of the compared sittings.
    Source: docs/judgement.md, "Estimate and interval".
    """
    lent = [split_sides(groups, measure, plan, sittings, beside) for sittings in builds]
    return pool([[unit.unit for unit in sides.before] for sides in lent if not sides.short])
