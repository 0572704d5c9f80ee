"""What is sent over HTTP of a machine and its runs; every save names the version that was seen."""

from typing import Annotated, Literal, Protocol, Self, TypeVar
from uuid import UUID
from zoneinfo import available_timezones

from pydantic import AfterValidator, Field, StrictBool, StrictInt, field_validator, model_validator

from lynxbill.core.record.build import Build, Part, PartRole, Wear
from lynxbill.core.record.frame import Machine
from lynxbill.core.record.ids import BuildId, MachineId, RunId, SittingId, WorkloadId
from lynxbill.core.record.run import SENT_MEMBERS, HeldBack, Reading, ReadingSource, Run, RunState, Sitting, Statistic
from lynxbill.core.record.workload import Workload
from lynxbill.core.terms.measure import Kind, Measure, MeasureId
from lynxbill.exchange.evidence_schema import ReadingContent, SittingContent
from lynxbill.exchange.fields import (
    Currency,
    Finite,
    Instant,
    Line,
    Name,
    Note,
    OptionalLine,
    Position,
    Positive,
    PositiveMoney,
    Settings,
    Strict,
)
from lynxbill.exchange.frame_schema import MeasureContent, WorkloadContent
from lynxbill.exchange.run_members import to_reading
from lynxbill.services.evidence.entries import Entry, Typed


class _Named(Protocol):
    id: UUID


Member = TypeVar("Member", bound=_Named)


def _each_once(members: list[Member]) -> list[Member]:
    first = dict[UUID, StrictInt]()
    for number, member in enumerate(members, start=1):
        if first.setdefault(member.id, number) != number:
            raise ValueError(f"number {number} has the id of number {first[member.id]}; ids are unique")
    return members


EachOnce = AfterValidator(_each_once)
Version = Annotated[StrictInt | None, Field(ge=1, description="The version that was seen; null for something new")]


class MachineIn(Strict):
    name: Name
    owner: OptionalLine = ""
    question: Note = ""
    settles: Note = ""
    asked_by: OptionalLine = ""
    use: OptionalLine = ""
    limits: Settings = {}
    currency: Currency
    labour_rate: PositiveMoney | None = None
    decimal_mark: Literal[".", ","] = "."
    time_zone: Line = "UTC"
    price: PositiveMoney | None = None
    tasks_a_week: Annotated[Positive, Field(le=100_000)] | None = None
    hour_worth: PositiveMoney | None = None
    version: Version = None

    @field_validator("time_zone")
    @classmethod
    def _known_zone(cls, zone: str) -> str:
        if zone not in available_timezones():
            raise ValueError(f"“{zone}” is not a time zone; write one like “Europe/Vienna” or “UTC”")
        return zone

    def to_core(self, machine_id: UUID) -> Machine:
        return Machine(id=MachineId(str(machine_id)), **self.model_dump(exclude={"version"}))


class PartIn(Strict):
    id: UUID
    role: PartRole
    label: Name
    rated: Settings = {}


class BuildContentIn(Strict):
    label: Name
    parts: Annotated[list[PartIn], Field(max_length=60), EachOnce] = []
    settings: Settings = {}
    wear: Wear | None = None

    def to_core(self, build_id: UUID) -> Build:
        parts = tuple(Part(str(part.id), part.role, part.label, dict(part.rated)) for part in self.parts)
        return Build(BuildId(str(build_id)), "", self.label, parts, dict(self.settings), self.wear)


class BuildIn(BuildContentIn):
    version: Version = None


def _named(measure: UUID | None) -> MeasureId | None:
    return MeasureId(str(measure)) if measure else None


class MeasureIn(MeasureContent):
    id: UUID
    name: Name
    kind: Kind
    part_of: UUID | None = None
    derived_from: UUID | None = None
    per_measure: UUID | None = None

    @model_validator(mode="after")
    def _derived_by_something(self) -> Self:
        ways = (self.per_measure, self.per_parameter, self.needs)
        if (self.derived_from is None) != all(way is None for way in ways):
            raise ValueError("a derived measure names what it is made from, and what divides it or what is needed")
        return self

    def to_core(self, workload: str) -> Measure:
        return Measure(
            id=MeasureId(str(self.id)),
            workload=workload,
            levels=tuple(self.levels),
            part_of=_named(self.part_of),
            derived_from=_named(self.derived_from),
            per_measure=_named(self.per_measure),
            **self.model_dump(exclude={"id", "levels", "part_of", "derived_from", "per_measure"}),
        )


class WorkloadIn(WorkloadContent):
    name: Name
    measures: Annotated[list[MeasureIn], Field(min_length=1, max_length=60), EachOnce]
    version: Version = None

    def to_core(self, workload_id: UUID) -> Workload:
        fields = self.model_dump(exclude={"measures", "version", "loads"})
        return Workload(id=WorkloadId(str(workload_id)), loads=tuple(self.loads), **fields)


class SittingIn(SittingContent):
    build: UUID
    version: Version = None

    def to_core(self, sitting_id: UUID) -> Sitting:
        return Sitting(
            SittingId(str(sitting_id)),
            BuildId(str(self.build)),
            self.purpose,
            self.started_at,
            self.ambient_c,
            dict(self.conditions),
            self.boot,
            self.boot_by,
            mount=self.mount,
        )


class SetAsideIn(Strict):
    reason: Line


class AsideIn(Strict):
    """Why something is set aside; null takes it back."""

    reason: Line | None


TypedText = Annotated[str, Field(max_length=200)]


class TypedReadingIn(Strict):
    """A reading as typed, with what was said of it beside."""

    typed: TypedText
    source: ReadingSource | None = None
    statistic: Statistic | None = None


ReadingIn = Finite | TypedText | TypedReadingIn | ReadingContent


def _written(entry: ReadingIn) -> Reading | Typed:
    match entry:
        case str():
            return Typed(entry)
        case TypedReadingIn():
            return Typed(entry.typed, entry.source, entry.statistic)
        case _:
            return to_reading(entry)


class RunIn(Strict):
    """A reading is a number in the measure's unit, or text as typed ("1:52.4", "104 MB/s")."""

    sitting: UUID
    workload: UUID
    position: Position
    state: RunState = "complete"
    reason: Annotated[OptionalLine | None, Field()] = None
    readings: Annotated[dict[UUID, ReadingIn], Field(max_length=200)] = {}
    warm_up: StrictBool = False
    workload_version: Line | None = None
    parameters: Settings = {}
    target: Line | None = None
    pair_label: Line | None = None
    started_at: Instant | None = None
    duration_s: Annotated[Finite, Field(ge=0)] | None = None
    soak_s: Annotated[Finite, Field(ge=0)] | None = None
    held_back: HeldBack | None = None
    conditions: Settings = {}
    note: Note = ""
    version: Version = None

    def entry(self, run_id: UUID) -> Entry:
        written = {MeasureId(str(measure)): _written(entry) for measure, entry in self.readings.items()}
        members = {name: getattr(self, name) for name in SENT_MEMBERS}
        filled = {"workload_version": self.workload_version or "", "reason": self.reason or None}
        run = Run(
            id=RunId(str(run_id)),
            sitting_id=SittingId(str(self.sitting)),
            workload="",
            readings={},
            **members | filled,
        )
        return Entry(self.workload, run, written, self.version)


class RunOfBlockIn(RunIn):
    id: UUID


class RunsIn(Strict):
    """A block of runs, saved all or none."""

    runs: Annotated[list[RunOfBlockIn], Field(min_length=1, max_length=20_000), EachOnce]


class LateExclusionIn(Strict):
    reason: Line
