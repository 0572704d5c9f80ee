"""Whether the machine sees what was fitted: expected against seen."""

from collections.abc import Iterable, Mapping

from lynxbill.core.change.difference import find_differences
from lynxbill.core.record.build import Build, Part, PartRole
from lynxbill.core.record.frame import Frame
from lynxbill.core.record.swap import Recognition, Swap
from lynxbill.core.record.vocabulary import PART_FIGURES

# What a machine can show of a part once it is fitted; the rest of a part's figures is on its box only.
_SHOWN = frozenset(
    {"cores", "threads", "boost_ghz", "size_gb", "modules", "rate_mts", "channels", "link_gts", "lanes"}
)


# What a machine sets anew by itself once such a part is new, and the state that nobody meant to change.
_AS_BEFORE = "as before"
_BOOST, _MEMORY = ("boost and power limits", _AS_BEFORE), ("memory speed and timings", _AS_BEFORE)
_SET_ANEW: Mapping[PartRole, tuple[tuple[str, str], ...]] = {
    "processor": (_BOOST, _MEMORY),
    "memory": (("memory speed and timings", "as the modules are rated"),),
    "board": (_BOOST, _MEMORY, ("fans", _AS_BEFORE)),
}
_FANS = ("fans", _AS_BEFORE)
_STATE = (_BOOST, _FANS, ("cables", _AS_BEFORE))
# What is not as before where such a setting was changed on purpose.
_MEANT = {"setting:power_limit_w": _BOOST, "setting:memory_mts": _MEMORY, "setting:fan_mode": _FANS}


def expect_of(before: Build, after: Build) -> tuple[tuple[str, str], ...]:
    """
    List what should be seen of every part that went in, of settings that were changed, and of those that follow a
    part silently. Where no part went in, the state that the machine is left in.

    Args:
        before, after: the builds of a swap.
    Returns: (what, expected) pairs, such as ("processor, cores", "6").
    """
    old = {part.id for part in before.parts}
    new = [part for part in after.parts if part.id not in old]
    lines = [line for part in new for line in _expect_of_part(part)]
    settings = [d for d in find_differences(before, after) if d.kind == "setting" and d.follows is None]
    roles = dict.fromkeys(part.role for part in new)
    silent = dict(line for role in roles for line in _SET_ANEW.get(role, ())) if roles else dict(_STATE)
    for difference in settings:
        if meant := _MEANT.get(difference.key):
            silent.pop(meant[0], None)
    shown = [(d.name, d.after) for d in settings if d.after is not None]
    return (*lines, *shown, *silent.items())


def _expect_of_part(part: Part) -> Iterable[tuple[str, str]]:
    if part.role in ("thermal paste", "cooler", "power supply", "board"):
        return
    yield f"{part.role}, name", part.label
    for figure in PART_FIGURES[part.role]:
        if figure.key in _SHOWN and part.rated.get(figure.key) is not None:
            unit = f" {figure.unit}" if figure.unit else ""
            yield f"{part.role}, {figure.label}", f"{part.rated[figure.key]}{unit}"


def find_failed(swap: Swap) -> tuple[Recognition, ...]:
    """
    Find what was not recognised; while there is one, nothing is measured on the build after.

    Args:
        swap: the swap whose recognition is asked.
    """
    return tuple(line for line in swap.recognitions if line.result == "fail")


def find_unanswered(swap: Swap) -> tuple[Recognition, ...]:
    """
    Find what was seen otherwise than expected, and nobody has said whether it will do.

    Args:
        swap: the swap whose recognition is asked.
    """
    return tuple(line for line in swap.recognitions if line.result is None and line.seen.strip())


def find_unseen(swap: Swap) -> tuple[Recognition, ...]:
    """
    Find what was not looked at; the case closes with a reason for it only, which stands beside the verdict.

    Args:
        swap: the swap whose recognition is asked.
    """
    return tuple(line for line in swap.recognitions if line.result is None and not line.seen.strip())


def find_done(swap: Swap) -> tuple[str, ...]:
    """
    List what was done or seen since the case was opened, in words: once there is any, opening it was no slip.

    Args:
        swap: a swap whose case is open.
    """
    done = [step.text for step in swap.steps if step.stage != "before opening" and step.done_at is not None]
    done += [line.what for line in swap.recognitions if line.result is not None]
    return (*done, "a start") if swap.starts else tuple(done)


def is_measured_after(frame: Frame, swap: Swap, used: frozenset[str]) -> bool:
    """
    Whether the build after has a run since the swap: from then on what was ticked and seen before it stands.

    A build that was there before the swap may have older runs; only those begun since the case was opened count.

    Args:
        used: the sittings that have a run, `Case.used_sittings`.
    """
    known = frame.swaps.index(swap)
    was_there = any(swap.after in (other.before, other.after) for other in frame.swaps[:known])
    opened = swap.opened_at if was_there else None
    begun = {
        sitting.id
        for sitting in frame.sittings
        if sitting.build_id == swap.after and (opened is None or sitting.started_at >= opened)
    }
    return not begun.isdisjoint(used)
