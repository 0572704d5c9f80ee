"""The case of a swap: its gate, checklist, recognition, starts, notes, explanations and stages."""

from typing import Annotated
from uuid import UUID

from fastapi import APIRouter, Depends, Response

from lynxbill.api.http.deps import ActDep, SessionsDep, raw_body
from lynxbill.api.routes.pictures import PICTURE_BODY, hand_out
from lynxbill.api.wire.describe import case_out
from lynxbill.api.wire.job_bodies import (
    BenchNoteIn,
    CloseCaseIn,
    ExplanationIn,
    OpenCaseIn,
    RecognitionIn,
    ReopenCaseIn,
    StageIn,
    StartIn,
    StepIn,
    SwapDayIn,
)
from lynxbill.api.wire.schemas import CaseOut
from lynxbill.services.agent import bench_records
from lynxbill.services.frame.machines import view_machine
from lynxbill.services.swap import casework, stages
from lynxbill.store.tables.swap import BenchNoteRow, ExplanationRow, RecognitionRow, StepRow

router = APIRouter(prefix="/machines/{machine_id}/swaps/{swap_id}", tags=["casework"])


@router.post("/open")
def open_case(machine_id: UUID, swap_id: UUID, body: OpenCaseIn, sessions: SessionsDep, act: ActDep) -> CaseOut:
    """Begin a planned swap through the baseline gate."""
    casework.open_case(sessions, act, machine_id, swap_id, body.reason, body.version)
    return case_out(view_machine(sessions, machine_id))


@router.put("/day")
def date_swap(machine_id: UUID, swap_id: UUID, body: SwapDayIn, sessions: SessionsDep, act: ActDep) -> CaseOut:
    """Say on which day the swap was made, until anything was read after it."""
    casework.date_swap(sessions, act, machine_id, swap_id, body.opened_at, body.version)
    return case_out(view_machine(sessions, machine_id))


@router.post("/close")
def close_case(machine_id: UUID, swap_id: UUID, body: CloseCaseIn, sessions: SessionsDep, act: ActDep) -> CaseOut:
    """Close the case."""
    casework.close_case(sessions, act, machine_id, swap_id, body.skipped, body.version)
    return case_out(view_machine(sessions, machine_id))


@router.post("/reopen")
def reopen_case(machine_id: UUID, swap_id: UUID, body: ReopenCaseIn, sessions: SessionsDep) -> CaseOut:
    """Open a closed case again, until something is measured after it."""
    casework.reopen_case(sessions, machine_id, swap_id, body.version)
    return case_out(view_machine(sessions, machine_id))


@router.post("/unopen")
def unopen_case(machine_id: UUID, swap_id: UUID, body: ReopenCaseIn, sessions: SessionsDep) -> CaseOut:
    """Go back to the plan where the case was opened and nothing was done in it."""
    casework.take_opening_back(sessions, machine_id, swap_id, body.version)
    return case_out(view_machine(sessions, machine_id))


@router.post("/split")
def split_swap(machine_id: UUID, swap_id: UUID, body: StageIn, sessions: SessionsDep) -> CaseOut:
    """Take a bundle apart into two stages."""
    stages.split_swap(sessions, machine_id, swap_id, body.to_core(), body.version)
    return case_out(view_machine(sessions, machine_id))


@router.post("/steps/done")
def post_steps_done(machine_id: UUID, swap_id: UUID, sessions: SessionsDep, act: ActDep) -> CaseOut:
    """Tick every step that is still open."""
    bench_records.save_all_done(sessions, act, machine_id, swap_id)
    return case_out(view_machine(sessions, machine_id))


@router.post("/recognitions/as-expected")
def post_all_seen(machine_id: UUID, swap_id: UUID, sessions: SessionsDep) -> CaseOut:
    """Note everything that was not looked at yet as seen just as expected."""
    bench_records.save_all_seen(sessions, machine_id, swap_id)
    return case_out(view_machine(sessions, machine_id))


@router.put("/steps/{step_id}")
def put_step(
    machine_id: UUID, swap_id: UUID, step_id: UUID, body: StepIn, sessions: SessionsDep, act: ActDep
) -> CaseOut:
    """Write a step of the checklist, or tick it."""
    bench_records.save_step(sessions, act, machine_id, swap_id, body.to_core(step_id), body.done, body.version)
    return case_out(view_machine(sessions, machine_id))


@router.delete("/steps/{step_id}")
def delete_step(machine_id: UUID, swap_id: UUID, step_id: UUID, sessions: SessionsDep) -> CaseOut:
    """Take a step off the checklist."""
    bench_records.remove_child(sessions, machine_id, swap_id, StepRow, step_id)
    return case_out(view_machine(sessions, machine_id))


@router.put("/recognitions/{line_id}")
def put_recognition(
    machine_id: UUID, swap_id: UUID, line_id: UUID, body: RecognitionIn, sessions: SessionsDep
) -> CaseOut:
    """Note what the machine shows of what was fitted."""
    bench_records.save_recognition(sessions, machine_id, swap_id, body.to_core(line_id), body.version)
    return case_out(view_machine(sessions, machine_id))


@router.delete("/recognitions/{line_id}")
def delete_recognition(machine_id: UUID, swap_id: UUID, line_id: UUID, sessions: SessionsDep) -> CaseOut:
    """Take a line off the recognition check."""
    bench_records.remove_child(sessions, machine_id, swap_id, RecognitionRow, line_id)
    return case_out(view_machine(sessions, machine_id))


@router.put("/starts/{start_id}")
def put_start(machine_id: UUID, swap_id: UUID, start_id: UUID, body: StartIn, sessions: SessionsDep) -> CaseOut:
    """Keep an attempt to start."""
    bench_records.save_start(sessions, machine_id, swap_id, body.to_core(start_id), body.version)
    return case_out(view_machine(sessions, machine_id))


@router.put("/explanations/{explanation_id}")
def put_explanation(
    machine_id: UUID, swap_id: UUID, explanation_id: UUID, body: ExplanationIn, sessions: SessionsDep
) -> CaseOut:
    """Hold a suspected cause or limit as a claim, or say what became of it."""
    bench_records.save_explanation(sessions, machine_id, swap_id, body.to_core(explanation_id), body.version)
    return case_out(view_machine(sessions, machine_id))


@router.delete("/explanations/{explanation_id}")
def delete_explanation(machine_id: UUID, swap_id: UUID, explanation_id: UUID, sessions: SessionsDep) -> CaseOut:
    """Take an explanation back that was written by mistake."""
    bench_records.remove_child(sessions, machine_id, swap_id, ExplanationRow, explanation_id)
    return case_out(view_machine(sessions, machine_id))


@router.put("/notes/{note_id}")
def put_note(machine_id: UUID, swap_id: UUID, note_id: UUID, body: BenchNoteIn, sessions: SessionsDep) -> CaseOut:
    """Keep a note of the teardown."""
    bench_records.save_note(sessions, machine_id, swap_id, body.to_core(note_id), body.version)
    return case_out(view_machine(sessions, machine_id))


@router.delete("/notes/{note_id}")
def delete_note(machine_id: UUID, swap_id: UUID, note_id: UUID, sessions: SessionsDep) -> CaseOut:
    """Take a note away, with its picture."""
    bench_records.remove_child(sessions, machine_id, swap_id, BenchNoteRow, note_id)
    return case_out(view_machine(sessions, machine_id))


@router.put("/notes/{note_id}/picture", openapi_extra=PICTURE_BODY)
def put_picture(
    machine_id: UUID,
    swap_id: UUID,
    note_id: UUID,
    content: Annotated[bytes, Depends(raw_body)],
    sessions: SessionsDep,
) -> CaseOut:
    """Add a PNG or JPEG picture to a note."""
    bench_records.save_picture(sessions, machine_id, swap_id, note_id, content)
    return case_out(view_machine(sessions, machine_id))


@router.get("/notes/{note_id}/picture", response_class=Response)
def read_picture(machine_id: UUID, swap_id: UUID, note_id: UUID, sessions: SessionsDep) -> Response:
    """Hand out the picture of a note."""
    return hand_out(*bench_records.read_picture(sessions, machine_id, swap_id, note_id))
