"""Several builds against one baseline: which are candidates in their own right, and which another attempt at one."""

import re
from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from datetime import datetime

from lynxbill.core.change.difference import find_differences
from lynxbill.core.record.build import Build, Candidate
from lynxbill.core.record.frame import Frame
from lynxbill.core.record.swap import Swap


@dataclass(frozen=True, slots=True)
class Rivals:
    """
    What was measured against the same baseline before, with the same roles changed.

    `count` is all of it, `attempts` what of it is no other candidate; `as_told` says that a part is another one only
    by what was typed.
    """

    count: int = 0
    attempts: int = 0
    as_told: bool = False


ALONE = Rivals()


def rivals_of(frame: Frame, swap: Swap) -> Rivals:
    """
    Find what a swap has to share its baseline with.

    Args:
        frame: the machine without its runs.
        swap: one of its swaps.
    Returns: of every earlier swap from the same build whose after-build was measured. Another candidate is what the
        agent read as another part, or whose record, with its model and price, was made before a verdict on the
        earlier one was given to anybody.
    Source: docs/judgement.md, "One plan for a pair of builds".
    """
    changed = _changed(frame, swap)
    after = frame.build(swap.after)
    count = attempts = 0
    as_told = False
    for earlier in frame.swaps[: frame.swaps.index(swap)]:
        alike = earlier.before == swap.before and earlier.after != swap.after
        if not alike or not frame.sittings_of(earlier.after) or _changed(frame, earlier) != changed:
            continue
        count += 1
        # Another value of a setting is another thing that was tried, and says so by itself.
        if all(key.startswith("setting:") for key in changed):
            continue
        if _read_as_another(after, frame.build(earlier.after), changed):
            continue
        as_told = True
        attempts += not _recorded_before(frame, swap, earlier)
    return Rivals(count, attempts, as_told)


def _changed(frame: Frame, swap: Swap) -> frozenset[str]:
    """The roles of which parts were changed; where none were, the settings, else what was ticked."""
    differences = find_differences(frame.build(swap.before), frame.build(swap.after))
    parts = frozenset(d.key for d in differences if d.kind != "setting")
    return parts or frozenset(d.key for d in differences) or frozenset(swap.side_changes)


def _read_as_another(one: Build, other: Build, changed: frozenset[str]) -> bool:
    """Whether the agent read two different parts of a role that was changed."""
    roles = {key.removeprefix("part:") for key in changed}
    read = [(one.read[role], other.read[role]) for role in roles if role in one.read and role in other.read]
    return any(_comparable(here, there) != _comparable(there, here) for here, there in read)


def _comparable(texts: Sequence[str], other: Sequence[str]) -> list[str]:
    """The texts without sums of serial numbers, unless both sides have them and made them with one salt."""
    if (salts := _salts(texts)) and salts == _salts(other) and len(salts) == 1 and None not in salts:
        return list(texts)
    return sorted(_SUM.sub("", text) for text in texts)


def _salts(texts: Sequence[str]) -> set[str | None]:
    """By what they are told apart, the salts that the sums in some texts were made with; None of a text without."""
    found = [_SUM.search(text) for text in texts]
    return {None if sum_ is None else sum_["salt"] or "" for sum_ in found}


def _recorded_before(frame: Frame, swap: Swap, earlier: Swap) -> bool:
    """Whether the part of a swap was on record, with its price, before a verdict on an earlier one was given."""
    if earlier.shown is None:
        return False
    shown_at = min((entry.at for entry in earlier.shown), default=None)
    fitted = {_spelt(part.label) for part in frame.build(swap.after).parts}
    before = {_spelt(part.label) for part in frame.build(earlier.after).parts}
    return any(
        candidate.swap == swap.id
        and _spelt(candidate.label) in fitted - before
        and candidate.recorded_at is not None
        and (shown_at is None or candidate.recorded_at < shown_at)
        for candidate in frame.candidates
    )


def _spelt(label: str) -> str:
    return " ".join(label.casefold().split())


def recorded_at(candidate: Candidate, before: Candidate | None, at: datetime) -> datetime | None:
    """
    Say since when a part is on record with its model and its price.

    Args:
        before: the record as it stood; None, it is new.
        at: now.
    Returns: None without a price; another model is another record.
    """
    if candidate.price is None:
        return None
    if before is None or before.recorded_at is None or _spelt(before.label) != _spelt(candidate.label):
        return at
    return before.recorded_at


def identities_of(parts: Mapping[str, Sequence[tuple[str, Mapping[str, object]]]]) -> Mapping[str, tuple[str, ...]]:
    """
    Write down by role what the agent read of parts: model, capacity, clock and the salted sum of a serial number.

    Args:
        parts: by role, each with its label and its figures.
    Returns: sorted texts by role; a role whose parts tell nothing apart is left out.
    """
    found = {}
    for role, told in parts.items():
        # What the system says of its memory is rounded anew at every start.
        names = ["" if role == "memory" else label for label, _ in told]
        telling = [[f"{key} {figures[key]}" for key in _TELLING if key in figures] for _, figures in told]
        texts = [" ".join([name, *each]).strip() for name, each in zip(names, telling, strict=True)]
        if all(texts):
            found[role] = tuple(sorted(texts))
    return found


# The sum of a serial number, after a sign of the salt that it was made with.
_SUM = re.compile(r" ?\bsum (?:(?P<salt>[0-9a-f]+)-)?[0-9a-f]+$")
_TELLING = ("size_gb", "modules", "cores", "boost_ghz", "sum")
