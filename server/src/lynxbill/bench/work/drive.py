"""
Drive: long and scattered, read, written and mixed, past the page cache.

A file without a name is laid out on the target first; then blocks of it are asked for directly, so many in flight at
once, each by a thread of its own with a buffer of its own.
"""

import mmap
import os
import random
import sys
import threading
import time
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from dataclasses import dataclass

from lynxbill.bench.work.target import file_on, look_at, refuse_unfit
from lynxbill.bench.workload import (
    Bench,
    BenchWorkload,
    CannotRun,
    Figures,
    Parameters,
    Progress,
    StatedMeasure,
    WrongResult,
    count_in,
    seconds_in,
)

KIB, MIB = 1 << 10, 1 << 20
SEED = 8440
LAYOUT_BLOCK = 4 * MIB
# Where the interpreter itself works for more than this share of the time, a program in C would get more.
PYTHON_LIMITS = 0.6
# In a mixed run, two of three blocks are read.
READ_OF_THREE = 2


@dataclass(slots=True)
class _Tally:
    """What one thread has done; `fault` is what the drive refused."""

    blocks: int = 0
    fault: OSError | None = None


@dataclass(frozen=True, slots=True)
class _Asked:
    """What is asked of the file."""

    descriptor: int
    mode: str
    block: int
    span: int
    long: bool
    in_flight: int


def _buffer(size: int, generator: random.Random) -> mmap.mmap:
    """A buffer that begins at a page, as direct input and output asks for; noise, which nothing packs smaller."""
    held = mmap.mmap(-1, max(size, mmap.PAGESIZE))
    piece = generator.randbytes(min(size, MIB))
    for at in range(0, size, len(piece)):
        held[at : at + len(piece)] = piece[: size - at]
    return held


def _places(asked: _Asked, lane: int) -> Iterator[int]:
    """Where a thread asks next: on and on for long ones, anywhere for scattered ones; without end."""
    blocks = asked.span // asked.block
    if asked.long:
        number = lane
        while True:
            yield number % blocks * asked.block
            number += asked.in_flight
    # Drawn ahead: a draw in between would be the interpreter's time, not the drive's.
    generator = random.Random(f"{SEED} {lane}")
    drawn = [generator.randrange(blocks) * asked.block for _ in range(4096)]
    while True:
        yield from drawn


def _work(asked: _Asked, lane: int, tally: _Tally, begin: threading.Barrier, ended: threading.Event) -> None:
    buffer = _buffer(asked.block, random.Random(SEED + lane))
    view = memoryview(buffer)[: asked.block]
    read, write = os.preadv, os.pwritev
    buffers, descriptor, block = [view], asked.descriptor, asked.block
    begin.wait()
    try:
        for place in _places(asked, lane):
            if ended.is_set():
                return
            if asked.mode == "read" or (asked.mode == "mixed" and tally.blocks % 3 < READ_OF_THREE):
                done = read(descriptor, buffers, place)
            else:
                done = write(descriptor, buffers, place)
            if done != block:
                raise OSError(f"{done} bytes came where {block} were asked for")
            tally.blocks += 1
    except OSError as error:
        tally.fault = error
    finally:
        view.release()


def _rate(asked: _Asked, seconds: float, progress: Callable[[float], None]) -> tuple[float, float]:
    """
    Ask for blocks for so long.

    Returns: blocks a second, and the share of that time in which the interpreter worked.
    """
    tallies = [_Tally() for _ in range(asked.in_flight)]
    begin, ended = threading.Barrier(asked.in_flight + 1), threading.Event()
    lanes = [
        threading.Thread(target=_work, args=(asked, lane, tally, begin, ended), daemon=True)
        for lane, tally in enumerate(tallies)
    ]
    for thread in lanes:
        thread.start()
    begin.wait()
    started, worked = time.perf_counter(), os.times().user
    try:
        while (passed := time.perf_counter() - started) < seconds and not any(tally.fault for tally in tallies):
            progress(passed / seconds)
            time.sleep(min(0.1, seconds - passed))
        blocks, took = sum(tally.blocks for tally in tallies), time.perf_counter() - started
        worked = os.times().user - worked
    finally:
        ended.set()
        for thread in lanes:
            thread.join()
    fault = next((tally.fault for tally in tallies if tally.fault), None)
    if fault is not None:
        raise WrongResult(f"the drive refused a block: {fault}")
    progress(1.0)
    return blocks / took, worked / took


def _lay_out(descriptor: int, span: int, progress: Callable[[float], None]) -> None:
    """Write the whole file with noise: what was never written is made up by the system, not read from the drive."""
    block = _buffer(LAYOUT_BLOCK, random.Random(SEED))
    view = memoryview(block)
    try:
        for at in range(0, span, LAYOUT_BLOCK):
            os.pwritev(descriptor, [view[: min(LAYOUT_BLOCK, span - at)]], at)
            progress(at / span)
        os.fsync(descriptor)
    finally:
        view.release()


@contextmanager
def _past_the_cache(descriptor: int) -> Iterator[int]:
    """The same file, opened once more so that nothing of it is kept in memory."""
    direct = getattr(os, "O_DIRECT", None)
    if direct is None:
        raise CannotRun(f"{sys.platform} has no way here past the page cache: the drive can’t be measured on it.")
    try:
        opened = os.open(f"/proc/self/fd/{descriptor}", os.O_RDWR | direct)
    except OSError as error:
        raise CannotRun(
            "this file system knows no direct input and output, so its cache would be measured."
        ) from error
    try:
        yield opened
    finally:
        os.close(opened)


@contextmanager
def _neighbour(asked: _Asked, busy: bool) -> Iterator[None]:
    """Somebody else at the same drive, who copies long blocks one after another."""
    if not busy:
        yield
        return
    theirs = _Asked(asked.descriptor, "mixed", 2 * MIB, asked.span, True, 1)
    begin, ended = threading.Barrier(2), threading.Event()
    thread = threading.Thread(target=_work, args=(theirs, 0, _Tally(), begin, ended), daemon=True)
    thread.start()
    begin.wait()
    try:
        yield
    finally:
        ended.set()
        thread.join()


def _perform(parameters: Parameters, bench: Bench) -> Figures:
    span, block = count_in(parameters, "MiB span") * MIB, count_in(parameters, "KiB a block") * KIB
    seconds, passes = seconds_in(parameters, "seconds a pass"), count_in(parameters, "passes")
    in_flight, long = count_in(parameters, "in flight"), parameters["way"] == "long"
    if block % 512 or span % block:
        raise CannotRun("a block must be a multiple of half a KiB, and the span a whole number of blocks.")
    _needs(parameters, bench)
    assert bench.target is not None
    with file_on(bench.target) as descriptor, _past_the_cache(descriptor) as direct:
        _lay_out(direct, span, lambda share: bench.progress(share * 0.3))
        asked = _Asked(direct, str(parameters["mode"]), block, span, long, in_flight)
        rates = []
        with _neighbour(asked, parameters.get("beside") == "a busy neighbour"):
            for number in range(passes):
                rates.append(_rate(asked, seconds, _part_of(bench.progress, number, passes)))
                if asked.mode != "read":
                    os.fsync(direct)
    blocks = sum(rate for rate, _ in rates) / passes
    worked = max(share for _, share in rates)
    remarks = [f"On {look_at(bench.target)}."]
    if worked > PYTHON_LIMITS:
        remarks.append(
            f"Python was the limit of this reading: the interpreter worked {worked:.0%} of the time. "
            "The drive may do more."
        )
    reading = blocks * block / 1e6 if long else blocks
    return Figures({"rate": reading}, remarks=tuple(remarks))


def _part_of(progress: Progress, number: int, passes: int) -> Progress:
    """Progress of one pass as that of the whole, of which the layout is three tenths."""
    return lambda share: progress(0.3 + 0.7 * (number + share) / passes)


def _needs(parameters: Parameters, bench: Bench) -> None:
    if bench.target is None:
        raise CannotRun("it needs a folder on the drive under test: --target FOLDER")
    if not hasattr(os, "preadv"):
        raise CannotRun(f"{sys.platform} has no way here past the page cache: the drive can’t be measured on it.")
    refuse_unfit(look_at(bench.target), count_in(parameters, "MiB span") * MIB)


def drive(way: str, mode: str, kib: int, in_flight: int, beside: str = "alone") -> BenchWorkload:
    """A drive workload of a given block and number in flight."""
    done = {"read": "read", "write": "written", "mixed": "read and written"}[mode]
    size = f"{kib // 1024} MiB" if kib >= 1024 else f"{kib} KiB"
    how = "one at a time" if in_flight == 1 else f"{in_flight} at a time"
    tail = "" if beside == "alone" else ", beside a busy neighbour"
    figure = f"{'Long' if way == 'long' else 'Scattered'} blocks {done}, {size}, {how}{tail}"
    return BenchWorkload(
        key=f"drive-{way}-{mode}-{kib}KiB-{in_flight}{'' if beside == 'alone' else '-busy'}",
        name=f"Drive, {figure[0].lower()}{figure[1:]}",
        version="1",
        parameters={
            "way": way,
            "mode": mode,
            "KiB a block": kib,
            "in flight": in_flight,
            "MiB span": 1024,
            "seconds a pass": 5,
            "passes": 2,
            "beside": beside,
            "seed": SEED,
        },
        loads=("drive",),
        measures=(StatedMeasure("rate", figure, "MBy/s" if way == "long" else "/s", "rate", "higher"),),
        perform=_perform,
        needs=_needs,
        on_target=True,
        card=f"Blocks of {size}, {how}, over a file of 1 GiB on the target, past the page cache{tail}.",
        minutes=0.4,
    )


DRIVE = (
    drive("long", "read", 2048, 1),
    drive("long", "write", 2048, 1),
    drive("scattered", "read", 4, 1),
    drive("scattered", "read", 16, 8),
    drive("scattered", "write", 16, 8),
    drive("scattered", "mixed", 16, 8),
    drive("scattered", "read", 16, 8, "a busy neighbour"),
)
