"""The written form of a comparison: what `lynxbill judge` prints and the server answers."""

from datetime import datetime
from decimal import Decimal
from typing import Annotated

from pydantic import Field

from lynxbill.core.change.context import Side
from lynxbill.core.judgement.verdict import Remark, VerdictWord
from lynxbill.core.result.flags import FlagCode
from lynxbill.core.result.result import Grade
from lynxbill.core.result.settling import Goal, WayName
from lynxbill.core.result.shares import ShareNote
from lynxbill.core.statistics.estimate import Basis
from lynxbill.core.terms.measure import Role
from lynxbill.core.value.better import BetterNote, Winner
from lynxbill.core.value.value import ValueNote
from lynxbill.exchange.fields import Strict

RunId = str


class UnpairedOut(Strict):
    run: RunId
    reason: str


class CompanionsOut(Strict):
    """Figures shown on demand that never decide; null where they can't exist for the design."""

    sign_flip_p: float | None
    hodges_lehmann: float | None
    signed_rank_p: float | None
    mann_whitney_p: float | None
    welch_p: float | None


class SummaryOut(Strict):
    """Runs of one side that count, in the measure's unit; `sd` over all runs, sittings not told apart."""

    runs: int
    mean: float
    median: float
    sd: float | None
    low: float
    high: float


class FlagOut(Strict):
    code: FlagCode
    message: str


class WayOut(Strict):
    """One way to settle a measure: where it leads, what both sides together still need, and its chance."""

    name: WayName
    goal: Goal
    sittings_a_side: int
    more_sittings: int
    more_runs: int
    minutes: float | None
    minutes_at_hand: float
    chance: float


class SettlingOut(Strict):
    """What would settle a measure, the fewest sittings first."""

    ways: list[WayOut]
    matters_from_least: Annotated[
        float | None,
        Field(description="Where twenty sittings do not do: what they would show, on the estimate's scale"),
    ]
    short_block: Annotated[
        bool, Field(description="Too few sittings stand before the swap for further ones after it to settle it")
    ]


class FirstShownOut(Strict):
    """What was first said of a measure to somebody."""

    at: datetime
    look: int | None
    level: float
    verdict: Annotated[str, Field(description="Empty where only that it was shown is known")]
    gain: Annotated[float | None, Field(description="On the estimate's scale")]
    low: float | None
    high: float | None
    rules: Annotated[int | None, Field(description="Number of the rules that it was reached by; null: not known")]


class TodayOut(Strict):
    """What today's rules say of readings whose verdict was given by earlier ones, which leads."""

    rules: int
    verdict: VerdictWord
    remark: Remark | None
    estimate: float | None
    ci_low: float | None
    ci_high: float | None
    p: float | None


class WithLateOut(Strict):
    """The same measure with all that was taken out or changed after readings had been seen."""

    verdict: VerdictWord
    remark: Remark | None
    runs_before: int
    runs_after: int
    estimate: float | None
    ci_low: float | None
    ci_high: float | None
    gain_percent: float | None
    p: float | None


class CeilingOut(Strict):
    """A measured mean beside what its link or bus carries, in MB/s."""

    side: Side
    part: str
    measured: float
    raw: float
    usable: float
    loss_known: bool
    limited_by: str
    share_percent: float


class RatedOut(Strict):
    side: Side
    part: str
    figure: str
    measured: float
    rated: float
    share_percent: float
    reachable: bool


class RealisedOut(Strict):
    figure: str
    before: float
    after: float
    increase_percent: float
    share_percent: float


class VerdictOut(Strict):
    """What a sentence says of a measure: the change, its interval, and the verdict on it."""

    basis: Basis | None
    provisional: bool
    runs_before: int
    runs_after: int
    passed_before: Annotated[int | None, Field(description="Runs that passed, of an outcome")]
    passed_after: int | None
    estimate: float | None
    ci_low: float | None
    ci_high: float | None
    gain_percent: float | None
    gain_low: float | None
    gain_high: float | None
    verdict: VerdictWord
    shown: Annotated[bool, Field(description="The ledger holds this verdict for this evidence")]
    can_be_shown: Annotated[bool, Field(description="There is a verdict that somebody may be given")]


class MeasureResultOut(VerdictOut):
    role: Role
    matters_from: float
    hoped_for: float | None
    bound: Annotated[float, Field(description="Half-width of the band that does not matter, on the estimate's scale")]
    pairs: list[tuple[RunId, RunId]]
    unpaired: list[UnpairedOut]
    units_before: int
    units_after: int
    above_room: Annotated[bool, Field(description="Temperatures stand as their rise above the room, in K")]
    before_mean: Annotated[float | None, Field(description="Mean behind the estimate: geometric for a ratio measure")]
    after_mean: float | None
    summary_before: SummaryOut | None
    summary_after: SummaryOut | None
    sd: float | None
    se: float | None
    df: float | None
    ci90_low: float | None
    ci90_high: float | None
    p: float | None
    p_adjusted: float | None
    time_saved_percent: float | None
    rise_saved_percent: Annotated[float | None, Field(description="Change as a share of the rise above the room")]
    p_equivalence: float | None
    e_value: float | None
    break_even: float | None
    grade: Grade | None
    companions: CompanionsOut
    least_rank_p: Annotated[float | None, Field(description="The smallest p that so few sittings could give ranks")]
    remark: Remark | None
    sittings_to_settle: int | None
    settling: SettlingOut | None
    noise_floor: Annotated[
        float | None,
        Field(description="What the unchanged machine shows between two such sides, on the estimate's scale"),
    ]
    within_floor: Annotated[bool, Field(description="The change is no larger than the noise floor")]
    with_late: WithLateOut | None
    level: Annotated[float | None, Field(description="Level of the interval that decided")]
    look: Annotated[int | None, Field(description="Number of the plan's look; null: at another time")]
    sides_differ: Annotated[bool, Field(description="Their scatter differs, and Welch's interval decided")]
    first_shown: FirstShownOut | None
    changed: Annotated[bool, Field(description="Its readings are others since it was first shown")]
    rules: Annotated[int, Field(description="Number of the rules that the verdict here was reached by")]
    today: Annotated[
        TodayOut | None, Field(description="What today's rules say, where a verdict given by earlier ones leads")
    ]
    ceilings: list[CeilingOut]
    rated: list[RatedOut]
    realised: list[RealisedOut]
    flags: list[FlagOut]


class OverallOut(Strict):
    """`waiting`: a claim waits for its verdict. The verdict is against the weighted band that does not matter."""

    basis: Basis | None
    waiting: bool
    provisional: bool
    verdict: VerdictWord | None
    remark: Remark | None
    level: float | None
    look: int | None
    gain_percent: float | None
    low: float | None
    high: float | None
    measures: list[str]


class ValueOut(Strict):
    """What 10 units of currency bought of a measure, in its own unit, or why that can't be said."""

    gain_per_10: float | None
    low: float | None
    high: float | None
    note: ValueNote | None


class ClaimValueOut(ValueOut):
    cost_per_item: Annotated[float | None, Field(description="Of an outcome: cost of each further thing that passes")]


class BillOut(ValueOut):
    """What the swaps cost and what that bought of the measure that leads; `values` of every claim."""

    net_cost: Decimal | None
    currency: str
    values: dict[str, ClaimValueOut]


class ShareOut(Strict):
    """Which share of a job waited for the swapped part, and what a faster one could still give (times as fast)."""

    job: str
    part_measure: str
    share: float | None
    low: float | None
    high: float | None
    still_waits: float | None
    most_left: float | None
    note: ShareNote | None


class TraitPointOut(Strict):
    measure: str
    value: float
    estimate: float


class TrendOut(Strict):
    """
    How gains lie along a numeric parameter of the workloads; a description, no test.

    `rising` and `falling` count pairs of jobs of which the one with the larger trait gained more, or less. With `few`
    points, or traits in `moves_with` that go along with this one, it is a suggestion only.
    """

    trait: str
    points: list[TraitPointOut]
    rising: int
    falling: int
    tau: float | None
    few: bool
    moves_with: list[str]


class BetterOut(Strict):
    """The probability that this comparison was better value than another; `winner` from 95 % on."""

    before: str
    after: str
    probability: float | None
    winner: Winner | None
    note: BetterNote | None


class ComparisonOut(Strict):
    """`lead` is the measure that everything said of it begins with: the headline, else the first claim."""

    before: str
    after: str
    lead: str | None
    planned: Annotated[bool, Field(description="The plan grants a look; else the anytime rule holds throughout")]
    first_look: Annotated[int | None, Field(description="Sittings a side of the plan's first look")]
    second_look: int | None
    attempt: Annotated[int, Field(description="1, or how often it was measured over and one")]
    revision: Annotated[
        int | None, Field(description="Of the machine on its server, as it was judged; null elsewhere")
    ]
    evidence_revision: int | None
    closes: Annotated[list[str], Field(description="Open sittings it rests on: giving verdicts closes them")]
    measures: dict[str, MeasureResultOut]
    overall: OverallOut
    bill: BillOut
    changes: list[str]
    shares: list[ShareOut]
    trends: list[TrendOut]
    better_value: list[BetterOut]
