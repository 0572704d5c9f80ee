"""Compression: map-like text and noise through the standard library's codec, in blocks, on every process."""

import hashlib
import multiprocessing
import random
import signal
import time
import zlib
from collections.abc import Callable, Iterator, Mapping
from contextlib import contextmanager, suppress
from multiprocessing.connection import Connection, wait
from multiprocessing.context import SpawnProcess

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
    with _packers(processes, block) as packers:
        started = time.perf_counter()
        for done, digest in enumerate(_pack_blocks(packers), start=1):
            if digest != wanted:
                raise WrongResult(f"block {done} of {BLOCKS} did not unpack to what was packed")
            on_progress(done / BLOCKS)
        seconds = time.perf_counter() - started
    return {"rate": BLOCKS * BLOCK_BYTES / 1e6 / seconds, "time": seconds}


def _pack_blocks(packers: list[Connection]) -> Iterator[str]:
    """Hand a block to whoever is free until all are packed; yields each digest as it comes."""
    handed = 0
    for packer in packers[:BLOCKS]:
        packer.send(handed)
        handed += 1
    for _ in range(BLOCKS):
        free = wait(packers)[0]
        packer = packers[packers.index(free)]  # type: ignore[arg-type]
        try:
            digest: str = packer.recv()
        except EOFError as error:
            raise WrongResult("a process that packed ended by itself") from error
        if handed < BLOCKS:
            packer.send(handed)
            handed += 1
        yield digest


@contextmanager
def _packers(processes: int, block: bytes) -> Iterator[list[Connection]]:
    """
    Start processes that never see Ctrl-C: it is for the agent, which then ends them.

    They share no lock and no queue, each has a pipe of its own, so that they can be killed at any moment.
    """
    context = multiprocessing.get_context("spawn")
    started: list[tuple[SpawnProcess, Connection]] = []
    try:
        with _interrupts_held():
            for _ in range(processes):
                ours, theirs = context.Pipe()
                process = context.Process(target=_serve, args=(theirs,), daemon=True)
                process.start()
                theirs.close()
                started.append((process, ours))
        for _, packer in started:
            packer.send_bytes(block)
        # The start is no part of the work: every process answers once before the clock runs.
        for _, packer in started:
            packer.recv()
        yield [packer for _, packer in started]
    finally:
        with _interrupts_held():
            for process, packer in started:
                process.kill()
                process.join()
                packer.close()


@contextmanager
def _interrupts_held() -> Iterator[None]:
    """Hold Ctrl-C back, here and in what is started meanwhile; here it arrives when the moment is over."""
    signal.pthread_sigmask(signal.SIG_BLOCK, {signal.SIGINT})
    try:
        yield
    finally:
        signal.pthread_sigmask(signal.SIG_UNBLOCK, {signal.SIGINT})


def _serve(pipe: Connection) -> None:
    """Pack and unpack the block each time it is asked for, until the agent is gone."""
    block = pipe.recv_bytes()
    pipe.send("ready")
    with suppress(EOFError):
        while True:
            pipe.recv()
            pipe.send(digest_of(zlib.decompress(zlib.compress(block, LEVEL))))


COMPRESS = BenchWorkload(
    name="compress",
    # Another codec release may pack faster or slower: its version is part of the workload's.
    version=f"2 (codec {zlib.ZLIB_RUNTIME_VERSION})",
    parameters={"blocks": BLOCKS, "block_bytes": BLOCK_BYTES, "level": LEVEL, "seed": SEED},
    loads=("processor", "memory"),
    measures=(
        StatedMeasure("rate", "Compression rate", "MBy/s", "rate", "higher"),
        StatedMeasure("time", "Compression time", "s", "time", "lower"),
    ),
    perform=perform,
)
