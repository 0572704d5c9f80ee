"""Swaps: plan one, which makes the next build or goes back to an earlier one; keep its account."""

from collections.abc import Iterable
from dataclasses import replace
from uuid import UUID, uuid4

from sqlalchemy import delete, func, select
from sqlalchemy.orm import Session

from lynxbill.core.change.difference import find_differences, with_fresh_paste
from lynxbill.core.change.recognition import expect_of
from lynxbill.core.plan.agreement import first_of_chain
from lynxbill.core.plan.templates import Steps, checklist_of
from lynxbill.core.record.build import Build
from lynxbill.core.record.frame import Frame
from lynxbill.core.record.swap import Recognition, Step, Swap
from lynxbill.core.terms.errors import BadQuestion, Clash, Missing, Refusal, SameBuild, Several
from lynxbill.core.terms.money import CostLine, book, measures_of
from lynxbill.services.base.transaction import Sessions, check_version, edit, refuse_foreign, transaction
from lynxbill.services.frame.builds import add_build, check_build, fit_parts
from lynxbill.services.frame.plans import open_plan
from lynxbill.services.frame.templates import find_template
from lynxbill.store import rows
from lynxbill.store.database import announce
from lynxbill.store.evidence import is_sealed
from lynxbill.store.kept import read_snapshot
from lynxbill.store.snapshot import find_machine
from lynxbill.store.tables.evidence import SittingRow
from lynxbill.store.tables.machine import BuildPartRow, BuildRow, CandidateRow, MachineRow, PlanRow
from lynxbill.store.tables.swap import SwapRow


def save_swap(
    sessions: Sessions,
    machine_id: UUID,
    swap: Swap,
    after: Build | None,
    template: str | None,
    version: int | None,
) -> None:
    """
    Plan a swap with the build that it leads to, or edit its label, side changes, declarations and cost lines.

    Without a build after it leads to one that is there: back to an earlier state. `template` names whose checklist
    it takes, else it is made from what really changes.
    """
    if after is not None:
        check_build(after, "after_build.")
    with transaction(sessions) as session:
        machine = find_machine(session, machine_id, lock=True)
        _check_costs(session, machine, swap)
        row = session.get(SwapRow, UUID(swap.id))
        if row is None:
            _add_swap(session, machine, swap, after, template)
        else:
            refuse_foreign(row.machine_id, machine_id)
            _edit_swap(session, machine_id, row, swap, version)
        announce(session, machine_id, "swap", swap.id)


def remove_swap(sessions: Sessions, machine_id: UUID, swap_id: UUID) -> None:
    """Take a planned swap back, with the build that only it leads to; what was begun stays for good."""
    with transaction(sessions) as session:
        find_machine(session, machine_id, lock=True)
        row = find_swap(session, machine_id, swap_id)
        if row.state != "planned":
            raise Clash("This swap was begun: it can't be taken back. Record another one that undoes it.")
        others = select(SwapRow.id).where(
            SwapRow.id != swap_id, (SwapRow.before_id == row.after_id) | (SwapRow.after_id == row.after_id)
        )
        measured = select(SittingRow.id).where(SittingRow.build_id == row.after_id)
        first = select(BuildRow.id).where(BuildRow.id == row.after_id, BuildRow.position == 1)
        keep = any(session.scalar(query.limit(1)) for query in (others, measured, first))
        for candidate in session.scalars(select(CandidateRow).where(CandidateRow.swap_id == swap_id)):
            candidate.swap_id = None
        for plan in session.scalars(select(PlanRow).where(PlanRow.swap_id == swap_id)):
            session.delete(plan)
        session.flush()
        session.delete(row)
        session.flush()
        if not keep:
            session.execute(delete(BuildPartRow).where(BuildPartRow.build_id == row.after_id))
            session.execute(delete(BuildRow).where(BuildRow.id == row.after_id))
        announce(session, machine_id, "swap", swap_id)


def find_swap(session: Session, machine_id: UUID, swap_id: UUID) -> SwapRow:
    """Find a machine's swap, or refuse."""
    row = session.get(SwapRow, swap_id)
    if row is None or row.machine_id != machine_id:
        raise Missing("This machine has no such swap.", field="swap")
    return row


def fresh_steps(steps: Steps) -> tuple[Step, ...]:
    """A checklist as open steps."""
    return tuple(Step(str(uuid4()), stage, text) for stage, text in steps)


def fresh_recognitions(before: Build, after: Build) -> tuple[Recognition, ...]:
    """What should be seen of everything that goes in."""
    return tuple(Recognition(str(uuid4()), what, expected) for what, expected in expect_of(before, after))


def _check_costs(session: Session, machine: MachineRow, swap: Swap) -> None:
    refusals: list[Refusal] = []
    named: set[str] = set()
    for number, line in enumerate(swap.costs):
        named |= {*line.shares, *measures_of(line)}
        try:
            book(line, machine.currency)
        except Refusal as refusal:
            refusal.field = f"costs.{number}.{refusal.field or 'amount'}"
            refusals.append(refusal)
    if named:
        frame = read_snapshot(session, machine.id).frame
        known = {swap.id, *(other.id for other in frame.swaps), *(measure.id for measure in frame.measures)}
        for number, line in enumerate(swap.costs):
            refusals += _strangers(line, number, known)
    if refusals:
        raise Several(refusals)


def _strangers(line: CostLine, number: int, known: set[str]) -> Iterable[Refusal]:
    """What a cost line names and the machine does not have."""
    if any(swap not in known for swap in line.shares):
        yield Missing("This machine has no such swap to split the cost over.", field=f"costs.{number}.shares")
    if any(measure not in known for measure in measures_of(line)):
        yield Missing("This machine has no such measure.", field=f"costs.{number}.running")


def _add_swap(session: Session, machine: MachineRow, swap: Swap, after: Build | None, template: str | None) -> None:
    if swap.before == swap.after:
        raise SameBuild("A swap leads to another build; this one leads back to the same.", field="after")
    snapshot = read_snapshot(session, machine.id)
    case = snapshot.frame
    before = case.build(swap.before)
    _check_waiting(case)
    is_new = session.get(BuildRow, UUID(swap.after)) is None
    if not is_new:
        if after is not None:
            raise BadQuestion(
                "The build after is there already, as it was; a swap back to it describes no other.",
                field="after_build",
            )
        after = case.build(swap.after)
    else:
        if after is None:
            raise BadQuestion("Say what the machine is after the swap: its parts and settings.", field="after_build")
        if (before.parts, before.settings) == (after.parts, after.settings) and not swap.side_changes:
            raise SameBuild(
                "Nothing differs from the build before: exchange a part, change a setting, or tick what was done.",
                field="after_build",
            )
        after = with_fresh_paste(before, after, swap.side_changes, str(uuid4()))
        _refuse_known(case, after, swap.side_changes)
        position = session.scalar(select(func.max(BuildRow.position)).where(BuildRow.machine_id == machine.id)) or 0
        add_build(session, machine.id, after, position + 1)
    differences = find_differences(before, after)
    declares = swap.declares or tuple(difference.key for difference in differences)
    usual = checklist_of(differences, swap.side_changes, case.machine.limits.get("battery"))
    steps = find_template(session, template).steps if template else usual
    planned = replace(
        swap,
        state="planned",
        declares=declares,
        steps=fresh_steps(steps),
        recognitions=fresh_recognitions(before, after),
    )
    position = session.scalar(select(func.max(SwapRow.position)).where(SwapRow.machine_id == machine.id)) or 0
    session.add(rows.swap_row(planned, machine.id, position + 1))
    plan = open_plan(session, machine.id)
    session.flush()
    plan.swap_id = UUID(swap.id)
    # From the second stage on the whole is judged too, unless somebody takes the tick away.
    first = first_of_chain(case, swap.before) if is_new else None
    plan.judge_whole = None if first is None else UUID(first)
    session.flush()
    session.add(rows.plan_row(replace(snapshot.open_plan, pairs=(), judge_whole=None), machine.id, None))


def _refuse_known(frame: Frame, after: Build, side_changes: tuple[str, ...]) -> None:
    """A build with the parts and settings of an earlier one is that build: its readings and verdicts are known."""
    if side_changes:
        return
    known = next((build for build in frame.builds if _state_of(build) == _state_of(after)), None)
    if known is not None:
        raise SameBuild(
            f"This is build {known.letter} · {known.label} again. Choose it as the build after: what was measured on "
            "it counts.",
            field="after_build",
        )


def _state_of(build: Build) -> tuple[object, ...]:
    parts = sorted((part.role, part.label, sorted(part.rated.items(), key=str)) for part in build.parts)
    return parts, sorted(build.settings.items()), build.wear


def _check_waiting(case: Frame) -> None:
    waiting = next((swap for swap in case.swaps if swap.state == "planned"), None)
    if waiting is not None:
        raise Clash(f"“{waiting.label}” is planned already and not begun: begin it, or take it back first.")


def _edit_swap(session: Session, machine_id: UUID, row: SwapRow, swap: Swap, version: int | None) -> None:
    frame = read_snapshot(session, machine_id).frame
    recorded = next(known for known in frame.swaps if known.id == swap.id)
    changes: dict[str, object] = {"label": swap.label, "side_changes": list(swap.side_changes)}
    if swap.declares:
        changes["declares"] = list(swap.declares)
    changed = edit(row, version, changes)
    if swap.side_changes != recorded.side_changes and not is_sealed(session, row.after_id):
        after = frame.build(recorded.after)
        fresh = with_fresh_paste(frame.build(recorded.before), after, swap.side_changes, str(uuid4()))
        if fresh is not after:
            fit_parts(session, machine_id, after, fresh)
            # Who has the build's form open saw the other paste.
            session.get_one(BuildRow, row.after_id).version += 1
    if recorded.costs == swap.costs:
        return
    if not changed:
        check_version(row, version, {"costs": say_costs(recorded)})
        row.version += 1
    row.costs = []
    session.flush()
    row.costs = rows.cost_rows(swap.costs)


def say_costs(swap: Swap) -> str:
    """The account in one line, for who edited it at the same time."""
    lines: Iterable[str] = (
        f"{line.label} {line.amount} {line.currency}{' a kWh' if line.running else ''}" for line in swap.costs
    )
    return ", ".join(lines) or "no cost lines"
