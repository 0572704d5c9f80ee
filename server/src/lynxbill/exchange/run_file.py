"""The run file: one JSON text that carries everything measured on a machine."""

import json
import re

from pydantic import ValidationError

from lynxbill.core.case import Case
from lynxbill.exchange.problem import Problem, UnusableText, say_validation
from lynxbill.exchange.run_members import from_case, to_case
from lynxbill.exchange.run_problems import find_problems
from lynxbill.exchange.run_schema import RunFile

# Pydantic names the tried member of a union as a step; it is no part of the path.
_UNION_MEMBER = re.compile(r"(constrained-)?float$|ReadingFile$|function-(before|after)\[")
MAX_BYTES = 50 * 1024 * 1024


def read_run_file(text: str | bytes) -> Case:
    """
    Read a run file whole, or refuse it with every problem found.

    Raises UnusableText; nothing of a text with a problem is taken over.
    """
    if len(text) > MAX_BYTES:
        raise UnusableText([Problem("$", f"the file has {len(text) // 2**20} MB; at most 50 MB are read")])
    try:
        file = RunFile.model_validate_json(text)
    except ValidationError as error:
        found = [_as_problem(dict(item)) for item in error.errors(include_url=False)]
        # Of several members of a union that were tried at one place, the first says what is meant to stand there.
        raise UnusableText(list({problem.path: problem for problem in reversed(found)}.values())[::-1]) from None
    problems = list(find_problems(file))
    if problems:
        raise UnusableText(problems)
    return to_case(file)


def write_run_file(case: Case) -> str:
    """Write a case as a run file that `read_run_file` reads back to the same case."""
    file = from_case(case).model_dump(mode="json", by_alias=True, exclude_defaults=True)
    return json.dumps(file, indent=1)


def run_file_schema() -> dict[str, object]:
    """Describe the format as JSON Schema 2020-12."""
    described = RunFile.model_json_schema(by_alias=True)
    return {"$schema": "https://json-schema.org/draft/2020-12/schema", **described}


def _as_problem(error: dict[str, object]) -> Problem:
    steps = error["loc"] if isinstance(error["loc"], tuple) else ()
    named = [step for step in steps if not (isinstance(step, str) and _UNION_MEMBER.match(step))]
    path = "$" + "".join(f"[{step}]" if isinstance(step, int) else f".{step}" for step in named)
    message = say_validation(error)
    if error["type"] == "json_invalid":
        message = f"this is not valid JSON: {message}"
    return Problem(path, message)
