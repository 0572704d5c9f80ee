"""The order of sittings: by when their readings were first written, notes of old days by their dates."""

from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass
from datetime import datetime
from itertools import pairwise
from zoneinfo import ZoneInfo

from lynxbill.core.record.frame import Frame
from lynxbill.core.record.ids import SittingId
from lynxbill.core.record.run import Run, Sitting
from lynxbill.core.record.swap import Swap


@dataclass(frozen=True, slots=True, order=True)
class Place:
    """
    Where a sitting stands among others.

    `at` is when its first reading was written (of a batch of notes: the batch's), or measured by the agent; `held` is
    its own date, by which a batch stands in itself, and `number` its place in the file.
    """

    at: datetime
    held: datetime
    number: int


@dataclass(frozen=True, slots=True)
class Order:
    """The places of some sittings by id; `batch` are those typed from notes before anything of them was shown."""

    places: Mapping[SittingId, Place]
    batch: frozenset[SittingId] = frozenset()

    def sort(self, sittings: Iterable[Sitting]) -> tuple[Sitting, ...]:
        """Put sittings in order."""
        return tuple(sorted(sittings, key=lambda sitting: self.places[sitting.id]))


def first_writings(runs: Iterable[Run]) -> Mapping[SittingId, datetime]:
    """
    Say when the first reading of each sitting was written, emptied since or not.

    Args:
        runs: runs of one machine, in any order; times UTC.
    Returns: nothing of a sitting whose times were not kept.
    """
    found: dict[SittingId, datetime] = {}
    for run in runs:
        if run.written_at is not None:
            found[run.sitting_id] = min(run.written_at, found.get(run.sitting_id, run.written_at))
    return found


def is_from_notes(sitting: Sitting) -> bool:
    """
    Whether a sitting was declared as held at an earlier time, and typed from notes.

    Args:
        sitting: the sitting, with its purpose.
    """
    return sitting.purpose == "earlier"


def swap_across(frame: Frame, sitting: Sitting) -> Swap | None:
    """
    Find the swap on whose other side a sitting is dated.

    Args:
        frame: the machine without its runs.
        sitting: one of its sittings.
    Returns: the swap that made its build and is dated later, or that ended it and is dated earlier; None where the
        day may be right, whole days compared. A build that came back may stand after its swap.
    """
    zone = ZoneInfo(frame.machine.time_zone)
    day, build = sitting.started_at.astimezone(zone).date(), sitting.build_id
    dated = [(swap, swap.opened_at.astimezone(zone).date()) for swap in frame.swaps if swap.opened_at is not None]
    touching = [(swap, on) for swap, on in dated if build in (swap.before, swap.after)]
    if not touching:
        return None
    first, on = touching[0]
    if first.after == build and build != frame.builds[0].id and day < on:
        return first
    last, on = touching[-1]
    return last if last.before == build and day > on else None


def begun_at(sitting: Sitting, runs: Iterable[Run]) -> datetime:
    """
    Say when a sitting stands among others by itself: when it was read or noted to, else at its first writing.

    Args:
        sitting: the sitting, with when it was noted to have begun.
        runs: its runs; times UTC.
    """
    if sitting.boot_by == "read" or is_from_notes(sitting):
        return sitting.started_at
    return first_writings(run for run in runs if run.sitting_id == sitting.id).get(sitting.id, sitting.started_at)


def typed_too_soon(sittings: Iterable[Sitting], runs: Sequence[Run], rest_min: float) -> frozenset[SittingId]:
    """
    Find the sittings whose runs can't have been made in the time in which they were typed.

    Args:
        sittings: of one machine; those whose boot the agent read, and those from notes, are taken at their word.
        runs: theirs, with when they were first written and what they lasted, in seconds.
        rest_min: rest before a run, in minutes.
    Returns: those of which all runs were written sooner after the last writing before them than the shortest run of
        each workload seen, and the rests between them, would have taken.
    Source: docs/judgement.md, "Boots".
    """
    shortest: dict[str, float] = {}
    here: dict[SittingId, list[Run]] = {}
    for run in runs:
        if run.duration_s:
            shortest[run.workload] = min(run.duration_s, shortest.get(run.workload, run.duration_s))
        if run.written_at is not None and run.state == "complete" and not run.is_emptied:
            here.setdefault(run.sitting_id, []).append(run)
    spans = {key: [r.written_at for r in found if r.written_at is not None] for key, found in here.items()}
    typed = [s for s in sittings if s.id in here and s.boot_by != "read" and not is_from_notes(s)]
    typed.sort(key=lambda sitting: (min(spans[sitting.id]), sitting.id))
    soon = set[SittingId]()
    for earlier, later in pairwise(typed):
        needed = sum(shortest.get(run.workload, 0.0) for run in here[later.id])
        needed += 60 * rest_min * (len(here[later.id]) - 1)
        if (max(spans[later.id]) - max(spans[earlier.id])).total_seconds() < needed:
            soon.add(later.id)
    return frozenset(soon)


def order_of(sittings: Sequence[Sitting], runs: Iterable[Run], shown_at: datetime | None) -> Order:
    """
    Say in which order sittings stand, whatever dates they were given.

    Args:
        runs: theirs, emptied ones included; what was typed by hand counts by when it was first written.
        shown_at: when a verdict, comparison or chart of them was first shown to somebody; what is typed from notes
            after that stands by its writing.
    Source: docs/judgement.md, "Order".
    """
    written = first_writings(runs)
    batch = {
        sitting.id
        for sitting in sittings
        if is_from_notes(sitting)
        and sitting.id in written
        and sitting.started_at < written[sitting.id]
        and (shown_at is None or written[sitting.id] < shown_at)
    }
    batch_at = min((written[sitting] for sitting in batch), default=None)

    def place(number: int, sitting: Sitting) -> Place:
        at = sitting.started_at
        if batch_at is not None and sitting.id in batch:
            at = batch_at
        elif sitting.boot_by != "read" or is_from_notes(sitting):
            at = written.get(sitting.id, sitting.started_at)
        return Place(at, sitting.started_at, number)

    return Order({sitting.id: place(n, sitting) for n, sitting in enumerate(sittings)}, frozenset(batch))
