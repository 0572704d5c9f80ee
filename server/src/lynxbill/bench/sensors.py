"""
Sensors, from the system's own files: temperatures, clocks, power, fans, load, and what held the clock back.

A folder laid out like the system's own can stand in for them (`--sensors`), and is named so wherever its figures are
shown. What no file tells is missing, with the reason; nothing is made up.
"""

import re
import time
from collections.abc import Callable, Iterator
from dataclasses import dataclass, field
from pathlib import Path

from lynxbill.bench.system import Ticks, read_text, read_ticks, share_between
from lynxbill.core.heat.roles import BY_MACHINE

ROOT = Path("/")
_NEEDED = {
    "temperature": "no temperature sensor under sys/class/hwmon",
    "clock": "no clock under sys/devices/system/cpu/*/cpufreq",
    "power": "no energy counter under sys/class/powercap, and no power sensor under sys/class/hwmon",
    "fan": "no fan sensor under sys/class/hwmon",
    "load": "the system does not tell how busy its processor is",
    "held back": "no throttling counter under sys/devices/system/cpu/*/thermal_throttle",
}
# Classes of PCI devices: a display, and the bridge that a processor brings along.
_DISPLAY, _BRIDGE = "0x03", "0x06"
_PROCESSOR_WORDS = re.compile(r"\b(cpu|core|package|processor|die)", re.IGNORECASE)


@dataclass(frozen=True, slots=True)
class Channel:
    """
    One sensor: its role, what of the machine it is on, its unit (UCUM) and its name; `read` answers None for a gap.
    """

    role: str
    of: str
    unit: str
    sensor: str
    read: Callable[[], float | None] = field(repr=False, compare=False)
    stands_in: bool = False


def find_channels(root: Path = ROOT) -> list[Channel]:
    """List every sensor that the system, or the folder that stands in for it, tells of."""
    stands_in = root != ROOT
    found = [*_hwmon(root), *_clocks(root), *_energy(root), *_throttling(root), *_load()]
    return [Channel(c.role, c.of, c.unit, c.sensor, c.read, stands_in and c.role != "load") for c in found]


def missing_roles(channels: list[Channel]) -> dict[str, str]:
    """Which roles no sensor tells, and why."""
    told = {channel.role for channel in channels}
    return {role: _NEEDED[role] for role in BY_MACHINE if role not in told}


def _number(file: Path, scale: float) -> Callable[[], float | None]:
    def read() -> float | None:
        text = read_text(file)
        try:
            return None if text is None else int(text) * scale
        except ValueError:
            return None

    return read


def _hwmon(root: Path) -> Iterator[Channel]:
    kinds = (
        ("temp*_input", "temperature", "Cel", 1e-3),
        ("fan*_input", "fan", "/min", 1.0),
        ("power*_average", "power", "W", 1e-6),
        ("power*_input", "power", "W", 1e-6),
    )
    for chip in sorted(root.glob("sys/class/hwmon/hwmon*"), key=_natural):
        name = read_text(chip / "name") or chip.name
        for pattern, role, unit, scale in kinds:
            for file in sorted(chip.glob(pattern), key=_natural):
                label = read_text(file.with_name(file.name.replace("_input", "_label").replace("_average", "_label")))
                sensor = f"{name}, {label or file.name.split('_')[0]}"
                yield Channel(role, _place(chip, label or ""), unit, sensor, _number(file, scale))


def _place(chip: Path, label: str) -> str:
    """What of the machine a chip sits on: by the bus and class of its device, else by its label."""
    device = chip / "device"
    kind = read_text(device / "class") or ""
    try:
        bus = (device / "subsystem").resolve().name
    except OSError:
        bus = ""
    if bus in ("nvme", "scsi", "block", "ata_device"):
        return "drive"
    if kind.startswith(_DISPLAY):
        return "graphics"
    if kind.startswith(_BRIDGE) or _PROCESSOR_WORDS.search(label):
        return "processor"
    return "board"


def _clocks(root: Path) -> Iterator[Channel]:
    files = sorted(root.glob("sys/devices/system/cpu/cpu[0-9]*/cpufreq/scaling_cur_freq"), key=_natural)
    if files:
        reads = [_number(file, 1e-3) for file in files]

        def mean() -> float | None:
            values = [value for read in reads if (value := read()) is not None]
            return sum(values) / len(values) if values else None

        yield Channel("clock", "processor", "MHz", f"mean of {len(files)} threads", mean)


def _energy(root: Path) -> Iterator[Channel]:
    for zone in sorted(root.glob("sys/class/powercap/*"), key=_natural):
        # A zone within a zone has two colons: what it takes is in the outer one already.
        if read_text(zone / "energy_uj") is None or zone.name.count(":") != 1:
            continue
        yield Channel("power", "processor", "W", read_text(zone / "name") or zone.name, _power_of(zone))


def _power_of(zone: Path) -> Callable[[], float | None]:
    """Power from a counter of energy that begins anew when it is full."""
    energy, full = _number(zone / "energy_uj", 1e-6), (_number(zone / "max_energy_range_uj", 1e-6)() or 0.0)
    last: tuple[float, float] | None = None

    def read() -> float | None:
        nonlocal last
        joules, at = energy(), time.monotonic()
        if joules is None:
            last = None
            return None
        before, last = last, (joules, at)
        if before is None or at <= before[1]:
            return None
        used = joules - before[0]
        used += full if used < 0 else 0.0
        return used / (at - before[1]) if used >= 0 else None

    return read


def _throttling(root: Path) -> Iterator[Channel]:
    for name in ("package_throttle_count", "core_throttle_count"):
        files = sorted(root.glob(f"sys/devices/system/cpu/cpu[0-9]*/thermal_throttle/{name}"), key=_natural)
        if files:
            reads = [_number(file, 1.0) for file in files]
            yield Channel("held back", "processor", "1", "times held back by heat, since the start", _highest(reads))
            return


def _highest(reads: list[Callable[[], float | None]]) -> Callable[[], float | None]:
    return lambda: max((value for read in reads if (value := read()) is not None), default=None)


def _load() -> Iterator[Channel]:
    if read_ticks() is None:
        return
    last: list[Ticks | None] = [read_ticks()]

    def read() -> float | None:
        now = read_ticks()
        share = share_between(last[0], now)
        last[0] = now
        return None if share is None else 100 * share

    yield Channel("load", "processor", "%", "share of all cores", read)


def _natural(path: Path) -> list[str | int]:
    return [int(piece) if piece.isdigit() else piece for piece in re.split(r"(\d+)", path.as_posix())]


def hottest(channels: list[Channel], of: str = "processor") -> Channel | None:
    """The channel by which a part's temperature is told: one on it where there is one, else the hottest of all."""
    told = [
        (channel, value)
        for channel in channels
        if channel.role == "temperature" and (value := channel.read()) is not None
    ]
    on = [item for item in told if item[0].of == of] or told
    return max(on, key=lambda item: item[1])[0] if on else None
