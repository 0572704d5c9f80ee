"""What was shown: by which rules and evidence, and whether it still stands so."""

import hashlib
from collections.abc import Iterable
from dataclasses import replace

from lynxbill.core.judgement.verdict import CALLED, VERDICT_WORDS
from lynxbill.core.reading.counting import why_not_counted
from lynxbill.core.record.frame import Case
from lynxbill.core.record.ids import SittingId
from lynxbill.core.record.ledger_entries import Showing
from lynxbill.core.record.run import Reading, Run
from lynxbill.core.record.swap import Swap
from lynxbill.core.terms.measure import Measure

SETTLED = (*CALLED, "no_change")
# The number of the rules of judging, raised with every change to what evidence may say; docs/judgement.md lists them.
RULES = 3


def digest_of(case: Case, measure: Measure, sittings: Iterable[SittingId], wanted: int | None) -> str:
    """
    Write down which evidence a verdict rests on: ids, states and readings of all runs of its sittings.

    Args:
        case: with the runs of those sittings.
        wanted: runs a sitting that the plan asks for; what counts and lies beyond is no evidence.
    Returns: hexadecimal SHA-256; the same for the same runs, in whatever order they come.
    """
    here: dict[SittingId, list[Run]] = {sitting: [] for sitting in sittings}
    for run in case.runs:
        if run.sitting_id in here and run.workload == measure.workload and not run.is_emptied:
            here[run.sitting_id].append(run)
    lines = [_line(run, measure) for runs in here.values() for run in _of_evidence(runs, measure, wanted)]
    return hashlib.sha256("\n".join(sorted(lines)).encode()).hexdigest()


def _of_evidence(runs: list[Run], measure: Measure, wanted: int | None) -> Iterable[Run]:
    counted = 0
    for run in sorted(runs, key=lambda run: run.position):
        counted += why_not_counted(run, measure.id) is None
        if wanted is None or counted <= wanted:
            yield run


def _line(run: Run, measure: Measure) -> str:
    reading = run.readings.get(measure.id)
    late = "" if run.excluded_late is None else "late"
    read = _written(reading) if reading is not None else "none"
    recipe = f"{run.workload_version} {sorted(run.parameters.items())} {run.target}"
    return f"{run.id} {run.sitting_id} {run.position} {run.warm_up} {run.state} {late} {read} {recipe}"


def _written(reading: Reading) -> str:
    return (
        f"{float(reading.low).hex()} {float(reading.high).hex()} {reading.about} {reading.source} {reading.statistic}"
    )


def still_holds(case: Case, measure: Measure, entry: Showing, wanted: int | None) -> bool:
    """
    Whether the evidence of an entry is what it was then; one that kept none is believed.

    Args:
        case: the machine as it is now.
        measure: the measure of the entry.
        entry: the verdict as it was given.
        wanted: sittings a side of the look, or None for all.
    """
    return entry.digest in ("", digest_of(case, measure, entry.sittings, wanted))


def by_other_rules(case: Case, measure: Measure, entries: Iterable[Showing], wanted: int | None) -> Showing | None:
    """
    Find the verdict of a measure that was given by other rules than today's, and leads while its evidence stands.

    Args:
        entries: of the measure, oldest first.
        wanted: runs a sitting that the plan asks for.
    Returns: the first that settled it, else the newest; None where there is none, its evidence was not kept or is
        another one, or nobody knows its rules.
    Source: docs/judgement.md, "The number of the rules".
    """
    given = [
        e
        for e in entries
        if e.rules not in (None, RULES)
        and e.verdict in VERDICT_WORDS
        and e.digest
        and still_holds(case, measure, e, wanted)
        and _is_untouched(case, e)
    ]
    settled = (entry for entry in given if entry.verdict in SETTLED)
    return next(settled, None) or next(reversed(given), None)


def _is_untouched(case: Case, entry: Showing) -> bool:
    """Whether nothing of a verdict's sittings was changed or set aside since: its digest is of their runs alone."""
    held = [sitting for sitting in case.sittings if sitting.id in entry.sittings]
    return not any(
        (sitting.set_aside is not None and sitting.set_aside.at > entry.at)
        or any(was.at > entry.at for was in sitting.was)
        for sitting in held
    )


def of_measure(entries: Iterable[Showing], measure: Measure) -> tuple[Showing, ...]:
    """
    The entries of one measure, oldest first.

    Args:
        entries: verdicts given, in any order.
        measure: the measure asked.
    """
    return tuple(sorted((e for e in entries if e.measure == measure.id), key=lambda e: e.at))


def under_new_ids(case: Case, renamed: Case) -> Case:
    """
    Let what was given stand on its evidence under the new ids of its runs, which a digest holds.

    Args:
        case: as it was; renamed: the same, under other ids.
    Returns: `renamed`, whose ledger holds a new digest of each entry that still stood on its evidence; the others
        stand on it no more than before.
    """
    pairs = zip(case.swaps, renamed.swaps, strict=True)
    swaps = tuple(replace(new, shown=_redigested(case, old, renamed, new)) for old, new in pairs)
    return replace(renamed, swaps=swaps)


def _redigested(case: Case, old: Swap, renamed: Case, new: Swap) -> tuple[Showing, ...] | None:
    if old.shown is None or new.shown is None:
        return None
    measures = {measure.id: measure for measure in (*case.measures, *renamed.measures)}

    def entry_of(was: Showing, entry: Showing) -> Showing:
        runs = old.plan.runs_of(measures[was.measure].workload)
        if not was.digest or not still_holds(case, measures[was.measure], was, runs):
            return entry
        return replace(entry, digest=digest_of(renamed, measures[entry.measure], entry.sittings, runs))

    return tuple(entry_of(was, entry) for was, entry in zip(old.shown, new.shown, strict=True))
