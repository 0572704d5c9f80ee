"""A crowd: many programs started at once, the time until all are ready, and how many failed."""

import subprocess
import sys
import time

from lynxbill.bench.workload import Bench, BenchWorkload, Figures, Parameters, StatedMeasure, count_in, seconds_in

# Each loads a good part of the standard library, fills its memory, and says when it is ready.
PROGRAM = """
import sys
import argparse, csv, decimal, email.message, html.parser, http.client, json, logging, sqlite3, xml.dom.minidom
held = bytearray(int(sys.argv[1]) << 20)
for at in range(0, len(held), 4096):
    held[at] = 1
sys.stdout.write("ready\\n")
sys.stdout.flush()
sys.stdin.read()
"""


def _perform(parameters: Parameters, bench: Bench) -> Figures:
    programs, held = count_in(parameters, "programs"), count_in(parameters, "MiB each")
    patience = seconds_in(parameters, "seconds to wait")
    command = [sys.executable, "-I", "-c", PROGRAM, str(held)]
    started = time.perf_counter()
    crowd = [
        subprocess.Popen(command, stdin=subprocess.PIPE, stdout=subprocess.PIPE, stderr=subprocess.DEVNULL)
        for _ in range(programs)
    ]
    try:
        ready = 0
        for program in crowd:
            ready += _is_ready(program, started + patience - time.perf_counter())
            bench.progress(ready / programs)
        seconds = time.perf_counter() - started
    finally:
        for program in crowd:
            program.kill()
            program.wait()
            for pipe in (program.stdin, program.stdout):
                if pipe is not None:
                    pipe.close()
    readings = {"ready": float(ready)}
    if ready < programs:
        return Figures(readings, {"time": f"{programs - ready} of {programs} programs were not ready"})
    return Figures(readings | {"time": seconds})


def _is_ready(program: "subprocess.Popen[bytes]", seconds_left: float) -> bool:
    from threading import Timer

    # A program that hangs is ended, so that reading from it comes to an end.
    hung = Timer(max(0.0, seconds_left), program.kill)
    hung.start()
    try:
        return program.stdout is not None and program.stdout.readline() == b"ready\n"
    finally:
        hung.cancel()


CROWD = BenchWorkload(
    key="crowd",
    name="Crowd of programs",
    version=f"1 (Python {sys.version_info.major}.{sys.version_info.minor})",
    parameters={"programs": 24, "MiB each": 48, "seconds to wait": 120},
    loads=("processor", "memory", "drive"),
    measures=(
        StatedMeasure("time", "Crowd, until all are ready", "s", "time", "lower"),
        StatedMeasure("ready", "Crowd, programs that came up", "1", "other", "higher", scale="outcome", of=24),
    ),
    perform=_perform,
    card="24 programs started at once, 48 MiB each, until the last of them says that it is ready.",
    minutes=0.3,
)
