"""A reading as a technician types it, into a number in the measure's unit."""

import re
from typing import Literal

from lynxbill.core.record.run import Reading, Statistic
from lynxbill.core.terms.errors import BadValue
from lynxbill.core.terms.measure import LARGEST
from lynxbill.core.terms.quantity import Unit, convert

DecimalMark = Literal[".", ","]

MAX_LENGTH = 60
_STATISTICS: dict[str, Statistic] = {
    **{"lowest": "lowest", "min": "lowest", "mean": "mean", "average": "mean", "avg": "mean"},
    **{"highest": "highest", "max": "highest", "settled": "settled", "momentary": "momentary"},
}
_MARK = re.compile(rf"(about|circa|ca\.|~|≈|(?:{'|'.join(_STATISTICS)})\b)\s*", re.IGNORECASE)
_ONE = r"[\d.,:'\u00a0\u202f]*\d[\d.,:'\u00a0\u202f]*"
_RANGE = re.compile(rf"(?P<low>{_ONE})\s*(?:to|[-–—…]|\.\.\.)\s*(?P<high>{_ONE})\s*(?P<unit>[^\d\s].*)?")
_NUMBER = re.compile(r"[+-]?(?:\d[\d., '\u00a0\u202f]*|[.,]\d+)(?:[eE][+-]?\d+)?")
_CLOCK = re.compile(r"(?:(\d+):)?(\d{1,3}):(\d{1,2}(?:[.,]\d+)?)")
_LONG = re.compile(
    r"(?:(?P<h>\d+)\s*h(?:ours?)?)?\s*(?:(?P<min>\d+)\s*m(?:in(?:utes?)?)?)?\s*"
    r"(?:(?P<s>\d+(?:[.,]\d+)?)\s*s(?:ec(?:onds?)?)?)?"
)


def parse_entry(text: str, unit: Unit, decimal_mark: DecimalMark = ".") -> Reading:
    """
    Read what was typed of a reading with its marks: "41.9", "about 40", "~40", "40 to 42 s", "highest 71".

    Raises BadValue (or its kinds for units) with a message that says what to write instead.
    """
    rest, about, statistic = text.strip(), False, None
    while mark := _MARK.match(rest):
        word = mark[1].lower()
        about = about or word not in _STATISTICS
        statistic = _STATISTICS.get(word, statistic)
        rest = rest[mark.end() :]
    ends = _RANGE.fullmatch(rest)
    if ends is None:
        value = parse_reading(rest, unit, decimal_mark)
        return Reading(value, value, about=about, statistic=statistic)
    if about:
        raise BadValue("Write “about 41” or a range like “40 to 42”, not both.")
    spelling = "" if _CLOCK.fullmatch(ends["low"]) else ends["unit"] or ""
    low, high = (parse_reading(f"{ends[end]} {spelling}".strip(), unit, decimal_mark) for end in ("low", "high"))
    if low > high:
        raise BadValue(f"“{rest}” begins with the larger figure; write the smaller one first.")
    return Reading(low, high, statistic=statistic)


def parse_reading(text: str, unit: Unit, decimal_mark: DecimalMark = ".") -> float:
    """
    Read "41.9", "1:52.4", "15 min 52 s", "1 240" or "104 MB/s" as a number in `unit`.

    Raises BadValue (or its kinds for units) with a message that says what to write instead.
    """
    cleaned = text.strip().replace("\u2212", "-")
    if not cleaned or len(cleaned) > MAX_LENGTH:
        raise BadValue("Write a number here." if not cleaned else "This is too long for a reading; write one number.")
    if unit.dimension == "time":
        seconds = _parse_duration(cleaned, decimal_mark)
        if seconds is not None:
            return convert(seconds, "s", unit)
    number, spelling = split_number(cleaned, decimal_mark)
    return convert(number, spelling, unit) if spelling else number


def split_number(text: str, decimal_mark: DecimalMark) -> tuple[float, str]:
    """
    Part a text into the number that it begins with and the words behind.

    Raises BadValue where it begins with none.
    """
    cleaned = text.strip()
    match = _NUMBER.match(cleaned)
    if match is None:
        raise BadValue(f"“{cleaned}” is not a number; write one like 41{decimal_mark}9.")
    return _parse_number(match.group().strip(), decimal_mark), cleaned[match.end() :].strip()


def _parse_duration(text: str, mark: DecimalMark) -> float | None:
    if clock := _CLOCK.fullmatch(text):
        hours, minutes, seconds = clock.groups()
        if hours is not None and int(minutes) >= 60:
            raise BadValue(f"“{text}” has {minutes} minutes to the hour; at most 59.")
        return _clock_seconds(text, int(hours or 0), int(minutes), _parse_number(seconds, mark))
    long = _LONG.fullmatch(text)
    if long and sum(part is not None for part in long.groups()) >= 2:
        seconds = _parse_number(long["s"], mark) if long["s"] else 0.0
        return _clock_seconds(text, int(long["h"] or 0), int(long["min"] or 0), seconds)
    return None


def _clock_seconds(text: str, hours: int, minutes: int, seconds: float) -> float:
    if seconds >= 60:
        raise BadValue(f"“{text}” has {seconds:g} seconds to the minute; at most 59.99.")
    return hours * 3600 + minutes * 60 + seconds


def _parse_number(text: str, mark: DecimalMark) -> float:
    other = "," if mark == "." else "."
    mantissa, _, exponent = text.partition("e") if "e" in text else text.partition("E")
    if mantissa.count(mark) > 1:
        raise BadValue(f"“{text}” has two decimal marks; write it with one “{mark}”.")
    whole, _, fraction = mantissa.partition(mark)
    if any(not character.isdigit() for character in fraction):
        raise BadValue(f"“{text}” is not one number; the decimal mark of this machine is “{mark}”.")
    groups = re.split(rf"[{other} '\u00a0\u202f]", whole.lstrip("+-"))
    if len(groups) > 1 and (any(len(group) != 3 for group in groups[1:]) or not 1 <= len(groups[0]) <= 3):
        raise BadValue(
            f"“{text}” can't be read: this machine's decimal mark is “{mark}”; “{other}” only parts thousands."
        )
    sign = "-" if whole.startswith("-") else ""
    value = float(f"{sign}{''.join(groups) or '0'}.{fraction or '0'}e{exponent or '0'}")
    if abs(value) > LARGEST:
        raise BadValue(f"“{text}” is too large to be a reading.")
    return value
