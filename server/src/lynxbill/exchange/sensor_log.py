"""Sensor logs: tables of a time and of what sensors told, as other programs write them (CSV after RFC 4180)."""

import csv
import io
import re
from collections.abc import Callable, Iterator, Mapping, Sequence
from contextlib import suppress
from dataclasses import dataclass, replace
from itertools import islice, pairwise, takewhile
from typing import BinaryIO

import numpy as np

from lynxbill.core.heat.roles import SENSED, ChannelRole
from lynxbill.core.heat.trace import Floats
from lynxbill.core.terms.errors import BadValue
from lynxbill.core.terms.measure import LARGEST
from lynxbill.core.terms.quantity import unit_of, unit_spelled
from lynxbill.exchange.entry import DecimalMark, split_number
from lynxbill.exchange.log_times import is_of_a_clock, read_time, spread_equal
from lynxbill.exchange.problem import Problem, UnusableText

# So much of a file is looked at to find out how it is written.
HEAD_BYTES = 64 * 1024
ROWS_AT_ONCE = 5000
MOST_PROBLEMS = 100
MOST_COLUMNS = 1000
_SHOWN_ROWS = 3
_SEPARATORS = (";", "\t", ",", "|")
_GAPS = frozenset({"", "-", "–", "n/a", "na", "nan", "null", "none", "not available"})
_DAY_S = 86_400.0
_NUMBER = re.compile(r"[+-]?\d[\d .,'\u00a0]*")
_BRACKETED = re.compile(r"[\[(]\s*([^\])]+?)\s*[\])]")
_TIME_WORDS = re.compile(r"\b(time|elapsed|seconds?|sec|ms|zeit|uhrzeit|temps|hora|tid)\b", re.IGNORECASE)
# Read, and kept in °C.
FAHRENHEIT = "[degF]"
_FAHRENHEIT = re.compile(r"°\s?F\b|\bdegF\b|[Ff]ahrenheit|[\[(]F[\])]")
_ROLE_WORDS = tuple((role, s.unit, re.compile(s.heading, re.IGNORECASE)) for role, s in SENSED.items() if s.heading)
_PART_WORDS = (
    ("graphics", re.compile(r"\bgpu|graphics", re.IGNORECASE)),
    ("drive", re.compile(r"\bdrive|\bdisk|\bssd|\bhdd", re.IGNORECASE)),
    ("memory", re.compile(r"\bmem|\bdimm|\bram\b", re.IGNORECASE)),
    ("processor", re.compile(r"\bcpu|\bcore|\bpackage|processor|\bdie\b", re.IGNORECASE)),
)


@dataclass(frozen=True, slots=True)
class LogColumn:
    """
    A column of a log: its number from 0, its heading, and what it is taken for.

    `role` None: it is not taken; `unit` is the UCUM code that it is written in, `of` the part that the sensor is on.
    """

    number: int
    heading: str
    role: ChannelRole | None = None
    of: str = "board"
    unit: str = "1"

    @property
    def kept_unit(self) -> str:
        """The UCUM code that its values are read in: what is written in degrees Fahrenheit becomes Celsius."""
        return "Cel" if self.unit == FAHRENHEIT else self.unit


@dataclass(frozen=True, slots=True)
class LogForm:
    """How a log is written: its heading stands in row `heading_row` (from 0), the time in column `time`."""

    encoding: str
    separator: str
    decimal_mark: DecimalMark
    heading_row: int
    time: int
    time_unit: str


@dataclass(frozen=True, slots=True)
class LogHead:
    """A log as it is found: its form, its columns with what they are taken for, its first rows as written."""

    form: LogForm
    columns: tuple[LogColumn, ...]
    rows: tuple[tuple[str, ...], ...]


@dataclass(frozen=True, slots=True)
class LogRows:
    """Some rows of a log: seconds since its first row; values by column in its `kept_unit` (NaN: a gap)."""

    at: Floats
    values: tuple[Floats, ...]


def look_at_log(head: bytes, known: Mapping[str, LogColumn]) -> LogHead:
    """
    Find out how a log is written.

    Args:
        head: its first bytes, HEAD_BYTES of them or all.
        known: what was once said of columns, by heading.
    Raises:
        BadValue: a text that is no table with a time and a figure beside it.
    """
    encoding = _encoding(head)
    lines = head.decode(encoding, errors="replace").splitlines()
    # The last line may be cut off.
    lines = lines[:-1] if len(lines) > 2 and len(head) >= HEAD_BYTES else lines
    separator = _separator(lines)
    table = list(csv.reader(lines, delimiter=separator))
    row = next((n for n in range(len(table) - 1) if _is_heading(table[n], table[n + 1])), None)
    if row is None:
        raise BadValue("No row of headings with figures beneath it was found: is this a table of a sensor log?")
    heading, rows = table[row], [r for r in table[row + 1 :] if len(r) >= 2]
    if len(heading) > MOST_COLUMNS:
        raise BadValue(f"This log has {len(heading)} columns; at most {MOST_COLUMNS} are read.")
    mark: DecimalMark = "," if _has_commas(rows, separator) else "."
    time = _time_column(heading, rows, mark)
    if time is None:
        raise BadValue("No column of this log is a time that rises from row to row.")
    form = LogForm(encoding, separator, mark, row, time, _time_unit(heading[time]))
    columns = tuple(_column(number, text.strip(), known) for number, text in enumerate(heading) if number != time)
    return LogHead(form, columns, tuple(tuple(r) for r in rows[:_SHOWN_ROWS]))


def read_log(
    file: BinaryIO, form: LogForm, columns: Sequence[LogColumn], progress: Callable[[int], None]
) -> Iterator[LogRows]:
    """
    Read a log some rows at a time.

    Args:
        columns: those that are taken.
        progress: told after each of them how many bytes were read by then.
    Raises:
        UnusableText: after its end, every cell that can't be read, up to MOST_PROBLEMS, by row and column.
    """
    reader = _Reader(form, columns)
    text = io.TextIOWrapper(file, encoding=form.encoding, errors="replace", newline="")
    reader.skip_heading(text)
    carried: list[str] = []
    fresh = list(islice(text, ROWS_AT_ONCE))
    while fresh or carried:
        block = carried + fresh
        # Rows of the same tick of the log's clock stay together.
        carried = reader.last_tick(block) if len(fresh) == ROWS_AT_ONCE else []
        found = reader.read(block[: len(block) - len(carried)])
        if len(reader.problems) >= MOST_PROBLEMS:
            break
        if found is not None:
            yield found
        progress(file.tell())
        fresh = list(islice(text, ROWS_AT_ONCE))
    if reader.problems:
        raise UnusableText(reader.problems[:MOST_PROBLEMS])


class _Reader:
    """Reads a log block by block: as plain numbers where it can, else cell by cell."""

    def __init__(self, form: LogForm, columns: Sequence[LogColumn]):
        self.form, self.columns = form, columns
        self.problems: list[Problem] = []
        self._heading: list[str] = []
        self._row = form.heading_row + 2
        self._begin: float | None = None
        self._last = -np.inf
        self._days = 0.0
        self._step = 1.0

    def skip_heading(self, lines: Iterator[str]) -> None:
        """Go on behind the row of headings."""
        self._heading = next(
            islice(csv.reader(lines, delimiter=self.form.separator), self.form.heading_row, None), []
        )

    def last_tick(self, block: list[str]) -> list[str]:
        """The lines at the end of a block that have the time of its last one; none where all have."""
        last = self._time_cell(block[-1])
        same = sum(1 for _ in takewhile(lambda line: self._time_cell(line) == last, reversed(block)))
        return block[-same:] if same < len(block) else []

    def _time_cell(self, line: str) -> str:
        cells = line.split(self.form.separator, self.form.time + 1)
        return cells[self.form.time].strip(' "\r\n') if len(cells) > self.form.time else ""

    def read(self, block: list[str]) -> LogRows | None:
        """Read the next lines; what can't be read joins the problems, and after the first nothing is handed out."""
        found = self._read_numbers(block) or self._read_cells(block)
        self._row += len(block)
        if found is None or self.problems:
            return None
        if self._begin is None:
            self._begin = float(found.at[0])
        values = tuple(
            (told - 32) / 1.8 if column.unit == FAHRENHEIT else told
            for column, told in zip(self.columns, found.values, strict=True)
        )
        return LogRows(spread_equal(found.at) - self._begin, values)

    def _read_numbers(self, block: list[str]) -> LogRows | None:
        """Read lines whose values are plain numbers, all at once; None where one is not that."""
        form, taken = self.form, [column.number for column in self.columns]
        lines = block if form.decimal_mark == "." else [line.replace(",", ".") for line in block]
        try:
            table = np.loadtxt(
                lines, delimiter=form.separator, usecols=taken, comments=None, quotechar='"', ndmin=2, unpack=True
            )
        except ValueError:
            return None
        if table.shape[1] != len(block) or not (np.abs(table) <= LARGEST).all():
            return None
        cells = [self._time_cell(line) for line in block]
        try:
            at = np.array(cells, dtype=np.float64) * unit_of(form.time_unit).factor + self._days
        except ValueError:
            at = self._times(range(self._row, self._row + len(block)), cells)
        else:
            if not (np.abs(at) <= LARGEST).all() or np.any(np.diff(at, prepend=self._last) < 0):
                return None
            self._last = float(at[-1])
        return LogRows(at, tuple(table))

    def _read_cells(self, block: list[str]) -> LogRows | None:
        """Read lines cell by cell, with gaps, grouped digits and units behind; names what can't be read."""
        widest = max([self.form.time, *(column.number for column in self.columns)])
        numbers, rows = list[int](), list[list[str]]()
        for number, row in enumerate(csv.reader(block, delimiter=self.form.separator), start=self._row):
            if row and row != self._heading:
                if len(row) > widest:
                    numbers.append(number)
                    rows.append(row)
                else:
                    self._problem(number, None, f"it has {len(row)} cells, and {widest + 1} are needed")
        if not rows:
            return None
        times = self._times(numbers, [row[self.form.time] for row in rows])
        return LogRows(times, tuple(self._values(numbers, c, [row[c.number] for row in rows]) for c in self.columns))

    def _problem(self, row: int, column: str | None, message: str) -> None:
        if len(self.problems) < MOST_PROBLEMS:
            where = f"row {row}" if column is None else f"row {row}, “{column}”"
            self.problems.append(Problem(where, message))

    def _times(self, numbers: Sequence[int], cells: list[str]) -> Floats:
        found = np.empty(len(cells))
        for place, cell in enumerate(cells):
            try:
                seconds = read_time(cell, self.form.time_unit, self.form.decimal_mark)
            except BadValue as refusal:
                self._problem(numbers[place], "time", str(refusal))
                seconds = self._last
            # A clock that only tells the time of day begins anew at midnight.
            if seconds + self._days < self._last - _DAY_S / 2:
                self._days += _DAY_S
            seconds += self._days
            if seconds < self._last and is_of_a_clock(cell):
                # A clock of the wall that was set back: time goes on from where it was.
                self._days += self._last + self._step - seconds
                seconds = self._last + self._step
            if self._last < seconds and np.isfinite(self._last):
                self._step = seconds - self._last
            if seconds < self._last:
                self._problem(numbers[place], "time", f"{cell.strip()} comes after a later time")
            found[place] = self._last = max(seconds, self._last)
        return found

    def _values(self, numbers: list[int], column: LogColumn, cells: list[str]) -> Floats:
        return np.array([self._value(n, column, cell) for n, cell in zip(numbers, cells, strict=True)])

    def _value(self, number: int, column: LogColumn, cell: str) -> float:
        text = cell.strip()
        if text.lower() in _GAPS:
            return float("nan")
        try:
            value, behind = split_number(text, self.form.decimal_mark)
        except BadValue as refusal:
            self._problem(number, column.heading, str(refusal))
            return float("nan")
        if column.unit == FAHRENHEIT:
            fits, wanted = _FAHRENHEIT.match(f"°{behind.lstrip('°')}") is not None, "°F"
        else:
            fits, wanted = unit_spelled(behind) == unit_of(column.unit), unit_of(column.unit).display
        if behind and not fits:
            self._problem(number, column.heading, f"“{text}” is not in {wanted}")
        return value


def _encoding(head: bytes) -> str:
    if head.startswith((b"\xff\xfe", b"\xfe\xff")):
        return "utf-16"
    try:
        head[: head.rfind(b"\n") + 1 or None].decode("utf-8")
    except UnicodeDecodeError:
        return "cp1252"
    return "utf-8-sig"


def _separator(lines: list[str]) -> str:
    """The separator that parts most lines into the same number of cells, and into most."""

    def fit(separator: str) -> tuple[int, int]:
        widths = [len(row) for row in csv.reader(lines[:50], delimiter=separator)]
        most = max(set(widths), key=lambda width: (widths.count(width), width), default=1)
        return (widths.count(most) if most > 1 else 0, most)

    return max(_SEPARATORS, key=fit)


def _is_heading(row: list[str], below: list[str]) -> bool:
    """Whether a row names columns whose figures begin in the row below."""
    named = [not _NUMBER.fullmatch(cell.strip()) for cell in row if cell.strip()]
    figures = [bool(re.match(r"[+-]?\d", cell.strip())) for cell in below]
    return len(row) >= 2 and len(below) >= 2 and all(named) and sum(figures) >= 2


def _has_commas(rows: list[list[str]], separator: str) -> bool:
    if separator == ",":
        return any(re.fullmatch(r"[+-]?\d+,\d{1,2}", cell.strip()) for row in rows for cell in row)
    return any(re.fullmatch(r"[+-]?\d+,\d+", cell.strip()) for row in rows for cell in row)


def _time_column(heading: list[str], rows: list[list[str]], mark: DecimalMark) -> int | None:
    def rises(number: int, *, moves: bool) -> bool:
        form, read = LogForm("", "", mark, 0, number, _time_unit(heading[number])), list[float]()
        for row in rows:
            with suppress(BadValue, IndexError):
                read.append(read_time(row[number], form.time_unit, form.decimal_mark))
        # A row that is wrong is named when the log is read; and a time of day falls back at midnight.
        falls = sum(later < earlier for earlier, later in pairwise(read))
        return len(read) > len(rows) / 2 and falls <= 1 and not (moves and read[-1] == read[0])

    named = [n for n, text in enumerate(heading) if _is_time(text)]
    # What is called otherwise may still be a time, but not what is called a sensor's.
    others = [n for n, text in enumerate(heading) if n not in named and _column(n, text, {}).role is None]
    return next((n for n in (*named, *others) if rises(n, moves=n not in named)), None)


def _is_time(heading: str) -> bool:
    return _TIME_WORDS.search(heading) is not None or unit_spelled(heading.strip()) == unit_of("s")


def _time_unit(heading: str) -> str:
    for word in (*_BRACKETED.findall(heading), *re.findall(r"\w+", heading)):
        unit = unit_spelled(word)
        if unit is not None and unit.dimension == "time":
            return unit.code
    return "s"


def _column(number: int, heading: str, known: Mapping[str, LogColumn]) -> LogColumn:
    if heading in known:
        return replace(known[heading], number=number, heading=heading)
    for role, usual, words in _ROLE_WORDS:
        if words.search(heading):
            of = next((part for part, names in _PART_WORDS if names.search(heading)), "board")
            unit = _unit(heading, role, usual)
            # What names a unit of another kind is not what its words say: "power limit [%]".
            return LogColumn(number, heading) if unit is None else LogColumn(number, heading, role, of, unit)
    return LogColumn(number, heading)


def _unit(heading: str, role: ChannelRole, usual: str) -> str | None:
    """The unit that a heading names, else the usual one of its role; None where it names one of another kind."""
    if role == "temperature" and _FAHRENHEIT.search(heading):
        return FAHRENHEIT
    bracketed = [unit for word in _BRACKETED.findall(heading) if (unit := unit_spelled(word)) is not None]
    bare = [unit for word in heading.split() if (unit := unit_spelled(word)) is not None]
    for unit in (*bracketed, *bare):
        if unit.dimension == unit_of(usual).dimension or unit.code in SENSED[role].also:
            return unit.code
    return None if bracketed else usual
