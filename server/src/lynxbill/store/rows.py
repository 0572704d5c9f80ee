"""The core's nouns into rows: members with a column of their name are carried over, the others are named here."""

from collections.abc import Iterable, Mapping
from dataclasses import asdict, fields
from functools import cache
from typing import Any, TypeVar
from uuid import UUID

from sqlalchemy import ARRAY, Uuid
from sqlalchemy.types import TypeEngine

from lynxbill.core.record.build import Build, Candidate, Part
from lynxbill.core.record.frame import Machine
from lynxbill.core.record.ledger_entries import Showing
from lynxbill.core.record.plan import Plan, PlannedMeasure, Recheck
from lynxbill.core.record.run import RUN_MEMBERS, Run, Sitting
from lynxbill.core.record.swap import Attempt, BenchNote, Explanation, MarginEdit, Recognition, Start, Step, Swap
from lynxbill.core.record.workload import Workload
from lynxbill.core.terms.measure import Measure, MeasureId
from lynxbill.core.terms.money import CostLine
from lynxbill.store.copies import copy_plan
from lynxbill.store.tables.base import Table
from lynxbill.store.tables.evidence import ReadingRow, RunRow, SittingRow
from lynxbill.store.tables.machine import (
    BuildPartRow,
    BuildRow,
    CandidateRow,
    MachineRow,
    MeasureRow,
    PartRow,
    PlannedMeasureRow,
    PlanRow,
    RecheckRow,
    WorkloadRow,
)
from lynxbill.store.tables.swap import (
    AttemptRow,
    BenchNoteRow,
    CostRow,
    ExplanationRow,
    MarginEditRow,
    RecognitionRow,
    ShowingRow,
    StartRow,
    StepRow,
    SwapRow,
)

Row = TypeVar("Row", bound=Table)


def machine_row(machine: Machine) -> MachineRow:
    return _carry(MachineRow, machine)


def machine_fields(machine: Machine) -> dict[str, Any]:
    """What of a machine may be edited."""
    return _fields(MachineRow, machine, apart=("id", "set_aside"))


def workload_row(workload: Workload, machine_id: UUID, position: int) -> WorkloadRow:
    return _carry(WorkloadRow, workload, machine_id=machine_id, position=position)


def workload_fields(workload: Workload) -> dict[str, Any]:
    """What of a workload may be edited."""
    return _fields(WorkloadRow, workload, apart=("id", "set_aside"))


def measure_row(measure: Measure, workload_id: UUID, position: int) -> MeasureRow:
    return _carry(MeasureRow, measure, apart=("workload",), workload_id=workload_id, position=position)


def part_row(part: Part, machine_id: UUID) -> PartRow:
    return _carry(PartRow, part, machine_id=machine_id)


def build_row(build: Build, machine_id: UUID, position: int) -> BuildRow:
    read = {role: list(texts) for role, texts in build.read.items()}
    return _carry(BuildRow, build, apart=("parts",), machine_id=machine_id, position=position, read=read)


def fitting_rows(build: Build) -> list[BuildPartRow]:
    return [
        BuildPartRow(build_id=UUID(build.id), part_id=UUID(part.id), position=number)
        for number, part in enumerate(build.parts, start=1)
    ]


def sitting_row(sitting: Sitting, position: int) -> SittingRow:
    aside = sitting.set_aside
    return _carry(
        SittingRow,
        sitting,
        # What it was before it was changed is kept as the changes are.
        apart=("set_aside", "was"),
        position=position,
        set_aside_reason=aside.reason if aside else None,
        set_aside_at=aside.at if aside else None,
        set_aside_over=aside.over if aside else False,
    )


def showing_row(entry: Showing, machine_id: UUID, swap_id: UUID) -> ShowingRow:
    return _carry(
        ShowingRow,
        entry,
        apart=("measure",),
        machine_id=machine_id,
        swap_id=swap_id,
        measure_id=UUID(entry.measure),
        conditions={sitting: dict(held) for sitting, held in entry.conditions.items()},
    )


def attempt_row(attempt: Attempt, number: int) -> AttemptRow:
    return _carry(AttemptRow, attempt, number=number)


def run_row(run: Run, machine_id: UUID, workload_id: UUID, scales: Mapping[MeasureId, str]) -> RunRow:
    readings = [
        ReadingRow(machine_id=machine_id, scale=scales[measure], **reading_values(run, workload_id, measure))
        for measure in run.readings
    ]
    values = run_values(run, workload_id)
    return RunRow(id=UUID(run.id), machine_id=machine_id, **values, readings=readings)


def run_values(run: Run, workload_id: UUID) -> dict[str, Any]:
    late = run.excluded_late
    return {
        "sitting_id": UUID(run.sitting_id),
        "workload_id": workload_id,
        "excluded_late_reason": late.reason if late else None,
        "excluded_late_at": late.at if late else None,
        **{name: getattr(run, name) for name in RUN_MEMBERS},
        "parameters": dict(run.parameters),
    }


def reading_values(run: Run, workload_id: UUID, measure: str) -> dict[str, Any]:
    reading = run.readings[MeasureId(measure)]
    return {
        "sitting_id": UUID(run.sitting_id),
        "measure_id": UUID(measure),
        "workload_id": workload_id,
        "low": reading.low,
        "high": reading.high,
        "about": reading.about,
        "source": reading.source,
        "statistic": reading.statistic,
        "confirmed": reading.confirmed,
    }


def swap_row(swap: Swap, machine_id: UUID, position: int) -> SwapRow:
    return _carry(
        SwapRow,
        swap,
        # The plan and the ledger have rows of their own, which know their swap.
        apart=("before", "after", "plan", "shown"),
        machine_id=machine_id,
        position=position,
        before_id=UUID(swap.before),
        after_id=UUID(swap.after),
        history_known=swap.shown is not None,
        attempts=[attempt_row(attempt, number) for number, attempt in enumerate(swap.attempts, start=2)],
        costs=cost_rows(swap.costs),
        steps=[step_row(step, number) for number, step in enumerate(swap.steps, start=1)],
        recognitions=[recognition_row(line, number) for number, line in enumerate(swap.recognitions, start=1)],
        starts=[start_row(start) for start in swap.starts],
        notes=[note_row(note) for note in swap.notes],
        explanations=[explanation_row(e, number) for number, e in enumerate(swap.explanations, start=1)],
        margin_edits=[margin_edit_row(edit) for edit in swap.margin_edits],
    )


def step_row(step: Step, position: int) -> StepRow:
    return _carry(StepRow, step, position=position)


def recognition_row(line: Recognition, position: int) -> RecognitionRow:
    return _carry(RecognitionRow, line, position=position)


def start_row(start: Start) -> StartRow:
    return _carry(StartRow, start)


def margin_edit_row(edit: MarginEdit) -> MarginEditRow:
    return _carry(MarginEditRow, edit, apart=("measure",), measure_id=UUID(edit.measure))


def candidate_row(candidate: Candidate, machine_id: UUID, position: int) -> CandidateRow:
    swap = UUID(candidate.swap) if candidate.swap else None
    return _carry(CandidateRow, candidate, apart=("swap",), machine_id=machine_id, position=position, swap_id=swap)


def candidate_fields(candidate: Candidate) -> dict[str, Any]:
    """What of a candidate may be edited."""
    swap = UUID(candidate.swap) if candidate.swap else None
    return _fields(CandidateRow, candidate, apart=("id", "swap", "set_aside"), swap_id=swap)


def note_row(note: BenchNote) -> BenchNoteRow:
    return _carry(BenchNoteRow, note, apart=("picture",))


def explanation_row(explanation: Explanation, position: int) -> ExplanationRow:
    return _carry(ExplanationRow, explanation, position=position)


def recheck_row(recheck: Recheck, machine_id: UUID) -> RecheckRow:
    build, plan = UUID(recheck.build), copy_plan(recheck.plan)
    return _carry(RecheckRow, recheck, apart=("build",), machine_id=machine_id, build_id=build, plan=plan)


def cost_rows(costs: Iterable[CostLine]) -> list[CostRow]:
    return [
        _carry(
            CostRow,
            cost,
            position=number,
            running=asdict(cost.running) if cost.running is not None else None,
            shares={key: str(weight) for key, weight in cost.shares.items()},
        )
        for number, cost in enumerate(costs, start=1)
    ]


def plan_row(plan: Plan, machine_id: UUID, swap_id: UUID | None) -> PlanRow:
    row = PlanRow(machine_id=machine_id, swap_id=swap_id)
    fill_plan(row, plan)
    return row


def fill_plan(row: PlanRow, plan: Plan) -> None:
    """Write a plan's content into its row."""
    headline = UUID(plan.headline) if plan.headline else None
    pairs = [[pair.before_run, pair.after_run, pair.reason] for pair in plan.pairs]
    _fill(row, _fields(PlanRow, plan, apart=("headline", "measures"), headline_id=headline, pairs=pairs))
    kept = {str(planned.measure_id): planned for planned in row.measures}
    row.measures = [
        _planned(kept.get(measure) or PlannedMeasureRow(measure_id=UUID(measure)), planned)
        for measure, planned in plan.measures.items()
    ]


def _planned(row: PlannedMeasureRow, planned: PlannedMeasure) -> PlannedMeasureRow:
    return _fill(row, _fields(PlannedMeasureRow, planned))


def _fill(row: Row, values: Mapping[str, Any]) -> Row:
    for name, value in values.items():
        setattr(row, name, value)
    return row


def _carry(table: type[Row], noun: Any, *, apart: tuple[str, ...] = (), **named: Any) -> Row:
    return table(**_fields(table, noun, apart=apart, **named))


def _fields(table: type[Row], noun: Any, *, apart: tuple[str, ...] = (), **named: Any) -> dict[str, Any]:
    """Every member of a noun for the column of its name, but those `apart`; one that has no column is a KeyError."""
    types = _types(table)
    members = (member.name for member in fields(noun) if member.init and member.name not in {*apart, *named})
    return {name: _kept(types[name], getattr(noun, name)) for name in members} | named


def _kept(kind: TypeEngine[Any], value: Any) -> Any:
    """Ids are texts in the core, and what can't be changed there becomes what a row may hold."""
    match kind, value:
        case Uuid(), str():
            return UUID(value)
        case ARRAY(), tuple():
            return [_kept(kind.item_type, each) for each in value]
        case _, tuple():
            return list(value)
        case _, Mapping():
            return dict(value)
    return value


@cache
def _types(table: type[Table]) -> dict[str, TypeEngine[Any]]:
    return {column.key: column.type for column in table.__mapper__.columns}
