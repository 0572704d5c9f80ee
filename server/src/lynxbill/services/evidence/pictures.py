"""Pictures: what they are follows from their content; and those of runs, by which a figure can be checked later."""

from collections.abc import Mapping
from dataclasses import dataclass
from uuid import UUID

from sqlalchemy import select
from sqlalchemy.orm import Session

from lynxbill.core.terms.errors import BadValue, Clash, Missing
from lynxbill.services.base.act import Act
from lynxbill.services.base.transaction import Sessions, reading, refuse_foreign, transaction
from lynxbill.store.database import announce
from lynxbill.store.snapshot import find_machine
from lynxbill.store.tables.evidence import RunPictureRow, RunRow, SittingRow
from lynxbill.store.tables.machine import BuildRow, WorkloadRow

PICTURE_TYPES: Mapping[bytes, str] = {b"\x89PNG\r\n\x1a\n": "image/png", b"\xff\xd8\xff": "image/jpeg"}
MAX_PICTURE = 10 * 1024 * 1024


def media_type_of(content: bytes) -> str:
    """Say what a picture is; refuses what is none, or too large."""
    kind = next((kind for start, kind in PICTURE_TYPES.items() if content.startswith(start)), None)
    if kind is None:
        raise BadValue("This is no PNG or JPEG picture.", field="picture")
    if len(content) > MAX_PICTURE:
        raise BadValue("The picture is larger than 10 MB; make it smaller first.", field="picture")
    return kind


@dataclass(frozen=True, slots=True)
class RunPlace:
    """Where a run stands, or will: its sitting, its workload, its position there."""

    sitting: UUID
    workload: UUID
    position: int
    warm_up: bool


@dataclass(frozen=True, slots=True)
class RunPicture:
    """That a run has a picture; `waits` names its place where its figure is still to be read off it."""

    run: UUID
    waits: RunPlace | None


def save_run_picture(
    sessions: Sessions, act: Act, machine_id: UUID, run_id: UUID, content: bytes, place: RunPlace | None = None
) -> None:
    """
    Keep a picture of what a run's figure was read off, in place of one that was there.

    Args:
        place: where the run will stand, if it is not recorded yet: its figure can be read off the picture later.
    """
    kind = media_type_of(content)
    with transaction(sessions) as session:
        find_machine(session, machine_id, lock=True)
        run = session.get(RunRow, run_id)
        if run is not None and run.machine_id == machine_id:
            place = RunPlace(run.sitting_id, run.workload_id, run.position, run.warm_up)
        elif run is not None or place is None:
            raise Missing("This machine has no such run.", field="run")
        else:
            _refuse_elsewhere(session, machine_id, run_id, place)
        session.merge(
            RunPictureRow(
                run_id=run_id,
                machine_id=machine_id,
                sitting_id=place.sitting,
                workload_id=place.workload,
                position=place.position,
                warm_up=place.warm_up,
                picture_type=kind,
                picture_bytes=content,
                at=act.at,
            )
        )
        announce(session, machine_id, "picture", run_id)


def _refuse_elsewhere(session: Session, machine_id: UUID, run_id: UUID, place: RunPlace) -> None:
    sitting = session.get(SittingRow, place.sitting)
    if sitting is None or session.get_one(BuildRow, sitting.build_id).machine_id != machine_id:
        raise Missing("This machine has no such sitting.", field="sitting")
    if sitting.closed_at is not None:
        raise Clash("This sitting is closed: no run is added to it.", field="sitting")
    workload = session.get(WorkloadRow, place.workload)
    if workload is None or workload.machine_id != machine_id:
        raise Missing("This machine has no such task.", field="workload")
    known = session.get(RunPictureRow, run_id)
    if known is not None:
        refuse_foreign(known.machine_id, machine_id, "run")


def list_run_pictures(sessions: Sessions, machine_id: UUID, sitting_id: UUID) -> list[RunPicture]:
    """Which runs of a sitting have a picture, and which of them wait for their figure."""
    with reading(sessions) as session:
        find_machine(session, machine_id)
        columns = RunPictureRow.run_id, RunPictureRow.workload_id, RunPictureRow.position, RunPictureRow.warm_up
        found = (
            select(*columns, RunRow.id)
            .outerjoin(RunRow, RunRow.id == RunPictureRow.run_id)
            .where(RunPictureRow.machine_id == machine_id, RunPictureRow.sitting_id == sitting_id)
            .order_by(RunPictureRow.position)
        )
        return [
            RunPicture(run, None if recorded else RunPlace(sitting_id, workload, position, warm_up))
            for run, workload, position, warm_up, recorded in session.execute(found)
        ]


def read_run_picture(sessions: Sessions, machine_id: UUID, run_id: UUID) -> tuple[bytes, str]:
    """Hand out the picture of a run and its media type."""
    with reading(sessions) as session:
        row = session.get(RunPictureRow, run_id)
        if row is None or row.machine_id != machine_id:
            raise Missing("There is no such picture.")
        return row.picture_bytes, row.picture_type
