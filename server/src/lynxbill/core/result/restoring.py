"""Upkeep: how much of what was lost since new came back."""

import math
from collections.abc import Mapping, Sequence
from dataclasses import dataclass

from lynxbill.core.reading.tally import is_above_room, levels_of, sheets_of, units_of
from lynxbill.core.record.build import Build, Wear
from lynxbill.core.record.frame import Case
from lynxbill.core.record.run import Sitting
from lynxbill.core.record.sheet import Sheet, SheetKey
from lynxbill.core.result.alongside import name_changes
from lynxbill.core.statistics.estimate import t_quantile
from lynxbill.core.statistics.scatter import mean_of, pool
from lynxbill.core.terms.measure import Measure, margin_bound, restore

Sheets = Mapping[SheetKey, Sheet]


# Scatter from fewer degrees of freedom bounds no share.
_LEAST_DF = 2


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
    The share of a loss that renewing brought back: 1 is as new; None where less was lost than matters, and where the
    loss can't be told from none (`loss_hidden`): near no loss a share is anything.

    `low` to `high` is its 95 % interval, None where there are too few sittings, or the as-new value was only told.
    `changes` names all that was changed from worn to renewed, as a bundle if several. `as_new_measured` is False
    where the as-new value was remembered, inherited or claimed; `room_missing` says that temperatures stand as they
    were read, for a room was not noted somewhere.
    """

    measure: str
    as_new: str
    worn: str
    renewed: str
    share: float | None
    low: float | None
    high: float | None
    changes: tuple[str, ...]
    as_new_measured: bool
    room_missing: bool
    loss_hidden: bool = False


def history_lines(case: Case) -> tuple[HistoryLine, ...]:
    """
    Follow every measure through all builds of a machine, re-checks as points of their own.

    Args:
        case: the machine with all its runs.
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
    above_room = is_above_room(measure, [sitting for sitting, _ in found])
    return BuildMean(build.id, mean, len(units), sum(level.alike for _, level in found), recheck, above_room)


def recovered_shares(case: Case) -> tuple[Recovered, ...]:
    """
    Relate the newest renewed build to the newest worn one before it and the build called as new.

    Args:
        case: the machine with all its runs.
    Returns: one entry a measure that all three have; nothing where a machine has not all three states.
    """
    as_new, worn, renewed = (_newest(case, wear) for wear in ("as new", "worn", "renewed"))
    if as_new is None or worn is None or renewed is None:
        return ()
    sheets = sheets_of(case)
    states = {as_new.id, worn.id, renewed.id}
    rooms = all(sitting.ambient_c is not None for sitting in case.sittings if sitting.build_id in states)
    changes = name_changes(case, worn.id, renewed.id)
    shares = []
    for measure in case.measures:
        found = [_state(case, sheets, measure, build, rooms) for build in (as_new, worn, renewed)]
        new, old, now = (state.level for state in found)
        if new is None or old is None or now is None:
            continue
        planned = case.plan_of(renewed.id).measures.get(measure.id)
        least = margin_bound(planned.matters_from, measure.scale) if planned else 0.0
        share = recovered_share(new, old, now, least=least)
        step = max(state.step for state in found)
        low, high = (None, None) if share is None else share_interval(*(state.units for state in found), step=step)
        # With sittings enough for an interval there is none where the loss does not stand out of their scatter.
        hidden = share is not None and low is None and _can_tell([state.units for state in found])
        raw = measure.unit == "Cel" and not rooms
        shares.append(
            Recovered(
                measure=measure.id,
                as_new=as_new.id,
                worn=worn.id,
                renewed=renewed.id,
                share=None if hidden else share,
                low=low,
                high=high,
                changes=changes,
                as_new_measured=bool(found[0].units),
                room_missing=raw,
                loss_hidden=hidden,
            )
        )
    return tuple(shares)


def share_interval(
    as_new: Sequence[float], worn: Sequence[float], renewed: Sequence[float], *, step: float = 0.0
) -> tuple[float | None, float | None]:
    """
    Say between which ends the share of a loss that came back lies, at 95 %.

    Args:
        as_new, worn, renewed: oriented units of the sittings of each state, whose scatter is taken for the same.
        step: resolution of the readings on that scale, the least scatter that is believed.
    Returns: (None, None) where a state has no unit, fewer than two degrees of freedom are left, or the loss can't be
        told from none, so that the share has no bounded interval.
    Source: E. C. Fieller, J. R. Stat. Soc. B 16 (1954) 175, with the worn state shared by both differences.
    """
    states = [list(state) for state in (as_new, worn, renewed)]
    scatter = pool(states, step=step)
    if not _can_tell(states):
        return None, None
    means = [mean_of(state) for state in states]
    spread = t_quantile(0.975, scatter.df) ** 2 * scatter.variance
    lost, back = means[0] - means[1], means[2] - means[1]
    per_new, per_worn, per_renewed = (1 / len(state) for state in states)
    # (back − share·lost)² = spread·(1/k_renewed + share²/k_new + (1 − share)²/k_worn), solved for the share.
    a = lost**2 - spread * (per_new + per_worn)
    half_b = spread * per_worn - back * lost
    c = back**2 - spread * (per_renewed + per_worn)
    if a <= 0:
        return None, None
    root = math.sqrt(max(0.0, half_b**2 - a * c))
    return (-half_b - root) / a, (-half_b + root) / a


def _can_tell(states: Sequence[Sequence[float]]) -> bool:
    return all(states) and pool(states).df >= _LEAST_DF


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


@dataclass(frozen=True, slots=True)
class _State:
    """Where a measure stands on a build: its units and their resolution, and its level, if only by what was told."""

    units: tuple[float, ...]
    step: float
    level: float | None


def _state(case: Case, sheets: Sheets, measure: Measure, build: Build, rooms: bool) -> _State:
    sittings = [s for s in case.sittings_of(build.id) if s.purpose != "trial"]
    units, step = units_of(sheets, measure, sittings, above_room=rooms)
    level = mean_of(units) if units else _told_level(sheets, measure, sittings, rooms)
    return _State(tuple(units), step, level)


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
