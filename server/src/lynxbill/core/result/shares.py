"""What share of a job waited for a part: read from how much faster the part and the job became."""

from collections.abc import Mapping
from dataclasses import dataclass
from typing import Literal

from lynxbill.core.change.context import Measured
from lynxbill.core.record.build import PartRole
from lynxbill.core.record.workload import Workload
from lynxbill.core.terms.errors import BadValue
from lynxbill.core.terms.measure import times_as_fast

ShareNote = Literal["no_gain", "more_than_the_part"]


@dataclass(frozen=True, slots=True)
class ImpliedShare:
    """
    Which share of a job waited for the swapped part (Amdahl), with what still waits for it and is left to gain.

    All shares are 0 to 1. `low` and `high` span both intervals' ends; None unless both gains are real. `most_left` is
    the largest further speed-up (times as fast) that this role could still give, None where there is no bound.
    """

    job: str
    part_measure: str
    share: float | None
    low: float | None
    high: float | None
    still_waits: float | None
    most_left: float | None
    note: ShareNote | None = None


def implied_shares(
    workloads: Mapping[str, Workload], role: str, headline: str | None, measured: list[Measured]
) -> tuple[ImpliedShare, ...]:
    """
    Read from two speed-ups which share of each job waited for the swapped part.

    Args:
        workloads: by name.
        role: of the only part that was exchanged (a part's role).
        headline: the part's own measure, if that is what the headline is.
        measured: all results of the comparison.
    Returns: one entry a measure of work whose workload loads more than the part; none where no workload loads the
        part alone.
    """

    def loads(result: Measured) -> tuple[PartRole, ...]:
        workload = workloads.get(result.measure.workload)
        return workload.loads if workload else ()

    work = [result for result in measured if result.measure.is_work and result.estimate is not None]
    own = [result for result in work if loads(result) == (role,)]
    part = next((result for result in own if result.measure.id == headline), own[0] if own else None)
    if part is None:
        return ()
    jobs = [result for result in work if loads(result) != (role,) and (not loads(result) or role in loads(result))]
    return tuple(_share(job, part) for job in jobs)


def _share(job: Measured, part: Measured) -> ImpliedShare:
    names = job.measure.id, part.measure.id
    whole, own = times_as_fast(job.estimate or 0.0), times_as_fast(part.estimate or 0.0)
    if whole <= 1 or own <= 1:
        return ImpliedShare(*names, None, None, None, None, None, "no_gain")
    if whole > own:
        return ImpliedShare(*names, None, None, None, None, None, "more_than_the_part")
    share = waiting_share(own, whole)
    left = still_waiting(share, own)
    low = high = None
    if job.real_gain and part.real_gain and job.interval and part.interval:
        low = _clipped(times_as_fast(part.interval.high), times_as_fast(job.interval.low))
        high = _clipped(times_as_fast(part.interval.low), times_as_fast(job.interval.high))
    return ImpliedShare(*names, share, low, high, left, 1 / (1 - left) if left < 1 else None)


def _clipped(part_speedup: float, task_speedup: float) -> float:
    """The share at the ends of intervals, where the two may not agree: held within 0 to 1."""
    if task_speedup <= 1:
        return 0.0
    return waiting_share(part_speedup, task_speedup) if 1 < task_speedup < part_speedup else 1.0


def waiting_share(part_speedup: float, task_speedup: float) -> float:
    """
    Say which share of a job waited for the part that was swapped.

    Args:
        part_speedup: s, times as fast on the part's own measure.
        task_speedup: S, times as fast for the whole job; 1 < S <= s.
    Returns: f = (1 − 1/S)/(1 − 1/s), above 0 and at most 1.
    Raises:
        BadValue: speed-ups outside 1 < S <= s, which no share explains.
    Source: G. M. Amdahl, AFIPS Conf. Proc. 30 (1967) 483.
    """
    if not 1 < task_speedup <= part_speedup:
        raise BadValue(
            f"A task {task_speedup:g} times as fast by a part {part_speedup:g} times as fast has no share."
        )
    return (1 - 1 / task_speedup) / (1 - 1 / part_speedup)


def still_waiting(share: float, part_speedup: float) -> float:
    """
    Say which share of the job waits for the part afterwards.

    Args:
        share: f, from `waiting_share`; part_speedup: s, above 1.
    Returns: f' = (f/s)/(1 − f + f/s); the most that a faster part could still give is 1/(1 − f') times as fast.
    Source: as for `waiting_share`.
    """
    rest = share / part_speedup
    return rest / (1 - share + rest)
