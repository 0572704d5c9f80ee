"""What a workload of the agent is: fixed work, a checked result and stated measures."""

from collections.abc import Callable, Mapping
from dataclasses import dataclass, field
from pathlib import Path
from typing import Any, Protocol

from lynxbill.core.record.build import PartRole
from lynxbill.core.record.ids import Plain
from lynxbill.core.terms.measure import Better, Kind, Scale

Parameters = Mapping[str, Plain]
Progress = Callable[[float], None]


class WrongResult(Exception):
    """The work ended, but its result is not what it must be."""


class StoppedForSafety(Exception):
    """The processor came to the temperature at which a run is stopped; the message says which."""


class CannotRun(Exception):
    """This machine lacks what the workload needs; the message says what, and what would do."""


@dataclass(frozen=True, slots=True)
class StatedMeasure:
    """
    One figure that a workload yields; `key` names it within the workload, `unit` is a UCUM code.

    `of` says how many things an outcome tries.
    """

    key: str
    name: str
    unit: str
    kind: Kind
    better: Better
    scale: Scale = "ratio"
    of: int | None = None


@dataclass(frozen=True, slots=True)
class Figures:
    """
    What one run yielded: a reading for each measure's key that could be read, and why others could not.

    `remarks` are for whoever reads the figures: what limited them beside the part that is measured.
    """

    readings: Mapping[str, float]
    missing: Mapping[str, str] = field(default_factory=dict)
    remarks: tuple[str, ...] = ()


class Traced(Protocol):
    """What a run may ask of the sensors that are sampled while it lasts."""

    def mark(self, phase: str) -> None:
        """A phase begins now: "load", "rest", "two thirds" …"""

    def settled(self, role: str, last_s: float) -> float | None:
        """The mean of a channel over the last seconds; None where no sensor tells it."""


@dataclass(frozen=True, slots=True)
class Bench:
    """
    Where a run works: in how many threads at most, on which folder of which drive, and what it is traced by.

    `told` are the roles that sensors tell here; None: not known.
    """

    threads: int
    progress: Progress
    trace: Traced
    target: Path | None = None
    commands: Mapping[str, Any] = field(default_factory=dict)
    told: frozenset[str] | None = None


@dataclass(frozen=True, slots=True)
class BenchWorkload:
    """
    `perform` does the work once, as its parameters say, and answers its figures.

    `key` names the kind of work in the parameters of every run; `version` is raised where the work changes. `needs`
    is asked before a sitting and raises CannotRun where this machine lacks something; `minutes` says about how long a
    run takes on an ordinary machine.
    """

    key: str
    name: str
    version: str
    parameters: Parameters
    loads: tuple[PartRole, ...]
    measures: tuple[StatedMeasure, ...]
    perform: Callable[[Parameters, Bench], Figures]
    card: str
    minutes: float
    needs: Callable[[Parameters, Bench], None] = lambda _parameters, _bench: None
    on_target: bool = False


def count_in(parameters: Parameters, name: str) -> int:
    """Read a whole number of at least one from the parameters."""
    value = parameters.get(name)
    if isinstance(value, bool) or not isinstance(value, (int, float)) or value != int(value) or value < 1:
        raise CannotRun(f"“{name}” must be a whole number from 1 on; this workload has {value!r}.")
    return int(value)


def seconds_in(parameters: Parameters, name: str) -> float:
    """Read a time above zero, in seconds, from the parameters."""
    value = parameters.get(name)
    if isinstance(value, bool) or not isinstance(value, (int, float)) or value <= 0:
        raise CannotRun(f"“{name}” must be a number of seconds above 0; this workload has {value!r}.")
    return float(value)
