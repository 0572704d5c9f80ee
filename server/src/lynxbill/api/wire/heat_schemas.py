"""What is told of heat: curves in stretches, both sides, and what is said of them."""

from uuid import UUID

from lynxbill.core.heat.roles import ChannelRole
from lynxbill.exchange.fields import Strict


class HeatCurveOut(Strict):
    """One role in stretches of time since the load began, each by its lowest and highest value; null is a gap."""

    role: ChannelRole
    unit: str
    at: list[float]
    lows: list[float | None]
    highs: list[float | None]


class HeatRunOut(Strict):
    run: UUID
    sitting: int
    settled: bool
    curves: list[HeatCurveOut]


class BandOut(Strict):
    level: float
    low: float
    high: float


class HeatSideOut(Strict):
    """`held`: from where to where, in seconds, half of its runs were held back."""

    build: UUID
    letter: str
    runs: list[HeatRunOut]
    means: list[HeatCurveOut]
    equilibrium: BandOut | None
    held: list[tuple[float, float]]


class WordedRowOut(Strict):
    what: str
    before: str
    after: str
    change: str


class WordedOverlayOut(Strict):
    sentence: str
    beneath: str
    rows: list[WordedRowOut]
    unit: str
    held_before: str
    held_after: str
    minute: str


class HeatOut(Strict):
    """
    Two sides laid over each other, before first. `same_s`: the last second that every run reached.

    Temperatures are in kelvin above the room where `above_room`. `window`: where the heat was read that is
    judged, in seconds of load, null where no one window of both sides was. `shown`: a verdict on them was given
    before.
    """

    workload: UUID
    workloads: list[UUID]
    above_room: bool
    same_s: float
    sides: list[HeatSideOut]
    worded: WordedOverlayOut
    window: tuple[float, float] | None
    shown: bool
