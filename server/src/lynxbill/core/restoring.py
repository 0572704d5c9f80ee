"""Upkeep: how much of what was lost since new came back."""

from dataclasses import dataclass

from lynxbill.core.case import Build, Case, Sitting, Wear
from lynxbill.core.counting import RunsBySitting, group_runs
from lynxbill.core.measure import Measure, margin_bound, orient, restore
from lynxbill.core.sitting import split_sides


@dataclass(frozen=True, slots=True)
class BuildMean:
    """
    A measure on one build: the mean of its sitting units, as a reading, and what it rests on.

    `above_room` says that a temperature stands as its rise above the room (K): the rooms of its sittings are known.
    """

    build: str
    mean: float
    sittings: int
    runs: int
    recheck: bool
    above_room: bool


@dataclass(frozen=True, slots=True)
class HistoryLine:
    measure: str
    points: tuple[BuildMean, ...]


@dataclass(frozen=True, slots=True)
class Recovered:
    """
    The share of a loss that renewing brought back: 1 is as new; None where less was lost than matters.

    `as_new_measured` is False where the as-new value was remembered, inherited or claimed; `room_missing` says that
    temperatures stand as they were read, for a room was not noted somewhere.
    """

    measure: str
    as_new: str
    worn: str
    renewed: str
    share: float | None
    as_new_measured: bool
    room_missing: bool


def history_lines(case: Case) -> tuple[HistoryLine, ...]:
    """
    Follow every measure through all builds of a machine, re-checks as points of their own.

    Returns: a line for each measure with readings, its points in the order of builds.
    """
    groups = group_runs(case)
    lines = []
    for measure in case.measures:
        points = []
        for build in case.builds:
            for recheck in (False, True):
                point = _mean_on(case, groups, measure, build, recheck)
                points += [point] if point else []
        if points:
            lines.append(HistoryLine(measure.id, tuple(points)))
    return tuple(lines)


def _mean_on(case: Case, groups: RunsBySitting, measure: Measure, build: Build, recheck: bool) -> BuildMean | None:
    purposes = ("recheck",) if recheck else ("plan", "earlier")
    sittings = tuple(s for s in case.sittings if s.build_id == build.id and s.purpose in purposes)
    sides = split_sides(groups, measure, case.plan_of(build.id), sittings, ())
    units = sides.before
    if not units:
        return None
    mean = restore(sum(unit.unit for unit in units) / len(units), measure)
    runs = sum(len(unit.runs) for unit in units)
    return BuildMean(build.id, mean, len(units), runs, recheck, sides.above_room)


def recovered_shares(case: Case) -> tuple[Recovered, ...]:
    """
    Relate the newest renewed build to the newest worn one before it and the build called as new.

    Returns: one entry a measure that all three have; nothing where a machine has not all three states.
    """
    as_new, worn, renewed = (_newest(case, wear) for wear in ("as new", "worn", "renewed"))
    if as_new is None or worn is None or renewed is None:
        return ()
    groups = group_runs(case)
    states = {as_new.id, worn.id, renewed.id}
    rooms = all(sitting.ambient_c is not None for sitting in case.sittings if sitting.build_id in states)
    shares = []
    for measure in case.measures:
        new, measured = _level(case, groups, measure, as_new, rooms)
        old, _ = _level(case, groups, measure, worn, rooms)
        now, _ = _level(case, groups, measure, renewed, rooms)
        if new is None or old is None or now is None:
            continue
        planned = case.plan_of(renewed.id).measures.get(measure.id)
        least = margin_bound(planned.matters_from, measure.scale) if planned else 0.0
        share = recovered_share(new, old, now, least=least)
        raw = measure.unit == "Cel" and not rooms
        shares.append(Recovered(measure.id, as_new.id, worn.id, renewed.id, share, measured, raw))
    return tuple(shares)


def recovered_share(as_new: float, worn: float, renewed: float, *, least: float = 0.0) -> float | None:
    """
    Say which share of a loss came back.

    Args:
        as_new, worn, renewed: oriented levels on the scale of judgement, higher is better.
        least: the smallest loss that matters; from a smaller one no share can be told.
    Returns: (renewed − worn) / (as new − worn): 0 nothing came back, 1 all; None where no loss is to be seen.
    """
    lost = as_new - worn
    return (renewed - worn) / lost if lost > least else None


def _newest(case: Case, wear: Wear) -> Build | None:
    return next((build for build in reversed(case.builds) if build.wear == wear), None)


def _level(
    case: Case, groups: RunsBySitting, measure: Measure, build: Build, rooms: bool
) -> tuple[float | None, bool]:
    """The oriented level of a measure on a build; from remembered values where nothing was measured."""
    sittings = tuple(s for s in case.sittings if s.build_id == build.id and s.purpose != "trial")
    units = split_sides(groups, measure, case.plan_of(build.id), sittings, (), above_room=rooms).before
    if units:
        return sum(unit.unit for unit in units) / len(units), True
    return _told_level(groups, measure, sittings, rooms), False


def _told_level(groups: RunsBySitting, measure: Measure, sittings: tuple[Sitting, ...], rooms: bool) -> float | None:
    warm = measure.unit == "Cel" and rooms
    told = [
        orient(run.readings[measure.id].value - ((sitting.ambient_c or 0.0) if warm else 0.0), measure)
        for sitting in sittings
        for run in groups.get((sitting.id, measure.workload), ())
        if run.state == "complete" and measure.id in run.readings
    ]
    return sum(told) / len(told) if told else None
