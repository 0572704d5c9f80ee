"""A build, the parts it is made of, and those that might be bought."""

from collections.abc import Mapping
from dataclasses import dataclass, field
from datetime import datetime
from decimal import Decimal
from typing import Literal

from lynxbill.core.record.ids import BuildId, Plain, SwapId
from lynxbill.core.terms.money import Basis

PartRole = Literal[
    "processor",
    "cooler",
    "thermal paste",
    "memory",
    "drive",
    "graphics",
    "board",
    "power supply",
    "adapter",
    "other",
]


Wear = Literal["as new", "worn", "renewed"]


# What may be weighed beside a part: nothing at all, cleaning alone, somebody's service, another machine.
Alternative = Literal["part", "nothing", "cleaning", "service", "another machine"]


FitWord = Literal["fits", "doubtful", "does not fit"]


# A machine that is swapped every month for fifteen years has fewer.
MOST_BUILDS = 200


@dataclass(frozen=True, slots=True)
class Part:
    id: str
    role: PartRole
    label: str
    rated: Mapping[str, Plain] = field(default_factory=dict)


@dataclass(frozen=True, slots=True)
class Build:
    """A state of the machine; `read` is what the agent read of its parts, by role, as `identities_of` writes it."""

    id: BuildId
    letter: str
    label: str
    parts: tuple[Part, ...] = ()
    settings: Mapping[str, Plain] = field(default_factory=dict)
    wear: Wear | None = None
    read: Mapping[str, tuple[str, ...]] = field(default_factory=dict)


@dataclass(frozen=True, slots=True)
class Candidate:
    """
    A part that might be bought, or an `alternative` to one; `price` is in the currency of account, `expected_gain` in
    percent of the headline's speed; `price_low` to `price_high` and `gain_low` to `gain_high` say how sure both are.
    `ticked` are those of its prerequisites and steps of delivery that are seen to.

    `fit_answer` with `fit_source` is the technician's own word on its fit; `swap` the one in which it was fitted, and
    `worked` what came of it. `set_aside` says why it is not weighed any more, `recorded_at`
    since when it is on record with its model and price.
    """

    id: str
    role: PartRole
    label: str
    rated: Mapping[str, Plain] = field(default_factory=dict)
    price: Decimal | None = None
    basis: Basis = "new"
    prerequisites: str = ""
    expected_gain: float | None = None
    expected_from: str = ""
    fit_answer: FitWord | None = None
    fit_source: str = ""
    swap: SwapId | None = None
    worked: str = ""
    alternative: Alternative = "part"
    ticked: tuple[str, ...] = ()
    price_low: Decimal | None = None
    price_high: Decimal | None = None
    gain_low: float | None = None
    gain_high: float | None = None
    set_aside: str | None = None
    recorded_at: datetime | None = None
