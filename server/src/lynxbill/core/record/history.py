"""What was changed of a run or a sitting after it had been written, as it is told: from what, to what."""

from collections.abc import Mapping
from dataclasses import dataclass
from datetime import datetime

from lynxbill.core.record.ids import Plain
from lynxbill.core.record.run import READING, Reading, Run, Sitting
from lynxbill.core.terms.measure import MeasureId

Value = Plain | Reading | datetime


@dataclass(frozen=True, slots=True)
class Change:
    """A member that held `old` until `at`, when `by` made it `new` (None: nothing); `member` as of `Was`."""

    member: str
    old: Value
    new: Value
    at: datetime
    by: str = ""
    reason: str = ""


def changes_of(thing: Run | Sitting) -> tuple[Change, ...]:
    """
    List what was changed of a run or a sitting.

    Args:
        thing: a run or a sitting, with its first and its present values.
    Returns: oldest first, each with the old and the new of its own time, whatever came later. What was written where
        nothing stood is the first writing, and no change.
    """
    found = list[Change]()
    later = dict[str, Value]()
    for entry in reversed(thing.was):
        if entry.value in (None, ""):
            continue
        new = later.get(entry.member, _now(thing, entry.member))
        later[entry.member] = entry.value
        found.append(Change(entry.member, entry.value, new, entry.at, entry.by, entry.reason))
    return tuple(reversed(found))


def _now(thing: Run | Sitting, member: str) -> Value:
    """What stands in a member; of one that has members of its own, in the one that is named."""
    if member.startswith(READING):
        return thing.readings.get(MeasureId(member.removeprefix(READING))) if isinstance(thing, Run) else None
    name, _, inner = member.partition(".")
    value = getattr(thing, name, None)
    if not inner:
        return value
    return value.get(inner) if isinstance(value, Mapping) else getattr(value, inner, None)
