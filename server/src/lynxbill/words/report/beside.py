"""What stands beside a verdict for ever: what was waived on the way, drawbacks, and how the machine was found."""

from collections.abc import Iterable, Sequence
from dataclasses import dataclass
from zoneinfo import ZoneInfo

from lynxbill.core.record.frame import Case
from lynxbill.core.record.ids import BuildId, RunId
from lynxbill.core.record.swap import BenchNote, Swap
from lynxbill.core.record.vocabulary import FOUND_STEPS
from lynxbill.core.result.result import Comparison, MeasureResult
from lynxbill.words.base.figures import counted, percent, shown
from lynxbill.words.base.verdicts import VERDICTS
from lynxbill.words.money.account import day


@dataclass(frozen=True, slots=True)
class WordedBeside:
    """What no reading shows and nobody may forget, a line each."""

    basis: str
    history: dict[str, tuple[str, ...]]
    waivers: tuple[str, ...]
    drawbacks: tuple[str, ...]
    found: tuple[str, ...]


def say_beside(case: Case, comparison: Comparison) -> WordedBeside:
    """Say what bears on a comparison beside its readings."""
    swaps = case.swaps_between(BuildId(comparison.before), BuildId(comparison.after)) or ()
    return WordedBeside(
        basis=_say_basis(case, comparison),
        history={
            result.measure.id: sentence
            for result in comparison.measures
            if len(sentence := tuple(_say_history(case, comparison, result, swaps))) > 1
        },
        waivers=tuple(_waivers(swaps, comparison)),
        drawbacks=tuple(_drawbacks(case, swaps, comparison)),
        found=tuple(
            f"{say_kind(note)} {note.text}".strip() for swap in swaps for note in swap.notes if note.step is not None
        ),
    )


def say_kind(note: BenchNote) -> str:
    """Say what a note tells of, where it is no note of the teardown: "Dust found, 3 of 4: fins half closed."."""
    scale, name = FOUND_STEPS.get(note.kind, ()), note.kind.capitalize()
    if note.step is None or not scale:
        return f"{name}:"
    return f"{name}, {note.step} of {len(scale)}: {scale[note.step - 1]}."


def run_place(case: Case, run_id: RunId) -> str:
    """Say where a run stands: "B 2 run 4" is run 4 of the second sitting on build B."""
    run = next((known for known in case.runs if known.id == run_id), None)
    sitting = next((s for s in case.sittings if run is not None and s.id == run.sitting_id), None)
    if run is None or sitting is None:
        return "a run"
    beside = [other.id for other in case.sittings_of(sitting.build_id)]
    return f"{case.build(sitting.build_id).letter} {beside.index(sitting.id) + 1} run {run.position}"


def _say_basis(case: Case, comparison: Comparison) -> str:
    """What the comparison rests on: sittings and rooms."""
    mark = case.machine.decimal_mark
    before, after = (
        max((len(side) for side in sides), default=0)
        for sides in (
            [result.sides.before for result in comparison.measures],
            [result.sides.after for result in comparison.measures],
        )
    )
    sides = f"{counted(before, 'sitting')} a side" if before == after else f"{before} + {after} sittings"
    rooms = [_mean_room(case, BuildId(build)) for build in (comparison.before, comparison.after)]
    if rooms[0] is None or rooms[1] is None:
        return sides
    return f"{sides} · room {shown(rooms[0], 1, mark)} → {shown(rooms[1], 1, mark)} °C"


def _mean_room(case: Case, build: BuildId) -> float | None:
    rooms = [sitting.ambient_c for sitting in case.sittings_of(build) if sitting.ambient_c is not None]
    return sum(rooms) / len(rooms) if rooms else None


def _say_history(case: Case, comparison: Comparison, result: MeasureResult, swaps: Sequence[Swap]) -> Iterable[str]:
    """Every verdict of a measure that was given to somebody, oldest first."""
    zone = ZoneInfo(case.machine.time_zone)
    for swap in swaps:
        for entry in swap.shown or () if swap.after == comparison.after else ():
            of_this = entry.measure == result.measure.id and (entry.compared or swap.before) == comparison.before
            word = next((sentence for verdict, sentence in VERDICTS.items() if verdict == entry.verdict), None)
            if not of_this or word is None:
                continue
            at = entry.at.astimezone(zone)
            look = "outside the plan’s looks" if entry.look is None else f"look {entry.look}"
            attempt = f", attempt {entry.attempt}" if entry.attempt > 1 else ""
            yield f"{day(at.date())}, {at:%H:%M}: {word.lower()}, {look}, at {percent(entry.level)}{attempt}"


def _waivers(swaps: Sequence[Swap], comparison: Comparison) -> Iterable[str]:
    for swap in swaps:
        if swap.gate_reason:
            missing = " ".join(swap.gate_missing)
            yield f"Begun before the baseline was complete, because: {swap.gate_reason}. {missing}".strip()
    for swap in swaps:
        yield from _recognition(swap)
    results = comparison.measures
    if results and all(result.planned.role != "control" for result in results):
        yield "No control: nothing here would show that the machine itself moved."


def _recognition(swap: Swap) -> Iterable[str]:
    """What was seen of the parts that went in, as far as it bears on the verdict."""
    if swap.state != "closed":
        return
    for line in swap.recognitions:
        if line.result == "pass with remark":
            yield f"{line.what}: {line.seen} instead of {line.expected}; {line.remark}."
    unseen = [line.what for line in swap.recognitions if line.result is None]
    if unseen:
        why = f"because: {swap.recognition_skipped}" if swap.recognition_skipped else "and no reason was given"
        yield f"Not looked at: {'; '.join(unseen)}, {why}."


def _drawbacks(case: Case, swaps: Sequence[Swap], comparison: Comparison) -> Iterable[str]:
    """What speaks against the change for ever: drawbacks noted at the swap, and nuisances of the runs after it."""
    yield from (note.text for swap in swaps for note in swap.notes if note.kind == "drawback" and note.text)
    after = {sitting.id for sitting in case.sittings_of(BuildId(comparison.after))}
    for run in case.runs:
        nuisance, step = run.conditions.get("nuisance"), run.conditions.get("nuisance_step")
        if run.sitting_id in after and isinstance(nuisance, str):
            degree = f" ({step} of 4)" if isinstance(step, (int, float)) else ""
            yield f"{nuisance}{degree}, {run_place(case, run.id)}"
