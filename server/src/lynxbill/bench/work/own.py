"""
The technician's own programs: timed, checked, with figures taken from what they print; and what plays a while.

Which program a workload runs stands in a file on the machine under test alone. A server names a workload, never a
command.
"""

import os
import re
import shlex
import subprocess
import tempfile
import time
import tomllib
from collections.abc import Iterator, Mapping
from contextlib import contextmanager
from dataclasses import dataclass
from pathlib import Path
from typing import Any, get_args

from lynxbill.bench.system import available_memory, read_ticks, share_between
from lynxbill.bench.workload import Bench, BenchWorkload, CannotRun, Figures, Parameters, StatedMeasure, WrongResult
from lynxbill.core.terms.measure import Better, Kind

FILE = "commands.toml"
LONGEST_S = 24 * 3600.0
MOST_OUTPUT = 4 << 20
EXAMPLE = """
["Render the day"]
run = "render --queue today"        # or a list of words
folder = "/data/queue"              # where it runs; optional
status = 0                          # what it ends with when all is well; optional
ready = "window shown"              # optional: it is timed up to these words, then ended
seconds = 600                       # it is ended after so long; optional
plays = false                       # true: it plays a while, and processor and memory are read beside it
[["Render the day".figures]]        # optional, as many as there are
name = "Tiles a second"
find = "([0-9.]+) tiles/s"          # the first group is the figure
unit = "/s"
kind = "rate"
better = "higher"
"""


@dataclass(frozen=True, slots=True)
class OwnFigure:
    """A figure that a program prints: where `find` matches, its first group is the reading."""

    name: str
    find: re.Pattern[str]
    unit: str
    kind: Kind
    better: Better


@dataclass(frozen=True, slots=True)
class OwnProgram:
    """A program of the technician's, as the file on this machine describes it."""

    name: str
    words: tuple[str, ...]
    folder: Path | None
    status: int
    ready: re.Pattern[str] | None
    seconds: float
    plays: bool
    figures: tuple[OwnFigure, ...]


def read_programs(folder: Path) -> dict[str, OwnProgram]:
    """Read the technician's programs; none where there is no file. Refuses what it can't use, by its place."""
    file = folder / FILE
    try:
        text = file.read_text()
    except FileNotFoundError:
        return {}
    except (OSError, UnicodeDecodeError) as error:
        raise CannotRun(f"{file} can’t be read: {error}") from error
    try:
        described = tomllib.loads(text)
    except tomllib.TOMLDecodeError as error:
        raise CannotRun(f"{file}: {error}. An example of how it is written:\n{EXAMPLE}") from error
    return {name: _program(file, name, fields) for name, fields in described.items()}


def _program(file: Path, name: str, fields: Any) -> OwnProgram:
    where = f"{file}, “{name}”"
    if not isinstance(fields, dict):
        raise CannotRun(f"{where}: a program is a table of its own. An example:\n{EXAMPLE}")
    unknown = set(fields) - {"run", "folder", "status", "ready", "seconds", "plays", "figures"}
    if unknown:
        raise CannotRun(f"{where}: “{min(unknown)}” is not known. An example:\n{EXAMPLE}")
    run, folder, seconds = fields.get("run"), fields.get("folder"), fields.get("seconds", 600)
    words = shlex.split(run) if isinstance(run, str) else run
    if not isinstance(words, list) or not words or not all(isinstance(word, str) for word in words):
        raise CannotRun(f"{where}: “run” is the command, as it is typed or as a list of words.")
    if isinstance(seconds, bool) or not isinstance(seconds, (int, float)) or not 0 < seconds <= LONGEST_S:
        raise CannotRun(f"{where}: “seconds” is a number above 0, a day at most.")
    return OwnProgram(
        name=name,
        words=tuple(words),
        folder=Path(folder) if isinstance(folder, str) else None,
        status=int(fields.get("status", 0)),
        ready=_pattern(where, "ready", fields["ready"]) if "ready" in fields else None,
        seconds=float(seconds),
        plays=fields.get("plays") is True,
        figures=tuple(_figure(where, figure) for figure in fields.get("figures", ())),
    )


def _pattern(where: str, member: str, text: Any) -> re.Pattern[str]:
    try:
        return re.compile(str(text), re.MULTILINE)
    except re.error as error:
        raise CannotRun(f"{where}: “{member}” is no expression that can be searched for: {error}") from error


def _figure(where: str, fields: Mapping[str, Any]) -> OwnFigure:
    lacking = [key for key in ("name", "find", "unit", "kind", "better") if not isinstance(fields.get(key), str)]
    if lacking:
        raise CannotRun(f"{where}: a figure needs its “{lacking[0]}”, as text.")
    find = _pattern(where, "find", fields["find"])
    if find.groups < 1:
        raise CannotRun(f"{where}: “find” needs a group in brackets: what it matches is the figure.")
    for key, known in (("kind", get_args(Kind)), ("better", get_args(Better))):
        if fields[key] not in known:
            raise CannotRun(f"{where}: “{key}” is one of {', '.join(known)}; “{fields[key]}” stands there.")
    return OwnFigure(fields["name"], find, fields["unit"], fields["kind"], fields["better"])


def program_workload(program: OwnProgram) -> BenchWorkload:
    """The workload that runs a program of the technician's."""
    measures = [
        StatedMeasure(f"figure {number}", figure.name, figure.unit, figure.kind, figure.better)
        for number, figure in enumerate(program.figures)
    ]
    if program.plays:
        measures += [
            StatedMeasure("share", f"{program.name}, processor share", "%", "amount", "lower"),
            StatedMeasure("taken", f"{program.name}, memory taken", "MiBy", "amount", "lower"),
            StatedMeasure("free", f"{program.name}, memory left free", "MiBy", "amount", "higher"),
        ]
    else:
        until = ", until it is ready" if program.ready else ""
        measures.insert(0, StatedMeasure("time", f"{program.name}{until}", "s", "time", "lower"))
    return BenchWorkload(
        key=f"own {program.name}",
        name=program.name,
        version="1",
        parameters={"own program": program.name},
        loads=(),
        measures=tuple(measures),
        perform=_perform,
        needs=_needs,
        card="A program of the technician’s own, as it is described on the machine under test.",
        minutes=max(0.1, program.seconds / 60 if program.plays else 1.0),
    )


def _find(parameters: Parameters, bench: Bench) -> OwnProgram:
    name = str(parameters.get("own program"))
    program = bench.commands.get(name)
    if not isinstance(program, OwnProgram):
        raise CannotRun(f"“{name}” is not described in {FILE} on this machine. An example:\n{EXAMPLE}")
    return program


def _needs(parameters: Parameters, bench: Bench) -> None:
    _find(parameters, bench)


def _perform(parameters: Parameters, bench: Bench) -> Figures:
    program = _find(parameters, bench)
    with tempfile.TemporaryFile() as output:
        seconds, beside, status = _run(program, output.fileno(), bench)
        output.seek(0)
        printed = output.read(MOST_OUTPUT).decode(errors="replace")
    if program.plays:
        readings = dict(beside)
    elif program.ready is None and status != program.status:
        raise WrongResult(f"it ended with {status} in place of {program.status}: {_last_line(printed)}")
    else:
        readings = {"time": seconds}
    missing: dict[str, str] = {}
    for number, figure in enumerate(program.figures):
        found = figure.find.search(printed)
        try:
            readings[f"figure {number}"] = float(found[1].replace(",", ".")) if found else float("nan")
        except ValueError:
            missing[f"figure {number}"] = f"“{found[1] if found else ''}” is no number"
        if found is None:
            del readings[f"figure {number}"]
            missing[f"figure {number}"] = f"“{figure.find.pattern}” was not found in what it printed"
    return Figures(readings, missing)


def _run(program: OwnProgram, output: int, bench: Bench) -> tuple[float, dict[str, float], int | None]:
    """Run a program to its end, until it is ready, or for as long as it plays; with what was read beside it."""
    free_before, ticks = available_memory(), read_ticks()
    lowest = free_before
    started = time.perf_counter()
    try:
        process = subprocess.Popen(
            program.words,
            cwd=program.folder,
            stdin=subprocess.DEVNULL,
            stdout=output,
            stderr=subprocess.STDOUT,
            start_new_session=True,
        )
    except OSError as error:
        raise CannotRun(f"“{program.words[0]}” can’t be started: {error.strerror}.") from error
    try:
        while (passed := time.perf_counter() - started) < program.seconds:
            if process.poll() is not None:
                passed = time.perf_counter() - started
                break
            if program.ready and program.ready.search(_so_far(output)):
                break
            free = available_memory()
            lowest = free if lowest is None or (free is not None and free < lowest) else lowest
            bench.progress(min(1.0, passed / program.seconds) if program.plays else 0.0)
            time.sleep(0.2 if program.plays else 0.002)
        is_over = process.poll() is not None
    finally:
        _end(process)
    if not program.plays and program.ready is None and not is_over:
        raise WrongResult(f"it was ended after {program.seconds:g} s")
    if program.ready is not None and not program.ready.search(_so_far(output)):
        raise WrongResult(f"“{program.ready.pattern}” was not printed within {passed:.0f} s")
    beside = {"share": 100 * share} if (share := share_between(ticks, read_ticks())) is not None else {}
    if free_before is not None and lowest is not None:
        beside |= {"taken": (free_before - lowest) / 2**20, "free": lowest / 2**20}
    return passed, beside, process.returncode


@contextmanager
def running(program: OwnProgram) -> Iterator[None]:
    """Let a program run beside something else, and end it afterwards."""
    with open(os.devnull, "r+b") as nowhere:
        try:
            process = subprocess.Popen(
                program.words,
                cwd=program.folder,
                stdin=nowhere,
                stdout=nowhere,
                stderr=nowhere,
                start_new_session=True,
            )
        except OSError as error:
            raise CannotRun(f"“{program.words[0]}” can’t be started: {error.strerror}.") from error
        try:
            yield
            if process.poll() is not None:
                raise WrongResult(f"“{program.name}” ended by itself while it should have run beside")
        finally:
            _end(process)


def _so_far(output: int) -> str:
    return os.pread(output, MOST_OUTPUT, 0).decode(errors="replace")


def _end(process: "subprocess.Popen[bytes]") -> None:
    """End a program with all that it started."""
    if process.poll() is None:
        end_group = getattr(os, "killpg", None)
        if end_group is not None:
            end_group(process.pid, 15)
        else:
            process.terminate()
        try:
            process.wait(3)
        except subprocess.TimeoutExpired:
            process.kill()
    process.wait()


def _last_line(printed: str) -> str:
    lines = printed.strip().splitlines()
    return lines[-1][:200] if lines else "it printed nothing"
