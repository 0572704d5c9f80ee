"""Why a figure could not be read off a trace, in words."""

from lynxbill.core.heat.readoff import ReadOff, Untold
from lynxbill.core.heat.roles import UNITS, ChannelRole
from lynxbill.core.terms.measure import Measure
from lynxbill.core.terms.quantity import unit_of
from lynxbill.words.base.figures import DecimalMark
from lynxbill.words.heat.heat import say_heading


def say_untold(measure: Measure, role: ChannelRole, found: ReadOff, mark: DecimalMark) -> str:
    """Say why a measure has no reading from its run's trace."""
    if found.course is not None:
        unit = UNITS[role]
        shown_unit = unit if unit == "Cel" else unit_of(unit).display
        sentence = say_heading(found.course, shown_unit, mark)
        return f"{measure.name}: {'not settled at the end, ' * (found.course.moving == 'left to go')}{sentence}."
    where = f" of “{measure.trace_of}”" if measure.trace_of else ""
    told: dict[Untold, str] = {
        "no channel": f"the trace has no {role}{where}",
        "no value": f"the trace has no value of its {role}{where}",
        "too short": "the trace is too short for it",
        "climbs": "still climbing at the end, not settled",
        "falls": "still falling at the end, not settled",
        "not reached": "it did not stay within 1 K of where it settled",
        "no room": "the room’s temperature of this sitting is not noted",
        "no power": "the trace has no power",
        "no cool-down": "the trace ends with its load",
        "no curve": "where it would have ended is not known: the load was too short for its time constant",
        "nothing": "it came to zero, and what is compared by ratio needs more",
        "unit": f"the trace’s {role} is in another unit",
    }
    return f"{measure.name}: {told[found.why or 'no value']}."
