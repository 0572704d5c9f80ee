"""What a machine shows of itself, set against the build that it is said to be."""

from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass, field
from typing import Literal

from lynxbill.core.record.build import Build, Part, PartRole
from lynxbill.core.record.ids import Plain

How = Literal["less", "more", "other", "absent"]
# A drive's size is seen in more than one way; clocks are rounded.
_SAME_DRIVE = 0.08
_SAME = 0.03
# Summed over the parts of a role: what the system tells is the whole of it.
_SUMMED: Mapping[PartRole, tuple[str, ...]] = {"memory": ("size_gb", "modules"), "processor": ("cores", "threads")}
_OF_ONE: Mapping[PartRole, tuple[str, ...]] = {"processor": ("boost_ghz",), "drive": ("link_gts", "lanes")}


@dataclass(frozen=True, slots=True)
class ShownPart:
    """A part as the machine shows it: its role, what it calls itself, its figures by the vocabulary's keys."""

    role: PartRole
    label: str
    rated: Mapping[str, Plain] = field(default_factory=dict)


@dataclass(frozen=True, slots=True)
class Shown:
    """What a machine shows of itself; None where it does not tell."""

    parts: tuple[ShownPart, ...]
    firmware: str | None = None
    system: str | None = None


@dataclass(frozen=True, slots=True)
class Departure:
    """One figure that is not as the build says; `part` names the part. Of an absent one nothing is said or shown."""

    role: PartRole | None
    key: str
    part: str
    how: How
    recorded: Plain = None
    shown: Plain = None


def find_departures(build: Build, shown: Shown) -> tuple[Departure, ...]:
    """
    Set what a machine shows against a build; what either does not tell is passed over.

    Memory and the processor's cores are summed over their parts. A drive is known by its size, within 8 %; another
    figure is the same within 3 %.

    Args:
        build: the build as it is noted.
        shown: what the machine says of itself.
    """
    return (*_summed(build, shown), *_drives(build, shown), *_settings(build, shown))


def _summed(build: Build, shown: Shown) -> Iterator[Departure]:
    for role, keys in _SUMMED.items():
        ours = [part for part in build.parts if part.role == role]
        theirs = [part for part in shown.parts if part.role == role]
        for key in keys:
            recorded, seen = _sum(ours, key), _sum(theirs, key)
            if recorded is not None and seen is not None and (how := _how(recorded, seen)):
                yield Departure(role, key, " and ".join(part.label for part in ours), how, recorded, seen)
        if len(ours) == len(theirs) == 1:
            yield from _figures(ours[0], theirs[0])


def _sum(parts: Sequence[Part | ShownPart], key: str) -> float | None:
    values = [part.rated.get(key) for part in parts]
    numbers = [value for value in values if isinstance(value, (int, float)) and not isinstance(value, bool)]
    return sum(numbers) if numbers and len(numbers) == len(values) else None


def _how(recorded: float, seen: float) -> How | None:
    if abs(seen - recorded) <= _SAME * abs(recorded):
        return None
    return "less" if seen < recorded else "more"


def _figures(part: Part, seen: ShownPart) -> Iterator[Departure]:
    for key in _OF_ONE.get(part.role, ()):
        recorded, told = _sum([part], key), _sum([seen], key)
        if recorded is not None and told is not None and (how := _how(recorded, told)):
            yield Departure(part.role, key, part.label, how, recorded, told)


def _drives(build: Build, shown: Shown) -> Iterator[Departure]:
    left = [part for part in shown.parts if part.role == "drive"]
    if not left:
        return
    for part in (p for p in build.parts if p.role == "drive"):
        size = _sum([part], "size_gb")
        if not size:
            continue
        alike = [p for p in left if (seen := _sum([p], "size_gb")) and abs(seen - size) <= _SAME_DRIVE * size]
        if not alike:
            yield Departure("drive", "size_gb", part.label, "absent")
            continue
        left.remove(alike[0])
        yield from _figures(part, alike[0])


def _settings(build: Build, shown: Shown) -> Iterator[Departure]:
    for key, seen in (("firmware", shown.firmware), ("system", shown.system)):
        recorded = build.settings.get(key)
        if recorded and seen and str(recorded).strip().lower() not in seen.strip().lower():
            yield Departure(None, key, "", "other", recorded, seen)
