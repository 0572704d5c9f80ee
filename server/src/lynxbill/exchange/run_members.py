"""Run-file members into core values and back."""

from collections.abc import Mapping

from lynxbill.core import case as core
from lynxbill.core.case import BuildId, RunId, SittingId, SwapId, WorkloadId
from lynxbill.core.difference import find_differences
from lynxbill.core.measure import Measure, MeasureId
from lynxbill.core.money import CostLine
from lynxbill.exchange.run_schema import (
    BenchNoteFile,
    BuildFile,
    CandidateFile,
    CostFile,
    ExplanationFile,
    FixedPairFile,
    LateExclusionFile,
    MachineFile,
    MarginEditFile,
    MeasureFile,
    PlanFile,
    PlannedMeasureFile,
    ReadingFile,
    RecheckFile,
    RecognitionFile,
    RunFile,
    RunFileRun,
    SittingFile,
    StartFile,
    StepFile,
    SwapFile,
    WorkloadFile,
)


def to_case(file: RunFile, runs: tuple[core.Run, ...]) -> core.Case:
    """Bring a whole run file into a case; its runs are read apart."""
    builds = {build.id: _build(build) for build in file.builds}
    return core.Case(
        machine=core.Machine(**file.machine.model_dump()),
        measures=tuple(to_measure(measure) for measure in file.measures),
        builds=tuple(builds.values()),
        sittings=tuple(
            core.Sitting(SittingId(s.id), BuildId(s.build), s.purpose, s.started_at, s.ambient_c, dict(s.conditions))
            for s in file.sittings
        ),
        runs=runs,
        swaps=tuple(_swap(swap, number, builds) for number, swap in enumerate(file.swaps, start=1)),
        open_plan=to_plan(file.plan) if file.plan else None,
        workloads=_workloads(file, runs),
        candidates=tuple(to_candidate(candidate) for candidate in file.candidates),
        rechecks=tuple(
            core.Recheck(r.id, BuildId(r.build), r.due_on, to_plan(r.plan), r.note, r.done) for r in file.rechecks
        ),
    )


def _workloads(file: RunFile, runs: tuple[core.Run, ...]) -> tuple[core.Workload, ...]:
    """The workloads that the file describes, then those that only its measures or runs name."""
    described = [to_workload(workload) for workload in file.workloads]
    known = {workload.name for workload in described}
    newest = {run.workload: run for run in runs}
    named = dict.fromkeys([measure.workload for measure in file.measures] + [run.workload for run in runs])
    for name in named:
        if name in known:
            continue
        run = newest.get(name)
        described.append(
            core.Workload(
                id=WorkloadId(f"workload {name}"),
                name=name,
                workload_version=run.workload_version if run else "1",
                parameters=dict(run.parameters) if run else {},
            )
        )
    return tuple(described)


def to_workload(workload: WorkloadFile) -> core.Workload:
    """Bring a workload as written into the core's."""
    return core.Workload(**(workload.model_dump() | {"loads": tuple(workload.loads)}))


def to_candidate(candidate: CandidateFile) -> core.Candidate:
    """Bring a candidate as written into the core's."""
    return core.Candidate(**candidate.model_dump())


def to_measure(measure: MeasureFile) -> Measure:
    """Bring a measure as written into the core's."""
    return Measure(**(measure.model_dump() | {"levels": tuple(measure.levels)}))


def _build(build: BuildFile) -> core.Build:
    parts = tuple(core.Part(p.id, p.role, p.label, dict(p.rated)) for p in build.parts)
    letter = build.letter or build.id[:3]
    return core.Build(BuildId(build.id), letter, build.label, parts, dict(build.settings), build.wear)


def to_run(run: RunFileRun) -> core.Run:
    """Bring a run as written into the core's."""
    late = run.excluded_late
    return core.Run(
        id=RunId(run.id),
        sitting_id=SittingId(run.sitting),
        workload=run.workload,
        readings={MeasureId(key): to_reading(value) for key, value in run.readings.items()},
        excluded_late=core.LateExclusion(late.reason, late.at) if late else None,
        **{name: getattr(run, name) for name in core.RUN_MEMBERS},
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


def _shown(swap: SwapFile) -> dict[MeasureId, tuple[SittingId, ...]]:
    shown = swap.verdict_shown_for or {}
    if isinstance(shown, list):
        shown = dict.fromkeys((key for key, m in swap.plan.measures.items() if m.role != "watch"), shown)
    return {MeasureId(measure): tuple(map(SittingId, sittings)) for measure, sittings in shown.items()}


def _from_shown(swap: core.Swap) -> list[str] | dict[str, list[str]] | None:
    """One list where every claim and control was shown for the same sittings."""
    shown = swap.verdict_shown_for
    judged = {key for key, measure in swap.plan.measures.items() if measure.role != "watch"}
    if shown and shown.keys() == judged and len(set(shown.values())) == 1:
        return list(next(iter(shown.values())))
    return {measure: list(sittings) for measure, sittings in shown.items()} or None


def _swap(swap: SwapFile, number: int, builds: Mapping[str, core.Build]) -> core.Swap:
    declares = swap.declares
    if declares is None:
        declares = [d.key for d in find_differences(builds[swap.before], builds[swap.after])]
    return core.Swap(
        id=SwapId(swap.id or f"swap-{number}"),
        before=BuildId(swap.before),
        after=BuildId(swap.after),
        label=swap.label,
        plan=to_plan(swap.plan),
        side_changes=tuple(swap.side_changes),
        verdict_shown_for=_shown(swap),
        costs=tuple(to_cost(line) for line in swap.costs),
        state=swap.state,
        declares=tuple(declares),
        opened_at=swap.opened_at,
        closed_at=swap.closed_at,
        gate_reason=swap.gate_reason,
        gate_missing=tuple(swap.gate_missing),
        recognition_skipped=swap.recognition_skipped,
        steps=tuple(core.Step(**step.model_dump()) for step in swap.steps),
        recognitions=tuple(core.Recognition(**line.model_dump()) for line in swap.recognitions),
        starts=tuple(core.Start(**start.model_dump()) for start in swap.starts),
        notes=tuple(core.BenchNote(**note.model_dump()) for note in swap.notes),
        explanations=tuple(core.Explanation(**explanation.model_dump()) for explanation in swap.explanations),
        margin_edits=tuple(core.MarginEdit(**edit.model_dump()) for edit in swap.margin_edits),
    )


def to_plan(plan: PlanFile) -> core.Plan:
    """Bring a plan as written into the core's."""
    return core.Plan(
        design=plan.design,
        pair_by=plan.pair_by,
        sittings_a_side=plan.sittings_a_side,
        runs_a_sitting=plan.runs_a_sitting,
        headline=MeasureId(plan.headline) if plan.headline else None,
        measures={MeasureId(key): core.PlannedMeasure(**value.model_dump()) for key, value in plan.measures.items()},
        pairs=tuple(core.FixedPair(RunId(pair.runs[0]), RunId(pair.runs[1]), pair.reason) for pair in plan.pairs),
        borrow_spread_from=tuple(map(BuildId, plan.borrow_spread_from)),
        change=plan.change,
        order=plan.order,
        conditions=dict(plan.conditions),
        warm_ups=plan.warm_ups,
        rest_min=plan.rest_min,
        soak_min=plan.soak_min,
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
        change=plan.change,
        order=plan.order,
        conditions=dict(plan.conditions),
        warm_ups=plan.warm_ups,
        rest_min=plan.rest_min,
        soak_min=plan.soak_min,
    )


def from_candidate(candidate: core.Candidate) -> CandidateFile:
    """Write a candidate in the file's form."""
    fields = {name: getattr(candidate, name) for name in CandidateFile.model_fields}
    return CandidateFile.model_validate(fields | {"rated": dict(candidate.rated)})


def from_case(case: core.Case) -> RunFile:
    """Write a whole case in the file's form."""
    return RunFile(
        format="lynxbill-runs",
        version=1,
        machine=MachineFile.model_validate(case.machine),
        workloads=[WorkloadFile.model_validate(workload) for workload in case.workloads],
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
        candidates=[from_candidate(candidate) for candidate in case.candidates],
        rechecks=[
            RecheckFile(id=r.id, build=r.build, due_on=r.due_on, plan=from_plan(r.plan), note=r.note, done=r.done)
            for r in case.rechecks
        ],
    )


def _from_run(run: core.Run) -> RunFileRun:
    late = run.excluded_late
    return RunFileRun(
        id=run.id,
        sitting=run.sitting_id,
        workload=run.workload,
        readings={key: from_reading(value) for key, value in run.readings.items()},
        excluded_late=LateExclusionFile(reason=late.reason, at=late.at) if late else None,
        **{name: getattr(run, name) for name in core.RUN_MEMBERS},
    )


def _from_swap(swap: core.Swap) -> SwapFile:
    return SwapFile(
        id=swap.id,
        **{"from": swap.before, "to": swap.after},
        label=swap.label,
        side_changes=list(swap.side_changes),
        plan=from_plan(swap.plan),
        verdict_shown_for=_from_shown(swap),
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
    )
