"""A run with its readings, the sitting it belongs to, and what was changed of either."""

from collections.abc import Mapping
from dataclasses import dataclass, field, fields
from datetime import datetime
from typing import Literal

from lynxbill.core.record.ids import BuildId, Plain, RunId, SittingId
from lynxbill.core.terms.measure import MeasureId

RunState = Literal["complete", "partial", "failed", "spoiled"]


Purpose = Literal["plan", "earlier", "trial", "recheck"]


ReadingSource = Literal["remembered", "inherited", "claimed"]


HeldBack = Literal["heat", "power", "current", "other"]


Statistic = Literal["lowest", "mean", "highest", "settled", "momentary"]


BootBy = Literal["read", "answered"]


READING = "readings."


@dataclass(frozen=True, slots=True)
class Reading:
    """
    One figure of one run, in the measure's unit: `low` = `high` unless it was read as a range.

    `confirmed`: it was asked whether it is typed right, and it is.
    """

    low: float
    high: float
    about: bool = False
    source: ReadingSource | None = None
    statistic: Statistic | None = None
    confirmed: bool = False

    @property
    def value(self) -> float:
        return self.low if self.low == self.high else (self.low + self.high) / 2


@dataclass(frozen=True, slots=True)
class LateExclusion:
    """A run left out after its reading was looked at; marked so for ever."""

    reason: str
    at: datetime | None = None


@dataclass(frozen=True, slots=True)
class Was:
    """
    What stood in a member of a run or sitting until somebody changed it, after a reading was written.

    `member` is the name of a field, or "readings.MEASURE", whose `value` is then the old reading (None: none stood).
    """

    member: str
    value: "Plain | Reading | datetime"
    at: datetime
    by: str = ""
    reason: str = ""


@dataclass(frozen=True, slots=True)
class SetAside:
    """A sitting taken out of the test: late, unless the comparison is measured `over` as a whole."""

    reason: str
    at: datetime
    over: bool = False


@dataclass(frozen=True, slots=True)
class Run:
    """
    One execution of a workload; `held_back` says what kept the machine from its full clock during it, `conditions`
    what was so of this run alone (`RUN_CONDITIONS` of core/record/vocabulary.py; they enter no verdict).

    `duration_s` and `soak_s` are in seconds. `written_at` is when its reading was first written, `left_out_at` when
    it was last taken out of the test by its state (equal: in the same save); `was` what was changed since, oldest
    first.
    """

    id: RunId
    sitting_id: SittingId
    workload: str
    workload_version: str
    position: int
    state: RunState
    readings: Mapping[MeasureId, Reading]
    parameters: Mapping[str, Plain] = field(default_factory=dict)
    reason: str | None = None
    warm_up: bool = False
    target: str | None = None
    pair_label: str | None = None
    started_at: datetime | None = None
    duration_s: float | None = None
    soak_s: float | None = None
    excluded_late: LateExclusion | None = None
    held_back: HeldBack | None = None
    conditions: Mapping[str, Plain] = field(default_factory=dict)
    note: str = ""
    written_at: datetime | None = None
    left_out_at: datetime | None = None
    was: tuple[Was, ...] = ()

    @property
    def is_emptied(self) -> bool:
        """Whether its entry was taken back: its place is free to be typed anew, and it counts as no run."""
        return self.state == "complete" and not self.readings


# What a run is called by, holds and belongs to is written differently in each form of it; all else is the same in
# every one, and is carried over by name: a new member need only be added where it is declared.
_IN_ITS_OWN_FORM = {"id", "sitting_id", "workload", "readings", "excluded_late", "was"}


RUN_MEMBERS = tuple(member.name for member in fields(Run) if member.name not in _IN_ITS_OWN_FORM)


# Kept by whoever keeps the run, never sent with it.
RUN_DATES = ("written_at", "left_out_at")


SENT_MEMBERS = tuple(name for name in RUN_MEMBERS if name not in RUN_DATES)


# What may be corrected of a run that is recorded.
CORRECTABLE = tuple(
    name for name in RUN_MEMBERS if name not in ("workload_version", "parameters", "warm_up", *RUN_DATES)
)


@dataclass(frozen=True, slots=True)
class Sitting:
    """
    One unbroken stretch at the bench; `ambient_c` in °C.

    `boot` names the start of the machine that it was held in, `boot_by` whether that was read or only answered;
    sittings of a build in one boot are one unit. `closed_at` is None while it is open. `mount` rises with each
    remounting of what carries the heat away. `attempt` counts how often its comparison was measured over by then.
    """

    id: SittingId
    build_id: BuildId
    purpose: Purpose
    started_at: datetime
    ambient_c: float | None = None
    conditions: Mapping[str, Plain] = field(default_factory=dict)
    boot: str | None = None
    boot_by: BootBy | None = None
    closed_at: datetime | None = None
    mount: int | None = None
    set_aside: SetAside | None = None
    attempt: int = 1
    was: tuple[Was, ...] = ()
