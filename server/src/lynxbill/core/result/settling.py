"""What would settle a measure that is not settled, by the rule that will judge: its ways, each with its chance."""

import math
from collections.abc import Iterator
from dataclasses import dataclass, replace
from typing import Literal

from scipy.special import chdtri, ndtr, stdtr

from lynxbill.core.judgement.ruling import Terms
from lynxbill.core.judgement.verdict import Verdict
from lynxbill.core.plan.agreement import MOST_ATTEMPTS, Agreement
from lynxbill.core.plan.planning import (
    MOST_SITTINGS,
    caution,
    design_of,
    detectable_difference,
    sittings_for,
    sittings_for_no_change,
)
from lynxbill.core.record.plan import PlannedMeasure
from lynxbill.core.statistics.anytime import FEWEST_UNITS, critical_t
from lynxbill.core.statistics.estimate import t_quantile
from lynxbill.core.statistics.scatter import Noise, mean_of
from lynxbill.core.terms.measure import Measure, margin_bound

WayName = Literal["second look", "more sittings", "measured over"]
Goal = Literal["gain", "no change"]
# A way is worth naming from this chance on.
GOOD_CHANCE = 0.80


@dataclass(frozen=True, slots=True)
class Way:
    """
    One way to settle a measure.

    `sittings_a_side` is where it leads, `more` how many sittings of both sides together are still to be held,
    `chance` that it ends in `goal`, if the truth is what was hoped for (the margin, where nothing was), or nothing
    at all: the mean over what the scatter may be. `bound` is the same at the scatter's upper 80 % bound, by which the
    number of sittings is chosen.
    """

    name: WayName
    goal: Goal
    sittings_a_side: int
    more: int
    chance: float
    bound: float


@dataclass(frozen=True, slots=True)
class ToSettle:
    """
    The ways that would settle a measure, the fewest sittings first.

    `least` is the smallest difference that twenty sittings a side would show, on the scale of judgement, where none
    of the ways settles it. `short_block`: fewer than three sittings stand before the swap, so that further ones after
    it can't help; the old part has to come back for more, or all is measured over. `too_coarse`: what stands against
    it is how coarsely it was read, which no number of sittings mends. Nothing where nothing is to be settled, or a
    single sitting can't say.
    """

    ways: tuple[Way, ...] = ()
    least: float | None = None
    short_block: bool = False
    too_coarse: bool = False


NOTHING_TO_SETTLE = ToSettle()
# So many equally likely variances stand for all that a scatter may be.
_POINTS = 20


def scatters(squares: float, df: int) -> list[float]:
    """
    List what a variance may be that is known from `squares`: equally likely points of squares/chi².

    Args:
        squares: sum of squares, on the squared scale of judgement; df: its degrees of freedom, at least 1.
    Source: docs/judgement.md, "How many more".
    """
    return [squares / float(chdtri(df, 1 - (number + 0.5) / _POINTS)) for number in range(_POINTS)]


@dataclass(frozen=True, slots=True)
class SoFar:
    """Where a measure stands: units of both sides, their oriented difference, and the scatter between sittings."""

    before: int
    after: int
    difference: float
    noise: Noise


def what_would_settle(
    so_far: SoFar | None,
    verdict: Verdict,
    measure: Measure,
    planned: PlannedMeasure,
    agreement: Agreement,
    terms: Terms,
) -> ToSettle:
    """
    Say what would settle a measure.

    Args:
        standing: None where too few sittings were taken to know their scatter.
        terms: on what terms the last rule spoke.
    Returns: ways to the gain hoped for (else the margin) and to no change, from the scatter's upper 80 % bound; never
        a number of sittings already taken. Nothing where the number of measures alone stands against a verdict.
    Source: docs/judgement.md, "How many more".
    """
    if verdict.word != "not_settled" or verdict.remark == "blocked_by_family" or so_far is None:
        return NOTHING_TO_SETTLE
    bound = margin_bound(planned.matters_from, measure.scale)
    target = margin_bound(planned.hoped_for, measure.scale) if planned.hoped_for else bound
    court = _Chances(so_far, bound, target, agreement, terms)
    ways = [*court.going_on(), *court.over()]
    # The cheaper first; of two at the same price the surer.
    ways.sort(key=lambda way: (way.more, -way.chance))
    least = None
    if not ways:
        least = detectable_difference(so_far.noise, MOST_SITTINGS, paired=court.paired)
    return ToSettle(tuple(ways), least, court.short_block, too_coarse=not ways and so_far.noise.coarse > 0)


class _Chances:
    def __init__(self, so_far: SoFar, bound: float, target: float, agreement: Agreement, terms: Terms):
        self.so_far, self.bound, self.target = so_far, bound, target
        self.agreement, self.terms = agreement, terms
        self.paired = agreement.plan.design == "paired"
        self.both_grow = self.paired or agreement.plan.alternates
        self.short_block = not agreement.plan.alternates and so_far.before < FEWEST_UNITS

    def going_on(self) -> Iterator[Way]:
        """The second look where one is to come, else sittings that are added; none where the before-side is short."""
        if self.short_block:
            return
        second = self.agreement.second
        if second is not None and self.terms.look != 2 and not self.terms.after_last_look:
            if second > self.so_far.after:
                chances = self._chances(second, t_quantile(1 - self.agreement.alpha / 2, self._df(second)))
                for goal, (chance, bound) in chances.items():
                    yield Way("second look", goal, second, self._more(second), chance, bound)
            return
        alpha = self.agreement.alpha_after(last_look_over=self.agreement.planned)
        found: dict[Goal, Way] = {}
        for k in range(self.so_far.after + 1, MOST_SITTINGS + 1):
            critical = critical_t(self._df(k), self._size(k), alpha)
            for goal, (chance, bound) in self._chances(k, critical).items() if critical is not None else ():
                if bound >= GOOD_CHANCE and goal not in found:
                    found[goal] = Way("more sittings", goal, k, self._more(k), chance, bound)
            if len(found) == 2:
                break
        yield from found.values()

    def over(self) -> Iterator[Way]:
        """Both sides anew, at the halved level of a further attempt."""
        if self.agreement.swap is None or not self.agreement.planned or self.agreement.attempt >= MOST_ATTEMPTS:
            return
        alpha = self.agreement.alpha / 2
        noise = self.so_far.noise
        counts: dict[Goal, int | None] = {
            "gain": sittings_for(noise, self.target, paired=self.paired, alpha=alpha),
            "no change": sittings_for_no_change(noise, self.bound, paired=self.paired, alpha=alpha),
        }
        for goal, k in counts.items():
            if k is not None:
                yield Way("measured over", goal, k, 2 * k, self._told_anew(goal, k, alpha), GOOD_CHANCE)

    def _told_anew(self, goal: Goal, k: int, alpha: float) -> float:
        """The chance of a goal at k a side that begin anew: the mean over what the scatter may be."""
        noise = self.so_far.noise
        df, size = design_of(k, self.paired)
        chances = []
        for variance in scatters(noise.df * noise.sd**2, noise.df):
            se = replace(noise, sd=math.sqrt(variance)).se(size)
            if goal == "gain":
                chances.append(float(stdtr(df, self.target / se - t_quantile(1 - alpha / 2, df))))
            else:
                chances.append(max(0.0, 2 * float(stdtr(df, self.bound / se - t_quantile(1 - alpha, df))) - 1))
        return mean_of(chances)

    def _chances(self, k: int, critical: float) -> dict[Goal, tuple[float, float]]:
        """
        The chance of a gain, and of no change, at K units of the after-side, given the difference so far.

        As it is told, the mean over what the scatter may be; and with the scatter at its upper bound.
        """
        noise = self.so_far.noise
        squares = noise.df * noise.sd**2
        # Were the target true, the gap to what was found would be scatter too.
        gap = self._size(self.so_far.after) * (self.target - self.so_far.difference) ** 2
        weighed: dict[Goal, tuple[float, int]] = {
            "gain": (squares + gap, noise.df + 1),
            "no change": (squares, noise.df),
        }
        found: dict[Goal, tuple[float, float]] = {}
        for goal, (known, df) in weighed.items():
            told = mean_of([self._chance(goal, k, critical, math.sqrt(v)) for v in scatters(known, df)])
            found[goal] = told, self._chance(goal, k, critical, math.sqrt(known / df) * caution(df))
        return found

    def _chance(self, goal: Goal, k: int, critical: float, scatter: float) -> float:
        fresh = k - self.so_far.after
        h = critical * replace(self.so_far.noise, sd=scatter).se(self._size(k))
        sd = fresh / k * scatter * math.sqrt(1 / fresh + self._share_of_before(fresh))
        if goal == "gain":
            return float(ndtr((self._expected(k, self.target) - h) / sd))
        middle = self._expected(k, 0.0)
        return max(0.0, float(ndtr((self.bound - h - middle) / sd) - ndtr((h - self.bound - middle) / sd)))

    def _more(self, k: int) -> int:
        """How many sittings of both sides together it takes to get there."""
        return k - self.so_far.after + max(0, self._before(k) - self.so_far.before)

    def _expected(self, k: int, truth: float) -> float:
        """
        The difference to be expected at K, if this is the truth.

        Where the before-side is fixed, what is measured on says something of its error too: the difference so far
        shares it.
        """
        taken, d = self.so_far.after, self.so_far.difference
        pulled = 0.0 if self.both_grow else (d - truth) * taken / (self.so_far.before + taken)
        return (taken * d + (k - taken) * (truth + pulled)) / k

    def _share_of_before(self, fresh: int) -> float:
        if self.paired:
            return 0.0
        return 1 / fresh if self.both_grow else 1 / (self.so_far.before + self.so_far.after)

    def _before(self, k: int) -> int:
        return k if self.both_grow else self.so_far.before

    def _df(self, k: int) -> float:
        return float(k - 1 if self.paired else self._before(k) + k - 2)

    def _size(self, k: int) -> float:
        before = self._before(k)
        return float(k) if self.paired else before * k / (before + k)
