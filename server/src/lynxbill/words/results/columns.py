"""What two columns of figures say, and what they don't."""

import math

from lynxbill.core.reading.columns import Columns
from lynxbill.core.terms.quantity import unit_of
from lynxbill.words.base.change import less_or_more
from lynxbill.words.base.figures import DecimalMark, decimals_of, shown
from lynxbill.words.base.times import say_time, say_times

NO_VERDICT = (
    "No verdict: one look each. Repeats after a restart would tell whether this is the change or the day; these "
    "figures can’t."
)


def say_columns(columns: Columns, mark: DecimalMark) -> list[str]:
    """
    Say a change in all its forms: of a time how much less of it, and how many times as fast.

    Returns: the lines, most telling first; the last one says that this is no verdict.
    """
    measure = columns.measure
    unit = unit_of(measure.unit).display
    step = abs(columns.after - columns.before)
    least = min(abs(columns.before), abs(columns.after))
    decimals = min(6, max(decimals_of(least), decimals_of(step, digits=1)))
    ends = [shown(value, decimals, mark) for value in (columns.before, columns.after)]
    if ends[0] == ends[1]:
        return [f"{ends[0]} {unit} before and after: no difference in these figures.".replace("  ", " "), NO_VERDICT]
    return [f"From {ends[0]} to {ends[1]} {unit}".strip() + f": {_change(columns, mark)}.", NO_VERDICT]


def _change(columns: Columns, mark: DecimalMark) -> str:
    measure, gain = columns.measure, columns.gain_percent
    rises = columns.after > columns.before
    if gain is None:
        step = abs(columns.after - columns.before)
        sentence = shown(step, min(6, decimals_of(step, digits=2)), mark)
        difference = unit_of("K" if measure.unit == "Cel" else measure.unit).display
        return f"{sentence} {difference} {less_or_more(measure, more=rises)}"
    if not measure.is_work:
        percent = 100 * math.expm1(math.log(columns.after / columns.before))
        return f"{shown(abs(percent), 1, mark)} % {less_or_more(measure, more=rises)}"
    times = f"{say_times(math.exp(columns.estimate), mark)} ({_signed(gain, mark)} %)"
    saved = columns.time_saved_percent
    if saved is None:
        return times if measure.kind == "rate" else f"{_signed(gain, mark)} %"
    return f"{say_time(saved, mark, 1)}, {times}"


def _signed(percent: float, mark: DecimalMark) -> str:
    return f"{'+' if percent > 0 else ''}{shown(percent, 1, mark)}"
