"""What a machine is and what is planned of it, as a run file has it."""

from typing import Annotated, Literal, Self

from pydantic import Field, StrictBool, StrictInt, field_validator, model_validator

from lynxbill.core.plan.agreement import check_looks
from lynxbill.core.record.build import Alternative, FitWord, PartRole, Wear
from lynxbill.core.record.plan import Change, Design, Order, PairBy
from lynxbill.core.record.run import Statistic
from lynxbill.core.terms.errors import Refusal
from lynxbill.core.terms.measure import Better, Combined, Kind, Role, Scale, Summary, TraceFigure
from lynxbill.core.terms.money import Basis
from lynxbill.exchange.fields import (
    Currency,
    Day,
    Finite,
    Identifier,
    Instant,
    Line,
    Note,
    OptionalLine,
    Positive,
    PositiveMoney,
    Settings,
    Strict,
    Unit,
)

Minutes = Annotated[Finite, Field(ge=0, le=10_000)]
RatedKey = Annotated[
    str,
    Field(min_length=1, max_length=60, description="Key of a part's rated figure that the measure is set against"),
]
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
    tasks_a_week: Annotated[Positive, Field(le=100_000)] | None = None
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
    per_parameter: Annotated[Line, Field(description="Size of the task that a derived one is divided by")] | None = (
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
    fit_answer: FitWord | None = None
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
