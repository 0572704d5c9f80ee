"""Figures as they are shown: rounded once, with the machine's decimal mark."""

import math
import re
from collections.abc import Sequence
from typing import Literal

DecimalMark = Literal[".", ","]
_MINUS, _NARROW_SPACE = "\u2212", "\u202f"


def shown(value: float, decimals: int, mark: DecimalMark = ".") -> str:
    """Write a number with so many decimals, thousands parted from five digits on, and a true minus sign."""
    text = f"{abs(value):.{decimals}f}"
    return written(text, mark, negative=value < 0 and float(text) != 0)


def written(text: str, mark: DecimalMark, *, negative: bool) -> str:
    """Bring digits with a decimal point into the form in which numbers are shown."""
    whole, _, fraction = text.partition(".")
    if len(whole) > 4:
        whole = f"{int(whole):,}".replace(",", _NARROW_SPACE)
    return (_MINUS if negative else "") + whole + (mark + fraction if fraction else "")


def decimals_of(value: float, *, digits: int = 3) -> int:
    """How many decimals give a figure so many significant digits, none below the point for a large one."""
    if value == 0 or not math.isfinite(value):
        return 0
    return max(0, digits - 1 - math.floor(math.log10(abs(value))))


# From this many seconds on a time reads better in minutes.
LONG_S = 300
_HOUR_S = 3600


def decimals_for(half_width: float | None) -> int:
    """How many decimals two significant digits of an interval's half-width deserve."""
    if half_width is None or not math.isfinite(half_width) or half_width <= 0:
        return 1
    return min(6, max(0, 1 - math.floor(math.log10(half_width))))


def figure(value: float, mark: DecimalMark = ".") -> str:
    """Write a bare figure with at least three significant digits."""
    return shown(value, _figure_decimals(value), mark)


def reading(value: float, unit: str, mark: DecimalMark = ".") -> str:
    """Write a reading in its unit; long times as minutes and seconds."""
    if unit == "s" and value >= LONG_S:
        return duration(value)
    return f"{figure(value, mark)} {unit}".rstrip()


def typed(value: float, mark: DecimalMark = ".") -> str:
    """Write a number as it was typed, none of it rounded: "65", "21.5"."""
    return f"{value:.12g}".replace("-", _MINUS).replace(".", mark)


def signed_percent(value: float, decimals: int, mark: DecimalMark = ".", *, unit: str = " %") -> str:
    """Write a change with its sign always shown: "+34.1 %"."""
    text = shown(value, decimals, mark)
    return f"{'+' if value > 0 and float(f'{value:.{decimals}f}') != 0 else ''}{text}{unit}"


def percent(share: float) -> str:
    """Write a level: "95 %", "97.5 %"."""
    whole = round(1000 * share) / 10
    return f"{whole:.0f} %" if whole == int(whole) else f"{whole:.1f} %"


def duration(seconds: float) -> str:
    """Write seconds as "15 min 52 s"."""
    whole = math.floor(seconds + 0.5)
    hours, rest = divmod(whole, _HOUR_S)
    minutes, left = divmod(rest, 60)
    return f"{hours} h {minutes} min" if hours else f"{minutes} min {left} s"


def bench_minutes(minutes: float) -> str:
    """Write minutes at the bench as "2 h 10 min"."""
    hours, rest = divmod(math.floor(minutes + 0.5), 60)
    parts = ([f"{hours} h"] if hours else []) + ([f"{rest} min"] if rest or not hours else [])
    return " ".join(parts)


def step(before: float, after: float, unit: str, mark: DecimalMark = ".") -> tuple[str, str, str]:
    """
    Write two readings and the step between them in one form, so that what is shown of the three adds up.

    Returns: the first without its unit, the second and the step with it.
    """
    after = _same_or(before, after)
    least, most = sorted((abs(before), abs(after)))
    size = abs(after - before)
    if unit == "s" and most >= LONG_S and least >= 60 and size >= 10:
        grain = 60 if most >= _HOUR_S else 1
        first, second = (grain * math.floor(value / grain + 0.5) for value in (before, after))
        return duration(first), duration(second), _length(abs(second - first))
    # Fine enough to show the step, and no coarser than either reading stands elsewhere.
    decimals = max(_fine(size), _figure_decimals(most))
    rounded = [float(f"{value:.{decimals}f}") for value in (before, after)]
    bare, ended, long = (shown(value, decimals, mark) for value in (*rounded, abs(rounded[1] - rounded[0])))
    return bare, f"{ended} {unit}".rstrip(), f"{long} {unit}".rstrip()


def pair(before: float, after: float, mark: DecimalMark = ".") -> tuple[str, str]:
    """Write two bare figures with the digits that their difference needs, and no fewer than each has by itself."""
    after = _same_or(before, after)
    fine = _fine(abs(after - before))
    first, second = (shown(v, min(6, max(fine, _figure_decimals(v))), mark) for v in (before, after))
    return first, second


def _same_or(before: float, after: float) -> float:
    """The second figure; the first where only their last binary digits tell them apart, lest they round apart."""
    return before if math.isclose(before, after, rel_tol=1e-12) else after


def _fine(size: float) -> int:
    """How many decimals show a difference as one; as many as the finest reading has, at most."""
    return min(6, max(0, math.ceil(-math.log10(size / 3)))) if size > 0 else 0


def counted(count: int, noun: str) -> str:
    """Write "3 runs", "1 run"."""
    return f"{count} {noun}{'' if count == 1 else 's'}"


def listed(words: Sequence[str]) -> str:
    """Write words in a row: "a, b and c"."""
    return "".join(words) if len(words) < 2 else f"{', '.join(words[:-1])} and {words[-1]}"


def _length(seconds: float) -> str:
    """A length of time without the parts that are nothing: "40 s", "49 min"."""
    return re.sub(r" 0 (s|min)$", "", re.sub(r"^0 min (?=\d)", "", duration(seconds)))


def _figure_decimals(value: float) -> int:
    size = abs(value)
    return 0 if size >= 100 or size == 0 else 1 if size >= 10 else 2 if size >= 1 else 3
