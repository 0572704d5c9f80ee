"""A run file that the agent wrote while no server answered, taken in beside what is recorded of its machine."""

from collections.abc import Mapping
from dataclasses import dataclass
from uuid import UUID

from lynxbill.core.heat.trace import WholeTrace
from lynxbill.core.record.frame import Case
from lynxbill.core.record.ids import RunId
from lynxbill.core.terms.errors import BadValue
from lynxbill.exchange.run_file import read_run_file
from lynxbill.services.agent.bench_jobs import join_sitting
from lynxbill.services.base.act import Act
from lynxbill.services.base.transaction import Sessions, reading
from lynxbill.services.evidence.entries import Entry
from lynxbill.services.evidence.runs import save_runs
from lynxbill.services.evidence.traces import Batch, Coming, take_in_trace
from lynxbill.store.kept import read_case
from lynxbill.store.traces import ChannelKey


@dataclass(frozen=True, slots=True)
class TakenIn:
    """What a file brought: its sittings, and how many runs; those that were here already are counted too."""

    sittings: tuple[UUID, ...]
    runs: int


def take_in_agent_file(sessions: Sessions, act: Act, machine_id: UUID, text: bytes) -> TakenIn:
    """Take in the sittings and runs of an agent's file; what is here already is not stored twice."""
    traces: dict[RunId, WholeTrace] = {}
    case = read_run_file(text, traces=traces)
    if case.machine.id != str(machine_id):
        raise BadValue(
            f"This file is of another machine, “{case.machine.name}”. Open that one, or bring it along on the home "
            "screen.",
            field="file",
        )
    workloads = _known_here(sessions, machine_id, case)
    for sitting in case.sittings:
        build, begun = UUID(sitting.build_id), sitting.started_at
        join_sitting(sessions, act, machine_id, UUID(sitting.id), build, begun, sitting.boot or "")
    entries = [Entry(workloads[run.workload], run, dict(run.readings), None) for run in case.runs]
    if entries:
        save_runs(sessions, act, machine_id, entries)
    for run in case.runs:
        if (trace := traces.get(run.id)) is not None:
            coming = _coming(trace, UUID(run.sitting_id), workloads[run.workload], run.position, run.warm_up)
            take_in_trace(sessions, act, machine_id, UUID(run.id), coming)
    return TakenIn(tuple(UUID(sitting.id) for sitting in case.sittings), len(case.runs))


def _known_here(sessions: Sessions, machine_id: UUID, case: Case) -> Mapping[str, UUID]:
    """The machine's workloads by name; refuses a file before anything of it is written."""
    with reading(sessions) as session:
        here = read_case(session, machine_id)
    builds, workloads = {build.id for build in here.builds}, {w.name: UUID(w.id) for w in here.workloads}
    for number, sitting in enumerate(case.sittings):
        if sitting.build_id not in builds:
            raise BadValue("This machine has no such build any more.", field=f"$.sittings[{number}].build")
        if sitting.boot is None:
            raise BadValue(
                "An agent’s file says in which start of the machine a sitting was held; this one does not. A whole "
                "run file is brought along on the home screen.",
                field=f"$.sittings[{number}].boot",
            )
    for number, run in enumerate(case.runs):
        if run.workload not in workloads:
            raise BadValue(f"This machine has no task “{run.workload}”.", field=f"$.runs[{number}].workload")
    return workloads


def _coming(trace: WholeTrace, sitting: UUID, workload: UUID, position: int, warm_up: bool) -> Coming:
    return Coming(
        sitting=sitting,
        workload=workload,
        position=position,
        warm_up=warm_up,
        started_at=trace.started_at,
        batches=tuple(
            Batch(ChannelKey(c.role, c.of, c.unit, c.sensor, c.stands_in), 0, c.at, c.values) for c in trace.channels
        ),
        marks=trace.marks,
        missing=trace.missing,
        ended=True,
    )
