"""The result of a comparison: what the runs say of each measure, of all work together, and of the money."""

from collections.abc import Iterable, Sequence
from dataclasses import dataclass
from decimal import Decimal
from typing import Literal

from lynxbill.core.case import Design, Plan, PlannedMeasure
from lynxbill.core.companions import Companions, companions_of, least_rank_p
from lynxbill.core.context import NO_CONTEXT, Context
from lynxbill.core.estimate import Estimate, equivalence_p
from lynxbill.core.flags import Flag
from lynxbill.core.measure import Measure, gain_percent, restore, time_saved_percent
from lynxbill.core.overall import Overall
from lynxbill.core.pairing import Pairing
from lynxbill.core.planning import Effort, Noise
from lynxbill.core.ruling import Reach, by_runs, oriented_mean
from lynxbill.core.settling import ToSettle, what_would_settle
from lynxbill.core.shares import ImpliedShare
from lynxbill.core.sitting import Sides, SittingUnit
from lynxbill.core.summary import Summary, summarise
from lynxbill.core.traits import Trend
from lynxbill.core.value import Value
from lynxbill.core.verdict import Verdict

# How good the evidence is, best first; beside the verdict, never instead of it.
Grade = Literal["full_plan", "conditions_differ", "early_look", "one_sitting", "one_run", "told"]


@dataclass(frozen=True, slots=True)
class MeasureResult:
    """
    What the runs say of one measure.

    `bound` is the half-width of the band that does not matter, on the scale of judgement. `estimate` is the
    oriented difference where both sides have a run; `interval` is the rule that decided, None where no rule
    may speak (yet); its figures and the verdict always agree. `with_late` is the same measure judged with the runs
    that were left out after their readings had been seen; None where there are none. `effort` is what the sittings
    of `to_settle` would take.
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
    reach: Reach
    design: Design
    exact_p: float | None = None
    p_adjusted: float | None = None
    noise: Noise | None = None
    effort: Effort | None = None
    floor: float | None = None
    flags: tuple[Flag, ...] = ()
    grade: Grade | None = None
    context: Context = NO_CONTEXT
    with_late: "MeasureResult | None" = None

    @property
    def complete(self) -> bool:
        """Whether the plan's one verdict is given here."""
        return self.reach.complete

    @property
    def to_settle(self) -> ToSettle:
        """What would settle it, worked out when it is asked for."""
        return what_would_settle(self.noise, self.verdict, self.measure, self.planned, self.design, self.reach)

    @property
    def waits(self) -> bool:
        """Whether the planned interval may not be given yet; one run a side waits for nothing."""
        early = self.interval is not None and self.interval.basis == "anytime"
        return early or self.verdict.remark in ("plan_incomplete", "added_after_verdict")

    @property
    def is_claim_of_work(self) -> bool:
        """Whether it enters the overall gain, whatever its verdict."""
        return self.measure.is_work and self.planned.role == "claim" and self.estimate is not None

    @property
    def within_floor(self) -> bool:
        """Whether the change is no larger than what the unchanged machine shows between sittings."""
        return self.floor is not None and self.estimate is not None and abs(self.estimate) <= self.floor

    @property
    def companions(self) -> Companions:
        """Rank and permutation figures on the same units, made when they are asked for."""
        return companions_of(self.sides, self.pairing, self.design)

    @property
    def least_rank_p(self) -> float | None:
        """The smallest p that so few sittings could give a test of ranks, whatever the readings."""
        if self.sides.short or not self.sides.before or not self.sides.after:
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
        """Of an outcome: how many runs passed before and after; None for other scales."""
        if self.measure.scale != "outcome":
            return None
        return _passes(self.sides.before), _passes(self.sides.after)


def _passes(side: Iterable[SittingUnit]) -> int:
    return sum(value != 0 for unit in side for value in unit.values)


def leading_claim(results: Sequence[MeasureResult], headline: str | None) -> MeasureResult | None:
    """
    Find the measure that everything said of a comparison begins with: the headline, else the first claim.

    Returns: the first of all where nothing is claimed; None where nothing was measured or planned.
    """
    named = (result for result in results if result.measure.id == headline)
    claims = (result for result in results if result.planned.role == "claim")
    return next(named, None) or next(claims, None) or next(iter(results), None)


@dataclass(frozen=True, slots=True)
class Bill:
    """
    Net cost of the swaps between two builds and what 10 units of currency bought of the measure that leads.

    `net_cost` is None without a swap, and where the cost of one is not given.
    """

    net_cost: Decimal | None
    currency: str
    value: Value


@dataclass(frozen=True, slots=True)
class Comparison:
    """
    All measures of two builds; `shares` say what part of a job waited for the part that was swapped, `trends` how the
    gains lie along traits of the work.
    """

    before: str
    after: str
    plan: Plan
    measures: tuple[MeasureResult, ...]
    overall: Overall | None
    bill: Bill
    changes: tuple[str, ...]
    shares: tuple[ImpliedShare, ...] = ()
    trends: tuple[Trend, ...] = ()

    @property
    def lead(self) -> MeasureResult | None:
        """The measure that everything said of the comparison begins with."""
        return leading_claim(self.measures, self.plan.headline)

    @property
    def planned_verdicts(self) -> dict[str, tuple[str, ...]]:
        """Each measure whose plan is complete, so that its one verdict is given here, with its sittings."""
        if self.plan.sittings_a_side is None:
            return {}
        given = (r for r in self.measures if r.complete and not r.provisional and r.verdict.word != "untested")
        return {r.measure.id: tuple(sorted({unit.sitting.id for unit in r.sides.units})) for r in given}
