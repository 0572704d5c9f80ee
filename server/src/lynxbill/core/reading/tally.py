"""What is kept of a run sheet: the runs of one workload in one sitting, reduced to what other questions need."""

import json
from collections import Counter
from collections.abc import Iterable, Mapping
from functools import reduce
from statistics import median

from lynxbill.core.reading.counting import why_not_counted
from lynxbill.core.reading.reading import judged_value
from lynxbill.core.record.frame import Case
from lynxbill.core.record.run import Run, Sitting
from lynxbill.core.record.sheet import Level, Sheet, SheetKey
from lynxbill.core.statistics.scatter import mean_of, squares_around_mean
from lynxbill.core.terms.grain import Grain, grain_of, resolution
from lynxbill.core.terms.measure import Measure, orient

# Raised whenever a figure could come out differently: sheets kept by an older program are then made anew.
SHEETS_VERSION = 3


def make_sheet(runs: Iterable[Run], measures: Iterable[Measure]) -> Sheet | None:
    """
    Reduce the runs of one workload in one sitting.

    Args:
        runs: of one sitting and workload, in any order.
        measures: those of the workload.
    Returns: None where there is nothing but rows that were emptied.
    """
    made = [run for run in sorted(runs, key=lambda run: run.position) if not run.is_emptied]
    if not made:
        return None
    counted = [run for run in made if not run.warm_up]
    recipes = dict.fromkeys((run.workload_version, run.target or "none", _written(run)) for run in counted)
    soaks = [run.soak_s for run in counted if run.soak_s is not None]
    seconds = [run.duration_s for run in counted if run.state == "complete" and run.duration_s is not None]
    return Sheet(
        runs=len(counted),
        failed=sum(run.state != "complete" for run in counted),
        recipes=tuple(recipes),
        soaks=(min(soaks), max(soaks)) if soaks else None,
        seconds=median(seconds) if seconds else None,
        levels={measure.id: _level(counted, measure) for measure in measures},
    )


def sheets_of(case: Case, *, levels: bool = True) -> Mapping[SheetKey, Sheet]:
    """
    Hand out the sheets of a machine: those that the store keeps, else made from all its runs.

    Args:
        levels: whether the levels of their measures are asked for too, which take most of the work.
    Returns: by sitting id and workload; none for a sheet without a run.
    """
    if case.sheets is not None:
        return case.sheets
    groups: dict[SheetKey, list[Run]] = {}
    for run in case.runs:
        groups.setdefault((run.sitting_id, run.workload), []).append(run)
    by_workload: dict[str, list[Measure]] = {}
    for measure in case.measures if levels else ():
        by_workload.setdefault(measure.workload, []).append(measure)
    made = {key: make_sheet(runs, by_workload.get(key[1], ())) for key, runs in groups.items()}
    return {key: sheet for key, sheet in made.items() if sheet is not None}


def levels_of(
    sheets: Mapping[SheetKey, Sheet], measure: Measure, sittings: Iterable[Sitting]
) -> list[tuple[Sitting, Level]]:
    """
    List where a measure stands in each of some sittings that have runs which count, oldest first.

    Args:
        sheets: kept sums of a workload's runs, by sitting.
        measure: the measure asked.
        sittings: the sittings asked, in any order.
    Returns: only those of the recipe that most of them share, for two recipes are never pooled.
    """
    found = []
    for sitting in sittings:
        sheet = sheets.get((sitting.id, measure.workload))
        level = sheet.levels.get(measure.id) if sheet else None
        if level is not None and level.unit is not None:
            found.append((sitting, level))
    if not found:
        return []
    usual = Counter(level.recipe for _, level in found).most_common(1)[0][0]
    return [(sitting, level) for sitting, level in found if level.recipe == usual]


def units_of(
    sheets: Mapping[SheetKey, Sheet],
    measure: Measure,
    sittings: Iterable[Sitting],
    *,
    least: float = 0.0,
    above_room: bool = True,
) -> tuple[list[float], float]:
    """
    Hand out the units of some sittings of one build as they are kept, all their runs in them.

    Args:
        least: sittings with fewer runs are left out, where one has as many.
        above_room: temperatures in °C become their rise above the room (K) where every sitting knows its room.
    Returns: units on the scale of judgement, oldest first, and the resolution of their readings there.
    """
    found = levels_of(sheets, measure, sittings)
    if any(level.alike >= least for _, level in found):
        found = [(sitting, level) for sitting, level in found if level.alike >= least]
    elif least:
        found = []
    rises = above_room and is_above_room(measure, [sitting for sitting, _ in found])
    units = [
        rise_of(level, measure, sitting.ambient_c or 0.0) if rises else level.unit or 0.0 for sitting, level in found
    ]
    if not units:
        return [], 0.0
    grain = reduce(Grain.joined, (level.grain for _, level in found))
    return units, resolution(grain, mean_of(units), measure)


def is_above_room(measure: Measure, sittings: Iterable[Sitting]) -> bool:
    """
    Whether a temperature is taken above the room: it is in °C, and every sitting knows its room.

    Args:
        measure: the measure asked.
        sittings: the sittings that are compared; rooms in °C.
    """
    return measure.unit == "Cel" and all(sitting.ambient_c is not None for sitting in sittings)


def rise_of(level: Level, measure: Measure, room: float) -> float:
    """
    Say where a temperature stands above its room.

    Args:
        room: in °C.
    Returns: on the scale of judgement.
    """
    return (level.unit or 0.0) + (room if measure.better == "lower" else -room)


def recipe_of(run: Run, measure: Measure) -> str:
    """
    Write out what must be alike for two runs to be compared: version, parameters, target and kind of reading.

    Args:
        measure: one that the run has a reading of.
    """
    statistic = run.readings[measure.id].statistic
    return "|".join((run.workload_version, _written(run), run.target or "", statistic or ""))


def _level(runs: list[Run], measure: Measure) -> Level:
    counted = [run for run in runs if why_not_counted(run, measure.id) is None]
    noted = [run.readings[measure.id].value for run in runs if run.state == "complete" and measure.id in run.readings]
    told = mean_of([orient(value, measure) for value in noted]) if noted else None
    if not counted:
        return Level(0, told=told)
    recipes = [recipe_of(run, measure) for run in counted]
    usual = max(set(recipes), key=lambda recipe: (recipes.count(recipe), recipe))
    readings = [run.readings[measure.id] for run, recipe in zip(counted, recipes, strict=True) if recipe == usual]
    values = [reading.value for reading in readings]
    oriented = [orient(judged_value(reading, measure), measure) for reading in readings]
    return Level(
        runs=len(counted),
        alike=len(values),
        recipe=usual,
        unit=median(oriented),
        squares=squares_around_mean(oriented),
        grain=grain_of(values),
        told=told,
    )


def _written(run: Run) -> str:
    return json.dumps(dict(run.parameters), sort_keys=True) if run.parameters else "{}"
