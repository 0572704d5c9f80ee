"""Traces: channels of samples during a run, unevenly spaced and with gaps; and figures that follow from them."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field
from datetime import datetime
from typing import Literal

import numpy as np
from numpy.typing import NDArray

from lynxbill.core.heat.roles import ChannelRole
from lynxbill.core.terms.errors import BadValue

Floats = NDArray[np.float64]
# From the bench agent, typed by hand, or from a sensor log of another program.
TraceSource = Literal["agent", "typed", "log"]
# A day at ten samples a second, and a sensor log of 100 MB, have fewer.
MOST_SAMPLES = 10_000_000
LONGEST_S = 14 * 86_400.0


@dataclass(frozen=True, slots=True)
class Samples:
    """All samples of one sensor: seconds since the start, and values in its unit (UCUM); None is a gap."""

    role: ChannelRole
    of: str
    unit: str
    sensor: str
    at: tuple[float, ...]
    values: tuple[float | None, ...]
    stands_in: bool = False


@dataclass(frozen=True, slots=True)
class WholeTrace:
    """What sensors said during one run; `marks` are (seconds, phase), `missing` says by role why none told it."""

    started_at: datetime
    channels: tuple[Samples, ...]
    marks: tuple[tuple[float, str], ...] = ()
    missing: Mapping[str, str] = field(default_factory=dict)
    source: TraceSource = "agent"


@dataclass(frozen=True, slots=True)
class Stretches:
    """
    A channel thinned out for a picture: each stretch of time by its lowest and highest value, so that peaks survive.

    `at` (s) is the middle of the samples of a stretch; `low` and `high`, in the channel's unit, are None over a gap.
    """

    at: tuple[float, ...]
    low: tuple[float | None, ...]
    high: tuple[float | None, ...]


def check_samples(at: Sequence[float], values: Sequence[float | None], since: float, place: str) -> None:
    """
    Refuse samples that can't be those of a sensor.

    Args:
        at: seconds since the start of the run, rising; values: as many, None is a gap.
        since: the time of the sample before, in seconds; below zero where there is none.
        place: where they stand, for the refusal's field.
    Raises:
        BadValue: unequal lengths, times that do not rise or lie beyond two weeks.
    """
    if len(at) != len(values):
        raise BadValue(f"{len(at)} times came with {len(values)} values.", field=f"{place}.values")
    last = since
    for number, second in enumerate(at):
        if not last < second <= LONGEST_S:
            raise BadValue(
                f"Times rise from sample to sample, up to {LONGEST_S:.0f} s; {second:g} s came after {last:g} s.",
                field=f"{place}.at.{number}",
            )
        last = second


def thin_out(at: Floats, values: Floats, points: int) -> Stretches:
    """
    Bring a channel down to at most so many stretches, each with its lowest and its highest value.

    Args:
        at: shape (n,), seconds, rising.
        values: shape (n,), in the channel's unit; NaN is a gap.
        points: at least 1.
    Returns: samples as they are where there are no more than that many. A stretch holds samples next to each other;
        one without any value is a gap.
    """
    count = len(at)
    if count <= points:
        told = tuple(_plain(value) for value in values.tolist())
        return Stretches(tuple(at.tolist()), told, told)
    edges = np.linspace(0, count, points + 1).astype(int)[:-1]
    known = ~np.isnan(values)
    low = np.minimum.reduceat(np.where(known, values, np.inf), edges)
    high = np.maximum.reduceat(np.where(known, values, -np.inf), edges)
    ends = np.append(edges[1:], count) - 1
    return Stretches(
        tuple(((at[edges] + at[ends]) / 2).tolist()),
        tuple(_plain(value) for value in low.tolist()),
        tuple(_plain(value) for value in high.tolist()),
    )


def _plain(value: float) -> float | None:
    return value if np.isfinite(value) else None
