"""Pictures as they come and go, and those of runs."""

from typing import Annotated
from uuid import UUID

from fastapi import APIRouter, Depends, Query, Response

from lynxbill.api.http.deps import ActDep, SessionsDep, raw_body
from lynxbill.exchange.fields import MOST_POSITION, Strict
from lynxbill.services.evidence.pictures import RunPlace, list_run_pictures, read_run_picture, save_run_picture

router = APIRouter(prefix="/machines/{machine_id}", tags=["pictures"])
PICTURE_BODY = {
    "requestBody": {
        "required": True,
        "content": {"image/jpeg": {"schema": {"type": "string", "format": "binary"}}},
    }
}


class WaitsOut(Strict):
    """The place of a run whose figure is still to be read off its picture."""

    workload: UUID
    position: int
    warm_up: bool


class RunPictureOut(Strict):
    run: UUID
    waits: WaitsOut | None


def hand_out(content: bytes, kind: str) -> Response:
    """Answer a picture as what it is, and as nothing that could run."""
    headers = {"X-Content-Type-Options": "nosniff", "Content-Security-Policy": "default-src 'none'"}
    return Response(content, media_type=kind, headers=headers)


@router.put("/runs/{run_id}/picture", openapi_extra=PICTURE_BODY)
def put_run_picture(
    machine_id: UUID,
    run_id: UUID,
    content: Annotated[bytes, Depends(raw_body)],
    sessions: SessionsDep,
    act: ActDep,
    sitting: UUID | None = None,
    workload: UUID | None = None,
    position: Annotated[int | None, Query(ge=1, le=MOST_POSITION)] = None,
    warm_up: bool = False,
) -> None:
    """
    Keep a PNG or JPEG picture of what a run's figure was read off.

    Of a run that is not recorded yet its place is named: sitting, workload and position.
    """
    place = (
        RunPlace(sitting, workload, position, warm_up)
        if sitting is not None and workload is not None and position is not None
        else None
    )
    save_run_picture(sessions, act, machine_id, run_id, content, place)


@router.get("/runs/{run_id}/picture", response_class=Response)
def get_run_picture(machine_id: UUID, run_id: UUID, sessions: SessionsDep) -> Response:
    """Hand out the picture of a run."""
    return hand_out(*read_run_picture(sessions, machine_id, run_id))


@router.get("/sittings/{sitting_id}/pictures")
def list_pictures(machine_id: UUID, sitting_id: UUID, sessions: SessionsDep) -> list[RunPictureOut]:
    """The runs of a sitting that have a picture; those that wait for their figure with their place."""
    return [
        RunPictureOut(
            run=picture.run,
            waits=None if picture.waits is None else WaitsOut.model_validate(picture.waits),
        )
        for picture in list_run_pictures(sessions, machine_id, sitting_id)
    ]
