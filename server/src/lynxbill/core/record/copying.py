"""A job done once, laid out anew for the next PC: everything but what was measured and noted on the way."""

from dataclasses import replace

from lynxbill.core.record.build import Build
from lynxbill.core.record.frame import Case, Frame
from lynxbill.core.record.ids import MachineId
from lynxbill.core.record.plan import Plan
from lynxbill.core.record.swap import Swap
from lynxbill.core.terms.errors import Missing


def copy_job(frame: Frame, machine: MachineId, name: str, swap_id: str | None = None) -> Case:
    """
    Lay out a job for another machine: parts, jobs to be timed, plan, and the swap with its checklist and costs.

    Args:
        machine: the id of the other machine.
        swap_id: which swap is to be done again; None: the newest, and none where there is no swap.
    Returns: a case under its old ids without sittings and runs, whose swap is planned.
    Raises:
        Missing: a swap that the machine does not have.
    """
    swap = next((known for known in reversed(frame.swaps) if swap_id in (None, known.id)), None)
    if swap is None and swap_id is not None:
        raise Missing("This machine has no such swap.", field="swap")
    other = replace(
        frame.machine, id=machine, name=name, owner="", question="", settles="", asked_by="", set_aside=None
    )
    plan = _fresh_plan(frame, swap.plan if swap is not None else frame.open_plan or Plan())
    fitted = frame.fitted
    builds = _builds(frame.build(swap.before), frame.build(swap.after)) if swap else (fitted,) if fitted else ()
    return Case(
        machine=other,
        measures=frame.measures,
        workloads=frame.workloads,
        builds=builds,
        sittings=(),
        runs=(),
        swaps=(_planned(swap, plan),) if swap is not None else (),
        open_plan=plan,
    )


def _builds(before: Build, after: Build) -> tuple[Build, ...]:
    return replace(before, letter="A", wear=None), replace(after, letter="B", wear=None)


def _fresh_plan(frame: Frame, plan: Plan) -> Plan:
    """What names runs or builds of the machine it was made for stays there, and so does what was set aside."""
    aside = frame.aside
    return replace(
        plan,
        measures={key: planned for key, planned in plan.measures.items() if key not in aside},
        headline=None if plan.headline in aside else plan.headline,
        pairs=(),
        borrow_spread_from=(),
        judge_whole=None,
    )


def _planned(swap: Swap, plan: Plan) -> Swap:
    return Swap(
        id=swap.id,
        before=swap.before,
        after=swap.after,
        label=swap.label,
        plan=plan,
        side_changes=swap.side_changes,
        costs=tuple(replace(line, on=None, split_by=None, shares={}) for line in swap.costs),
        state="planned",
        declares=swap.declares,
        steps=tuple(replace(step, done_at=None) for step in swap.steps),
        recognitions=tuple(replace(line, seen="", result=None, remark="") for line in swap.recognitions),
    )
