"""Why a figure could not be read off a trace, in words."""

from lynxbill.core.measure import Measure
from lynxbill.core.readoff import Untold
from lynxbill.core.trace import ChannelRole


def say_untold(measure: Measure, role: ChannelRole, why: Untold) -> str:
    """Say why a measure has no reading from its run's trace."""
    where = f" of “{measure.trace_of}”" if measure.trace_of else ""
    told = {
        "no channel": f"the trace has no {role}{where}",
        "no value": f"the trace has no value of its {role}{where}",
        "too short": "the trace is too short for it",
        "climbs": "still climbing at the end, not settled",
        "falls": "still falling at the end, not settled",
        "not reached": "it did not stay within 1 K of where it settled",
        "no room": "the room’s temperature of this sitting is not noted",
        "unit": f"the trace’s {role} is in another unit",
    }[why]
    return f"{measure.name}: {told}."
