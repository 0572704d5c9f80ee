"""Compression: map-like text and noise through the standard library's codec, in blocks, on every process."""

import hashlib
import multiprocessing
import random
import signal
import time
import zlib
from collections.abc import Callable, Mapping
from multiprocessing.pool import Pool

from lynxbill.bench.workload import BenchWorkload, StatedMeasure, WrongResult

SEED = 8440
BLOCK_BYTES = 1 << 20
BLOCKS = 48
LEVEL = 6


def make_block() -> bytes:
    """
    Make the fixed block that every process packs: three quarters words, one quarter noise.

    The mix keeps the codec's matcher and its coder both busy; the seed makes it the same everywhere.
    """
    generator = random.Random(SEED)
    words = [bytes(generator.choices(range(97, 123), k=generator.randint(3, 9))) for _ in range(800)]
    text = b" ".join(generator.choices(words, k=BLOCK_BYTES // 6))[: BLOCK_BYTES * 3 // 4]
    return text + generator.randbytes(BLOCK_BYTES - len(text))


def digest_of(data: bytes) -> str:
    """What tells that a block came back whole."""
    return hashlib.sha256(data).hexdigest()


def perform(processes: int, on_progress: Callable[[float], None]) -> Mapping[str, float]:
    """Pack all blocks with so many processes and unpack each again to check it; MB/s and seconds."""
    block = make_block()
    wanted = digest_of(block)
    with _start_pool(processes, block) as pool:
        # The pool's start is no part of the work: every process answers once before the clock runs.
        pool.map(_answer, range(processes), chunksize=1)
        started = time.perf_counter()
        for done, digest in enumerate(pool.imap_unordered(_pack, range(BLOCKS)), start=1):
            if digest != wanted:
                raise WrongResult(f"block {done} of {BLOCKS} did not unpack to what was packed")
            on_progress(done / BLOCKS)
        seconds = time.perf_counter() - started
    return {"rate": BLOCKS * BLOCK_BYTES / 1e6 / seconds, "time": seconds}


def _start_pool(processes: int, block: bytes) -> Pool:
    """
    Start processes that never see Ctrl-C: it is for the agent, which then ends them.

    They inherit the blocked signal, so that it can't reach one that is only just starting; in the agent itself
    a Ctrl-C of that moment is held back, not lost.
    """
    signal.pthread_sigmask(signal.SIG_BLOCK, {signal.SIGINT})
    try:
        return multiprocessing.get_context("spawn").Pool(processes, initializer=_prepare, initargs=(block,))
    finally:
        signal.pthread_sigmask(signal.SIG_UNBLOCK, {signal.SIGINT})


_block = b""


def _prepare(block: bytes) -> None:
    global _block
    _block = block


def _answer(number: int) -> int:
    return number


def _pack(_number: int) -> str:
    """Pack and unpack the block; the number only tells the pool how often."""
    return digest_of(zlib.decompress(zlib.compress(_block, LEVEL)))


COMPRESS = BenchWorkload(
    name="compress",
    # Another codec release may pack faster or slower: its version is part of the workload's.
    version=f"1 (codec {zlib.ZLIB_RUNTIME_VERSION})",
    parameters={"blocks": BLOCKS, "block_bytes": BLOCK_BYTES, "level": LEVEL, "seed": SEED},
    measures=(
        StatedMeasure("rate", "Compression rate", "MBy/s", "rate", "higher"),
        StatedMeasure("time", "Compression time", "s", "time", "lower"),
    ),
    perform=perform,
)
