"""From runs to units: which runs count for a measure, and what each sitting amounts to."""

import json
from collections import Counter, defaultdict
from collections.abc import Iterable, Mapping
from dataclasses import dataclass
from statistics import median

from lynxbill.core.case import Case, Plan, Run, Sitting
from lynxbill.core.measure import Measure, orient, resolution

RunsBySitting = Mapping[tuple[str, str], tuple[Run, ...]]
Recipe = tuple[str, str, str | None]


@dataclass(frozen=True, slots=True)
class LeftOut:
    """A run that does not count, or has no partner, and why."""

    run_id: str
    reason: str


@dataclass(frozen=True, slots=True)
class SittingUnit:
    """One sitting for one measure after the cut: `values` are its oriented readings in run order."""

    sitting: Sitting
    runs: tuple[Run, ...]
    values: tuple[float, ...]
    doubt: float

    @property
    def unit(self) -> float:
        """The median of the sitting's oriented readings."""
        return median(self.values)


@dataclass(frozen=True, slots=True)
class Sides:
    """
    Both sides of one measure, cut to the same number of runs a sitting.

    `step` is the resolution on the scale of judgement; `doubt` the variance that readings noted as "about"
    or as a range add to a unit; `short` says that a side has no sitting with half of the planned runs, so that
    its sittings are shown but are no units; `mismatch` is set when the two sides share no version of the workload.
    """

    before: tuple[SittingUnit, ...]
    after: tuple[SittingUnit, ...]
    left_out: tuple[LeftOut, ...]
    step: float
    short: bool
    mismatch: str | None = None

    @property
    def doubt(self) -> float:
        units = self.before + self.after
        return sum(unit.doubt for unit in units) / len(units) if units else 0.0


def group_runs(case: Case) -> RunsBySitting:
    """
    Index a case's runs by sitting and workload, each group in order of position.

    Returns: tuples of runs keyed by (sitting id, workload).
    """
    groups: dict[tuple[str, str], list[Run]] = defaultdict(list)
    for run in case.runs:
        groups[run.sitting_id, run.workload].append(run)
    return {key: tuple(sorted(runs, key=lambda run: run.position)) for key, runs in groups.items()}


def compared_sittings(case: Case, build_id: str) -> tuple[Sitting, ...]:
    """
    List the sittings of a build that may enter a comparison, oldest first.

    Returns: those whose purpose is `plan` or `earlier`; trials and re-checks stay out.
    """
    chosen = (s for s in case.sittings if s.build_id == build_id and s.purpose in ("plan", "earlier"))
    return tuple(sorted(chosen, key=lambda sitting: sitting.started_at))


def split_sides(
    groups: RunsBySitting,
    measure: Measure,
    plan: Plan,
    before: tuple[Sitting, ...],
    after: tuple[Sitting, ...],
) -> Sides:
    """
    Reduce the runs of both sides to sitting units of equal length.

    Args:
        groups: the runs, from `group_runs`.
        plan: its `runs_a_sitting` decides which sittings are too short to be a unit.
        before, after: the sittings of each side, oldest first.
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
    recipe, mismatch = _common_recipe([runs[s.id] for s in before], [runs[s.id] for s in after])
    for sitting in before + after:
        runs[sitting.id] = _keep_recipe(runs[sitting.id], recipe, mismatch, left_out)
    enough = (plan.runs_a_sitting or 0) / 2
    whole = [_drop_short(side, runs, enough, left_out) for side in (before, after)]
    length = min((len(kept) for kept in runs.values() if kept), default=0)
    for kept in runs.values():
        left_out += [
            LeftOut(run.id, f"beyond the first {length} runs that every sitting has") for run in kept[length:]
        ]
    units_before = tuple(_unit(s, runs[s.id][:length], measure) for s in before if runs[s.id])
    units_after = tuple(_unit(s, runs[s.id][:length], measure) for s in after if runs[s.id])
    readings = tuple(run.readings[measure.id].value for kept in runs.values() for run in kept[:length])
    step = resolution(readings, measure) if readings else 0.0
    return Sides(units_before, units_after, tuple(left_out), step, not all(whole), mismatch)


def _drop_short(
    side: tuple[Sitting, ...], runs: dict[str, list[Run]], enough: float, left_out: list[LeftOut]
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
            left_out += [LeftOut(run.id, reason) for run in runs[sitting.id]]
            runs[sitting.id] = []
    return True


def _countable(runs: Iterable[Run], measure: Measure, left_out: list[LeftOut]) -> list[Run]:
    kept = []
    for run in runs:
        reason = _why_not(run, measure)
        if reason is None:
            kept.append(run)
        else:
            left_out.append(LeftOut(run.id, reason))
    return kept


def _why_not(run: Run, measure: Measure) -> str | None:
    if run.warm_up:
        return "warm-up"
    if run.state != "complete":
        return f"{run.state}: {run.reason}"
    if run.excluded_late is not None:
        return f"left out after its reading was seen: {run.excluded_late.reason}"
    reading = run.readings.get(measure.id)
    if reading is None:
        return "no reading of this measure"
    if reading.source is not None:
        return f"{reading.source} value, kept out of the test"
    return None


def _recipe(run: Run) -> Recipe:
    # Most workloads have no parameters, and this is asked of every run several times.
    parameters = json.dumps(dict(run.parameters), sort_keys=True) if run.parameters else "{}"
    return run.workload_version, parameters, run.target


def _common_recipe(before: list[list[Run]], after: list[list[Run]]) -> tuple[Recipe | None, str | None]:
    """Choose the version, parameters and target that both sides share, by the runs that it keeps."""
    counts_before = Counter(_recipe(run) for runs in before for run in runs)
    counts_after = Counter(_recipe(run) for runs in after for run in runs)
    shared = counts_before.keys() & counts_after.keys()
    if shared:
        best = max(shared, key=lambda recipe: (min(counts_before[recipe], counts_after[recipe]), str(recipe)))
        return best, None
    if counts_before and counts_after:
        return None, _name_mismatch(next(iter(counts_before)), next(iter(counts_after)))
    return None, None


def _name_mismatch(before: Recipe, after: Recipe) -> str:
    names = ("workload_version_differs", "parameters_differ", "target_differs")
    return next(name for name, ours, theirs in zip(names, before, after, strict=True) if ours != theirs)


_MISMATCH_REASONS = {
    "workload_version_differs": "the two sides ran different versions of the workload",
    "parameters_differ": "the two sides ran the workload with different parameters",
    "target_differs": "the two sides ran the workload on different targets",
}


def _keep_recipe(runs: list[Run], recipe: Recipe | None, mismatch: str | None, left_out: list[LeftOut]) -> list[Run]:
    if mismatch is not None:
        left_out += [LeftOut(run.id, _MISMATCH_REASONS[mismatch]) for run in runs]
        return []
    if recipe is None:
        return runs
    strays = [run for run in runs if _recipe(run) != recipe]
    left_out += [LeftOut(run.id, "another version, parameters or target than the comparison") for run in strays]
    return [run for run in runs if _recipe(run) == recipe]


def _unit(sitting: Sitting, runs: list[Run], measure: Measure) -> SittingUnit:
    values = tuple(orient(run.readings[measure.id].value, measure) for run in runs)
    widths = [_doubtful_width(run, measure) for run in runs]
    return SittingUnit(sitting, tuple(runs), values, sum(width**2 for width in widths) / len(runs) / 12)


def _doubtful_width(run: Run, measure: Measure) -> float:
    """Width of what an "about" or a range leaves open, on the scale of judgement; zero for an exact reading."""
    reading = run.readings[measure.id]
    low, high = reading.low, reading.high
    if reading.about:
        half = _last_digit(reading.value) / 2
        low, high = low - half, high + half
    if measure.scale == "ratio":
        return (high - low) / reading.value
    return high - low


def _last_digit(value: float) -> float:
    """Place value of the last non-zero digit written: 10 for 40, 1 for 41, 0.1 for 41.5."""
    digits = f"{value:.12g}"
    if "." in digits and "e" not in digits:
        return 10.0 ** -len(digits.split(".")[1])
    place, whole = 1.0, abs(int(value))
    while whole and whole % 10 == 0:
        place, whole = place * 10, whole // 10
    return place
