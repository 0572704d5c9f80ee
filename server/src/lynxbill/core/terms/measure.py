"""A measure: one figure that a workload or a sensor yields, and what a change of it means."""

import math
from collections.abc import Sequence
from dataclasses import dataclass
from typing import Literal, NewType

from lynxbill.core.terms.errors import BadValue, NonPositiveReading

MeasureId = NewType("MeasureId", str)
Scale = Literal["ratio", "difference", "level", "ordinal", "outcome"]
Kind = Literal[
    "time",
    "rate",
    "score",
    "heat",
    "noise",
    "power",
    "clock",
    "fan",
    "amount",
    "gauge",
    "rank",
    "felt",
    "other",
]
Better = Literal["higher", "lower"]
Role = Literal["claim", "control", "watch"]
Combined = Literal["highest", "mean", "sum", "lowest"]
TraceFigure = Literal[
    "settled",
    "last minute",
    "at minute",
    "highest",
    "equilibrium",
    "within 1 K",
    "recovery",
    "resistance",
    "last less first",
    "held back",
]
# How several sensors of one quantity are brought together.
Summary = Literal["hottest", "mean"]

_USUAL_MARGINS: dict[Scale, float] = {"ratio": 2.0, "difference": 1.0, "level": 1.0, "ordinal": 1.0, "outcome": 1.0}
# A fan wavers by some turns, and memory in use by some megabytes.
_USUAL_DIFFERENCES: dict[Kind, float] = {"fan": 100.0, "amount": 0.1}
# No figure of a bench lies beyond, and squares of what lies within stay far from overflow.
LARGEST = 1e15
# The largest logarithm whose exponential is finite, with room for a factor of 100.
MOST_LOG = 700.0
# Scales whose readings are steps or counts: judged by exact tests, at planned looks only.
STEPPED: frozenset[Scale] = frozenset({"ordinal", "outcome"})
# A side, of such: three and three can't reach p = 0.05.
EXACT_SITTINGS = 4
WORK_KINDS: frozenset[Kind] = frozenset({"time", "rate", "score"})


@dataclass(frozen=True, slots=True)
class Measure:
    """
    `unit` is a UCUM code; `step` the resolution of a reading, in that unit.

    `part_of` names the measure that this is a part of: one score of a total, or one sensor of a quantity. Where
    `combined_by` is set, that measure's reading is made from its parts. `rated_as` is the key of the rated figure of
    a part that it is set against. `of` says how many things a run of an outcome tries (9 programs): its readings
    count those that passed; None: one.

    A derived one is never read: `derived_from` names the measure that it is made from, divided by another measure of
    the same run (`per_measure`: work per watt) or by what the workload holds (`per_parameter`: seconds per minute of
    film), or held against what is needed of it (`needs`, in its unit: an outcome, passed where at least 512 MB are
    free).

    Where `trace_figure` is set, a run that came without a reading gets it from its trace (core/heat/readoff.py), off
    the channel that `trace_of` names: a part's role ("drive") or a sensor's name; None: the processor where it is
    told. Several sensors of it are brought together as `trace_by` says; None: the hottest at each moment.
    `trace_minute` is the minute of the load at which it is read, where it is read at one.

    `set_aside` says why no further plan asks for it; what was measured of it stays, and so do plans that name it.
    """

    id: MeasureId
    name: str
    workload: str
    unit: str
    scale: Scale
    kind: Kind
    better: Better
    step: float | None = None
    levels: tuple[str, ...] = ()
    part_of: MeasureId | None = None
    combined_by: Combined | None = None
    rated_as: str | None = None
    of: int | None = None
    derived_from: MeasureId | None = None
    per_measure: MeasureId | None = None
    per_parameter: str | None = None
    needs: float | None = None
    trace_figure: TraceFigure | None = None
    trace_of: str | None = None
    trace_by: Summary | None = None
    trace_minute: float | None = None
    set_aside: str | None = None

    @property
    def whole(self) -> int:
        """How many things one run of an outcome tries."""
        return self.of or 1

    @property
    def is_divisible(self) -> bool:
        """
        Whether a gain of it can be set against money as a number.

        Felt steps and outcomes are counts, and power, clocks and fans buy nothing by the percent.
        """
        return self.is_work or self.scale in ("difference", "level")

    @property
    def is_work(self) -> bool:
        """Whether it tells how fast work is done, so that its ratio is a speed gain."""
        return self.kind in WORK_KINDS and self.scale == "ratio"


def usual_margin(scale: Scale, kind: Kind) -> float:
    """
    Say from what change on a measure matters where nobody said so.

    Args:
        scale: ratio, difference, …
        kind: what is measured.
    Returns: percent for `ratio`, else in the measure's unit.
    Source: docs/run-file.md (`ratio` 2 %, `difference` 1 K, `level` 1 dB).
    """
    return _USUAL_DIFFERENCES.get(kind, 1.0) if scale == "difference" else _USUAL_MARGINS[scale]


def check_reading(value: float, measure: Measure) -> None:
    """
    Refuse a reading that its measure's scale can't hold.

    Args:
        value: in the measure's unit.
    Raises:
        NonPositiveReading: zero or below on a `ratio` scale.
        BadValue: an outcome that is neither 0 nor 1 (a set: no whole number up to its size), an ordinal step that is
            not on the scale, a figure that no bench yields.
    """
    if measure.scale == "ratio" and value <= 0:
        raise NonPositiveReading(f"{value:g} came; a reading of “{measure.name}” must be above zero.")
    if abs(value) > LARGEST or (measure.scale == "ratio" and value < 1 / LARGEST):
        raise BadValue(f"{value:g} came; a reading of “{measure.name}” lies between {1 / LARGEST:g} and {LARGEST:g}.")
    if measure.scale == "outcome" and not (value == int(value) and 0 <= value <= measure.whole):
        sentence = "is 0 (failed) or 1 (passed)" if measure.of is None else f"counts passes from 0 to {measure.of}"
        raise BadValue(f"{value:g} came; “{measure.name}” {sentence}.")
    top = len(measure.levels) or math.inf
    if measure.scale == "ordinal" and not (value == int(value) and 1 <= value <= top):
        raise BadValue(f"{value:g} came; “{measure.name}” has whole steps from 1 to {top:g}.")


def combine_parts(measure: Measure, parts: Sequence[float]) -> float:
    """
    Make one reading of a quantity from those of its sensors.

    Args:
        measure: its `combined_by` says how.
        parts: readings of every part in the measure's unit, at least one.
    Returns: the highest, the lowest, the mean or the sum, in the measure's unit.
    Raises:
        BadValue: nothing to combine, or a measure that is not combined.
    """
    if not parts or measure.combined_by is None:
        raise BadValue(f"“{measure.name}” has no parts to be made from.")
    match measure.combined_by:
        case "highest":
            return max(parts)
        case "lowest":
            return min(parts)
        case "mean":
            return math.fsum(parts) / len(parts)
        case "sum":
            return math.fsum(parts)


def orient(value: float, measure: Measure) -> float:
    """
    Bring a reading onto the scale of judgement, where higher is better.

    Args:
        value: a reading in the measure's unit.
    Returns: ln(reading) for `ratio` (dimensionless), the share that passed for `outcome`, the reading otherwise (its
        unit), sign turned for `better: lower`.
    Raises:
        NonPositiveReading: a `ratio` reading that is zero or negative.
    Source: docs/judgement.md, "From readings to units".
    """
    if measure.scale == "ratio":
        if value <= 0:
            raise NonPositiveReading(f"{measure.name} must be above zero; {value:g} came.")
        value = math.log(value)
    elif measure.of is not None and measure.scale == "outcome":
        value /= measure.of
    return value if measure.better == "higher" else -value


def restore(oriented: float, measure: Measure) -> float:
    """
    Turn an oriented figure back into a reading; the inverse of `orient`.

    Args:
        oriented: dimensionless for `ratio`, in the measure's unit otherwise.
    Returns: the reading in the measure's unit.
    """
    value = oriented if measure.better == "higher" else -oriented
    if measure.scale == "ratio":
        return math.exp(value)
    return value * measure.whole if measure.scale == "outcome" else value


def margin_bound(matters_from: float, scale: Scale) -> float:
    """
    Place the smallest change worth noticing on the scale of judgement.

    Args:
        matters_from: percent for `ratio`, the measure's unit otherwise; above zero.
    Returns: the bound b of the band ±b: ln(1 + m/100) for `ratio`, m otherwise.
    Source: docs/judgement.md, "Verdict".
    """
    return math.log1p(matters_from / 100) if scale == "ratio" else matters_from


def points_at_another(measure: Measure) -> bool:
    """
    Whether a measure is a part of another one, or derived from it.

    Args:
        measure: the measure asked.
    """
    return measure.part_of is not None or measure.derived_from is not None


def derived_unit(measure: Measure, per: "Measure | str") -> str:
    """
    Say in which unit a derived measure is.

    Args:
        measure: the one that is divided.
        per: what it is divided by: another measure, or the name of a size of the job.
    Returns: a UCUM code, what is counted in braces.
    """
    return f"{measure.unit}/{per.unit}" if isinstance(per, Measure) else f"{measure.unit}/{{{per}}}"


def difference_unit(measure: Measure) -> str:
    """
    Say in which unit a difference of readings is: kelvin for degrees Celsius, percent for a ratio, points for gauges.

    Args:
        measure: the measure asked.
    Returns: a UCUM code.
    """
    if measure.scale == "ratio":
        return "%"
    if measure.kind in ("gauge", "rank") or measure.unit == "%":
        return "{point}"
    return "K" if measure.unit == "Cel" else measure.unit


def gain_percent(estimate: float) -> float:
    """
    Say an oriented log difference as a speed gain: 100·(e^d − 1) percent.

    Args:
        estimate: ln(after/before), oriented (dimensionless).
    """
    return 100 * math.expm1(min(estimate, MOST_LOG))


def times_as_fast(estimate: float) -> float:
    """
    Turn an oriented log difference into a speed-up, held below the largest number.

    Args:
        estimate: oriented log difference, dimensionless.
    """
    return math.exp(min(estimate, MOST_LOG))


def time_saved_percent(estimate: float) -> float:
    """
    Say an oriented log difference of a time as time saved: 100·(1 − e^−d) percent of the time before.

    Args:
        estimate: ln(before/after) of the times (dimensionless).
    """
    return -100 * math.expm1(min(-estimate, MOST_LOG))
