"""A reading that is not exact, and one that is made from several."""

import math
from collections.abc import Sequence
from decimal import Decimal

from lynxbill.core.record.run import Reading, ReadingSource
from lynxbill.core.terms.errors import BadValue
from lynxbill.core.terms.measure import Measure, combine_parts

# The least trusted first: a figure made from several is no better than the worst of them.
_TOLD: tuple[ReadingSource, ...] = ("claimed", "inherited", "remembered")


def reading_width(reading: Reading, measure: Measure) -> float:
    """
    Say how much an "about" or a range leaves open, on the scale of judgement.

    Args:
        reading: in the measure's unit.
    Returns: high − low, for `ratio` ln(high/low) of a range and the digit's share of the reading of an "about"
        (dimensionless); 0 for an exact reading.
    Source: docs/judgement.md, "From readings to units".
    """
    low, high = _ends(reading)
    if measure.scale != "ratio":
        return high - low
    if reading.low == reading.high or low <= 0:
        return (high - low) / reading.value
    return math.log(high / low)


def judged_value(reading: Reading, measure: Measure) -> float:
    """
    Say at which one figure a reading is judged: a range at its middle, for `ratio` the geometric one.

    Args:
        reading: in the measure's unit.
    Returns: in the measure's unit.
    """
    if reading.low == reading.high:
        return reading.low
    if measure.scale == "ratio" and reading.low > 0:
        return math.sqrt(reading.low) * math.sqrt(reading.high)
    return reading.value


def combine_readings(measure: Measure, parts: Sequence[Reading]) -> Reading:
    """
    Make the reading of a quantity from those of its sensors, with whatever marks they carry.

    Args:
        measure: its `combined_by` says how.
        parts: the readings of every part in the measure's unit, at least one.
    Returns: a range wherever a part is one; "about" where a part is; told where a part was told rather than measured.
    Raises:
        BadValue: nothing to combine, or parts that are different statistics (a mean beside a highest).
    """
    statistics = {part.statistic for part in parts}
    if len(statistics) > 1:
        named = ", ".join(sorted(statistic or "not said" for statistic in statistics))
        raise BadValue(f"“{measure.name}” can't be made from different kinds of reading ({named}); read all alike.")
    about = any(part.about for part in parts)
    # The last digit of a mean or sum says nothing of how well its parts were read, so that goes into its range.
    spread = measure.combined_by in ("mean", "sum")
    ends = [_ends(part) if spread else (part.low, part.high) for part in parts]
    return Reading(
        low=combine_parts(measure, [low for low, _ in ends]),
        high=combine_parts(measure, [high for _, high in ends]),
        about=about,
        source=next((source for source in _TOLD if any(part.source == source for part in parts)), None),
        statistic=next(iter(statistics), None),
    )


def derive_reading(of: Reading, per: Reading | float) -> Reading:
    """
    Divide a reading by another of the same run, or by a size of the job.

    Args:
        per: above zero throughout.
    Returns: a range wherever either is one; "about" where either is; told where either was told.
    Raises:
        BadValue: a divisor that is zero or negative.
    """
    under = per if isinstance(per, Reading) else Reading(per, per)
    if under.low <= 0:
        raise BadValue(f"Nothing can be divided by {under.low:g}.")
    return Reading(
        low=of.low / under.high,
        high=of.high / under.low,
        about=of.about or under.about,
        source=next((source for source in _TOLD if source in (of.source, under.source)), None),
    )


def hold_against(of: Reading, measure: Measure, needs: float) -> Reading:
    """
    Say whether a reading meets what is needed: at least that much, or at most where lower is better.

    Args:
        of: a reading of `measure`, in its unit.
        needs: in the same unit.
    Returns: 1 where every figure that the reading leaves open meets it, else 0; told where the reading was told.
    """
    low, high = _ends(of)
    met = float(low >= needs if measure.better == "higher" else high <= needs)
    return Reading(met, met, source=of.source)


def _ends(reading: Reading) -> tuple[float, float]:
    half = _last_digit(reading.value) / 2 if reading.about else 0.0
    return reading.low - half, reading.high + half


def _last_digit(value: float) -> float:
    """Place value of the last non-zero digit written: 10 for 40, 1 for 41, 0.1 for 41.5."""
    # Twelve digits: more are an artefact of how the number is kept.
    exponent = Decimal(f"{value:.12g}").normalize().as_tuple().exponent
    return 10.0 ** int(exponent)
