"""Rows into the core's nouns: members of the same name are carried over, the others are named here."""

from collections.abc import Sequence
from dataclasses import fields
from decimal import Decimal
from functools import cache
from typing import Any, TypeVar, cast, get_args
from uuid import UUID

from lynxbill.core.record.build import Build, Candidate, Part, PartRole
from lynxbill.core.record.frame import Machine
from lynxbill.core.record.ledger_entries import Showing
from lynxbill.core.record.plan import FixedPair, Plan, PlannedMeasure, Recheck
from lynxbill.core.record.run import SetAside, Sitting, Was
from lynxbill.core.record.swap import Attempt, BenchNote, Explanation, MarginEdit, Recognition, Start, Step, Swap
from lynxbill.core.record.workload import Workload
from lynxbill.core.terms.measure import Measure
from lynxbill.core.terms.money import CostLine, Running
from lynxbill.store.copies import read_plan_copy
from lynxbill.store.tables.evidence import SittingRow
from lynxbill.store.tables.machine import (
    BuildRow,
    CandidateRow,
    MachineRow,
    MeasureRow,
    PartRow,
    PlanRow,
    RecheckRow,
    WorkloadRow,
)
from lynxbill.store.tables.swap import CostRow, ShowingRow, SwapRow

Noun = TypeVar("Noun")


def machine_of(row: MachineRow) -> Machine:
    return _carry(Machine, row)


def measure_of(row: MeasureRow, workload: str) -> Measure:
    return _carry(Measure, row, workload=workload)


def workload_of(row: WorkloadRow) -> Workload:
    return _carry(Workload, row, loads=tuple(role for role in get_args(PartRole) if role in row.loads))


def part_of(row: PartRow) -> Part:
    return _carry(Part, row)


def build_of(row: BuildRow, parts: tuple[Part, ...]) -> Build:
    return _carry(Build, row, parts=parts, read={role: tuple(texts) for role, texts in row.read.items()})


def candidate_of(row: CandidateRow) -> Candidate:
    return _carry(Candidate, row, swap=_plain(row.swap_id), ticked=tuple(row.ticked))


def recheck_of(row: RecheckRow) -> Recheck:
    return _carry(Recheck, row, build=str(row.build_id), plan=read_plan_copy(row.plan))


def sitting_of(row: SittingRow, was: tuple[Was, ...]) -> Sitting:
    reason, at = row.set_aside_reason, row.set_aside_at
    aside = SetAside(reason, at, row.set_aside_over) if reason is not None and at is not None else None
    return _carry(Sitting, row, set_aside=aside, was=was)


def showing_of(row: ShowingRow) -> Showing:
    return _carry(Showing, row, measure=str(row.measure_id))


def swap_of(row: SwapRow, plan: PlanRow | None, shown: tuple[Showing, ...]) -> Swap:
    return _carry(
        Swap,
        row,
        before=str(row.before_id),
        after=str(row.after_id),
        plan=plan_of(plan),
        shown=shown if row.history_known else None,
        attempts=_carry_all(Attempt, row.attempts),
        costs=tuple(map(cost_of, row.costs)),
        steps=_carry_all(Step, row.steps),
        recognitions=_carry_all(Recognition, row.recognitions),
        starts=_carry_all(Start, row.starts),
        notes=tuple(_carry(BenchNote, note, picture=note.picture_type is not None) for note in row.notes),
        explanations=_carry_all(Explanation, row.explanations),
        margin_edits=tuple(_carry(MarginEdit, edit, measure=str(edit.measure_id)) for edit in row.margin_edits),
    )


def cost_of(row: CostRow) -> CostLine:
    running = Running(**row.running) if row.running is not None else None
    return _carry(CostLine, row, running=running, shares={key: Decimal(value) for key, value in row.shares.items()})


def plan_of(row: PlanRow | None) -> Plan:
    if row is None:
        return Plan()
    return _carry(
        Plan,
        row,
        headline=_plain(row.headline_id),
        measures={str(planned.measure_id): _carry(PlannedMeasure, planned) for planned in row.measures},
        pairs=tuple(FixedPair(*pair) for pair in row.pairs),
    )


def _carry(noun: type[Noun], row: object, **named: Any) -> Noun:
    carried = {name: _plain(getattr(row, name)) for name in _members(cast(Any, noun)) if name not in named}
    return noun(**carried, **named)


def _carry_all(noun: type[Noun], rows: Sequence[object]) -> tuple[Noun, ...]:
    return tuple(_carry(noun, row) for row in rows)


def _plain(value: Any) -> Any:
    """Ids are texts in the core, lists can't be changed there, and what is kept as JSON belongs to its row."""
    match value:
        case UUID():
            return str(value)
        case list():
            return tuple(_plain(each) for each in value)
        case dict():
            return dict(value)
    return value


@cache
def _members(noun: Any) -> tuple[str, ...]:
    return tuple(member.name for member in fields(noun) if member.init)
