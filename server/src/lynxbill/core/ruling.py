"""The ruling on one measure: which rule may speak, what it says, and the verdict that follows."""

import math
from collections.abc import Sequence
from dataclasses import dataclass
from typing import Literal

from lynxbill.core.anytime import look
from lynxbill.core.case import Plan, PlannedMeasure, Swap
from lynxbill.core.estimate import (
    NOTHING_BORROWED,
    Borrowed,
    Estimate,
    guard,
    label_guard,
    paired,
    pooled_estimate,
    side_by_side,
)
from lynxbill.core.exact import permutation_p
from lynxbill.core.measure import Measure, margin_bound
from lynxbill.core.pairing import Pairing, label_differences, unit_differences
from lynxbill.core.planning import Noise
from lynxbill.core.sitting import Sides, SittingUnit
from lynxbill.core.verdict import Remark, Verdict, decide, decide_exact

MIN_GUARD_RUNS = 3
STEPPED = ("ordinal", "outcome")


@dataclass(frozen=True, slots=True)
class Reach:
    """How far the plan has come for one measure: may its planned verdict be given?"""

    complete: bool
    added_after_verdict: bool

    @property
    def waiting(self) -> Remark:
        """What a measure that has to wait says."""
        return "added_after_verdict" if self.added_after_verdict else "plan_incomplete"


NOTHING_PLANNED = Reach(complete=True, added_after_verdict=False)


@dataclass(frozen=True, slots=True)
class Ruling:
    """
    `estimate` is the oriented difference where both sides have a run. `interval` is that of the rule that decides;
    `provisional` says that it had too few sittings on a side; `noise` is the scatter between sittings, where known.
    """

    estimate: float | None
    interval: Estimate | None
    exact_p: float | None
    verdict: Verdict
    provisional: bool
    reach: Reach
    noise: Noise | None


def rule_on(
    sides: Sides,
    pairing: Pairing,
    measure: Measure,
    planned: PlannedMeasure,
    plan: Plan,
    reach: Reach,
    borrowed: Borrowed = NOTHING_BORROWED,
) -> Ruling:
    """
    Choose the rule by design, plan and counts alone, and let it speak.

    Args:
        sides: the units of the measure; pairing: their pairs.
        reach: whether the plan's one verdict may be given, from `reach_of`.
        borrowed: scatter of other builds that the plan lends.
    Source: docs/judgement.md, "Estimate and interval" to "How many more".
    """
    interval, provisional = _planned_rule(sides, pairing, plan, measure, borrowed)
    shown = interval
    if interval is not None and not reach.complete and interval.basis != "one_sitting":
        # The planned interval is not valid before the plan is complete, nor with other sittings after it was shown.
        shown = _look(sides, pairing, plan, reach, borrowed)
    exact_p = _exact_p(sides, measure)
    verdict = _verdict(sides, shown, measure, planned, plan, reach, exact_p)
    return Ruling(
        estimate=interval.estimate if interval else _plain_difference(sides),
        interval=shown,
        exact_p=exact_p if planned.role != "watch" else None,
        verdict=verdict,
        provisional=provisional,
        reach=reach,
        noise=_noise_between(interval),
    )


def _noise_between(interval: Estimate | None) -> Noise | None:
    """What the deciding rule knows of the scatter between sittings; the guard knows nothing of it."""
    if interval is None or interval.basis == "one_sitting" or interval.df < 1:
        return None
    return Noise(interval.sd, round(interval.df), 0)


def reach_of(sides: Sides, measure: Measure, plan: Plan, into: Swap | None) -> Reach:
    """
    Say how far a plan has come for one measure.

    Args:
        into: the swap whose plan it is, which knows for which sittings the measure's verdict was shown; sittings of
            builds that are not its own were none of its plan.
    """
    wanted = plan.sittings_a_side or 0
    enough = not sides.short and min(len(sides.before), len(sides.after)) >= wanted
    shown = into.verdict_shown_for.get(measure.id) if into else None
    added = False
    if into is not None and shown is not None:
        own = (into.before, into.after)
        added = any(u.sitting.build_id in own and u.sitting.id not in shown for u in sides.units)
    return Reach(complete=enough and not added, added_after_verdict=added)


def _planned_rule(
    sides: Sides, pairing: Pairing, plan: Plan, measure: Measure, borrowed: Borrowed
) -> tuple[Estimate | None, bool]:
    """The rule of a complete plan, by the numbers of sittings and runs alone; and whether it is provisional."""
    k_b, k_a = len(sides.before), len(sides.after)
    if not k_b or not k_a or measure.scale in STEPPED:
        return None, False
    if plan.design == "paired":
        if plan.pair_by == "label":
            return _rule_by_label(sides, pairing)
        if len(pairing.sittings) >= 3 and not sides.short:
            return paired(unit_differences(sides, pairing), step=sides.step, doubt=sides.doubt), False
    elif k_b + k_a >= 4 and not sides.short:
        estimate = side_by_side(*_units(sides), step=sides.step, doubt=sides.doubt, borrowed=borrowed)
        return estimate, min(k_b, k_a) == 1
    too_few = min(_n_runs(sides.before), _n_runs(sides.after)) < MIN_GUARD_RUNS
    if too_few or len(sides.before[0].runs) < 2:
        return None, True
    runs = [unit.values for unit in sides.before], [unit.values for unit in sides.after]
    return guard(*runs, step=sides.step, doubt=sides.doubt), True


def _rule_by_label(sides: Sides, pairing: Pairing) -> tuple[Estimate | None, bool]:
    """Labelled inputs: a difference a sitting pair from three pairs on; with fewer the guard over the labels."""
    by_pair = label_differences(sides, pairing)
    if sides.short or not by_pair or not by_pair[0]:
        return None, False
    if len(by_pair) >= 3:
        return paired([_mean(labels) for labels in by_pair], step=sides.step, doubt=sides.doubt), False
    if len(by_pair[0]) < MIN_GUARD_RUNS:
        return None, True
    return label_guard(by_pair, step=sides.step, doubt=sides.doubt), True


def _look(sides: Sides, pairing: Pairing, plan: Plan, reach: Reach, borrowed: Borrowed) -> Estimate | None:
    """The anytime rule on the sittings there are; it pools, whatever the counts of the two sides."""
    if plan.design == "paired":
        differences = unit_differences(sides, pairing)
        if plan.pair_by == "label":
            differences = [_mean(labels) for labels in label_differences(sides, pairing)]
        planned, size = paired(differences, step=sides.step, doubt=sides.doubt), float(len(differences))
    else:
        planned = pooled_estimate(*_units(sides), step=sides.step, doubt=sides.doubt, borrowed=borrowed)
        size = 1 / (1 / len(sides.before) + 1 / len(sides.after))
    return look(planned, size, after_showing=reach.added_after_verdict)


def _exact_p(sides: Sides, measure: Measure) -> float | None:
    """Steps and outcomes have no t: their sittings are shared out to the two sides in every way there is."""
    if measure.scale not in STEPPED or sides.short or min(len(sides.before), len(sides.after)) < 2:
        return None
    return permutation_p(_steps(sides.before, measure), _steps(sides.after, measure))


def _steps(units: tuple[SittingUnit, ...], measure: Measure) -> list[float]:
    """One figure a sitting: the median step, or the share of runs that passed."""
    if measure.scale == "ordinal":
        return [unit.unit for unit in units]
    return [_mean(unit.values) for unit in units]


def _verdict(
    sides: Sides,
    interval: Estimate | None,
    measure: Measure,
    planned: PlannedMeasure,
    plan: Plan,
    reach: Reach,
    exact_p: float | None,
) -> Verdict:
    measured = bool(sides.before and sides.after)
    if planned.role == "watch" and measured:
        return Verdict("untested", "watched_only")
    if exact_p is not None:
        if not reach.complete:
            return Verdict("not_settled", reach.waiting)
        better = _mean(_steps(sides.after, measure)) > _mean(_steps(sides.before, measure))
        return decide_exact(exact_p, better=better, sittings=len(sides.units))
    if interval is None:
        enough = measured and not sides.short and len(sides.units) >= 4
        if enough and measure.scale not in STEPPED and not reach.complete:
            return Verdict("not_settled", reach.waiting)
        return Verdict(*_why_untested(sides, measure, plan))
    if interval.basis == "one_sitting" and not reach.complete:
        return Verdict("not_settled", reach.waiting)
    bound = margin_bound(planned.matters_from, measure.scale)
    verdict = decide(interval, bound, fewest_sittings=min(len(sides.before), len(sides.after)))
    return Verdict("not_settled", reach.waiting) if verdict.word == "not_settled" and not reach.complete else verdict


def _why_untested(sides: Sides, measure: Measure, plan: Plan) -> tuple[Literal["untested", "not_settled"], Remark]:
    if sides.mismatch is not None:
        return "untested", sides.mismatch
    if not sides.before and not sides.after:
        return "untested", "not_measured"
    if not sides.before or not sides.after:
        return "untested", "after_missing" if sides.before else "before_missing"
    if measure.scale in STEPPED:
        return "not_settled", "scale_needs_counts"
    if plan.design == "paired" and plan.pair_by == "label":
        return "not_settled", "pairs_missing"
    one = _n_runs(sides.before) == 1 and _n_runs(sides.after) == 1
    return "untested", "one_run_a_side" if one else "too_few_runs"


def by_runs(sides: Sides, interval: Estimate | None) -> bool:
    """Say whether an estimate is a difference of run means (the guard) rather than of sitting units."""
    if interval is not None:
        return interval.basis == "one_sitting"
    return sides.short or len(sides.units) < 4


def oriented_mean(units: tuple[SittingUnit, ...], by_runs: bool) -> float:
    """
    Average one side.

    Returns: the mean of its runs, or of its units, on the scale of judgement.
    """
    return _mean([y for unit in units for y in unit.values] if by_runs else [unit.unit for unit in units])


def _plain_difference(sides: Sides) -> float | None:
    if not sides.before or not sides.after:
        return None
    runs = by_runs(sides, None)
    return oriented_mean(sides.after, runs) - oriented_mean(sides.before, runs)


def _units(sides: Sides) -> tuple[list[float], list[float]]:
    return [unit.unit for unit in sides.before], [unit.unit for unit in sides.after]


def _n_runs(units: tuple[SittingUnit, ...]) -> int:
    return sum(len(unit.runs) for unit in units)


def _mean(values: Sequence[float]) -> float:
    return math.fsum(values) / len(values)
