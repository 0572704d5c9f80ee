"""The overall gain of a swap: a weighted geometric mean of speed ratios, with its interval and verdict."""

import math
from collections.abc import Mapping, Sequence

from lynxbill.core.judgement.pairing import label_tables
from lynxbill.core.judgement.ruling import MIN_GUARD_RUNS, Terms
from lynxbill.core.judgement.sitting import SittingUnit
from lynxbill.core.judgement.verdict import Verdict, decide
from lynxbill.core.plan.agreement import Agreement
from lynxbill.core.record.ids import SittingId
from lynxbill.core.record.plan import Plan
from lynxbill.core.result.result import MeasureResult, Overall
from lynxbill.core.statistics.anytime import FEWEST_UNITS, any_time, at_any_time
from lynxbill.core.statistics.estimate import (
    Estimate,
    guard,
    label_guard,
    paired,
    scatter_differs,
    side_by_side,
    t_estimate,
    two_forms,
)
from lynxbill.core.statistics.scatter import mean_of

Claims = Sequence[MeasureResult]
BySitting = tuple[tuple[float, ...], ...]
Composite = Mapping[SittingId, tuple[float, BySitting]]


def overall_gain(results: Claims, plan: Plan, agreement: Agreement) -> Overall | None:
    """
    Combine the claims of work into one gain, sitting by sitting, by the rule that judged them.

    Args:
        results: of one comparison, whatever their verdicts; the plan's weights above zero are made to sum to 1 here,
            and a claim without one stays out.
        plan: its design and pairing hold for the whole as for each claim.
        agreement: the levels of its looks.
    Returns: the combined log gain (dimensionless, positive is better) with its interval, and a verdict against the
        weighted bound: from composite units over the sittings that have all claims; from composite runs with the
        guard where a side has a single one; by Satterthwaite where no two claims share a sitting. It waits where a
        claim waits, and is provisional where one is. None where the plan gives no weights.
    Source: docs/judgement.md, "Overall gain"; F. E. Satterthwaite, Biometrics Bull. 2 (1946) 110.
    """
    weighed = [(r, r.planned.weight or 0.0) for r in results if r.is_claim_of_work and r.planned.weight]
    if not weighed:
        return None
    weighed.sort(key=lambda entry: entry[0].measure.id)
    total = math.fsum(weight for _, weight in weighed)
    claims, shares = [claim for claim, _ in weighed], [weight / total for _, weight in weighed]
    terms = _terms(claims, agreement)
    waiting = any(claim.waits for claim in claims)
    combined = _combine(claims, shares, plan, terms)
    bound = math.fsum(share * claim.bound for share, claim in zip(shares, claims, strict=True))
    plain = math.fsum(share * (claim.estimate or 0.0) for share, claim in zip(shares, claims, strict=True))
    return Overall(
        measures=tuple(claim.measure.id for claim in claims),
        difference=combined.estimate if combined else plain,
        estimate=combined,
        waiting=waiting,
        provisional=any(claim.provisional for claim in claims),
        bound=bound,
        verdict=_verdict(combined, bound, terms, waiting=waiting),
        look=terms.look,
    )


def _terms(claims: Claims, agreement: Agreement) -> Terms:
    """Those of the claim that is the least far: the plan's look only where every claim has come to one."""
    for claim in claims:
        if claim.terms.look is None:
            return claim.terms
    return min((claim.terms for claim in claims), key=lambda terms: terms.look or 0)


def _verdict(combined: Estimate | None, bound: float, terms: Terms, *, waiting: bool) -> Verdict:
    if combined is None:
        return Verdict("not_settled" if waiting else "untested", terms.waiting if waiting else None)
    if combined.basis == "one_sitting" and terms.look is None:
        return Verdict("not_settled", terms.waiting)
    return decide(combined, bound, alpha=terms.alpha, fewest_sittings=FEWEST_UNITS)


def _combine(claims: Claims, shares: Sequence[float], plan: Plan, terms: Terms) -> Estimate | None:
    if any(claim.sides.short for claim in claims):
        return None
    shared = _from_shared_sittings(claims, shares, plan, terms)
    if shared is not None or terms.look is None:
        return shared
    return _from_separate_sittings(claims, shares, terms)


def _from_shared_sittings(claims: Claims, shares: Sequence[float], plan: Plan, terms: Terms) -> Estimate | None:
    before, after = (
        composite([side.before if first else side.after for side in (claim.sides for claim in claims)], shares)
        for first in (True, False)
    )
    if not before or not after:
        return None
    step = math.sqrt(math.fsum((s * claim.sides.step) ** 2 for s, claim in zip(shares, claims, strict=True)))
    doubt = math.fsum(share**2 * claim.sides.doubt for share, claim in zip(shares, claims, strict=True))
    if plan.design == "paired":
        return _from_pairs(claims, shares, before, after, plan, terms, step=step, doubt=doubt)
    units = [[unit for unit, _ in side.values()] for side in (before, after)]
    sittings = [[values for _, by_sitting in side.values() for values in by_sitting] for side in (before, after)]
    fewest = min(map(len, units))
    if fewest == 1:
        return _guarded(before, after, terms, step=step, doubt=doubt)
    if terms.look is None:
        if fewest < FEWEST_UNITS:
            return None
        forms = two_forms(units[0], units[1], step=step, doubt=doubt)
        size = 1 / (1 / len(before) + 1 / len(after))
        return at_any_time(forms, size, after_last_look=terms.after_last_look, alpha=terms.alpha)
    differs = scatter_differs(sittings[0], sittings[1], step)
    return side_by_side(units[0], units[1], step=step, doubt=doubt, alpha=terms.alpha, runs_differ=differs)


def _from_pairs(
    claims: Claims,
    shares: Sequence[float],
    before: Composite,
    after: Composite,
    plan: Plan,
    terms: Terms,
    *,
    step: float,
    doubt: float,
) -> Estimate | None:
    if plan.pair_by == "label":
        by_pair = _labelled(claims, shares)
        if 1 <= len(by_pair) < FEWEST_UNITS:
            few = len(by_pair[0]) < MIN_GUARD_RUNS
            return None if few else label_guard(by_pair, step=step, doubt=doubt, alpha=terms.alpha)
        differences = [mean_of(labels) for labels in by_pair]
    else:
        pairs = [(b, a) for b, a in _matched_sittings(claims[0]) if b in before and a in after]
        if 1 <= len(pairs) < FEWEST_UNITS:
            chosen = {b: before[b] for b, _ in pairs}, {a: after[a] for _, a in pairs}
            return _guarded(*chosen, terms, step=step, doubt=doubt)
        differences = [after[a][0] - before[b][0] for b, a in pairs]
    if len(differences) < FEWEST_UNITS:
        return None
    estimate = paired(differences, step=step, doubt=doubt, alpha=terms.alpha)
    if terms.look is not None:
        return estimate
    figures = estimate.estimate, estimate.sd, estimate.se, estimate.df, float(len(differences))
    return any_time(*figures, after_last_look=terms.after_last_look, alpha=terms.alpha)


def _guarded(before: Composite, after: Composite, terms: Terms, *, step: float, doubt: float) -> Estimate | None:
    sides = [[by_sitting for _, by_sitting in side.values()] for side in (before, after)]
    length = min(len(values) for side in sides for unit in side for values in unit)
    cut = [[[values[:length] for values in unit] for unit in side] for side in sides]
    fewest = min(sum(len(values) for unit in side for values in unit) for side in cut)
    if length < 2 or fewest < MIN_GUARD_RUNS:
        return None
    return guard(cut[0], cut[1], step=step, doubt=doubt, alpha=terms.alpha)


def _labelled(claims: Claims, shares: Sequence[float]) -> list[list[float]]:
    """Weighted differences of the labels that all claims have, pair of sittings by pair."""
    tables = [label_tables(claim.sides, claim.pairing) for claim in claims]
    by_pair = []
    for rows in zip(*tables, strict=False):
        labels = sorted(set.intersection(*(set(row) for row in rows)))
        if labels:
            by_pair.append(
                [math.fsum(s * row[label] for s, row in zip(shares, rows, strict=True)) for label in labels]
            )
    return by_pair


def composite(sides: Sequence[tuple[SittingUnit, ...]], shares: Sequence[float]) -> Composite:
    """
    Put the units of several claims together, unit by unit.

    Args:
        sides: one side of each claim; shares: their weights, which sum to 1.
    Returns: weighted unit and weighted runs, sitting by sitting, of every unit that has all claims, by the id of its
        first sitting, oldest first.
    """
    by_claim: list[Mapping[SittingId, SittingUnit]] = [{unit.sitting.id: unit for unit in units} for units in sides]
    result: dict[SittingId, tuple[float, BySitting]] = {}
    for unit in sides[0]:
        parts = [units.get(unit.sitting.id) for units in by_claim]
        present = [part for part in parts if part is not None]
        if len(present) < len(parts):
            continue
        by_sitting = tuple(
            tuple(math.fsum(s * y for s, y in zip(shares, run, strict=True)) for run in zip(*readings, strict=False))
            for readings in zip(*(part.by_sitting for part in present), strict=False)
        )
        weighted = math.fsum(share * part.unit for share, part in zip(shares, present, strict=True))
        result[unit.sitting.id] = weighted, by_sitting
    return result


def _matched_sittings(claim: MeasureResult) -> list[tuple[SittingId, SittingId]]:
    sides = claim.sides
    return [(sides.before[i].sitting.id, sides.after[j].sitting.id) for i, j in claim.pairing.sittings]


def _from_separate_sittings(claims: Claims, shares: Sequence[float], terms: Terms) -> Estimate | None:
    """Satterthwaite's sum, allowed only where no sitting serves two claims: shared reboots correlate them."""
    sittings = [sitting for claim in claims for sitting in claim.sittings]
    estimates = [claim.interval for claim in claims]
    known = [estimate for estimate in estimates if estimate is not None and estimate.p is not None]
    if len(known) < len(claims) or len(set(sittings)) < len(sittings):
        return None
    terms_of = [(share * estimate.se) ** 2 for share, estimate in zip(shares, known, strict=True)]
    variance = math.fsum(terms_of)
    df = variance**2 / math.fsum(term**2 / e.df for term, e in zip(terms_of, known, strict=True))
    difference = math.fsum(share * e.estimate for share, e in zip(shares, known, strict=True))
    se = math.sqrt(variance)
    return t_estimate(known[0].basis, difference, se, se, df, alpha=terms.alpha)
