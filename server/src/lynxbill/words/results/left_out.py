"""Why runs are in no test, in words."""

from collections.abc import Callable, Mapping

from lynxbill.core.judgement.sitting import LeftOut, WhyLeftOut
from lynxbill.words.base.figures import counted

_ALWAYS: Mapping[WhyLeftOut, str] = {
    "warm_up": "warm-up",
    "no_reading": "no reading of this measure",
    "other_look": "not part of this look",
    "no_pairs": "the plan pairs no runs",
    "alone": "no partner on the other side",
    "stray": "another version, target, parameters or kind of reading than the comparison",
    "workload_version_differs": "the two sides ran different versions of the task",
    "parameters_differ": "the two sides ran the task with different parameters",
    "target_differs": "the two sides ran the task on different targets",
    "statistic_differs": "the two sides read different figures: lowest, mean, highest, settled or momentary",
}
_OF_EACH: Mapping[WhyLeftOut, Callable[[LeftOut], str]] = {
    "broken": lambda left: left.noted,
    "late": lambda left: f"left out after its reading was seen: {left.noted}",
    "told": lambda left: f"{left.noted} value, kept out of the test",
    "beyond_plan": lambda left: f"beyond the {left.wanted} planned runs",
    "beyond_common": lambda left: f"beyond the first {_first(left)} that every sitting has",
    "open": lambda left: f"its sitting is open and {_missing(left)}",
    "short": lambda left: f"its sitting was closed with {left.made} of {left.wanted} runs",
}


def say_left_out(left: LeftOut) -> str:
    """Say why a run is in no test, or has no partner."""
    return _ALWAYS[left.why] if left.why in _ALWAYS else _OF_EACH[left.why](left)


def _first(left: LeftOut) -> str:
    return "run" if left.wanted == 1 else counted(left.wanted or 0, "run")


def _missing(left: LeftOut) -> str:
    is_short = left.wanted is not None and (left.made or 0) < left.wanted
    return f"has {left.made} of {left.wanted} runs" if is_short else "is not done yet"
