"""What is fitted, from the system's public files; a serial number never leaves the machine, a salted sum does."""

import hashlib
import platform
import re
from collections.abc import Iterator
from dataclasses import dataclass
from pathlib import Path
from typing import Any

from lynxbill.bench.preflight import read_governor, read_source
from lynxbill.bench.sensors import find_channels, missing_roles
from lynxbill.bench.system import count_threads, name_system, read_boot, read_text, read_uptime, total_memory
from lynxbill.bench.work.target import look_at

SECTOR = 512


@dataclass(frozen=True, slots=True)
class Fitted:
    """A part that the machine shows: its role, what it calls itself, and its figures by the vocabulary's keys."""

    role: str
    label: str
    figures: dict[str, Any]

    def as_sent(self) -> dict[str, Any]:
        return {"role": self.role, "label": self.label, "rated": self.figures}


def identify(root: Path = Path("/"), target: Path | None = None, salt: str | None = None) -> dict[str, Any]:
    """
    Say what is fitted, and where it runs.

    Args:
        salt: kept with the machine by its server, and mixed into the sums of serial numbers, so that they tell parts
            of this machine apart and nothing more; without it no sum is made.
    """
    channels = find_channels(root)
    parts = [*_processor(root), *_memory(root), *_drives(root, salt), *_graphics(root), *_board(root)]
    return {
        "parts": [part.as_sent() for part in parts],
        "system": name_system(),
        "python": f"{platform.python_implementation()} {platform.python_version()}",
        "firmware": _dmi(root, "bios_version"),
        "power_source": read_source(root),
        "governor": read_governor(root),
        "boot": read_boot(),
        "uptime_s": read_uptime(),
        "sensors": [f"{channel.role}: {channel.sensor}" for channel in channels],
        "missing": missing_roles(channels),
        "target": None if target is None else str(look_at(target)),
    }


def _dmi(root: Path, name: str) -> str | None:
    return read_text(root / "sys/class/dmi/id" / name)


def _processor(root: Path) -> Iterator[Fitted]:
    text = read_text(root / "proc/cpuinfo") or ""
    name = re.search(r"^model name\s*:\s*(.+)$", text, re.MULTILINE)
    packages = re.findall(r"^physical id\s*:\s*(\d+)$", text, re.MULTILINE)
    cores = set(re.findall(r"^physical id\s*:\s*(\d+)$.*?^core id\s*:\s*(\d+)$", text, re.MULTILINE | re.DOTALL))
    figures: dict[str, Any] = {"threads": len(re.findall(r"^processor\s*:", text, re.MULTILINE)) or count_threads()}
    if cores:
        figures["cores"] = len(cores)
    top = read_text(root / "sys/devices/system/cpu/cpu0/cpufreq/cpuinfo_max_freq")
    if top:
        figures["boost_ghz"] = round(int(top) / 1e6, 2)
    label = name[1] if name else platform.processor() or platform.machine()
    yield Fitted("processor", label + (f" ({len(set(packages))} of them)" if len(set(packages)) > 1 else ""), figures)


def _memory(root: Path) -> Iterator[Fitted]:
    modules = sorted(root.glob("sys/devices/system/edac/mc/mc*/dimm*/size"))
    sizes = [int(size) for file in modules if (size := read_text(file)) and size.isdigit() and int(size) > 0]
    total = total_memory()
    if total is None:
        return
    # The system keeps some for itself: what is fitted is the next whole GiB, or half of one below four.
    gib = total / 2**30
    fitted = sum(sizes) / 1024 if sizes else -(-gib // 1) if gib > 4 else -(-gib * 2 // 1) / 2
    figures: dict[str, Any] = {"size_gb": int(fitted) if fitted == int(fitted) else fitted}
    if sizes:
        figures["modules"] = len(sizes)
    yield Fitted("memory", f"{fitted:g} GB, of which the system shows {gib:.1f} GiB", figures)


def _drives(root: Path, salt: str | None) -> Iterator[Fitted]:
    for drive in sorted(root.glob("sys/block/*")):
        size = read_text(drive / "size")
        if not (drive / "device").exists() or not size or not size.isdigit() or int(size) == 0:
            continue
        if read_text(drive / "removable") == "1":
            continue
        label = read_text(drive / "device/model") or drive.name
        figures: dict[str, Any] = {"size_gb": round(int(size) * SECTOR / 1e9)}
        for key, name in (("link_gts", "current_link_speed"), ("lanes", "current_link_width")):
            found = re.match(r"[\d.]+", read_text(drive / "device/device" / name) or "")
            if found:
                figures[key] = float(found[0]) if key == "link_gts" else int(float(found[0]))
        serial = read_text(drive / "device/serial")
        if serial and salt:
            figures["sum"] = f"{_digest(salt)[:4]}-{_digest(f'{salt} {serial}')[:12]}"
        yield Fitted("drive", label, figures)


def _graphics(root: Path) -> Iterator[Fitted]:
    for card in sorted(root.glob("sys/class/drm/card[0-9]")):
        kind = read_text(card / "device/device")
        if kind:
            yield Fitted("graphics", f"{read_text(card / 'device/vendor')} {kind}", {})


def _board(root: Path) -> Iterator[Fitted]:
    name = _dmi(root, "board_name")
    if name:
        yield Fitted("board", f"{_dmi(root, 'board_vendor') or ''} {name}".strip(), {})


def _digest(text: str) -> str:
    return hashlib.sha256(text.encode()).hexdigest()
