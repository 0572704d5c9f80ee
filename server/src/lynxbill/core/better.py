"""Whether one swap was better value than another, with the probability that it was."""

import math
from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from decimal import Decimal
from typing import Literal

import numpy as np

from lynxbill.core.bill import swaps_between
from lynxbill.core.case import BuildId, Case, SittingId
from lynxbill.core.comparison import judge
from lynxbill.core.draws import DRAWS, Floats, draw_gains, draw_prices, in_order, in_percent, seed_of
from lynxbill.core.estimate import Estimate
from lynxbill.core.money import Booked, book
from lynxbill.core.overall import composite
from lynxbill.core.result import Comparison

BetterNote = Literal[
    "untested", "plan_incomplete", "no_costs", "no_gain", "other_work", "both_pay_for_themselves", "no_interval"
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
class Standing:
    """A comparison, and how it stands in value against others of the same machine."""

    comparison: Comparison
    others: tuple[tuple[Comparison, Better], ...]


def better_value(case: Case, first: Comparison, second: Comparison) -> Better:
    """
    Weigh two comparisons of one machine by gain per money.

    Args:
        first, second: from `judge`, with the same claims at the same weights; where the plans give none, with the
            same headline claim.
    Returns: the share of 20,000 draws in which the first has the larger angle of (gain, net cost). Where both are
        judged by free sittings, one scatter is drawn for all builds and each build's mean once, so that a build which
        both share moves them together; the guard and pairs are drawn from their own se and df.
    Raises:
        RateMissing: a cost line in a foreign currency without a rate.
    Source: docs/judgement.md, "Value".
    """
    gains = [_gain(comparison) for comparison in (first, second)]
    note = _why_not(case, first, second)
    if note is not None or gains[0] is None or gains[1] is None:
        return Better(None, note or "untested")
    # The draws must not depend on which of the two was named first.
    swapped = _rank(case, first) > _rank(case, second)
    pair = (second, first) if swapped else (first, second)
    drawn = _draw(case, *pair)
    if any(np.mean((percents < 0) & (prices < 0)) > 0.025 for percents, prices in drawn):
        return Better(None, "no_interval")
    angles = [np.arctan2(percents, prices) for percents, prices in drawn]
    probability = float(np.mean(angles[0] > angles[1]))
    return Better(1 - probability if swapped else probability)


def judge_beside_others(case: Case, before: BuildId | None = None, after: BuildId | None = None) -> Standing:
    """
    Judge two builds, and weigh the result against every other swap that was carried out.

    Args, raises: as for `judge`.
    """
    comparison = judge(case, before, after)
    here = (comparison.before, comparison.after)
    begun = [s for s in case.swaps if s.state != "planned" and (s.before, s.after) != here]
    others = [judge(case, *builds) for builds in dict.fromkeys((s.before, s.after) for s in begun)]
    return Standing(comparison, tuple((other, better_value(case, comparison, other)) for other in others))


def judge_every_swap(case: Case) -> tuple[Standing, ...]:
    """
    Judge every swap, oldest first, and weigh each against those that were carried out.

    Raises:
        RateMissing: a cost line in a foreign currency without a rate.
    """
    comparisons = [judge(case, swap.before, swap.after) for swap in case.swaps]
    begun = [index for index, swap in enumerate(case.swaps) if swap.state != "planned"]
    weighed: dict[tuple[int, int], Better] = {}
    for place, first in enumerate(begun):
        for second in begun[place + 1 :]:
            weighed[first, second] = better_value(case, comparisons[first], comparisons[second])
            weighed[second, first] = weighed[first, second].mirrored()
    return tuple(
        Standing(
            comparison,
            tuple((comparisons[j], weighed[index, j]) for j in begun if (index, j) in weighed),
        )
        for index, comparison in enumerate(comparisons)
    )


def _gain(comparison: Comparison) -> Estimate | None:
    """The overall gain, where the plan gives weights; else that of the headline, which must be work."""
    if comparison.overall is not None:
        return comparison.overall.estimate
    lead = comparison.lead
    return lead.interval if lead is not None and lead.measure.is_work else None


def _waits(comparison: Comparison) -> bool:
    if comparison.overall is not None:
        return comparison.overall.waiting
    return comparison.lead is not None and comparison.lead.waits


def _why_not(case: Case, first: Comparison, second: Comparison) -> BetterNote | None:
    for comparison in (first, second):
        if _waits(comparison):
            return "plan_incomplete"
        if _gain(comparison) is None:
            return "untested"
        if comparison.bill.net_cost is None:
            return "no_costs"
        if comparison.lead is None or comparison.lead.verdict.word != "real_gain":
            return "no_gain"
    if _weights(first) != _weights(second):
        return "other_work"
    costs = [comparison.bill.net_cost or 0 for comparison in (first, second)]
    return "both_pay_for_themselves" if max(costs) <= 0 else None


def _lines(case: Case, comparison: Comparison) -> list[Booked]:
    chain = swaps_between(case, BuildId(comparison.before), BuildId(comparison.after)) or ()
    return in_order(book(line, case.machine.currency) for swap in chain for line in swap.costs)


def _weights(comparison: Comparison) -> Mapping[str, float]:
    if comparison.overall is None:
        return {comparison.lead.measure.id: 1.0} if comparison.lead is not None else {}
    names = comparison.overall.measures
    weights = {r.measure.id: r.planned.weight or 0.0 for r in comparison.measures if r.measure.id in names}
    total = math.fsum(weights.values())
    return {name: round(weight / total, 9) for name, weight in weights.items()}


def _rank(case: Case, comparison: Comparison) -> tuple[float, float, list[tuple[Decimal, Decimal, Decimal]]]:
    gain = _gain(comparison)
    lines = [(line.likely, line.low, line.high) for line in _lines(case, comparison)]
    return (gain.estimate, gain.se, lines) if gain else (0.0, 0.0, lines)


def _draw(case: Case, first: Comparison, second: Comparison) -> list[tuple[Floats, Floats]]:
    """Percents and prices of both."""
    lines = [_lines(case, comparison) for comparison in (first, second)]
    gains = [gain for gain in map(_gain, (first, second)) if gain is not None]
    builds = _shared_scatter(first, second)
    figures = [f for build in builds for f in build.units] + [f for g in gains for f in (g.estimate, g.se, g.df)]
    generator = np.random.default_rng(seed_of(figures, [line for side in lines for line in side]))
    if builds:
        means = _draw_means(generator, builds)
        drawn = [means[c.after] - means[c.before] for c in (first, second)]
    else:
        drawn = [draw_gains(generator, gain) for gain in gains]
    return [(in_percent(log), draw_prices(generator, side)) for log, side in zip(drawn, lines, strict=True)]


@dataclass(frozen=True, slots=True)
class _Units:
    """The composite units of one build; `floor` is the variance of rounding, `doubt` that of vague readings."""

    build: str
    units: tuple[float, ...]
    floor: float
    doubt: float


def _shared_scatter(first: Comparison, second: Comparison) -> list[_Units]:
    """Units of all builds, in an order set by the data; empty where one scatter serves not both."""
    gains = [_gain(comparison) for comparison in (first, second)]
    if any(gain is None or gain.basis != "sittings" or gain.sides_differ for gain in gains):
        return []
    weights = _weights(first)
    units: dict[str, dict[SittingId, float]] = {}
    step = doubt = 0.0
    for comparison in (first, second):
        claims = sorted((r for r in comparison.measures if r.measure.id in weights), key=lambda r: r.measure.id)
        shares = [weights[claim.measure.id] for claim in claims]
        for build, before in ((comparison.before, True), (comparison.after, False)):
            side = composite([c.sides.before if before else c.sides.after for c in claims], shares)
            known = units.setdefault(build, {})
            for sitting, (unit, _) in side.items():
                known.setdefault(sitting, unit)
        terms = list(zip(shares, claims, strict=True))
        step = max(step, math.fsum((share * claim.sides.step) ** 2 for share, claim in terms))
        doubt = max(doubt, math.fsum(share**2 * claim.sides.doubt for share, claim in terms))
    found = [_Units(build, tuple(known.values()), step / 12, doubt) for build, known in units.items()]
    spare = sum(len(build.units) - 1 for build in found)
    return sorted(found, key=lambda build: build.units) if spare and all(build.units for build in found) else []


def _draw_means(generator: np.random.Generator, builds: Sequence[_Units]) -> dict[str, Floats]:
    """One scatter pooled over all builds, and each build's mean drawn once."""
    means = {build.build: math.fsum(build.units) / len(build.units) for build in builds}
    df = sum(len(build.units) - 1 for build in builds)
    squares = math.fsum((unit - means[build.build]) ** 2 for build in builds for unit in build.units)
    variance = max(squares / df, builds[0].floor) + builds[0].doubt
    # Rounding as coarse as the scatter is shared by a build's sittings, however many.
    shared = math.sqrt(builds[0].floor) if 12 * builds[0].floor >= variance > 0 else 0.0
    sd = math.sqrt(variance)
    scatter = sd * np.sqrt(df / generator.chisquare(df, DRAWS))
    return {
        build.build: means[build.build]
        + np.hypot(scatter / math.sqrt(len(build.units)), shared) * generator.standard_normal(DRAWS)
        for build in builds
    }
