"""Where runs come from: this very machine, or one that stands in for it."""

import time
from collections.abc import Callable, Mapping
from pathlib import Path
from typing import Any, Protocol

from lynxbill.bench.catalogue import catalogue
from lynxbill.bench.identify import identify
from lynxbill.bench.preflight import Interference, Rest, Watch, wait_for_rest
from lynxbill.bench.sensors import Channel, find_channels
from lynxbill.bench.system import count_threads, read_boot
from lynxbill.bench.work.own import OwnProgram
from lynxbill.bench.workload import BenchWorkload


class Watching(Protocol):
    """A watch over what else runs, from its start on."""

    def look(self) -> Interference | None: ...


class Source(Protocol):
    """
    A machine that is measured: its sensors, its workloads by key, which start of it this is, how many threads it has.

    `speed` is how much faster its clock runs than ours.
    """

    boot: str

    @property
    def speed(self) -> float: ...
    @property
    def threads(self) -> int: ...
    def channels(self) -> list[Channel]: ...
    def known(self) -> dict[str, BenchWorkload]: ...
    def clock(self) -> float: ...
    def rest(self, start_c: float | None, limit_s: float, say: Callable[[str], None]) -> Rest: ...
    def watch(self) -> Watching: ...
    def identify(self, target: Path | None, salt: str | None) -> dict[str, Any]: ...


class ThisMachine:
    """The machine that the agent runs on; `root` is where its sensors are looked for."""

    speed = 1.0

    def __init__(self, root: Path, programs: Mapping[str, OwnProgram]):
        self._root = root
        self._channels = find_channels(root)
        self._programs = programs
        self.boot = read_boot()
        self.threads = count_threads()

    def channels(self) -> list[Channel]:
        return self._channels

    def known(self) -> dict[str, BenchWorkload]:
        return catalogue(self._programs)

    def clock(self) -> float:
        return time.monotonic()

    def rest(self, start_c: float | None, limit_s: float, say: Callable[[str], None]) -> Rest:
        return wait_for_rest(self._channels, start_c, limit_s, say)

    def watch(self) -> Watching:
        return Watch()

    def identify(self, target: Path | None, salt: str | None) -> dict[str, Any]:
        """What is fitted, from the system's own files."""
        return identify(self._root, target, salt)
