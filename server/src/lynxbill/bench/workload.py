"""What a workload of the agent is: fixed work, a checked result and stated measures."""

from collections.abc import Callable, Mapping
from dataclasses import dataclass

from lynxbill.core.case import PartRole, Plain
from lynxbill.core.measure import Better, Kind


class WrongResult(Exception):
    """The work ended, but its result is not what it must be."""


@dataclass(frozen=True, slots=True)
class StatedMeasure:
    """A ratio measure that the workload yields; `key` names it within the workload, `unit` is a UCUM code."""

    key: str
    name: str
    unit: str
    kind: Kind
    better: Better


@dataclass(frozen=True, slots=True)
class BenchWorkload:
    """
    `perform` does the work once, in so many processes, and answers a reading for each measure's key.

    `loads` names the parts that it works.
    It calls its second argument with the share done, and raises WrongResult where the result is wrong.
    """

    name: str
    version: str
    parameters: Mapping[str, Plain]
    loads: tuple[PartRole, ...]
    measures: tuple[StatedMeasure, ...]
    perform: Callable[[int, Callable[[float], None]], Mapping[str, float]]
