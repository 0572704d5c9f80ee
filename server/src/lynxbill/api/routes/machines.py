"""Machines, their builds, workloads and plan."""

from typing import Annotated
from uuid import UUID

from fastapi import APIRouter, Query

from lynxbill.api.http.deps import ActDep, KeeperDep, SessionsDep
from lynxbill.api.wire.bodies import BuildIn, MachineIn, WorkloadIn
from lynxbill.api.wire.describe import case_out, home_out, plan_out
from lynxbill.api.wire.home_schemas import HomeOut, MachineNameOut
from lynxbill.api.wire.job_bodies import (
    BeginningIn,
    CandidateIn,
    CopyIn,
    PlanIn,
    PlanPreviewIn,
    RecheckIn,
    UseTemplateIn,
)
from lynxbill.api.wire.job_schemas import JobOut, PlanViewOut
from lynxbill.api.wire.schemas import CaseOut, PlanOut
from lynxbill.api.wire.spoken import write_comparison
from lynxbill.core.record.build import Build
from lynxbill.core.record.ids import BuildId
from lynxbill.exchange.fields import Day
from lynxbill.services.files.copies import copy_to_next
from lynxbill.services.frame.beginning import begin_job
from lynxbill.services.frame.builds import save_build
from lynxbill.services.frame.machines import list_names, save_machine, view_machine
from lynxbill.services.frame.plans import save_plan, use_template, with_template
from lynxbill.services.frame.workloads import save_workload
from lynxbill.services.swap.candidates import save_candidate, save_recheck
from lynxbill.services.verdicts.benches import read_home
from lynxbill.services.verdicts.jobs import preview_plan, view_job
from lynxbill.store.benches import Show

router = APIRouter(tags=["machines"])


@router.get("/machines")
def list_machines(
    sessions: SessionsDep,
    keeper: KeeperDep,
    day: Day | None = None,
    find: Annotated[str, Query(max_length=200)] = "",
    page: Annotated[int, Query(ge=1, le=100_000)] = 1,
    show: Show = "all",
) -> HomeOut:
    """
    A page of the machines whose name, owner or parts hold every word of `find`, those that wait first.

    Re-checks are due by `day`.
    """
    home = read_home(sessions, day=day, find=find, page=page, show=show)
    # Whatever this process did not hear of is seen to here.
    keeper.renew_soon(bench.machine_id for bench in home.benches if not bench.holds)
    return home_out(home)


@router.get("/machine-names")
def list_machine_names(sessions: SessionsDep) -> list[MachineNameOut]:
    """All machines by their names alone, to choose one."""
    return [MachineNameOut(id=identifier, name=name) for identifier, name in list_names(sessions)]


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
def put_workload(
    machine_id: UUID, workload_id: UUID, body: WorkloadIn, sessions: SessionsDep, act: ActDep
) -> CaseOut:
    """Describe a workload with its measures, or edit it."""
    measures = tuple(measure.to_core(body.name) for measure in body.measures)
    save_workload(sessions, act, machine_id, body.to_core(workload_id), measures, body.version)
    return case_out(view_machine(sessions, machine_id))


@router.put("/machines/{machine_id}/plan")
def put_plan(machine_id: UUID, body: PlanIn, sessions: SessionsDep) -> CaseOut:
    """Replace the open plan, by which the next swap will be judged."""
    save_plan(sessions, machine_id, body.to_core(), body.version)
    return case_out(view_machine(sessions, machine_id))


@router.post("/machines/{machine_id}/plan/preview")
def post_plan_preview(machine_id: UUID, body: PlanPreviewIn, sessions: SessionsDep) -> PlanViewOut:
    """Say what a plan would ask, take and could show, as it is typed; nothing is kept."""
    return PlanViewOut.model_validate(preview_plan(sessions, machine_id, body.plan.to_core(), body.swap))


@router.get("/machines/{machine_id}/plan/template/{template_id}")
def read_plan_template(machine_id: UUID, template_id: str, sessions: SessionsDep) -> PlanOut:
    """The open plan as a template laid over it would leave it."""
    return plan_out(with_template(sessions, machine_id, template_id))


@router.post("/machines/{machine_id}/plan/template")
def post_plan_template(machine_id: UUID, body: UseTemplateIn, sessions: SessionsDep) -> CaseOut:
    """Lay a template over the open plan."""
    use_template(sessions, machine_id, body.template, body.version)
    return case_out(view_machine(sessions, machine_id))


@router.put("/machines/{machine_id}/beginning")
def put_beginning(machine_id: UUID, body: BeginningIn, sessions: SessionsDep) -> CaseOut:
    """Begin a new job with what is to be changed: machine, first build, what is timed and the plan in one save."""
    build = Build(BuildId(str(body.build)), "", body.build_label)
    timed = tuple(one.to_core() for one in body.timed)
    begin_job(sessions, body.machine.to_core(machine_id), build, timed, body.to_core())
    return case_out(view_machine(sessions, machine_id))


@router.put("/machines/{machine_id}/copies/{copy_id}")
def put_copy(machine_id: UUID, copy_id: UUID, body: CopyIn, sessions: SessionsDep) -> CaseOut:
    """Lay out this machine's job for the next PC of its kind, under the id that is named; no run comes along."""
    copy_to_next(sessions, machine_id, copy_id, body.name, body.swap)
    return case_out(view_machine(sessions, copy_id))


@router.get("/machines/{machine_id}/job")
def read_job(machine_id: UUID, sessions: SessionsDep) -> JobOut:
    """What follows from everything recorded: gate, questions, time, strength of the plan, differences, history."""
    return JobOut.model_validate(view_job(sessions, machine_id, write_comparison))


@router.put("/machines/{machine_id}/candidates/{candidate_id}")
def put_candidate(
    machine_id: UUID, candidate_id: UUID, body: CandidateIn, sessions: SessionsDep, act: ActDep
) -> CaseOut:
    """Weigh a part before buying, or edit what is known of it."""
    save_candidate(sessions, act, machine_id, body.to_core(candidate_id), body.version)
    return case_out(view_machine(sessions, machine_id))


@router.put("/machines/{machine_id}/rechecks/{recheck_id}")
def put_recheck(machine_id: UUID, recheck_id: UUID, body: RecheckIn, sessions: SessionsDep) -> CaseOut:
    """Set a date to measure a build again, under a copy of its plan."""
    save_recheck(sessions, machine_id, body.to_core(recheck_id), body.version)
    return case_out(view_machine(sessions, machine_id))
