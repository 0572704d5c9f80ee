"""Rated figures in words, by the vocabulary of their part."""

import pytest

from lynxbill.core.record.build import PartRole
from lynxbill.core.record.ids import Plain
from lynxbill.core.record.vocabulary import describe_figure


@pytest.mark.parametrize(
    ("key", "value", "role", "said"),
    [
        ("boost_ghz", 3.9, "processor", "boost clock 3.9 GHz"),
        ("cores", 6, "processor", "cores 6"),
        ("own_made_key", "x", "processor", "own made key x"),
        ("noted", "from the drawer", "processor", "from the drawer"),
        ("cores", 6, "drive", "cores 6"),
    ],
)
def test_a_figure_is_said_with_its_label_and_unit(key: str, value: Plain, role: PartRole, said: str) -> None:
    assert describe_figure(key, value, role) == said
