"""Core values into rows, one function a noun."""

from collections.abc import Iterable, Mapping
from dataclasses import asdict
from typing import Any
from uuid import UUID

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


def machine_row(machine: Machine) -> MachineRow:
    return MachineRow(id=UUID(machine.id), set_aside=machine.set_aside, **machine_fields(machine))


def machine_fields(machine: Machine) -> dict[str, Any]:
    """What of a machine may be edited."""
    fields = {name: value for name, value in asdict(machine).items() if name not in ("id", "set_aside")}
    return fields | {"limits": dict(machine.limits)}


def workload_row(workload: Workload, machine_id: UUID, position: int) -> WorkloadRow:
    row = WorkloadRow(id=UUID(workload.id), machine_id=machine_id, position=position, set_aside=workload.set_aside)
    for name, value in workload_fields(workload).items():
        setattr(row, name, value)
    return row


def workload_fields(workload: Workload) -> dict[str, Any]:
    """What of a workload may be edited."""
    return {
        "name": workload.name,
        "workload_version": workload.workload_version,
        "parameters": dict(workload.parameters),
        "loads": list(workload.loads),
        "target": workload.target,
        "card": workload.card,
        "minutes_a_run": workload.minutes_a_run,
    }


def measure_row(measure: Measure, workload_id: UUID, position: int) -> MeasureRow:
    return MeasureRow(
        id=UUID(measure.id),
        workload_id=workload_id,
        name=measure.name,
        unit=measure.unit,
        scale=measure.scale,
        kind=measure.kind,
        better=measure.better,
        step=measure.step,
        levels=list(measure.levels),
        part_of=UUID(measure.part_of) if measure.part_of else None,
        combined_by=measure.combined_by,
        rated_as=measure.rated_as,
        of=measure.of,
        derived_from=UUID(measure.derived_from) if measure.derived_from else None,
        per_measure=UUID(measure.per_measure) if measure.per_measure else None,
        per_parameter=measure.per_parameter,
        needs=measure.needs,
        trace_figure=measure.trace_figure,
        trace_of=measure.trace_of,
        trace_by=measure.trace_by,
        trace_minute=measure.trace_minute,
        set_aside=measure.set_aside,
        position=position,
    )


def part_row(part: Part, machine_id: UUID) -> PartRow:
    return PartRow(id=UUID(part.id), machine_id=machine_id, role=part.role, label=part.label, rated=dict(part.rated))


def build_row(build: Build, machine_id: UUID, position: int) -> BuildRow:
    return BuildRow(
        id=UUID(build.id),
        machine_id=machine_id,
        letter=build.letter,
        label=build.label,
        position=position,
        settings=dict(build.settings),
        wear=build.wear,
        read={role: list(texts) for role, texts in build.read.items()},
    )


def fitting_rows(build: Build) -> list[BuildPartRow]:
    return [
        BuildPartRow(build_id=UUID(build.id), part_id=UUID(part.id), position=number)
        for number, part in enumerate(build.parts, start=1)
    ]


def sitting_row(sitting: Sitting, position: int) -> SittingRow:
    return SittingRow(
        id=UUID(sitting.id),
        build_id=UUID(sitting.build_id),
        position=position,
        purpose=sitting.purpose,
        started_at=sitting.started_at,
        ambient_c=sitting.ambient_c,
        conditions=dict(sitting.conditions),
        boot=sitting.boot,
        boot_by=sitting.boot_by,
        closed_at=sitting.closed_at,
        mount=sitting.mount,
        set_aside_reason=sitting.set_aside.reason if sitting.set_aside else None,
        set_aside_at=sitting.set_aside.at if sitting.set_aside else None,
        set_aside_over=sitting.set_aside.over if sitting.set_aside else False,
        attempt=sitting.attempt,
    )


def showing_row(entry: Showing, machine_id: UUID, swap_id: UUID) -> ShowingRow:
    return ShowingRow(
        machine_id=machine_id,
        swap_id=swap_id,
        measure_id=UUID(entry.measure),
        at=entry.at,
        by=entry.by,
        look=entry.look,
        level=entry.level,
        rule=entry.rule,
        verdict=entry.verdict,
        sittings=[UUID(sitting) for sitting in entry.sittings],
        evidence=entry.evidence,
        attempt=entry.attempt,
        compared=UUID(entry.compared) if entry.compared else None,
        gain=entry.gain,
        low=entry.low,
        high=entry.high,
        boots=dict(entry.boots),
        conditions={sitting: dict(held) for sitting, held in entry.conditions.items()},
        plan=entry.plan,
        rules=entry.rules,
    )


def attempt_row(attempt: Attempt, number: int) -> AttemptRow:
    return AttemptRow(number=number, **asdict(attempt))


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
    return SwapRow(
        id=UUID(swap.id),
        machine_id=machine_id,
        before_id=UUID(swap.before),
        after_id=UUID(swap.after),
        label=swap.label,
        position=position,
        side_changes=list(swap.side_changes),
        history_known=swap.shown is not None,
        attempts=[attempt_row(attempt, number) for number, attempt in enumerate(swap.attempts, start=2)],
        state=swap.state,
        declares=list(swap.declares),
        opened_at=swap.opened_at,
        closed_at=swap.closed_at,
        gate_reason=swap.gate_reason,
        gate_missing=list(swap.gate_missing),
        recognition_skipped=swap.recognition_skipped,
        costs=cost_rows(swap.costs),
        steps=[step_row(step, number) for number, step in enumerate(swap.steps, start=1)],
        recognitions=[recognition_row(line, number) for number, line in enumerate(swap.recognitions, start=1)],
        starts=[start_row(start) for start in swap.starts],
        notes=[note_row(note) for note in swap.notes],
        explanations=[explanation_row(e, number) for number, e in enumerate(swap.explanations, start=1)],
        margin_edits=[margin_edit_row(edit) for edit in swap.margin_edits],
        looked_at=swap.looked_at,
    )


def step_row(step: Step, position: int) -> StepRow:
    return StepRow(id=UUID(step.id), position=position, stage=step.stage, text=step.text, done_at=step.done_at)


def recognition_row(line: Recognition, position: int) -> RecognitionRow:
    return RecognitionRow(**(asdict(line) | {"id": UUID(line.id), "position": position}))


def start_row(start: Start) -> StartRow:
    return StartRow(**(asdict(start) | {"id": UUID(start.id)}))


def margin_edit_row(edit: MarginEdit) -> MarginEditRow:
    fields = asdict(edit)
    return MarginEditRow(measure_id=UUID(fields.pop("measure")), **fields)


def candidate_row(candidate: Candidate, machine_id: UUID, position: int) -> CandidateRow:
    return CandidateRow(
        id=UUID(candidate.id),
        machine_id=machine_id,
        position=position,
        set_aside=candidate.set_aside,
        **candidate_fields(candidate),
    )


def candidate_fields(candidate: Candidate) -> dict[str, Any]:
    """What of a candidate may be edited."""
    fields = {name: value for name, value in asdict(candidate).items() if name not in ("id", "swap", "set_aside")}
    return fields | {
        "rated": dict(candidate.rated),
        "ticked": list(candidate.ticked),
        "price": candidate.price,
        "swap_id": UUID(candidate.swap) if candidate.swap else None,
    }


def note_row(note: BenchNote) -> BenchNoteRow:
    return BenchNoteRow(id=UUID(note.id), at=note.at, text=note.text, kind=note.kind, step=note.step)


def explanation_row(explanation: Explanation, position: int) -> ExplanationRow:
    return ExplanationRow(
        id=UUID(explanation.id),
        position=position,
        text=explanation.text,
        state=explanation.state,
        test=explanation.test,
        evidence=explanation.evidence,
    )


def recheck_row(recheck: Recheck, machine_id: UUID) -> RecheckRow:
    return RecheckRow(
        id=UUID(recheck.id),
        machine_id=machine_id,
        build_id=UUID(recheck.build),
        due_on=recheck.due_on,
        plan=copy_plan(recheck.plan),
        note=recheck.note,
        done=recheck.done,
    )


def cost_rows(costs: Iterable[CostLine]) -> list[CostRow]:
    return [
        CostRow(
            position=number,
            kind=cost.kind,
            label=cost.label,
            amount=cost.amount,
            low=cost.low,
            high=cost.high,
            currency=cost.currency,
            rate=cost.rate,
            rate_date=cost.rate_date,
            quantity=cost.quantity,
            unit=cost.unit,
            basis=cost.basis,
            worth=cost.worth,
            supplier=cost.supplier,
            on=cost.on,
            running=asdict(cost.running) if cost.running is not None else None,
            split_by=cost.split_by,
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
    row.design = plan.design
    row.pair_by = plan.pair_by
    row.sittings_a_side = plan.sittings_a_side
    row.at_most = plan.at_most
    row.runs_a_sitting = plan.runs_a_sitting
    row.runs = dict(plan.runs)
    row.judge_whole = UUID(plan.judge_whole) if plan.judge_whole else None
    row.headline_id = UUID(plan.headline) if plan.headline else None
    row.pairs = [[pair.before_run, pair.after_run, pair.reason] for pair in plan.pairs]
    row.borrow_spread_from = [UUID(build) for build in plan.borrow_spread_from]
    row.change = plan.change
    row.order = plan.order
    row.conditions = dict(plan.conditions)
    row.warm_ups = plan.warm_ups
    row.rest_min = plan.rest_min
    row.soak_min = plan.soak_min
    kept = {str(planned.measure_id): planned for planned in row.measures}
    row.measures = [
        _planned(kept.get(measure) or PlannedMeasureRow(measure_id=UUID(measure)), planned)
        for measure, planned in plan.measures.items()
    ]


def _planned(row: PlannedMeasureRow, planned: PlannedMeasure) -> PlannedMeasureRow:
    row.role = planned.role
    row.matters_from = planned.matters_from
    row.hoped_for = planned.hoped_for
    row.weight = planned.weight
    row.statistic = planned.statistic
    return row
