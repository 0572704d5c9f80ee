"""A new job, begun with what is to be changed: machine, first build, what is timed and the plan, all in one save."""

from dataclasses import dataclass, replace
from uuid import UUID

from lynxbill.core.plan.templates import quick_look, start_plan
from lynxbill.core.record.build import Build
from lynxbill.core.record.frame import Machine
from lynxbill.core.record.plan import Change, Plan, PlannedMeasure
from lynxbill.core.record.workload import Workload
from lynxbill.core.terms.errors import BadQuestion, BadValue
from lynxbill.core.terms.measure import Measure, Role, usual_margin
from lynxbill.services.base.transaction import Sessions, transaction
from lynxbill.services.frame.builds import add_build
from lynxbill.store import rows
from lynxbill.store.database import announce
from lynxbill.store.tables.machine import BuildRow, MachineRow


@dataclass(frozen=True, slots=True)
class Timed:
    """One job that is to be timed: a workload with a single measure, and what that is for."""

    workload: Workload
    measure: Measure
    role: Role


@dataclass(frozen=True, slots=True)
class Beginning:
    """
    What a new job is begun with; counts and margins that are None follow from the kind of change.

    `quick`: one sitting a side, three runs, nothing else asked.
    """

    change: Change
    quick: bool = False
    sittings_a_side: int | None = None
    runs_a_sitting: int | None = None
    matters_from: float | None = None
    hoped_for: float | None = None


def begin_job(
    sessions: Sessions, machine: Machine, build: Build, timed: tuple[Timed, ...], beginning: Beginning
) -> None:
    """Describe a machine by what is to be changed on it; the same sent twice is done once."""
    if len({one.workload.name for one in timed}) < len(timed):
        raise BadValue("Two tasks have the same name; tell them apart.", field="timed")
    with transaction(sessions) as session:
        if session.get(MachineRow, UUID(machine.id)) is not None:
            if session.get(BuildRow, UUID(build.id)) is not None:
                return
            raise BadQuestion("This machine is there already: plan its next swap instead.")
        session.add(rows.machine_row(machine))
        session.flush()
        add_build(session, UUID(machine.id), build, position=1)
        for position, one in enumerate(timed, start=1):
            session.add(rows.workload_row(one.workload, UUID(machine.id), position))
            session.flush()
            session.add(rows.measure_row(one.measure, UUID(one.workload.id), 1))
            session.flush()
        session.add(rows.plan_row(_plan_of(timed, beginning), UUID(machine.id), None))
        announce(session, machine.id, "machine", machine.id)


def _plan_of(timed: tuple[Timed, ...], beginning: Beginning) -> Plan:
    measures = {one.measure.id: _planned(one, beginning) for one in timed}
    headline = next((one.measure.id for one in timed if one.role == "claim"), None)
    plan = start_plan(beginning.change, measures, headline)
    sittings = beginning.sittings_a_side or plan.sittings_a_side or 1
    plan = replace(
        plan,
        sittings_a_side=sittings,
        at_most=2 * sittings if plan.at_most is not None and sittings > 1 else None,
        runs_a_sitting=beginning.runs_a_sitting or plan.runs_a_sitting,
    )
    return quick_look(plan) if beginning.quick else plan


def _planned(one: Timed, beginning: Beginning) -> PlannedMeasure:
    usual = PlannedMeasure(one.role, usual_margin(one.measure.scale, one.measure.kind))
    if one.role != "claim":
        return usual
    matters = beginning.matters_from if beginning.matters_from is not None else usual.matters_from
    return replace(usual, matters_from=matters, hoped_for=beginning.hoped_for)
