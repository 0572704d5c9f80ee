"""What travels over HTTP. Figures go out in base units at full precision; rounding is the screen's."""

from datetime import date
from decimal import Decimal
from typing import Annotated, Literal
from uuid import UUID
from zoneinfo import available_timezones

from pydantic import Field, field_validator

from lynxbill.core import case as core
from lynxbill.core.measure import Better, Combined, Kind, Measure, Scale
from lynxbill.core.money import CostKind, CostLine
from lynxbill.core.templates import Template
from lynxbill.exchange.fields import (
    Currency,
    Finite,
    Instant,
    Line,
    Note,
    OptionalLine,
    Position,
    PositiveMoney,
    Settings,
    Strict,
)
from lynxbill.exchange.run_members import to_plan, to_reading
from lynxbill.exchange.run_schema import (
    BenchNoteFile,
    CandidateFile,
    CostFile,
    MarginEditFile,
    MeasureFile,
    Minutes,
    PlanFile,
    ReadingFile,
    RecognitionFile,
    StartFile,
    StepFile,
)
from lynxbill.exchange.verdict_file import ComparisonOut
from lynxbill.services.casework import Stage

Version = Annotated[int | None, Field(ge=1, description="The version that was seen; null for something new")]


class MachineIn(Strict):
    name: Line
    owner: OptionalLine = ""
    question: Note = ""
    settles: Note = ""
    asked_by: OptionalLine = ""
    use: OptionalLine = ""
    limits: Settings = {}
    currency: Currency
    labour_rate: PositiveMoney | None = None
    decimal_mark: Literal[".", ","] = "."
    time_zone: str = "UTC"
    version: Version = None

    @field_validator("time_zone")
    @classmethod
    def _known_zone(cls, zone: str) -> str:
        if zone not in available_timezones():
            raise ValueError(f"“{zone}” is not a time zone; write one like “Europe/Vienna” or “UTC”")
        return zone

    def to_core(self, machine_id: UUID) -> core.Machine:
        fields = self.model_dump(exclude={"version", "labour_rate"})
        rate = None if self.labour_rate is None else str(self.labour_rate)
        return core.Machine(id=str(machine_id), labour_rate=rate, **fields)


class PartIn(Strict):
    id: UUID
    role: core.PartRole
    label: Line
    rated: Settings = {}


class BuildContentIn(Strict):
    label: Line
    parts: Annotated[list[PartIn], Field(max_length=60)] = []
    settings: Settings = {}
    wear: core.Wear | None = None

    def to_core(self, build_id: UUID) -> core.Build:
        parts = tuple(core.Part(str(part.id), part.role, part.label, dict(part.rated)) for part in self.parts)
        return core.Build(str(build_id), "", self.label, parts, dict(self.settings), self.wear)


class BuildIn(BuildContentIn):
    version: Version = None


class MeasureIn(Strict):
    id: UUID
    name: Line
    unit: str
    scale: Scale
    kind: Kind
    better: Better
    step: Annotated[Finite, Field(gt=0)] | None = None
    levels: list[Line] = []
    part_of: UUID | None = None
    combined_by: Combined | None = None

    @field_validator("unit")
    @classmethod
    def _known_unit(cls, code: str) -> str:
        return MeasureFile.known_unit(code)

    def to_core(self, workload: str) -> Measure:
        fields = self.model_dump(exclude={"id", "levels", "part_of"})
        whole = str(self.part_of) if self.part_of else None
        return Measure(id=str(self.id), workload=workload, levels=tuple(self.levels), part_of=whole, **fields)


class WorkloadIn(Strict):
    name: Line
    workload_version: Line = "1"
    parameters: Settings = {}
    loads: Annotated[list[core.PartRole], Field(max_length=20)] = []
    target: Line | None = None
    card: Note = ""
    minutes_a_run: Annotated[Finite, Field(gt=0, le=10_000)] | None = None
    measures: Annotated[list[MeasureIn], Field(min_length=1, max_length=60)]
    version: Version = None

    def to_core(self, workload_id: UUID) -> core.Workload:
        fields = self.model_dump(exclude={"measures", "version", "loads"})
        return core.Workload(id=str(workload_id), loads=tuple(self.loads), **fields)


class PlanIn(PlanFile):
    version: Version = None

    def to_core(self) -> core.Plan:
        return to_plan(self)


class SwapPlanIn(PlanIn):
    """`reason` says why a margin or a hope changes after the swap was planned."""

    reason: OptionalLine = ""


class UseTemplateIn(Strict):
    template: Line
    version: Version = None


class TemplateIn(Strict):
    name: Line
    change: core.Change
    advice: Note = ""
    sittings_a_side: Annotated[int, Field(ge=1, le=100)] = 3
    runs_a_sitting: Annotated[int, Field(ge=1, le=10_000)] = 5
    warm_ups: Annotated[int, Field(ge=0, le=100)] = 1
    rest_min: Minutes = 0.0
    soak_min: Minutes = 0.0
    order: core.Order = "before_then_after"
    conditions: Settings = {}
    steps: Annotated[list[tuple[core.Stage, Line]], Field(max_length=100)] = []
    costs: Annotated[list[CostKind], Field(max_length=20)] = []
    recheck_months: Annotated[int, Field(ge=1, le=120)] | None = None
    version: Version = None

    def to_core(self, template_id: UUID) -> Template:
        fields = self.model_dump(exclude={"version", "steps", "costs"})
        return Template(id=str(template_id), steps=tuple(self.steps), costs=tuple(self.costs), **fields)


class CandidateIn(Strict):
    role: core.PartRole
    label: Line
    rated: Settings = {}
    price: PositiveMoney | None = None
    basis: core.Basis = "new"
    prerequisites: Note = ""
    expected_gain: Finite | None = None
    expected_from: OptionalLine = ""
    fit_said: core.FitWord | None = None
    fit_source: OptionalLine = ""
    swap: UUID | None = None
    worked: OptionalLine = ""
    version: Version = None

    def to_core(self, candidate_id: UUID) -> core.Candidate:
        fields = self.model_dump(exclude={"version", "price", "swap"})
        price = None if self.price is None else str(self.price)
        swap = str(self.swap) if self.swap else None
        return core.Candidate(id=str(candidate_id), price=price, swap=swap, **fields)


class RecheckIn(Strict):
    build: UUID
    due_on: date
    note: OptionalLine = ""
    done: bool = False
    version: Version = None

    def to_core(self, recheck_id: UUID) -> core.Recheck:
        return core.Recheck(str(recheck_id), str(self.build), self.due_on, core.Plan(), self.note, self.done)


class OpenCaseIn(Strict):
    """`reason`: why the old part leaves although the baseline lacks something."""

    reason: OptionalLine = ""
    version: Version = None


class CloseCaseIn(Strict):
    version: Version = None


class StepIn(Strict):
    stage: core.Stage
    text: Line
    done: bool = False
    version: Version = None

    def to_core(self, step_id: UUID) -> core.Step:
        return core.Step(str(step_id), self.stage, self.text)


class RecognitionIn(Strict):
    what: Line
    expected: Line
    seen: OptionalLine = ""
    result: core.Seen | None = None
    remark: OptionalLine = ""
    version: Version = None

    def to_core(self, line_id: UUID) -> core.Recognition:
        return core.Recognition(id=str(line_id), **self.model_dump(exclude={"version"}))


class StartIn(Strict):
    at: Instant
    booted: bool
    note: OptionalLine = ""
    rework_min: Minutes = 0.0
    version: Version = None

    def to_core(self, start_id: UUID) -> core.Start:
        return core.Start(id=str(start_id), **self.model_dump(exclude={"version"}))


class BenchNoteIn(Strict):
    at: Instant
    text: Note = ""
    version: Version = None

    def to_core(self, note_id: UUID) -> core.BenchNote:
        return core.BenchNote(str(note_id), self.at, self.text)


class StageIn(Strict):
    """What of a bundle is done first; `costs` are the numbers, from 0, of the cost lines that belong to it."""

    swap: UUID
    build: UUID
    label: Line
    build_label: Line
    differences: Annotated[list[Line], Field(max_length=100)] = []
    side_changes: Annotated[list[Line], Field(max_length=60)] = []
    costs: Annotated[list[int], Field(max_length=200)] = []
    version: Version = None

    def to_core(self) -> Stage:
        return Stage(
            str(self.swap),
            str(self.build),
            self.label,
            self.build_label,
            tuple(self.differences),
            tuple(self.side_changes),
            tuple(self.costs),
        )


class SwapIn(Strict):
    before: UUID
    after: UUID
    label: Line
    side_changes: Annotated[list[Line], Field(max_length=60)] = []
    costs: Annotated[list[CostFile], Field(max_length=200)] = []
    after_build: BuildContentIn | None = None
    declares: Annotated[list[Line], Field(max_length=100)] = []
    template: Line | None = None
    version: Version = None

    def to_core(self, swap_id: UUID) -> core.Swap:
        return core.Swap(
            id=str(swap_id),
            before=str(self.before),
            after=str(self.after),
            label=self.label,
            plan=core.Plan(),
            side_changes=tuple(self.side_changes),
            costs=tuple(CostLine(**line.model_dump()) for line in self.costs),
            declares=tuple(self.declares),
        )


class SittingIn(Strict):
    build: UUID
    purpose: core.Purpose = "plan"
    started_at: Instant
    ambient_c: Annotated[Finite, Field(ge=-60, le=80)] | None = None
    conditions: Settings = {}
    version: Version = None

    def to_core(self, sitting_id: UUID) -> core.Sitting:
        return core.Sitting(
            str(sitting_id), str(self.build), self.purpose, self.started_at, self.ambient_c, dict(self.conditions)
        )


ReadingIn = Finite | Annotated[str, Field(max_length=200)] | ReadingFile


class RunIn(Strict):
    """A reading is a number in the measure's unit, or text as typed ("1:52.4", "104 MB/s")."""

    sitting: UUID
    workload: UUID
    position: Position
    state: core.RunState = "complete"
    reason: Annotated[OptionalLine | None, Field()] = None
    readings: Annotated[dict[UUID, ReadingIn], Field(max_length=200)] = {}
    warm_up: bool = False
    workload_version: Line | None = None
    parameters: Settings = {}
    target: Line | None = None
    started_at: Instant | None = None
    duration_s: Annotated[Finite, Field(ge=0)] | None = None
    version: Version = None

    def to_core(self, run_id: UUID) -> core.Run:
        return core.Run(
            id=str(run_id),
            sitting_id=str(self.sitting),
            workload="",
            workload_version=self.workload_version or "",
            position=self.position,
            state=self.state,
            readings={},
            parameters=dict(self.parameters),
            reason=self.reason or None,
            warm_up=self.warm_up,
            target=self.target,
            started_at=self.started_at,
            duration_s=self.duration_s,
        )

    def written(self) -> dict[str, core.Reading | str]:
        return {
            str(measure): entry if isinstance(entry, str) else to_reading(entry)
            for measure, entry in self.readings.items()
        }


class MachineOut(Strict):
    id: UUID
    name: str
    owner: str
    question: str
    settles: str
    asked_by: str
    use: str
    limits: dict[str, core.Plain]
    currency: str
    labour_rate: Decimal | None
    decimal_mark: Literal[".", ","]
    time_zone: str
    version: int


class PartOut(Strict):
    id: UUID
    role: core.PartRole
    label: str
    rated: dict[str, core.Plain]


class BuildOut(Strict):
    id: UUID
    letter: str
    label: str
    parts: list[PartOut]
    settings: dict[str, core.Plain]
    wear: core.Wear | None
    sealed: bool
    version: int


class MeasureOut(Strict):
    id: UUID
    name: str
    workload: str
    unit: str
    unit_display: str
    scale: Scale
    kind: Kind
    better: Better
    step: float | None
    levels: list[str]
    part_of: UUID | None
    combined_by: Combined | None


class WorkloadOut(Strict):
    """`frozen`: it has runs, so other parameters or another target are another version."""

    id: UUID
    name: str
    workload_version: str
    parameters: dict[str, core.Plain]
    loads: list[core.PartRole]
    target: str | None
    card: str
    minutes_a_run: float | None
    frozen: bool
    version: int


class SittingOut(Strict):
    id: UUID
    build: UUID
    purpose: core.Purpose
    started_at: Instant
    ambient_c: float | None
    conditions: dict[str, core.Plain]
    version: int


class ReadingOut(Strict):
    low: float
    high: float
    about: bool
    source: core.ReadingSource | None
    statistic: core.Statistic | None


class RunOut(Strict):
    id: UUID
    sitting: UUID
    workload: str
    workload_version: str
    position: int
    state: core.RunState
    reason: str | None
    warm_up: bool
    target: str | None
    readings: dict[str, ReadingOut]
    version: int


class CostOut(CostFile):
    pass


class StepOut(StepFile):
    version: int


class RecognitionOut(RecognitionFile):
    version: int


class StartOut(StartFile):
    version: int


class BenchNoteOut(BenchNoteFile):
    version: int


class SwapOut(Strict):
    id: UUID
    before: UUID
    after: UUID
    label: str
    side_changes: list[str]
    costs: list[CostOut]
    net_cost: Decimal
    plan: PlanFile
    plan_version: int
    state: core.SwapState
    declares: list[str]
    opened_at: Instant | None
    closed_at: Instant | None
    gate_reason: str
    gate_missing: list[str]
    steps: list[StepOut]
    recognitions: list[RecognitionOut]
    starts: list[StartOut]
    notes: list[BenchNoteOut]
    margin_edits: list[MarginEditFile]
    version: int


class CandidateOut(CandidateFile):
    version: int


class RecheckOut(Strict):
    id: UUID
    build: UUID
    due_on: date
    plan: PlanFile
    note: str
    done: bool
    version: int


class OpenPlanOut(Strict):
    plan: PlanFile
    version: int


class CaseOut(Strict):
    """One machine with all its builds, workloads, sittings, runs and swaps."""

    machine: MachineOut
    builds: list[BuildOut]
    workloads: list[WorkloadOut]
    measures: list[MeasureOut]
    sittings: list[SittingOut]
    runs: list[RunOut]
    swaps: list[SwapOut]
    open_plan: OpenPlanOut
    standing: UUID | None
    candidates: list[CandidateOut]
    rechecks: list[RecheckOut]


class BenchOut(Strict):
    """A machine as the home screen shows it."""

    case: CaseOut
    newest: ComparisonOut | None


class ImportedOut(Strict):
    machine: UUID


class UnitOut(Strict):
    code: str
    display: str
    dimension: str
