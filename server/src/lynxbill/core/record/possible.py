"""What can be read of a PC at all: beyond it somebody took decimals for thousands, or one unit for another."""

from collections.abc import Mapping
from dataclasses import dataclass

from lynxbill.core.terms.quantity import Unit, unit_spelled

# By dimension, in its base unit (°C, Hz, /min, W, dB(A)): what lies outside is no reading of a PC.
_RANGES: Mapping[str, tuple[float, float]] = {
    "temperature": (0.0, 150.0),
    "frequency": (1e6, 12e9),
    "rotation": (-1.0, 30_000.0),
    "power": (-1.0, 5_000.0),
    "sound level": (-1.0, 130.0),
}


@dataclass(frozen=True, slots=True)
class Possible:
    """Between which figures those of a PC lie, in a unit."""

    low: float
    high: float


def is_possible(value: float, unit: Unit) -> bool:
    """
    Say whether a figure can be one of a PC.

    Args:
        value: in `unit`.
    Returns: true wherever nothing is known of what is possible.
    """
    limits = _RANGES.get(unit.dimension)
    return limits is None or limits[0] < value * unit.factor < limits[1]


def possible_in(spelling: str) -> Possible | None:
    """
    Say what is possible in a unit.

    Args:
        spelling: a unit as it is written ("GHz", "°C").
    Returns: None where nothing is known of it.
    """
    unit = unit_spelled(spelling)
    limits = _RANGES.get(unit.dimension) if unit is not None else None
    if unit is None or limits is None:
        return None
    return Possible(limits[0] / unit.factor, limits[1] / unit.factor)
