"""The folder of the drive under test: what it lies on, whether it will do, and a file there that never survives."""

import os
import shutil
import tempfile
from collections.abc import Iterator
from contextlib import contextmanager
from dataclasses import dataclass
from pathlib import Path

from lynxbill.bench.system import read_text
from lynxbill.bench.workload import CannotRun
from lynxbill.core.record.ids import Plain

MOUNTS = Path("/proc/self/mounts")
IN_MEMORY = frozenset({"tmpfs", "ramfs", "devtmpfs", "hugetlbfs"})
# A drive that is nearly full is slower than it is, and shall not be filled to the brim.
LEAST_FREE_SHARE = 0.1
MOST_OF_FREE = 0.5
_ESCAPES = {"\\040": " ", "\\011": "\t", "\\012": "\n", "\\134": "\\"}


@dataclass(frozen=True, slots=True)
class Ground:
    """What a folder lies on: the device and file system of its mount (None: not told), and its room in bytes."""

    folder: Path
    device: str | None
    file_system: str | None
    free: int
    size: int

    def __str__(self) -> str:
        return f"{self.folder} on {self.device or 'a device that is not told'} ({self.file_system or 'not told'})"


def look_at(folder: Path) -> Ground:
    """Find out what a folder lies on; refuses one that is not there."""
    try:
        folder = folder.resolve(strict=True)
        room = shutil.disk_usage(folder)
    except OSError as error:
        raise CannotRun(
            f"{folder}: {error.strerror}. Give a folder on the drive under test: --target FOLDER"
        ) from error
    device, file_system = _mount_of(folder)
    return Ground(folder, device, file_system, room.free, room.total)


def drive_state(folder: Path, root: Path = Path("/")) -> dict[str, Plain]:
    """How the drive under a folder is, as far as the system tells: how full, its firmware and its link."""
    ground = look_at(folder)
    state: dict[str, Plain] = {"drive_fill_percent": round(100 * (1 - ground.free / ground.size), 1)}
    device = _drive_of(ground, root)
    if device is not None:
        firmware = read_text(device / "device/firmware_rev") or read_text(device / "device/rev")
        link = [read_text(device / "device/device" / name) for name in ("current_link_speed", "current_link_width")]
        state |= {"drive_firmware": firmware} if firmware else {}
        state |= {"drive_link": f"{link[0]}, {link[1]} lanes"} if all(link) else {}
    return state


def _drive_of(ground: Ground, root: Path) -> Path | None:
    """The whole drive of a mount's device: that of a partition is the folder above it."""
    if ground.device is None or not ground.device.startswith("/dev/"):
        return None
    place = root / "sys/class/block" / Path(ground.device).name
    if not place.exists():
        return None
    resolved = place.resolve()
    return resolved.parent if (resolved / "partition").exists() else resolved


def _mount_of(folder: Path) -> tuple[str | None, str | None]:
    best: tuple[int, str | None, str | None] = (-1, None, None)
    for line in (read_text(MOUNTS) or "").splitlines():
        device, place, file_system = (_plain(field) for field in line.split(" ")[:3])
        # The last of those that lie over each other is the one that is seen.
        if folder.is_relative_to(place) and len(place) >= best[0]:
            best = len(place), device, file_system
    return best[1], best[2]


def _plain(field: str) -> str:
    for written, meant in _ESCAPES.items():
        field = field.replace(written, meant)
    return field


def refuse_unfit(ground: Ground, span: int) -> None:
    """Refuse a folder that lies in memory, or one on a drive without room for the file."""
    if ground.file_system in IN_MEMORY:
        raise CannotRun(f"{ground} lies in memory, not on a drive. Give a folder on the drive: --target FOLDER")
    if span > ground.free * MOST_OF_FREE or ground.free - span < ground.size * LEAST_FREE_SHARE:
        raise CannotRun(
            f"{ground} has {ground.free / 1e9:.1f} GB free of {ground.size / 1e9:.1f} GB: too full for a file of "
            f"{span / 1e9:.1f} GB that leaves a tenth of it free. Make room, or take a smaller span."
        )


@contextmanager
def file_on(folder: Path) -> Iterator[int]:
    """
    A file without a name: the system takes it back with the last that holds it open, also where that is killed.

    Yields: its descriptor, for reading and writing.
    """
    nameless = getattr(os, "O_TMPFILE", None)
    descriptor = None
    if nameless is not None:
        try:
            descriptor = os.open(folder, nameless | os.O_RDWR, 0o600)
        except OSError:
            # This file system knows no nameless files: it gets a name for a moment.
            descriptor = None
    if descriptor is None:
        descriptor, name = tempfile.mkstemp(prefix="lynxbill-bench-", dir=folder)
        os.unlink(name)
    try:
        yield descriptor
    finally:
        os.close(descriptor)
