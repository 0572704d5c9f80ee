"""Heat, fan, sound, power and clock of the same runs read together: a controller trades one for another."""

from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass
from typing import Literal

from lynxbill.core.result.result import MeasureResult
from lynxbill.core.terms.measure import Kind

# What more of it does to a temperature: a faster fan cools and is heard, more power and a higher clock heat.
LINKED: Mapping[Kind, bool] = {"fan": True, "noise": True, "power": False, "clock": False}
# A fan or its sound says whether the air was held equal; power whether the heat was.
AIR: frozenset[Kind] = frozenset({"fan", "noise"})
JointWord = Literal["held equal", "trade", "both", "not known", "not measured"]


@dataclass(frozen=True, slots=True)
class Joint:
    """
    A change of heat with what changed beside it in the same runs.

    `stand`: “held equal”, all that bears on heat was shown to be alike; “trade”, something that moves heat the same
    way departs, so that the part's own share is not known; “both”, all that departs works against the change, which
    is the greater for it; “not known”, nothing departs and something was not shown to be alike; “not measured”,
    neither fan nor sound was read. `helped` and `despite` are those that depart, either way; `alike` those that
    don't; `unknown` those of which neither is shown.
    """

    heat: MeasureResult
    word: JointWord
    helped: tuple[MeasureResult, ...]
    despite: tuple[MeasureResult, ...]
    alike: tuple[MeasureResult, ...]
    unknown: tuple[MeasureResult, ...]


def read_together(results: Sequence[MeasureResult], heat: MeasureResult) -> Joint | None:
    """
    Read a change of heat with the linked measures of its workload.

    Args:
        results: all that were read of the comparison, measures and traces.
    Returns: None for what is no heat, or has no interval yet.
    """
    if heat.measure.kind != "heat" or heat.estimate is None or heat.interval is None:
        return None
    linked = [r for r in results if r.measure.workload == heat.measure.workload and r.measure.kind in LINKED]
    told = [result for result in linked if result.estimate is not None]
    departing = [result for result in told if departs(result)]
    is_cooler = heat.estimate > 0
    helped = tuple(r for r in departing if (_is_more(r) == LINKED[r.measure.kind]) == is_cooler)
    despite = tuple(result for result in departing if result not in helped)
    alike = tuple(result for result in told if is_alike(result))
    unknown = tuple(result for result in told if result not in departing and result not in alike)
    return Joint(heat, _joint_word(told, helped, despite, unknown), helped, despite, alike, unknown)


def is_alike(result: MeasureResult) -> bool:
    """
    Whether what a measure read was shown to be alike on both sides.

    Args:
        result: the result of one measure.
    Returns: whether its interval at 1 − 2·alpha lies within what matters of it.
    Source: docs/judgement.md, "Heat" (two one-sided tests).
    """
    interval = result.interval
    return interval is not None and -result.bound <= interval.low90 and interval.high90 <= result.bound


def departs(result: MeasureResult) -> bool:
    """
    Whether what a measure read was shown to differ, and not to be alike.

    Args:
        result: the result of one measure.
    Returns: whether its interval at 1 − alpha leaves zero out.
    """
    interval = result.interval
    if interval is None or is_alike(result):
        return False
    return not interval.low <= 0 <= interval.high


def _is_more(result: MeasureResult) -> bool:
    return ((result.estimate or 0.0) > 0) == (result.measure.better == "higher")


def _joint_word(
    told: Iterable[MeasureResult],
    helped: Sequence[MeasureResult],
    despite: Sequence[MeasureResult],
    unknown: Sequence[MeasureResult],
) -> JointWord:
    if helped:
        return "trade"
    if not any(result.measure.kind in AIR for result in told):
        return "not measured"
    if despite:
        return "both"
    return "not known" if unknown else "held equal"
