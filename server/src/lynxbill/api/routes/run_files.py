"""Run files in and out."""

import shutil
from http import HTTPStatus
from pathlib import Path
from tempfile import NamedTemporaryFile
from typing import IO
from uuid import UUID

from fastapi import APIRouter, Response

from lynxbill.api.http.deps import ActDep, SessionsDep, SpooledDep
from lynxbill.api.wire.home_schemas import ImportOut
from lynxbill.api.wire.problems import FieldProblem
from lynxbill.services.files.imports import ImportView, read_import, start_import, stop_import
from lynxbill.services.files.run_files import export_machine, export_package, import_machine

router = APIRouter(tags=["run files"])
# Up to this size a file is taken over before its answer.
SMALL_BYTES = 2 * 1024 * 1024
# The body is read as it came, so that one reader, the run file's own, names every problem with its JSON path.
RUN_FILE_BODY = {"requestBody": {"required": True, "content": {"application/json": {"schema": {"type": "object"}}}}}


@router.get("/machines/{machine_id}/run-file", response_class=Response)
def read_run_file(machine_id: UUID, sessions: SessionsDep) -> Response:
    """Hand out everything measured on a machine as a run file."""
    name = f'attachment; filename="lynxbill-{machine_id}.json"'
    text = export_machine(sessions, machine_id)
    return Response(text, media_type="application/json", headers={"Content-Disposition": name})


@router.get("/machines/{machine_id}/data-package", response_class=Response)
def read_data_package(machine_id: UUID, sessions: SessionsDep) -> Response:
    """Hand out runs, readings, results and costs as a Data Package: a zip archive of CSV tables with their schema."""
    name = f'attachment; filename="lynxbill-{machine_id}.zip"'
    content = export_package(sessions, machine_id)
    return Response(content, media_type="application/zip", headers={"Content-Disposition": name})


@router.post("/run-files", status_code=201, openapi_extra=RUN_FILE_BODY)
def post_run_file(file: SpooledDep, sessions: SessionsDep, act: ActDep, response: Response) -> ImportOut:
    """Take a machine over from a run file, whole or not at all; a large one is taken over beside the requests."""
    if file.tell() <= SMALL_BYTES:
        file.seek(0)
        return _done(import_machine(sessions, file.read()))
    response.status_code = HTTPStatus.ACCEPTED
    return _import_out(read_import(sessions, start_import(sessions, act, _keep(file))))


@router.get("/run-files/{import_id}")
def read_run_file_import(import_id: UUID, sessions: SessionsDep) -> ImportOut:
    """How far a large run file is."""
    return _import_out(read_import(sessions, import_id))


@router.delete("/run-files/{import_id}")
def delete_run_file_import(import_id: UUID, sessions: SessionsDep) -> ImportOut:
    """Stop taking a run file over; nothing of it is kept. One that is done stays."""
    stop_import(sessions, import_id)
    return _import_out(read_import(sessions, import_id))


def _done(machine: UUID) -> ImportOut:
    return ImportOut(id=None, state="done", stage="writing", done=0, total=0, machine=machine, problems=[])


def _import_out(view: ImportView) -> ImportOut:
    problems = [FieldProblem(field=field, code="unusable", message=message) for field, message in view.problems]
    return ImportOut(
        id=view.id,
        state=view.state,
        stage=view.stage,
        done=view.done,
        total=view.total,
        machine=view.machine,
        problems=problems,
    )


def _keep(file: IO[bytes]) -> Path:
    """A file of its own, which outlives the request."""
    file.seek(0)
    with NamedTemporaryFile(prefix="lynxbill-import-", suffix=".json", delete=False) as kept:
        shutil.copyfileobj(file, kept)
    return Path(kept.name)
