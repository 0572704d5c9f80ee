"""Whether a run counts, why not, and how far a build is: counted here, and asked for everywhere else."""

from collections import defaultdict
from collections.abc import Mapping
from operator import attrgetter
from typing import Literal

from lynxbill.core.case import BuildId, Case, Frame, Run, Sitting, SittingId
from lynxbill.core.measure import Measure

RunsBySitting = Mapping[tuple[SittingId, str], tuple[Run, ...]]
WhyNotCounted = Literal["not_counted", "late", "told"]
_position = attrgetter("position")


def group_runs(case: Case) -> RunsBySitting:
    """
    Index a case's runs by sitting and workload, each group in order of position.

    Returns: tuples of runs keyed by (sitting id, workload); what was emptied is no run.
    """
    groups: dict[tuple[SittingId, str], list[Run]] = defaultdict(list)
    for run in case.runs:
        if not run.is_emptied:
            groups[run.sitting_id, run.workload].append(run)
    return {key: tuple(sorted(runs, key=_position) if len(runs) > 1 else runs) for key, runs in groups.items()}


def compared_sittings(case: Frame, build_id: BuildId) -> tuple[Sitting, ...]:
    """
    List the sittings of a build that may enter a comparison, oldest first.

    Returns: those whose purpose is `plan` or `earlier`; trials and re-checks stay out.
    """
    chosen = (s for s in case.sittings_of(build_id) if s.purpose in ("plan", "earlier"))
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
