"""
Memory: blocks moved, filled and blended, and scattered reads over a given span.

Moves and fills are the system's own block copies, called through the standard library. Blends and scattered reads
need NumPy: without it the interpreter would be measured in place of the memory.
"""

import random
import time
from collections.abc import Callable
from typing import Any

from lynxbill.bench.workload import (
    Bench,
    BenchWorkload,
    CannotRun,
    Figures,
    Parameters,
    StatedMeasure,
    WrongResult,
    count_in,
)

MIB = 1 << 20
SEED = 8440
NEEDS_NUMPY = (
    "needs NumPy, which this Python does not have: without it the interpreter would be measured in place of the "
    "memory. Install it (Debian: python3-numpy), on both sides of the swap alike."
)


def _numpy() -> Any:
    try:
        import numpy
    except ImportError as error:
        raise CannotRun(NEEDS_NUMPY) from error
    return numpy


def _move(size: int) -> tuple[Callable[[], None], Callable[[], bool], int]:
    source = memoryview(bytearray(random.Random(SEED).randbytes(MIB) * (size // MIB)))
    goal = memoryview(bytearray(size))

    def move() -> None:
        goal[:] = source

    # A byte that is moved is read once and written once: both are counted.
    return move, lambda: goal[:MIB] == source[:MIB] and goal[-MIB:] == source[-MIB:], 2 * size


def _fill(size: int) -> tuple[Callable[[], None], Callable[[], bool], int]:
    import ctypes

    goal = bytearray(size)
    place = (ctypes.c_char * size).from_buffer(goal)
    sign = 0

    def fill() -> None:
        nonlocal sign
        sign = sign % 255 + 1
        ctypes.memset(place, sign, size)

    return fill, lambda: goal[0] == goal[-1] == goal[size // 2] == sign, size


def _blend(size: int) -> tuple[Callable[[], None], Callable[[], bool], int]:
    numpy = _numpy()
    count = size // 8
    one, other, goal = numpy.full(count, 3.0), numpy.full(count, 5.0), numpy.zeros(count)

    def blend() -> None:
        numpy.add(one, other, out=goal)

    # Two are read, one is written.
    return blend, lambda: bool(goal[0] == goal[-1] == 8.0), 3 * size


_WAYS = {"move": _move, "fill": _fill, "blend": _blend}


def _perform_blocks(parameters: Parameters, bench: Bench) -> Figures:
    size, passes = count_in(parameters, "MiB") * MIB, count_in(parameters, "passes")
    work, is_right, moved = _WAYS[str(parameters["way"])](size)
    # The first pass meets pages that the system has not given yet.
    work()
    seconds = []
    for done in range(1, passes + 1):
        started = time.perf_counter()
        work()
        seconds.append(time.perf_counter() - started)
        bench.progress(done / passes)
    if not is_right():
        raise WrongResult("the block does not hold what was written to it")
    return Figures({"rate": passes * moved / 1e9 / sum(seconds)})


def _perform_scattered(parameters: Parameters, bench: Bench) -> Figures:
    numpy = _numpy()
    span, reads, passes = (count_in(parameters, name) for name in ("KiB span", "reads", "passes"))
    held = numpy.arange(span * 1024 // 8, dtype=numpy.int64)
    places = numpy.random.default_rng(SEED).integers(0, len(held), size=reads, dtype=numpy.int64)
    out = numpy.empty(reads, dtype=numpy.int64)
    numpy.take(held, places, out=out, mode="clip")
    started = time.perf_counter()
    for done in range(1, passes + 1):
        numpy.take(held, places, out=out, mode="clip")
        bench.progress(done / passes)
    seconds = time.perf_counter() - started
    if not bool((out == places).all()):
        raise WrongResult("a scattered read gave what stands elsewhere")
    return Figures({"time": seconds / (passes * reads) * 1e9})


def _needs_numpy(parameters: Parameters, _bench: Bench) -> None:
    if parameters.get("way") not in ("move", "fill"):
        _numpy()


def _blocks(way: str, where: str) -> BenchWorkload:
    return BenchWorkload(
        key=f"memory-{way}",
        name=f"Memory, blocks {where}",
        version="1",
        parameters={"way": way, "MiB": 256, "passes": 24},
        loads=("memory", "processor"),
        measures=(StatedMeasure("rate", f"Blocks {where}", "GBy/s", "rate", "higher"),),
        perform=_perform_blocks,
        needs=_needs_numpy,
        card=f"Blocks of 256 MiB {where}, by one core; every byte read or written is counted.",
        minutes=0.2,
    )


def _scattered(span: int, where: str) -> BenchWorkload:
    return BenchWorkload(
        key=f"memory-scattered-{where.replace(' ', '')}",
        name=f"Memory, scattered reads over {where}",
        version="1",
        parameters={"KiB span": span, "reads": 2_000_000, "passes": 12, "seed": SEED},
        loads=("memory", "processor"),
        measures=(StatedMeasure("time", f"A scattered read over {where}", "ns", "time", "lower"),),
        perform=_perform_scattered,
        needs=_needs_numpy,
        card=f"Eight bytes at a time from anywhere in {where}, many under way at once.",
        minutes=0.2,
    )


MEMORY = (
    _blocks("move", "moved"),
    _blocks("fill", "filled"),
    _blocks("blend", "blended"),
    _scattered(512, "512 KiB"),
    _scattered(256 * 1024, "256 MiB"),
)
