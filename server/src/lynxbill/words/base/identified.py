"""What a machine shows otherwise than its build says, in words that ask for the usual cause."""

from lynxbill.core.change.identified import Departure
from lynxbill.core.record.ids import Plain
from lynxbill.core.record.vocabulary import PART_FIGURES, setting_label
from lynxbill.words.base.figures import DecimalMark

_CAUSE = {
    ("memory", "size_gb", "less"): "is a module not seated?",
    ("memory", "modules", "less"): "is a module not seated?",
    ("processor", "cores", "less"): "are cores switched off in the firmware, or is it another processor?",
    ("processor", "threads", "less"): "is the second thread of each core switched off?",
    ("processor", "boost_ghz", "less"): "is boost switched off?",
    ("drive", "lanes", "less"): "is it in another slot?",
    ("drive", "link_gts", "less"): "is it in another slot, or on an old lead?",
}
_USUAL = "is the build written down as it is?"


def say_departure(departure: Departure, mark: DecimalMark) -> str:
    """Say one figure that is not as the build says."""
    if departure.how == "absent":
        return f"“{departure.part}” is not seen by the machine: are its lead and slot right?"
    if departure.role is None:
        name = setting_label(departure.key)
        return f"The build says {name} {departure.recorded}, the machine shows {departure.shown}: {_USUAL}"
    figure = next(f for f in PART_FIGURES[departure.role] if f.key == departure.key)
    unit = f" {figure.unit}" if figure.unit else ""
    recorded, shown = (f"{_plain(value, mark)}{unit}" for value in (departure.recorded, departure.shown))
    cause = _CAUSE.get((departure.role, departure.key, departure.how), _USUAL)
    what = f"{departure.role}, {figure.label}"
    return f"{what[0].upper()}{what[1:]}: the build says {recorded}, the machine shows {shown}: {cause}"


def _plain(value: Plain, mark: DecimalMark) -> str:
    return f"{value:g}".replace(".", mark) if isinstance(value, (int, float)) else str(value)
