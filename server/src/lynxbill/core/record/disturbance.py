"""What disturbs a run: what the agent notes, the live view warns of, and a comparison is flagged for."""

from collections.abc import Mapping
from typing import Literal

from lynxbill.core.record.ids import Plain

# Other programs that take this share of one core, or more.
OTHERS_DISTURB_FROM = 0.10
Cause = Literal["other programs", "not at rest", "battery"]


def disturbances(conditions: Mapping[str, Plain], planned_source: Plain = None) -> tuple[Cause, ...]:
    """
    Say what disturbed a run, by what the agent noted of it.

    Args:
        conditions: of the run (`RUN_CONDITIONS` of core/record/vocabulary.py).
        planned_source: what the plan has the machine run on; a battery that was planned disturbs nothing.
    """
    found: list[Cause] = []
    # What is noted of the whole processor was noted by earlier agents, and only from 3 % of all cores on.
    earlier = _number(conditions.get("other_load_percent")) > 0
    if _number(conditions.get("other_core_percent")) >= 100 * OTHERS_DISTURB_FROM or earlier:
        found.append("other programs")
    if conditions.get("at_rest") == "no":
        found.append("not at rest")
    if conditions.get("power_source") == "battery" != planned_source:
        found.append("battery")
    return tuple(found)


def _number(value: Plain) -> float:
    return float(value) if isinstance(value, (int, float)) and not isinstance(value, bool) else 0.0
