"""Removing what nothing rests on; each answer holds what it takes to undo it."""

from typing import Annotated
from uuid import UUID

from fastapi import APIRouter, Query

from lynxbill.api.http.deps import ActDep, SessionsDep
from lynxbill.api.wire.describe import case_out, run_out
from lynxbill.api.wire.schemas import CaseOut, RemovedOut
from lynxbill.services.evidence import removal
from lynxbill.services.frame.machines import find_run, view_machine

router = APIRouter(tags=["removal"], prefix="/machines/{machine_id}")


@router.delete("")
def delete_machine(
    machine_id: UUID, sessions: SessionsDep, act: ActDep, name: Annotated[str, Query(max_length=200)]
) -> RemovedOut:
    """Remove a machine with everything recorded of it; its name has to be typed. It can be brought back a minute."""
    removal.remove_machine(sessions, act, machine_id, name)
    return RemovedOut(name=name)


@router.put("/return")
def put_return(machine_id: UUID, sessions: SessionsDep) -> CaseOut:
    """Bring a machine back that was just removed."""
    removal.bring_back(sessions, machine_id)
    return case_out(view_machine(sessions, machine_id))


@router.delete("/candidates/{candidate_id}")
def delete_candidate(machine_id: UUID, candidate_id: UUID, sessions: SessionsDep) -> RemovedOut:
    """Take a candidate off the list, unless it was fitted."""
    before = case_out(view_machine(sessions, machine_id))
    removal.remove_candidate(sessions, machine_id, candidate_id)
    candidate = next(known for known in before.candidates if known.id == str(candidate_id))
    now = case_out(view_machine(sessions, machine_id))
    return RemovedOut(name=candidate.label, candidate=candidate, machine=now)


@router.delete("/runs/{run_id}")
def delete_run(machine_id: UUID, run_id: UUID, sessions: SessionsDep) -> RemovedOut:
    """Remove a warm-up, or a run of a trial, from an open sitting."""
    run, version = find_run(sessions, machine_id, run_id)
    removal.remove_run(sessions, machine_id, run_id)
    now = case_out(view_machine(sessions, machine_id))
    return RemovedOut(name=f"run {run.position}", run=run_out(run, version), machine=now)


@router.delete("/sittings/{sitting_id}")
def delete_sitting(machine_id: UUID, sitting_id: UUID, sessions: SessionsDep) -> RemovedOut:
    """Remove a sitting in which nothing was measured."""
    before = case_out(view_machine(sessions, machine_id))
    removal.remove_sitting(sessions, machine_id, sitting_id)
    sitting = next(known for known in before.sittings if known.id == sitting_id)
    return RemovedOut(name="the sitting", sitting=sitting, machine=case_out(view_machine(sessions, machine_id)))


@router.delete("/workloads/{workload_id}")
def delete_workload(machine_id: UUID, workload_id: UUID, sessions: SessionsDep) -> RemovedOut:
    """Remove a workload without runs, with its measures."""
    before = case_out(view_machine(sessions, machine_id))
    removal.remove_workload(sessions, machine_id, workload_id)
    return _without_workload(sessions, machine_id, before, workload_id, None)


@router.delete("/workloads/{workload_id}/measures/{measure_id}")
def delete_measure(machine_id: UUID, workload_id: UUID, measure_id: UUID, sessions: SessionsDep) -> RemovedOut:
    """Remove a measure without readings."""
    before = case_out(view_machine(sessions, machine_id))
    removal.remove_measure(sessions, machine_id, workload_id, measure_id)
    return _without_workload(sessions, machine_id, before, workload_id, measure_id)


def _without_workload(
    sessions: SessionsDep, machine_id: UUID, before: CaseOut, workload_id: UUID, measure_id: UUID | None
) -> RemovedOut:
    workload = next(known for known in before.workloads if known.id == workload_id)
    measures = [measure for measure in before.measures if measure.workload == workload.name]
    name = next((measure.name for measure in measures if measure.id == measure_id), workload.name)
    now = case_out(view_machine(sessions, machine_id))
    return RemovedOut(name=name, workload=workload, measures=measures, plan=before.open_plan, machine=now)
