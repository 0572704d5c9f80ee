"""Heat, fan, sound, power and clock of the same runs read together: a controller trades one for another."""

from collections.abc import Iterable, Sequence
from dataclasses import dataclass
from typing import Literal

from lynxbill.core.result.result import MeasureResult
from lynxbill.core.terms.measure import Kind

# What more of it does to a temperature: a faster fan cools and is heard, more power and a higher clock heat.
_COOLS: dict[Kind, bool] = {"fan": True, "noise": True, "power": False, "clock": False}
# A fan or its sound says whether the air was held equal; power whether the heat was.
AIR: frozenset[Kind] = frozenset({"fan", "noise"})
Stand = Literal["held equal", "trade", "both", "not measured"]


@dataclass(frozen=True, slots=True)
class Joint:
    """
    A change of heat with what changed beside it in the same runs.

    `stand`: “held equal”, nothing that bears on heat departs; “trade”, something that moves heat the same way does,
    so that the part's own share is not known; “both”, all that departs works against the change, which is the greater
    for it; “not measured”, neither fan nor sound was read. `helped` and `despite` are those that depart, either way;
    `alike` those that don't.
    """

    heat: MeasureResult
    stand: Stand
    helped: tuple[MeasureResult, ...]
    despite: tuple[MeasureResult, ...]
    alike: tuple[MeasureResult, ...]


def read_together(results: Sequence[MeasureResult], heat: MeasureResult) -> Joint | None:
    """
    Read a change of heat with the linked measures of its workload.

    Args:
        results: all of the comparison.
    Returns: None for what is no heat, or has no interval yet. A linked measure departs where its interval leaves zero
        out and its change is more than what matters of it.
    """
    if heat.measure.kind != "heat" or heat.estimate is None or heat.interval is None:
        return None
    linked = [r for r in results if r.measure.workload == heat.measure.workload and r.measure.kind in _COOLS]
    told = [result for result in linked if result.estimate is not None and result.interval is not None]
    departing = [result for result in told if departs(result)]
    is_cooler = heat.estimate > 0
    helped = tuple(r for r in departing if (_is_more(r) == _COOLS[r.measure.kind]) == is_cooler)
    despite = tuple(result for result in departing if result not in helped)
    alike = tuple(result for result in told if result not in departing)
    return Joint(heat, _stand(told, helped, despite), helped, despite, alike)


def departs(result: MeasureResult) -> bool:
    """
    Whether what a measure read has changed, and by more than matters of it.

    Args:
        result: the result of one measure.
    """
    interval = result.interval
    if interval is None or result.estimate is None:
        return False
    return not interval.low <= 0 <= interval.high and abs(result.estimate) > result.bound


def _is_more(result: MeasureResult) -> bool:
    return ((result.estimate or 0.0) > 0) == (result.measure.better == "higher")


def _stand(told: Iterable[MeasureResult], helped: Sequence[MeasureResult], despite: Sequence[MeasureResult]) -> Stand:
    if helped:
        return "trade"
    if not any(result.measure.kind in AIR for result in told):
        return "not measured"
    return "both" if despite else "held equal"
