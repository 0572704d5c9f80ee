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
            return "there is a control character in it, perhaps one that can't be seen; take it out"
        case "string_pattern_mismatch" if "[A-Z]" in str(given.get("pattern")):
            return "write the currency as its three capital letters, such as EUR"
        case "decimal_parsing" | "decimal_type":
            return "write an amount: one decimal mark, thousands parted in threes"
        case "decimal_max_places":
            return f"at most {given['decimal_places']} decimals fit here"
        case "greater_than_equal":
            return f"write {given['ge']:g} or more"
        case "greater_than":
            return f"write more than {given['gt']:g}"
        case "less_than_equal":
            return f"write at most {given['le']:g}"
        case "float_type" | "float_parsing":
            return "write a number here"
        case "int_type" | "int_from_float":
            return "write a whole number here"
        case "bool_type":
            return "write true or false here"
        case "extra_forbidden":
            return "this member is not part of the format; take it out or check its spelling"
    return message
