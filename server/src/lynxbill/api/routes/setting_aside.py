"""Setting aside what something rests on; each answers the machine as it stands then."""

from uuid import UUID

from fastapi import APIRouter

from lynxbill.api.http.deps import SessionsDep
from lynxbill.api.wire.bodies import AsideIn
from lynxbill.api.wire.describe import case_out
from lynxbill.api.wire.schemas import CaseOut
from lynxbill.services.evidence import setting_aside
from lynxbill.services.frame.machines import view_machine

router = APIRouter(tags=["removal"], prefix="/machines/{machine_id}")


@router.put("/set-aside")
def put_machine_aside(machine_id: UUID, body: AsideIn, sessions: SessionsDep) -> CaseOut:
    """Set a machine aside that waits for nobody any more: it stays listed, last; or take it back."""
    setting_aside.set_machine_aside(sessions, machine_id, body.reason)
    return case_out(view_machine(sessions, machine_id))


@router.put("/candidates/{candidate_id}/set-aside")
def put_candidate_aside(machine_id: UUID, candidate_id: UUID, body: AsideIn, sessions: SessionsDep) -> CaseOut:
    """Set a candidate aside, so that it is not weighed any more; or take it back."""
    setting_aside.set_candidate_aside(sessions, machine_id, candidate_id, body.reason)
    return case_out(view_machine(sessions, machine_id))


@router.put("/workloads/{workload_id}/set-aside")
def put_workload_aside(machine_id: UUID, workload_id: UUID, body: AsideIn, sessions: SessionsDep) -> CaseOut:
    """Set a workload aside, so that no further plan asks for it; or take it back."""
    setting_aside.set_workload_aside(sessions, machine_id, workload_id, body.reason)
    return case_out(view_machine(sessions, machine_id))


@router.put("/workloads/{workload_id}/measures/{measure_id}/set-aside")
def put_measure_aside(
    machine_id: UUID, workload_id: UUID, measure_id: UUID, body: AsideIn, sessions: SessionsDep
) -> CaseOut:
    """Set a measure aside, so that no further plan asks for it; or take it back."""
    setting_aside.set_measure_aside(sessions, machine_id, workload_id, measure_id, body.reason)
    return case_out(view_machine(sessions, machine_id))
