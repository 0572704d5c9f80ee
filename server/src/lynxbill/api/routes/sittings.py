"""Sittings and the runs in them."""

from typing import Annotated
from uuid import UUID

from fastapi import APIRouter, Query

from lynxbill.api.http.deps import ActDep, SessionsDep
from lynxbill.api.wire.bodies import LateExclusionIn, RunIn, RunsIn, SetAsideIn, SittingIn
from lynxbill.api.wire.describe import case_out, doubts_out, run_out, runs_saved_out
from lynxbill.api.wire.schemas import CaseOut, DoubtOut, RunOut, RunsSavedOut
from lynxbill.services.evidence.doubts import list_doubts
from lynxbill.services.evidence.runs import leave_out_late, save_run, save_runs
from lynxbill.services.evidence.sittings import close_sitting, save_sitting, set_aside
from lynxbill.services.frame.machines import list_runs, view_machine

router = APIRouter(tags=["sittings"])


@router.put("/machines/{machine_id}/sittings/{sitting_id}")
def put_sitting(machine_id: UUID, sitting_id: UUID, body: SittingIn, sessions: SessionsDep, act: ActDep) -> CaseOut:
    """Begin a sitting on a build, or note its conditions."""
    save_sitting(sessions, act, machine_id, body.to_core(sitting_id), body.version)
    return case_out(view_machine(sessions, machine_id))


@router.post("/machines/{machine_id}/sittings/{sitting_id}/close")
def post_close(machine_id: UUID, sitting_id: UUID, sessions: SessionsDep, act: ActDep) -> CaseOut:
    """Close a sitting: it takes no further runs."""
    close_sitting(sessions, act, machine_id, sitting_id)
    return case_out(view_machine(sessions, machine_id))


@router.put("/machines/{machine_id}/sittings/{sitting_id}/set-aside")
def put_set_aside(
    machine_id: UUID, sitting_id: UUID, body: SetAsideIn, sessions: SessionsDep, act: ActDep
) -> CaseOut:
    """Take a sitting out of the test after the fact, with a reason that stays."""
    set_aside(sessions, act, machine_id, sitting_id, body.reason)
    return case_out(view_machine(sessions, machine_id))


@router.get("/machines/{machine_id}/runs")
def read_runs(
    machine_id: UUID,
    sessions: SessionsDep,
    build: Annotated[list[UUID] | None, Query()] = None,
    sitting: Annotated[list[UUID] | None, Query()] = None,
) -> list[RunOut]:
    """The runs of the builds and sittings that are named; without any, those of the whole machine."""
    evidence = list_runs(sessions, machine_id, {str(b) for b in build or ()}, {str(s) for s in sitting or ()})
    return [run_out(run, evidence.versions[run.id]) for run in evidence.runs]


@router.get("/machines/{machine_id}/sittings/{sitting_id}/doubts")
def read_doubts(machine_id: UUID, sitting_id: UUID, sessions: SessionsDep) -> list[DoubtOut]:
    """Which readings of an open sitting may have been typed wrong."""
    return doubts_out(list_doubts(sessions, machine_id, sitting_id))


@router.put("/machines/{machine_id}/runs/{run_id}")
def put_run(machine_id: UUID, run_id: UUID, body: RunIn, sessions: SessionsDep, act: ActDep) -> RunsSavedOut:
    """Record a run, or correct it; sending the same run twice stores it once."""
    return runs_saved_out(save_run(sessions, act, machine_id, body.entry(run_id)))


@router.post("/machines/{machine_id}/runs")
def post_runs(machine_id: UUID, body: RunsIn, sessions: SessionsDep, act: ActDep) -> RunsSavedOut:
    """Record a block of runs, or correct them, all or none; sending the same block twice stores it once."""
    return runs_saved_out(save_runs(sessions, act, machine_id, [run.entry(run.id) for run in body.runs]))


@router.put("/machines/{machine_id}/runs/{run_id}/late-exclusion")
def put_late_exclusion(
    machine_id: UUID, run_id: UUID, body: LateExclusionIn, sessions: SessionsDep, act: ActDep
) -> CaseOut:
    """Leave a run out after its reading was seen, with a reason that stays."""
    leave_out_late(sessions, act, machine_id, run_id, body.reason)
    return case_out(view_machine(sessions, machine_id))
