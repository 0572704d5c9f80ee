"""The start of the system: from the start of its kernel to when it called itself ready, by its own clocks."""

import shutil
import subprocess

from lynxbill.bench.workload import Bench, BenchWorkload, CannotRun, Figures, Parameters, StatedMeasure

READY = "FinishTimestampMonotonic"
PATIENCE_S = 20


def _asked() -> dict[str, float]:
    """What the system's first process says of its start, in seconds since the kernel's."""
    ask = shutil.which("systemctl")
    if ask is None:
        raise CannotRun("this system does not tell when it was ready. Time its start by hand, on the run sheet.")
    try:
        answered = subprocess.run(
            [ask, "show", f"--property={READY}"], capture_output=True, text=True, timeout=PATIENCE_S, check=True
        )
    except (OSError, subprocess.SubprocessError) as error:
        raise CannotRun("this system does not tell when it was ready. Time its start by hand.") from error
    pairs = (line.partition("=") for line in answered.stdout.splitlines())
    return {name: int(value) / 1e6 for name, _, value in pairs if value.isdigit()}


def _perform(_parameters: Parameters, bench: Bench) -> Figures:
    ready = _asked().get(READY, 0.0)
    bench.progress(1.0)
    if ready <= 0:
        raise CannotRun("the system is not ready yet, by its own word: wait a minute, and call the agent again.")
    return Figures({"time": ready})


def _needs(_parameters: Parameters, _bench: Bench) -> None:
    _asked()


START = BenchWorkload(
    key="start",
    name="Start of the system",
    version="1",
    parameters={},
    loads=("drive", "processor"),
    measures=(StatedMeasure("time", "Start of the system, until it is ready", "s", "time", "lower"),),
    perform=_perform,
    needs=_needs,
    card="From the start of the kernel to when the system called itself ready, by its own clocks; once a boot.",
    minutes=0.1,
)
