"""The ruling on one measure at one time: which rule may speak, what it says, and the verdict that follows."""

from collections.abc import Sequence
from dataclasses import dataclass

from lynxbill.core.judgement.pairing import Pairing, label_differences, unit_differences
from lynxbill.core.judgement.sitting import Sides, SittingUnit
from lynxbill.core.judgement.verdict import Remark, Verdict, decide, decide_exact
from lynxbill.core.record.plan import Plan, PlannedMeasure
from lynxbill.core.statistics.anytime import FEWEST_UNITS, any_time, at_any_time
from lynxbill.core.statistics.estimate import (
    Estimate,
    guard,
    label_guard,
    paired,
    scatter_differs,
    side_by_side,
    two_forms,
)
from lynxbill.core.statistics.exact import permutation_p
from lynxbill.core.statistics.scatter import NO_SCATTER, Noise, Scatter, mean_of, shared_rounding
from lynxbill.core.terms.measure import EXACT_SITTINGS, STEPPED, Measure, margin_bound

MIN_GUARD_RUNS = 3


@dataclass(frozen=True, slots=True)
class Terms:
    """
    On what terms a rule speaks.

    `look` is the number of the plan's look, None at any other time; then the anytime rule holds, after the last look
    with half of the error. `alpha` is what a p is held against. `waiting` is what a measure says that has to wait.
    """

    look: int | None
    alpha: float
    after_last_look: bool = False
    waiting: Remark = "plan_incomplete"


@dataclass(frozen=True, slots=True)
class Ruling:
    """
    `estimate` is the oriented difference where both sides have a run. `interval` is that of the rule that decides;
    `provisional` says that a side had a single unit; `noise` is the scatter between sittings, where known.
    """

    sides: Sides
    pairing: Pairing
    estimate: float | None
    interval: Estimate | None
    exact_p: float | None
    verdict: Verdict
    provisional: bool
    terms: Terms
    noise: Noise | None
    p_adjusted: float | None = None

    @property
    def p(self) -> float | None:
        """The p that it enters its family with; None where no rule gives one."""
        return self.interval.p if self.interval is not None else self.exact_p


def rule_on(
    sides: Sides,
    pairing: Pairing,
    measure: Measure,
    planned: PlannedMeasure,
    plan: Plan,
    terms: Terms,
    borrowed: Scatter = NO_SCATTER,
) -> Ruling:
    """
    Choose the rule by design, terms and counts alone, and let it speak.

    Args:
        sides: the units of the measure; pairing: their pairs.
        borrowed: scatter of other builds that the plan lends to the before-side.
    Source: docs/judgement.md, "Estimate and interval" to "Looking at other times".
    """
    by_units = _by_units(sides, pairing, plan, measure, terms, borrowed)
    interval = by_units or _guarded(sides, pairing, plan, measure, terms)
    exact_p = _exact_p(sides, measure) if terms.look is not None else None
    return Ruling(
        sides=sides,
        pairing=pairing,
        estimate=interval.estimate if interval else _plain_difference(sides),
        interval=interval,
        exact_p=exact_p if planned.role != "watch" else None,
        verdict=_verdict(sides, interval, measure, planned, plan, terms, exact_p),
        provisional=interval.basis == "one_sitting" if interval else _is_single(sides, measure),
        terms=terms,
        noise=_noise_between(interval, sides.step, plan.design == "paired"),
    )


def _by_units(
    sides: Sides, pairing: Pairing, plan: Plan, measure: Measure, terms: Terms, borrowed: Scatter
) -> Estimate | None:
    """The rule on sitting units: the plan's at a look, the anytime rule at any other time."""
    k_b, k_a = len(sides.before), len(sides.after)
    if not k_b or not k_a or sides.short or measure.scale in STEPPED:
        return None
    step, doubt = sides.step, sides.doubt
    if plan.design == "paired":
        differences = _differences(sides, pairing, plan)
        if len(differences) < FEWEST_UNITS:
            return None
        estimate = paired(differences, step=step, doubt=doubt, alpha=terms.alpha)
        if terms.look is not None:
            return estimate
        return any_time(
            estimate.estimate,
            estimate.sd,
            estimate.se,
            estimate.df,
            float(len(differences)),
            after_last_look=terms.after_last_look,
            alpha=terms.alpha,
        )
    units = _units(sides)
    if terms.look is None:
        if min(k_b, k_a) < FEWEST_UNITS:
            return None
        forms = two_forms(*units, step=step, doubt=doubt, borrowed=borrowed)
        size = k_b * k_a / (k_b + k_a)
        return at_any_time(forms, size, after_last_look=terms.after_last_look, alpha=terms.alpha)
    if min(k_b, k_a) < 2:
        return None
    differs = scatter_differs(_by_sitting(sides.before), _by_sitting(sides.after), step)
    return side_by_side(*units, step=step, doubt=doubt, borrowed=borrowed, alpha=terms.alpha, runs_differ=differs)


def _differences(sides: Sides, pairing: Pairing, plan: Plan) -> list[float]:
    if plan.pair_by == "label":
        return [mean_of(labels) for labels in label_differences(sides, pairing) if labels]
    return unit_differences(sides, pairing)


def _guarded(sides: Sides, pairing: Pairing, plan: Plan, measure: Measure, terms: Terms) -> Estimate | None:
    """The guard, where a side has a single unit, or there are no more than two pairs."""
    k_b, k_a = len(sides.before), len(sides.after)
    if not k_b or not k_a or sides.short or measure.scale in STEPPED:
        return None
    step, doubt, alpha = sides.step, sides.doubt, terms.alpha
    if plan.design == "paired" and plan.pair_by == "label":
        by_pair = [labels for labels in label_differences(sides, pairing) if labels]
        if not by_pair or len(by_pair) > 2 or len(by_pair[0]) < MIN_GUARD_RUNS:
            return None
        return label_guard(by_pair, step=step, doubt=doubt, alpha=alpha)
    if plan.design == "paired":
        if not 1 <= len(pairing.sittings) <= 2:
            return None
    elif min(k_b, k_a) != 1:
        return None
    too_few = min(_n_runs(sides.before), _n_runs(sides.after)) < MIN_GUARD_RUNS
    if too_few or len(sides.before[0].by_sitting[0]) < 2:
        return None
    before, after = ([unit.by_sitting for unit in side] for side in (sides.before, sides.after))
    return guard(before, after, step=step, doubt=doubt, alpha=alpha)


def _is_single(sides: Sides, measure: Measure) -> bool:
    """Whether a side has no more than one unit, so that whatever is said of it is provisional."""
    return bool(sides.before and sides.after) and measure.scale not in STEPPED and by_runs(sides, None)


def _noise_between(interval: Estimate | None, step: float, paired: bool) -> Noise | None:
    """What the deciding rule knows of the scatter between sittings; the guard knows nothing of it."""
    if interval is None or interval.basis == "one_sitting" or interval.df < 1:
        return None
    variance = interval.sd**2 / 2 if paired else interval.sd**2
    return Noise(interval.sd, round(interval.df), 0, shared_rounding(variance, step))


def _exact_p(sides: Sides, measure: Measure) -> float | None:
    """Steps and outcomes have no t: their sittings are shared out to the two sides in every way there is."""
    if measure.scale not in STEPPED or sides.short or min(len(sides.before), len(sides.after)) < EXACT_SITTINGS:
        return None
    return permutation_p(_steps(sides.before, measure), _steps(sides.after, measure))


def _steps(units: tuple[SittingUnit, ...], measure: Measure) -> list[float]:
    """One figure a sitting: the median step, or the share of what was tried that passed."""
    if measure.scale == "ordinal":
        return [unit.unit for unit in units]
    return [mean_of(unit.values) for unit in units]


def _verdict(
    sides: Sides,
    interval: Estimate | None,
    measure: Measure,
    planned: PlannedMeasure,
    plan: Plan,
    terms: Terms,
    exact_p: float | None,
) -> Verdict:
    measured = bool(sides.before and sides.after)
    if planned.role == "watch" and measured:
        return Verdict("untested", "watched_only")
    if exact_p is not None:
        better = mean_of(_steps(sides.after, measure)) > mean_of(_steps(sides.before, measure))
        return decide_exact(exact_p, better=better, alpha=terms.alpha)
    if interval is None:
        return _unruled(sides, measure, plan, terms)
    if interval.basis == "one_sitting" and terms.look is None:
        return Verdict("not_settled", terms.waiting)
    bound = margin_bound(planned.matters_from, measure.scale)
    fewest = min(len(sides.before), len(sides.after))
    verdict = decide(interval, bound, alpha=terms.alpha, fewest_sittings=fewest)
    return Verdict("not_settled", terms.waiting) if verdict.word == "not_settled" and terms.look is None else verdict


def _unruled(sides: Sides, measure: Measure, plan: Plan, terms: Terms) -> Verdict:
    """What is said where no rule may speak."""
    if sides.mismatch is not None:
        return Verdict("untested", sides.mismatch)
    if not sides.before and not sides.after:
        return Verdict("untested", "not_measured")
    if not sides.before or not sides.after:
        return Verdict("untested", "after_missing" if sides.before else "before_missing")
    if sides.short:
        one = _n_runs(sides.before) == 1 and _n_runs(sides.after) == 1
        return Verdict("untested", "one_run_a_side" if one else "too_few_runs")
    if measure.scale in STEPPED:
        return Verdict("not_settled", "scale_needs_counts" if terms.look is not None else terms.waiting)
    if plan.design == "paired" and plan.pair_by == "label" and not any(label_differences(sides, _all_pairs(sides))):
        return Verdict("not_settled", "pairs_missing")
    if min(len(sides.before), len(sides.after)) >= 2 and terms.look is None:
        return Verdict("not_settled", terms.waiting)
    if plan.design == "paired" and min(len(sides.before), len(sides.after)) >= 2:
        return Verdict("not_settled", "pairs_missing")
    one = _n_runs(sides.before) == 1 and _n_runs(sides.after) == 1
    return Verdict("untested", "one_run_a_side" if one else "too_few_runs")


def _all_pairs(sides: Sides) -> Pairing:
    fewest = min(len(sides.before), len(sides.after))
    return Pairing((), tuple((i, i) for i in range(fewest)), ())


def by_runs(sides: Sides, interval: Estimate | None) -> bool:
    """
    Say whether an estimate is a difference of run means (the guard) rather than of sitting units.

    Args:
        sides: sitting units of both sides.
        interval: the estimate, or None where none could be made.
    """
    if interval is not None:
        return interval.basis == "one_sitting"
    return sides.short or min(len(sides.before), len(sides.after)) < 2


def oriented_mean(units: tuple[SittingUnit, ...], by_runs: bool) -> float:
    """
    Average one side.

    Args:
        units: the sitting units of one side, oriented: more is better.
        by_runs: whether every run weighs alike, not every sitting.
    Returns: the mean of its runs, or of its units, on the scale of judgement.
    """
    return mean_of([y for unit in units for y in unit.values] if by_runs else [unit.unit for unit in units])


def _plain_difference(sides: Sides) -> float | None:
    if not sides.before or not sides.after:
        return None
    runs = by_runs(sides, None)
    return oriented_mean(sides.after, runs) - oriented_mean(sides.before, runs)


def _by_sitting(units: tuple[SittingUnit, ...]) -> list[Sequence[float]]:
    return [values for unit in units for values in unit.by_sitting]


def _units(sides: Sides) -> tuple[list[float], list[float]]:
    return [unit.unit for unit in sides.before], [unit.unit for unit in sides.after]


def _n_runs(units: tuple[SittingUnit, ...]) -> int:
    return sum(len(unit.runs) for unit in units)
