"""What differs between two builds, and whether the swap between them declared it."""

from collections.abc import Iterable
from dataclasses import dataclass
from typing import Literal

from lynxbill.core.case import Build, Part, PartRole, Swap

DifferenceKind = Literal["part exchanged", "part out", "part in", "setting"]
# A tick for fresh paste and a part "thermal paste" say the same thing.
_SAME_AS_PART = {"fresh paste": "thermal paste", "new pads": "thermal paste"}


@dataclass(frozen=True, slots=True)
class Difference:
    """
    `key` is "part:ROLE" or "setting:NAME", by which a swap declares it; `before` and `after` say what stood there.
    """

    key: str
    kind: DifferenceKind
    name: str
    before: str | None
    after: str | None


def find_differences(before: Build, after: Build) -> tuple[Difference, ...]:
    """
    Compute what differs between two builds.

    Returns: one difference a part role in which other parts are fitted (same parts in another order are none), and
        one a setting with another value, parts first.
    """
    roles = dict.fromkeys(part.role for part in (*before.parts, *after.parts))
    parts = [_part_difference(role, before, after) for role in roles]
    names = dict.fromkeys((*before.settings, *after.settings))
    settings = [
        Difference(f"setting:{name}", "setting", name, _written(before, name), _written(after, name))
        for name in names
        if before.settings.get(name) != after.settings.get(name)
    ]
    return (*(difference for difference in parts if difference is not None), *settings)


def _part_difference(role: PartRole, before: Build, after: Build) -> Difference | None:
    here, there = _fitted(before, role), _fitted(after, role)
    out, into = _without(here, there), _without(there, here)
    if not out and not into:
        return None
    kind: DifferenceKind = "part exchanged" if out and into else "part out" if out else "part in"
    return Difference(f"part:{role}", kind, role, _labels(out), _labels(into))


def _fitted(build: Build, role: PartRole) -> list[Part]:
    return [part for part in build.parts if part.role == role]


def _without(parts: list[Part], others: list[Part]) -> list[Part]:
    ids = {part.id for part in others}
    return [part for part in parts if part.id not in ids]


def _labels(parts: list[Part]) -> str | None:
    return ", ".join(part.label for part in parts) or None


def _written(build: Build, name: str) -> str | None:
    value = build.settings.get(name)
    return None if value is None else str(value)


def find_undeclared(swap: Swap, differences: Iterable[Difference]) -> tuple[Difference, ...]:
    """
    Find the differences that a swap did not declare; each is a question to the technician.

    Args:
        differences: between the swap's own two builds.
    """
    return tuple(difference for difference in differences if difference.key not in swap.declares)


def name_bundle(side_changes: Iterable[str], differences: Iterable[Difference]) -> tuple[str, ...]:
    """
    Name everything that was changed, for the label that follows the gain.

    Args:
        side_changes: what was ticked as touched besides.
        differences: between the two builds.
    Returns: names of parts, settings and side changes, each once; more than one is a bundle that no
        measurement of these two builds can take apart.
    """
    changed = [difference.name.replace("_", " ") for difference in differences]
    side = [tick for tick in side_changes if _SAME_AS_PART.get(tick) not in changed]
    return tuple(dict.fromkeys((*changed, *side)))
