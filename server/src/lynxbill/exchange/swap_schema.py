"""Swaps with their costs, checklists and ledger, as a run file has them."""

from typing import Annotated, Literal, Self

from pydantic import Field, StrictBool, StrictInt, model_validator

from lynxbill.core.record.swap import ExplanationState, NoteKind, OverWhat, Seen, Stage, SwapState
from lynxbill.core.record.vocabulary import FOUND_STEPS
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
    Positive,
    PositiveMoney,
    Rate,
    Settings,
    Strict,
)
from lynxbill.exchange.frame_schema import Minutes, PlanFile

FoundStep = Annotated[StrictInt, Field(ge=1, le=4, description="How it was found, the best first")] | None
_HOURS_A_DAY = 24


class RunningFile(Strict):
    """Electricity of both sides: W while it runs, or Wh a task; or the measures that they are taken from."""

    by: RunningBy
    a_day: Annotated[Positive, Field(le=100_000, description="Hours or tasks a day")]
    days_a_year: Annotated[Positive, Field(le=366)]
    before: Annotated[Finite, Field(ge=0)] | None = None
    after: Annotated[Finite, Field(ge=0)] | None = None
    power: Annotated[Identifier, Field(description="A measure in W")] | None = None
    time: Annotated[Identifier, Field(description="A measure in s: how long a task takes")] | None = None

    @model_validator(mode="after")
    def _both_sides(self) -> Self:
        if self.by == "hours" and self.a_day > _HOURS_A_DAY:
            raise ValueError("a day has 24 hours; write how many of them it runs in “a_day”")
        if self.power is None and (self.before is None or self.after is None):
            raise ValueError("write what both sides take in “before” and “after”, or the measure of it in “power”")
        if self.power is not None and self.by == "tasks" and self.time is None:
            raise ValueError("power makes the energy of a task with its time: name that measure in “time”")
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
    def _answer(self) -> Self:
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
    grounds: Note = ""

    @model_validator(mode="after")
    def _grounds_given(self) -> Self:
        if self.state != "untested" and not self.grounds.strip():
            raise ValueError(f"an explanation that is {self.state} needs its “grounds”")
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
    digest: OptionalLine = ""
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
