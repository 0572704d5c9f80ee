"""What the bench agent is to do next on a machine, and the sittings that it begins or joins."""

from dataclasses import dataclass
from datetime import datetime
from uuid import UUID

from lynxbill.core.plan.progress import tally_builds
from lynxbill.core.plan.stage import JobState, find_job_state
from lynxbill.core.reading.counting import compared_sittings
from lynxbill.core.record.build import Build
from lynxbill.core.record.frame import Machine
from lynxbill.core.record.ids import BuildId, SittingId
from lynxbill.core.record.plan import Plan
from lynxbill.core.record.run import Run, Sitting
from lynxbill.core.record.workload import Workload
from lynxbill.core.terms.errors import BadQuestion, Clash
from lynxbill.core.terms.measure import Measure
from lynxbill.services.base.act import Act
from lynxbill.services.base.transaction import Sessions, reading, transaction
from lynxbill.services.evidence.sittings import save_sitting
from lynxbill.store.database import announce
from lynxbill.store.evidence import load_evidence
from lynxbill.store.kept import read_case
from lynxbill.store.snapshot import find_machine
from lynxbill.store.tables.evidence import SittingRow
from lynxbill.store.tables.machine import BuildRow

USUAL_RUNS = 5


@dataclass(frozen=True, slots=True)
class Asked:
    """A workload that the plan asks for, with its measures, and how many runs and warm-ups a sitting has."""

    workload: Workload
    measures: tuple[Measure, ...]
    runs: int
    warm_ups: int


@dataclass(frozen=True, slots=True)
class BenchJob:
    """
    What a machine's job asks of whoever measures, on the build that stands.

    `boots` are those of the build's earlier sittings that count; `sitting` the one that is open, with its `runs`.
    `serial_salt` is mixed into the sums of serial numbers.
    """

    machine: Machine
    build: Build
    job_state: JobState
    plan: Plan
    boots: tuple[str | None, ...]
    sitting: Sitting | None
    runs: tuple[Run, ...]
    asked: tuple[Asked, ...]
    serial_salt: str


def read_bench_job(sessions: Sessions, machine_id: UUID) -> BenchJob:
    """Say what is to be measured next."""
    with reading(sessions) as session:
        case = read_case(session, machine_id)
        build = case.fitted
        if build is None:
            raise BadQuestion("This machine has no build yet: describe its parts under “Set up” first.")
        opened = [s for s in case.sittings_of(build.id) if s.closed_at is None and s.set_aside is None]
        sitting = opened[-1] if opened else None
        runs = load_evidence(session, case, {sitting.id}).runs if sitting else ()
        serial_salt = find_machine(session, machine_id).serial_salt
    plan = case.plan_of(build.id)
    asked = []
    for workload in case.workloads:
        measures = tuple(measure for measure in case.measures if measure.workload == workload.name)
        if any(measure.id in plan.measures for measure in measures):
            asked.append(Asked(workload, measures, plan.runs_of(workload.name) or USUAL_RUNS, plan.warm_ups))
    used = case.used_sittings
    earlier = [s for s in compared_sittings(case, build.id) if s.id in used and s is not sitting]
    return BenchJob(
        machine=case.machine,
        build=build,
        job_state=find_job_state(case, tally_builds(case)),
        plan=plan,
        boots=tuple(s.boot for s in earlier),
        sitting=sitting,
        runs=runs,
        asked=tuple(asked),
        serial_salt=serial_salt,
    )


def join_sitting(
    sessions: Sessions, act: Act, machine_id: UUID, sitting_id: UUID, build: UUID, started_at: datetime, boot: str
) -> None:
    """Begin a sitting in the boot that the agent read; one that was begun on a screen gets the boot that it lacks."""
    with transaction(sessions) as session:
        find_machine(session, machine_id, lock=True)
        row = session.get(SittingRow, sitting_id)
        if row is not None and session.get_one(BuildRow, row.build_id).machine_id == machine_id:
            if row.boot is None:
                row.boot, row.boot_by = boot, "read"
                row.version += 1
                announce(session, machine_id, "sitting", sitting_id)
            elif row.boot != boot:
                raise Clash("This sitting was held in another start of the machine: begin another one.")
            return
    sitting = Sitting(SittingId(str(sitting_id)), BuildId(str(build)), "plan", started_at, boot=boot, boot_by="read")
    save_sitting(sessions, act, machine_id, sitting, None)
