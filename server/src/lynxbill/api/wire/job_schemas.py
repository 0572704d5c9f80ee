"""What the core makes of a job, as it travels over HTTP."""

from typing import Annotated
from uuid import UUID

from pydantic import Field, model_validator

from lynxbill.core.change.difference import DifferenceKind
from lynxbill.core.change.fit import FitCheck
from lynxbill.core.plan.gate import LackCode
from lynxbill.core.plan.questions import QuestionCode
from lynxbill.core.record.build import FitWord, PartRole
from lynxbill.core.record.ids import Plain
from lynxbill.core.record.plan import Change, Order
from lynxbill.core.record.swap import NoteKind, Stage
from lynxbill.core.record.vocabulary import FigureKind
from lynxbill.core.terms.money import Basis, CostKind
from lynxbill.exchange.fields import Strict
from lynxbill.exchange.frame_schema import CandidateFile
from lynxbill.services.verdicts.jobs import WordedJob
from lynxbill.words.job.fit import say_fit, say_source
from lynxbill.words.job.planned import WordedStrength


class LackOut(Strict):
    code: LackCode
    message: str
    hint: bool


class QuestionOut(Strict):
    code: QuestionCode
    message: str
    about: str | None


class BenchTimeOut(Strict):
    minutes_a_side: float | None
    at_hand_a_side: float
    unattended_a_side: float | None
    minutes_a_sitting: float | None
    unknown: list[str]


class NoiseOut(Strict):
    sittings: int


class StrengthOut(Strict):
    measure: UUID
    noise: NoiseOut
    sittings_a_side: int
    sittings_needed: int | None


class PlanViewOut(Strict):
    questions: list[QuestionOut]
    time: BenchTimeOut
    strengths: list[StrengthOut]
    worded: dict[str, WordedStrength]


class DifferenceOut(Strict):
    key: str
    kind: DifferenceKind
    name: str
    before: str | None
    after: str | None
    follows: str | None


class DepartureOut(Strict):
    what: str
    before: str
    after: str


class SwapViewOut(Strict):
    swap: UUID
    differences: list[DifferenceOut]
    changes: list[str]
    questions: list[QuestionOut]
    departures: list[DepartureOut]
    lacks: list[LackOut]
    measured_after: bool
    untouched: bool
    plan: PlanViewOut


class FitCheckOut(Strict):
    word: FitWord
    reason: str
    source: str

    @model_validator(mode="before")
    @classmethod
    def _in_words(cls, check: FitCheck) -> dict[str, str]:
        return {"word": check.word, "reason": say_fit(check), "source": say_source(check)}


class FitOut(Strict):
    word: FitWord
    checks: list[FitCheckOut]
    unknown: list[str]


class RankedOut(Strict):
    candidate: CandidateFile
    fit: FitOut


class BuildMeanOut(Strict):
    build: UUID
    recheck: bool


class HistoryLineOut(Strict):
    measure: UUID
    points: list[BuildMeanOut]


class JobOut(Strict):
    lacks: list[LackOut]
    plan: PlanViewOut
    swaps: list[SwapViewOut]
    candidates: list[RankedOut]
    conditions: dict[str, list[str]]
    history: list[HistoryLineOut]
    worded: WordedJob


class PossibleOut(Strict):
    """What a figure can be on any PC, and what is said of one beyond."""

    low: float
    high: float
    beyond: str


class FigureOut(Strict):
    key: str
    label: str
    kind: FigureKind
    unit: str
    words: list[str]
    possible: PossibleOut | None


class VocabularyOut(Strict):
    parts: dict[PartRole, list[FigureOut]]
    limits: list[FigureOut]
    settings: list[FigureOut]
    conditions: list[FigureOut]
    run_conditions: list[FigureOut]
    found_steps: dict[NoteKind, list[str]]
    cost_kinds: Annotated[dict[CostKind, str], Field(description="What a kind of cost is called")]
    bases: Annotated[dict[Basis, str], Field(description="What a price is taken from, in words")]
    fresh_paste: Annotated[str, Field(description="What goes in where paste comes out and nobody names it")]
    margins: Annotated[dict[str, float], Field(description="From what change on it matters, by scale and kind")]


class TemplateOut(Strict):
    """`version` is null for a template that comes with the program."""

    id: str
    name: str
    change: Change
    advice: str
    sittings_a_side: int
    runs_a_sitting: int
    warm_ups: int
    rest_min: float
    soak_min: float
    order: Order
    conditions: dict[str, Plain]
    steps: list[tuple[Stage, str]]
    costs: list[CostKind]
    recheck_months: int | None
    version: int | None
