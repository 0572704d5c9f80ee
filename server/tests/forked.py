"""The server as a process of its own, forked from one that has imported it: an import takes longer than a test."""

import atexit
import multiprocessing
import os
import signal
import subprocess
import sys
from collections.abc import Mapping
from dataclasses import dataclass
from multiprocessing.process import BaseProcess

import lynxbill.app
import lynxbill.demo
from lynxbill.cli import main

_CONTEXT = multiprocessing.get_context("forkserver")
_CONTEXT.set_forkserver_preload([__name__, lynxbill.app.__name__, lynxbill.demo.__name__])


@dataclass(frozen=True)
class Forked:
    """A process that is told, waited for and asked as those of `subprocess` are."""

    process: BaseProcess

    @property
    def pid(self) -> int:
        assert self.process.pid is not None
        return self.process.pid

    def poll(self) -> int | None:
        return self.process.exitcode

    def send_signal(self, number: signal.Signals) -> None:
        os.kill(self.pid, number)

    def wait(self, timeout: float) -> int:
        self.process.join(timeout)
        if self.process.exitcode is None:
            raise subprocess.TimeoutExpired("lynxbill", timeout)
        return self.process.exitcode


def fork_server(words: tuple[str, ...], environment: Mapping[str, str]) -> Forked:
    """Call `lynxbill WORDS` with more in its environment, in silence."""
    # No daemon: the server has workers of its own. One that a test left behind is ended before it is waited for.
    process = _CONTEXT.Process(target=_call, args=(words, dict(environment)))
    process.start()
    atexit.register(process.kill)
    return Forked(process)


def _call(words: tuple[str, ...], environment: Mapping[str, str]) -> None:
    os.environ.update(environment)
    os.dup2(os.open(os.devnull, os.O_WRONLY), 1)
    sys.argv = ["lynxbill", *words]
    main()
