"""Run-file members into core values and back."""

from collections.abc import Iterator, Mapping
from datetime import datetime
from operator import attrgetter

from lynxbill.core.heat.trace import Samples, WholeTrace
from lynxbill.core.record.build import Build, Candidate, Part
from lynxbill.core.record.frame import Case, Machine
from lynxbill.core.record.ids import BuildId, Plain, RunId, SittingId, WorkloadId
from lynxbill.core.record.plan import Recheck
from lynxbill.core.record.run import READING, RUN_MEMBERS, LateExclusion, Reading, Run, SetAside, Sitting, Was
from lynxbill.core.record.workload import Workload
from lynxbill.core.terms.measure import Measure, MeasureId
from lynxbill.exchange.evidence_schema import (
    ChannelFile,
    LateExclusionFile,
    MarkFile,
    ReadingContent,
    ReadingFile,
    RunFileRun,
    SetAsideFile,
    SittingContent,
    SittingFile,
    TraceFile,
    WasFile,
)
from lynxbill.exchange.frame_schema import (
    BuildFile,
    CandidateFile,
    MachineFile,
    MeasureFile,
    RecheckFile,
    WorkloadFile,
)
from lynxbill.exchange.history import history_sum
from lynxbill.exchange.run_schema import RunFile
from lynxbill.exchange.swap_members import from_plan, from_swap, to_plan, to_swap

_DATED = ("started_at", "closed_at")


def to_case(file: RunFile, runs: tuple[Run, ...]) -> Case:
    """Bring a whole run file into a case; its runs are read apart."""
    builds = {build.id: _build(build) for build in file.builds}
    used = {run.sitting_id for run in runs}
    measured = {BuildId(sitting.build) for sitting in file.sittings if sitting.id in used}
    closed = _closings(file, runs)
    return Case(
        machine=Machine(**file.machine.model_dump()),
        measures=tuple(to_measure(measure) for measure in file.measures),
        builds=tuple(builds.values()),
        sittings=tuple(_sitting(sitting, closed.get(sitting.id)) for sitting in file.sittings),
        runs=runs,
        swaps=tuple(to_swap(swap, number, builds, measured) for number, swap in enumerate(file.swaps, start=1)),
        open_plan=to_plan(file.plan) if file.plan else None,
        workloads=_workloads(file, runs),
        candidates=tuple(to_candidate(candidate) for candidate in file.candidates),
        rechecks=tuple(
            Recheck(r.id, BuildId(r.build), r.due_on, to_plan(r.plan), r.note, r.done) for r in file.rechecks
        ),
    )


def _closings(file: RunFile, runs: tuple[Run, ...]) -> dict[str, datetime]:
    """When a sitting was closed that does not say so: when the next one began, else at its last run."""
    begun = sorted(sitting.started_at for sitting in file.sittings)
    last: dict[str, datetime] = {}
    found: dict[str, datetime] = {}
    for run in runs:
        ended = max((at for at in (run.started_at, run.written_at) if at is not None), default=None)
        if ended is not None:
            last[run.sitting_id] = max(last.get(run.sitting_id, ended), ended)
    used = {run.sitting_id for run in runs}
    for sitting in file.sittings:
        following = next((at for at in begun if at > sitting.started_at), None)
        if following is not None:
            found[sitting.id] = following
        elif sitting.id in used:
            found[sitting.id] = last.get(sitting.id, sitting.started_at)
    return found


def _sitting(sitting: SittingFile, closed_at: datetime | None) -> Sitting:
    fields = {name: getattr(sitting, name) for name in SittingContent.model_fields}
    aside = sitting.set_aside
    return Sitting(
        id=SittingId(sitting.id),
        build_id=BuildId(sitting.build),
        **(fields | {"conditions": dict(sitting.conditions)}),
        closed_at=sitting.closed_at if "closed_at" in sitting.model_fields_set else closed_at,
        set_aside=SetAside(aside.reason, aside.at, aside.over) if aside else None,
        attempt=sitting.attempt,
        was=tuple(_was(entry) for entry in sitting.was),
    )


def _was(entry: WasFile) -> Was:
    value = entry.value
    if isinstance(value, ReadingFile):
        return Was(entry.member, to_reading(value), entry.at, entry.by, entry.reason)
    if entry.member.startswith(READING) and isinstance(value, (int, float)):
        return Was(entry.member, Reading(value, value), entry.at, entry.by, entry.reason)
    if entry.member in _DATED and isinstance(value, str):
        return Was(entry.member, datetime.fromisoformat(value), entry.at, entry.by, entry.reason)
    return Was(entry.member, value, entry.at, entry.by, entry.reason)


def from_was(entry: Was) -> WasFile:
    """Write what stood in a member in the file's form."""
    return WasFile(member=entry.member, value=from_value(entry.value), at=entry.at, by=entry.by, reason=entry.reason)


def from_value(value: "Plain | Reading | datetime") -> "Plain | ReadingFile":
    """Write what stands, or stood, in a member in the file's form."""
    if isinstance(value, Reading):
        return from_reading(value)
    return value.isoformat() if isinstance(value, datetime) else value


def _was_of_readings(run: RunFileRun) -> Iterator[Was]:
    for measure, reading in run.readings.items():
        for old in reading.was if isinstance(reading, ReadingFile) else ():
            low = old.value if old.value is not None else old.low
            high = old.value if old.value is not None else old.high
            value = Reading(low or 0.0, high or 0.0) if low is not None or high is not None else None
            yield Was(READING + measure, value, old.at, old.by, old.reason)


def _workloads(file: RunFile, runs: tuple[Run, ...]) -> tuple[Workload, ...]:
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
            Workload(
                id=WorkloadId(f"workload {name}"),
                name=name,
                workload_version=run.workload_version if run else "1",
                parameters=dict(run.parameters) if run else {},
            )
        )
    return tuple(described)


def to_workload(workload: WorkloadFile) -> Workload:
    """Bring a workload as written into the core's."""
    return Workload(**(workload.model_dump() | {"loads": tuple(workload.loads)}))


def to_candidate(candidate: CandidateFile) -> Candidate:
    """Bring a candidate as written into the core's."""
    return Candidate(**(candidate.model_dump() | {"ticked": tuple(candidate.ticked)}))


def to_measure(measure: MeasureFile) -> Measure:
    """Bring a measure as written into the core's."""
    return Measure(**(measure.model_dump() | {"levels": tuple(measure.levels)}))


def _build(build: BuildFile) -> Build:
    parts = tuple(Part(p.id, p.role, p.label, dict(p.rated)) for p in build.parts)
    letter = build.letter or build.id[:3]
    read = {role: tuple(texts) for role, texts in build.read.items()}
    return Build(BuildId(build.id), letter, build.label, parts, dict(build.settings), build.wear, read)


def to_run(run: RunFileRun) -> Run:
    """Bring a run as written into the core's."""
    late = run.excluded_late
    return Run(
        id=RunId(run.id),
        sitting_id=SittingId(run.sitting),
        workload=run.workload,
        readings={MeasureId(key): to_reading(value) for key, value in run.readings.items()},
        excluded_late=LateExclusion(late.reason, late.at) if late else None,
        was=tuple(sorted([*map(_was, run.was), *_was_of_readings(run)], key=attrgetter("at"))),
        **{name: getattr(run, name) for name in RUN_MEMBERS},
    )


def to_trace(trace: TraceFile) -> WholeTrace:
    """Bring a trace as written into the core's."""
    return WholeTrace(
        started_at=trace.started_at,
        channels=tuple(
            Samples(c.role, c.of, c.unit, c.sensor, tuple(c.at), tuple(c.values), c.stands_in) for c in trace.channels
        ),
        marks=tuple((mark.at, mark.phase) for mark in trace.marks),
        missing=dict(trace.missing),
        source=trace.source,
    )


def from_trace(trace: WholeTrace) -> TraceFile:
    """Write a trace in the file's form."""
    return TraceFile(
        started_at=trace.started_at,
        channels=[ChannelFile.model_validate(channel) for channel in trace.channels],
        marks=[MarkFile(at=at, phase=phase) for at, phase in trace.marks],
        missing=dict(trace.missing),
        source=trace.source,
    )


def to_reading(reading: float | ReadingContent) -> Reading:
    """Bring both written forms of a reading into the core's one."""
    if not isinstance(reading, ReadingContent):
        return Reading(reading, reading)
    low = reading.value if reading.value is not None else reading.low
    high = reading.value if reading.value is not None else reading.high
    marks = reading.about, reading.source, reading.statistic, reading.confirmed
    return Reading(low or 0.0, high or 0.0, *marks)


def from_reading(reading: Reading) -> float | ReadingFile:
    """Write a reading in its shortest form: a bare number unless it carries a mark."""
    exact = reading.low == reading.high
    if reading == Reading(reading.low, reading.low):
        return reading.low
    return ReadingFile(
        value=reading.low if exact else None,
        low=None if exact else reading.low,
        high=None if exact else reading.high,
        about=reading.about,
        source=reading.source,
        statistic=reading.statistic,
        confirmed=reading.confirmed,
    )


def from_candidate(candidate: Candidate) -> CandidateFile:
    """Write a candidate in the file's form."""
    fields = {name: getattr(candidate, name) for name in CandidateFile.model_fields}
    return CandidateFile.model_validate(fields | {"rated": dict(candidate.rated)})


def from_case(case: Case, traces: Mapping[RunId, WholeTrace]) -> RunFile:
    """Write a whole case in the file's form, with the traces of its runs."""
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
                **(
                    {name: getattr(s, name) for name in SittingContent.model_fields}
                    | {"conditions": dict(s.conditions)}
                ),
                closed_at=s.closed_at,
                set_aside=SetAsideFile.model_validate(s.set_aside) if s.set_aside else None,
                attempt=s.attempt,
                was=[from_was(entry) for entry in s.was],
            )
            for s in case.sittings
        ],
        runs=[_from_run(run, traces.get(run.id)) for run in case.runs],
        swaps=[from_swap(swap) for swap in case.swaps],
        plan=from_plan(case.open_plan) if case.open_plan else None,
        candidates=[from_candidate(candidate) for candidate in case.candidates],
        rechecks=[
            RecheckFile(id=r.id, build=r.build, due_on=r.due_on, plan=from_plan(r.plan), note=r.note, done=r.done)
            for r in case.rechecks
        ],
        history=history_sum(case),
    )


def _from_run(run: Run, trace: WholeTrace | None) -> RunFileRun:
    late = run.excluded_late
    return RunFileRun(
        id=run.id,
        sitting=run.sitting_id,
        workload=run.workload,
        readings={key: from_reading(value) for key, value in run.readings.items()},
        excluded_late=LateExclusionFile(reason=late.reason, at=late.at) if late else None,
        was=[from_was(entry) for entry in run.was],
        trace=from_trace(trace) if trace is not None else None,
        **{name: getattr(run, name) for name in RUN_MEMBERS},
    )
