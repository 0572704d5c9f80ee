"""How far a build is with its plan, from the sheets that are kept: asked for by gate, home, sheet and plan."""

from collections.abc import Mapping
from dataclasses import dataclass

from lynxbill.core.reading.counting import boots_of, compared_sittings
from lynxbill.core.reading.tally import levels_of, sheets_of
from lynxbill.core.record.frame import Case, Frame
from lynxbill.core.record.ids import BuildId
from lynxbill.core.record.plan import Plan
from lynxbill.core.record.run import Sitting
from lynxbill.core.record.sheet import Sheet, SheetKey
from lynxbill.core.terms.measure import Measure


@dataclass(frozen=True, slots=True)
class Progress:
    """
    How far one planned measure is on a build.

    `runs` holds the runs that count in each sitting that has any, oldest first, and `units` says as how many sittings
    these count: those in one boot of the machine are one. `sittings_wanted` and `runs_wanted` are what the plan asks
    for.
    """

    measure: Measure
    runs: tuple[int, ...]
    units: int
    sittings_wanted: int
    runs_wanted: int

    @property
    def sittings_left(self) -> int:
        return max(0, self.sittings_wanted - self.units)

    @property
    def rank(self) -> tuple[int, int]:
        """How little there is of it: by its sittings, then by the runs of its shortest sitting."""
        return self.units, min(self.runs, default=0)

    @property
    def fewest_runs(self) -> int | None:
        """Runs of its shortest sitting, where that is shorter than planned."""
        short = [runs for runs in self.runs if runs < self.runs_wanted]
        return min(short) if short else None


@dataclass(frozen=True, slots=True)
class Tally:
    """
    How often a build was measured: its sittings and runs that count for anything, and the sittings still to come.

    `sittings_left` is that of the claim or control that is the least far; sittings in one boot count as one there.
    """

    sittings: int
    runs: int
    sittings_left: int


def progress_of(case: Case, build_id: BuildId, plan: Plan) -> tuple[Progress, ...]:
    """
    Say how far a build is with everything that its plan judges by: claims and controls.

    Args:
        plan: its counts are what is wanted; one sitting and one run where it names none.
    Returns: one entry a planned claim or control, also for one without a single run.
    """
    return _progress(case, sheets_of(case), build_id, plan)


def tally_builds(case: Case) -> dict[str, Tally]:
    """
    Count what counts on every build of a case.

    Args:
        case: the machine with the runs of the builds asked.
    Returns: by build id.
    """
    sheets = sheets_of(case)
    return {build.id: _tally(case, sheets, build.id) for build in case.builds}


def _progress(frame: Frame, sheets: Mapping[SheetKey, Sheet], build_id: BuildId, plan: Plan) -> tuple[Progress, ...]:
    sittings = compared_sittings(frame, build_id)
    judged = [m for m in frame.measures if m.id in plan.measures and plan.measures[m.id].role != "watch"]
    wanted = plan.sittings_a_side or 1
    return tuple(
        _progress_of(sheets, sittings, measure, wanted, plan.runs_of(measure.workload) or 1) for measure in judged
    )


def _progress_of(
    sheets: Mapping[SheetKey, Sheet], sittings: tuple[Sitting, ...], measure: Measure, wanted: int, runs_wanted: int
) -> Progress:
    # What is of another recipe than most is set against nothing: it is no progress.
    counts = {sitting.id: 0 for sitting in sittings}
    counts |= {sitting.id: level.alike for sitting, level in levels_of(sheets, measure, sittings)}
    units = sum(any(counts[sitting.id] for sitting in boot) for boot in boots_of(sittings))
    return Progress(measure, tuple(count for count in counts.values() if count), units, wanted, runs_wanted)


def _tally(frame: Frame, sheets: Mapping[SheetKey, Sheet], build_id: BuildId) -> Tally:
    plan = frame.plan_of(build_id)
    sittings = compared_sittings(frame, build_id)
    counted = {sitting.id: _runs_of(frame, sheets, sitting) for sitting in sittings}
    used = sum(runs > 0 for runs in counted.values())
    units = sum(any(counted[sitting.id] for sitting in boot) for boot in boots_of(sittings))
    planned = _progress(frame, sheets, build_id, plan)
    left = max((progress.sittings_left for progress in planned), default=max(0, (plan.sittings_a_side or 1) - units))
    return Tally(used, sum(counted.values()), left)


def _runs_of(frame: Frame, sheets: Mapping[SheetKey, Sheet], sitting: Sitting) -> int:
    """Runs of a sitting that count: of each workload those of the measure that has the most."""
    here = [sheet for workload in frame.workload_names if (sheet := sheets.get((sitting.id, workload)))]
    return sum(max((level.runs for level in sheet.levels.values()), default=0) for sheet in here)
