"""What another technician checks: how it was measured, what does not count, and what was changed on the way."""

from collections.abc import Iterable, Mapping

from lynxbill.core.record.frame import Case
from lynxbill.core.record.history import Value, changes_of
from lynxbill.core.record.ids import BuildId
from lynxbill.core.record.run import READING, Reading, Run, Sitting
from lynxbill.core.result.result import Comparison
from lynxbill.core.value.reckoning import Reckoning
from lynxbill.words.base.figures import DecimalMark, counted, figure, listed
from lynxbill.words.money.account import day
from lynxbill.words.report.beside import run_place
from lynxbill.words.results.comparison import WordedOfAll
from lynxbill.words.results.left_out import say_left_out


def say_unchanged(comparison: Comparison) -> str | None:
    names = [r.measure.name for r in comparison.measures if r.is_given and r.verdict.word == "no_change"]
    return f"Shown to be unchanged: {listed(names)}." if names else None


def say_untested(comparison: Comparison) -> str | None:
    """What was planned and is not known: an open question is no "no change"."""
    open_ones = [r.measure.name for r in comparison.measures if r.is_given and r.verdict.word == "not_settled"]
    untested = [
        r.measure.name
        for r in comparison.measures
        if r.planned.role != "watch" and (not r.is_given or r.verdict.word == "untested")
    ]
    sentences = [
        f"Not shown to be the same, nor to differ: {listed(open_ones)}." if open_ones else "",
        f"Planned and not tested: {listed(untested)}." if untested else "",
    ]
    return " ".join(part for part in sentences if part) or None


def say_how(comparison: Comparison, sides: tuple[tuple[Sitting, ...], ...], mark: DecimalMark) -> Iterable[str]:
    lead = comparison.lead
    before, after = sides
    if lead is not None and before and after:
        runs = [sum(len(unit.runs) for unit in side) for side in (lead.sides.before, lead.sides.after)]
        held = [[s for unit in side for s in unit.sittings] for side in (lead.sides.before, lead.sides.after)]
        yield (
            f"{lead.measure.name}: {counted(runs[0], 'run')} in {counted(len(held[0]), 'sitting')} before, "
            f"{counted(runs[1], 'run')} in {counted(len(held[1]), 'sitting')} after."
        )
        # What was refused, or never counted, was not measured for this.
        days = sorted(s.started_at.date() for side in held for s in side)
        if days:
            yield f"Measured from {day(days[0])} to {day(days[-1])}."
    rooms = [s.ambient_c for s in (*before, *after) if s.ambient_c is not None]
    if rooms:
        low, high = (figure(room, mark) for room in (min(rooms), max(rooms)))
        yield f"Room {low} to {high} °C." if low != high else f"Room {low} °C."
    if any(result.sides.above_room for result in comparison.measures):
        yield "Temperatures are counted above the room."


def say_looks(worded: WordedOfAll, reckoning: Reckoning) -> Iterable[str]:
    yield from (line for line in (worded.look, worded.controls, worded.counts) if line)
    for swap in reckoning.swaps:
        for number, attempt in enumerate(swap.attempts, start=2):
            yield f"Measured over, attempt {number} ({attempt.sides}): {attempt.reason}."
        if swap.shown:
            looked = len({entry.at for entry in swap.shown})
            yield f"{swap.label}: verdicts were given {counted(looked, 'time')}."
        if swap.shown is None:
            yield f"{swap.label}: nobody knows what was shown of it before."
        for edit in swap.margin_edits:
            late = ", after runs of the new build existed" if edit.late else ""
            yield f"A margin or a hope was changed{late}: {edit.reason}."


def say_all_left_out(case: Case, comparison: Comparison) -> Iterable[str]:
    """Runs that do not count, each reason with the runs it holds for, said once for all measures of a workload."""
    by_reason: dict[str, dict[str, None]] = {}
    for result in comparison.measures:
        for left in (*result.sides.left_out, *result.late):
            by_reason.setdefault(say_left_out(left), {})[run_place(case, left.run_id)] = None
    yield from (f"{listed(list(places))}: {reason}" for reason, places in by_reason.items())


def say_corrected(case: Case, comparison: Comparison, mark: DecimalMark) -> Iterable[str]:
    sittings = {s.id for b in (comparison.before, comparison.after) for s in case.sittings_of(BuildId(b))}
    names: dict[str, str] = {measure.id: measure.name for measure in case.measures}
    for run in case.runs:
        if run.sitting_id in sittings:
            yield from _corrections(case, run, names, mark)


def _corrections(case: Case, run: Run, names: Mapping[str, str], mark: DecimalMark) -> Iterable[str]:
    for change in changes_of(run):
        if not change.member.startswith(READING):
            continue
        name = names.get(change.member.removeprefix(READING), "a reading")
        old, new = (_reading(value, mark) for value in (change.old, change.new))
        why = f", because: {change.reason}" if change.reason else ""
        yield f"{run_place(case, run.id)}, {name}: it was {old} until {day(change.at.date())}, then {new}{why}."


def _reading(value: Value, mark: DecimalMark) -> str:
    return figure(value.value, mark) if isinstance(value, Reading) else "nothing"
