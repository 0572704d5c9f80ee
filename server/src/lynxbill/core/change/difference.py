"""What differs between two builds, and whether the swap between them declared it."""

from collections.abc import Iterable
from dataclasses import dataclass, replace
from typing import Final, Literal

from lynxbill.core.record.build import Build, Part, PartRole
from lynxbill.core.record.swap import Swap
from lynxbill.core.record.vocabulary import setting_label, setting_value

DifferenceKind = Literal["part exchanged", "part out", "part in", "setting"]
# A tick for fresh paste and a part "thermal paste" say the same thing.
_FRESH_TICK: Final = "fresh paste"
_PASTE: Final = "thermal paste"
_SAME_AS_PART = {_FRESH_TICK: _PASTE}
# What is fitted where paste comes out and nobody names the new one: no cooler is mounted dry.
FRESH_PASTE = "Fresh paste"
# What is touched without a screwdriver.
_UNOPENED = frozenset(
    {
        *("fresh system", "firmware defaults", "overclock", "new firmware on the part", "new drivers"),
        *("upkeep switched on", "time passed"),
    }
)


@dataclass(frozen=True, slots=True)
class Difference:
    """
    `key` is "part:ROLE" or "setting:NAME", by which a swap declares it; `name` the role of the part, or how the
    setting is spoken of; `before` and `after` say what stood there. `follows` is the key of another difference that
    it comes with by itself: it is no change of its own. `beside` says that other parts of its kind stay.
    """

    key: str
    kind: DifferenceKind
    name: str
    before: str | None
    after: str | None
    follows: str | None = None
    beside: bool = False


def find_differences(before: Build, after: Build) -> tuple[Difference, ...]:
    """
    Compute what differs between two builds.

    Args:
        before, after: builds of one machine; parts are matched by id, settings by name.
    Returns: one difference a part role in which other parts are fitted (same parts in another order are none), and
        one a setting with another value, parts first. Threads that follow a new processor say so.
    """
    roles = dict.fromkeys(part.role for part in (*before.parts, *after.parts))
    parts = [_part_difference(role, before, after) for role in roles]
    names = dict.fromkeys((*before.settings, *after.settings))
    settings = [
        Difference(
            *(f"setting:{name}", "setting", setting_label(name), _written(before, name), _written(after, name)),
            follows=_followed(name, before, after),
        )
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
    stays = len(here) > len(out)
    return Difference(f"part:{role}", kind, role, _labels(out), _labels(into), beside=stays)


def _followed(name: str, before: Build, after: Build) -> str | None:
    """Say which part the threads follow: workloads use all that the processor has, on both sides."""
    if name != "threads" or _part_difference("processor", before, after) is None:
        return None
    return "part:processor" if all(_uses_all_threads(build) for build in (before, after)) else None


def _uses_all_threads(build: Build) -> bool:
    """Whether the threads held are those that its processors are rated for, as far as that is known."""
    rated = [part.rated.get("threads") for part in _fitted(build, "processor")]
    known = [float(threads) for threads in rated if isinstance(threads, (int, float))]
    return len(known) < len(rated) or not rated or build.settings.get("threads") == sum(known)


def is_opened(differences: Iterable[Difference], side_changes: Iterable[str]) -> bool:
    """
    Say whether a machine is opened for what changes: a part, or something touched that is no matter of settings.

    Args:
        differences: between the two builds.
        side_changes: what was ticked as touched besides; what is not known is taken to open it.
    """
    return any(d.kind != "setting" for d in differences) or any(tick not in _UNOPENED for tick in side_changes)


def _fitted(build: Build, role: PartRole) -> list[Part]:
    return [part for part in build.parts if part.role == role]


def _without(parts: list[Part], others: list[Part]) -> list[Part]:
    ids = {part.id for part in others}
    return [part for part in parts if part.id not in ids]


def _labels(parts: list[Part]) -> str | None:
    return ", ".join(part.label for part in parts) or None


def _written(build: Build, name: str) -> str | None:
    value = build.settings.get(name)
    return None if value is None else setting_value(name, value)


def find_undeclared(swap: Swap, differences: Iterable[Difference]) -> tuple[Difference, ...]:
    """
    Find the differences that a swap did not declare; each is a question to the technician.

    Args:
        differences: between the swap's own two builds.
    """
    ticked = (f"part:{part}" for tick, part in _SAME_AS_PART.items() if tick in swap.side_changes)
    declared = {*swap.declares, *ticked}
    return tuple(d for d in differences if d.key not in declared and d.follows is None)


def with_fresh_paste(before: Build, after: Build, side_changes: Iterable[str], new_id: str) -> Build:
    """
    Exchange the paste where a tick says that it is fresh, so that no later build lists the old one; or put it back.

    Args:
        side_changes: what is ticked by now.
        new_id: of the fresh paste.
    Returns: the build after; unchanged where the paste is exchanged already, and where it can't be told which of
        several pastes is fresh.
    """
    old, here = _fitted(before, _PASTE), _fitted(after, _PASTE)
    if len(old) != 1 or len(here) != 1:
        return after
    is_ticked, is_old = _FRESH_TICK in side_changes, here[0].id == old[0].id
    belongs = {key: value for key, value in old[0].rated.items() if key == "belongs_to"}
    if is_ticked and is_old:
        fitted = Part(new_id, _PASTE, FRESH_PASTE, belongs)
    elif not is_ticked and here[0].label == FRESH_PASTE and here[0].rated == belongs:
        fitted = old[0]
    else:
        return after
    return replace(after, parts=tuple(fitted if part is here[0] else part for part in after.parts))


def name_bundle(side_changes: Iterable[str], differences: Iterable[Difference]) -> tuple[str, ...]:
    """
    Name everything that was changed, for the label that follows the gain.

    Args:
        side_changes: what was ticked as touched besides.
        differences: between the two builds.
    Returns: names of parts, settings and side changes, each once; more than one is a bundle that no
        measurement of these two builds can take apart.
    """
    changed = [difference.name for difference in differences if difference.follows is None]
    side = [tick for tick in side_changes if _SAME_AS_PART.get(tick) not in changed]
    return tuple(dict.fromkeys((*changed, *side)))
