"""What travels over HTTP. Figures go out in base units at full precision; rounding is the screen's."""

from decimal import Decimal
from typing import Annotated, Literal
from uuid import UUID
from zoneinfo import available_timezones

from pydantic import Field, field_validator

from lynxbill.core import case as core
from lynxbill.core.measure import Better, Kind, Measure, Scale
from lynxbill.core.money import CostLine
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
from lynxbill.exchange.run_schema import CostFile, MeasureFile, PlanFile, ReadingFile
from lynxbill.exchange.verdict_file import ComparisonOut
from lynxbill.store.snapshot import Workload

Version = Annotated[int | None, Field(ge=1, description="The version that was seen; null for something new")]


class MachineIn(Strict):
    name: Line
    owner: OptionalLine = ""
    question: Note = ""
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

    def to_core(self, build_id: UUID) -> core.Build:
        parts = tuple(core.Part(str(part.id), part.role, part.label, dict(part.rated)) for part in self.parts)
        return core.Build(str(build_id), "", self.label, parts, dict(self.settings))


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

    @field_validator("unit")
    @classmethod
    def _known_unit(cls, code: str) -> str:
        return MeasureFile.known_unit(code)

    def to_core(self, workload: str) -> Measure:
        fields = self.model_dump(exclude={"id", "levels"})
        return Measure(id=str(self.id), workload=workload, levels=tuple(self.levels), **fields)


class WorkloadIn(Strict):
    name: Line
    workload_version: Line = "1"
    parameters: Settings = {}
    measures: Annotated[list[MeasureIn], Field(min_length=1, max_length=60)]

    def to_core(self, workload_id: UUID) -> Workload:
        return Workload(str(workload_id), self.name, self.workload_version, dict(self.parameters))


class PlanIn(PlanFile):
    version: Version = None

    def to_core(self) -> core.Plan:
        return to_plan(self)


class SwapIn(Strict):
    before: UUID
    after: UUID
    label: Line
    side_changes: Annotated[list[Line], Field(max_length=60)] = []
    costs: Annotated[list[CostFile], Field(max_length=200)] = []
    after_build: BuildContentIn | None = None
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


class WorkloadOut(Strict):
    id: UUID
    name: str
    workload_version: str
    parameters: dict[str, core.Plain]


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
    readings: dict[str, ReadingOut]
    version: int


class CostOut(CostFile):
    pass


class SwapOut(Strict):
    id: UUID
    before: UUID
    after: UUID
    label: str
    side_changes: list[str]
    costs: list[CostOut]
    net_cost: Decimal
    plan: PlanFile
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
