"""Machines, their builds, workloads and plan."""

from uuid import UUID

from fastapi import APIRouter

from lynxbill.api.deps import SessionsDep
from lynxbill.api.describe import bench_out, case_out
from lynxbill.api.schemas import BenchOut, BuildIn, CaseOut, MachineIn, PlanIn, UnitOut, WorkloadIn
from lynxbill.core.quantity import known_units
from lynxbill.services.builds import save_build
from lynxbill.services.machines import list_benches, save_machine, view_machine
from lynxbill.services.plans import save_plan
from lynxbill.services.workloads import save_workload

router = APIRouter(tags=["machines"])


@router.get("/units")
def list_units() -> list[UnitOut]:
    """Every unit that a measure may have."""
    return [UnitOut.model_validate(unit) for unit in known_units()]


@router.get("/machines")
def list_machines(sessions: SessionsDep) -> list[BenchOut]:
    """All machines, each with the comparison of its newest swap."""
    return [bench_out(bench) for bench in list_benches(sessions)]


@router.get("/machines/{machine_id}")
def read_machine(machine_id: UUID, sessions: SessionsDep) -> CaseOut:
    """One machine with everything recorded of it."""
    return case_out(view_machine(sessions, machine_id))


@router.put("/machines/{machine_id}")
def put_machine(machine_id: UUID, body: MachineIn, sessions: SessionsDep) -> CaseOut:
    """Describe a new machine, or edit one."""
    save_machine(sessions, body.to_core(machine_id), body.version)
    return case_out(view_machine(sessions, machine_id))


@router.put("/machines/{machine_id}/builds/{build_id}")
def put_build(machine_id: UUID, build_id: UUID, body: BuildIn, sessions: SessionsDep) -> CaseOut:
    """Describe the first build, or edit one that has no runs."""
    save_build(sessions, machine_id, body.to_core(build_id), body.version)
    return case_out(view_machine(sessions, machine_id))


@router.put("/machines/{machine_id}/workloads/{workload_id}")
def put_workload(machine_id: UUID, workload_id: UUID, body: WorkloadIn, sessions: SessionsDep) -> CaseOut:
    """Describe a workload with its measures, or edit it."""
    measures = tuple(measure.to_core(body.name) for measure in body.measures)
    save_workload(sessions, machine_id, body.to_core(workload_id), measures)
    return case_out(view_machine(sessions, machine_id))


@router.put("/machines/{machine_id}/plan")
def put_plan(machine_id: UUID, body: PlanIn, sessions: SessionsDep) -> CaseOut:
    """Replace the open plan, by which the next swap will be judged."""
    save_plan(sessions, machine_id, body.to_core(), body.version)
    return case_out(view_machine(sessions, machine_id))
