"""Upkeep: how much of what was lost since new came back."""

from collections.abc import Mapping
from dataclasses import dataclass

from lynxbill.core.case import Build, Case, Sheet, SheetKey, Sitting, Wear
from lynxbill.core.measure import Measure, margin_bound, restore
from lynxbill.core.sheets import levels_of, sheets_of, stands_above_room, units_of

Sheets = Mapping[SheetKey, Sheet]


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
    sheets = sheets_of(case)
    lines = []
    for measure in case.measures:
        points = []
        for build in case.builds:
            for recheck in (False, True):
                point = _mean_on(case, sheets, measure, build, recheck)
                points += [point] if point else []
        if points:
            lines.append(HistoryLine(measure.id, tuple(points)))
    return tuple(lines)


def _mean_on(case: Case, sheets: Sheets, measure: Measure, build: Build, recheck: bool) -> BuildMean | None:
    purposes = ("recheck",) if recheck else ("plan", "earlier")
    sittings = [s for s in case.sittings_of(build.id) if s.purpose in purposes]
    found = levels_of(sheets, measure, sittings)
    if not found:
        return None
    units, _ = units_of(sheets, measure, [sitting for sitting, _ in found])
    mean = restore(sum(units) / len(units), measure)
    above_room = stands_above_room(measure, [sitting for sitting, _ in found])
    return BuildMean(build.id, mean, len(units), sum(level.alike for _, level in found), recheck, above_room)


def recovered_shares(case: Case) -> tuple[Recovered, ...]:
    """
    Relate the newest renewed build to the newest worn one before it and the build called as new.

    Returns: one entry a measure that all three have; nothing where a machine has not all three states.
    """
    as_new, worn, renewed = (_newest(case, wear) for wear in ("as new", "worn", "renewed"))
    if as_new is None or worn is None or renewed is None:
        return ()
    sheets = sheets_of(case)
    states = {as_new.id, worn.id, renewed.id}
    rooms = all(sitting.ambient_c is not None for sitting in case.sittings if sitting.build_id in states)
    shares = []
    for measure in case.measures:
        new, measured = _level(case, sheets, measure, as_new, rooms)
        old, _ = _level(case, sheets, measure, worn, rooms)
        now, _ = _level(case, sheets, measure, renewed, rooms)
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


def _level(case: Case, sheets: Sheets, measure: Measure, build: Build, rooms: bool) -> tuple[float | None, bool]:
    """The oriented level of a measure on a build; from remembered values where nothing was measured."""
    sittings = [s for s in case.sittings_of(build.id) if s.purpose != "trial"]
    units, _ = units_of(sheets, measure, sittings, above_room=rooms)
    if units:
        return sum(units) / len(units), True
    return _told_level(sheets, measure, sittings, rooms), False


def _told_level(sheets: Sheets, measure: Measure, sittings: list[Sitting], rooms: bool) -> float | None:
    warm = measure.unit == "Cel" and rooms
    told = []
    for sitting in sittings:
        sheet = sheets.get((sitting.id, measure.workload))
        level = sheet.levels.get(measure.id) if sheet else None
        if level is not None and level.told is not None:
            room = (sitting.ambient_c or 0.0) if warm else 0.0
            told.append(level.told + (room if measure.better == "lower" else -room))
    return sum(told) / len(told) if told else None
