"""The verdict: one of five words for what the runs prove, and what is missing where they don't."""

from dataclasses import dataclass
from typing import Literal, get_args

from lynxbill.core.statistics.estimate import Estimate

VerdictWord = Literal["real_gain", "real_loss", "no_change", "not_settled", "untested"]
Remark = Literal[
    "small_but_detectable_gain",
    "small_but_detectable_loss",
    "may_be_too_small_to_matter",
    "too_wide",
    "too_few_sittings",
    "plan_incomplete",
    "added_after_verdict",
    "blocked_by_family",
    "one_run_a_side",
    "too_few_runs",
    "before_missing",
    "after_missing",
    "not_measured",
    "watched_only",
    "workload_version_differs",
    "parameters_differ",
    "target_differs",
    "statistic_differs",
    "scale_needs_counts",
    "pairs_missing",
    "awaits_second_look",
    "waits_for_sitting",
    "rests_on_left_out",
    "rests_on_boots",
    "room_unknown",
]
VERDICT_WORDS: tuple[VerdictWord, ...] = get_args(VerdictWord)
# What keeps a verdict from being given yet.
WAITING: tuple[Remark, ...] = ("plan_incomplete", "waits_for_sitting")
CALLED: tuple[VerdictWord, ...] = ("real_gain", "real_loss")
GOOD_SITTINGS = 3


@dataclass(frozen=True, slots=True)
class Verdict:
    word: VerdictWord
    remark: Remark | None = None


def decide(estimate: Estimate, bound: float, *, alpha: float, fewest_sittings: int) -> Verdict:
    """
    Turn an estimate with its intervals into a verdict.

    Args:
        estimate: of a rule that may speak; its intervals decide.
        bound: half-width of the band that does not matter, on the scale of judgement; above 0.
        alpha: what its p is held against.
        fewest_sittings: sittings of the side with fewer, to say what would help.
    Returns: `no_change` if the (1 − 2·alpha) interval lies inside the band; else `real_gain` or `real_loss` if the
        (1 − alpha) interval excludes zero; else `not_settled`.
    Source: docs/judgement.md, "Verdict".
    """
    detectable = estimate.low > 0 or estimate.high < 0
    better = estimate.estimate > 0
    if -bound < estimate.low90 and estimate.high90 < bound:
        if not detectable:
            return Verdict("no_change")
        return Verdict("no_change", "small_but_detectable_gain" if better else "small_but_detectable_loss")
    if detectable and (estimate.p is None or estimate.p < alpha):
        clears = estimate.low >= bound or estimate.high <= -bound
        return Verdict("real_gain" if better else "real_loss", None if clears else "may_be_too_small_to_matter")
    return Verdict("not_settled", "too_few_sittings" if fewest_sittings < GOOD_SITTINGS else "too_wide")


def decide_exact(p: float, *, better: bool, alpha: float) -> Verdict:
    """
    Turn an exact p of steps or outcomes into a verdict; they are never `no_change`, for they have no interval.

    Args:
        p: exact, two-sided, from sitting units.
        better: the after-side's mean is the better one.
        alpha: of the look.
    Source: docs/judgement.md, "Estimate and interval".
    """
    return Verdict("real_gain" if better else "real_loss") if p < alpha else Verdict("not_settled", "too_wide")


def block_by_family(verdict: Verdict, p_adjusted: float | None, alpha: float) -> Verdict:
    """
    Take a gain or loss back that stands alone but not among all that were tested with it.

    Args:
        p_adjusted: Holm's p within the measure's family; None where it was not tested.
        alpha: what it is held against.
    Source: docs/judgement.md, "Verdict".
    """
    if verdict.word in CALLED and p_adjusted is not None and p_adjusted >= alpha:
        return Verdict("not_settled", "blocked_by_family")
    return verdict
