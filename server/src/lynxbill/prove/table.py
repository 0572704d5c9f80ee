"""Runs the proof, over all processors, and says cell by cell whether the limits were kept."""

import math
import os
from collections.abc import Iterator
from concurrent.futures import ProcessPoolExecutor
from dataclasses import dataclass
from zlib import crc32

import numpy as np

from lynxbill.prove.cells import Cell, all_cells

SEED = 20_260_504
# In the short form the limits are widened by what chance alone allows: 3.3 binomial standard errors.
ALLOWANCE = 3.3
# In the full form blocks are added until the rate stands so many standard errors off its limits.
SURE = 2.5
BLOCK = 1000


@dataclass(frozen=True, slots=True)
class Outcome:
    cell: Cell
    replications: int
    rate: float
    low: float
    high: float

    @property
    def kept(self) -> bool:
        return self.low <= self.rate <= self.high

    @property
    def error(self) -> float:
        """The binomial standard error of the rate."""
        return _error(self.rate * self.replications, self.replications)

    def __str__(self) -> str:
        limits = f"{100 * self.low:5.1f} to {100 * self.high:4.1f}"
        word = "kept" if self.kept else "MISSED"
        counted = f"{100 * self.rate:6.2f} ± {100 * self.error:4.2f} % of {self.replications:6}"
        return f"{self.cell.group:20} {self.cell.name:66} {counted}  {limits} %  {word}"


def prove(*, full: bool, names: tuple[str, ...] = ()) -> Iterator[Outcome]:
    """
    Simulate every cell and hand out each as it is done.

    Args:
        full: as many replications as the rate needs to stand clear of its limits, at most those of the cell; else the
            few that the cell names for the short form, with its limits widened.
        names: only cells whose group or name begins with one of these.
    """
    cells = [(n, cell) for n, cell in enumerate(all_cells()) if not names or _is_named(cell, names)]
    with ProcessPoolExecutor(os.cpu_count()) as pool:
        waiting = [(cell, pool.submit(_count_all if full else _count_few, number)) for number, cell in cells]
        for cell, counted in waiting:
            yield _outcome(cell, *counted.result(), full)


def _is_named(cell: Cell, names: tuple[str, ...]) -> bool:
    return any(cell.group.startswith(name) or cell.name.startswith(name) for name in names)


def _count_few(number: int) -> tuple[int, int]:
    """Replications and events of the short form."""
    cell = all_cells()[number]
    return cell.short, _count(cell, 0, cell.short)


def _count_all(number: int) -> tuple[int, int]:
    """Replications and events, block by block, until the rate stands clear of its limits or all are done."""
    cell = all_cells()[number]
    done = events = 0
    while done < cell.full:
        size = min(BLOCK, cell.full - done)
        events += _count(cell, done, size)
        done += size
        clear = min(_away(events / done, cell.low, 0.0), _away(events / done, cell.high, 1.0))
        if clear > SURE * _error(events, done):
            break
    return done, events


def _away(rate: float, limit: float, end: float) -> float:
    """How far a rate is from a limit; no rate passes the ends."""
    return math.inf if limit == end else abs(rate - limit)


def _error(events: float, replications: int) -> float:
    # One event more and one less keeps an error where none or all were counted.
    rate = (events + 1) / (replications + 2)
    return math.sqrt(rate * (1 - rate) / replications)


def _count(cell: Cell, begun: int, size: int) -> int:
    """Each cell draws its own numbers, whatever cells stand around it."""
    generator = np.random.default_rng([SEED, crc32(f"{cell.group}: {cell.name}".encode()), begun])
    return cell.count(generator, size)


def _outcome(cell: Cell, replications: int, events: int, full: bool) -> Outcome:
    def widened(limit: float, direction: int) -> float:
        if full or limit in (0.0, 1.0):
            return limit
        return max(0.0, limit + direction * ALLOWANCE * math.sqrt(limit * (1 - limit) / replications))

    return Outcome(cell, replications, events / replications, widened(cell.low, -1), widened(cell.high, 1))
