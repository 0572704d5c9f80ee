"""Conditions of sittings against those that the plan holds, and of one side against the other."""

import json
from collections.abc import Iterable, Mapping
from dataclasses import dataclass

from lynxbill.core.case import Case, Frame, Plain, Plan, Sheet, SheetKey, Sitting
from lynxbill.core.sheets import sheets_of

_OfWorkload = Mapping[str, list[Sheet]]
_RANGE = ("ambient_low_c", "ambient_high_c")
AMBIENT_GAP_K = 2.0
SOAK_GAP_S = 6.0


@dataclass(frozen=True, slots=True)
class Departure:
    """One way in which the after-side was not measured as the before-side was; `workload` is all that it touches."""

    what: str
    before: str
    after: str
    workload: str | None = None


def condition_departures(sitting: Sitting, held: Mapping[str, Plain]) -> tuple[str, ...]:
    """
    Say where a sitting departs from the conditions of its plan.

    Args:
        held: the plan's conditions; `ambient_low_c` and `ambient_high_c` in °C bound the room, others are to be met
            as written.
    Returns: one phrase a departure; a condition that was not noted is one.
    """
    found = [phrase for phrase in (_ambient_departure(sitting, held),) if phrase]
    for name, wanted in held.items():
        if name in _RANGE or wanted in (None, ""):
            continue
        had = sitting.conditions.get(name)
        label = name.replace("_", " ")
        if had in (None, ""):
            found.append(f"{label} was not noted, {wanted} is planned")
        elif _plain(had) != _plain(wanted):
            found.append(f"{label} was {had}, {wanted} is planned")
    return tuple(found)


def _ambient_departure(sitting: Sitting, held: Mapping[str, Plain]) -> str | None:
    low, high = (held.get(name) for name in _RANGE)
    if low is None and high is None:
        return None
    if sitting.ambient_c is None:
        return "the room temperature was not noted"
    if isinstance(low, (int, float)) and sitting.ambient_c < low:
        return f"the room had {sitting.ambient_c:g} °C, from {low:g} °C is planned"
    if isinstance(high, (int, float)) and sitting.ambient_c > high:
        return f"the room had {sitting.ambient_c:g} °C, up to {high:g} °C is planned"
    return None


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
            yield Departure(f"{workload}, runs", str(sum(sheet.runs for sheet in here)), "none yet", workload)
            continue
        for place, name in enumerate(("version", "target", "parameters")):
            ours, theirs = ({recipe[place] for sheet in side for recipe in sheet.recipes} for side in (here, there))
            if here and ours != theirs:
                said = (", ".join(sorted(map(_as_said, written))) for written in (ours, theirs))
                yield Departure(f"{workload}, {name}", next(said), next(said), workload)


def _as_said(written: str) -> str:
    if not written.startswith("{"):
        return written
    return ", ".join(f"{key} {value}" for key, value in json.loads(written).items()) or "none"


def _counts(
    plan: Plan, before: tuple[Sitting, ...], after: tuple[Sitting, ...], ours: _OfWorkload, theirs: _OfWorkload
) -> Iterable[Departure]:
    # A sitting that is still going on is no departure; only what the finished after-side lacks is one.
    complete = len(after) >= (plan.sittings_a_side or 1)
    if complete and len(before) != len(after):
        yield Departure("sittings", str(len(before)), str(len(after)))
    for workload in ours:
        failed = [sum(sheet.failed for sheet in side[workload]) for side in (ours, theirs)]
        if failed[0] != failed[1]:
            yield Departure(
                f"{workload}, runs that failed, broke off or were spoiled", str(failed[0]), str(failed[1]), workload
            )


def _conditions(before: tuple[Sitting, ...], after: tuple[Sitting, ...]) -> Iterable[Departure]:
    means = [_mean_ambient(side) for side in (before, after)]
    if means[0] is not None and means[1] is not None and abs(means[0] - means[1]) > AMBIENT_GAP_K:
        yield Departure("room temperature, mean", *(f"{mean:.1f} °C" for mean in means))
    for name in dict.fromkeys(name for sitting in (*before, *after) for name in sitting.conditions):
        ours, theirs = (
            sorted({str(sitting.conditions.get(name) or "not noted") for sitting in side}) for side in (before, after)
        )
        if [text.casefold() for text in ours] != [text.casefold() for text in theirs]:
            yield Departure(name.replace("_", " "), ", ".join(ours), ", ".join(theirs))


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
            yield Departure(f"{workload}, length of the soak", _span(ours), _span(theirs), workload)


def _span(lengths: list[float]) -> str:
    if not lengths:
        return "not noted"
    minutes = [f"{length / 60:.3g}" for length in (lengths[0], lengths[-1])]
    return f"{minutes[0]} min" if minutes[0] == minutes[1] else f"{minutes[0]} to {minutes[1]} min"


def _mean_ambient(side: tuple[Sitting, ...]) -> float | None:
    noted = [sitting.ambient_c for sitting in side if sitting.ambient_c is not None]
    return sum(noted) / len(noted) if noted else None
