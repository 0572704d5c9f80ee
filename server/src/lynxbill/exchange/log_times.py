"""Times in sensor logs: seconds, times of the day and stamps, as other programs write them."""

import re
from datetime import datetime
from functools import lru_cache

import numpy as np

from lynxbill.core.heat.trace import Floats
from lynxbill.core.terms.errors import BadValue
from lynxbill.core.terms.measure import LARGEST
from lynxbill.core.terms.quantity import unit_of, unit_spelled
from lynxbill.exchange.entry import DecimalMark, split_number

_CLOCK = re.compile(r"(\d{1,3}):(\d{2}):(\d{2}(?:[.,]\d+)?)")
_SHORT_CLOCK = re.compile(r"(\d{1,3}):(\d{2}(?:[.,]\d+)?)")
_STAMPS = ("%d.%m.%Y %H:%M:%S", "%d/%m/%Y %H:%M:%S", "%Y/%m/%d %H:%M:%S")


def spread_equal(times: Floats) -> Floats:
    """Times, equal ones spread over the stretch up to the next: a log may be faster than its clock ticks."""
    ticks, starts, counts = np.unique(times, return_index=True, return_counts=True)
    if len(ticks) == len(times):
        return times
    # The last tick lasts as long as the others do.
    lasts = np.diff(ticks, append=ticks[-1] + (float(np.median(np.diff(ticks))) if len(ticks) > 1 else 1.0))
    within = np.arange(len(times)) - np.repeat(starts, counts)
    return times + np.repeat(lasts / counts, counts) * within


def is_of_a_clock(cell: str) -> bool:
    """Whether a time is one of the day, or with a date: a plain number counts, and is never set back."""
    return ":" in cell


def read_time(text: str, unit: str, mark: DecimalMark) -> float:
    """
    Read a cell of the time's column, in seconds; of what begin does not matter.

    `unit` is the UCUM code of a plain number, `mark` the log's decimal mark.

    Raises:
        BadValue: it is none.
    """
    seconds = _read_time(text.strip(), unit, mark)
    if not abs(seconds) <= LARGEST:
        raise BadValue(f"“{text.strip()}” is not a time")
    return seconds


def _read_time(cell: str, usual: str, mark: DecimalMark) -> float:
    try:
        return float(cell) * unit_of(usual).factor
    except ValueError:
        pass
    if clock := _CLOCK.fullmatch(cell):
        hours, minutes, seconds = clock.groups()
        return int(hours) * 3600 + int(minutes) * 60 + float(seconds.replace(",", "."))
    if clock := _SHORT_CLOCK.fullmatch(cell):
        minutes, seconds = clock.groups()
        return int(minutes) * 60 + float(seconds.replace(",", "."))
    stamp = _read_stamp(cell)
    if stamp is not None:
        return stamp
    number, behind = split_number(cell, mark)
    unit = unit_spelled(behind) if behind else unit_of(usual)
    if unit is None or unit.dimension != "time":
        raise BadValue(f"“{cell}” is not a time")
    return number * unit.factor


def _read_stamp(text: str) -> float | None:
    try:
        moment = datetime.fromisoformat(text)
    except ValueError:
        whole, dot, fraction = text.replace(",", ".").rpartition(".")
        is_parted = bool(dot) and fraction.isdigit() and ":" in whole
        second = _whole_second(whole if is_parted else text)
        return None if second is None else second + (float(f"0.{fraction}") if is_parted else 0.0)
    return (moment - datetime(1970, 1, 1, tzinfo=moment.tzinfo)).total_seconds()


@lru_cache(maxsize=4096)
def _whole_second(text: str) -> float | None:
    for form in _STAMPS:
        try:
            return (datetime.strptime(text, form) - datetime(1970, 1, 1)).total_seconds()
        except ValueError:
            continue
    return None
