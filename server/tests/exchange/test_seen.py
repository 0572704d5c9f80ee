"""What a machine shows against what was expected, as both are typed."""

import pytest

from lynxbill.exchange.seen import judge_seen


@pytest.mark.parametrize(
    ("what", "expected", "seen"),
    [
        ("processor, name", "Varro 6-core", " varro 6-CORE "),
        ("memory, size", "32 GB", "32"),
        ("memory, size", "32", "32 GB"),
        ("memory, size", "32 GB", "32000 MB"),
        ("processor, cores", "8", "8 cores"),
        ("memory, modules", "1", "1 module"),
        ("processor, boost clock", "3.14 GHz", "3,140 MHz"),
        ("memory, rate", "2666 MT/s", "2,666"),
        ("memory, rate", "2666 MT/s", "2666 mt/s"),
        ("fans", "as before", "As before"),
    ],
)
def test_the_same_figure_is_the_same_however_it_is_written(what: str, expected: str, seen: str) -> None:
    assert judge_seen(what, expected, seen) == "pass"


@pytest.mark.parametrize(
    ("what", "expected", "seen"),
    [
        ("memory, size", "16 GB", "8 GB"),
        ("memory, size", "16 GB", "16 GiB"),
        ("memory, size", "16 GB", "16 MHz"),
        ("memory, size", "16 GB", "16 rows"),
        ("memory, size", "16 GB", ""),
        ("processor, name", "Varro 6-core", "Varro 4-core"),
        ("fans", "as before", "louder"),
    ],
)
def test_what_differs_is_somebodys_to_answer(what: str, expected: str, seen: str) -> None:
    assert judge_seen(what, expected, seen) is None


def test_a_figure_is_read_by_the_decimal_mark_of_the_machine() -> None:
    assert judge_seen("boost clock", "3.9 GHz", "3,9", ",") == "pass"
    assert judge_seen("boost clock", "3.14 GHz", "3.140 MHz", ",") == "pass"
    assert judge_seen("boost clock", "3.9 GHz", "3,9", ".") is None
