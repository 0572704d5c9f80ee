"""Draws of several comparisons together, so that a build which they share moves them together."""

import math
from collections.abc import Mapping, Sequence
from dataclasses import dataclass

import numpy as np

from lynxbill.core.record.ids import SittingId
from lynxbill.core.result.overall import composite
from lynxbill.core.result.result import Comparison
from lynxbill.core.statistics.estimate import Estimate
from lynxbill.core.statistics.samples import SAMPLES, Floats, draw_gains, draw_prices, in_percent, seed_of
from lynxbill.core.statistics.scatter import mean_of, pool, shared_rounding
from lynxbill.core.terms.money import Booked


@dataclass(frozen=True, slots=True)
class Stake:
    """
    What of a comparison is weighed: its gain, the claims that it is made of with their weights, and what it cost.

    `lines` in the currency of account, in their canonical order.
    """

    comparison: Comparison
    gain: Estimate
    weights: Mapping[str, float]
    lines: Sequence[Booked]

    @property
    def rank(self) -> tuple[float, float, list[tuple[float, float, float]]]:
        """An order that is set by the data alone."""
        lines = [(float(line.likely), float(line.low), float(line.high)) for line in self.lines]
        return self.gain.estimate, self.gain.se, lines


def draw_together(stakes: Sequence[Stake], *, percent: bool = True) -> list[tuple[Floats, Floats]]:
    """
    Draw gain and net cost of several comparisons.

    Args:
        stakes: in an order set by the data, so that the draws do not depend on which was named first.
        percent: gains are log ratios, to be drawn as percent; else differences in the measure's unit.
    Returns: of each its gains and its costs, shape (DRAWS,). Where all are judged by free sittings, one scatter is
        drawn for all builds and each build's mean once; else each from its own se and df.
    Source: docs/judgement.md, "Value".
    """
    builds = _shared_scatter(stakes)
    figures = [f for build in builds for f in build.units]
    figures += [f for stake in stakes for f in (stake.gain.estimate, stake.gain.se, stake.gain.df)]
    generator = np.random.default_rng(seed_of(figures, [line for stake in stakes for line in stake.lines]))
    if builds:
        means = _draw_means(generator, builds)
        drawn = [means[stake.comparison.after] - means[stake.comparison.before] for stake in stakes]
    else:
        drawn = [draw_gains(generator, stake.gain) for stake in stakes]
    return [
        (in_percent(gains) if percent else gains, draw_prices(generator, stake.lines))
        for gains, stake in zip(drawn, stakes, strict=True)
    ]


@dataclass(frozen=True, slots=True)
class _Units:
    """The composite units of one build; `step` is their resolution, `doubt` the variance of vague readings."""

    build: str
    units: tuple[float, ...]
    step: float
    doubt: float


def _shared_scatter(stakes: Sequence[Stake]) -> list[_Units]:
    """Units of all builds, in an order set by the data; empty where one scatter does not serve all."""
    if any(stake.gain.basis != "sittings" or stake.gain.sides_differ for stake in stakes):
        return []
    units: dict[str, dict[SittingId, float]] = {}
    step = doubt = 0.0
    for stake in stakes:
        comparison, weights = stake.comparison, stake.weights
        claims = sorted((r for r in comparison.measures if r.measure.id in weights), key=lambda r: r.measure.id)
        shares = [weights[claim.measure.id] for claim in claims]
        for build, before in ((comparison.before, True), (comparison.after, False)):
            side = composite([c.sides.before if before else c.sides.after for c in claims], shares)
            known = units.setdefault(build, {})
            for sitting, (unit, _) in side.items():
                known.setdefault(sitting, unit)
        terms = list(zip(shares, claims, strict=True))
        step = max(step, math.sqrt(math.fsum((share * claim.sides.step) ** 2 for share, claim in terms)))
        doubt = max(doubt, math.fsum(share**2 * claim.sides.doubt for share, claim in terms))
    found = [_Units(build, tuple(known.values()), step, doubt) for build, known in units.items()]
    spare = sum(len(build.units) - 1 for build in found)
    return sorted(found, key=lambda build: build.units) if spare and all(build.units for build in found) else []


def _draw_means(generator: np.random.Generator, builds: Sequence[_Units]) -> dict[str, Floats]:
    """One scatter pooled over all builds, and each build's mean drawn once."""
    step = builds[0].step
    pooled = pool([build.units for build in builds], step=step)
    variance = pooled.variance + builds[0].doubt
    # Rounding as coarse as the scatter is shared by a build's sittings, however many.
    shared = math.sqrt(shared_rounding(variance, step))
    scatter = math.sqrt(variance) * np.sqrt(pooled.df / generator.chisquare(pooled.df, SAMPLES))
    return {
        build.build: mean_of(build.units)
        + np.hypot(scatter / math.sqrt(len(build.units)), shared) * generator.standard_normal(SAMPLES)
        for build in builds
    }
