"""Whether the machine sees what was fitted: expected against seen."""

from collections.abc import Iterable

from lynxbill.core.case import Build, Frame, Part, Recognition, Seen, Swap
from lynxbill.core.figures import PART_FIGURES

# What a machine can show of a part once it is fitted; the rest of a part's figures is on its box only.
_SHOWN = frozenset(
    {"cores", "threads", "boost_ghz", "size_gb", "modules", "rate_mts", "channels", "link_gts", "lanes"}
)


def expect_of(before: Build, after: Build) -> tuple[tuple[str, str], ...]:
    """
    List what should be seen of every part that went in, and of settings that were changed.

    Returns: (what, expected) pairs, such as ("processor, cores", "6").
    """
    old = {part.id for part in before.parts}
    lines = [line for part in after.parts if part.id not in old for line in _expect_of_part(part)]
    changed = [name for name in after.settings if after.settings[name] != before.settings.get(name)]
    return (*lines, *((name.replace("_", " "), str(after.settings[name])) for name in changed))


def _expect_of_part(part: Part) -> Iterable[tuple[str, str]]:
    if part.role in ("thermal paste", "cooler", "power supply", "board"):
        return
    yield f"{part.role}, name", part.label
    for figure in PART_FIGURES[part.role]:
        if figure.key in _SHOWN and part.rated.get(figure.key) is not None:
            unit = f" {figure.unit}" if figure.unit else ""
            yield f"{part.role}, {figure.label}", f"{part.rated[figure.key]}{unit}"


def judge_seen(expected: str, seen: str) -> Seen | None:
    """
    Decide what can be decided without the technician.

    Returns: `pass` where both say the same, spaces and case aside; None where somebody has to look.
    """
    return "pass" if seen.strip() and _plain(expected) == _plain(seen) else None


def _plain(text: str) -> str:
    return "".join(text.split()).casefold()


def find_failed(swap: Swap) -> tuple[Recognition, ...]:
    """Find what was not recognised; while there is one, nothing is measured on the build after."""
    return tuple(line for line in swap.recognitions if line.result == "fail")


def find_unanswered(swap: Swap) -> tuple[Recognition, ...]:
    """Find what was seen otherwise than expected, and nobody has said whether it will do."""
    return tuple(line for line in swap.recognitions if line.result is None and line.seen.strip())


def find_unseen(swap: Swap) -> tuple[Recognition, ...]:
    """Find what was not looked at; the case closes with a reason for it only, which stands beside the verdict."""
    return tuple(line for line in swap.recognitions if line.result is None and not line.seen.strip())


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
