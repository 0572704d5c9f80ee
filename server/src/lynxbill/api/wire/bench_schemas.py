"""What the bench agent and its live screen are answered."""

from uuid import UUID

from lynxbill.api.wire.home_schemas import MachineNameOut
from lynxbill.api.wire.schemas import MeasureOut
from lynxbill.core.heat.trace import TraceSource
from lynxbill.core.plan.stage import JobState
from lynxbill.core.record.ids import Plain
from lynxbill.core.record.plan import Change
from lynxbill.core.record.run import RunState
from lynxbill.exchange.fields import Instant, Strict


class PairingOut(Strict):
    code: str
    until: Instant


class BenchBuildNowOut(Strict):
    id: UUID
    letter: str
    label: str
    settings: dict[str, Plain]


class BenchRunOut(Strict):
    id: UUID
    workload: str
    position: int
    warm_up: bool
    state: RunState


class BenchSittingOut(Strict):
    id: UUID
    boot: str | None
    runs: list[BenchRunOut]


class AskedWorkloadOut(Strict):
    id: UUID
    name: str
    workload_version: str
    parameters: dict[str, Plain]
    target: str | None
    measures: list[MeasureOut]
    runs: int
    warm_ups: int


class BenchJobOut(Strict):
    """
    What whoever measures is to do next on the build that stands.

    `boots` are those of the build's earlier sittings that count; `sitting` is the one that is open. At
    `stop_c` (°C) a run is stopped for safety. Sums of serial numbers are made with `serial_salt`, which stays with
    the machine.
    """

    machine: MachineNameOut
    build: BenchBuildNowOut
    stage: JobState
    change: Change | None
    sittings_wanted: int | None
    rest_min: float
    soak_min: float
    boots: list[str | None]
    sitting: BenchSittingOut | None
    workloads: list[AskedWorkloadOut]
    stop_c: float | None
    serial_salt: str


class TakenInOut(Strict):
    """What an agent's file brought; runs that were here already are counted too."""

    sittings: list[UUID]
    runs: int


class TraceChannelOut(Strict):
    role: str
    of: str
    unit: str
    unit_display: str
    sensor: str
    stands_in: bool
    count: int
    low: float | None
    high: float | None


class TraceOut(Strict):
    """The trace of a run without its samples, under the run's id; `marks` are pairs of seconds and phase."""

    id: UUID
    sitting: UUID
    workload: UUID
    position: int
    warm_up: bool
    started_at: Instant
    heard_at: Instant
    ended: bool
    marks: list[tuple[float, str]]
    missing: dict[str, str]
    source: TraceSource
    channels: list[TraceChannelOut]


class BesideOut(Strict):
    """A sensor of earlier runs: means at the start, at each whole minute from 1, and at the end; null: not told."""

    role: str
    of: str
    unit: str
    sensor: str
    build: str
    first: str | None
    minutes: list[str | None]
    last: str | None


class DrawnChannelOut(TraceChannelOut):
    """
    A channel in stretches of time, each by its lowest and highest value; null is a gap.

    `highest`, `last_minute` (a mean) and `within_s` (when it came within 1 of that mean to stay) are of the window.
    """

    at: list[float]
    lows: list[float | None]
    highs: list[float | None]
    highest: float | None
    last_minute: float | None
    within_s: float | None


class DrawnTraceOut(Strict):
    trace: TraceOut
    channels: list[DrawnChannelOut]


class CurveOut(Strict):
    """One role of a run in stretches of time, each by its lowest and highest value; null is a gap."""

    role: str
    unit: str
    sensor: str
    at: list[float]
    lows: list[float | None]
    highs: list[float | None]


class RunCurvesOut(Strict):
    run: UUID
    build: str
    is_other: bool
    warm_up: bool
    position: int
    curves: list[CurveOut]


class WordedNowOut(Strict):
    what: str
    now: str
    beside: str


class WordedLiveOut(Strict):
    lead: str
    beneath: str
    now: list[WordedNowOut]
    departs: list[str]
    held: str
    spoils: list[str]
    minute: str


class LiveOut(Strict):
    """
    A run that lasts: its curves first, then those of earlier runs of the same work.

    Temperatures are in kelvin above the room where `above_room`.
    """

    run: UUID
    sitting: UUID
    above_room: bool
    runs: list[RunCurvesOut]
    worded: WordedLiveOut
