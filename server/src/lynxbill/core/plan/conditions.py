"""Conditions of sittings against those that the plan holds, and of one side against the other."""

from collections.abc import Iterable, Mapping
from dataclasses import dataclass
from typing import Literal

from lynxbill.core.reading.tally import sheets_of
from lynxbill.core.record.frame import Case, Frame
from lynxbill.core.record.ids import Plain
from lynxbill.core.record.plan import Plan
from lynxbill.core.record.run import Sitting
from lynxbill.core.record.sheet import Sheet, SheetKey

_OfWorkload = Mapping[str, list[Sheet]]
_RANGE = ("ambient_low_c", "ambient_high_c")
ROOM_APART_K = 1.0
SOAK_GAP_S = 6.0


DepartureKind = Literal["runs", "version", "target", "parameters", "sittings", "failed", "room", "condition", "soak"]
_OF_RECIPE: tuple[DepartureKind, ...] = ("version", "target", "parameters")


@dataclass(frozen=True, slots=True)
class Departure:
    """
    One way in which the after-side was not measured as the before-side was.

    Attributes:
        before, after: what each side had: a count; a mean room in °C; the shortest and the longest soak in s; every
            version, target or set of parameters, as recipes are written; every value of a condition, None where it
            was not noted. Empty where a side has none.
        workload: all that it touches; None for everything.
        condition: which condition it is.
    """

    kind: DepartureKind
    before: tuple[Plain, ...]
    after: tuple[Plain, ...]
    workload: str | None = None
    condition: str = ""


@dataclass(frozen=True, slots=True)
class NotHeld:
    """
    A condition of the plan that a sitting does not meet.

    `had` is None where it was not noted; for the room, in °C, `name` says which of its bounds is passed.
    """

    name: str
    had: Plain
    wanted: Plain


def condition_departures(sitting: Sitting, held: Mapping[str, Plain]) -> tuple[NotHeld, ...]:
    """
    Say where a sitting departs from the conditions of its plan.

    Args:
        held: the plan's conditions; `ambient_low_c` and `ambient_high_c` in °C bound the room, others are to be met
            as written.
    Returns: each condition that is not met; one that was not noted is not met.
    """
    found = [*_room_not_held(sitting, held)]
    for name, wanted in held.items():
        if name in _RANGE or wanted in (None, ""):
            continue
        had = sitting.conditions.get(name)
        if had in (None, ""):
            found.append(NotHeld(name, None, wanted))
        elif _plain(had) != _plain(wanted):
            found.append(NotHeld(name, had, wanted))
    return tuple(found)


def held_conditions(sitting: Sitting, held: Mapping[str, Plain]) -> tuple[tuple[str, Plain], ...]:
    """
    The conditions of a plan that a sitting meets, by name and value; of the room each bound that it keeps.

    Args:
        sitting: what was noted of it; the room in °C.
        held: what the plan holds, by name.
    """
    broken = {departure.name for departure in condition_departures(sitting, held)}
    room_known = sitting.ambient_c is not None
    return tuple(
        (name, value)
        for name, value in held.items()
        if name not in broken and value not in (None, "") and (room_known or name not in _RANGE)
    )


def _room_not_held(sitting: Sitting, held: Mapping[str, Plain]) -> Iterable[NotHeld]:
    low, high = (held.get(name) for name in _RANGE)
    room = sitting.ambient_c
    if room is None and (low, high) != (None, None):
        yield NotHeld(_RANGE[0] if low is not None else _RANGE[1], None, high if low is None else low)
    elif room is not None and isinstance(low, (int, float)) and room < low:
        yield NotHeld(_RANGE[0], room, low)
    elif room is not None and isinstance(high, (int, float)) and room > high:
        yield NotHeld(_RANGE[1], room, high)


def _plain(value: Plain) -> str:
    return str(value).strip().casefold()


def find_departures(
    case: Case, sides: tuple[tuple[Sitting, ...], tuple[Sitting, ...]], plan: Plan
) -> tuple[Departure, ...]:
    """
    Lay both sides of a comparison beside each other: counts, recipes, conditions, soaks.

    Args:
        sides: the sittings before and after, from `compared_sittings`.
    Returns: what differs, in the order in which it was planned; nothing while a side has no sitting.
    """
    if not all(sides):
        return ()
    kept = sheets_of(case, levels=False)
    before, after = (_sheets_of_side(case, kept, side) for side in sides)
    found = [
        *_recipes(case, before, after),
        *_counts(plan, *sides, before, after),
        *_conditions(*sides),
        *_soaks(before, after),
    ]
    return tuple(found)


def _sheets_of_side(frame: Frame, kept: Mapping[SheetKey, Sheet], side: tuple[Sitting, ...]) -> _OfWorkload:
    """The sheets of one side by workload; one with warm-ups alone is none."""
    return {
        workload: [
            sheet for sitting in side if (sheet := kept.get((sitting.id, workload))) is not None and sheet.runs
        ]
        for workload in frame.workload_names
    }


def _recipes(frame: Frame, before: _OfWorkload, after: _OfWorkload) -> Iterable[Departure]:
    for workload in frame.workload_names:
        here, there = before[workload], after[workload]
        if here and not there:
            yield Departure("runs", (sum(sheet.runs for sheet in here),), (), workload)
            continue
        for place, kind in enumerate(_OF_RECIPE):
            ours, theirs = ({recipe[place] for sheet in side for recipe in sheet.recipes} for side in (here, there))
            if here and ours != theirs:
                yield Departure(kind, tuple(sorted(ours)), tuple(sorted(theirs)), workload)


def _counts(
    plan: Plan, before: tuple[Sitting, ...], after: tuple[Sitting, ...], ours: _OfWorkload, theirs: _OfWorkload
) -> Iterable[Departure]:
    # A sitting that is still going on is no departure; only what the finished after-side lacks is one.
    complete = len(after) >= (plan.sittings_a_side or 1)
    if complete and len(before) != len(after):
        yield Departure("sittings", (len(before),), (len(after),))
    for workload in ours:
        failed = [sum(sheet.failed for sheet in side[workload]) for side in (ours, theirs)]
        if failed[0] != failed[1]:
            yield Departure("failed", (failed[0],), (failed[1],), workload)


def _conditions(before: tuple[Sitting, ...], after: tuple[Sitting, ...]) -> Iterable[Departure]:
    means = [_mean_ambient(side) for side in (before, after)]
    if means[0] is not None and means[1] is not None and rooms_are_apart(means[0], means[1]):
        yield Departure("room", (means[0],), (means[1],))
    for name in dict.fromkeys(name for sitting in (*before, *after) for name in sitting.conditions):
        ours, theirs = (
            {_plain(value): value for sitting in side for value in (sitting.conditions.get(name) or None,)}
            for side in (before, after)
        )
        if ours.keys() != theirs.keys():
            written = (tuple(had[key] for key in sorted(had)) for had in (ours, theirs))
            yield Departure("condition", next(written), next(written), condition=name)


def _soaks(before: _OfWorkload, after: _OfWorkload) -> Iterable[Departure]:
    """Soaks of other lengths end at other temperatures; a minute's tenth is how well they are kept by hand."""
    for workload in sorted(before):
        if not before[workload] or not after[workload]:
            continue
        ours, theirs = (
            sorted(soak for sheet in side[workload] for soak in sheet.soaks or ()) for side in (before, after)
        )
        if not ours and not theirs:
            continue
        alike = ours and theirs and max(abs(ours[0] - theirs[0]), abs(ours[-1] - theirs[-1])) <= SOAK_GAP_S
        if not alike:
            first, second = ((side[0], side[-1]) if side else () for side in (ours, theirs))
            yield Departure("soak", first, second, workload)


def rooms_are_apart(here: float, there: float) -> bool:
    """
    Say whether two rooms differ by so much that it is said, wherever rooms are set beside each other.

    Args:
        here, there: in °C.
    """
    return abs(here - there) >= ROOM_APART_K


def _mean_ambient(side: tuple[Sitting, ...]) -> float | None:
    noted = [sitting.ambient_c for sitting in side if sitting.ambient_c is not None]
    return sum(noted) / len(noted) if noted else None
