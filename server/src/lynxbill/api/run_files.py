"""Run files in and out."""

from typing import Annotated
from uuid import UUID

from fastapi import APIRouter, Depends, Response

from lynxbill.api.deps import SessionsDep, raw_body
from lynxbill.api.schemas import (
    ImportedOut,
)
from lynxbill.services.run_files import export_machine, import_machine

router = APIRouter(tags=["run files"])
# The body is read as it came, so that one reader, the run file's own, names every problem with its JSON path.
RUN_FILE_BODY = {"requestBody": {"required": True, "content": {"application/json": {"schema": {"type": "object"}}}}}


@router.get("/machines/{machine_id}/run-file", response_class=Response)
def read_run_file(machine_id: UUID, sessions: SessionsDep) -> Response:
    """Hand out everything measured on a machine as a run file."""
    name = f'attachment; filename="lynxbill-{machine_id}.json"'
    text = export_machine(sessions, machine_id)
    return Response(text, media_type="application/json", headers={"Content-Disposition": name})


@router.post("/run-files", status_code=201, openapi_extra=RUN_FILE_BODY)
def post_run_file(text: Annotated[bytes, Depends(raw_body)], sessions: SessionsDep) -> ImportedOut:
    """Take a machine over from a run file, whole or not at all."""
    return ImportedOut(machine=import_machine(sessions, text))
