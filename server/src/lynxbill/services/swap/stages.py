"""A bundle taken apart: what is done first becomes a swap of its own, to a build between."""

from dataclasses import dataclass, replace
from uuid import UUID

from sqlalchemy import func, select
from sqlalchemy.orm import Session

from lynxbill.core.change.difference import find_differences
from lynxbill.core.plan.templates import checklist_of
from lynxbill.core.record.build import Build
from lynxbill.core.record.ids import BuildId, SwapId
from lynxbill.core.record.swap import Swap
from lynxbill.core.terms.errors import BadValue, CaseNotOpen, Sealed
from lynxbill.services.base.transaction import Sessions, check_version, transaction
from lynxbill.services.frame.builds import add_build, build_letter
from lynxbill.services.swap.casework import read_swap
from lynxbill.services.swap.swaps import find_swap, fresh_recognitions, fresh_steps
from lynxbill.store import rows
from lynxbill.store.database import announce
from lynxbill.store.evidence import is_sealed
from lynxbill.store.snapshot import find_machine
from lynxbill.store.tables.machine import BuildRow, PlanRow
from lynxbill.store.tables.swap import SwapRow


@dataclass(frozen=True, slots=True)
class Stage:
    """
    The part of a bundle that is done first: the build that it leads to, and what of the swap belongs to it.

    `differences` are keys of the swap's differences; `costs` the numbers of its cost lines that stay with it.
    """

    swap_id: str
    build_id: str
    label: str
    build_label: str
    differences: tuple[str, ...]
    side_changes: tuple[str, ...]
    costs: tuple[int, ...]


def split_swap(sessions: Sessions, machine_id: UUID, swap_id: UUID, stage: Stage, version: int | None) -> None:
    """
    Take a bundle apart into two stages: what is done first, measured on a build of its own, then the rest.

    Only while nothing was measured on the build after and the case is not closed.
    """
    with transaction(sessions) as session:
        find_machine(session, machine_id, lock=True)
        row = find_swap(session, machine_id, swap_id)
        case, swap = read_swap(session, machine_id, swap_id)
        if swap.state == "closed":
            raise CaseNotOpen("The case is closed: what was done together stays together.")
        if is_sealed(session, UUID(swap.after)):
            raise Sealed("The build after has runs already: what was done together stays together.")
        check_version(row, version, {"label": swap.label})
        before, after = case.build(swap.before), case.build(swap.after)
        between = _build_between(before, after, stage)
        _check_stage(swap, before, between, after, stage)
        _insert_between(session, machine_id, between, after)
        _divide(session, machine_id, row, swap, (before, between, after), stage)
        announce(session, machine_id, "swap", swap_id)


def _build_between(before: Build, after: Build, stage: Stage) -> Build:
    """The build before with only the first stage's differences made."""
    roles = {key.removeprefix("part:") for key in stage.differences if key.startswith("part:")}
    parts = [part for part in before.parts if part.role not in roles]
    parts += [part for part in after.parts if part.role in roles]
    settings = dict(before.settings)
    for key in stage.differences:
        name = key.removeprefix("setting:")
        if key.startswith("setting:"):
            settings |= {name: after.settings[name]} if name in after.settings else {}
            if name not in after.settings:
                settings.pop(name, None)
    return Build(BuildId(stage.build_id), "", stage.build_label, tuple(parts), settings)


def _check_stage(swap: Swap, before: Build, between: Build, after: Build, stage: Stage) -> None:
    known = {difference.key for difference in find_differences(before, after)}
    strays = [key for key in stage.differences if key not in known]
    strays += [tick for tick in stage.side_changes if tick not in swap.side_changes]
    if strays:
        raise BadValue(f"The swap does not change {strays[0]}.", field="differences")
    left = len(known) + len(swap.side_changes) - len(stage.differences) - len(stage.side_changes)
    if not stage.differences and not stage.side_changes:
        raise BadValue("Say what is done first; a stage changes something.", field="differences")
    if left == 0:
        raise BadValue(
            "Everything would be done first, and nothing is left for the second stage.", field="differences"
        )


def _insert_between(session: Session, machine_id: UUID, between: Build, after: Build) -> None:
    """Give the build between the place and letter of the one after, which moves one on where it is the last."""
    row = session.get_one(BuildRow, UUID(after.id))
    last = session.scalar(select(func.max(BuildRow.position)).where(BuildRow.machine_id == machine_id)) or 0
    place = row.position
    if place != last:
        add_build(session, machine_id, between, last + 1)
        return
    row.position, row.letter = last + 1, build_letter(last + 1)
    session.flush()
    add_build(session, machine_id, between, place)


def _divide(
    session: Session, machine_id: UUID, row: SwapRow, swap: Swap, builds: tuple[Build, Build, Build], stage: Stage
) -> None:
    before, between, after = builds
    battery = find_machine(session, machine_id).limits.get("battery")
    rest = [key for key in swap.declares if key not in stage.differences]
    side_changes = tuple(tick for tick in swap.side_changes if tick not in stage.side_changes)
    # A job that is laid out in stages is judged as a whole too, unless somebody takes the tick away.
    whole = replace(swap.plan, judge_whole=swap.plan.judge_whole or before.id)
    second = Swap(
        id=SwapId(stage.swap_id),
        before=between.id,
        after=after.id,
        label=swap.label,
        plan=whole,
        side_changes=side_changes,
        costs=tuple(line for number, line in enumerate(swap.costs) if number not in stage.costs),
        state="planned",
        declares=tuple(rest),
        recognitions=fresh_recognitions(between, after),
        steps=fresh_steps(checklist_of(find_differences(between, after), side_changes, battery)),
    )
    for later in session.scalars(
        select(SwapRow).where(SwapRow.machine_id == machine_id, SwapRow.position > row.position)
    ):
        later.position += 1
    row.after_id, row.label = UUID(between.id), stage.label
    row.side_changes, row.declares = list(stage.side_changes), list(stage.differences)
    row.costs, row.recognitions = [], []
    if not any(step.done_at for step in row.steps):
        row.steps = []
    session.flush()
    row.costs = rows.cost_rows(line for number, line in enumerate(swap.costs) if number in stage.costs)
    row.recognitions = [
        rows.recognition_row(line, number) for number, line in enumerate(fresh_recognitions(before, between), start=1)
    ]
    if not row.steps:
        first = checklist_of(find_differences(before, between), stage.side_changes, battery)
        row.steps = [rows.step_row(step, number) for number, step in enumerate(fresh_steps(first), start=1)]
    row.version += 1
    session.add(rows.swap_row(second, machine_id, row.position + 1))
    session.flush()
    session.add(rows.plan_row(whole, machine_id, UUID(second.id)))
    first_plan = session.scalars(select(PlanRow).where(PlanRow.swap_id == row.id)).one()
    first_plan.judge_whole = UUID(whole.judge_whole)
    first_plan.version += 1
