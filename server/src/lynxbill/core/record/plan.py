"""A plan: what was settled before measuring."""

from collections.abc import Mapping
from dataclasses import dataclass, field
from datetime import date
from typing import Literal

from lynxbill.core.record.ids import BuildId, Plain, RunId
from lynxbill.core.record.run import Statistic
from lynxbill.core.terms.measure import Measure, MeasureId, Role, usual_margin

Design = Literal["side_by_side", "paired"]


PairBy = Literal["order", "ambient", "label", "none"]


Order = Literal["before_then_after", "alternating", "abba", "swap_back"]


Change = Literal[
    "processor",
    "memory",
    "drive",
    "thermal paste",
    "cooler",
    "graphics",
    "settings",
    "cleaning",
    "several",
    "other",
]


MOST_MEASURES = 500


@dataclass(frozen=True, slots=True)
class PlannedMeasure:
    """
    `matters_from` and `hoped_for`: percent for `ratio`, else the measure's unit; `weight` is its share in the overall
    gain, None where none was given.
    """

    role: Role
    matters_from: float
    hoped_for: float | None = None
    weight: float | None = None
    statistic: Statistic | None = None


@dataclass(frozen=True, slots=True)
class FixedPair:
    """Two runs paired by hand, which overrides the plan's rule."""

    before_run: RunId
    after_run: RunId
    reason: str


@dataclass(frozen=True, slots=True)
class Plan:
    """
    What was settled before measuring; None in a count asks for no particular number.

    `sittings_a_side` is the first look and `at_most` the second (None: one look); `runs` overrides `runs_a_sitting`
    by workload. `judge_whole` names the first build of a chain whose last one is judged against it too.

    `change` is the kind of change it was made for; `conditions` are those that both sides must share; rests and
    soaks are in minutes.
    """

    design: Design = "side_by_side"
    pair_by: PairBy = "order"
    sittings_a_side: int | None = None
    at_most: int | None = None
    runs_a_sitting: int | None = None
    runs: Mapping[str, int] = field(default_factory=dict)
    judge_whole: BuildId | None = None
    headline: MeasureId | None = None
    measures: Mapping[MeasureId, PlannedMeasure] = field(default_factory=dict)
    pairs: tuple[FixedPair, ...] = ()
    borrow_spread_from: tuple[BuildId, ...] = ()
    change: Change | None = None
    order: Order = "before_then_after"
    conditions: Mapping[str, Plain] = field(default_factory=dict)
    warm_ups: int = 0
    rest_min: float = 0.0
    soak_min: float = 0.0

    @property
    def alternates(self) -> bool:
        """Whether the sittings of both sides take turns; else all before-sittings come first."""
        return self.order in ("alternating", "abba")

    def runs_of(self, workload: str) -> int | None:
        """How many runs a sitting of a workload has."""
        return self.runs.get(workload, self.runs_a_sitting)


@dataclass(frozen=True, slots=True)
class Recheck:
    """A date to measure a build again, under a copy of the plan that it was judged by."""

    id: str
    build: BuildId
    due_on: date
    plan: Plan
    note: str = ""
    done: bool = False


def default_plan(measures: tuple[Measure, ...]) -> Plan:
    """
    Plan for two builds with no swap between them: every measure a claim, with the default margin.

    Args:
        measures: the measures of the machine.
    Returns: a plan that asks for no particular number of sittings or runs.
    Source: docs/run-file.md (`ratio` 2 %, `difference` 1 K, `level` 1 dB).
    """
    claims = {
        measure.id: PlannedMeasure(role="claim", matters_from=usual_margin(measure.scale, measure.kind))
        for measure in measures
    }
    return Plan(measures=claims)
