"""What a later report says otherwise than an earlier one of the same two builds."""

from collections.abc import Iterable

from lynxbill.words.base.verdicts import VERDICTS
from lynxbill.words.report.report import Report, Row


def say_since(earlier: Report, later: Report) -> tuple[str, ...]:
    """Say what changed from one report to the next, a line each."""
    return tuple(_changes(earlier, later))


def _changes(earlier: Report, later: Report) -> Iterable[str]:
    if earlier.answer != later.answer:
        yield f"The answer was: {earlier.answer}"
    known = {row.measure: row for row in earlier.rows}
    for row in later.rows:
        old = known.get(row.measure)
        if old is None:
            yield f"{row.name} was not in it."
        elif _outcome(old) != _outcome(row):
            yield f"{row.name} was: {old.change}, {VERDICTS[old.verdict].lower()}."
    gone = [row.name for row in earlier.rows if row.measure not in {now.measure for now in later.rows}]
    yield from (f"{name} is not in this one." for name in gone)
    if earlier.setting.account.net != later.setting.account.net:
        yield f"The net cost was: {earlier.setting.account.net}."
    yield from (f"New at its head: {line}" for line in later.notices if line not in earlier.notices)
    yield from (f"No more at its head: {line}" for line in earlier.notices if line not in later.notices)


def _outcome(row: Row) -> tuple[str, str | None, str, bool]:
    return row.change, row.interval, row.verdict, row.provisional
