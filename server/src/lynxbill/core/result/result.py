"""The result of a comparison: what the runs say of each measure, and of all work together."""

from collections.abc import Iterable, Sequence
from dataclasses import dataclass, replace
from typing import Literal

from lynxbill.core.change.context import NO_CONTEXT, Context
from lynxbill.core.judgement.ledger import RULES, SETTLED
from lynxbill.core.judgement.pairing import Pairing
from lynxbill.core.judgement.ruling import Terms, by_runs, oriented_mean
from lynxbill.core.judgement.sitting import LeftOut, Sides, SittingUnit
from lynxbill.core.judgement.verdict import WAITING, Remark, Verdict, VerdictWord
from lynxbill.core.plan.agreement import Agreement
from lynxbill.core.plan.planning import Effort
from lynxbill.core.record.ids import SittingId
from lynxbill.core.record.ledger_entries import Showing
from lynxbill.core.record.plan import Design, Plan, PlannedMeasure
from lynxbill.core.result.companions import Companions, companions_of, least_rank_p
from lynxbill.core.result.flags import Flag
from lynxbill.core.result.settling import SoFar, ToSettle, what_would_settle
from lynxbill.core.result.shares import ImpliedShare
from lynxbill.core.result.summary import Summary, summarise
from lynxbill.core.result.traits import Trend
from lynxbill.core.statistics.estimate import Estimate, equivalence_p
from lynxbill.core.statistics.scatter import Noise
from lynxbill.core.terms.measure import Measure, gain_percent, restore, time_saved_percent

# How good the evidence is, best first; beside the verdict, never instead of it.
Grade = Literal[
    "full_plan",
    "block_order",
    "one_mount",
    "boots_unknown",
    "from_notes",
    "part_as_told",
    "margin_changed",
    "conditions_differ",
    "closed_short",
    "corrected_late",
    "history_unknown",
    "changed_after_verdict",
    "unplanned",
    "early_look",
    "one_sitting",
    "one_run",
    "told",
]


@dataclass(frozen=True, slots=True)
class MeasureResult:
    """
    What the runs say of one measure.

    `bound` is the half-width of the band that does not matter, on the scale of judgement. `estimate` is the
    oriented difference where both sides have a run; `interval` is the rule that decided, None where no rule
    may speak (yet); its figures and the verdict always agree. `terms` say on what terms it did: at which look, at
    which level. `with_late` is the same measure judged with all that was taken out or changed after its readings had
    been seen; None where nothing was, `late` the runs that were; `closed_short`: nothing but a sitting
    that was closed short of its plan. `efforts` are what the ways of `to_settle` take.
    `first_shown` is what was first said of it to somebody, `shown` whether the ledger holds this verdict for this
    evidence, `changed` whether its evidence is another one since. Where a verdict given by earlier rules leads, its
    number is `rules`, and `today` is what today's rules say of the same readings.
    """

    measure: Measure
    planned: PlannedMeasure
    bound: float
    pairing: Pairing
    sides: Sides
    estimate: float | None
    interval: Estimate | None
    verdict: Verdict
    provisional: bool
    terms: Terms
    design: Design
    agreement: Agreement
    exact_p: float | None = None
    p_adjusted: float | None = None
    noise: Noise | None = None
    settling: ToSettle | None = None
    efforts: tuple[Effort, ...] = ()
    floor: float | None = None
    flags: tuple[Flag, ...] = ()
    grade: Grade | None = None
    context: Context = NO_CONTEXT
    with_late: "MeasureResult | None" = None
    late: tuple[LeftOut, ...] = ()
    closed_short: bool = False
    first_shown: Showing | None = None
    shown: bool = False
    changed: bool = False
    rules: int = RULES
    today: "MeasureResult | None" = None

    @property
    def complete(self) -> bool:
        """Whether one of the plan's looks is due and judged here."""
        return self.terms.look is not None and self.verdict.remark != "waits_for_sitting"

    @property
    def level(self) -> float | None:
        """The level of the interval that decided."""
        return self.interval.level if self.interval is not None else None

    @property
    def sittings(self) -> tuple[SittingId, ...]:
        """The sittings that it rests on."""
        return tuple(sorted({s.id for unit in self.sides.units for s in unit.sittings}))

    @property
    def can_be_shown(self) -> bool:
        """Whether there is a verdict here that somebody may be given: at a look, or whenever it is settled."""
        settled = self.verdict.word in SETTLED
        return self.planned.role != "watch" and (settled or (self.complete and self.verdict.word == "not_settled"))

    @property
    def is_given(self) -> bool:
        """Whether what is said of it may stand anywhere: no verdict is in it that Judge has not given yet."""
        return self.shown or not self.can_be_shown

    @property
    def to_settle(self) -> ToSettle:
        """What would settle it: as it was worked out with the comparison, else now."""
        if self.settling is not None:
            return self.settling
        sides, so_far = self.sides, None
        if self.noise is not None and self.estimate is not None:
            so_far = SoFar(len(sides.before), len(sides.after), self.estimate, self.noise)
        planned, agreement = self.planned, self.agreement
        return what_would_settle(so_far, self.verdict, self.measure, planned, agreement, self.terms)

    @property
    def waits(self) -> bool:
        """Whether its verdict can't be given yet; one run a side waits for nothing."""
        return self.verdict.remark in WAITING

    @property
    def is_claim_of_work(self) -> bool:
        """Whether it enters the overall gain, whatever its verdict."""
        return self.measure.is_work and self.planned.role == "claim" and self.estimate is not None

    @property
    def within_floor(self) -> bool:
        """Whether the change is no larger than what the unchanged machine shows between sittings."""
        return self.floor is not None and self.estimate is not None and abs(self.estimate) <= self.floor

    @property
    def may_be_large(self) -> bool:
        """
        Whether a gain was called that stands less than twice as far from zero as it had to.

        Of such gains those are found that chance made larger: a true one of 1.5 sd, just found at 3 + 3, is told 1.45
        times on average. Source: docs/judgement.md, "Value".
        """
        interval = self.interval
        if interval is None or self.verdict.word != "real_gain":
            return False
        return interval.estimate < interval.high - interval.low

    @property
    def is_tested(self) -> bool:
        """Whether figures of tests may stand beside it: not before a look that settles nothing else yet."""
        return self.complete or self.verdict.word in SETTLED

    @property
    def companions(self) -> Companions:
        """Rank and permutation figures on the same units, made when they are asked for; none before a look."""
        return companions_of(self.sides, self.pairing, self.design) if self.is_tested else Companions()

    @property
    def least_rank_p(self) -> float | None:
        """The smallest p that so few sittings could give a test of ranks, whatever the readings."""
        if not self.is_tested or self.sides.short or not self.sides.before or not self.sides.after:
            return None
        pairs = len(self.pairing.sittings) if self.design == "paired" else None
        return least_rank_p(len(self.sides.before), len(self.sides.after), pairs)

    @property
    def summaries(self) -> tuple[Summary | None, Summary | None]:
        """Both sides in a few figures, before and after."""
        return summarise(self.sides.before, self.measure), summarise(self.sides.after, self.measure)

    @property
    def p(self) -> float | None:
        """The p that the measure enters its family with; None where no rule gives one."""
        return self.interval.p if self.interval else self.exact_p

    @property
    def before_mean(self) -> float | None:
        return self._mean(self.sides.before)

    @property
    def after_mean(self) -> float | None:
        return self._mean(self.sides.after)

    def _mean(self, side: tuple[SittingUnit, ...]) -> float | None:
        return restore(oriented_mean(side, self.by_runs), self.measure) if side else None

    @property
    def by_runs(self) -> bool:
        """Whether the estimate is a difference of run means (the guard) rather than of sitting units."""
        return by_runs(self.sides, self.interval)

    @property
    def p_equivalence(self) -> float | None:
        if self.interval is None or self.interval.p is None or self.interval.basis == "anytime":
            return None
        return equivalence_p(self.interval.estimate, self.interval.se, self.interval.df, self.bound)

    @property
    def gain_percent(self) -> float | None:
        if self.estimate is None or self.measure.scale != "ratio":
            return None
        return gain_percent(self.estimate)

    @property
    def time_saved_percent(self) -> float | None:
        if self.estimate is None or self.measure.kind != "time" or self.measure.scale != "ratio":
            return None
        return time_saved_percent(self.estimate)

    @property
    def rise_saved_percent(self) -> float | None:
        """The change as a share of the rise above the room before; the one percent that a temperature may have."""
        above = self.sides.above_room or (self.measure.unit == "K" and self.measure.kind == "heat")
        before = self.before_mean
        if not above or self.estimate is None or before is None or before <= 0:
            return None
        return 100 * self.estimate / before

    @property
    def passed(self) -> tuple[int, int] | None:
        """Of an outcome: how many of what was tried passed before and after; None for other scales."""
        if self.measure.scale != "outcome":
            return None
        return _passes(self.sides.before, self.measure), _passes(self.sides.after, self.measure)


def _passes(side: Iterable[SittingUnit], measure: Measure) -> int:
    return sum(round(abs(value) * measure.whole) for unit in side for value in unit.values)


_TURNED_WORDS: dict[VerdictWord, VerdictWord] = {"real_gain": "real_loss", "real_loss": "real_gain"}
_TURNED_REMARKS: dict[Remark, Remark] = {
    "small_but_detectable_gain": "small_but_detectable_loss",
    "small_but_detectable_loss": "small_but_detectable_gain",
    "before_missing": "after_missing",
    "after_missing": "before_missing",
}


def turned_round(result: MeasureResult) -> MeasureResult:
    """
    Say a result the other way round: C with B is the mirror image of B with C.

    Args:
        result: after against before.
    Returns: the same rule and evidence, every figure and word turned.
    """
    sides, pairing, interval = result.sides, result.pairing, result.interval
    word, remark = result.verdict.word, result.verdict.remark
    return replace(
        result,
        sides=replace(sides, before=sides.after, after=sides.before),
        pairing=replace(
            pairing,
            pairs=tuple((after, before) for before, after in pairing.pairs),
            sittings=tuple((j, i) for i, j in pairing.sittings),
        ),
        estimate=None if result.estimate is None else -result.estimate,
        interval=None
        if interval is None
        else replace(
            interval,
            estimate=-interval.estimate,
            low=-interval.high,
            high=-interval.low,
            low90=-interval.high90,
            high90=-interval.low90,
        ),
        verdict=Verdict(_TURNED_WORDS.get(word, word), _TURNED_REMARKS.get(remark, remark) if remark else None),
        with_late=turned_round(result.with_late) if result.with_late is not None else None,
        today=turned_round(result.today) if result.today is not None else None,
    )


def leading_claim(results: Sequence[MeasureResult], headline: str | None) -> MeasureResult | None:
    """
    Find the measure that everything said of a comparison begins with: the headline, else the first claim.

    Args:
        results: the results of one comparison.
        headline: id of the measure that decides, or None.
    Returns: the first of all where nothing is claimed; None where nothing was measured or planned.
    """
    named = (result for result in results if result.measure.id == headline)
    claims = (result for result in results if result.planned.role == "claim")
    return next(named, None) or next(claims, None) or next(iter(results), None)


@dataclass(frozen=True, slots=True)
class Overall:
    """
    All claims of work together, by their weights.

    `difference` is the log gain; `estimate` is None where no rule gives an interval (yet). `waiting` says that a
    claim waits for its verdict; `bound` is the weighted band that does not matter, against which `verdict` is
    reached.
    """

    measures: tuple[str, ...]
    difference: float
    estimate: Estimate | None
    waiting: bool
    provisional: bool
    bound: float
    verdict: Verdict
    look: int | None


@dataclass(frozen=True, slots=True)
class Comparison:
    """
    All measures of two builds; `agreement` says by which plan and looks; `shares` say what part of a job waited for
    the part that was swapped, `trends` how the gains lie along traits of the work. `traced` are fan, sound, power and
    clock beside a heat, where traces told them and no measure does.
    """

    before: str
    after: str
    plan: Plan
    measures: tuple[MeasureResult, ...]
    overall: Overall | None
    changes: tuple[str, ...]
    shares: tuple[ImpliedShare, ...] = ()
    trends: tuple[Trend, ...] = ()
    agreement: Agreement | None = None
    traced: tuple[MeasureResult, ...] = ()

    @property
    def read(self) -> tuple[MeasureResult, ...]:
        """All that was read on both builds, as measures or off traces."""
        return (*self.measures, *self.traced)

    @property
    def lead(self) -> MeasureResult | None:
        """The measure that everything said of the comparison begins with."""
        return leading_claim(self.measures, self.plan.headline)

    @property
    def verdicts(self) -> tuple[MeasureResult, ...]:
        """The measures that have a verdict which somebody may be given."""
        return tuple(result for result in self.measures if result.can_be_shown)

    @property
    def closes(self) -> tuple[SittingId, ...]:
        """The open sittings that these verdicts rest on: giving them closes them, sorted by id."""
        units = (unit for result in self.verdicts for unit in result.sides.units)
        return tuple(sorted({s.id for unit in units for s in unit.sittings if s.closed_at is None}))
