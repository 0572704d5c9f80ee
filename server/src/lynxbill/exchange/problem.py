"""What is wrong with a text that came from outside: each problem with its place."""

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
