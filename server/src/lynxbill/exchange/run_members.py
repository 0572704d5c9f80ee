"""Run-file members into core values and back."""

from decimal import Decimal

from lynxbill.core import case as core
from lynxbill.core.measure import Measure
from lynxbill.core.money import CostLine
from lynxbill.exchange.run_schema import (
    BuildFile,
    CostFile,
    FixedPairFile,
    LateExclusionFile,
    MachineFile,
    MeasureFile,
    PlanFile,
    PlannedMeasureFile,
    ReadingFile,
    RunFile,
    RunFileRun,
    SittingFile,
    SwapFile,
)


def to_case(file: RunFile) -> core.Case:
    """Bring a whole run file into a case."""
    machine = file.machine.model_dump() | {
        "labour_rate": None if file.machine.labour_rate is None else str(file.machine.labour_rate)
    }
    return core.Case(
        machine=core.Machine(**machine),
        measures=tuple(to_measure(measure) for measure in file.measures),
        builds=tuple(_build(build) for build in file.builds),
        sittings=tuple(
            core.Sitting(s.id, s.build, s.purpose, s.started_at, s.ambient_c, dict(s.conditions))
            for s in file.sittings
        ),
        runs=tuple(_run(run) for run in file.runs),
        swaps=tuple(_swap(swap, number) for number, swap in enumerate(file.swaps, start=1)),
        open_plan=to_plan(file.plan) if file.plan else None,
    )


def to_measure(measure: MeasureFile) -> Measure:
    """Bring a measure as written into the core's."""
    return Measure(**(measure.model_dump() | {"levels": tuple(measure.levels)}))


def _build(build: BuildFile) -> core.Build:
    parts = tuple(core.Part(p.id, p.role, p.label, dict(p.rated)) for p in build.parts)
    return core.Build(build.id, build.letter or build.id[:3], build.label, parts, dict(build.settings))


def _run(run: RunFileRun) -> core.Run:
    late = run.excluded_late
    return core.Run(
        id=run.id,
        sitting_id=run.sitting,
        workload=run.workload,
        workload_version=run.workload_version,
        position=run.position,
        state=run.state,
        readings={key: to_reading(value) for key, value in run.readings.items()},
        parameters=dict(run.parameters),
        reason=run.reason,
        warm_up=run.warm_up,
        target=run.target,
        pair_label=run.pair_label,
        started_at=run.started_at,
        duration_s=run.duration_s,
        soak_s=run.soak_s,
        excluded_late=core.LateExclusion(late.reason, late.at) if late else None,
    )


def to_reading(reading: float | ReadingFile) -> core.Reading:
    """Bring both written forms of a reading into the core's one."""
    if not isinstance(reading, ReadingFile):
        return core.Reading(reading, reading)
    low = reading.value if reading.value is not None else reading.low
    high = reading.value if reading.value is not None else reading.high
    return core.Reading(low or 0.0, high or 0.0, reading.about, reading.source, reading.statistic)


def from_reading(reading: core.Reading) -> float | ReadingFile:
    """Write a reading in its shortest form: a bare number unless it carries a mark."""
    exact = reading.low == reading.high
    if exact and not reading.about and reading.source is None and reading.statistic is None:
        return reading.low
    return ReadingFile(
        value=reading.low if exact else None,
        low=None if exact else reading.low,
        high=None if exact else reading.high,
        about=reading.about,
        source=reading.source,
        statistic=reading.statistic,
    )


def to_cost(line: CostFile) -> CostLine:
    """Bring a cost line as written into the core's."""
    return CostLine(**line.model_dump())


def _swap(swap: SwapFile, number: int) -> core.Swap:
    shown = swap.verdict_shown_for
    return core.Swap(
        id=swap.id or f"swap-{number}",
        before=swap.before,
        after=swap.after,
        label=swap.label,
        plan=to_plan(swap.plan),
        side_changes=tuple(swap.side_changes),
        verdict_shown_for=None if shown is None else tuple(shown),
        costs=tuple(to_cost(line) for line in swap.costs),
    )


def to_plan(plan: PlanFile) -> core.Plan:
    """Bring a plan as written into the core's."""
    return core.Plan(
        design=plan.design,
        pair_by=plan.pair_by,
        sittings_a_side=plan.sittings_a_side,
        runs_a_sitting=plan.runs_a_sitting,
        headline=plan.headline,
        measures={key: core.PlannedMeasure(**value.model_dump()) for key, value in plan.measures.items()},
        pairs=tuple(core.FixedPair(pair.runs[0], pair.runs[1], pair.reason) for pair in plan.pairs),
        borrow_spread_from=tuple(plan.borrow_spread_from),
    )


def from_plan(plan: core.Plan) -> PlanFile:
    """Write a plan in the file's form."""
    return PlanFile(
        design=plan.design,
        pair_by=plan.pair_by,
        sittings_a_side=plan.sittings_a_side,
        runs_a_sitting=plan.runs_a_sitting,
        headline=plan.headline,
        measures={key: PlannedMeasureFile.model_validate(value) for key, value in plan.measures.items()},
        pairs=[FixedPairFile(runs=[pair.before_run, pair.after_run], reason=pair.reason) for pair in plan.pairs],
        borrow_spread_from=list(plan.borrow_spread_from),
    )


def from_case(case: core.Case) -> RunFile:
    """Write a whole case in the file's form."""
    return RunFile(
        format="lynxbill-runs",
        version=1,
        machine=MachineFile(
            id=case.machine.id,
            name=case.machine.name,
            currency=case.machine.currency,
            labour_rate=None if case.machine.labour_rate is None else Decimal(case.machine.labour_rate),
            owner=case.machine.owner,
            question=case.machine.question,
            decimal_mark=case.machine.decimal_mark,
            time_zone=case.machine.time_zone,
        ),
        measures=[MeasureFile.model_validate(measure) for measure in case.measures],
        builds=[BuildFile.model_validate(build) for build in case.builds],
        sittings=[
            SittingFile(
                id=s.id,
                build=s.build_id,
                purpose=s.purpose,
                started_at=s.started_at,
                ambient_c=s.ambient_c,
                conditions=dict(s.conditions),
            )
            for s in case.sittings
        ],
        runs=[_from_run(run) for run in case.runs],
        swaps=[_from_swap(swap) for swap in case.swaps],
        plan=from_plan(case.open_plan) if case.open_plan else None,
    )


def _from_run(run: core.Run) -> RunFileRun:
    late = run.excluded_late
    return RunFileRun(
        id=run.id,
        sitting=run.sitting_id,
        workload=run.workload,
        workload_version=run.workload_version,
        parameters=dict(run.parameters),
        position=run.position,
        state=run.state,
        reason=run.reason,
        readings={key: from_reading(value) for key, value in run.readings.items()},
        warm_up=run.warm_up,
        target=run.target,
        pair_label=run.pair_label,
        started_at=run.started_at,
        duration_s=run.duration_s,
        soak_s=run.soak_s,
        excluded_late=LateExclusionFile(reason=late.reason, at=late.at) if late else None,
    )


def _from_swap(swap: core.Swap) -> SwapFile:
    return SwapFile(
        id=swap.id,
        **{"from": swap.before, "to": swap.after},
        label=swap.label,
        side_changes=list(swap.side_changes),
        plan=from_plan(swap.plan),
        verdict_shown_for=None if swap.verdict_shown_for is None else list(swap.verdict_shown_for),
        costs=[CostFile.model_validate(line) for line in swap.costs],
    )
