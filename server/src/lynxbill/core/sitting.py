"""From runs to units: which runs count for a measure, and what each sitting amounts to."""

import json
from collections import Counter
from collections.abc import Callable, Iterable, Mapping
from dataclasses import dataclass
from statistics import median
from typing import Literal

from lynxbill.core.case import Plan, Run, RunId, Sitting, SittingId, Statistic
from lynxbill.core.counting import RunsBySitting, WhyNotCounted, why_not_counted
from lynxbill.core.measure import Measure, MeasureId, orient, resolution
from lynxbill.core.reading import reading_width

Recipe = tuple[str, str, str | None, Statistic | None]
WhyLeftOut = WhyNotCounted | Literal["stray", "short", "beyond", "alone"]
Mismatch = Literal["workload_version_differs", "parameters_differ", "target_differs", "statistic_differs"]


@dataclass(frozen=True, slots=True)
class LeftOut:
    """A run that does not count, or has no partner: the reason in words, and its kind."""

    run_id: RunId
    reason: str
    kind: WhyLeftOut


@dataclass(frozen=True, slots=True)
class SittingUnit:
    """One sitting for one measure after the cut: its oriented readings in run order, and their median as the unit."""

    sitting: Sitting
    runs: tuple[Run, ...]
    values: tuple[float, ...]
    doubt: float
    unit: float


@dataclass(frozen=True, slots=True)
class Sides:
    """
    Both sides of one measure, cut to the same number of runs a sitting.

    `step` is the resolution on the scale of judgement; `doubt` the variance that readings noted as "about"
    or as a range add to a unit; `short` says that a side has no sitting with half of the planned runs, so that
    its sittings are shown but are no units; `mismatch` is set when the two sides share no version of the workload,
    or no kind of reading. `above_room` says that temperatures stand here as their rise above the room.
    """

    before: tuple[SittingUnit, ...]
    after: tuple[SittingUnit, ...]
    left_out: tuple[LeftOut, ...]
    step: float
    short: bool
    mismatch: Mismatch | None = None
    above_room: bool = False

    @property
    def units(self) -> tuple[SittingUnit, ...]:
        """The sittings of both sides."""
        return self.before + self.after

    @property
    def doubt(self) -> float:
        return sum(unit.doubt for unit in self.units) / len(self.units) if self.units else 0.0


def split_sides(
    groups: RunsBySitting,
    measure: Measure,
    plan: Plan,
    before: tuple[Sitting, ...],
    after: tuple[Sitting, ...],
    *,
    above_room: bool = True,
) -> Sides:
    """
    Reduce the runs of both sides to sitting units of equal length.

    Args:
        groups: the runs, from `group_runs`.
        plan: its `runs_a_sitting` decides which sittings are too short to be a unit; a reading that does not say
            which statistic it is counts as the one that the plan names for the measure.
        before, after: the sittings of each side, oldest first.
        above_room: temperatures in °C become their rise above the room (K) where every sitting knows its room.
    Returns: units on the scale of judgement and every run left out, with its reason.
    Raises:
        NonPositiveReading: a `ratio` reading that is zero or negative.
    Source: docs/judgement.md, "From readings to units".
    """
    left_out: list[LeftOut] = []
    runs = {
        sitting.id: _countable(groups.get((sitting.id, measure.workload), ()), measure, left_out)
        for sitting in before + after
    }
    planned = plan.measures.get(measure.id)
    recipes = _Recipes(measure.id, planned.statistic if planned else None)
    mismatch = recipes.keep_common(runs, [s.id for s in before], [s.id for s in after], left_out)
    enough = (plan.runs_a_sitting or 0) / 2
    whole = [_drop_short(side, runs, enough, left_out) for side in (before, after)]
    length = min((len(kept) for kept in runs.values() if kept), default=0)
    for kept in runs.values():
        left_out += [
            LeftOut(run.id, f"beyond the first {length} runs that every sitting has", "beyond")
            for run in kept[length:]
        ]
    counted = [sitting for sitting in before + after if runs[sitting.id]]
    rises = above_room and measure.unit == "Cel" and all(sitting.ambient_c is not None for sitting in counted)
    units_before, units_after = (
        tuple(_unit(s, runs[s.id][:length], measure, rises) for s in side if runs[s.id]) for side in (before, after)
    )
    readings = tuple(run.readings[measure.id].value for kept in runs.values() for run in kept[:length])
    step = resolution(readings, measure) if readings else 0.0
    return Sides(units_before, units_after, tuple(left_out), step, not all(whole), mismatch, rises)


def _drop_short(
    side: tuple[Sitting, ...], runs: dict[SittingId, list[Run]], enough: float, left_out: list[LeftOut]
) -> bool:
    """
    Take sittings with fewer than half of the planned runs out of a side, if that leaves it a unit.

    A side without a unit keeps its short sittings, so that what was measured is shown; answers False then.
    """
    if not any(len(runs[sitting.id]) >= max(enough, 1) for sitting in side):
        return False
    for sitting in side:
        if len(runs[sitting.id]) < enough:
            reason = "its sitting has fewer than half of the planned runs"
            left_out += [LeftOut(run.id, reason, "short") for run in runs[sitting.id]]
            runs[sitting.id] = []
    return True


def _countable(runs: Iterable[Run], measure: Measure, left_out: list[LeftOut]) -> list[Run]:
    kept = []
    for run in runs:
        why = why_not_counted(run, measure)
        if why is None:
            kept.append(run)
        else:
            left_out.append(LeftOut(run.id, *why))
    return kept


_MISMATCH_REASONS: Mapping[Mismatch, str] = {
    "workload_version_differs": "the two sides ran different versions of the workload",
    "parameters_differ": "the two sides ran the workload with different parameters",
    "target_differs": "the two sides ran the workload on different targets",
    "statistic_differs": "the two sides read different figures: lowest, mean, highest, settled or momentary",
}


@dataclass(frozen=True, slots=True)
class _Recipes:
    """What must be alike for runs to be compared; `unsaid` is the statistic of readings that name none."""

    measure: str
    unsaid: Statistic | None

    def of(self, run: Run) -> Recipe:
        # Most workloads have no parameters, and this is asked of every run several times.
        parameters = json.dumps(dict(run.parameters), sort_keys=True) if run.parameters else "{}"
        statistic = run.readings[MeasureId(self.measure)].statistic or self.unsaid
        return run.workload_version, parameters, run.target, statistic

    def keep_common(
        self,
        runs: dict[SittingId, list[Run]],
        before: list[SittingId],
        after: list[SittingId],
        left_out: list[LeftOut],
    ) -> Mismatch | None:
        """Take out what has another recipe than the one that both sides share; say why they share none."""
        if len({self.of(run) for here in runs.values() for run in here}) < 2:
            return None
        counts_before, counts_after = (
            Counter(self.of(run) for sitting in side for run in runs[sitting]) for side in (before, after)
        )
        shared = counts_before.keys() & counts_after.keys()
        if not shared and counts_before and counts_after:
            mismatch = _name_mismatch(next(iter(counts_before)), next(iter(counts_after)))
            _take_out(runs, lambda run: True, _MISMATCH_REASONS[mismatch], left_out)
            return mismatch
        if shared:
            best = max(shared, key=lambda recipe: (min(counts_before[recipe], counts_after[recipe]), str(recipe)))
            _take_out(runs, lambda run: self.of(run) != best, _STRAY, left_out)
        return None


_STRAY = "another version, target, parameters or kind of reading than the comparison"


def _take_out(
    runs: dict[SittingId, list[Run]], wrong: Callable[[Run], bool], reason: str, left_out: list[LeftOut]
) -> None:
    for sitting, here in runs.items():
        left_out += [LeftOut(run.id, reason, "stray") for run in here if wrong(run)]
        runs[sitting] = [run for run in here if not wrong(run)]


def _name_mismatch(before: Recipe, after: Recipe) -> Mismatch:
    names: tuple[Mismatch, ...] = tuple(_MISMATCH_REASONS)
    return next(name for name, ours, theirs in zip(names, before, after, strict=True) if ours != theirs)


def _unit(sitting: Sitting, runs: list[Run], measure: Measure, above_room: bool) -> SittingUnit:
    room = (sitting.ambient_c or 0.0) if above_room else 0.0
    readings = [run.readings[measure.id] for run in runs]
    values = tuple([orient(reading.value - room, measure) for reading in readings])
    vague = [reading_width(reading, measure) for reading in readings if reading.about or reading.low != reading.high]
    doubt = sum(width**2 for width in vague) / len(runs) / 12 if vague else 0.0
    return SittingUnit(sitting, tuple(runs), values, doubt, median(values) if len(values) > 1 else values[0])
