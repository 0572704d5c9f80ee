"""What is written of an error that nobody foresaw: its kinds and places, and nothing that it was working on."""

import re

from lynxbill.core.terms.errors import say_fault


def chained(depth: int) -> BaseException:
    try:
        if depth == 0:
            raise KeyError("Miller")
        try:
            raise chained(depth - 1)
        except (KeyError, ValueError) as inner:
            raise ValueError("41.9 s of Miller") from inner
    except (KeyError, ValueError) as error:
        return error


def test_kinds_and_places_are_named_from_the_last_to_the_first_and_no_message() -> None:
    sentence = say_fault(chained(1))
    assert re.fullmatch(r"builtins.ValueError from builtins.KeyError at test_errors.py:\d+ chained", sentence)
    assert re.fullmatch(r"builtins.KeyError at test_errors.py:\d+ chained", say_fault(chained(0)))


def test_places_lead_inward_and_a_long_chain_is_cut() -> None:
    def outer() -> None:
        inner()

    def inner() -> None:
        raise RuntimeError

    try:
        outer()
    except RuntimeError as error:
        sentence = say_fault(error)
    assert re.search(r"test_errors.py:\d+ outer > test_errors.py:\d+ inner$", sentence)
    assert say_fault(chained(30)).count("ValueError") == 10
    assert "from" not in sentence
