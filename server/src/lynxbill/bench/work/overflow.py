"""
The overflow curve: a working set that grows until it no longer fits, and where its rate falls off the cliff.

Each set is worked by a process of its own, that is ended when it takes too long or when the machine is about to run
out of memory: nothing else is brought down by it.
"""

import mmap
import multiprocessing
import time
from multiprocessing.connection import Connection

from lynxbill.bench.system import available_memory
from lynxbill.bench.workload import (
    Bench,
    BenchWorkload,
    CannotRun,
    Figures,
    Parameters,
    StatedMeasure,
    count_in,
    seconds_in,
)

MIB = 1 << 20
# So much stays free for everything else, whatever was asked for.
FLOOR = 256 * MIB
# A set that keeps less than this share of the best rate is past the cliff.
CLIFF = 0.5
PAGE = mmap.PAGESIZE


def _work(pipe: Connection, size: int, passes: int) -> None:
    """Say that it began, hold a set, touch its pages, then go over it again and again; answers MB/s of each pass."""
    pipe.send(0.0)
    block = bytes(range(256)) * (MIB // 256)
    with mmap.mmap(-1, size) as held:
        for at in range(0, size, MIB):
            held[at : at + MIB] = block
        view = memoryview(held)
        goal = bytearray(MIB)
        for _ in range(passes):
            started = time.perf_counter()
            for at in range(0, size, MIB):
                goal[:] = view[at : at + MIB]
            pipe.send(size / 1e6 / (time.perf_counter() - started))
        view.release()


def _rate(size: int, passes: int, patience_s: float) -> float | None:
    """The best rate of a set in MB/s; None where it was ended before a pass was done."""
    context = multiprocessing.get_context("spawn")
    ours, theirs = context.Pipe(duplex=False)
    process = context.Process(target=_work, args=(theirs, size, passes), daemon=True)
    process.start()
    theirs.close()
    rates: list[float] = []
    try:
        # On a busy machine a process may be long in starting: patience is with the set, and begins with it.
        ours.recv()
        ends = time.monotonic() + patience_s
        while len(rates) < passes and time.monotonic() < ends and (available_memory() or FLOOR) >= FLOOR // 2:
            if ours.poll(0.05):
                rates.append(ours.recv())
    except EOFError:
        # The system ended it for want of memory: what was passed by then stands.
        pass
    finally:
        process.kill()
        process.join()
        ours.close()
    return max(rates, default=None)


def sets_up_to(cap: int, steps: int) -> list[int]:
    """Set sizes in bytes, evenly spaced up to the cap, whole MiB."""
    return [max(MIB, cap * step // steps // MIB * MIB) for step in range(1, steps + 1)]


def find_cliff(rates: list[tuple[int, float | None]]) -> tuple[int, bool]:
    """
    Say how large a set is held at speed.

    Returns: the largest size in bytes before the first that keeps less than half of the best rate, or that was ended;
        and whether there was such a one at all.
    """
    best = max((rate for _, rate in rates if rate is not None), default=0.0)
    held = 0
    for size, rate in rates:
        if rate is None or rate < CLIFF * best:
            return held, True
        held = size
    return held, False


def _perform(parameters: Parameters, bench: Bench) -> Figures:
    steps, passes = count_in(parameters, "steps"), count_in(parameters, "passes")
    patience = seconds_in(parameters, "seconds a step")
    available = available_memory()
    if available is None:
        raise CannotRun("this system does not tell how much memory is free, so no safe cap is known.")
    cap = min(count_in(parameters, "most MiB") * MIB, available - FLOOR)
    if cap < steps * MIB:
        raise CannotRun(f"only {available // MIB} MiB are free: close programs, or take fewer steps.")
    rates: list[tuple[int, float | None]] = []
    for number, size in enumerate(sets_up_to(cap, steps), start=1):
        rates.append((size, _rate(size, passes, patience)))
        bench.progress(number / steps)
        if find_cliff(rates)[1]:
            break
    held, fell = find_cliff(rates)
    curve = ", ".join(
        f"{size // MIB} MiB: " + ("ended" if rate is None else f"{rate:.0f} MB/s") for size, rate in rates
    )
    remark = f"The curve: {curve}."
    if not fell:
        remark += f" No cliff up to {cap // MIB} MiB, which is as far as it went: the set that is held may be larger."
    return (
        Figures({"held": held / MIB}, remarks=(remark,))
        if held
        else Figures({}, {"held": "no set was held"}, (remark,))
    )


def _needs(_parameters: Parameters, _bench: Bench) -> None:
    if available_memory() is None:
        raise CannotRun("this system does not tell how much memory is free, so no safe cap is known.")


OVERFLOW = BenchWorkload(
    key="overflow",
    name="Overflow curve",
    version="1",
    parameters={"most MiB": 65_536, "steps": 10, "passes": 3, "seconds a step": 30},
    loads=("memory",),
    measures=(StatedMeasure("held", "Largest set held at speed", "MiBy", "amount", "higher"),),
    perform=_perform,
    needs=_needs,
    card="A working set that grows to what is free, less 256 MiB: up to where it keeps half of its best rate.",
    minutes=4.0,
)
