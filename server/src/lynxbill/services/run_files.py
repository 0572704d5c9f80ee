"""Run files: take a machine over from one, hand one out."""

from dataclasses import replace
from uuid import UUID, uuid4, uuid5

from sqlalchemy.orm import Session

from lynxbill.core.case import Build, Case, FixedPair, Plan
from lynxbill.core.errors import Taken
from lynxbill.exchange.run_file import read_run_file, write_run_file
from lynxbill.services.builds import build_letter
from lynxbill.services.transaction import Sessions, transaction
from lynxbill.store import rows
from lynxbill.store.database import announce
from lynxbill.store.snapshot import load_snapshot
from lynxbill.store.tables import MachineRow, WorkloadRow

ALREADY_HERE = "This machine is here already; a run file does not overwrite what is recorded."


def export_machine(sessions: Sessions, machine_id: UUID) -> str:
    """Write everything measured on a machine as a run file."""
    with sessions() as session:
        return write_run_file(load_snapshot(session, machine_id).case)


def import_machine(sessions: Sessions, text: str | bytes, *, is_demo: bool = False) -> UUID:
    """Take a machine over from a run file, whole or not at all."""
    case = _with_uuids(read_run_file(text))
    with transaction(sessions, taken=ALREADY_HERE) as session:
        machine_id = UUID(case.machine.id)
        if session.get(MachineRow, machine_id) is not None:
            raise Taken(ALREADY_HERE)
        _insert(session, case, is_demo)
        announce(session, machine_id, "machine")
    return machine_id


def _with_uuids(case: Case) -> Case:
    """Keep ids that are UUIDs; give every other thing one of its own, made new for each import."""
    space = uuid4()

    def renamed(noun: str, identifier: str) -> str:
        try:
            return str(UUID(identifier))
        except ValueError:
            return str(uuid5(space, f"{noun} {identifier}"))

    def plan(old: Plan) -> Plan:
        return replace(
            old,
            headline=renamed("measure", old.headline) if old.headline else None,
            measures={renamed("measure", key): value for key, value in old.measures.items()},
            pairs=tuple(
                FixedPair(renamed("run", p.before_run), renamed("run", p.after_run), p.reason) for p in old.pairs
            ),
            borrow_spread_from=tuple(renamed("build", build) for build in old.borrow_spread_from),
        )

    return Case(
        machine=replace(case.machine, id=renamed("machine", case.machine.id)),
        measures=tuple(replace(m, id=renamed("measure", m.id)) for m in case.measures),
        builds=tuple(
            replace(
                b,
                id=renamed("build", b.id),
                parts=tuple(replace(part, id=renamed("part", part.id)) for part in b.parts),
            )
            for b in case.builds
        ),
        sittings=tuple(
            replace(s, id=renamed("sitting", s.id), build_id=renamed("build", s.build_id)) for s in case.sittings
        ),
        runs=tuple(
            replace(
                run,
                id=renamed("run", run.id),
                sitting_id=renamed("sitting", run.sitting_id),
                readings={renamed("measure", key): value for key, value in run.readings.items()},
            )
            for run in case.runs
        ),
        swaps=tuple(
            replace(
                swap,
                id=renamed("swap", swap.id),
                before=renamed("build", swap.before),
                after=renamed("build", swap.after),
                plan=plan(swap.plan),
                verdict_shown_for=None
                if swap.verdict_shown_for is None
                else tuple(renamed("sitting", s) for s in swap.verdict_shown_for),
            )
            for swap in case.swaps
        ),
        open_plan=plan(case.open_plan) if case.open_plan else None,
    )


def _insert(session: Session, case: Case, is_demo: bool) -> None:
    machine_id = UUID(case.machine.id)
    machine = rows.machine_row(case.machine)
    machine.is_demo = is_demo
    session.add(machine)
    session.flush()
    workloads = _insert_workloads(session, case, machine_id)
    _insert_builds(session, case, machine_id)
    numbers: dict[str, int] = {}
    for sitting in sorted(case.sittings, key=lambda s: s.started_at):
        numbers[sitting.build_id] = numbers.get(sitting.build_id, 0) + 1
        session.add(rows.sitting_row(sitting, numbers[sitting.build_id]))
    session.flush()
    scales = {measure.id: measure.scale for measure in case.measures}
    session.add_all(rows.run_row(run, workloads[run.workload], scales) for run in case.runs)
    for number, swap in enumerate(case.swaps, start=1):
        session.add(rows.swap_row(swap, machine_id, number))
        session.flush()
        session.add(rows.plan_row(swap.plan, machine_id, UUID(swap.id)))
    session.add(rows.plan_row(_plan_ahead(case), machine_id, None))


def _plan_ahead(case: Case) -> Plan:
    """The plan for the next swap: the file's own, else that of its newest swap."""
    if case.open_plan is not None:
        return case.open_plan
    newest = case.swaps[-1].plan if case.swaps else Plan()
    return replace(newest, pairs=())


def _insert_workloads(session: Session, case: Case, machine_id: UUID) -> dict[str, UUID]:
    names = dict.fromkeys([m.workload for m in case.measures] + [run.workload for run in case.runs])
    newest = {run.workload: run for run in case.runs}
    ids = {name: uuid5(machine_id, f"workload {name}") for name in names}
    for number, name in enumerate(names, start=1):
        run = newest.get(name)
        session.add(
            WorkloadRow(
                id=ids[name],
                machine_id=machine_id,
                name=name,
                workload_version=run.workload_version if run else "1",
                parameters=dict(run.parameters) if run else {},
                position=number,
            )
        )
    session.flush()
    session.add_all(
        rows.measure_row(measure, ids[measure.workload], number)
        for number, measure in enumerate(case.measures, start=1)
    )
    session.flush()
    return ids


def _insert_builds(session: Session, case: Case, machine_id: UUID) -> None:
    parts = {part.id: part for build in case.builds for part in build.parts}
    session.add_all(rows.part_row(part, machine_id) for part in parts.values())
    letters = [build.letter for build in case.builds]
    keep = len(set(letters)) == len(letters)
    for number, build in enumerate(case.builds, start=1):
        letter = build.letter if keep else build_letter(number)
        session.add(rows.build_row(Build(build.id, letter, build.label, (), build.settings), machine_id, number))
    session.flush()
    for build in case.builds:
        session.add_all(rows.fitting_rows(build))
