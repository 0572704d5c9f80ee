"""Changes of readings that are no late ones: what was typed anew at once, and a slip of the pen a side."""

import math
from collections.abc import Iterable, Mapping, Sequence
from datetime import datetime

from lynxbill.core.reading.counting import is_whole, why_not_counted
from lynxbill.core.record.frame import Case
from lynxbill.core.record.ids import BuildId, RunId, SittingId
from lynxbill.core.record.run import READING, Reading, Run, Sitting, Was
from lynxbill.core.terms.measure import Measure, MeasureId

# One slip of the pen a side is no late change, if the old value can't have been one of the others.
FAR_RATIO, FAR_RANGES, FEWEST_OTHERS = 2.0, 10.0, 3


def was_open(sitting: Sitting, at: datetime) -> bool:
    """
    Say whether a sitting was open at a moment.

    Args:
        sitting: the sitting, with when it was closed, if it was.
        at: the moment asked, UTC.
    """
    return sitting.closed_at is None or at <= sitting.closed_at


def left_out_freely(runs: Sequence[Run], sittings: Mapping[SittingId, Sitting]) -> frozenset[RunId]:
    """
    Find the runs that were left out and yet not late.

    Args:
        runs: with their readings; sittings: theirs, by id.
    Returns: one run a workload and build that was left out in the same save as its reading, with a reason; and what
        hung, crashed or was stopped for safety in an open sitting, and was repeated there.
    Source: docs/judgement.md, "Late changes".
    """
    free: set[RunId] = set()
    saved: set[tuple[BuildId, str]] = set()
    for run in sorted(runs, key=_by_writing):
        sitting = sittings[run.sitting_id]
        if run.state == "complete" or run.left_out_at is None:
            continue
        if run.state == "failed" and was_open(sitting, run.left_out_at) and _is_repeated(run, runs):
            free.add(run.id)
            continue
        place = sitting.build_id, run.workload
        if run.reason and run.left_out_at == run.written_at and place not in saved:
            saved.add(place)
            free.add(run.id)
    return frozenset(free)


def _by_writing(run: Run) -> tuple[bool, str, str]:
    return run.written_at is None, str(run.written_at), run.id


def _is_repeated(failed: Run, runs: Iterable[Run]) -> bool:
    """Whether another run of its workload was completed in its sitting after it."""
    return any(
        run.sitting_id == failed.sitting_id
        and run.workload == failed.workload
        and is_whole(run)
        and run.position > failed.position
        for run in runs
    )


def changed_freely(
    case: Case, runs: Sequence[Run], sittings: Mapping[SittingId, Sitting]
) -> frozenset[tuple[RunId, int]]:
    """
    Find the changes of readings that are no late ones.

    Args:
        runs: with their readings; sittings: theirs, by id.
    Returns: (run, number in its `was`): what was typed anew before the next figure of its workload was saved; one
        correction a side while its sitting was open; one a side after that which can only have been a slip of the
        pen.
    Source: docs/judgement.md, "Late changes".
    """
    entries = [
        (entry.at, run, number)
        for run in runs
        for number, entry in enumerate(run.was)
        if isinstance(entry.value, Reading)
    ]
    if not entries:
        return frozenset()
    firsts = _first_writings(runs)
    measures = {measure.id: measure for measure in case.measures}
    free: set[tuple[RunId, int]] = set()
    corrected: set[tuple[BuildId, bool]] = set()
    for at, run, number in sorted(entries, key=lambda found: (found[0], found[1].id, found[2])):
        sitting = sittings[run.sitting_id]
        is_open = was_open(sitting, at)
        if _is_emptied_for_good(run, number, sitting):
            continue
        if is_open and _is_last_figure(firsts, run, number):
            free.add((run.id, number))
            continue
        measure = measures.get(MeasureId(run.was[number].member.removeprefix(READING)))
        allowance = sitting.build_id, is_open
        if allowance in corrected or _is_told_otherwise(run, number):
            continue
        if is_open or (measure is not None and _is_slip(case, sittings, run, run.was[number], measure)):
            corrected.add(allowance)
            free.add((run.id, number))
    return frozenset(free)


def _first_writings(runs: Iterable[Run]) -> Mapping[str, list[tuple[datetime, RunId]]]:
    """When the figures of each workload were first written, and in which run."""
    found: dict[str, list[tuple[datetime, RunId]]] = {}
    for run in runs:
        times = {entry.at for entry in run.was if entry.member.startswith(READING) and entry.value is None}
        times |= {run.written_at} if run.written_at is not None else set()
        found.setdefault(run.workload, []).extend((at, run.id) for at in times)
    return found


def _is_last_figure(firsts: Mapping[str, list[tuple[datetime, RunId]]], run: Run, number: int) -> bool:
    """Whether no other run of its workload had got a figure between the writing of this one and its change."""
    entry = run.was[number]
    first = next((e.at for e in run.was if e.member == entry.member and e.value is None), None) or run.written_at
    if first is None:
        return True
    return not any(first < at <= entry.at and other != run.id for at, other in firsts[run.workload])


def _after(run: Run, number: int) -> tuple[Reading | None, datetime | None]:
    """What a reading was changed to, and when that was changed again (None: it stands)."""
    entry = run.was[number]
    following = next((e for e in run.was[number + 1 :] if e.member == entry.member), None)
    if following is None:
        return run.readings.get(MeasureId(entry.member.removeprefix(READING))), None
    return following.value if isinstance(following.value, Reading) else None, following.at


def _is_emptied_for_good(run: Run, number: int, sitting: Sitting) -> bool:
    """Whether a reading was taken back to be typed anew, and was not by the time its sitting closed."""
    now, until = _after(run, number)
    if now is not None:
        return False
    return until is None or not was_open(sitting, until)


def _is_told_otherwise(run: Run, number: int) -> bool:
    """Whether a figure was called another kind of figure: remembered, or the highest, and so taken out."""
    now, old = _after(run, number)[0], run.was[number].value
    return now is not None and isinstance(old, Reading) and (now.source, now.statistic) != (old.source, old.statistic)


def _is_slip(case: Case, sittings: Mapping[SittingId, Sitting], run: Run, entry: Was, measure: Measure) -> bool:
    """Whether a corrected reading can only have been a slip of the pen, and now lies among the others."""
    now = run.readings.get(measure.id)
    if now is None or not isinstance(entry.value, Reading):
        return False
    build = sittings[run.sitting_id].build_id
    others = [
        other.readings[measure.id].value
        for other in case.runs
        if other.id != run.id
        and why_not_counted(other, measure.id) is None
        and other.sitting_id in sittings
        and sittings[other.sitting_id].build_id == build
    ]
    if len(others) < FEWEST_OTHERS or not min(others) <= now.value <= max(others):
        return False
    old, span = entry.value.value, max(others) - min(others)
    if measure.scale == "ratio":
        far = [abs(math.log(old / other)) > math.log(FAR_RATIO) for other in others if old > 0]
    else:
        far = [abs(old - other) > FAR_RANGES * span for other in others]
    return sum(far) >= FEWEST_OTHERS
