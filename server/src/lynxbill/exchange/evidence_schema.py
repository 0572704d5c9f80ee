"""Sittings, runs and traces, as a run file has them."""

from datetime import datetime
from typing import Annotated, Self

from pydantic import Field, StrictBool, StrictInt, model_validator

from lynxbill.core.heat.roles import ChannelRole
from lynxbill.core.heat.trace import MOST_SAMPLES, TraceSource, check_samples
from lynxbill.core.record.run import BootBy, HeldBack, Purpose, ReadingSource, RunState, Statistic
from lynxbill.core.terms.errors import Refusal
from lynxbill.exchange.fields import (
    Finite,
    Identifier,
    Instant,
    Line,
    Note,
    OptionalLine,
    Plain,
    Position,
    Settings,
    Strict,
    Unit,
)
from lynxbill.exchange.frame_schema import Identified


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
