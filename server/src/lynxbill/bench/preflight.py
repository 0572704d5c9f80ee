"""Before a run: is the machine at rest, and what else is there that the run would measure along?"""

import time
from collections.abc import Callable, Mapping
from dataclasses import dataclass, field
from pathlib import Path

from lynxbill.bench.sensors import Channel, hottest
from lynxbill.bench.system import (
    Task,
    available_memory,
    busiest_others,
    clock_ticks,
    count_threads,
    read_tasks,
    read_text,
    read_ticks,
    share_between,
)
from lynxbill.core.record.disturbance import OTHERS_DISTURB_FROM
from lynxbill.core.record.ids import Plain

# At rest: other programs spoil nothing, and the processor is within so much of the sitting's start.
BACK_WITHIN_K = 1.0
LOOK_S = 1.0


@dataclass(frozen=True, slots=True)
class Rest:
    """
    How the machine was before a run: what others took of one core, degrees Celsius, seconds waited; None where it is
    not told.

    `rested` is False where the wait came to its limit.
    """

    rested: bool
    waited_s: float
    busy: float | None
    temperature: float | None
    conditions: Mapping[str, Plain] = field(default_factory=dict)


def wait_for_rest(channels: list[Channel], start_c: float | None, limit_s: float, say: Callable[[str], None]) -> Rest:
    """
    Wait until little else runs and the processor is as cool as at the start of the sitting.

    Args:
        start_c: temperature at the start of the sitting; None: not told, and not waited for.
        limit_s: it is not waited for longer; what was seen by then stands with the run.
    """
    began, sensor = time.monotonic(), hottest(channels)
    while True:
        ticks = read_ticks()
        time.sleep(LOOK_S)
        share = share_between(ticks, read_ticks())
        busy = None if share is None else share * count_threads()
        celsius = sensor.read() if sensor is not None else None
        is_quiet = busy is None or busy < OTHERS_DISTURB_FROM
        is_cool = start_c is None or celsius is None or celsius <= start_c + BACK_WITHIN_K
        waited = time.monotonic() - began
        if (is_quiet and is_cool) or waited >= limit_s:
            return Rest(is_quiet and is_cool, waited, busy, celsius, _conditions(waited, celsius))
        lacks = [] if is_quiet else [f"other programs take {busy or 0:.0%} of a core"]
        if not is_cool and celsius is not None and start_c is not None:
            lacks.append(f"{celsius - start_c:.1f} K warmer than at the start of the sitting")
        say(f"resting: {', '.join(lacks)}")


def _conditions(waited: float, celsius: float | None) -> dict[str, Plain]:
    seen: dict[str, Plain] = {"rest_min": round(waited / 60, 2)}
    if celsius is not None:
        seen["start_c"] = round(celsius, 1)
    if (free := available_memory()) is not None:
        seen["memory_free_mib"] = free // 2**20
    return seen | {
        key: value for key, value in (("governor", read_governor()), ("power_source", read_source())) if value
    }


def read_governor(root: Path = Path("/")) -> str | None:
    """By which rule the system sets the processor's clock; all of them, where cores differ."""
    files = root.glob("sys/devices/system/cpu/cpu[0-9]*/cpufreq/scaling_governor")
    rules = sorted({text for file in files if (text := read_text(file))})
    return ", ".join(rules) or None


def read_source(root: Path = Path("/")) -> str | None:
    """Mains or battery; None where the system has no word for it (a desktop)."""
    online = [text for file in root.glob("sys/class/power_supply/*/online") if (text := read_text(file))]
    if not online:
        return None
    return "mains" if "1" in online else "battery"


@dataclass(frozen=True, slots=True)
class Interference:
    """What other programs took while a run lasted: the share of one core, and the names of the busiest."""

    share: float
    programs: tuple[str, ...]

    def __str__(self) -> str:
        who = ", ".join(self.programs) or "another program"
        return f"{who} took {self.share:.0%} of a core"


class Watch:
    """Watches other programs while a run lasts."""

    def __init__(self) -> None:
        self._before: dict[int, Task] = read_tasks()
        self._began = time.monotonic()

    def look(self) -> Interference | None:
        """What interfered since the watch began; None where nothing took enough to matter."""
        ticks = (time.monotonic() - self._began) * clock_ticks()
        others = busiest_others(self._before, read_tasks())
        share = sum(taken for _, taken in others) / ticks if ticks else 0.0
        if share < OTHERS_DISTURB_FROM:
            return None
        busiest = tuple(name for name, taken in others[:3] if taken > 0.2 * others[0][1])
        return Interference(min(float(count_threads()), share), busiest)
