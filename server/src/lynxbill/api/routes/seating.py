"""Where parts sit and what a workload is aimed at, while it is typed; nothing is kept."""

from typing import Annotated
from uuid import UUID

from fastapi import APIRouter
from pydantic import Field

from lynxbill.api.http.deps import SessionsDep
from lynxbill.api.wire.bodies import EachOnce, PartIn
from lynxbill.core.change.seating import seat_parts
from lynxbill.core.record.build import Build, Part, PartRole
from lynxbill.core.record.ids import BuildId, WorkloadId
from lynxbill.core.record.workload import Workload
from lynxbill.exchange.fields import OptionalLine, Settings, Strict
from lynxbill.services.frame.seating import aim_workload
from lynxbill.words.base.figures import DecimalMark
from lynxbill.words.job.seating import say_aim, say_seating

router = APIRouter(tags=["seating"])


class SeatingIn(Strict):
    """The parts of a build with its settings, and the limits of its machine."""

    parts: Annotated[list[PartIn], Field(max_length=60), EachOnce]
    settings: Settings = {}
    limits: Settings = {}
    decimal_mark: DecimalMark = "."


class SeatingOut(Strict):
    """Of one part: what it can carry where it sits, and what is asked."""

    part: UUID
    sentence: str
    asks: list[str]


class AimIn(Strict):
    """What a workload is aimed at, and what it loads."""

    target: OptionalLine = ""
    loads: Annotated[list[PartRole], Field(max_length=20)] = []


class AimOut(Strict):
    """What it is set against, and what is asked."""

    sentence: str
    asks: list[str]


@router.post("/seating")
def post_seating(body: SeatingIn) -> list[SeatingOut]:
    """Say of each part what it can carry where it sits, and which end limits it."""
    parts = tuple(Part(str(part.id), part.role, part.label, dict(part.rated)) for part in body.parts)
    build = Build(BuildId(""), "", "", parts, dict(body.settings))
    seated = [(each.part.id, say_seating(each, body.decimal_mark)) for each in seat_parts(body.limits, build)]
    return [SeatingOut(part=UUID(key), sentence=worded.sentence, asks=list(worded.asks)) for key, worded in seated]


@router.post("/machines/{machine_id}/aim")
def post_aim(machine_id: UUID, body: AimIn, sessions: SessionsDep) -> AimOut:
    """Say what a workload is set against on the build that the machine is now."""
    workload = Workload(WorkloadId(""), "", loads=tuple(body.loads), target=body.target or None)
    aim, mark = aim_workload(sessions, machine_id, workload)
    worded = say_aim(aim, mark)
    return AimOut(sentence=worded.sentence, asks=list(worded.asks))
