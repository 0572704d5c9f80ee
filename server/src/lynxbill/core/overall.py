"""The overall gain of a swap: a weighted geometric mean of speed ratios, with its interval."""

import math
from collections.abc import Mapping, Sequence
from dataclasses import dataclass

from lynxbill.core.anytime import look
from lynxbill.core.case import Design, SittingId
from lynxbill.core.estimate import Estimate, guard, paired, pooled_estimate, side_by_side, t_estimate
from lynxbill.core.ruling import Reach
from lynxbill.core.sitting import Sides, SittingUnit


@dataclass(frozen=True, slots=True)
class Claim:
    """One planned claim of kind time, rate or score that has units on both sides."""

    measure_id: str
    weight: float
    sides: Sides
    matched: tuple[tuple[int, int], ...]
    estimate: Estimate | None
    difference: float


@dataclass(frozen=True, slots=True)
class Overall:
    """
    `difference` is the log gain; `estimate` is None where no rule gives an interval (yet). `waiting` says that the
    plan is not complete, or that sittings were added after its verdict: the interval is then the anytime rule's.
    """

    measures: tuple[str, ...]
    difference: float
    estimate: Estimate | None
    waiting: bool = False


def overall_gain(claims: Sequence[Claim], design: Design, reach: Reach) -> Overall | None:
    """
    Combine the claims into one gain, sitting by sitting.

    Args:
        claims: whatever their verdicts; weights above zero, made to sum to 1 here.
        design: the plan's design.
        reach: whether the plan is complete for every claim.
    Returns: the combined log gain (dimensionless, positive is better) and its interval: from composite units
        over the sittings that have all claims; from composite runs with the guard for one sitting a side;
        by Satterthwaite where no two claims share a sitting. Before the plan is complete, and with sittings added
        after its verdict, from composite units by the anytime rule. None without claims.
    Source: docs/judgement.md, "Overall gain"; F. E. Satterthwaite, Biometrics Bull. 2 (1946) 110.
    """
    claims = sorted((claim for claim in claims if claim.weight > 0), key=lambda claim: claim.measure_id)
    total = math.fsum(claim.weight for claim in claims)
    if not claims:
        return None
    shares = [claim.weight / total for claim in claims]
    names = tuple(claim.measure_id for claim in claims)
    plain = math.fsum(share * claim.difference for share, claim in zip(shares, claims, strict=True))
    combined = _from_shared_sittings(claims, shares, design, reach)
    if combined is None and reach.complete:
        combined = _from_separate_sittings(claims, shares)
    return Overall(names, combined.estimate if combined else plain, combined, waiting=not reach.complete)


def _from_shared_sittings(
    claims: Sequence[Claim], shares: Sequence[float], design: Design, reach: Reach
) -> Estimate | None:
    before = composite([claim.sides.before for claim in claims], shares)
    after = composite([claim.sides.after for claim in claims], shares)
    if not before or not after:
        return None
    terms = list(zip(shares, claims, strict=True))
    step = math.sqrt(math.fsum((share * claim.sides.step) ** 2 for share, claim in terms))
    doubt = math.fsum(share**2 * claim.sides.doubt for share, claim in terms)
    units_before = {key: unit for key, (unit, _) in before.items()}
    units_after = {key: unit for key, (unit, _) in after.items()}
    if design == "paired":
        matched = _matched_sittings(claims)
        pairs = [(b, a) for b, a in matched if b in units_before and a in units_after]
        if len(pairs) >= 3:
            estimate = paired([units_after[a] - units_before[b] for b, a in pairs], step=step, doubt=doubt)
            return _in_its_time(estimate, len(pairs), reach)
    elif len(before) + len(after) >= 4:
        units = list(units_before.values()), list(units_after.values())
        rule = side_by_side if reach.complete else pooled_estimate
        estimate = rule(*units, step=step, doubt=doubt)
        return _in_its_time(estimate, 1 / (1 / len(before) + 1 / len(after)), reach)
    runs_before = [runs for _, runs in before.values()]
    runs_after = [runs for _, runs in after.values()]
    length = min(map(len, runs_before + runs_after))
    if length < 2 or length * min(len(before), len(after)) < 3:
        return None
    return guard(
        [runs[:length] for runs in runs_before],
        [runs[:length] for runs in runs_after],
        step=step,
        doubt=doubt,
    )


def _in_its_time(estimate: Estimate, size: float, reach: Reach) -> Estimate | None:
    return estimate if reach.complete else look(estimate, size, after_showing=reach.added_after_verdict)


def composite(
    sides: Sequence[tuple[SittingUnit, ...]], shares: Sequence[float]
) -> dict[SittingId, tuple[float, list[float]]]:
    """
    Put the units of several claims together, sitting by sitting.

    Args:
        sides: one side of each claim; shares: their weights, which sum to 1.
    Returns: weighted unit and weighted runs of every sitting that has all claims, oldest first.
    """
    by_claim: list[Mapping[str, SittingUnit]] = [{unit.sitting.id: unit for unit in units} for units in sides]
    result = {}
    for unit in sides[0]:
        parts = [units.get(unit.sitting.id) for units in by_claim]
        present = [part for part in parts if part is not None]
        if len(present) < len(parts):
            continue
        runs = zip(*(part.values for part in present), strict=False)
        result[unit.sitting.id] = (
            math.fsum(share * part.unit for share, part in zip(shares, present, strict=True)),
            [math.fsum(s * y for s, y in zip(shares, run, strict=True)) for run in runs],
        )
    return result


def _matched_sittings(claims: Sequence[Claim]) -> list[tuple[SittingId, SittingId]]:
    first = claims[0]
    return [(first.sides.before[i].sitting.id, first.sides.after[j].sitting.id) for i, j in first.matched]


def _from_separate_sittings(claims: Sequence[Claim], shares: Sequence[float]) -> Estimate | None:
    """Satterthwaite's sum, allowed only where no sitting serves two claims: shared reboots correlate them."""
    sittings = [unit.sitting.id for claim in claims for unit in claim.sides.before + claim.sides.after]
    estimates = [claim.estimate for claim in claims]
    known = [estimate for estimate in estimates if estimate is not None and estimate.p is not None]
    if len(known) < len(claims) or len(set(sittings)) < len(sittings):
        return None
    terms = [(share * estimate.se) ** 2 for share, estimate in zip(shares, known, strict=True)]
    variance = math.fsum(terms)
    df = variance**2 / math.fsum(term**2 / e.df for term, e in zip(terms, known, strict=True))
    difference = math.fsum(share * e.estimate for share, e in zip(shares, known, strict=True))
    se = math.sqrt(variance)
    return t_estimate(known[0].basis, difference, se, se, df)
