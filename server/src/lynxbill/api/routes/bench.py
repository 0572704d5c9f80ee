"""What the bench agent asks of the server: pairing, what to measure next, and the sitting that it joins."""

from dataclasses import replace
from uuid import UUID

from fastapi import APIRouter

from lynxbill.api.http.deps import ActDep, SessionsDep, SpooledDep
from lynxbill.api.routes.run_files import RUN_FILE_BODY
from lynxbill.api.wire.bench_bodies import BenchShownIn, JoinIn, PairIn
from lynxbill.api.wire.bench_schemas import (
    AskedWorkloadOut,
    BenchBuildNowOut,
    BenchJobOut,
    BenchRunOut,
    BenchSittingOut,
    PairingOut,
    TakenInOut,
)
from lynxbill.api.wire.bodies import RunIn
from lynxbill.api.wire.describe import measure_out, runs_saved_out, shown_out
from lynxbill.api.wire.home_schemas import MachineNameOut
from lynxbill.api.wire.schemas import RunsSavedOut, ShownOut
from lynxbill.core.heat.held_back import limits_of
from lynxbill.services.agent.agent_files import take_in_agent_file
from lynxbill.services.agent.bench_jobs import BenchJob, join_sitting, read_bench_job
from lynxbill.services.agent.pairing import make_code, use_code
from lynxbill.services.evidence.runs import save_run
from lynxbill.services.frame.identified import save_shown

router = APIRouter(tags=["bench"])


@router.post("/machines/{machine_id}/pairing")
def post_pairing(machine_id: UUID, sessions: SessionsDep, act: ActDep) -> PairingOut:
    """Make a code that pairs an agent with this machine; it is good for ten minutes, once."""
    code = make_code(sessions, act, machine_id)
    return PairingOut(code=code.code, until=code.until)


@router.post("/pairings")
def post_code(body: PairIn, sessions: SessionsDep, act: ActDep) -> MachineNameOut:
    """Use a code: answers the machine that it was made for."""
    machine, name = use_code(sessions, act, body.code)
    return MachineNameOut(id=machine, name=name)


@router.get("/machines/{machine_id}/bench")
def read_bench(machine_id: UUID, sessions: SessionsDep) -> BenchJobOut:
    """What is to be measured next on the build that stands."""
    return _job_out(read_bench_job(sessions, machine_id))


@router.put("/machines/{machine_id}/bench/sittings/{sitting_id}")
def put_bench_sitting(
    machine_id: UUID, sitting_id: UUID, body: JoinIn, sessions: SessionsDep, act: ActDep
) -> BenchJobOut:
    """Begin a sitting in a boot that was read, or give one that was begun on a screen the boot that it lacks."""
    act = replace(act, by_agent=True)
    join_sitting(sessions, act, machine_id, sitting_id, body.build, body.started_at, body.boot)
    return _job_out(read_bench_job(sessions, machine_id))


@router.put("/machines/{machine_id}/bench/runs/{run_id}")
def put_bench_run(machine_id: UUID, run_id: UUID, body: RunIn, sessions: SessionsDep, act: ActDep) -> RunsSavedOut:
    """Record a run that the agent measured; it may be of a sitting that was closed meanwhile."""
    return runs_saved_out(save_run(sessions, replace(act, by_agent=True), machine_id, body.entry(run_id)))


@router.put("/machines/{machine_id}/bench/shown")
def put_shown(machine_id: UUID, body: BenchShownIn, sessions: SessionsDep, act: ActDep) -> ShownOut | None:
    """Say what the machine shows of itself; answers what of it is not as the build says."""
    return shown_out(save_shown(sessions, act, machine_id, body.to_core()))


@router.post("/machines/{machine_id}/agent-file", openapi_extra=RUN_FILE_BODY)
def post_agent_file(machine_id: UUID, file: SpooledDep, sessions: SessionsDep, act: ActDep) -> TakenInOut:
    """Take in what an agent wrote while no server answered; what is here already is not stored twice."""
    file.seek(0)
    taken = take_in_agent_file(sessions, replace(act, by_agent=True), machine_id, file.read())
    return TakenInOut(sittings=list(taken.sittings), runs=taken.runs)


def _job_out(job: BenchJob) -> BenchJobOut:
    return BenchJobOut(
        machine=MachineNameOut(id=UUID(job.machine.id), name=job.machine.name),
        build=BenchBuildNowOut(
            id=UUID(job.build.id), letter=job.build.letter, label=job.build.label, settings=dict(job.build.settings)
        ),
        stage=job.job_state,
        change=job.plan.change,
        sittings_wanted=job.plan.sittings_a_side,
        rest_min=job.plan.rest_min,
        stop_c=limits_of(job.machine.limits).stop_c,
        serial_salt=job.serial_salt,
        soak_min=job.plan.soak_min,
        boots=list(job.boots),
        sitting=BenchSittingOut(
            id=UUID(job.sitting.id),
            boot=job.sitting.boot,
            runs=[
                BenchRunOut(id=UUID(r.id), workload=r.workload, position=r.position, warm_up=r.warm_up, state=r.state)
                for r in job.runs
            ],
        )
        if job.sitting
        else None,
        workloads=[
            AskedWorkloadOut(
                id=UUID(asked.workload.id),
                name=asked.workload.name,
                workload_version=asked.workload.workload_version,
                parameters=dict(asked.workload.parameters),
                target=asked.workload.target,
                measures=[measure_out(measure) for measure in asked.measures],
                runs=asked.runs,
                warm_ups=asked.warm_ups,
            )
            for asked in job.asked
        ],
    )
