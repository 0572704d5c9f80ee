"""Whether a run counts, why not, and how far a build is: counted here, and asked for everywhere else."""

from collections import defaultdict
from collections.abc import Mapping
from dataclasses import dataclass
from operator import attrgetter
from typing import Literal

from lynxbill.core.case import Case, Plan, Run, Sitting
from lynxbill.core.measure import Measure

RunsBySitting = Mapping[tuple[str, str], tuple[Run, ...]]
WhyNotCounted = Literal["not_counted", "late", "told"]
_position = attrgetter("position")


@dataclass(frozen=True, slots=True)
class Progress:
    """
    How far one planned measure is on a build.

    `runs` holds the runs that count in each sitting that has any, oldest first; `sittings_wanted` and `runs_wanted`
    are what the plan asks for.
    """

    measure: Measure
    runs: tuple[int, ...]
    sittings_wanted: int
    runs_wanted: int

    @property
    def sittings_left(self) -> int:
        return max(0, self.sittings_wanted - len(self.runs))

    @property
    def fewest_runs(self) -> int | None:
        """Runs of its shortest sitting, where that is shorter than planned."""
        short = [runs for runs in self.runs if runs < self.runs_wanted]
        return min(short) if short else None


@dataclass(frozen=True, slots=True)
class Tally:
    """
    How often a build was measured: its sittings and runs that count for anything, and the sittings still to come.

    `sittings_left` is that of the claim or control that is the least far.
    """

    sittings: int
    runs: int
    sittings_left: int


def group_runs(case: Case) -> RunsBySitting:
    """
    Index a case's runs by sitting and workload, each group in order of position.

    Returns: tuples of runs keyed by (sitting id, workload); what was emptied is no run.
    """
    groups: dict[tuple[str, str], list[Run]] = defaultdict(list)
    for run in case.runs:
        if not run.is_emptied:
            groups[run.sitting_id, run.workload].append(run)
    return {key: tuple(sorted(runs, key=_position) if len(runs) > 1 else runs) for key, runs in groups.items()}


def compared_sittings(case: Case, build_id: str) -> tuple[Sitting, ...]:
    """
    List the sittings of a build that may enter a comparison, oldest first.

    Returns: those whose purpose is `plan` or `earlier`; trials and re-checks stay out.
    """
    chosen = (s for s in case.sittings if s.build_id == build_id and s.purpose in ("plan", "earlier"))
    return tuple(sorted(chosen, key=attrgetter("started_at")))


def why_not_counted(run: Run, measure: Measure) -> tuple[str, WhyNotCounted] | None:
    """
    Say why a run does not count for a measure.

    Returns: the reason in words and its kind; None for a run that counts.
    Source: docs/judgement.md, "From readings to units".
    """
    if run.warm_up:
        return "warm-up", "not_counted"
    if run.state != "complete":
        return f"{run.state}: {run.reason}", "not_counted"
    if run.excluded_late is not None:
        return f"left out after its reading was seen: {run.excluded_late.reason}", "late"
    reading = run.readings.get(measure.id)
    if reading is None:
        return "no reading of this measure", "not_counted"
    if reading.source is not None:
        return f"{reading.source} value, kept out of the test", "told"
    return None


def progress_of(case: Case, groups: RunsBySitting, build_id: str, plan: Plan) -> tuple[Progress, ...]:
    """
    Say how far a build is with everything that its plan judges by: claims and controls.

    Args:
        groups: the case's runs, from `group_runs`.
        plan: its counts are what is wanted; one sitting and one run where it names none.
    Returns: one entry a planned claim or control, also for one without a single run.
    """
    sittings = compared_sittings(case, build_id)
    judged = [m for m in case.measures if m.id in plan.measures and plan.measures[m.id].role != "watch"]
    wanted = plan.sittings_a_side or 1, plan.runs_a_sitting or 1
    return tuple(Progress(measure, _runs_that_count(groups, sittings, measure), *wanted) for measure in judged)


def tally_builds(case: Case) -> dict[str, Tally]:
    """
    Count what counts on every build of a case.

    Returns: by build id.
    """
    groups = group_runs(case)
    return {build.id: _tally(case, groups, build.id) for build in case.builds}


def _tally(case: Case, groups: RunsBySitting, build_id: str) -> Tally:
    sittings = compared_sittings(case, build_id)
    plan = case.plan_of(build_id)
    by_workload: dict[str, list[Measure]] = defaultdict(list)
    for measure in case.measures:
        by_workload[measure.workload].append(measure)
    counted = [
        sum(
            any(why_not_counted(run, measure) is None for measure in measures)
            for workload, measures in by_workload.items()
            for run in groups.get((sitting.id, workload), ())
        )
        for sitting in sittings
    ]
    used = sum(runs > 0 for runs in counted)
    planned = progress_of(case, groups, build_id, plan)
    left = max((progress.sittings_left for progress in planned), default=max(0, (plan.sittings_a_side or 1) - used))
    return Tally(used, sum(counted), left)


def _runs_that_count(groups: RunsBySitting, sittings: tuple[Sitting, ...], measure: Measure) -> tuple[int, ...]:
    counts = (
        sum(why_not_counted(run, measure) is None for run in groups.get((sitting.id, measure.workload), ()))
        for sitting in sittings
    )
    return tuple(count for count in counts if count)
