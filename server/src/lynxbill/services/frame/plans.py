"""Plans: the open one, by which the next swap will be judged, and those of swaps already planned."""

from collections.abc import Collection, Iterator
from dataclasses import asdict, fields, replace
from datetime import datetime
from uuid import UUID

from sqlalchemy import select
from sqlalchemy.orm import Session

from lynxbill.core.plan.templates import apply_template
from lynxbill.core.record.frame import Frame
from lynxbill.core.record.plan import Plan
from lynxbill.core.record.swap import MarginEdit, Swap
from lynxbill.core.record.vocabulary import CONDITIONS, check_figures
from lynxbill.core.terms.errors import BadValue, Missing, PlanFixed
from lynxbill.services.base.act import Act
from lynxbill.services.base.transaction import Sessions, check_version, reading, transaction
from lynxbill.services.frame.templates import find_template
from lynxbill.store import rows
from lynxbill.store.database import announce
from lynxbill.store.evidence import was_ever_read
from lynxbill.store.kept import read_case, read_snapshot
from lynxbill.store.snapshot import find_machine
from lynxbill.store.tables.machine import PlanRow


def save_plan(sessions: Sessions, machine_id: UUID, plan: Plan, version: int | None) -> None:
    """Replace the open plan; the plans of swaps already made stay as they were."""
    check_figures(plan.conditions, CONDITIONS, "conditions")
    with transaction(sessions) as session:
        find_machine(session, machine_id, lock=True)
        snapshot = read_snapshot(session, machine_id)
        _check_measures(snapshot.frame, snapshot.open_plan, plan)
        _replace(session, machine_id, open_plan(session, machine_id), snapshot.open_plan, plan, version)


def use_template(sessions: Sessions, machine_id: UUID, template_id: str, version: int | None) -> None:
    """Lay a template over the open plan."""
    with transaction(sessions) as session:
        find_machine(session, machine_id, lock=True)
        snapshot = read_snapshot(session, machine_id)
        plan = apply_template(snapshot.frame, snapshot.open_plan, find_template(session, template_id))
        _replace(session, machine_id, open_plan(session, machine_id), snapshot.open_plan, plan, version)


def with_template(sessions: Sessions, machine_id: UUID, template_id: str) -> Plan:
    """The open plan as a template laid over it would leave it; nothing is changed."""
    with reading(sessions) as session:
        snapshot = read_snapshot(session, machine_id)
        return apply_template(snapshot.frame, snapshot.open_plan, find_template(session, template_id))


def save_swap_plan(
    sessions: Sessions, act: Act, machine_id: UUID, swap_id: UUID, plan: Plan, reason: str, version: int | None
) -> None:
    """
    Edit the plan of a swap; once a reading of the build after was ever written, only margins and hopes may change.

    Every change of a margin or a hope needs a reason and is kept with its date, late ones marked.
    """
    check_figures(plan.conditions, CONDITIONS, "conditions")
    with transaction(sessions) as session:
        find_machine(session, machine_id, lock=True)
        case = read_case(session, machine_id)
        swap = next((known for known in case.swaps if known.id == str(swap_id)), None)
        if swap is None:
            raise Missing("This machine has no such swap.", field="swap")
        _check_measures(case, swap.plan, plan)
        late = was_ever_read(session, machine_id, UUID(swap.after))
        if late:
            _check_fixed(swap.plan, plan)
        edits = list(_margin_edits(act.at, swap, plan, reason, late))
        if edits and not reason:
            raise BadValue("Say why the margin or the hope changes now; the report shows it.", field="reason")
        row = session.scalars(select(PlanRow).where(PlanRow.swap_id == swap_id)).one()
        _replace(session, machine_id, row, swap.plan, plan, version)
        for edit in edits:
            fresh = rows.margin_edit_row(edit)
            fresh.swap_id = swap_id
            session.add(fresh)


def open_plan(session: Session, machine_id: UUID) -> PlanRow:
    """Find the plan for the next swap; every machine has one."""
    return session.scalars(select(PlanRow).where(PlanRow.machine_id == machine_id, PlanRow.swap_id.is_(None))).one()


def take_out_of_plan(session: Session, machine_id: UUID, measures: Collection[UUID]) -> None:
    """Take measures out of the plan for the next swap; those of swaps already planned keep them."""
    plan = open_plan(session, machine_id)
    if any(planned.measure_id in measures for planned in plan.measures):
        plan.measures = [planned for planned in plan.measures if planned.measure_id not in measures]
        plan.headline_id = None if plan.headline_id in measures else plan.headline_id
        plan.version += 1
        session.flush()


def _replace(session: Session, machine_id: UUID, row: PlanRow, old: Plan, new: Plan, version: int | None) -> None:
    if old == new:
        return
    theirs = asdict(old)
    changed = {
        field.name: theirs[field.name]
        for field in fields(Plan)
        if getattr(old, field.name) != getattr(new, field.name)
    }
    check_version(row, version, changed)
    rows.fill_plan(row, new)
    row.version += 1
    announce(session, machine_id, "plan", row.id)


def _check_measures(frame: Frame, old: Plan, plan: Plan) -> None:
    names, aside = {measure.id: measure.name for measure in frame.measures}, frame.aside
    for measure in plan.measures:
        if measure not in names:
            raise BadValue(f"The plan names a measure that this machine does not have: {measure}.", field="measures")
        if measure in aside and measure not in old.measures:
            raise BadValue(
                f"“{names[measure]}” was set aside, “{aside[measure]}”: take it back first.", field="measures"
            )
    if plan.headline is not None and plan.headline not in plan.measures:
        raise BadValue("The headline must be one of the planned measures.", field="headline")
    builds: set[str] = {build.id for build in frame.builds}
    for build in plan.borrow_spread_from:
        if build not in builds:
            raise BadValue(
                f"The plan borrows from a build that this machine does not have: {build}.", field="borrow_spread_from"
            )
    if plan.judge_whole is not None and plan.judge_whole not in builds:
        raise BadValue(
            f"The plan judges a build that this machine does not have: {plan.judge_whole}.", field="judge_whole"
        )


def _check_fixed(old: Plan, new: Plan) -> None:
    """Refuse what may not be chosen after looking: all but margins and hopes."""
    if set(old.measures) != set(new.measures):
        raise PlanFixed(
            "The build after was read: measures can't join or leave this plan any more.", field="measures"
        )
    kept = {
        key: replace(planned, matters_from=old.measures[key].matters_from, hoped_for=old.measures[key].hoped_for)
        for key, planned in new.measures.items()
    }
    rest = replace(new, measures=kept)
    for field in fields(Plan):
        if getattr(rest, field.name) != getattr(old, field.name):
            name = field.name.replace("_", " ")
            raise PlanFixed(
                f"The build after was read, so the plan's {name} can't change any more; margins and hopes still can, "
                "with a reason.",
                field=field.name,
            )


def _margin_edits(at: datetime, swap: Swap, plan: Plan, reason: str, late: bool) -> Iterator[MarginEdit]:
    for measure, new in plan.measures.items():
        old = swap.plan.measures.get(measure)
        if old is None:
            continue
        if old.matters_from != new.matters_from:
            yield MarginEdit(at, measure, "matters_from", old.matters_from, new.matters_from, reason, late)
        if old.hoped_for != new.hoped_for:
            yield MarginEdit(at, measure, "hoped_for", old.hoped_for, new.hoped_for, reason, late)
