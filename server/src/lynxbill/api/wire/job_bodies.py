"""What is sent over HTTP of a job: plans, candidates, swaps and the work on an open case."""

from typing import Annotated
from uuid import UUID

from pydantic import Field, StrictBool, StrictInt

from lynxbill.api.wire.bodies import BuildContentIn, MachineIn, MeasureIn, Version
from lynxbill.core.plan.templates import Template
from lynxbill.core.record.build import Candidate
from lynxbill.core.record.ids import BuildId, SwapId, WorkloadId
from lynxbill.core.record.plan import Change, Order, Plan, Recheck
from lynxbill.core.record.swap import (
    BenchNote,
    Explanation,
    ExplanationState,
    NoteKind,
    OverWhat,
    Recognition,
    Seen,
    Stage,
    Start,
    Step,
    Swap,
)
from lynxbill.core.record.workload import Workload
from lynxbill.core.terms.measure import Role
from lynxbill.core.terms.money import CostKind
from lynxbill.exchange.fields import Day, Instant, Line, Name, Note, OptionalLine, Positive, Settings, Strict
from lynxbill.exchange.frame_schema import CandidateContent, Minutes, PlanFile
from lynxbill.exchange.swap_members import to_cost, to_plan
from lynxbill.exchange.swap_schema import CostFile, FoundStep
from lynxbill.services.frame.beginning import Beginning, Timed
from lynxbill.services.swap import stages


class CostIn(CostFile):
    """A line of what a swap cost, as it is sent."""


class PlanIn(PlanFile):
    version: Version = None

    def to_core(self) -> Plan:
        return to_plan(self)


class PlanPreviewIn(Strict):
    """A plan as it is typed; `swap` where it is the plan of one."""

    plan: PlanIn
    swap: UUID | None = None


class TimedIn(Strict):
    """One job that is to be timed: a workload that has the name of its single measure."""

    workload: UUID
    measure: MeasureIn
    role: Role = "watch"

    def to_core(self) -> Timed:
        name = self.measure.name
        return Timed(Workload(WorkloadId(str(self.workload)), name), self.measure.to_core(name), self.role)


class BeginningIn(Strict):
    """A new job, begun with what is to be changed; all else can wait."""

    machine: MachineIn
    build: UUID
    build_label: Name = "As received"
    change: Change
    timed: Annotated[list[TimedIn], Field(min_length=1, max_length=30)]
    quick: StrictBool = False
    sittings_a_side: Annotated[StrictInt, Field(ge=1, le=100)] | None = None
    runs_a_sitting: Annotated[StrictInt, Field(ge=1, le=10_000)] | None = None
    matters_from: Positive | None = None
    hoped_for: Positive | None = None

    def to_core(self) -> Beginning:
        names = ("change", "quick", "sittings_a_side", "runs_a_sitting", "matters_from", "hoped_for")
        return Beginning(**{name: getattr(self, name) for name in names})


class ShownIn(Strict):
    """Which verdicts of a comparison a screen has shown, and the counts of the machine that they were made from."""

    before: UUID
    after: UUID
    measures: Annotated[list[UUID], Field(min_length=1, max_length=1000)]
    revision: Annotated[StrictInt, Field(ge=0)]
    evidence_revision: Annotated[StrictInt, Field(ge=0)]


class LookedIn(Strict):
    """Of which swaps both sides are on a screen."""

    swaps: Annotated[list[UUID], Field(min_length=1, max_length=200)]


class AttemptIn(Strict):
    """Why a comparison is measured over, on which sides, and at how many sittings a side it looks then."""

    reason: Line
    sides: OverWhat
    sittings_a_side: Annotated[StrictInt, Field(ge=1, le=100)] | None = None
    at_most: Annotated[StrictInt, Field(ge=3, le=201)] | None = None
    version: Version = None


class SwapPlanIn(PlanIn):
    """`reason` says why a margin or a hope changes after the swap was planned."""

    reason: OptionalLine = ""


class UseTemplateIn(Strict):
    template: Line
    version: Version = None


class TemplateIn(Strict):
    name: Name
    change: Change
    advice: Note = ""
    sittings_a_side: Annotated[StrictInt, Field(ge=1, le=100)] = 3
    runs_a_sitting: Annotated[StrictInt, Field(ge=1, le=10_000)] = 5
    warm_ups: Annotated[StrictInt, Field(ge=0, le=100)] = 1
    rest_min: Minutes = 0.0
    soak_min: Minutes = 0.0
    order: Order = "before_then_after"
    conditions: Settings = {}
    steps: Annotated[list[tuple[Stage, Line]], Field(max_length=100)] = []
    costs: Annotated[list[CostKind], Field(max_length=20)] = []
    recheck_months: Annotated[StrictInt, Field(ge=1, le=120)] | None = None
    version: Version = None

    def to_core(self, template_id: UUID) -> Template:
        fields = self.model_dump(exclude={"version", "steps", "costs"})
        return Template(id=str(template_id), steps=tuple(self.steps), costs=tuple(self.costs), **fields)


class CandidateIn(CandidateContent):
    label: Name
    swap: UUID | None = None
    version: Version = None

    def to_core(self, candidate_id: UUID) -> Candidate:
        fields = self.model_dump(exclude={"version", "swap", "ticked"})
        swap = SwapId(str(self.swap)) if self.swap else None
        return Candidate(id=str(candidate_id), swap=swap, ticked=tuple(self.ticked), **fields)


class CopyIn(Strict):
    """`swap` is the one to be done again; without it the newest."""

    name: Name
    swap: UUID | None = None


class RecheckIn(Strict):
    build: UUID
    due_on: Day
    note: OptionalLine = ""
    done: StrictBool = False
    version: Version = None

    def to_core(self, recheck_id: UUID) -> Recheck:
        return Recheck(str(recheck_id), BuildId(str(self.build)), self.due_on, Plan(), self.note, self.done)


class OpenCaseIn(Strict):
    """`reason`: why the old part leaves although the baseline lacks something."""

    reason: OptionalLine = ""
    version: Version = None


class SwapDayIn(Strict):
    """On which day a swap of an old log was made."""

    opened_at: Instant
    version: Version = None


class CloseCaseIn(Strict):
    """`skipped` says why something that went in was not looked at."""

    skipped: OptionalLine = ""
    version: Version = None


class StepIn(Strict):
    stage: Stage
    text: Line
    done: StrictBool = False
    version: Version = None

    def to_core(self, step_id: UUID) -> Step:
        return Step(str(step_id), self.stage, self.text)


class ReopenCaseIn(Strict):
    version: Version = None


class RecognitionIn(Strict):
    what: Line
    expected: Line
    seen: OptionalLine = ""
    result: Seen | None = None
    remark: OptionalLine = ""
    version: Version = None

    def to_core(self, line_id: UUID) -> Recognition:
        return Recognition(id=str(line_id), **self.model_dump(exclude={"version"}))


class StartIn(Strict):
    at: Instant
    booted: StrictBool
    note: OptionalLine = ""
    rework_min: Minutes = 0.0
    version: Version = None

    def to_core(self, start_id: UUID) -> Start:
        return Start(id=str(start_id), **self.model_dump(exclude={"version"}))


class ExplanationIn(Strict):
    text: Line
    state: ExplanationState = "untested"
    test: Note = ""
    grounds: Note = ""
    version: Version = None

    def to_core(self, explanation_id: UUID) -> Explanation:
        return Explanation(str(explanation_id), self.text, self.state, self.test, self.grounds)


class BenchNoteIn(Strict):
    at: Instant
    text: Note = ""
    kind: NoteKind = "teardown"
    step: FoundStep = None
    version: Version = None

    def to_core(self, note_id: UUID) -> BenchNote:
        return BenchNote(str(note_id), **self.model_dump(exclude={"version"}))


class StageIn(Strict):
    """What of a bundle is done first; `costs` are the numbers, from 0, of the cost lines that belong to it."""

    swap: UUID
    build: UUID
    label: Name
    build_label: Name
    differences: Annotated[list[Line], Field(max_length=100)] = []
    side_changes: Annotated[list[Line], Field(max_length=60)] = []
    costs: Annotated[list[StrictInt], Field(max_length=200)] = []
    version: Version = None

    def to_core(self) -> stages.Stage:
        return stages.Stage(
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
    label: Name
    side_changes: Annotated[list[Line], Field(max_length=60)] = []
    costs: Annotated[list[CostIn], Field(max_length=200)] = []
    after_build: BuildContentIn | None = None
    declares: Annotated[list[Line], Field(max_length=100)] = []
    template: Line | None = None
    version: Version = None

    def to_core(self, swap_id: UUID) -> Swap:
        return Swap(
            id=SwapId(str(swap_id)),
            before=BuildId(str(self.before)),
            after=BuildId(str(self.after)),
            label=self.label,
            plan=Plan(),
            side_changes=tuple(self.side_changes),
            costs=tuple(map(to_cost, self.costs)),
            declares=tuple(self.declares),
        )
