"""The members of a run file, as Pydantic models: what each field alone may hold."""

from datetime import datetime
from typing import Annotated, Literal, Self

from pydantic import Field, StrictBool, StrictInt, field_validator, model_validator

from lynxbill.core.heat.roles import ChannelRole
from lynxbill.core.heat.trace import MOST_SAMPLES, TraceSource, check_samples
from lynxbill.core.plan.agreement import check_looks
from lynxbill.core.record.build import MOST_BUILDS, Alternative, FitWord, PartRole, Wear
from lynxbill.core.record.plan import MOST_MEASURES, Change, Design, Order, PairBy
from lynxbill.core.record.run import BootBy, HeldBack, Purpose, ReadingSource, RunState, Statistic
from lynxbill.core.record.swap import ExplanationState, NoteKind, OverWhat, Seen, Stage, SwapState
from lynxbill.core.record.vocabulary import FOUND_STEPS
from lynxbill.core.terms.errors import Refusal
from lynxbill.core.terms.measure import Better, Combined, Kind, Role, Scale, Summary, TraceFigure
from lynxbill.core.terms.money import UNPAID, Basis, CostKind, RunningBy, SplitRule
from lynxbill.exchange.fields import (
    Currency,
    Day,
    Finite,
    Identifier,
    Instant,
    Line,
    Money,
    Note,
    OptionalLine,
    Plain,
    Position,
    Positive,
    PositiveMoney,
    Rate,
    Settings,
    Strict,
    Unit,
)

FoundStep = Annotated[StrictInt, Field(ge=1, le=4, description="How it was found, the best first")] | None
Minutes = Annotated[Finite, Field(ge=0, le=10_000)]
RatedKey = Annotated[
    str,
    Field(min_length=1, max_length=60, description="Key of a part's rated figure that the measure is set against"),
]


class WasFile(Strict):
    """What stood in a member before it was changed, after a reading had been written."""

    member: Line
    value: "Plain | ReadingFile" = None
    at: Instant
    by: OptionalLine = ""
    reason: OptionalLine = ""

    @model_validator(mode="after")
    def _dated(self) -> Self:
        if self.member == "started_at" and self.value is not None:
            try:
                known = datetime.fromisoformat(str(self.value))
            except ValueError:
                known = None
            if known is None or known.tzinfo is None:
                raise ValueError("the old “started_at” needs a time with its zone")
        return self


class SetAsideFile(Strict):
    reason: Line
    at: Instant
    over: Annotated[StrictBool, Field(description="Set aside because the comparison is measured over")] = False


SetAsideFor = Annotated[Line | None, Field(description="Why it was set aside: it stays listed, not asked for")]


class MachineFile(Strict):
    id: Identifier = "machine"
    name: Line
    currency: Currency
    labour_rate: PositiveMoney | None = None
    owner: OptionalLine = ""
    question: Note = ""
    settles: Note = ""
    asked_by: OptionalLine = ""
    use: OptionalLine = ""
    limits: Settings = {}
    decimal_mark: Literal[".", ","] = "."
    time_zone: OptionalLine = "UTC"
    price: PositiveMoney | None = None
    jobs_a_week: Annotated[Positive, Field(le=100_000)] | None = None
    hour_worth: PositiveMoney | None = None
    set_aside: SetAsideFor = None


class Identified(Strict):
    """Bears an id of its own; named last among the bases, for its field to stand first."""

    id: Identifier


class MeasureContent(Strict):
    """What a measure is, in a run file as over HTTP."""

    name: Line
    unit: Unit
    scale: Scale
    kind: Kind = "other"
    better: Better
    step: Positive | None = None
    levels: list[Line] = []
    combined_by: Combined | None = None
    rated_as: RatedKey | None = None
    of: Annotated[StrictInt, Field(ge=1, le=10_000, description="What one run of an outcome tries")] | None = None
    per_parameter: Annotated[Line, Field(description="Size of the job that a derived one is divided by")] | None = (
        None
    )
    needs: Annotated[Finite, Field(description="What a derived outcome needs of its measure")] | None = None
    trace_figure: Annotated[TraceFigure, Field(description="What of a run's trace becomes its reading")] | None = None
    trace_of: Annotated[Line, Field(description="A part's role, or the sensor's name")] | None = None
    trace_by: Annotated[Summary, Field(description="How several sensors of it are brought together")] | None = None
    trace_minute: Annotated[Finite, Field(gt=0, le=20_160, description="Minute of the load it is read at")] | None = (
        None
    )


class MeasureFile(MeasureContent, Identified):
    workload: Line
    part_of: Identifier | None = None
    derived_from: Identifier | None = None
    per_measure: Identifier | None = None
    set_aside: SetAsideFor = None


class PartFile(Strict):
    id: Identifier
    role: PartRole
    label: Line
    rated: Settings = {}


class BuildFile(Strict):
    id: Identifier
    letter: Annotated[str, Field(min_length=1, max_length=3)] | None = None
    label: Line
    parts: list[PartFile] = []
    settings: Settings = {}
    wear: Wear | None = None
    read: Annotated[
        dict[Line, Annotated[list[Line], Field(max_length=60)]],
        Field(max_length=20, description="What the agent read of its parts, by role"),
    ] = {}


class WorkloadContent(Strict):
    """What a workload is, in a run file as over HTTP."""

    name: Line
    workload_version: Identifier = "1"
    parameters: Settings = {}
    loads: Annotated[list[PartRole], Field(max_length=20)] = []
    target: Line | None = None
    card: Note = ""
    minutes_a_run: Annotated[Finite, Field(gt=0, le=10_000)] | None = None


class WorkloadFile(WorkloadContent, Identified):
    """A file without it has the workloads that its measures and runs name."""

    set_aside: SetAsideFor = None


class SittingContent(Strict):
    """When and how a sitting was held, in a run file as over HTTP."""

    purpose: Purpose = "plan"
    started_at: Instant
    ambient_c: Annotated[Finite, Field(ge=-60, le=80)] | None = None
    conditions: Settings = {}
    boot: Annotated[Line, Field(description="The same text on two sittings of a build: one start of the machine")] | (
        None
    ) = None
    boot_by: BootBy | None = None
    mount: Annotated[StrictInt, Field(ge=1, le=1000)] | None = None


class SittingFile(SittingContent, Identified):
    """Without `closed_at` it was closed when the next one began, else at its last run; null: it is open."""

    build: Identifier
    closed_at: Instant | None = None
    set_aside: SetAsideFile | None = None
    attempt: Annotated[StrictInt, Field(ge=1, le=3)] = 1
    was: list[WasFile] = []


class ReadingWasFile(Strict):
    """An old reading: either `value` or `low` and `high`."""

    value: Finite | None = None
    low: Finite | None = None
    high: Finite | None = None
    at: Instant
    by: OptionalLine = ""
    reason: OptionalLine = ""


class ReadingContent(Strict):
    """Either `value` or `low` and `high`; in a run file as over HTTP."""

    value: Finite | None = None
    low: Finite | None = None
    high: Finite | None = None
    about: StrictBool = False
    source: ReadingSource | None = None
    statistic: Statistic | None = None
    confirmed: Annotated[StrictBool, Field(description="Asked whether it is typed right, it was said to be")] = False

    @model_validator(mode="after")
    def _one_form(self) -> Self:
        as_range = self.low is not None and self.high is not None and self.value is None
        as_value = self.low is None and self.high is None and self.value is not None
        if not (as_range or as_value):
            raise ValueError("give either “value”, or both “low” and “high”")
        if self.low is not None and self.high is not None and self.low > self.high:
            raise ValueError("“low” is above “high”")
        return self


class ReadingFile(ReadingContent):
    """A reading with what stood there before it was corrected."""

    was: list[ReadingWasFile] = []


class LateExclusionFile(Strict):
    reason: Line
    at: Instant | None = None


class MarkFile(Strict):
    """A phase of a trace, and when it began, in seconds since the run's start."""

    at: Annotated[Finite, Field(ge=0)]
    phase: Line


class ChannelContent(Strict):
    """What a sensor is, in a run file as over HTTP."""

    role: ChannelRole
    of: Line
    unit: Unit
    sensor: Line
    stands_in: StrictBool = False


class ChannelFile(ChannelContent):
    """Samples of a sensor: times rise, in seconds since the run's start; null is a gap."""

    at: Annotated[list[Annotated[Finite, Field(ge=0)]], Field(max_length=MOST_SAMPLES)]
    values: Annotated[list[Finite | None], Field(max_length=MOST_SAMPLES)]

    @model_validator(mode="after")
    def _rising(self) -> Self:
        try:
            check_samples(self.at, self.values, -1.0, "channel")
        except Refusal as refusal:
            raise ValueError(refusal.message) from refusal
        return self


class TraceFile(Strict):
    """What sensors said during a run; `missing` says by role why none told it."""

    started_at: Instant
    channels: Annotated[list[ChannelFile], Field(max_length=200)]
    marks: Annotated[list[MarkFile], Field(max_length=1000)] = []
    missing: Annotated[dict[Line, Line], Field(max_length=50)] = {}
    source: TraceSource = "agent"


class RunFileRun(Strict):
    id: Identifier
    sitting: Identifier
    workload: Line
    workload_version: Identifier
    parameters: Settings = {}
    position: Position
    state: RunState
    reason: Line | None = None
    readings: Annotated[dict[Identifier, Finite | ReadingFile], Field(max_length=500)] = {}
    warm_up: StrictBool = False
    target: Line | None = None
    pair_label: Line | None = None
    started_at: Instant | None = None
    duration_s: Annotated[Finite, Field(ge=0)] | None = None
    soak_s: Annotated[Finite, Field(ge=0)] | None = None
    excluded_late: LateExclusionFile | None = None
    held_back: HeldBack | None = None
    conditions: Settings = {}
    note: Note = ""
    written_at: Instant | None = None
    left_out_at: Instant | None = None
    was: list[WasFile] = []
    trace: TraceFile | None = None

    @model_validator(mode="after")
    def _reason_given(self) -> Self:
        if self.state != "complete" and self.reason is None:
            raise ValueError(f"a {self.state} run needs a “reason”")
        return self


class PlannedMeasureFile(Strict):
    role: Role = "claim"
    matters_from: Positive
    hoped_for: Finite | None = None
    weight: Annotated[Finite, Field(ge=0)] | None = None
    statistic: Statistic | None = None


class FixedPairFile(Strict):
    runs: Annotated[list[Identifier], Field(min_length=2, max_length=2)]
    reason: Line


class PlanFile(Strict):
    design: Design = "side_by_side"
    pair_by: PairBy = "order"
    sittings_a_side: Annotated[StrictInt, Field(ge=1, le=100)] | None = None
    at_most: Annotated[StrictInt, Field(ge=3, le=201, description="Sittings a side of a second look")] | None = None
    runs_a_sitting: Annotated[StrictInt, Field(ge=1, le=10_000)] | None = None
    runs: Annotated[
        dict[Line, Annotated[StrictInt, Field(ge=1, le=10_000)]],
        Field(max_length=100, description="Runs a sitting of workloads that differ from the others"),
    ] = {}
    judge_whole: Annotated[
        Identifier | None, Field(description="The first build of a chain whose last one is judged against it too")
    ] = None
    headline: Identifier | None = None
    measures: dict[Identifier, PlannedMeasureFile] = {}
    pairs: list[FixedPairFile] = []
    borrow_spread_from: list[Identifier] = []
    change: Change | None = None
    order: Order = "before_then_after"
    conditions: Settings = {}
    warm_ups: Annotated[StrictInt, Field(ge=0, le=100)] = 0
    rest_min: Minutes = 0.0
    soak_min: Minutes = 0.0

    @field_validator("order", mode="before")
    @classmethod
    def _block_order(cls, order: object) -> object:
        """Before, then after, is called a block as well."""
        return "before_then_after" if order == "block" else order

    @model_validator(mode="after")
    def _second_look_fits(self) -> Self:
        try:
            check_looks(self.sittings_a_side, self.at_most)
        except Refusal as refusal:
            raise ValueError(refusal.message) from refusal
        return self

    @model_validator(mode="after")
    def _pairs_if_paired(self) -> Self:
        if self.design == "paired" and self.pair_by == "none":
            raise ValueError("a “paired” design needs a rule in “pair_by”; “none” pairs nothing")
        return self


_HOURS_A_DAY = 24


class RunningFile(Strict):
    """Electricity of both sides: W while it runs, or Wh a job; or the measures that they are taken from."""

    by: RunningBy
    a_day: Annotated[Positive, Field(le=100_000, description="Hours or jobs a day")]
    days_a_year: Annotated[Positive, Field(le=366)]
    before: Annotated[Finite, Field(ge=0)] | None = None
    after: Annotated[Finite, Field(ge=0)] | None = None
    power: Annotated[Identifier, Field(description="A measure in W")] | None = None
    time: Annotated[Identifier, Field(description="A measure in s: how long a job takes")] | None = None

    @model_validator(mode="after")
    def _both_sides(self) -> Self:
        if self.by == "hours" and self.a_day > _HOURS_A_DAY:
            raise ValueError("a day has 24 hours; write how many of them it runs in “a_day”")
        if self.power is None and (self.before is None or self.after is None):
            raise ValueError("write what both sides take in “before” and “after”, or the measure of it in “power”")
        if self.power is not None and self.by == "jobs" and self.time is None:
            raise ValueError("power makes the energy of a job with its time: name that measure in “time”")
        return self


class CostFile(Strict):
    kind: CostKind
    label: Line
    amount: Annotated[PositiveMoney, Field(description="Of one unit where there is a quantity; of a kWh if running")]
    currency: Currency
    low: PositiveMoney | None = None
    high: PositiveMoney | None = None
    rate: Rate | None = None
    rate_date: Day | None = None
    quantity: Annotated[Money, Field(gt=0)] | None = None
    unit: OptionalLine = ""
    basis: Basis | None = None
    worth: Annotated[PositiveMoney, Field(description="Of what was not paid, for one unit")] | None = None
    supplier: OptionalLine = ""
    on: Annotated[Day, Field(description="Day of the entry; a resale without one is expected")] | None = None
    running: RunningFile | None = None
    split_by: SplitRule | None = None
    shares: Annotated[dict[Identifier, PositiveMoney], Field(max_length=200, description="Weights by swap")] = {}

    @model_validator(mode="after")
    def _told_apart(self) -> Self:
        if (self.split_by is None) != (not self.shares):
            raise ValueError("a line that is split has both a rule in “split_by” and weights in “shares”")
        if self.shares and not any(self.shares.values()):
            raise ValueError("one weight at least in “shares” must be more than 0")
        if self.running is not None and self.kind != "electricity":
            raise ValueError("only “electricity” is “running”")
        if self.basis in UNPAID and self.amount:
            raise ValueError(
                f"nothing is paid where the price is that of a {self.basis}: write 0.00, and its worth in “worth”"
            )
        return self

    @model_validator(mode="after")
    def _ordered(self) -> Self:
        low = self.amount if self.low is None else self.low
        high = self.amount if self.high is None else self.high
        if not low <= self.amount <= high:
            raise ValueError("“amount” must lie between “low” and “high”")
        return self


class StepFile(Strict):
    id: Identifier
    stage: Stage
    text: Line
    done_at: Instant | None = None


class RecognitionFile(Strict):
    id: Identifier
    what: Line
    expected: Line
    seen: OptionalLine = ""
    result: Seen | None = None
    remark: OptionalLine = ""

    @model_validator(mode="after")
    def _said(self) -> Self:
        if self.result is not None and not self.seen:
            raise ValueError("a “result” needs what was “seen”")
        if self.result == "pass with remark" and not self.remark:
            raise ValueError("a “pass with remark” needs its “remark”")
        return self


class StartFile(Strict):
    id: Identifier
    at: Instant
    booted: StrictBool
    note: OptionalLine = ""
    rework_min: Minutes = 0.0


class BenchNoteFile(Strict):
    """A picture stays on its server: a run file carries the note, and whether it had one."""

    id: Identifier
    at: Instant
    text: Note = ""
    picture: StrictBool = False
    kind: NoteKind = "teardown"
    step: FoundStep = None

    @model_validator(mode="after")
    def _step_of_what_was_found(self) -> Self:
        if (self.kind in FOUND_STEPS) != (self.step is not None):
            raise ValueError("what was found has a step on its scale, other notes have none")
        return self


class ExplanationFile(Strict):
    """A suspected cause or limit; supported or ruled out only with what speaks for that."""

    id: Identifier
    text: Line
    state: ExplanationState = "untested"
    test: Note = ""
    evidence: Note = ""

    @model_validator(mode="after")
    def _evidence_given(self) -> Self:
        if self.state != "untested" and not self.evidence.strip():
            raise ValueError(f"an explanation that is {self.state} needs its “evidence”")
        return self


class MarginEditFile(Strict):
    at: Instant
    measure: Identifier
    field: Literal["matters_from", "hoped_for"]
    old: Finite | None = None
    new: Finite | None = None
    reason: Line
    late: StrictBool


class ShowingFile(Strict):
    """One entry of the ledger: a verdict as it was first given to somebody."""

    measure: Identifier
    at: Instant
    look: Annotated[StrictInt, Field(ge=1, le=2)] | None = None
    level: Annotated[Finite, Field(gt=0, lt=1)]
    rule: OptionalLine = ""
    verdict: OptionalLine = ""
    sittings: list[Identifier]
    evidence: OptionalLine = ""
    attempt: Annotated[StrictInt, Field(ge=1, le=3)] = 1
    compared: Annotated[
        Identifier | None, Field(description="The build before, where it is another one than the swap's own")
    ] = None
    by: OptionalLine = ""
    gain: Finite | None = None
    low: Finite | None = None
    high: Finite | None = None
    boots: dict[Identifier, Line | None] = {}
    conditions: dict[Identifier, Settings] = {}
    plan: Note = ""
    rules: Annotated[
        Annotated[StrictInt, Field(ge=1)] | None,
        Field(description="Number of the rules that it was reached by; absent, nobody knows (history_unknown)"),
    ] = None


class AttemptFile(Strict):
    """The comparison was measured over."""

    at: Instant
    reason: Line
    sides: OverWhat = "both sides"
    sittings_a_side: Annotated[StrictInt, Field(ge=1, le=100)] | None = None
    at_most: Annotated[StrictInt, Field(ge=3, le=201)] | None = None


class SwapFile(Strict):
    id: Identifier | None = None
    before: Annotated[Identifier, Field(alias="from")]
    after: Annotated[Identifier, Field(alias="to")]
    label: Line
    side_changes: list[Line] = []
    plan: PlanFile = PlanFile()
    verdict_shown_for: Annotated[
        list[Identifier] | dict[Identifier, list[Identifier]] | None,
        Field(
            description="What earlier files have in place of `shown`: the sittings for which a planned verdict was "
            "given, of every claim and control, or by measure"
        ),
    ] = None
    shown: Annotated[
        list[ShowingFile] | None,
        Field(description="The ledger: absent, nobody knows what was shown; empty, nothing was"),
    ] = None
    attempts: Annotated[list[AttemptFile], Field(max_length=2)] = []
    costs: list[CostFile] = []
    state: SwapState = "closed"
    declares: Annotated[
        list[Line] | None, Field(description="Keys of the differences it is meant to make; null: all that there are")
    ] = None
    opened_at: Instant | None = None
    closed_at: Instant | None = None
    gate_reason: OptionalLine = ""
    gate_missing: list[Note] = []
    recognition_skipped: OptionalLine = ""
    steps: list[StepFile] = []
    recognitions: list[RecognitionFile] = []
    starts: list[StartFile] = []
    notes: list[BenchNoteFile] = []
    explanations: list[ExplanationFile] = []
    margin_edits: list[MarginEditFile] = []
    looked_at: Annotated[
        Instant | None, Field(description="When both its sides were first on a screen, verdict or not")
    ] = None

    @model_validator(mode="after")
    def _opening_dated(self) -> Self:
        if self.state == "open" and self.opened_at is None:
            raise ValueError("an open swap needs when it was “opened_at”")
        return self


class CandidateContent(Strict):
    """A part that might be bought, in a run file as over HTTP."""

    role: PartRole
    label: Line
    rated: Settings = {}
    price: PositiveMoney | None = None
    basis: Basis = "new"
    prerequisites: Note = ""
    expected_gain: Finite | None = None
    expected_from: OptionalLine = ""
    price_low: PositiveMoney | None = None
    price_high: PositiveMoney | None = None
    gain_low: Finite | None = None
    gain_high: Finite | None = None
    fit_said: FitWord | None = None
    fit_source: OptionalLine = ""
    worked: OptionalLine = ""
    alternative: Alternative = "part"
    ticked: Annotated[list[Line], Field(max_length=60)] = []

    @model_validator(mode="after")
    def _ranges(self) -> Self:
        for name, low, likely, high in (
            ("price", self.price_low, self.price, self.price_high),
            ("expected gain", self.gain_low, self.expected_gain, self.gain_high),
        ):
            ends = [end for end in (low, high) if end is not None]
            if ends and (likely is None or len(ends) < 2):
                raise ValueError(f"a range of the {name} has a low end, a high one, and what is likely between them")
            if ends and likely is not None and not ends[0] <= likely <= ends[1]:
                raise ValueError(f"the {name} must lie between its low and its high end")
        return self


class CandidateFile(CandidateContent, Identified):
    swap: Identifier | None = None
    set_aside: SetAsideFor = None
    recorded_at: Annotated[
        Instant | None, Field(description="Since when it is on record with its model and price")
    ] = None


class RecheckFile(Strict):
    id: Identifier
    build: Identifier
    due_on: Day
    plan: PlanFile = PlanFile()
    note: OptionalLine = ""
    done: StrictBool = False


class RunFile(Strict):
    """A machine with its builds, sittings, runs and swaps."""

    format: Literal["lynxbill-runs"]
    version: Literal[1]
    machine: MachineFile
    workloads: Annotated[list[WorkloadFile], Field(max_length=MOST_MEASURES)] = []
    measures: Annotated[list[MeasureFile], Field(max_length=MOST_MEASURES)] = []
    builds: Annotated[list[BuildFile], Field(max_length=MOST_BUILDS)] = []
    sittings: list[SittingFile] = []
    runs: list[RunFileRun] = []
    swaps: Annotated[list[SwapFile], Field(max_length=MOST_BUILDS)] = []
    plan: PlanFile | None = Field(default=None, description="The plan for the swap that comes next")
    candidates: list[CandidateFile] = []
    rechecks: list[RecheckFile] = []
    history: Annotated[
        OptionalLine,
        Field(
            description="Sum over what was shown, when it was written and what was changed since; absent or another "
            "one, nobody knows what was shown (history_unknown)"
        ),
    ] = ""
