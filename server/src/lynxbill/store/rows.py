"""Core values into rows, one function a noun."""

from collections.abc import Iterable, Mapping
from decimal import Decimal
from uuid import UUID

from lynxbill.core.case import Build, Machine, Part, Plan, PlannedMeasure, Reading, Run, Sitting, Swap
from lynxbill.core.measure import Measure
from lynxbill.core.money import CostLine
from lynxbill.store.tables import (
    BuildPartRow,
    BuildRow,
    CostRow,
    MachineRow,
    MeasureRow,
    PartRow,
    PlannedMeasureRow,
    PlanRow,
    ReadingRow,
    RunRow,
    SittingRow,
    SwapRow,
)


def machine_row(machine: Machine) -> MachineRow:
    return MachineRow(
        id=UUID(machine.id),
        name=machine.name,
        owner=machine.owner,
        question=machine.question,
        currency=machine.currency,
        labour_rate=None if machine.labour_rate is None else Decimal(machine.labour_rate),
        decimal_mark=machine.decimal_mark,
        time_zone=machine.time_zone,
    )


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
    )


def run_row(run: Run, workload_id: UUID, scales: Mapping[str, str]) -> RunRow:
    late = run.excluded_late
    return RunRow(
        id=UUID(run.id),
        sitting_id=UUID(run.sitting_id),
        workload_id=workload_id,
        workload_version=run.workload_version,
        parameters=dict(run.parameters),
        position=run.position,
        state=run.state,
        reason=run.reason,
        warm_up=run.warm_up,
        target=run.target,
        pair_label=run.pair_label,
        started_at=run.started_at,
        duration_s=run.duration_s,
        soak_s=run.soak_s,
        excluded_late_reason=late.reason if late else None,
        excluded_late_at=late.at if late else None,
        readings=reading_rows(run.readings, workload_id, scales),
    )


def reading_rows(readings: Mapping[str, Reading], workload_id: UUID, scales: Mapping[str, str]) -> list[ReadingRow]:
    return [
        ReadingRow(
            measure_id=UUID(measure),
            workload_id=workload_id,
            scale=scales[measure],
            low=reading.low,
            high=reading.high,
            about=reading.about,
            source=reading.source,
            statistic=reading.statistic,
        )
        for measure, reading in readings.items()
    ]


def swap_row(swap: Swap, machine_id: UUID, position: int) -> SwapRow:
    shown = swap.verdict_shown_for
    return SwapRow(
        id=UUID(swap.id),
        machine_id=machine_id,
        before_id=UUID(swap.before),
        after_id=UUID(swap.after),
        label=swap.label,
        position=position,
        side_changes=list(swap.side_changes),
        verdict_shown_for=None if shown is None else [UUID(sitting) for sitting in shown],
        costs=cost_rows(swap.costs),
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
    row.runs_a_sitting = plan.runs_a_sitting
    row.headline_id = UUID(plan.headline) if plan.headline else None
    row.pairs = [[pair.before_run, pair.after_run, pair.reason] for pair in plan.pairs]
    row.borrow_spread_from = [UUID(build) for build in plan.borrow_spread_from]
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
    return row
