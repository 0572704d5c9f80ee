"""The overall gain of a swap: a weighted geometric mean of speed ratios, with its interval."""

import math
from collections.abc import Mapping, Sequence
from dataclasses import dataclass

from lynxbill.core.case import Design
from lynxbill.core.estimate import Estimate, guard, paired, side_by_side, t_estimate
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
    `difference` is the log gain; `estimate` is None where the data give no interval, or where the plan is not
    complete (`waiting`).
    """

    measures: tuple[str, ...]
    difference: float
    estimate: Estimate | None
    waiting: bool = False


def overall_gain(claims: Sequence[Claim], design: Design, *, interval: bool = True) -> Overall | None:
    """
    Combine the claims into one gain, sitting by sitting.

    Args:
        claims: whatever their verdicts; weights above zero, made to sum to 1 here.
        design: the plan's design.
        interval: False while the plan is not complete, when no planned interval may be given.
    Returns: the combined log gain (dimensionless, positive is better) and its interval: from composite units
        over the sittings that have all claims; from composite runs with the guard for one sitting a side;
        by Satterthwaite where no two claims share a sitting. None without claims.
    Source: docs/judgement.md, "Overall gain"; F. E. Satterthwaite, Biometrics Bull. 2 (1946) 110.
    """
    claims = sorted((claim for claim in claims if claim.weight > 0), key=lambda claim: claim.measure_id)
    total = math.fsum(claim.weight for claim in claims)
    if not claims:
        return None
    shares = [claim.weight / total for claim in claims]
    names = tuple(claim.measure_id for claim in claims)
    plain = math.fsum(share * claim.difference for share, claim in zip(shares, claims, strict=True))
    if not interval:
        return Overall(names, plain, None, waiting=True)
    combined = _from_shared_sittings(claims, shares, design) or _from_separate_sittings(claims, shares)
    return Overall(names, combined.estimate if combined else plain, combined)


def _from_shared_sittings(claims: Sequence[Claim], shares: Sequence[float], design: Design) -> Estimate | None:
    before = _composite([claim.sides.before for claim in claims], shares)
    after = _composite([claim.sides.after for claim in claims], shares)
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
            return paired([units_after[a] - units_before[b] for b, a in pairs], step=step, doubt=doubt)
    elif len(before) + len(after) >= 4:
        return side_by_side(list(units_before.values()), list(units_after.values()), step=step, doubt=doubt)
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


def _composite(
    sides: Sequence[tuple[SittingUnit, ...]], shares: Sequence[float]
) -> dict[str, tuple[float, list[float]]]:
    """Weighted unit and weighted runs of every sitting that has all claims, oldest first."""
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


def _matched_sittings(claims: Sequence[Claim]) -> list[tuple[str, str]]:
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
