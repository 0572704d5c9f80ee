"""Pictures: what they are follows from their content; and those of runs, by which a figure can be checked later."""

from collections.abc import Mapping
from uuid import UUID

from sqlalchemy import select

from lynxbill.core.errors import BadValue, Missing
from lynxbill.services.act import Act
from lynxbill.services.transaction import Sessions, reading, transaction
from lynxbill.store.database import announce
from lynxbill.store.snapshot import find_machine
from lynxbill.store.tables import RunPictureRow, RunRow

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


def save_run_picture(sessions: Sessions, act: Act, machine_id: UUID, run_id: UUID, content: bytes) -> None:
    """Keep a picture of what a run's figure was read off, in place of one that was there."""
    kind = media_type_of(content)
    with transaction(sessions) as session:
        find_machine(session, machine_id, lock=True)
        run = session.get(RunRow, run_id)
        if run is None or run.machine_id != machine_id:
            raise Missing("This machine has no such run.", field="run")
        session.merge(
            RunPictureRow(
                run_id=run_id,
                machine_id=machine_id,
                sitting_id=run.sitting_id,
                picture_type=kind,
                picture_bytes=content,
                at=act.at,
            )
        )
        announce(session, machine_id, "picture", run_id)


def list_run_pictures(sessions: Sessions, machine_id: UUID, sitting_id: UUID) -> list[UUID]:
    """Which runs of a sitting have a picture."""
    with reading(sessions) as session:
        find_machine(session, machine_id)
        here = RunPictureRow.machine_id == machine_id, RunPictureRow.sitting_id == sitting_id
        return list(session.scalars(select(RunPictureRow.run_id).where(*here)))


def read_run_picture(sessions: Sessions, machine_id: UUID, run_id: UUID) -> tuple[bytes, str]:
    """Hand out the picture of a run and its media type."""
    with reading(sessions) as session:
        row = session.get(RunPictureRow, run_id)
        if row is None or row.machine_id != machine_id:
            raise Missing("There is no such picture.")
        return row.picture_bytes, row.picture_type
