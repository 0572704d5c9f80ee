"""What a text from outside looks like before anything of it is read: no reader has to look at a million members."""

from collections.abc import Iterator

from lynxbill.exchange.problem import Problem

MOST_MEMBERS = 1000
MOST_DEEP = 30
# No screen and nobody reads more than these.
MOST_PROBLEMS = 50


def check_shape(value: object, path: str = "$", depth: int = 0) -> Iterator[Problem]:
    """
    Find objects with more members than anything here has, and what is nested deeper.

    Args:
        value: parsed JSON.
    Returns: problems with their paths; what is too large is not looked into.
    """
    if isinstance(value, dict):
        if len(value) > MOST_MEMBERS:
            yield Problem(path, f"there are {len(value):,} members here; at most {MOST_MEMBERS:,} fit")
            return
        inner = ((f"{path}.{name}", member) for name, member in value.items())
    elif isinstance(value, list):
        inner = ((f"{path}[{number}]", member) for number, member in enumerate(value))
    else:
        return
    if depth == MOST_DEEP:
        yield Problem(path, f"this is nested more than {MOST_DEEP} deep; nothing here is")
        return
    for place, member in inner:
        if isinstance(member, dict | list):
            yield from check_shape(member, place, depth + 1)
