"""Doubts as they are asked: was it typed right?"""

from collections.abc import Mapping

from lynxbill.core.reading.doubts import Doubt
from lynxbill.core.terms.measure import Measure
from lynxbill.core.terms.quantity import Unit, unit_of

_NO_SUCH: Mapping[str, str] = {
    "temperature": "No part of a PC is read at that",
    "frequency": "No part of a PC runs at that",
    "rotation": "No fan of a PC turns at that",
    "power": "No PC draws that",
    "sound level": "No PC is as loud as that",
}


def say_impossible(unit: Unit) -> str:
    """Say of a figure in a unit that no PC is read at it."""
    return _NO_SUCH.get(unit.dimension, "No PC shows that")


def say_doubt(doubt: Doubt, measure: Measure, mark: str = ".") -> str:
    """
    Put a doubt as a question.

    Args:
        mark: the decimal mark of the machine.
    """
    unit = unit_of(measure.unit).display

    def write(value: float | None, digits: int = 3) -> str:
        # Whole figures are written out: "3940", not "3.94e+03".
        most = max(digits, len(f"{abs(value or 0.0):.0f}"))
        return f"{value or 0.0:.{most}g} {unit}".strip().replace(".", mark)

    typed = write(doubt.value, 12)

    match doubt.code:
        case "slip_of_digits":
            return f"{typed}? Its siblings are near {write(doubt.siblings)}. Is it typed right?"
        case "no_temperature":
            return f"{typed}? No part of a PC is read at that. Is it typed right?"
        case "not_of_a_pc":
            beyond = say_impossible(unit_of(measure.unit))
            return f"{typed}? {beyond}. Is it typed right?"
        case "at_the_stop":
            return f"{typed}, and a run is stopped at {write(doubt.siblings)}: a safety stop, or a slip?"
        case "crosswise":
            return (
                f"{typed}? Its siblings are near {write(doubt.siblings)}, and those of “{doubt.other}” are near "
                "this: typed crosswise?"
            )
        case "above_the_link":
            return f"{typed} is more than its link can carry, {write(doubt.siblings)}: a cache, or a slip?"
        case "highest_below_settled":
            return f"The highest, {typed}, lies below the other, {write(doubt.siblings)}. Is it typed right?"
