"""
Heat, clock and work of a simulated PC, moved on in small steps.

Two bodies: the die, whose heat goes through the paste, and the cooler, whose heat goes to the room. Where the die
meets its limit the clock gives way until it keeps it.
"""

import math
from dataclasses import dataclass, field

from lynxbill.rig.parts import Pc

STEP_S = 0.1
DIE_J_PER_K = 12.0
# Power rises with the clock faster than the clock: its voltage rises too.
POWER_EXPONENT = 2.4
# How the fan follows the die's temperature, in °C: least below, most above.
FAN_FROM_C, FAN_TO_C = 45.0, 85.0
FAN_SLOWNESS_S = 6.0
# How fast the clock gives way and comes back, in shares a second.
CLOCK_GIVES_WAY, CLOCK_COMES_BACK = 0.25, 0.05
LOWEST_SHARE = 0.35


@dataclass(slots=True)
class State:
    """Where a PC is: seconds since it was started cold, temperatures in °C, its clock's share of the boost, rpm."""

    pc: Pc
    seconds: float = 0.0
    die_c: float = field(init=False)
    sink_c: float = field(init=False)
    share: float = 1.0
    rpm: float = field(init=False)
    load: float = 0.0
    held_back: int = 0

    def __post_init__(self) -> None:
        self.die_c = self.sink_c = self.pc.room_c
        self.rpm = self.pc.fan_rpm or self.pc.cooler.least_rpm

    @property
    def clock_mhz(self) -> float:
        return self.pc.processor.boost_mhz * self.share if self.load else self.pc.processor.base_mhz * 0.5

    @property
    def power_w(self) -> float:
        processor = self.pc.processor
        return processor.idle_w + (processor.watts - processor.idle_w) * self.load * math.pow(
            self.share, POWER_EXPONENT
        )

    @property
    def noise_db(self) -> float:
        """Sound of its fan, in dB(A)."""
        return self.pc.cooler.noise(self.rpm)

    def move(self, seconds: float) -> None:
        """Let time pass."""
        left = seconds
        while left > 1e-9:
            step = min(STEP_S, left)
            self._step(step)
            left -= step

    def _step(self, step: float) -> None:
        pc = self.pc
        through_paste = (self.die_c - self.sink_c) / pc.paste.resistance
        to_room = (self.sink_c - pc.room_c) / pc.cooler.resistance(self.rpm)
        self.die_c += step * (self.power_w - through_paste) / DIE_J_PER_K
        self.sink_c += step * (through_paste - to_room) / pc.cooler.joule_per_kelvin
        if pc.fan_rpm is None:
            span = min(1.0, max(0.0, (self.die_c - FAN_FROM_C) / (FAN_TO_C - FAN_FROM_C)))
            wanted = pc.cooler.least_rpm + span * (pc.cooler.most_rpm - pc.cooler.least_rpm)
            self.rpm += (wanted - self.rpm) * step / FAN_SLOWNESS_S
        if self.die_c > pc.processor.limit_c:
            self.share = max(LOWEST_SHARE, self.share - CLOCK_GIVES_WAY * step)
            self.held_back += 1
        elif self.die_c < pc.processor.limit_c - 1.0:
            self.share = min(1.0, self.share + CLOCK_COMES_BACK * step)
        self.seconds += step


def equilibrium(pc: Pc, power_w: float, rpm: float) -> float:
    """The temperature at which a PC settles with power and fan held, in °C: the room, and power times resistance."""
    return pc.room_c + power_w * (pc.paste.resistance + pc.cooler.resistance(rpm))
