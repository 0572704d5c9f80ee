"""Members of a run file’s swaps and plans into core values and back."""

from collections.abc import Mapping, Set
from datetime import UTC, datetime, timedelta
from typing import Any

from lynxbill.core.change.difference import find_differences
from lynxbill.core.record.build import Build
from lynxbill.core.record.ids import BuildId, RunId, SittingId, SwapId
from lynxbill.core.record.ledger_entries import Showing
from lynxbill.core.record.plan import FixedPair, Plan, PlannedMeasure
from lynxbill.core.record.swap import Attempt, BenchNote, Explanation, MarginEdit, Recognition, Start, Step, Swap
from lynxbill.core.terms.measure import MeasureId
from lynxbill.core.terms.money import CostLine, Running
from lynxbill.exchange.frame_schema import FixedPairFile, PlanFile, PlannedMeasureFile
from lynxbill.exchange.swap_schema import (
    AttemptFile,
    BenchNoteFile,
    CostFile,
    ExplanationFile,
    MarginEditFile,
    RecognitionFile,
    ShowingFile,
    StartFile,
    StepFile,
    SwapFile,
)


def swap_id(number: int) -> str:
    """What a swap is called whose id a file does not give, by its place from 1."""
    return f"swap-{number}"


def to_cost(line: CostFile) -> CostLine:
    """Bring a cost line as written into the core's."""
    running = Running(**line.running.model_dump()) if line.running else None
    return CostLine(**(line.model_dump() | {"running": running}))


def _shown(swap: SwapFile, number: int, measured: Set[BuildId]) -> tuple[Showing, ...] | None:
    """The ledger; None where readings of the build after exist, and nothing is said of what was shown of them."""
    if swap.shown is not None:
        return tuple(_showing(entry) for entry in swap.shown)
    if swap.verdict_shown_for is None and BuildId(swap.after) in measured:
        known = "verdict_shown_for" in swap.model_fields_set
        return () if known else None
    shown = swap.verdict_shown_for or {}
    if isinstance(shown, list):
        shown = dict.fromkeys((key for key, m in swap.plan.measures.items() if m.role != "watch"), shown)
    at = swap.closed_at or swap.opened_at or datetime(1970, 1, 1, tzinfo=UTC) + timedelta(days=number)
    return tuple(
        Showing(MeasureId(measure), at, 1, 0.95, "sittings", "", tuple(map(SittingId, sittings)))
        for measure, sittings in shown.items()
    )


def _showing(entry: ShowingFile) -> Showing:
    fields = {name: getattr(entry, name) for name in ShowingFile.model_fields}
    sittings = tuple(map(SittingId, entry.sittings))
    conditions = {SittingId(key): dict(value) for key, value in entry.conditions.items()}
    return Showing(**(fields | {"sittings": sittings, "conditions": conditions, "boots": dict(entry.boots)}))


def from_showing(entry: Showing) -> ShowingFile:
    """Write an entry of the ledger in the file's form."""
    fields = {name: getattr(entry, name) for name in ShowingFile.model_fields}
    return ShowingFile.model_validate(
        fields
        | {
            "sittings": list(entry.sittings),
            "boots": dict(entry.boots),
            "conditions": {key: dict(value) for key, value in entry.conditions.items()},
        }
    )


def to_swap(swap: SwapFile, number: int, builds: Mapping[str, Build], measured: Set[BuildId]) -> Swap:
    declares = swap.declares
    if declares is None:
        declares = [d.key for d in find_differences(builds[swap.before], builds[swap.after])]
    return Swap(
        id=SwapId(swap.id or swap_id(number)),
        before=BuildId(swap.before),
        after=BuildId(swap.after),
        label=swap.label,
        plan=to_plan(swap.plan),
        side_changes=tuple(swap.side_changes),
        shown=_shown(swap, number, measured),
        attempts=tuple(Attempt(**attempt.model_dump()) for attempt in swap.attempts),
        costs=tuple(to_cost(line) for line in swap.costs),
        state=swap.state,
        declares=tuple(declares),
        opened_at=swap.opened_at,
        closed_at=swap.closed_at,
        gate_reason=swap.gate_reason,
        gate_missing=tuple(swap.gate_missing),
        recognition_skipped=swap.recognition_skipped,
        steps=tuple(Step(**step.model_dump()) for step in swap.steps),
        recognitions=tuple(Recognition(**line.model_dump()) for line in swap.recognitions),
        starts=tuple(Start(**start.model_dump()) for start in swap.starts),
        notes=tuple(BenchNote(**note.model_dump()) for note in swap.notes),
        explanations=tuple(Explanation(**explanation.model_dump()) for explanation in swap.explanations),
        margin_edits=tuple(MarginEdit(**edit.model_dump()) for edit in swap.margin_edits),
        looked_at=swap.looked_at,
    )


def to_plan(plan: PlanFile) -> Plan:
    """Bring a plan as written into the core's."""
    named = {
        "measures": {MeasureId(key): PlannedMeasure(**value.model_dump()) for key, value in plan.measures.items()},
        "pairs": tuple(FixedPair(RunId(pair.runs[0]), RunId(pair.runs[1]), pair.reason) for pair in plan.pairs),
        "borrow_spread_from": tuple(map(BuildId, plan.borrow_spread_from)),
    }
    return Plan(**({name: getattr(plan, name) for name in PlanFile.model_fields} | named))


def from_plan(plan: Plan) -> PlanFile:
    """Write a plan in the file's form."""
    named = {
        "measures": {key: PlannedMeasureFile.model_validate(value) for key, value in plan.measures.items()},
        "pairs": [FixedPairFile(runs=[pair.before_run, pair.after_run], reason=pair.reason) for pair in plan.pairs],
    }
    return PlanFile.model_validate({name: getattr(plan, name) for name in PlanFile.model_fields} | named)


def from_swap(swap: Swap) -> SwapFile:
    return SwapFile(
        id=swap.id,
        **dict[str, Any]({"from": swap.before, "to": swap.after}),
        label=swap.label,
        side_changes=list(swap.side_changes),
        plan=from_plan(swap.plan),
        shown=None if swap.shown is None else [from_showing(entry) for entry in swap.shown],
        attempts=[AttemptFile.model_validate(attempt) for attempt in swap.attempts],
        costs=[CostFile.model_validate(line) for line in swap.costs],
        state=swap.state,
        declares=list(swap.declares),
        opened_at=swap.opened_at,
        closed_at=swap.closed_at,
        gate_reason=swap.gate_reason,
        gate_missing=list(swap.gate_missing),
        recognition_skipped=swap.recognition_skipped,
        steps=[StepFile.model_validate(step) for step in swap.steps],
        recognitions=[RecognitionFile.model_validate(line) for line in swap.recognitions],
        starts=[StartFile.model_validate(start) for start in swap.starts],
        notes=[BenchNoteFile.model_validate(note) for note in swap.notes],
        explanations=[ExplanationFile.model_validate(explanation) for explanation in swap.explanations],
        margin_edits=[MarginEditFile.model_validate(edit) for edit in swap.margin_edits],
        looked_at=swap.looked_at,
    )
