"""Processes that work side by side, and can be ended at any moment."""

import multiprocessing
import signal
from collections.abc import Callable, Iterator
from contextlib import contextmanager, suppress
from multiprocessing.connection import Connection, wait
from multiprocessing.context import SpawnProcess
from typing import Any

from lynxbill.bench.workload import WrongResult

# What a process does over and over: it is made once from what it is given, then called with each number.
Maker = Callable[[Any], Callable[[int], Any]]


@contextmanager
def crew(size: int, maker: Maker, given: Any) -> Iterator[list[Connection]]:
    """
    Start processes that never see Ctrl-C: it is for the agent, which then ends them.

    They share no lock and no queue, each has a pipe of its own, so that they can be killed at any moment.
    """
    context = multiprocessing.get_context("spawn")
    started: list[tuple[SpawnProcess, Connection]] = []
    try:
        with _interrupts_held():
            for _ in range(size):
                ours, theirs = context.Pipe()
                process = context.Process(target=_serve, args=(theirs, maker, given), daemon=True)
                process.start()
                theirs.close()
                started.append((process, ours))
        # The start is no part of the work: every process answers once before the clock runs.
        for _, pipe in started:
            receive(pipe)
        yield [pipe for _, pipe in started]
    finally:
        with _interrupts_held():
            for process, pipe in started:
                process.kill()
                process.join()
                pipe.close()


def hand_out(pipes: list[Connection], pieces: int) -> Iterator[Any]:
    """Hand a piece to whoever is free until all are done; yields each answer as it comes."""
    handed = 0
    for pipe in pipes[:pieces]:
        pipe.send(handed)
        handed += 1
    for _ in range(pieces):
        pipe = next(known for known in wait(pipes) if isinstance(known, Connection))
        answer = receive(pipe)
        if handed < pieces:
            pipe.send(handed)
            handed += 1
        yield answer


def receive(pipe: Connection) -> Any:
    """Wait for one answer of a process."""
    try:
        return pipe.recv()
    except EOFError as error:
        raise WrongResult("a process of the work ended by itself") from error


@contextmanager
def _interrupts_held() -> Iterator[None]:
    """Hold Ctrl-C back, here and in what is started meanwhile; here it arrives when the moment is over."""
    mask = getattr(signal, "pthread_sigmask", None)
    if mask is None:
        yield
        return
    mask(signal.SIG_BLOCK, {signal.SIGINT})
    try:
        yield
    finally:
        mask(signal.SIG_UNBLOCK, {signal.SIGINT})


def _serve(pipe: Connection, maker: Maker, given: Any) -> None:
    """Work each time it is asked for, until the agent is gone."""
    signal.signal(signal.SIGINT, signal.SIG_IGN)
    work = maker(given)
    pipe.send("ready")
    with suppress(EOFError, BrokenPipeError):
        while True:
            pipe.send(work(pipe.recv()))
