"""The frame of one machine, read in one go: what it is and what is to be done with it, without its runs."""

from collections.abc import Mapping
from dataclasses import dataclass
from typing import get_args
from uuid import UUID

from sqlalchemy import Uuid, bindparam, select
from sqlalchemy.orm import Session, selectinload

from lynxbill.core.case import (
    BenchNote,
    Build,
    Candidate,
    Explanation,
    FixedPair,
    Frame,
    Machine,
    MarginEdit,
    Part,
    PartRole,
    Plan,
    PlannedMeasure,
    Recheck,
    Recognition,
    Sitting,
    Start,
    Step,
    Swap,
    Workload,
)
from lynxbill.core.errors import Missing
from lynxbill.core.measure import Measure
from lynxbill.core.money import CostLine
from lynxbill.store.copies import read_plan_copy
from lynxbill.store.tables import (
    BuildPartRow,
    BuildRow,
    CandidateRow,
    CostRow,
    MachineRow,
    MeasureRow,
    PartRow,
    PlanRow,
    RecheckRow,
    SittingRow,
    SwapRow,
    Versioned,
    WorkloadRow,
)

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
    plan_of = {plan.swap_id: plan for plan in plans}
    open_plan = plan_of.get(None)
    frame = Frame(
        machine=_machine(machine),
        measures=tuple(_measure(row, names[row.workload_id]) for row in measures),
        builds=tuple(
            Build(str(row.id), row.letter, row.label, parts.get(row.id, ()), dict(row.settings), row.wear)
            for row in builds
        ),
        sittings=tuple(_sitting(row) for row in sittings),
        swaps=tuple(_swap(row, plan_of.get(row.id)) for row in swaps),
        open_plan=_plan(open_plan),
        workloads=tuple(_workload(row) for row in workloads),
        candidates=tuple(_candidate(row) for row in candidates),
        rechecks=tuple(_recheck(row) for row in rechecks),
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
        part = Part(str(row.id), row.role, row.label, dict(row.rated))
        parts[build_id] = (*parts.get(build_id, ()), part)
    return parts


def _machine(row: MachineRow) -> Machine:
    return Machine(
        id=str(row.id),
        name=row.name,
        currency=row.currency,
        labour_rate=row.labour_rate,
        owner=row.owner,
        question=row.question,
        settles=row.settles,
        asked_by=row.asked_by,
        use=row.use,
        limits=dict(row.limits),
        decimal_mark=row.decimal_mark,
        time_zone=row.time_zone,
    )


def _measure(row: MeasureRow, workload: str) -> Measure:
    return Measure(
        id=str(row.id),
        name=row.name,
        workload=workload,
        unit=row.unit,
        scale=row.scale,
        kind=row.kind,
        better=row.better,
        step=row.step,
        levels=tuple(row.levels),
        part_of=str(row.part_of) if row.part_of else None,
        combined_by=row.combined_by,
        rated_as=row.rated_as,
    )


def _workload(row: WorkloadRow) -> Workload:
    return Workload(
        id=str(row.id),
        name=row.name,
        workload_version=row.workload_version,
        parameters=dict(row.parameters),
        loads=tuple(role for role in get_args(PartRole) if role in row.loads),
        target=row.target,
        card=row.card,
        minutes_a_run=row.minutes_a_run,
    )


def _candidate(row: CandidateRow) -> Candidate:
    return Candidate(
        id=str(row.id),
        role=row.role,
        label=row.label,
        rated=dict(row.rated),
        price=row.price,
        basis=row.basis,
        prerequisites=row.prerequisites,
        expected_gain=row.expected_gain,
        expected_from=row.expected_from,
        fit_said=row.fit_said,
        fit_source=row.fit_source,
        swap=str(row.swap_id) if row.swap_id else None,
        worked=row.worked,
    )


def _recheck(row: RecheckRow) -> Recheck:
    return Recheck(str(row.id), str(row.build_id), row.due_on, read_plan_copy(row.plan), row.note, row.done)


def _sitting(row: SittingRow) -> Sitting:
    return Sitting(
        id=str(row.id),
        build_id=str(row.build_id),
        purpose=row.purpose,
        started_at=row.started_at,
        ambient_c=row.ambient_c,
        conditions=dict(row.conditions),
    )


def _swap(row: SwapRow, plan: PlanRow | None) -> Swap:
    return Swap(
        id=str(row.id),
        before=str(row.before_id),
        after=str(row.after_id),
        label=row.label,
        plan=_plan(plan),
        side_changes=tuple(row.side_changes),
        verdict_shown_for={measure: tuple(sittings) for measure, sittings in row.verdict_shown_for.items()},
        costs=tuple(_cost(cost) for cost in row.costs),
        state=row.state,
        declares=tuple(row.declares),
        opened_at=row.opened_at,
        closed_at=row.closed_at,
        gate_reason=row.gate_reason,
        gate_missing=tuple(row.gate_missing),
        recognition_skipped=row.recognition_skipped,
        steps=tuple(Step(str(s.id), s.stage, s.text, s.done_at) for s in row.steps),
        recognitions=tuple(
            Recognition(str(r.id), r.what, r.expected, r.seen, r.result, r.remark) for r in row.recognitions
        ),
        starts=tuple(Start(str(s.id), s.at, s.booted, s.note, s.rework_min) for s in row.starts),
        notes=tuple(BenchNote(str(n.id), n.at, n.text, n.picture_type is not None) for n in row.notes),
        explanations=tuple(Explanation(str(e.id), e.text, e.state, e.test, e.evidence) for e in row.explanations),
        margin_edits=tuple(
            MarginEdit(e.at, str(e.measure_id), e.field, e.old, e.new, e.reason, e.late) for e in row.margin_edits
        ),
    )


def _cost(row: CostRow) -> CostLine:
    return CostLine(
        kind=row.kind,
        label=row.label,
        amount=row.amount,
        currency=row.currency,
        low=row.low,
        high=row.high,
        rate=row.rate,
        rate_date=row.rate_date,
    )


def _plan(row: PlanRow | None) -> Plan:
    if row is None:
        return Plan()
    return Plan(
        design=row.design,
        pair_by=row.pair_by,
        sittings_a_side=row.sittings_a_side,
        runs_a_sitting=row.runs_a_sitting,
        headline=str(row.headline_id) if row.headline_id else None,
        measures={
            str(planned.measure_id): PlannedMeasure(
                role=planned.role,
                matters_from=planned.matters_from,
                hoped_for=planned.hoped_for,
                weight=planned.weight,
                statistic=planned.statistic,
            )
            for planned in row.measures
        },
        pairs=tuple(FixedPair(*pair) for pair in row.pairs),
        borrow_spread_from=tuple(str(build) for build in row.borrow_spread_from),
        change=row.change,
        order=row.order,
        conditions=dict(row.conditions),
        warm_ups=row.warm_ups,
        rest_min=row.rest_min,
        soak_min=row.soak_min,
    )
