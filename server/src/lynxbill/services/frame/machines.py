"""Machines: describe one, look at one, list them all."""

from collections.abc import Collection
from dataclasses import dataclass
from uuid import UUID

from sqlalchemy import select
from sqlalchemy.orm import Session

from lynxbill.core.record.frame import Case, Machine
from lynxbill.core.record.plan import Plan
from lynxbill.core.record.run import Run
from lynxbill.core.record.vocabulary import LIMITS, check_figures
from lynxbill.core.terms.errors import Clash, Missing
from lynxbill.services.base.transaction import Sessions, edit, reading, transaction
from lynxbill.services.frame.identified import WordedShown, as_identified
from lynxbill.store import rows
from lynxbill.store.answers import read_stamp
from lynxbill.store.database import announce
from lynxbill.store.evidence import Evidence, load_evidence
from lynxbill.store.kept import read_case, read_snapshot
from lynxbill.store.removal import delete_machine
from lynxbill.store.snapshot import Snapshot
from lynxbill.store.tables.evidence import RunRow
from lynxbill.store.tables.machine import MachineRow
from lynxbill.store.tables.swap import CostRow, SwapRow
from lynxbill.store.traces import find_lasting

DEFAULT_PLAN = Plan(sittings_a_side=3, runs_a_sitting=5)


@dataclass(frozen=True, slots=True)
class Counts:
    """How often a machine's frame, and its evidence, were changed; by it a screen knows what it missed."""

    revision: int
    evidence_revision: int


@dataclass(frozen=True, slots=True)
class MachineView:
    """A machine's frame with the versions of its things, what follows from its sheets, and what it is doing now."""

    snapshot: Snapshot
    case: Case
    counts: Counts
    lasting: UUID | None
    shown: WordedShown | None


def save_machine(sessions: Sessions, machine: Machine, version: int | None) -> None:
    """Create a machine with an empty open plan, or edit one."""
    check_figures(machine.limits, LIMITS, "limits")
    with transaction(sessions) as session:
        row = session.get(MachineRow, UUID(machine.id), with_for_update=True)
        if row is None:
            session.add(rows.machine_row(machine))
            session.flush()
            session.add(rows.plan_row(DEFAULT_PLAN, UUID(machine.id), None))
        else:
            if row.currency != machine.currency:
                _refuse_other_currency(session, row)
            edit(row, version, rows.machine_fields(machine))
        announce(session, machine.id, "machine", machine.id)


def _refuse_other_currency(session: Session, row: MachineRow) -> None:
    """What is booked is booked in the currency of account, or by a rate to it."""
    booked = select(CostRow.id).join(SwapRow, SwapRow.id == CostRow.swap_id).where(SwapRow.machine_id == row.id)
    if session.scalar(booked.limit(1)) is not None:
        raise Clash(f"Costs are booked in {row.currency}: the currency of account stays.", field="currency")


def erase_machine(sessions: Sessions, machine_id: UUID) -> None:
    """Erase a machine with everything recorded of it, for good."""
    with transaction(sessions) as session:
        delete_machine(session, machine_id)


def view_machine(sessions: Sessions, machine_id: UUID) -> MachineView:
    """Read one machine without its runs."""
    with reading(sessions) as session:
        snapshot = read_snapshot(session, machine_id)
        counts = _counts(session, machine_id)
        case, lasting = read_case(session, machine_id), find_lasting(session, machine_id)
        return MachineView(snapshot, case, counts, lasting, as_identified(session, case))


def count_changes(sessions: Sessions, machine_id: UUID) -> Counts:
    """Say how often a machine was changed; 0 where there is none any more."""
    with sessions() as session:
        return _counts(session, machine_id)


def _counts(session: Session, machine_id: UUID) -> Counts:
    stamp = read_stamp(session, machine_id)
    return Counts(stamp.revision, stamp.evidence_revision) if stamp else Counts(0, 0)


def list_names(sessions: Sessions) -> list[tuple[UUID, str]]:
    """Every machine's id and name, by name."""
    with sessions() as session:
        found = session.execute(select(MachineRow.id, MachineRow.name).order_by(MachineRow.name, MachineRow.id))
        return [(row.id, row.name) for row in found]


def find_run(sessions: Sessions, machine_id: UUID, run_id: UUID) -> tuple[Run, int]:
    """Read one run of a machine with its version."""
    with reading(sessions) as session:
        frame = read_snapshot(session, machine_id).frame
        sitting = session.scalar(
            select(RunRow.sitting_id).where(RunRow.id == run_id, RunRow.machine_id == machine_id)
        )
        evidence = load_evidence(session, frame, set() if sitting is None else {str(sitting)})
        run = next((known for known in evidence.runs if known.id == str(run_id)), None)
        if run is None:
            raise Missing("This machine has no such run; it may have been removed.")
        return run, evidence.versions[run.id]


def list_runs(sessions: Sessions, machine_id: UUID, builds: Collection[str], sittings: Collection[str]) -> Evidence:
    """Read the runs of some builds and sittings of a machine; of all of it where none is named."""
    with reading(sessions) as session:
        frame = read_snapshot(session, machine_id).frame
        wanted = {s.id for s in frame.sittings if s.build_id in builds or s.id in sittings}
        return load_evidence(session, frame, wanted if builds or sittings else None)
