"""A run while it lasts: where a channel stands against the same minute of other runs, and what it is doing."""

from dataclasses import dataclass

import numpy as np

from lynxbill.core.heat.roles import ChannelRole
from lynxbill.core.heat.settled import Course, find_course
from lynxbill.core.heat.trace import Floats

SAME_MINUTE_S = 15.0
# A clock that keeps this share of its first minute's has not fallen.
CLOCK_KEPT = 0.98


@dataclass(frozen=True, slots=True)
class Latest:
    """
    Where a channel stands now, in its unit, and where other runs stood at the same minute (None: not told).

    `course` says whether it has settled, and what is left to go; None before enough was seen.
    """

    now: float
    others: float | None
    course: Course | None


def find_latest(role: ChannelRole, at: Floats, values: Floats, others: list[tuple[Floats, Floats]]) -> Latest | None:
    """
    Say where a channel stands.

    Args:
        at: shape (n,), seconds since the start, rising; values: shape (n,), NaN is a gap.
        others: the same channel of other runs.
    Returns: None while it has no value.
    """
    known = ~np.isnan(values)
    at, values = at[known], values[known]
    if len(at) == 0:
        return None
    now = float(values[at >= at[-1] - SAME_MINUTE_S].mean())
    there = [level for one in others if (level := level_at(*one, float(at[-1]))) is not None]
    return Latest(now, sum(there) / len(there) if there else None, find_course(role, at, values))


def level_at(at: Floats, values: Floats, second: float) -> float | None:
    """
    The mean of a channel around a second since the start; None where it has nothing there.

    Args:
        at: shape (n,), seconds since the start, rising.
        values: shape (n,), in the channel's unit.
        second: the moment asked.
    """
    near = (np.abs(at - second) <= SAME_MINUTE_S) & ~np.isnan(values)
    return float(values[near].mean()) if near.any() else None


def clock_falls_since(at: Floats, values: Floats) -> float | None:
    """
    Find when a clock began to fall for good.

    Args:
        at: shape (n,), seconds; values: shape (n,), any unit, NaN is a gap.
    Returns: seconds since the start from which on every quarter minute's mean lies under 98 % of the first minute's;
        None where it held.
    """
    known = ~np.isnan(values)
    at, values = at[known], values[known]
    if len(at) == 0 or at[-1] < 2 * 60:
        return None
    floor = CLOCK_KEPT * float(values[at <= at[0] + 60].mean())
    quarters = (at // SAME_MINUTE_S).astype(int)
    means = [(quarter, float(values[quarters == quarter].mean())) for quarter in np.unique(quarters)]
    since: float | None = None
    for quarter, mean in means:
        if mean >= floor:
            since = None
        elif since is None:
            since = float(quarter * SAME_MINUTE_S)
    return since


def first_rise(at: Floats, values: Floats) -> float | None:
    """
    When a counter first rose, in seconds since the start; None where it stood.

    Args:
        at: shape (n,), seconds since the start, rising.
        values: shape (n,), a counter's readings.
    """
    known = ~np.isnan(values)
    at, values = at[known], values[known]
    risen = np.flatnonzero(values > values[0]) if len(values) else np.array([], dtype=int)
    return float(at[risen[0]]) if len(risen) else None
