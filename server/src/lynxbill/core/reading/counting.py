"""Whether a run counts, why not, and how far a build is: counted here, and asked for everywhere else."""

from collections import defaultdict
from collections.abc import Collection, Iterable, Mapping
from operator import attrgetter
from typing import Literal

from lynxbill.core.record.frame import Frame
from lynxbill.core.record.ids import BuildId, SittingId
from lynxbill.core.record.plan import Plan
from lynxbill.core.record.run import Run, Sitting
from lynxbill.core.terms.measure import Measure, MeasureId

RunsBySitting = Mapping[tuple[SittingId, str], tuple[Run, ...]]
WhyNotCounted = Literal["warm_up", "broken", "late", "no_reading", "told"]
_position = attrgetter("position")


def group_runs(runs: Iterable[Run]) -> RunsBySitting:
    """
    Index runs by sitting and workload, each group in order of position.

    Args:
        runs: runs of one machine, in any order.
    Returns: tuples of runs keyed by (sitting id, workload); what was emptied is no run.
    """
    groups: dict[tuple[SittingId, str], list[Run]] = defaultdict(list)
    for run in runs:
        if not run.is_emptied:
            groups[run.sitting_id, run.workload].append(run)
    return {key: tuple(sorted(here, key=_position) if len(here) > 1 else here) for key, here in groups.items()}


def compared_sittings(case: Frame, build_id: BuildId) -> tuple[Sitting, ...]:
    """
    List the sittings of a build that may enter a comparison, oldest first.

    Args:
        case: the machine.
        build_id: the build whose sittings are asked.
    Returns: those whose purpose is `plan` or `earlier` and that were not set aside; trials and re-checks stay out.
    """
    return tuple(sorted(filter(may_be_compared, case.sittings_of(build_id)), key=attrgetter("started_at")))


def may_be_compared(sitting: Sitting) -> bool:
    """
    Whether a sitting's runs may enter a comparison.

    Args:
        sitting: the sitting, with its purpose and whether it was set aside.
    """
    return sitting.purpose in ("plan", "earlier") and sitting.set_aside is None


def boots_of(sittings: Iterable[Sitting], *, merge_answered: bool = True) -> list[tuple[Sitting, ...]]:
    """
    Put the sittings of a build that were held in one boot of the machine together: they count as one.

    Args:
        sittings: of one build, oldest first.
        merge_answered: take an answered "not restarted" for true; else only what was read off the machine.
    Returns: in the order of their first sittings; one whose boot is not known stands alone.
    """
    boots: dict[str, list[Sitting]] = {}
    for sitting in sittings:
        known = sitting.boot is not None and (merge_answered or sitting.boot_by != "answered")
        boots.setdefault(f"boot {sitting.boot}" if known else f"alone {sitting.id}", []).append(sitting)
    return [tuple(boot) for boot in boots.values()]


def is_under_way(sitting: Sitting, measures: Collection[Measure], plan: Plan, groups: RunsBySitting) -> bool:
    """
    Whether a sitting is open and short of a planned run of some measure: what it has so far is not judged yet.

    Args:
        measures: the claims and controls; a run counts for each of which it has a reading that counts.
        groups: the runs, from `group_runs`.
    Source: docs/judgement.md, "From readings to units".
    """
    if sitting.closed_at is not None:
        return False

    def made(measure: Measure) -> int:
        here = groups.get((sitting.id, measure.workload), ())
        return sum(why_not_counted(run, measure.id) is None for run in here)

    return any(made(measure) < (plan.runs_of(measure.workload) or 0) for measure in measures)


def is_whole(run: Run) -> bool:
    """
    Whether a run may count for any of its measures at all: complete, no warm-up, not left out late.

    Args:
        run: the run asked.
    """
    return run.state == "complete" and not run.warm_up and run.excluded_late is None


def why_not_counted(run: Run, measure: MeasureId) -> WhyNotCounted | None:
    """
    Say why a run does not count for a measure.

    Args:
        run: the run asked.
        measure: the measure asked.
    Returns: None for a run that counts; `told` is a reading that nobody took in this run.
    Source: docs/judgement.md, "From readings to units".
    """
    if run.warm_up:
        return "warm_up"
    if run.state != "complete":
        return "broken"
    if run.excluded_late is not None:
        return "late"
    reading = run.readings.get(measure)
    if reading is None:
        return "no_reading"
    return "told" if reading.source is not None else None


def counts_for(run: Run) -> tuple[MeasureId, ...]:
    """
    List the measures that a run counts for.

    Args:
        run: the run asked.
    """
    return tuple(measure for measure in run.readings if why_not_counted(run, measure) is None)
