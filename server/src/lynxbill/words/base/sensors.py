"""What sensors tell, in words: what each role is called, and less and more of it."""

from collections.abc import Mapping
from dataclasses import dataclass

from lynxbill.core.heat.roles import SENSED, ChannelRole
from lynxbill.core.terms.quantity import unit_of


@dataclass(frozen=True, slots=True)
class SensorWords:
    """`alike` is said where two sides stand no further apart than what settles."""

    name: str
    less: str
    more: str
    alike: str = "as there"


SENSORS: Mapping[ChannelRole, SensorWords] = {
    "temperature": SensorWords("Temperature", "cooler", "warmer", "as warm"),
    "clock": SensorWords("Clock", "lower", "higher"),
    "fan": SensorWords("Fan", "slower", "faster"),
    "noise": SensorWords("Sound", "quieter", "louder"),
    "power": SensorWords("Power", "less", "more"),
    "load": SensorWords("Load", "less", "more"),
    "held back": SensorWords("Held back", "less", "more"),
    "frame time": SensorWords("Frame time", "shorter", "longer"),
}


def unit_shown(role: ChannelRole) -> str:
    """Say in what unit a role is looked at, as it is written."""
    return unit_of(SENSED[role].unit).display
