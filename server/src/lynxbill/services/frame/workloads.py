"""Workloads and their measures: describe one, correct one."""

from collections.abc import Iterable
from dataclasses import replace
from uuid import UUID

from sqlalchemy import Select, func, select
from sqlalchemy.orm import Session

from lynxbill.core.heat.readoff import role_read
from lynxbill.core.record.plan import MOST_MEASURES
from lynxbill.core.record.workload import Workload
from lynxbill.core.terms.errors import BadValue, Clash, Frozen
from lynxbill.core.terms.measure import Measure, derived_unit, points_at_another, usual_margin
from lynxbill.services.base.act import Act
from lynxbill.services.base.tallies import remake_sheets
from lynxbill.services.base.transaction import Sessions, check_version, edit, refuse_foreign, transaction
from lynxbill.store import rows
from lynxbill.store.database import announce
from lynxbill.store.edits import Edit, edits_of, keep_edits
from lynxbill.store.evidence import has_runs_of
from lynxbill.store.snapshot import find_machine, set_aside_on
from lynxbill.store.tables.evidence import ReadingRow, RunRow, SittingRow
from lynxbill.store.tables.machine import MeasureRow, PlannedMeasureRow, PlanRow, WorkloadRow
from lynxbill.store.tables.swap import SwapRow

# What a measure is stays once it has a reading; how finely it is read, once a build after a swap has one.
_FIXED = (
    *("unit", "scale", "kind", "better", "of", "workload_id"),
    *("derived_from", "per_measure", "per_parameter", "needs"),
    *("trace_figure", "trace_of", "trace_by", "trace_minute"),
)


def save_workload(
    sessions: Sessions,
    act: Act,
    machine_id: UUID,
    workload: Workload,
    measures: tuple[Measure, ...],
    version: int | None,
) -> None:
    """Create a workload with its measures, or edit it; new measures join the open plan."""
    _check_parts(measures)
    _check_trace_figures(measures)
    measures = tuple(_derived(number, measure, workload, measures) for number, measure in enumerate(measures))
    with transaction(sessions) as session:
        find_machine(session, machine_id, lock=True)
        row = session.get(WorkloadRow, UUID(workload.id))
        if row is None:
            count = select(func.count()).select_from(WorkloadRow).where(WorkloadRow.machine_id == machine_id)
            row = rows.workload_row(workload, machine_id, (session.scalar(count) or 0) + 1)
            session.add(row)
            session.flush()
            changed = True
        else:
            refuse_foreign(row.machine_id, machine_id)
            _check_frozen(session, row, workload)
            changed = edit(row, version, rows.workload_fields(workload))
        edits = _save_measures(session, row, measures)
        of = select(func.count(MeasureRow.id)).join(WorkloadRow, WorkloadRow.id == MeasureRow.workload_id)
        if (session.scalar(of.where(WorkloadRow.machine_id == machine_id)) or 0) > MOST_MEASURES:
            raise Clash(f"This machine has {MOST_MEASURES} measures, and more are not kept.", field="measures")
        if edits is not None and not changed:
            check_version(row, version, {"measures": ", ".join(measure.name for measure in measures)})
            row.version += 1
        session.flush()
        plan_new_measures(session, machine_id, measures)
        announce(session, machine_id, "workload", workload.id)
        session.flush()
        if has_runs_of(session, machine_id, row.id):
            keep_edits(session, machine_id, act.by, act.at, "", edits or [])
            # What is kept of its runs may rest on what was changed of its measures, such as their step.
            remake_sheets(session, machine_id, workload.name)


def _check_parts(measures: tuple[Measure, ...]) -> None:
    known = {measure.id: measure for measure in measures}
    for number, measure in enumerate(measures):
        if measure.part_of is None:
            continue
        whole = known.get(measure.part_of)
        if whole is None or whole is measure or whole.part_of is not None:
            raise BadValue(
                f"“{measure.name}” must be part of another measure of this task that is itself no part.",
                field=f"measures.{number}.part_of",
            )
        if whole.combined_by and (whole.unit, whole.scale) != (measure.unit, measure.scale):
            raise BadValue(
                f"“{whole.name}” is made from its parts, so “{measure.name}” must be in the same unit.",
                field=f"measures.{number}.unit",
            )


def _check_trace_figures(measures: tuple[Measure, ...]) -> None:
    for number, measure in enumerate(measures):
        try:
            role_read(measure)
        except BadValue as refusal:
            refusal.field = f"measures.{number}.trace_figure"
            raise


def _derived(number: int, measure: Measure, workload: Workload, measures: tuple[Measure, ...]) -> Measure:
    """A derived measure with the unit that follows from what it is made from; refuses what it can't be made from."""
    if measure.derived_from is None:
        return measure
    if measure.needs is not None:
        return _requirement(number, measure, measures)
    read = {other.id: other for other in measures if other.derived_from is None and other.scale == "ratio"}
    of = read.get(measure.derived_from)
    if of is None or measure.scale != "ratio" or measure.combined_by:
        raise BadValue(
            f"“{measure.name}” must be made from a time, rate or score that is read in this task.",
            field=f"measures.{number}.derived_from",
        )
    if measure.per_measure is not None and (per := read.get(measure.per_measure)) and per is not of:
        return replace(measure, unit=derived_unit(of, per))
    size = workload.parameters.get(measure.per_parameter or "")
    if measure.per_parameter and isinstance(size, (int, float)) and not isinstance(size, bool) and size > 0:
        return replace(measure, unit=derived_unit(of, measure.per_parameter))
    raise BadValue(
        f"Say by what “{measure.name}” is divided: another figure of this task, or a number above zero that is "
        "held the same in every run.",
        field=f"measures.{number}.{'per_measure' if measure.per_measure else 'per_parameter'}",
    )


def _requirement(number: int, measure: Measure, measures: tuple[Measure, ...]) -> Measure:
    of = next((other for other in measures if other.id == measure.derived_from), None)
    if of is None or of.derived_from is not None or of.scale == "outcome":
        raise BadValue(
            f"“{measure.name}” must be held against a figure that is read in this task.",
            field=f"measures.{number}.derived_from",
        )
    if measure.scale != "outcome" or measure.of is not None or measure.combined_by:
        raise BadValue(
            f"“{measure.name}” is met or not met, so it must be an outcome of one thing.",
            field=f"measures.{number}.scale",
        )
    return measure


def _check_frozen(session: Session, row: WorkloadRow, workload: Workload) -> None:
    """What was run under one version stays that version: other settings are another version."""
    differs = dict(row.parameters) != dict(workload.parameters) or (row.target or None) != (workload.target or None)
    if not differs or row.workload_version != workload.workload_version:
        return
    if session.scalar(select(RunRow.id).where(RunRow.workload_id == row.id).limit(1)):
        raise Frozen(
            f"“{row.name}” has runs under version {row.workload_version}. Other settings or another target "
            "are another version: give it one; the two are never compared.",
            field="workload_version",
        )


def _save_measures(session: Session, workload: WorkloadRow, measures: tuple[Measure, ...]) -> list[Edit] | None:
    """Save measures, and name what was edited of those that were there; None where nothing changed."""
    # A part points at its whole, a derived one at what it is made from: these stand first.
    ordered = sorted(enumerate(measures, start=1), key=lambda item: points_at_another(item[1]))
    edits, is_changed = list[Edit](), False
    for number, measure in ordered:
        edited = _save_measure(session, workload, measure, number)
        is_changed = is_changed or edited is not None
        edits += edited or []
        session.flush()
    return edits if is_changed else None


def _read_after(measure_id: UUID) -> Select[UUID]:
    """Ask for a reading of a measure on a build that a swap led to."""
    of_sitting = select(ReadingRow.run_id).join(SittingRow, SittingRow.id == ReadingRow.sitting_id)
    after = of_sitting.join(SwapRow, SwapRow.after_id == SittingRow.build_id)
    return after.where(ReadingRow.measure_id == measure_id).limit(1)


def _save_measure(session: Session, workload: WorkloadRow, measure: Measure, position: int) -> list[Edit] | None:
    fresh = rows.measure_row(measure, workload.id, position)
    row = session.get(MeasureRow, UUID(measure.id))
    if row is None:
        session.add(fresh)
        return []
    owner = session.get_one(WorkloadRow, row.workload_id).machine_id
    refuse_foreign(owner, workload.machine_id, f"measures.{position - 1}.id")
    changed = [name for name in _FIXED if getattr(row, name) != getattr(fresh, name)]
    if changed and session.scalar(select(ReadingRow.run_id).where(ReadingRow.measure_id == row.id).limit(1)):
        raise BadValue(
            f"“{row.name}” has readings, so its {changed[0].replace('_', ' ')} can't change. Add another measure.",
            field=f"measures.{position - 1}.{changed[0]}",
        )
    if row.step != fresh.step and session.scalar(_read_after(row.id)):
        raise BadValue(
            f"“{row.name}” has readings after a swap, so its step can't change any more: a verdict rests on it.",
            field=f"measures.{position - 1}.step",
        )
    names = (*_FIXED, "name", "step", "levels", "part_of", "combined_by", "rated_as", "position")
    old, new = ({name: getattr(each, name) for name in names} for each in (row, fresh))
    differing = [name for name in names if old[name] != new[name]]
    for name in differing:
        setattr(row, name, new[name])
    if "scale" in differing:
        # A margin in percent is none in kelvin.
        for planned in session.scalars(select(PlannedMeasureRow).where(PlannedMeasureRow.measure_id == row.id)):
            planned.matters_from, planned.hoped_for = usual_margin(measure.scale, measure.kind), None
    return edits_of(old, new, measure_id=row.id) or None


def plan_new_measures(session: Session, machine_id: UUID, measures: Iterable[Measure]) -> None:
    """The first measure of the open plan is its claim; what comes later is watched until somebody says otherwise."""
    plan = session.scalar(select(PlanRow).where(PlanRow.machine_id == machine_id, PlanRow.swap_id.is_(None)))
    if plan is None:
        return
    planned = {row.measure_id for row in plan.measures}
    aside = set(session.scalars(set_aside_on(machine_id)))
    fresh = [measure for measure in measures if UUID(measure.id) not in planned | aside]
    for measure in fresh:
        is_claim = not points_at_another(measure) and all(row.role != "claim" for row in plan.measures)
        plan.measures.append(
            PlannedMeasureRow(
                measure_id=UUID(measure.id),
                role="claim" if is_claim else "watch",
                matters_from=usual_margin(measure.scale, measure.kind),
                hoped_for=None,
                weight=None,
            )
        )
        if is_claim:
            plan.headline_id = plan.headline_id or UUID(measure.id)
    if fresh:
        plan.version += 1
