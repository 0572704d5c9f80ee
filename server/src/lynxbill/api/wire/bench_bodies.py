"""What the bench agent sends over HTTP: a code, the sitting that it joins, and traces."""

from dataclasses import replace
from typing import Annotated, Literal
from uuid import UUID

from pydantic import Field, StrictBool, StrictInt

from lynxbill.core.change.identified import Shown, ShownPart
from lynxbill.core.record.build import PartRole
from lynxbill.exchange.evidence_schema import ChannelContent, MarkFile
from lynxbill.exchange.fields import Finite, Instant, Line, Position, Settings, Strict
from lynxbill.services.evidence.traces import Batch, Coming
from lynxbill.store.traces import ChannelKey


class PairIn(Strict):
    code: Annotated[str, Field(min_length=1, max_length=40, pattern=r"^[^\x00]+$")]


class JoinIn(Strict):
    """A sitting as the agent holds it; its purpose is the plan."""

    build: UUID
    started_at: Instant
    boot: Line
    purpose: Literal["plan"] = "plan"
    boot_by: Literal["read"] = "read"


class ShownPartIn(Strict):
    """A part as the machine shows it."""

    role: PartRole
    label: Line
    rated: Settings = {}


class BenchShownIn(Strict):
    """What the machine shows of itself."""

    parts: Annotated[list[ShownPartIn], Field(max_length=60)]
    firmware: Line | None = None
    system: Line | None = None

    def to_core(self) -> Shown:
        parts = tuple(ShownPart(part.role, part.label, dict(part.rated)) for part in self.parts)
        return Shown(parts, self.firmware, self.system)


class ChannelIn(ChannelContent):
    """Samples of a sensor: `first` is the number of the first of them, null a gap."""

    first: Annotated[StrictInt, Field(ge=0)] = 0
    at: Annotated[list[Annotated[Finite, Field(ge=0)]], Field(max_length=200_000)]
    values: Annotated[list[Finite | None], Field(max_length=200_000)]


class PlaceIn(Strict):
    """The place of a run that may not be recorded yet."""

    sitting: UUID
    workload: UUID
    position: Position
    warm_up: StrictBool = False
    started_at: Instant

    def to_coming(self) -> Coming:
        """A trace at this place, of which nothing is told yet."""
        return Coming(
            sitting=self.sitting,
            workload=self.workload,
            position=self.position,
            warm_up=self.warm_up,
            started_at=self.started_at,
        )


class TraceIn(PlaceIn):
    """What comes of the trace of a run at once."""

    channels: Annotated[list[ChannelIn], Field(max_length=200)] = []
    marks: Annotated[list[MarkFile], Field(max_length=1000)] = []
    missing: Annotated[dict[Line, Line], Field(max_length=50)] = {}
    ended: StrictBool = False
    seen: Settings = {}

    def to_coming(self) -> Coming:
        return replace(
            super().to_coming(),
            batches=tuple(
                Batch(ChannelKey(c.role, c.of, c.unit, c.sensor, c.stands_in), c.first, c.at, c.values)
                for c in self.channels
            ),
            marks=tuple((mark.at, mark.phase) for mark in self.marks),
            missing=self.missing,
            ended=self.ended,
            seen=self.seen,
        )
