"""Run files: take a machine over from one, hand one out."""

from collections.abc import Callable, Iterator, Sequence
from dataclasses import replace
from uuid import UUID, uuid4, uuid5

from sqlalchemy.orm import Session

from lynxbill.core.heat.trace import WholeTrace
from lynxbill.core.judgement.ledger import under_new_ids
from lynxbill.core.reading.tally import sheets_of
from lynxbill.core.record.frame import Case
from lynxbill.core.record.ids import RunId
from lynxbill.core.record.plan import Plan
from lynxbill.core.record.renaming import rename
from lynxbill.core.terms.errors import Taken
from lynxbill.core.terms.measure import Measure, points_at_another
from lynxbill.core.value.bill import judge_and_bill
from lynxbill.exchange.data_package import write_data_package
from lynxbill.exchange.run_file import Progress, no_progress, read_run_file, write_run_file
from lynxbill.services.base.transaction import Sessions, reading, transaction
from lynxbill.services.frame.builds import build_letter
from lynxbill.store import rows
from lynxbill.store.database import announce
from lynxbill.store.edits import keep_was
from lynxbill.store.evidence import insert_runs, insert_sheets
from lynxbill.store.kept import read_whole_case
from lynxbill.store.tables.machine import MachineRow
from lynxbill.store.traces import insert_trace, read_traces, read_whole

Finish = Callable[[Session, UUID], None]
ALREADY_HERE = "This machine is here already; a run file does not overwrite what is recorded."


def export_machine(sessions: Sessions, machine_id: UUID) -> str:
    """Write everything measured on a machine as a run file."""
    with reading(sessions) as session:
        case = read_whole_case(session, machine_id)
        recorded = {run.id for run in case.runs}
        kept = read_traces(session, machine_id, [UUID(sitting.id) for sitting in case.sittings])
        # The trace of a run that lasts is of no run yet.
        traces = {RunId(str(t.id)): read_whole(session, t) for t in kept if str(t.id) in recorded}
        return write_run_file(case, traces)


def export_package(sessions: Sessions, machine_id: UUID) -> bytes:
    """Write runs, readings, results and costs of a machine as a Data Package."""
    with reading(sessions) as session:
        case = read_whole_case(session, machine_id)
    pairs = dict.fromkeys((swap.before, swap.after) for swap in case.swaps if swap.state != "planned")
    return write_data_package(case, [judge_and_bill(case, *pair) for pair in pairs])


def import_machine(
    sessions: Sessions,
    text: str | bytes,
    *,
    is_demo: bool = False,
    progress: Progress = no_progress,
    finish: Finish = lambda _session, _machine_id: None,
) -> UUID:
    """
    Take a machine over from a run file, whole or not at all.

    Args:
        progress: told how far it is; what it raises ends it, and nothing is kept.
        finish: the last step of the same transaction.
    """
    traces: dict[RunId, WholeTrace] = {}
    read = read_run_file(text, progress, traces)
    del text
    case = _with_uuids(read)
    # Runs keep their order where they get ids of their own.
    renamed = {old.id: new for old, new in zip(read.runs, case.runs, strict=True)}
    with transaction(sessions, taken=ALREADY_HERE) as session:
        machine_id = UUID(case.machine.id)
        if session.get(MachineRow, machine_id) is not None:
            raise Taken(ALREADY_HERE)
        _insert(session, case, is_demo, progress)
        workloads = {workload.name: UUID(workload.id) for workload in case.workloads}
        for old, trace in traces.items():
            insert_trace(session, renamed[old], machine_id, workloads[renamed[old].workload], trace)
        announce(session, machine_id, "machine", machine_id)
        finish(session, machine_id)
    return machine_id


def take_in(sessions: Sessions, case: Case) -> None:
    """Take a case in as a machine of its own: everything of it but the machine gets an id made new."""
    renewed = replace(_with_uuids(case, anew=True), machine=case.machine)
    with transaction(sessions, taken=ALREADY_HERE) as session:
        machine_id = UUID(case.machine.id)
        if session.get(MachineRow, machine_id) is not None:
            raise Taken(ALREADY_HERE)
        _insert(session, renewed, False, no_progress)
        announce(session, machine_id, "machine", machine_id)


def _with_uuids(case: Case, *, anew: bool = False) -> Case:
    """Keep ids that are UUIDs unless all are to be made anew; give every other thing one of its own."""
    space = uuid4()

    def name(noun: str, identifier: str) -> str:
        if not anew and (known := _read_uuid(identifier)) is not None:
            return str(known)
        return str(uuid5(space, f"{noun} {identifier}"))

    return under_new_ids(case, rename(case, name))


def _read_uuid(identifier: str) -> UUID | None:
    try:
        return UUID(identifier)
    except ValueError:
        return None


def _insert(session: Session, case: Case, is_demo: bool, progress: Progress) -> None:
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
    count = len(case.runs)
    insert_runs(session, machine_id, workloads, scales, case.runs, lambda done: progress("writing", done, count))
    insert_sheets(session, case, sheets_of(case))
    keep_was(session, case)
    for number, swap in enumerate(case.swaps, start=1):
        session.add(rows.swap_row(swap, machine_id, number))
        session.flush()
        session.add(rows.plan_row(swap.plan, machine_id, UUID(swap.id)))
        session.add_all(rows.showing_row(entry, machine_id, UUID(swap.id)) for entry in swap.shown or ())
    session.add(rows.plan_row(_plan_ahead(case), machine_id, None))
    session.add_all(
        rows.candidate_row(candidate, machine_id, number) for number, candidate in enumerate(case.candidates, start=1)
    )
    session.add_all(rows.recheck_row(recheck, machine_id) for recheck in case.rechecks)


def _plan_ahead(case: Case) -> Plan:
    """The plan for the next swap: the file's own, else that of its newest swap."""
    if case.open_plan is not None:
        return case.open_plan
    newest = case.swaps[-1].plan if case.swaps else Plan()
    return replace(newest, pairs=())


def _insert_workloads(session: Session, case: Case, machine_id: UUID) -> dict[str, UUID]:
    ids = {workload.name: UUID(workload.id) for workload in case.workloads}
    session.add_all(
        rows.workload_row(workload, machine_id, number) for number, workload in enumerate(case.workloads, start=1)
    )
    session.flush()
    numbered = list(enumerate(_told_apart(case.measures), start=1))
    # What points at another measure stands after it.
    for pointing in (False, True):
        session.add_all(
            rows.measure_row(measure, ids[measure.workload], number)
            for number, measure in numbered
            if points_at_another(measure) == pointing
        )
        session.flush()
    return ids


def _told_apart(measures: Sequence[Measure]) -> Iterator[Measure]:
    """Measures of one workload that a file calls alike get a number: by their names alone nobody could choose one."""
    taken: set[tuple[str, str]] = set()
    for measure in measures:
        name, count = measure.name, 1
        while (measure.workload, name) in taken:
            count += 1
            name = f"{measure.name} ({count})"
        taken.add((measure.workload, name))
        yield replace(measure, name=name)


def _insert_builds(session: Session, case: Case, machine_id: UUID) -> None:
    parts = {part.id: part for build in case.builds for part in build.parts}
    session.add_all(rows.part_row(part, machine_id) for part in parts.values())
    letters = [build.letter for build in case.builds]
    keep = len(set(letters)) == len(letters)
    for number, build in enumerate(case.builds, start=1):
        letter = build.letter if keep else build_letter(number)
        session.add(rows.build_row(replace(build, letter=letter), machine_id, number))
    session.flush()
    for build in case.builds:
        session.add_all(rows.fitting_rows(build))
