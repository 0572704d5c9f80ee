"""The run file: one JSON text that carries everything measured on a machine."""

import json
from collections import Counter
from collections.abc import Iterable, Iterator
from datetime import date
from decimal import Decimal
from typing import Annotated, Literal, Self

from pydantic import Field, ValidationError, field_validator, model_validator

from lynxbill.core import case as core
from lynxbill.core.errors import Refusal
from lynxbill.core.measure import Better, Kind, Measure, Role, Scale, check_reading
from lynxbill.core.money import CostKind, CostLine, book
from lynxbill.core.quantity import unit_of
from lynxbill.exchange.fields import (
    Currency,
    Finite,
    Identifier,
    Instant,
    Line,
    Note,
    OptionalLine,
    Position,
    PositiveMoney,
    Rate,
    Settings,
    Strict,
)
from lynxbill.exchange.problem import Problem, UnusableText

MAX_BYTES = 50 * 1024 * 1024
Positive = Annotated[Finite, Field(gt=0)]


class MachineFile(Strict):
    id: Identifier = "machine"
    name: Line
    currency: Currency
    labour_rate: PositiveMoney | None = None
    owner: OptionalLine = ""
    question: Note = ""
    decimal_mark: Literal[".", ","] = "."
    time_zone: OptionalLine = "UTC"


class MeasureFile(Strict):
    id: Identifier
    name: Line
    workload: Line
    unit: str
    scale: Scale
    kind: Kind = "other"
    better: Better
    step: Positive | None = None
    levels: list[Line] = []

    @field_validator("unit")
    @classmethod
    def known_unit(cls, code: str) -> str:
        """Refuse a UCUM code that means no unit here."""
        try:
            return unit_of(code).code
        except Refusal as refusal:
            raise ValueError(refusal.message) from refusal


class PartFile(Strict):
    id: Identifier
    role: core.PartRole
    label: Line
    rated: Settings = {}


class BuildFile(Strict):
    id: Identifier
    letter: Annotated[str, Field(min_length=1, max_length=3)] | None = None
    label: Line
    parts: list[PartFile] = []
    settings: Settings = {}


class SittingFile(Strict):
    id: Identifier
    build: Identifier
    purpose: core.Purpose = "plan"
    started_at: Instant
    ambient_c: Annotated[Finite, Field(ge=-60, le=80)] | None = None
    conditions: Settings = {}


class ReadingFile(Strict):
    """Either `value` or `low` and `high`."""

    value: Finite | None = None
    low: Finite | None = None
    high: Finite | None = None
    about: bool = False
    source: core.ReadingSource | None = None
    statistic: core.Statistic | None = None

    @model_validator(mode="after")
    def _one_form(self) -> Self:
        as_range = self.low is not None and self.high is not None and self.value is None
        as_value = self.low is None and self.high is None and self.value is not None
        if not (as_range or as_value):
            raise ValueError("give either “value”, or both “low” and “high”")
        if self.low is not None and self.high is not None and self.low > self.high:
            raise ValueError("“low” is above “high”")
        return self


class LateExclusionFile(Strict):
    reason: Line
    at: Instant | None = None


class RunFileRun(Strict):
    id: Identifier
    sitting: Identifier
    workload: Line
    workload_version: Identifier
    parameters: Settings = {}
    position: Position
    state: core.RunState
    reason: Line | None = None
    readings: Annotated[dict[Identifier, Finite | ReadingFile], Field(max_length=500)] = {}
    warm_up: bool = False
    target: Line | None = None
    pair_label: Line | None = None
    started_at: Instant | None = None
    duration_s: Annotated[Finite, Field(ge=0)] | None = None
    soak_s: Annotated[Finite, Field(ge=0)] | None = None
    excluded_late: LateExclusionFile | None = None

    @model_validator(mode="after")
    def _reason_given(self) -> Self:
        if self.state != "complete" and self.reason is None:
            raise ValueError(f"a {self.state} run needs a “reason”")
        return self


class PlannedMeasureFile(Strict):
    role: Role = "claim"
    matters_from: Positive
    hoped_for: Finite | None = None
    weight: Annotated[Finite, Field(ge=0)] = 1.0


class FixedPairFile(Strict):
    runs: Annotated[list[Identifier], Field(min_length=2, max_length=2)]
    reason: Line


class PlanFile(Strict):
    design: core.Design = "side_by_side"
    pair_by: core.PairBy = "order"
    sittings_a_side: Annotated[int, Field(ge=1, le=100)] | None = None
    runs_a_sitting: Annotated[int, Field(ge=1, le=10_000)] | None = None
    headline: Identifier | None = None
    measures: dict[Identifier, PlannedMeasureFile] = {}
    pairs: list[FixedPairFile] = []
    borrow_spread_from: list[Identifier] = []

    @model_validator(mode="after")
    def _pairs_if_paired(self) -> Self:
        if self.design == "paired" and self.pair_by == "none":
            raise ValueError("a “paired” design needs a rule in “pair_by”; “none” pairs nothing")
        return self


class CostFile(Strict):
    kind: CostKind
    label: Line
    amount: PositiveMoney
    currency: Currency
    low: PositiveMoney | None = None
    high: PositiveMoney | None = None
    rate: Rate | None = None
    rate_date: date | None = None

    @model_validator(mode="after")
    def _ordered(self) -> Self:
        low = self.amount if self.low is None else self.low
        high = self.amount if self.high is None else self.high
        if not low <= self.amount <= high:
            raise ValueError("“amount” must lie between “low” and “high”")
        return self


class SwapFile(Strict):
    id: Identifier | None = None
    before: Annotated[Identifier, Field(alias="from")]
    after: Annotated[Identifier, Field(alias="to")]
    label: Line
    side_changes: list[Line] = []
    plan: PlanFile = PlanFile()
    verdict_shown_for: list[Identifier] | None = None
    costs: list[CostFile] = []


class RunFile(Strict):
    """A machine with its builds, sittings, runs and swaps."""

    format: Literal["lynxbill-runs"]
    version: Literal[1]
    machine: MachineFile
    measures: list[MeasureFile] = []
    builds: list[BuildFile] = []
    sittings: list[SittingFile] = []
    runs: list[RunFileRun] = []
    swaps: list[SwapFile] = []
    plan: PlanFile | None = Field(default=None, description="The plan for the swap that comes next")


def read_run_file(text: str | bytes) -> core.Case:
    """
    Read a run file whole, or refuse it with every problem found.

    Raises UnusableText; nothing of a text with a problem is taken over.
    """
    if len(text) > MAX_BYTES:
        raise UnusableText([Problem("$", f"the file has {len(text) // 2**20} MB; at most 50 MB are read")])
    try:
        file = RunFile.model_validate_json(text)
    except ValidationError as error:
        raise UnusableText([_as_problem(dict(item)) for item in error.errors(include_url=False)]) from None
    problems = list(_find_problems(file))
    if problems:
        raise UnusableText(problems)
    return _to_case(file)


def write_run_file(case: core.Case) -> str:
    """Write a case as a run file that `read_run_file` reads back to the same case."""
    file = _from_case(case).model_dump(mode="json", by_alias=True, exclude_defaults=True)
    return json.dumps(file, indent=1)


def run_file_schema() -> dict[str, object]:
    """Describe the format as JSON Schema 2020-12."""
    described = RunFile.model_json_schema(by_alias=True)
    return {"$schema": "https://json-schema.org/draft/2020-12/schema", **described}


def _as_problem(error: dict[str, object]) -> Problem:
    steps = error["loc"] if isinstance(error["loc"], tuple) else ()
    # Pydantic names the tried member of a union ("float", "ReadingFile") as a step; it is no part of the path.
    named = [step for step in steps if not (isinstance(step, str) and step in ("float", "ReadingFile"))]
    path = "$" + "".join(f"[{step}]" if isinstance(step, int) else f".{step}" for step in named)
    message = str(error["msg"]).removeprefix("Value error, ")
    if error["type"] == "extra_forbidden":
        message = "this member is not part of the format; take it out or check its spelling"
    if error["type"] == "json_invalid":
        message = f"this is not valid JSON: {message}"
    return Problem(path, message)


def _find_problems(file: RunFile) -> Iterator[Problem]:
    """What a field alone can't tell: ids that repeat, references that lead nowhere, values of the wrong kind."""
    yield from _repeated("measures", [m.id for m in file.measures])
    yield from _repeated("builds", [b.id for b in file.builds])
    yield from _repeated("sittings", [s.id for s in file.sittings])
    yield from _repeated("runs", [r.id for r in file.runs])
    yield from _part_problems(file)
    yield from _sitting_problems(file)
    yield from _run_problems(file)
    yield from _swap_problems(file)


def _repeated(noun: str, ids: list[str]) -> Iterator[Problem]:
    seen: Counter[str] = Counter()
    for index, identifier in enumerate(ids):
        seen[identifier] += 1
        if seen[identifier] == 2:
            yield Problem(f"$.{noun}[{index}].id", f"“{identifier}” stands twice; ids are unique")


def _unknown(path: str, noun: str, identifier: str, known: Iterable[str]) -> Iterator[Problem]:
    if identifier not in known:
        yield Problem(path, f"there is no {noun} “{identifier}” in this file")


def _part_problems(file: RunFile) -> Iterator[Problem]:
    first: dict[str, PartFile] = {}
    for index, build in enumerate(file.builds):
        for number, part in enumerate(build.parts):
            if first.setdefault(part.id, part) != part:
                path = f"$.builds[{index}].parts[{number}]"
                yield Problem(path, f"part “{part.id}” is described differently in an earlier build; use another id")


def _sitting_problems(file: RunFile) -> Iterator[Problem]:
    builds = {build.id for build in file.builds}
    for index, sitting in enumerate(file.sittings):
        yield from _unknown(f"$.sittings[{index}].build", "build", sitting.build, builds)


def _run_problems(file: RunFile) -> Iterator[Problem]:
    sittings = {sitting.id for sitting in file.sittings}
    measures = {measure.id: measure for measure in file.measures}
    places: set[tuple[str, str, bool, int]] = set()
    for index, run in enumerate(file.runs):
        at = f"$.runs[{index}]"
        yield from _unknown(f"{at}.sitting", "sitting", run.sitting, sittings)
        place = (run.sitting, run.workload, run.warm_up, run.position)
        if place in places:
            yield Problem(
                f"{at}.position", f"sitting “{run.sitting}” already has a run {run.position} of “{run.workload}”"
            )
        places.add(place)
        for identifier in run.readings:
            path = f"{at}.readings.{identifier}"
            yield from _unknown(path, "measure", identifier, measures)
            if identifier in measures:
                yield from _reading_problems(path, measures[identifier], run)


def _reading_problems(path: str, measure: MeasureFile, run: RunFileRun) -> Iterator[Problem]:
    if measure.workload != run.workload:
        yield Problem(path, f"this measure belongs to workload “{measure.workload}”, the run to “{run.workload}”")
    reading = to_reading(run.readings[measure.id])
    try:
        for value in {reading.low, reading.high}:
            check_reading(value, to_measure(measure))
    except Refusal as refusal:
        yield Problem(path, refusal.message)


def _swap_problems(file: RunFile) -> Iterator[Problem]:
    builds = {build.id for build in file.builds}
    if file.plan is not None:
        yield from _plan_problems("$.plan", file.plan, file)
    for index, swap in enumerate(file.swaps):
        at = f"$.swaps[{index}]"
        yield from _unknown(f"{at}.from", "build", swap.before, builds)
        yield from _unknown(f"{at}.to", "build", swap.after, builds)
        if swap.before == swap.after:
            yield Problem(f"{at}.to", "a swap leads to another build; “from” and “to” are the same")
        yield from _plan_problems(f"{at}.plan", swap.plan, file)
        for number, line in enumerate(swap.costs):
            try:
                book(_cost(line), file.machine.currency)
            except Refusal as refusal:
                yield Problem(f"{at}.costs[{number}].{refusal.field or 'amount'}", refusal.message)


def _plan_problems(at: str, plan: PlanFile, file: RunFile) -> Iterator[Problem]:
    measures = {measure.id for measure in file.measures}
    runs = {run.id for run in file.runs}
    for identifier in plan.measures:
        yield from _unknown(f"{at}.measures.{identifier}", "measure", identifier, measures)
    if plan.headline is not None:
        yield from _unknown(f"{at}.headline", "measure", plan.headline, measures)
    for number, pair in enumerate(plan.pairs):
        for run in pair.runs:
            yield from _unknown(f"{at}.pairs[{number}].runs", "run", run, runs)


def _to_case(file: RunFile) -> core.Case:
    machine = file.machine.model_dump() | {
        "labour_rate": None if file.machine.labour_rate is None else str(file.machine.labour_rate)
    }
    return core.Case(
        machine=core.Machine(**machine),
        measures=tuple(to_measure(measure) for measure in file.measures),
        builds=tuple(_build(build) for build in file.builds),
        sittings=tuple(
            core.Sitting(s.id, s.build, s.purpose, s.started_at, s.ambient_c, dict(s.conditions))
            for s in file.sittings
        ),
        runs=tuple(_run(run) for run in file.runs),
        swaps=tuple(_swap(swap, number) for number, swap in enumerate(file.swaps, start=1)),
        open_plan=to_plan(file.plan) if file.plan else None,
    )


def to_measure(measure: MeasureFile) -> Measure:
    """Bring a measure as written into the core's."""
    return Measure(**(measure.model_dump() | {"levels": tuple(measure.levels)}))


def _build(build: BuildFile) -> core.Build:
    parts = tuple(core.Part(p.id, p.role, p.label, dict(p.rated)) for p in build.parts)
    return core.Build(build.id, build.letter or build.id[:3], build.label, parts, dict(build.settings))


def _run(run: RunFileRun) -> core.Run:
    late = run.excluded_late
    return core.Run(
        id=run.id,
        sitting_id=run.sitting,
        workload=run.workload,
        workload_version=run.workload_version,
        position=run.position,
        state=run.state,
        readings={key: to_reading(value) for key, value in run.readings.items()},
        parameters=dict(run.parameters),
        reason=run.reason,
        warm_up=run.warm_up,
        target=run.target,
        pair_label=run.pair_label,
        started_at=run.started_at,
        duration_s=run.duration_s,
        soak_s=run.soak_s,
        excluded_late=core.LateExclusion(late.reason, late.at) if late else None,
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


def _cost(line: CostFile) -> CostLine:
    return CostLine(**line.model_dump())


def _swap(swap: SwapFile, number: int) -> core.Swap:
    shown = swap.verdict_shown_for
    return core.Swap(
        id=swap.id or f"swap-{number}",
        before=swap.before,
        after=swap.after,
        label=swap.label,
        plan=to_plan(swap.plan),
        side_changes=tuple(swap.side_changes),
        verdict_shown_for=None if shown is None else tuple(shown),
        costs=tuple(_cost(line) for line in swap.costs),
    )


def to_plan(plan: PlanFile) -> core.Plan:
    """Bring a plan as written into the core's."""
    return core.Plan(
        design=plan.design,
        pair_by=plan.pair_by,
        sittings_a_side=plan.sittings_a_side,
        runs_a_sitting=plan.runs_a_sitting,
        headline=plan.headline,
        measures={key: core.PlannedMeasure(**value.model_dump()) for key, value in plan.measures.items()},
        pairs=tuple(core.FixedPair(pair.runs[0], pair.runs[1], pair.reason) for pair in plan.pairs),
        borrow_spread_from=tuple(plan.borrow_spread_from),
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
    )


def _from_case(case: core.Case) -> RunFile:
    return RunFile(
        format="lynxbill-runs",
        version=1,
        machine=MachineFile(
            id=case.machine.id,
            name=case.machine.name,
            currency=case.machine.currency,
            labour_rate=None if case.machine.labour_rate is None else Decimal(case.machine.labour_rate),
            owner=case.machine.owner,
            question=case.machine.question,
            decimal_mark=case.machine.decimal_mark,
            time_zone=case.machine.time_zone,
        ),
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
    )


def _from_run(run: core.Run) -> RunFileRun:
    late = run.excluded_late
    return RunFileRun(
        id=run.id,
        sitting=run.sitting_id,
        workload=run.workload,
        workload_version=run.workload_version,
        parameters=dict(run.parameters),
        position=run.position,
        state=run.state,
        reason=run.reason,
        readings={key: from_reading(value) for key, value in run.readings.items()},
        warm_up=run.warm_up,
        target=run.target,
        pair_label=run.pair_label,
        started_at=run.started_at,
        duration_s=run.duration_s,
        soak_s=run.soak_s,
        excluded_late=LateExclusionFile(reason=late.reason, at=late.at) if late else None,
    )


def _from_swap(swap: core.Swap) -> SwapFile:
    return SwapFile(
        id=swap.id,
        **{"from": swap.before, "to": swap.after},
        label=swap.label,
        side_changes=list(swap.side_changes),
        plan=from_plan(swap.plan),
        verdict_shown_for=None if swap.verdict_shown_for is None else list(swap.verdict_shown_for),
        costs=[CostFile.model_validate(line) for line in swap.costs],
    )
