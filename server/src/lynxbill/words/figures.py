"""Figures as they are shown: rounded once, with the machine's decimal mark."""

import math
from typing import Literal

DecimalMark = Literal[".", ","]
_MINUS, _NARROW_SPACE = "\u2212", "\u202f"


def shown(value: float, decimals: int, mark: DecimalMark = ".") -> str:
    """Write a number with so many decimals, thousands parted from five digits on, and a true minus sign."""
    text = f"{abs(value):.{decimals}f}"
    whole, _, fraction = text.partition(".")
    if len(whole) > 4:
        whole = f"{int(whole):,}".replace(",", _NARROW_SPACE)
    sign = _MINUS if value < 0 and float(text) != 0 else ""
    return sign + whole + (mark + fraction if fraction else "")


def decimals_of(value: float, *, digits: int = 3) -> int:
    """How many decimals give a figure so many significant digits, none below the point for a large one."""
    if value == 0 or not math.isfinite(value):
        return 0
    return max(0, digits - 1 - math.floor(math.log10(abs(value))))
