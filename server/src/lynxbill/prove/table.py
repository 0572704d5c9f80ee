"""Runs the proof, over all processors, and says cell by cell whether the limits were kept."""

import math
import os
from collections.abc import Iterator
from concurrent.futures import ProcessPoolExecutor
from dataclasses import dataclass

import numpy as np

from lynxbill.prove.cells import Cell, all_cells

# What the full form counts of each cell; the short form counts what the cell says.
SEED = 20_260_504
# In the short form the limits are widened by what chance alone allows: 3.3 binomial standard errors.
ALLOWANCE = 3.3
CHUNK = 1000


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

    def __str__(self) -> str:
        limits = f"{100 * self.low:5.1f} to {100 * self.high:4.1f}"
        word = "kept" if self.kept else "MISSED"
        return f"{self.cell.group:20} {self.cell.name:62} {100 * self.rate:6.2f} %  {limits} %  {word}"


def prove(*, full: bool, names: tuple[str, ...] = ()) -> Iterator[Outcome]:
    """
    Simulate every cell and hand out each as it is done.

    Args:
        names: only cells whose group or name begins with one of these.
    """
    cells = [(n, cell) for n, cell in enumerate(all_cells()) if not names or _is_named(cell, names)]
    with ProcessPoolExecutor(os.cpu_count()) as pool:
        waiting = []
        for number, cell in cells:
            count = cell.full if full else cell.short
            sizes = [CHUNK] * (count // CHUNK) or [count]
            parts = [pool.submit(_count, number, chunk, size) for chunk, size in enumerate(sizes)]
            waiting.append((cell, count, parts))
        for cell, count, parts in waiting:
            yield _outcome(cell, count, sum(part.result() for part in parts), full)


def _is_named(cell: Cell, names: tuple[str, ...]) -> bool:
    return any(cell.group.startswith(name) or cell.name.startswith(name) for name in names)


def _count(number: int, chunk: int, size: int) -> int:
    generator = np.random.default_rng([SEED, number, chunk])
    return all_cells()[number].count(generator, size)


def _outcome(cell: Cell, replications: int, events: int, full: bool) -> Outcome:
    def widened(limit: float, direction: int) -> float:
        if full or limit in (0.0, 1.0):
            return limit
        return max(0.0, limit + direction * ALLOWANCE * math.sqrt(limit * (1 - limit) / replications))

    return Outcome(cell, replications, events / replications, widened(cell.low, -1), widened(cell.high, 1))
