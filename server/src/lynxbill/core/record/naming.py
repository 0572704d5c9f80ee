"""Which part is meant where a part is named in words: aimed at, sits in, on the, carries."""

import re
from collections.abc import Collection, Iterable, Sequence

from lynxbill.core.record.build import Build, Part, PartRole
from lynxbill.core.record.frame import Case
from lynxbill.core.record.ids import Plain
from lynxbill.core.record.workload import Workload

_WORD = re.compile(r"[^\W_]+(?:[.,]\d+)?")
_EMPTY = frozenset({"the", "a", "an", "this", "that", "its", "old", "new", "in", "on", "of"})
# What the machine's own seat goes by, besides its kind of slot.
_OWN_SEAT = frozenset({"slot", "board", "machine", "bay"})


def find_named(name: Plain, parts: Iterable[Part]) -> Part | None:
    """
    Find the one part that a name means: its id or label, else its kind where it is the only one, else its words.

    Case, spaces and small words ("the", "old") don't matter. Words mean a part where its label and kind hold all of
    them, and no other part's do.

    Args:
        name: as typed.
        parts: those that may be meant.
    Returns: None where it means none of them, or more than one.
    """
    parts = tuple(parts)
    text = _fold(name)
    if not text:
        return None
    exact = [part for part in parts if text in (_fold(part.id), _fold(part.label))]
    if exact:
        return exact[0] if len(exact) == 1 else None
    words = _words(text)
    if not words:
        return None
    of_kind = [part for part in parts if words == _words(part.role)]
    found = of_kind or [part for part in parts if words <= _words(part.label) | _words(part.role)]
    return found[0] if len(found) == 1 else None


def means_own_seat(name: Plain, kind: Plain) -> bool:
    """
    Say whether a place that is none of the parts is the machine's own: its kind of slot, or called a slot or board.

    Args:
        name: as typed; kind: of the machine's own slot, None where it is not noted.
    """
    text = _fold(name)
    return bool(text) and (text == _fold(kind) or bool(_words(text) & _OWN_SEAT))


def same_words(one: Plain, other: Plain) -> bool:
    """
    Say whether two kinds of slot are the same, but for case and spaces; False where one is not noted.

    Args:
        one, other: names as typed; None where not noted.
    """
    return bool(_fold(one)) and _fold(one) == _fold(other)


def is_named_at_all(name: Plain) -> bool:
    """
    Say whether anything is named.

    Args:
        name: a name as typed.
    """
    return bool(_fold(name))


def parts_loaded(case: Case, build: Build, workload: Workload, roles: Collection[PartRole]) -> Sequence[Part]:
    """
    List the parts of a build that a workload may be set against: the one that it is aimed at, else those it loads.

    What it is aimed at is a part of this build; or a part of another build that was replaced here by the one part of
    its kind that came in.

    Args:
        roles: of the parts that count; those the workload does not load never do.
    Returns: nothing where it is aimed at something that can't be found among them.
    """
    loaded = [part for part in build.parts if part.role in workload.loads and part.role in roles]
    if not is_named_at_all(workload.target):
        return loaded
    if (part := find_named(workload.target, loaded)) is not None:
        return [part]
    seated = [part for part in loaded if same_words(part.rated.get("seat"), workload.target)]
    if len(seated) == 1:
        return seated
    for other in case.builds:
        gone = find_named(workload.target, (part for part in other.parts if part.role in workload.loads))
        if gone is not None:
            known = {part.id for part in other.parts}
            came = [part for part in loaded if part.role == gone.role and part.id not in known]
            if len(came) == 1:
                return came
    return []


def _fold(text: Plain) -> str:
    return " ".join(str(text).split()).strip(" “”\"'.").casefold() if text not in (None, "") else ""


def _words(text: str) -> frozenset[str]:
    return frozenset(_WORD.findall(text.casefold())) - _EMPTY
