"""The case of one machine: everything that was written down, as plain values."""

from collections.abc import Mapping
from dataclasses import dataclass, field
from datetime import datetime
from typing import Literal

from lynxbill.core.errors import UnknownBuild
from lynxbill.core.measure import DEFAULT_MATTERS_FROM, Measure, Role
from lynxbill.core.money import CostLine

RunState = Literal["complete", "partial", "failed", "spoiled"]
Purpose = Literal["plan", "earlier", "trial", "recheck"]
Design = Literal["side_by_side", "paired"]
PairBy = Literal["order", "ambient", "label", "none"]
ReadingSource = Literal["remembered", "inherited", "claimed"]
Statistic = Literal["lowest", "mean", "highest", "settled", "momentary"]
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
Plain = str | float | int | bool | None


@dataclass(frozen=True, slots=True)
class Reading:
    """One figure of one run, in the measure's unit: `low` = `high` unless it was read as a range."""

    low: float
    high: float
    about: bool = False
    source: ReadingSource | None = None
    statistic: Statistic | None = None

    @property
    def value(self) -> float:
        return self.low if self.low == self.high else (self.low + self.high) / 2


@dataclass(frozen=True, slots=True)
class LateExclusion:
    """A run left out after its reading was looked at; marked so for ever."""

    reason: str
    at: datetime | None = None


@dataclass(frozen=True, slots=True)
class Run:
    id: str
    sitting_id: str
    workload: str
    workload_version: str
    position: int
    state: RunState
    readings: Mapping[str, Reading]
    parameters: Mapping[str, Plain] = field(default_factory=dict)
    reason: str | None = None
    warm_up: bool = False
    target: str | None = None
    pair_label: str | None = None
    started_at: datetime | None = None
    duration_s: float | None = None
    soak_s: float | None = None
    excluded_late: LateExclusion | None = None


@dataclass(frozen=True, slots=True)
class Sitting:
    """One unbroken stretch at the bench; `ambient_c` in °C."""

    id: str
    build_id: str
    purpose: Purpose
    started_at: datetime
    ambient_c: float | None = None
    conditions: Mapping[str, Plain] = field(default_factory=dict)


@dataclass(frozen=True, slots=True)
class Part:
    id: str
    role: PartRole
    label: str
    rated: Mapping[str, Plain] = field(default_factory=dict)


@dataclass(frozen=True, slots=True)
class Build:
    id: str
    letter: str
    label: str
    parts: tuple[Part, ...] = ()
    settings: Mapping[str, Plain] = field(default_factory=dict)


@dataclass(frozen=True, slots=True)
class PlannedMeasure:
    """`matters_from` and `hoped_for`: percent for `ratio`, else the measure's unit."""

    role: Role
    matters_from: float
    hoped_for: float | None = None
    weight: float = 1.0


@dataclass(frozen=True, slots=True)
class FixedPair:
    """Two runs paired by hand, which overrides the plan's rule."""

    before_run: str
    after_run: str
    reason: str


@dataclass(frozen=True, slots=True)
class Plan:
    """What was settled before measuring; None in a count asks for no particular number."""

    design: Design = "side_by_side"
    pair_by: PairBy = "order"
    sittings_a_side: int | None = None
    runs_a_sitting: int | None = None
    headline: str | None = None
    measures: Mapping[str, PlannedMeasure] = field(default_factory=dict)
    pairs: tuple[FixedPair, ...] = ()
    borrow_spread_from: tuple[str, ...] = ()


@dataclass(frozen=True, slots=True)
class Swap:
    id: str
    before: str
    after: str
    label: str
    plan: Plan
    side_changes: tuple[str, ...] = ()
    verdict_shown_for: tuple[str, ...] | None = None
    costs: tuple[CostLine, ...] = ()


@dataclass(frozen=True, slots=True)
class Machine:
    id: str
    name: str
    currency: str
    labour_rate: str | None = None
    owner: str = ""
    question: str = ""
    decimal_mark: Literal[".", ","] = "."
    time_zone: str = "UTC"


@dataclass(frozen=True, slots=True)
class Case:
    """All of one machine; `open_plan` is the plan for the swap that comes next."""

    machine: Machine
    measures: tuple[Measure, ...]
    builds: tuple[Build, ...]
    sittings: tuple[Sitting, ...]
    runs: tuple[Run, ...]
    swaps: tuple[Swap, ...]
    open_plan: Plan | None = None

    def build(self, build_id: str) -> Build:
        """
        Find a build by its id.

        Raises:
            UnknownBuild: the case has no such build.
        """
        for build in self.builds:
            if build.id == build_id:
                return build
        known = ", ".join(build.id for build in self.builds)
        raise UnknownBuild(f"There is no build “{build_id}”; this machine has {known or 'none'}.")

    def swap_into(self, build_id: str) -> Swap | None:
        """Find the newest swap that led to a build, or None for a first build."""
        return next((swap for swap in reversed(self.swaps) if swap.after == build_id), None)


def default_plan(measures: tuple[Measure, ...]) -> Plan:
    """
    Plan for two builds with no swap between them: every measure a claim, with the default margin.

    Returns: a plan that asks for no particular number of sittings or runs.
    Source: docs/run-file.md (`ratio` 2 %, `difference` 1 K, `level` 1 dB).
    """
    claims = {
        measure.id: PlannedMeasure(role="claim", matters_from=DEFAULT_MATTERS_FROM[measure.scale])
        for measure in measures
    }
    return Plan(measures=claims)
