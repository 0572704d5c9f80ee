"""What would settle a measure that is not settled: sittings a side, or the margin it would have to have."""

from dataclasses import dataclass

from lynxbill.core.case import Design, PlannedMeasure
from lynxbill.core.measure import Measure, margin_bound
from lynxbill.core.planning import (
    MOST_SITTINGS,
    Noise,
    detectable_difference,
    sittings_for,
    sittings_for_no_change,
)
from lynxbill.core.ruling import Terms
from lynxbill.core.verdict import Verdict


@dataclass(frozen=True, slots=True)
class ToSettle:
    """
    Sittings a side that would settle a measure: for the gain hoped for (else the margin), and for showing no change.

    None where twenty would not do; `least` is then the smallest difference that twenty would show, on the scale of
    judgement. All None where nothing is to be settled or a single sitting can't say.
    """

    gain: int | None = None
    no_change: int | None = None
    least: float | None = None


NOTHING_TO_SETTLE = ToSettle()


def what_would_settle(
    noise: Noise | None, verdict: Verdict, measure: Measure, planned: PlannedMeasure, design: Design, terms: Terms
) -> ToSettle:
    """
    Say how many sittings would settle a measure.

    Args:
        noise: the scatter of its sittings; None where too few were taken to know it.
        terms: at no look of the plan, the anytime rule's critical t is the one to beat.
    Returns: never from the observed gain. Nothing where the number of measures alone stands against a verdict.
    Source: docs/judgement.md, "How many more".
    """
    if verdict.word != "not_settled" or verdict.remark == "blocked_by_family" or noise is None:
        return NOTHING_TO_SETTLE
    bound = margin_bound(planned.matters_from, measure.scale)
    target = margin_bound(planned.hoped_for, measure.scale) if planned.hoped_for else bound
    paired, anytime = design == "paired", terms.look is None
    gain = sittings_for(noise, target, paired=paired, anytime=anytime)
    no_change = sittings_for_no_change(noise, bound, paired=paired, anytime=anytime)
    least = None if gain else detectable_difference(noise, MOST_SITTINGS, paired=paired)
    return ToSettle(gain, no_change, least)
