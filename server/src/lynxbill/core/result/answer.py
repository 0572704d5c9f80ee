"""The answer to what was hoped for: yes, no, or not settled; never read out of a text."""

from dataclasses import dataclass
from typing import Literal

from lynxbill.core.result.result import MeasureResult
from lynxbill.core.terms.measure import gain_percent

AnswerWord = Literal["yes", "no", "not_settled"]


@dataclass(frozen=True, slots=True)
class Answer:
    """`hoped` is percent of speed for ratios, else the measure's unit."""

    word: AnswerWord
    hoped: float


def answer_of(lead: MeasureResult | None) -> Answer | None:
    """
    Hold the leading claim's interval against what was hoped for.

    Args:
        lead: the leading claim with what was hoped for, or None.
    Returns: yes where the end near zero reaches it; no where the far end falls short of it, or the verdict is no
        gain; else not settled. None where nothing was hoped for, or the verdict was given to nobody yet.
    """
    if lead is None or lead.planned.hoped_for is None or not lead.is_given:
        return None
    hoped, interval = lead.planned.hoped_for, lead.interval
    match lead.verdict.word:
        case "no_change" | "real_loss":
            return Answer("no", hoped)
        case "untested":
            return Answer("not_settled", hoped)
    if interval is None:
        return Answer("not_settled", hoped)
    low, high = interval.low, interval.high
    if lead.measure.scale == "ratio":
        low, high = gain_percent(low), gain_percent(high)
    if lead.verdict.word == "real_gain" and low >= hoped:
        return Answer("yes", hoped)
    return Answer("no" if high < hoped else "not_settled", hoped)
