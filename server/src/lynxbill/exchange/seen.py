"""What a machine shows of a part, as it is typed: whether that is what was expected."""

import math
import re

from lynxbill.core.record.swap import Seen
from lynxbill.core.terms.errors import Refusal
from lynxbill.core.terms.quantity import convert, unit_spelled
from lynxbill.exchange.entry import DecimalMark, split_number

_WORD = re.compile(r"[^\W\d_]+")


def judge_seen(what: str, expected: str, seen: str, mark: DecimalMark = ".") -> Seen | None:
    """
    Decide what can be decided without the technician.

    Args:
        what: what was looked at ("processor, cores"); its own words may stand beside the number.
        mark: the machine's decimal mark.
    Returns: `pass` where both say the same: spaces and case aside, the same figure in whatever unit, with or without
        it ("32" and "32 GB", "3,140 MHz" and "3.14 GHz"); None where somebody has to look.
    """
    if not seen.strip():
        return None
    if _plain(expected) == _plain(seen):
        return "pass"
    wanted, found = _read(what, expected, mark), _read(what, seen, mark)
    if wanted is None or found is None:
        return None
    return "pass" if _same_figure(*wanted, *found) else None


def _plain(text: str) -> str:
    return "".join(text.split()).casefold()


def _read(what: str, text: str, mark: DecimalMark) -> tuple[float, str] | None:
    """A figure and the words beside it, but for those that only say again what it is."""
    # What is expected was written with a point, whatever the machine's mark.
    for tried in (mark, "."):
        try:
            number, words = split_number(text, tried)
        except Refusal:
            continue
        own = {_singular(word) for word in _WORD.findall(what)}
        return number, " ".join(word for word in words.split() if _singular(word) not in own)
    return None


def _singular(word: str) -> str:
    return word.casefold().removesuffix("s")


def _same_figure(number: float, words: str, other: float, other_words: str) -> bool:
    unit, other_unit = unit_spelled(words), unit_spelled(other_words)
    if unit is not None and other_unit is not None and unit.dimension == other_unit.dimension:
        other = convert(other, other_unit.code, unit)
    elif words and other_words and _plain(words) != _plain(other_words):
        return False
    return math.isclose(number, other, rel_tol=1e-9)
