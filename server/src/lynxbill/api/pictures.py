"""Pictures as they come and go, and those of runs."""

from typing import Annotated
from uuid import UUID

from fastapi import APIRouter, Depends, Response

from lynxbill.api.deps import ActDep, SessionsDep, raw_body
from lynxbill.services.pictures import list_run_pictures, read_run_picture, save_run_picture

router = APIRouter(prefix="/machines/{machine_id}", tags=["pictures"])
PICTURE_BODY = {
    "requestBody": {
        "required": True,
        "content": {"image/jpeg": {"schema": {"type": "string", "format": "binary"}}},
    }
}


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
) -> None:
    """Keep a PNG or JPEG picture of what a run's figure was read off."""
    save_run_picture(sessions, act, machine_id, run_id, content)


@router.get("/runs/{run_id}/picture", response_class=Response)
def get_run_picture(machine_id: UUID, run_id: UUID, sessions: SessionsDep) -> Response:
    """Hand out the picture of a run."""
    return hand_out(*read_run_picture(sessions, machine_id, run_id))


@router.get("/sittings/{sitting_id}/pictures")
def list_pictures(machine_id: UUID, sitting_id: UUID, sessions: SessionsDep) -> list[UUID]:
    """The runs of a sitting that have a picture."""
    return list_run_pictures(sessions, machine_id, sitting_id)
