"""Units of measurement: UCUM codes, their usual written forms, and conversion within a dimension."""

import re
from dataclasses import dataclass

from lynxbill.core.terms.errors import UnitMismatch, UnknownUnit


@dataclass(frozen=True, slots=True)
class Unit:
    """A unit: `value in this unit x factor = value in the base unit of its dimension`."""

    code: str
    display: str
    dimension: str
    factor: float
    spellings: tuple[str, ...] = ()


_UNITS = (
    Unit("s", "s", "time", 1.0, ("sec", "second", "seconds")),
    Unit("ms", "ms", "time", 1e-3),
    Unit("us", "µs", "time", 1e-6, ("μs",)),
    Unit("ns", "ns", "time", 1e-9),
    Unit("min", "min", "time", 60.0, ("minute", "minutes")),
    Unit("h", "h", "time", 3600.0, ("hour", "hours")),
    Unit("By/s", "B/s", "data rate", 1.0),
    Unit("kBy/s", "kB/s", "data rate", 1e3),
    Unit("MBy/s", "MB/s", "data rate", 1e6),
    Unit("GBy/s", "GB/s", "data rate", 1e9),
    Unit("KiBy/s", "KiB/s", "data rate", 1024.0),
    Unit("MiBy/s", "MiB/s", "data rate", 1024.0**2),
    Unit("GiBy/s", "GiB/s", "data rate", 1024.0**3),
    Unit("/s", "per s", "rate", 1.0, ("1/s",)),
    Unit("{frame}/s", "frames/s", "frame rate", 1.0, ("frames per second",)),
    Unit("Cel", "°C", "temperature", 1.0, ("degC",)),
    Unit("K", "K", "temperature difference", 1.0, ("kelvin",)),
    Unit("dB[SPL]", "dB(A)", "sound level", 1.0, ("dB", "dBA")),
    Unit("W", "W", "power", 1.0, ("watt", "watts")),
    Unit("kHz", "kHz", "frequency", 1e3),
    Unit("MHz", "MHz", "frequency", 1e6),
    Unit("GHz", "GHz", "frequency", 1e9),
    Unit("/min", "rpm", "rotation", 1.0, ("1/min",)),
    Unit("%", "%", "share", 1.0, ("percent",)),
    Unit("{point}", "points", "points", 1.0),
    Unit("kBy", "kB", "data", 1e3),
    Unit("MBy", "MB", "data", 1e6),
    Unit("GBy", "GB", "data", 1e9),
    Unit("TBy", "TB", "data", 1e12),
    Unit("KiBy", "KiB", "data", 1024.0),
    Unit("MiBy", "MiB", "data", 1024.0**2),
    Unit("GiBy", "GiB", "data", 1024.0**3),
    Unit("1", "", "number", 1.0, ("points",)),
)

# Something that is counted, as UCUM writes it; it names neither units nor braces.
_COUNTED = re.compile(r"\{([^{}/]{1,40})\}")
_BY_CODE = {unit.code: unit for unit in _UNITS}
_BY_SPELLING = {
    spelling: unit for unit in _UNITS for spelling in (unit.code, unit.display, *unit.spellings) if spelling
}


def known_units() -> tuple[Unit, ...]:
    """
    List every unit that a measure may have.

    Returns: units, each with its UCUM code and usual written form. Source: UCUM 2.1.
    """
    return _UNITS


def unit_of(code: str) -> Unit:
    """
    Look a unit up by its UCUM code: one of `known_units`, or one of them per another or per something counted.

    Args:
        code: UCUM code, as "s" or "MB/s".
    Raises:
        UnknownUnit: the code is none of these.
    """
    known = _BY_CODE.get(code) or _per(code)
    if known is None:
        raise UnknownUnit(f"“{code}” is not a known unit; use one of {', '.join(_BY_CODE)}.")
    return known


def _per(code: str) -> Unit | None:
    """A unit by another ("MBy/s/W") or by something counted ("s/{minute of film}")."""
    over_code, _, under_code = code.rpartition("/")
    over = _BY_CODE.get(over_code)
    counted = _COUNTED.fullmatch(under_code)
    under = Unit(under_code, counted[1], counted[1], 1.0) if counted else _BY_CODE.get(under_code)
    if over is None or under is None:
        return None
    display = f"{over.display} per {under.display}".strip()
    return Unit(code, display, f"{over.dimension} per {under.dimension}", over.factor / under.factor)


def unit_spelled(spelling: str) -> Unit | None:
    """
    Find the unit that is written so, by its UCUM code or in its usual form; None where none is.

    Args:
        spelling: as somebody wrote it.
    """
    return _BY_SPELLING.get(spelling)


def convert(value: float, spelling: str, to: Unit) -> float:
    """
    Bring a value written in some unit into the unit of its measure.

    Args:
        value: the number as written, in the unit `spelling`.
        spelling: a UCUM code or the usual written form ("MB/s", "min").
        to: the unit wanted.
    Returns: the value in `to`.
    Raises:
        UnknownUnit: the spelling means no unit known here.
        UnitMismatch: the unit is of another dimension (kelvin is never degrees Celsius).
    """
    came = _BY_SPELLING.get(spelling)
    wanted = to.display or "a plain number"
    if came is None:
        raise UnknownUnit(f"“{spelling}” is not a unit known here; this measure is in {wanted}.")
    if came.dimension != to.dimension:
        raise UnitMismatch(f"{came.display} is a {came.dimension}; this measure is in {wanted}.")
    return value if came == to else value * came.factor / to.factor
