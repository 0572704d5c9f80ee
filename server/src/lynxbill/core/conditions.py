"""Conditions of sittings against those that the plan holds, and of one side against the other."""

from collections.abc import Iterable, Mapping
from dataclasses import dataclass

from lynxbill.core.case import Case, Plain, Plan, Run, Sitting

_RANGE = ("ambient_low_c", "ambient_high_c")
AMBIENT_GAP_K = 2.0
SOAK_GAP_S = 6.0


@dataclass(frozen=True, slots=True)
class Departure:
    """One way in which the after-side was not measured as the before-side was."""

    what: str
    before: str
    after: str


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
    runs = tuple(_runs_of(case, side) for side in sides)
    found = [*_recipes(case, *runs), *_counts(plan, *sides, *runs), *_conditions(*sides), *_soaks(*runs)]
    return tuple(found)


def _runs_of(case: Case, side: Iterable[Sitting]) -> tuple[Run, ...]:
    ids = {sitting.id for sitting in side}
    return tuple(run for run in case.runs if run.sitting_id in ids and not run.warm_up)


def _recipes(case: Case, before: tuple[Run, ...], after: tuple[Run, ...]) -> Iterable[Departure]:
    for workload in dict.fromkeys(measure.workload for measure in case.measures):
        here, there = ([run for run in side if run.workload == workload] for side in (before, after))
        if here and not there:
            yield Departure(f"{workload}, runs", str(len(here)), "none yet")
            continue
        for name, field in (("version", "workload_version"), ("target", "target"), ("parameters", "parameters")):
            # Runs of one workload share their recipe almost always: then there is nothing to write out.
            recipes = [[getattr(run, field) for run in side] for side in (here, there)]
            if not here or all(recipe == recipes[0][0] for side in recipes for recipe in side):
                continue
            ours, theirs = (sorted({_written(recipe) for recipe in side}) for side in recipes)
            if ours != theirs:
                yield Departure(f"{workload}, {name}", ", ".join(ours), ", ".join(theirs))


def _written(value: object) -> str:
    if isinstance(value, Mapping):
        return ", ".join(f"{key} {entry}" for key, entry in sorted(value.items())) or "none"
    return "none" if value is None else str(value)


def _counts(
    plan: Plan,
    before: tuple[Sitting, ...],
    after: tuple[Sitting, ...],
    runs_before: tuple[Run, ...],
    runs_after: tuple[Run, ...],
) -> Iterable[Departure]:
    # A sitting that is still going on is no departure; only what the finished after-side lacks is one.
    complete = len(after) >= (plan.sittings_a_side or 1)
    if complete and len(before) != len(after):
        yield Departure("sittings", str(len(before)), str(len(after)))
    failed = [sum(run.state != "complete" for run in runs) for runs in (runs_before, runs_after)]
    if failed[0] != failed[1]:
        yield Departure("runs that failed, broke off or were spoiled", *map(str, failed))


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


def _soaks(before: tuple[Run, ...], after: tuple[Run, ...]) -> Iterable[Departure]:
    """Soaks of other lengths end at other temperatures; a minute's tenth is how well they are kept by hand."""
    both = {run.workload for run in before} & {run.workload for run in after}
    for workload in sorted(both):
        ours, theirs = (
            sorted({run.soak_s for run in runs if run.workload == workload and run.soak_s is not None})
            for runs in (before, after)
        )
        if not ours and not theirs:
            continue
        alike = ours and theirs and max(abs(ours[0] - theirs[0]), abs(ours[-1] - theirs[-1])) <= SOAK_GAP_S
        if not alike:
            yield Departure(f"{workload}, length of the soak", _span(ours), _span(theirs))


def _span(lengths: list[float]) -> str:
    if not lengths:
        return "not noted"
    minutes = [f"{length / 60:.3g}" for length in (lengths[0], lengths[-1])]
    return f"{minutes[0]} min" if minutes[0] == minutes[1] else f"{minutes[0]} to {minutes[1]} min"


def _mean_ambient(side: tuple[Sitting, ...]) -> float | None:
    noted = [sitting.ambient_c for sitting in side if sitting.ambient_c is not None]
    return sum(noted) / len(noted) if noted else None
