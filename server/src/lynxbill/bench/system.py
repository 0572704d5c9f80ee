"""What the system says of itself; what it does not say is None, never a guess."""

import os
import platform
import time
from collections.abc import Iterator
from dataclasses import dataclass
from pathlib import Path

PROC = Path("/proc")
# Since when the system runs changes by less than this between two looks, whatever the clock does.
_SAME_BOOT_S = 30


def read_text(path: Path) -> str | None:
    """A small file of the system's, stripped; None where there is none, or it can't be read."""
    try:
        return path.read_text(errors="replace").strip()
    except OSError:
        return None


def read_boot() -> str:
    """Read which start of the system this is: sittings that share it are one, however many there are."""
    boot = read_text(PROC / "sys/kernel/random/boot_id")
    if boot:
        return boot
    # Elsewhere the moment it was started, to half a minute: by the clock that no setting of the time moves.
    return f"started {(time.time() - time.monotonic()) // _SAME_BOOT_S * _SAME_BOOT_S:.0f}"


def read_uptime() -> float | None:
    """Seconds since the system was started."""
    text = read_text(PROC / "uptime")
    return float(text.split()[0]) if text else None


def count_threads() -> int:
    """In how many threads programs can run here at once."""
    allowed = getattr(os, "sched_getaffinity", None)
    return len(allowed(0)) if allowed else os.cpu_count() or 1


def _memory(name: str) -> int | None:
    for line in (read_text(PROC / "meminfo") or "").splitlines():
        if line.startswith(f"{name}:"):
            return int(line.split()[1]) * 1024
    return None


def available_memory() -> int | None:
    """Bytes that programs can still take without anything being paged out."""
    return _memory("MemAvailable")


def total_memory() -> int | None:
    return _memory("MemTotal")


@dataclass(frozen=True, slots=True)
class Ticks:
    """Processor time since the start of the system, of all cores: busy and in all, in ticks."""

    busy: int
    every: int


def read_ticks() -> Ticks | None:
    """How long the processor was busy so far."""
    for line in (read_text(PROC / "stat") or "").splitlines()[:1]:
        # user nice system idle iowait irq softirq steal: time that waits for the drive is no work.
        counts = [int(count) for count in line.split()[1:9]]
        return Ticks(sum(counts) - counts[3] - counts[4], sum(counts))
    return None


def share_between(one: Ticks | None, other: Ticks | None) -> float | None:
    """The share of all cores that was busy between two looks."""
    if one is None or other is None or other.every <= one.every:
        return None
    return (other.busy - one.busy) / (other.every - one.every)


@dataclass(frozen=True, slots=True)
class Task:
    """A process: its name, its parent, and the ticks it has taken with those of its children that ended."""

    name: str
    parent: int
    ticks: int


def read_tasks() -> dict[int, Task]:
    """Every process that the system shows; empty where it shows none."""
    return dict(_tasks())


def _tasks() -> Iterator[tuple[int, Task]]:
    for folder in PROC.glob("[0-9]*"):
        text = read_text(folder / "stat")
        if text is None:
            continue
        name, _, rest = text.partition("(")[2].rpartition(")")
        fields = rest.split()
        yield int(folder.name), Task(name, int(fields[1]), sum(int(field) for field in fields[11:15]))


def busiest_others(before: dict[int, Task], after: dict[int, Task]) -> list[tuple[str, int]]:
    """
    Say which programs beside the agent took processor time between two looks.

    Returns: names with the ticks that they took, most first; the agent, what it started, and what started it are left
        out.
    """
    own = _kin(after, os.getpid())
    taken: dict[str, int] = {}
    for number, task in after.items():
        if number in own:
            continue
        ticks = task.ticks - (before[number].ticks if number in before else 0)
        if ticks > 0:
            taken[task.name] = taken.get(task.name, 0) + ticks
    return sorted(taken.items(), key=lambda item: -item[1])


def _kin(tasks: dict[int, Task], number: int) -> set[int]:
    kin = {number}
    for _ in range(len(tasks)):
        more = {child for child, task in tasks.items() if task.parent in kin} - kin
        if not more:
            break
        kin |= more
    while number in tasks and number > 1:
        number = tasks[number].parent
        kin.add(number)
    return kin


def clock_ticks() -> int:
    """Ticks in a second of one core."""
    ask = getattr(os, "sysconf", None)
    return int(ask("SC_CLK_TCK")) if ask else 100


def name_system() -> str:
    """The system as it names itself: "Debian GNU/Linux 12, 6.1.0-18-amd64"."""
    for line in (read_text(Path("/etc/os-release")) or "").splitlines():
        if line.startswith("PRETTY_NAME="):
            return f"{line.partition('=')[2].strip(chr(34))}, {platform.release()}"
    return f"{platform.system()} {platform.release()}"
