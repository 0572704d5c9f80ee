"""How much a tier asks: by night a property is tried on more examples, and the demo on more noise."""

import os
from collections.abc import Sequence
from typing import Any

import pytest

NIGHTLY = os.environ.get("LYNXBILL_NIGHTLY") == "1"
# At every change a property is tried on so small a share of its nightly examples.
SHARE = 4


def examples(by_night: int) -> int:
    """How many examples a property is tried on."""
    return by_night if NIGHTLY else by_night // SHARE


def noises(first: int, *others: int) -> Sequence[Any]:
    """Seeds as parameters: the first at every change, the others by night."""
    return [first, *(pytest.param(seed, marks=pytest.mark.nightly) for seed in others)]
