"""What a look judges: fixed by the plan and the order of sittings, whenever it is asked for."""

from collections.abc import Iterable, Sequence
from dataclasses import dataclass
from datetime import datetime

from lynxbill.core.judgement.sitting import Boot, Readable
from lynxbill.core.plan.agreement import Agreement
from lynxbill.core.reading.order import Order
from lynxbill.core.record.ids import SittingId
from lynxbill.core.record.run import Sitting

Chosen = tuple[tuple[Boot, ...], tuple[Boot, ...]]


@dataclass(frozen=True, slots=True)
class Bench:
    """
    When things happened that a look depends on.

    `after_read` is when the first reading of the after-build was written (of this attempt): what of the before-side
    was not closed by then came later. None before there is one. `swapped_at` is the day of the swap: of notes, what
    is dated before it belongs to the before-side (None: all of them). `order` is that of the sittings.
    """

    after_read: datetime | None
    swapped_at: datetime | None
    order: Order


def choose_look(
    readable: Readable, agreement: Agreement, bench: Bench, units: int, *, beside: Chosen | None = None
) -> Chosen | None:
    """
    Take the boots that a look judges.

    Args:
        readable: the boots of one measure, in one reading of the evidence.
        units: of the after-side that the look needs.
        beside: what this look has where nothing counts as taken out late: of a look that is due by that, whatever is
            left is judged, if it is two a side, or one where that side has no more.
    Returns: the boots of both sides; None where the look is not due, or waits for what makes good.
    Source: docs/judgement.md, "What a look judges is fixed".
    """
    if readable.short or not readable.before or not readable.after:
        return None
    before = readable.before[:units] if agreement.plan.alternates else _closed_before(readable.before, bench)
    after = readable.after[:units]
    wanted = (units if agreement.plan.alternates else 1, units)
    if beside is not None:
        wanted = min(2, len(beside[0])), min(2, len(beside[1]))
    if len(before) < wanted[0] or len(after) < wanted[1]:
        return None
    return _until_last(before, bench.order), _until_last(after, bench.order)


def choose_shown(readable: Readable, sittings: Iterable[SittingId]) -> Chosen:
    """
    Take the boots of a verdict that was shown: of them those sittings that it rested on.

    Args:
        readable: the sittings of a side that can be read.
        sittings: those that the verdict rested on.
    """
    kept = set(sittings)
    before, after = (
        tuple(part for boot in side if (part := tuple(s for s in boot if s.id in kept)))
        for side in (readable.before, readable.after)
    )
    return before, after


def is_more(readable: Readable, chosen: Chosen) -> bool:
    """
    Whether there are sittings beyond those of a look.

    Args:
        readable: the sittings of a side that can be read.
        chosen: those of a look.
    """
    there = sum(len(boot) for side in (readable.before, readable.after) for boot in side)
    return there > sum(len(boot) for side in chosen for boot in side)


def _closed_before(boots: Sequence[Boot], bench: Bench) -> tuple[Boot, ...]:
    """What was closed before anything of the other side was known; of a boot, those of its sittings that were."""
    kept = (tuple(sitting for sitting in boot if _came_before(sitting, bench)) for boot in boots)
    return tuple(boot for boot in kept if boot)


def _came_before(sitting: Sitting, bench: Bench) -> bool:
    if bench.after_read is None:
        return True
    if sitting.id in bench.order.batch:
        return bench.swapped_at is None or sitting.started_at.date() <= bench.swapped_at.date()
    return sitting.closed_at is not None and sitting.closed_at <= bench.after_read


def _until_last(boots: Sequence[Boot], order: Order) -> tuple[Boot, ...]:
    """A unit holds only the sittings of its boot that were begun no later than the look's last unit."""
    if not boots:
        return ()
    last = order.places[boots[-1][0].id]
    return tuple(tuple(s for s in boot if order.places[s.id] <= last) for boot in boots)
