"""What a sensor can tell: each role once, with its unit, its tolerance and what it is read as."""

from collections.abc import Mapping
from dataclasses import dataclass
from typing import Literal

from lynxbill.core.terms.measure import Kind

ChannelRole = Literal["temperature", "clock", "power", "fan", "load", "held back", "noise", "frame time"]


@dataclass(frozen=True, slots=True)
class Sensed:
    """
    What holds for every sensor of one role.

    `unit` (UCUM) is what its channel is looked at in; `within`, in that unit, is what may be left to go of a channel
    that has settled, and from which on two sides differ. `kind` is that of the measures that are read off it, and
    `heading` what names it in the columns of sensor logs (a regular expression); `also` are units of another
    dimension that it may come in. `drawn` says that it is laid over the other side's, `by_machine` that
    the machine can tell it of itself.
    """

    unit: str
    within: float = 0.0
    decimals: int = 0
    kind: Kind | None = None
    heading: str = ""
    also: frozenset[str] = frozenset()
    drawn: bool = False
    by_machine: bool = True


# In this order they are shown, and their headings are tried.
SENSED: Mapping[ChannelRole, Sensed] = {
    "temperature": Sensed("Cel", 0.5, 1, kind="heat", heading=r"°|\btemp|celsius|fahrenheit|\bdeg[cf]\b", drawn=True),
    "clock": Sensed("MHz", 20.0, kind="clock", heading=r"\bclock|\bmhz\b|\bghz\b|\bfreq", drawn=True),
    "fan": Sensed("/min", 30.0, kind="fan", heading=r"\bfan|\brpm\b|l[üu]fter", also=frozenset({"%"}), drawn=True),
    "power": Sensed("W", 0.5, 1, kind="power", heading=r"\bpower\b|\bwatts?\b|\[w\]|\(w\)|\bw$", drawn=True),
    "load": Sensed("%", 2.0, heading=r"\bload\b|\busage\b|\butili[sz]ation\b|%"),
    "noise": Sensed("dB[SPL]", 0.3, 1, kind="noise", heading=r"\bnoise\b|\bdb", drawn=True, by_machine=False),
    "held back": Sensed("1"),
    # Kept as it came; nothing is read off it yet.
    "frame time": Sensed("", by_machine=False),
}
# What a machine tells of itself while it works.
BY_MACHINE: tuple[ChannelRole, ...] = tuple(role for role, sensed in SENSED.items() if sensed.by_machine)
DRAWN: tuple[ChannelRole, ...] = tuple(role for role, sensed in SENSED.items() if sensed.drawn)
# In what units channels are looked at.
UNITS: Mapping[ChannelRole, str] = {role: sensed.unit for role, sensed in SENSED.items() if sensed.unit}
ROLE_OF_KIND: Mapping[Kind, ChannelRole] = {sensed.kind: role for role, sensed in SENSED.items() if sensed.kind}
