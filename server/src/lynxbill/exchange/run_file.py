"""The run file: one JSON text that carries everything measured on a machine."""

import json
from collections.abc import Callable, Mapping
from functools import partial
from itertools import islice
from types import MappingProxyType
from typing import Any, TypeVar
from uuid import uuid4

from pydantic import TypeAdapter, ValidationError
from pydantic_core import from_json, to_json

from lynxbill.core.heat.trace import WholeTrace
from lynxbill.core.record.frame import Case
from lynxbill.core.record.ids import RunId
from lynxbill.core.record.run import Run
from lynxbill.exchange.evidence_schema import RunFileRun
from lynxbill.exchange.history import hold_history
from lynxbill.exchange.older_names import RUN_FILE, take_older_names
from lynxbill.exchange.problem import Problem, UnusableText, say_validation, steps_of
from lynxbill.exchange.run_members import from_case, to_case, to_run, to_trace
from lynxbill.exchange.run_problems import find_problems
from lynxbill.exchange.run_schema import RunFile
from lynxbill.exchange.shape import MOST_PROBLEMS, check_shape

Read = TypeVar("Read")

_RUNS = TypeAdapter(list[RunFileRun])
MAX_BYTES = 100 * 1024 * 1024
# Runs are read so many at a time: what they are written as takes several times the room of what they become.
BATCH = 1000
MOST_RUNS = 500_000
NO_TRACES: Mapping[RunId, WholeTrace] = MappingProxyType({})
Progress = Callable[[str, int, int], None]


def no_progress(_stage: str, _done: int, _of: int) -> None:
    """Where nobody waits."""


def read_run_file(
    text: str | bytes, progress: Progress = no_progress, traces: dict[RunId, WholeTrace] | None = None
) -> Case:
    """
    Read a run file whole, or refuse it with every problem found (fifty at most).

    Args:
        progress: told how many runs of how many are read; what it raises ends the reading.
        traces: takes those of its runs; without it they are checked, and let go of.
    Raises UnusableText; nothing of a text with a problem is taken over.
    """
    if len(text) > MAX_BYTES:
        raise UnusableText([Problem("$", f"the file has {len(text) // 2**20} MB; at most 100 MB are read")])
    written = _parse(text)
    del text
    members = written.pop("runs", []) if isinstance(written, dict) else []
    if isinstance(members, list) and len(members) > MOST_RUNS:
        raise UnusableText(
            [Problem("$.runs", f"there are {len(members):,} runs; at most {MOST_RUNS:,} fit in a file")]
        )
    if shapes := list(islice(check_shape(written), MOST_PROBLEMS)):
        raise UnusableText(shapes)
    take_older_names(written, RUN_FILE)
    batches = members if isinstance(members, list) else []
    if batches is not members:
        written["runs"] = members
    problems: list[Problem] = []
    file = _validate(partial(RunFile.model_validate_json, to_json(written)), problems)
    runs = _read_runs(batches, problems, progress, traces)
    if file is not None and not problems:
        problems += islice(find_problems(file, runs), MOST_PROBLEMS)
    if problems or file is None:
        raise UnusableText(problems[:MOST_PROBLEMS])
    return hold_history(to_case(file, runs), file.history)


def _parse(text: str | bytes) -> Any:
    try:
        return from_json(text)
    except ValueError as error:
        raise UnusableText([Problem("$", f"this is not valid JSON: {error}")]) from None


def _read_runs(
    written: list[Any], problems: list[Problem], progress: Progress, traces: dict[RunId, WholeTrace] | None
) -> tuple[Run, ...]:
    """Read runs batch by batch, and let go of each batch as it was written."""
    runs: list[Run] = []
    count = len(written)
    written.reverse()
    while written and len(problems) < MOST_PROBLEMS:
        first = count - len(written)
        batch = [written.pop() for _ in range(min(BATCH, len(written)))]
        read = _validate(partial(_RUNS.validate_json, to_json(batch)), problems, first)
        runs += map(to_run, read or ())
        if traces is not None:
            traces |= {RunId(run.id): to_trace(run.trace) for run in read or () if run.trace is not None}
        progress("reading", first + len(batch), count)
    return tuple(runs)


def _validate(read: Callable[[], Read], problems: list[Problem], first: int | None = None) -> Read | None:
    """Read one part; `first` is the number of its first run where it is a batch of them."""
    try:
        return read()
    except ValidationError as error:
        found = [_as_problem(dict(item), first) for item in error.errors(include_url=False, include_input=False)]
        # Of several members of a union that were tried at one place, the first says what is meant to stand there.
        problems += list({problem.path: problem for problem in reversed(found)}.values())[::-1]
        return None


def write_run_file(case: Case, traces: Mapping[RunId, WholeTrace] = NO_TRACES) -> str:
    """Write a case, with traces of its runs, as a run file that `read_run_file` reads back to the same case."""
    file = from_case(case, traces).model_dump(mode="json", by_alias=True, exclude_defaults=True)
    # What says something by not being there is written even where it is nothing.
    for sitting in file.get("sittings", ()):
        sitting.setdefault("closed_at", None)
    return _with_traces_in_a_line(file)


def _with_traces_in_a_line(file: dict[str, Any]) -> str:
    """Write a file a member a line, but each trace in one: a sample a line would be a file of nothing else."""
    lines: dict[str, str] = {}
    for run in file.get("runs", ()):
        if "trace" in run:
            # No text that somebody wrote can be this one.
            place = str(uuid4())
            lines[json.dumps(place)] = json.dumps(run["trace"], separators=(",", ":"))
            run["trace"] = place
    text = json.dumps(file, indent=1)
    for place, line in lines.items():
        text = text.replace(place, line, 1)
    return text


def run_file_schema() -> dict[str, object]:
    """Describe the format as JSON Schema 2020-12."""
    described = RunFile.model_json_schema(by_alias=True)
    return {"$schema": "https://json-schema.org/draft/2020-12/schema", **described}


def _as_problem(error: dict[str, object], first: int | None) -> Problem:
    steps = steps_of(error)
    if first is not None:
        steps = ["runs", first + int(steps[0]), *steps[1:]]
    path = "$" + "".join(f"[{step}]" if isinstance(step, int) else f".{step}" for step in steps)
    return Problem(path, say_validation(error))
