"""What is wrong with a text that came from outside: each problem with its place."""

import re
from collections.abc import Mapping
from dataclasses import dataclass


@dataclass(frozen=True, slots=True)
class Problem:
    """`path` is a JSON path into the text ("$.runs[3].readings"), "$" for the whole."""

    path: str
    message: str

    def __str__(self) -> str:
        return f"{self.path}: {self.message}"


class UnusableText(Exception):
    """A text of which nothing was taken over; lists every problem found."""

    def __init__(self, problems: list[Problem]):
        super().__init__(f"{len(problems)} problem(s), first: {problems[0]}")
        self.problems = problems


# Pydantic names the tried member of a union as a step; it is no part of the path.
_UNION_MEMBER = re.compile(r"(constrained-)?(float|str)$|ReadingFile$|function-(before|after)\[")


def steps_of(error: Mapping[str, object]) -> list[str | int]:
    """The way to what Pydantic found wrong, in the names that were written."""
    steps = error["loc"] if isinstance(error["loc"], tuple) else ()
    return [step for step in steps if not (isinstance(step, str) and _UNION_MEMBER.match(step))]


def say_validation(error: Mapping[str, object]) -> str:
    """Put one error of Pydantic into words that say what to do, without a capital at the start."""
    message = str(error["msg"]).removeprefix("Value error, ")
    context = error.get("ctx")
    given: Mapping[str, object] = context if isinstance(context, dict) else {}
    match error["type"]:
        case "string_too_long":
            return f"this is too long: at most {given['max_length']:,} characters fit here; shorten it"
        case "string_pattern_mismatch" if "x00" in str(given.get("pattern")):
            return "there is a control character in it; take it out"
        case "string_pattern_mismatch" if "[A-Z]" in str(given.get("pattern")):
            return "write the currency as its three capital letters, such as EUR"
        case "extra_forbidden":
            return "this member is not part of the format; take it out or check its spelling"
    return message
