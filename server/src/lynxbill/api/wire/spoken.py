"""Comparisons as they travel to a screen: what stands, and what is said of it; all figures are the verdict file's."""

from collections.abc import Sequence
from typing import Annotated

from pydantic import Field, TypeAdapter

from lynxbill.core.judgement.verdict import Remark, VerdictWord
from lynxbill.core.result.flags import FlagCode
from lynxbill.core.terms.measure import Role
from lynxbill.exchange.fields import Instant, Strict
from lynxbill.exchange.verdict_file import describe
from lynxbill.services.verdicts.comparisons import Compared
from lynxbill.words.report.beside import say_beside
from lynxbill.words.results.comparison import say_comparison
from lynxbill.words.results.statistics import say_statistics
from lynxbill.words.results.voice import Voice


class WordedOut(Strict):
    """A result in words, with the machine's decimal mark: every figure rounded by its interval."""

    change: str
    both: Annotated[str, Field(description="The two readings, or what passed of how many")]
    forms: Annotated[list[str], Field(description="The change in every way that it may be said")]
    before: str
    after: str
    unit: Annotated[str, Field(description="Of the two means: K where temperatures stand above the room")]
    interval: str | None
    level: str
    why: Annotated[str | None, Field(description="Why the verdict is what it is, in few words")]
    remark: Annotated[str | None, Field(description="The same in full, and what would help")]
    grade: str | None
    margin: str
    hoped: str | None
    floor: str | None
    rise: str | None
    settling: str | None
    late: str | None
    first: Annotated[str | None, Field(description="What was first said of it, where that is another thing now")]
    today: Annotated[
        str | None, Field(description="What today's rules say, where a verdict given by earlier ones leads")
    ]
    context: Annotated[list[str], Field(description="It set against ceilings, ratings and its share of the task")]
    drawn: "SpanOut | None"


class SpanOut(Strict):
    """Where a result stands on its axis: percent for ratios, the unit otherwise; right is better."""

    estimate: float
    low: float | None
    high: float | None
    margin_low: float
    margin_high: float


class WordedSidesOut(Strict):
    name: str
    before: str
    after: str


class WordedFigureOut(Strict):
    """A figure as it was computed, to seven digits."""

    name: str
    value: str


class WordedStatisticsOut(Strict):
    """One result for the next technician: both sides in figures, the rule, and every figure behind the verdict."""

    sides: list[WordedSidesOut]
    rule: str | None
    figures: list[WordedFigureOut]


class WordedTrendOut(Strict):
    """Whether the gain follows a trait of the jobs, and why it is no rule; `points` say what its picture shows."""

    trait: str
    says: str
    doubt: str | None
    points: str


class WordedBesideOut(Strict):
    """
    What no reading shows and nobody may forget, a line each; `basis` is what the comparison rests on, `history` by
    measure each verdict that was given of it, where there was more than one.
    """

    basis: str
    history: dict[str, list[str]]
    waivers: list[str]
    drawbacks: list[str]
    found: list[str]


class WordedOfAllOut(Strict):
    """A comparison in words: what got worse, what works now; then what bears on all of it."""

    losses: str | None
    rest: str
    counts: str | None
    look: str | None
    controls: str | None
    bundle: str | None
    joint: Annotated[str | None, Field(description="Heat with fan, sound, power and clock of the same runs")]
    measures: dict[str, WordedOut]
    trends: list[WordedTrendOut]


class FirstShownOut(Strict):
    """When a verdict was first given to somebody."""

    at: Instant


class UnpairedOut(Strict):
    run: str
    reason: str


class FlagOut(Strict):
    code: FlagCode
    message: str


class ResultOut(Strict):
    """How a measure stands; its figures and sentences are in `SaidOut` and `SaidStatisticsOut`."""

    role: Role
    verdict: VerdictWord
    remark: Remark | None
    provisional: bool
    shown: Annotated[bool, Field(description="The ledger holds this verdict for this evidence")]
    can_be_shown: Annotated[bool, Field(description="There is a verdict that somebody may be given")]
    first_shown: FirstShownOut | None
    runs_before: int
    runs_after: int
    units_before: int
    units_after: int
    pairs: list[tuple[str, str]]
    unpaired: list[UnpairedOut]
    above_room: Annotated[bool, Field(description="Temperatures stand as their rise above the room, in K")]
    estimate: float | None
    gain_low: float | None
    gain_high: float | None
    within_floor: Annotated[bool, Field(description="The change is no larger than the noise floor")]
    flags: list[FlagOut]


class TraitPointOut(Strict):
    measure: str
    value: float
    estimate: float


class TrendOut(Strict):
    """How gains lie along a numeric parameter of the workloads: a point a measure."""

    trait: str
    points: list[TraitPointOut]


class ComparisonOut(Strict):
    """`lead` is the measure that everything said of it begins with: the headline, else the first claim."""

    before: str
    after: str
    lead: str | None
    attempt: Annotated[int, Field(description="1, or how often it was measured over and one")]
    revision: Annotated[int | None, Field(description="Of the machine on its server, as it was judged")]
    evidence_revision: int | None
    closes: Annotated[list[str], Field(description="Open sittings it rests on: giving verdicts closes them")]
    measures: dict[str, ResultOut]
    trends: list[TrendOut]


class SpokenOut(ComparisonOut):
    """A comparison with what is said of it, for whoever shows it."""

    worded: WordedOfAllOut
    beside: WordedBesideOut
    statistics: dict[str, WordedStatisticsOut]


_COMPARISONS = TypeAdapter(list[SpokenOut])


def write_comparison(compared: Compared) -> str:
    """Write a comparison as it is kept and sent."""
    return _speak(compared).model_dump_json()


def write_comparisons(compared: Sequence[Compared]) -> str:
    """Write several, as they are kept and sent."""
    return _COMPARISONS.dump_json([_speak(one) for one in compared]).decode()


def _speak(compared: Compared) -> SpokenOut:
    comparison, case = compared.placing.comparison, compared.case
    mark = case.machine.decimal_mark
    statistics = {
        result.measure.id: WordedStatisticsOut.model_validate(say_statistics(result, mark))
        for result in comparison.measures
    }
    described = ComparisonOut.model_validate(describe(compared.placing, Voice(mark), compared.counts))
    # Its members were validated just now.
    return SpokenOut.model_construct(
        **dict(described),
        worded=WordedOfAllOut.model_validate(say_comparison(comparison, mark)),
        beside=WordedBesideOut.model_validate(say_beside(case, comparison)),
        statistics=statistics,
    )
