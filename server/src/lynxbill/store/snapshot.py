"""The frame of one machine, read in one go: what it is and what is to be done with it, without its runs."""

from collections.abc import Mapping
from dataclasses import dataclass
from uuid import UUID

from sqlalchemy import Select, Uuid, bindparam, or_, select
from sqlalchemy.orm import Session, selectinload

from lynxbill.core.record.build import Part
from lynxbill.core.record.frame import Frame
from lynxbill.core.record.ledger_entries import Showing
from lynxbill.core.record.plan import Plan
from lynxbill.core.terms.errors import Missing
from lynxbill.store.edits import sittings_were
from lynxbill.store.nouns import (
    build_of,
    candidate_of,
    machine_of,
    measure_of,
    part_of,
    plan_of,
    recheck_of,
    showing_of,
    sitting_of,
    swap_of,
    workload_of,
)
from lynxbill.store.tables.base import Versioned
from lynxbill.store.tables.evidence import SittingRow
from lynxbill.store.tables.machine import (
    BuildPartRow,
    BuildRow,
    CandidateRow,
    MachineRow,
    MeasureRow,
    PartRow,
    PlanRow,
    RecheckRow,
    WorkloadRow,
)
from lynxbill.store.tables.swap import ShowingRow, SwapRow

_CHILDREN = (
    SwapRow.costs,
    SwapRow.steps,
    SwapRow.recognitions,
    SwapRow.starts,
    SwapRow.notes,
    SwapRow.explanations,
    SwapRow.margin_edits,
)
# Asked anew after every save, so they are built once: that spares a fifth of such a reading.
_MACHINE = bindparam("machine", type_=Uuid())
_WORKLOADS = select(WorkloadRow).where(WorkloadRow.machine_id == _MACHINE).order_by(WorkloadRow.position)
_MEASURES = (
    select(MeasureRow)
    .join(WorkloadRow)
    .where(WorkloadRow.machine_id == _MACHINE)
    .order_by(WorkloadRow.position, MeasureRow.position)
)
_BUILDS = select(BuildRow).where(BuildRow.machine_id == _MACHINE).order_by(BuildRow.position)
_SITTINGS = (
    select(SittingRow)
    .join(BuildRow)
    .where(BuildRow.machine_id == _MACHINE)
    .order_by(SittingRow.started_at, SittingRow.position)
)
_SWAPS = (
    select(SwapRow)
    .where(SwapRow.machine_id == _MACHINE)
    .order_by(SwapRow.position)
    .options(*(selectinload(children) for children in _CHILDREN))
)
_CANDIDATES = select(CandidateRow).where(CandidateRow.machine_id == _MACHINE).order_by(CandidateRow.position)
_RECHECKS = select(RecheckRow).where(RecheckRow.machine_id == _MACHINE).order_by(RecheckRow.due_on)
_PLANS = select(PlanRow).where(PlanRow.machine_id == _MACHINE).options(selectinload(PlanRow.measures))
_SHOWINGS = select(ShowingRow).where(ShowingRow.machine_id == _MACHINE).order_by(ShowingRow.id)
_FITTED = (
    select(BuildPartRow.build_id, PartRow)
    .join(PartRow, PartRow.id == BuildPartRow.part_id)
    .where(PartRow.machine_id == _MACHINE)
    .order_by(BuildPartRow.build_id, BuildPartRow.position)
)


@dataclass(frozen=True, slots=True)
class Snapshot:
    """
    A frame with what only the store knows.

    `versions` are those of every editable thing but runs by id; the open plan's stands under "plan", a swap's under
    "plan SWAP".
    """

    frame: Frame
    versions: Mapping[str, int]

    @property
    def open_plan(self) -> Plan:
        """The plan for the next swap; every machine in the store has one."""
        return self.frame.open_plan or Plan()


def find_machine(session: Session, machine_id: UUID, *, lock: bool = False) -> MachineRow:
    """Find a machine, or refuse with Missing; `lock` makes writers of one machine take turns."""
    row = session.get(MachineRow, machine_id, with_for_update=lock)
    if row is None:
        raise Missing("There is no such machine here; it may have been removed. Go back to all machines.")
    return row


def load_snapshot(session: Session, machine_id: UUID) -> Snapshot:
    """Read a machine with all its builds, sittings and swaps."""
    machine = find_machine(session, machine_id)
    of = {"machine": machine_id}
    workloads = session.scalars(_WORKLOADS, of).all()
    names = {workload.id: workload.name for workload in workloads}
    measures = session.scalars(_MEASURES, of).all()
    builds = session.scalars(_BUILDS, of).all()
    sittings = session.scalars(_SITTINGS, of).all()
    swaps = session.scalars(_SWAPS, of).all()
    candidates = session.scalars(_CANDIDATES, of).all()
    rechecks = session.scalars(_RECHECKS, of).all()
    plans = session.scalars(_PLANS, of).all()
    parts = _parts_by_build(session, machine_id)
    plans_by_swap = {plan.swap_id: plan for plan in plans}
    open_plan = plans_by_swap.get(None)
    was = sittings_were(session, machine_id)
    shown: dict[UUID, list[Showing]] = {}
    for showing in session.scalars(_SHOWINGS, of):
        shown.setdefault(showing.swap_id, []).append(showing_of(showing))
    frame = Frame(
        machine=machine_of(machine),
        measures=tuple(measure_of(row, names[row.workload_id]) for row in measures),
        builds=tuple(build_of(row, parts.get(row.id, ())) for row in builds),
        sittings=tuple(sitting_of(row, was.get(row.id, ())) for row in sittings),
        swaps=tuple(swap_of(row, plans_by_swap.get(row.id), tuple(shown.get(row.id, ()))) for row in swaps),
        open_plan=plan_of(open_plan),
        workloads=tuple(workload_of(row) for row in workloads),
        candidates=tuple(candidate_of(row) for row in candidates),
        rechecks=tuple(recheck_of(row) for row in rechecks),
    )
    rows: list[Versioned] = [machine, *builds, *sittings, *swaps, *workloads, *candidates, *rechecks]
    for swap in swaps:
        rows += [*swap.steps, *swap.recognitions, *swap.starts, *swap.notes, *swap.explanations]
    versions = {str(row.id): row.version for row in rows}
    versions |= {f"plan {plan.swap_id}": plan.version for plan in plans if plan.swap_id}
    return Snapshot(frame, versions | ({"plan": open_plan.version} if open_plan else {}))


def _parts_by_build(session: Session, machine_id: UUID) -> dict[UUID, tuple[Part, ...]]:
    fitted = session.execute(_FITTED, {"machine": machine_id})
    parts: dict[UUID, tuple[Part, ...]] = {}
    for build_id, row in fitted:
        parts[build_id] = (*parts.get(build_id, ()), part_of(row))
    return parts


def set_aside_on(machine_id: UUID) -> Select[UUID]:
    """Ask for a machine's measures that were set aside, by themselves or with their workload."""
    measures = select(MeasureRow.id).join(WorkloadRow, WorkloadRow.id == MeasureRow.workload_id)
    aside = or_(MeasureRow.set_aside.is_not(None), WorkloadRow.set_aside.is_not(None))
    return measures.where(WorkloadRow.machine_id == machine_id, aside)
