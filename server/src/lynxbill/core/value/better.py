"""Whether one swap was better value than another, with the probability that it was."""

import math
from collections.abc import Mapping
from dataclasses import dataclass
from typing import Literal

import numpy as np

from lynxbill.core.record.frame import Case
from lynxbill.core.record.ids import BuildId
from lynxbill.core.result.result import Comparison
from lynxbill.core.statistics.estimate import Estimate
from lynxbill.core.statistics.samples import in_order
from lynxbill.core.value.bill import Bill, Billed, judge_and_bill
from lynxbill.core.value.weighing import Stake, draw_together

BetterNote = Literal[
    "untested",
    "plan_incomplete",
    "no_costs",
    "no_gain",
    "not_divisible",
    "other_work",
    "both_pay_for_themselves",
    "no_interval",
]
Winner = Literal["first", "second"]
SURE = 0.95


@dataclass(frozen=True, slots=True)
class Better:
    """
    The probability that the first comparison was better value than the second.

    None where that can't be said, and `note` says why. `winner` is the first or the second from 95 % on.
    """

    probability: float | None
    note: BetterNote | None = None

    def mirrored(self) -> "Better":
        """Say the same of the second comparison against the first."""
        return Better(None if self.probability is None else 1 - self.probability, self.note)

    @property
    def winner(self) -> Winner | None:
        if self.probability is None or 1 - SURE < self.probability < SURE:
            return None
        return "first" if self.probability >= SURE else "second"


@dataclass(frozen=True, slots=True)
class Placing:
    """A comparison, and how it stands in value against others of the same machine."""

    billed: Billed
    others: tuple[tuple[Comparison, Better], ...]

    @property
    def comparison(self) -> Comparison:
        return self.billed.comparison

    @property
    def bill(self) -> Bill:
        return self.billed.bill


def better_value(first: Billed, second: Billed) -> Better:
    """
    Weigh two comparisons of one machine by gain per money.

    Args:
        first, second: with the same claims at the same weights; where the plans give none, with the
            same headline claim.
    Returns: the share of 20,000 draws in which the first has the larger angle of (gain, net cost). Where both are
        judged by free sittings, one scatter is drawn for all builds and each build's mean once, so that a build which
        both share moves them together; the guard and pairs are drawn from their own se and df.
    Source: docs/judgement.md, "Value".
    """
    note, stakes = _why_not(first, second), [_stake(billed) for billed in (first, second)]
    known = [stake for stake in stakes if stake is not None]
    if note is not None or len(known) < 2:
        return Better(None, note or "untested")
    # The draws must not depend on which of the two was named first.
    swapped = known[0].rank > known[1].rank
    is_percent = _is_percent(first.comparison)
    drawn = draw_together(known[::-1] if swapped else known, percent=is_percent)
    if any(np.mean((percents < 0) & (prices < 0)) > 0.025 for percents, prices in drawn):
        return Better(None, "no_interval")
    angles = [np.arctan2(percents, prices) for percents, prices in drawn]
    probability = float(np.mean(angles[0] > angles[1]))
    return Better(1 - probability if swapped else probability)


def judge_beside_others(case: Case, before: BuildId | None = None, after: BuildId | None = None) -> Placing:
    """
    Judge two builds, and weigh the result against every other swap that was carried out.

    Args, raises: as for `judge`.

    Args:
        case: the machine with all its runs.
        before, after: ids of two of its builds; None for those of the last swap.
    """
    billed = judge_and_bill(case, before, after)
    here = (billed.comparison.before, billed.comparison.after)
    begun = [s for s in case.swaps if s.state != "planned" and (s.before, s.after) != here]
    others = [judge_and_bill(case, *builds) for builds in dict.fromkeys((s.before, s.after) for s in begun)]
    return Placing(billed, tuple((other.comparison, better_value(billed, other)) for other in others))


def judge_every_swap(case: Case) -> tuple[Placing, ...]:
    """
    Judge every swap, oldest first, and weigh each against those that were carried out.

    Args:
        case: the machine with all its runs.
    Raises:
        RateMissing: a cost line in a foreign currency without a rate.
    """
    every = [judge_and_bill(case, swap.before, swap.after) for swap in case.swaps]
    begun = [index for index, swap in enumerate(case.swaps) if swap.state != "planned"]
    weighed: dict[tuple[int, int], Better] = {}
    for place, first in enumerate(begun):
        for second in begun[place + 1 :]:
            weighed[first, second] = better_value(every[first], every[second])
            weighed[second, first] = weighed[first, second].mirrored()
    return tuple(
        Placing(
            billed,
            tuple((every[j].comparison, weighed[index, j]) for j in begun if (index, j) in weighed),
        )
        for index, billed in enumerate(every)
    )


def _gain(comparison: Comparison) -> Estimate | None:
    """The overall gain, where the plan gives weights; else that of the headline, in percent or in its own unit."""
    if comparison.overall is not None:
        return comparison.overall.estimate
    lead = comparison.lead
    return lead.interval if lead is not None and lead.measure.is_divisible else None


def _waits(comparison: Comparison) -> bool:
    if comparison.overall is not None:
        return comparison.overall.waiting
    return comparison.lead is not None and comparison.lead.waits


def _is_percent(comparison: Comparison) -> bool:
    return comparison.overall is not None or (comparison.lead is not None and comparison.lead.measure.is_work)


def _why_not(first: Billed, second: Billed) -> BetterNote | None:
    for billed in (first, second):
        comparison = billed.comparison
        if _waits(comparison):
            return "plan_incomplete"
        if comparison.lead is None or comparison.lead.verdict.word == "untested":
            return "untested"
        if billed.bill.net_cost is None:
            return "no_costs"
        if comparison.lead.verdict.word != "real_gain":
            return "no_gain"
        if _gain(comparison) is None:
            return "not_divisible"
    if _weights(first.comparison) != _weights(second.comparison):
        return "other_work"
    costs = [billed.bill.net_cost or 0 for billed in (first, second)]
    return "both_pay_for_themselves" if max(costs) <= 0 else None


def _stake(billed: Billed) -> Stake | None:
    comparison = billed.comparison
    gain = _gain(comparison)
    if gain is None:
        return None
    return Stake(comparison, gain, _weights(comparison), in_order(billed.bill.account.booked))


def _weights(comparison: Comparison) -> Mapping[str, float]:
    if comparison.overall is None:
        return {comparison.lead.measure.id: 1.0} if comparison.lead is not None else {}
    names = comparison.overall.measures
    weights = {r.measure.id: r.planned.weight or 0.0 for r in comparison.measures if r.measure.id in names}
    total = math.fsum(weights.values())
    return {name: round(weight / total, 9) for name, weight in weights.items()}
