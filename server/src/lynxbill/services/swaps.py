"""Swaps: record one, which makes the next build and takes the open plan with it; keep its account."""

from uuid import UUID

from sqlalchemy import func, select
from sqlalchemy.orm import Session

from lynxbill.core.case import Build, Swap
from lynxbill.core.errors import BadQuestion, Refusal, SameBuild, Several
from lynxbill.core.money import book
from lynxbill.services.builds import add_build
from lynxbill.services.plans import open_plan
from lynxbill.services.transaction import Sessions, check_version, edit, transaction
from lynxbill.store import rows
from lynxbill.store.database import announce
from lynxbill.store.snapshot import find_machine, load_snapshot
from lynxbill.store.tables import BuildRow, SwapRow


def save_swap(sessions: Sessions, machine_id: UUID, swap: Swap, after: Build | None, version: int | None) -> None:
    """Record a swap with the build that it leads to, or edit its label, side changes and cost lines."""
    with transaction(sessions) as session:
        machine = find_machine(session, machine_id, lock=True)
        _check_costs(swap, machine.currency)
        row = session.get(SwapRow, UUID(swap.id))
        if row is None:
            _add_swap(session, machine_id, swap, after)
        else:
            _edit_swap(session, machine_id, row, swap, version)
        announce(session, machine_id, "swap")


def _check_costs(swap: Swap, currency: str) -> None:
    refusals = []
    for number, line in enumerate(swap.costs):
        try:
            book(line, currency)
        except Refusal as refusal:
            refusal.field = f"costs.{number}.{refusal.field or 'amount'}"
            refusals.append(refusal)
    if refusals:
        raise Several(refusals)


def _add_swap(session: Session, machine_id: UUID, swap: Swap, after: Build | None) -> None:
    if swap.before == swap.after:
        raise SameBuild("A swap leads to another build; this one leads back to the same.", field="after")
    if after is None:
        raise BadQuestion("Say what the machine is after the swap: its parts and settings.", field="after_build")
    snapshot = load_snapshot(session, machine_id)
    before = snapshot.case.build(swap.before)
    if (before.parts, before.settings) == (after.parts, after.settings) and not swap.side_changes:
        raise SameBuild(
            "Nothing differs from the build before: exchange a part, change a setting, or tick what else was done.",
            field="after_build",
        )
    position = session.scalar(select(func.max(BuildRow.position)).where(BuildRow.machine_id == machine_id)) or 0
    add_build(session, machine_id, after, position + 1)
    session.add(rows.swap_row(swap, machine_id, len(snapshot.case.swaps) + 1))
    plan = open_plan(session, machine_id)
    session.flush()
    plan.swap_id = UUID(swap.id)
    session.flush()
    session.add(rows.plan_row(snapshot.open_plan, machine_id, None))


def _edit_swap(session: Session, machine_id: UUID, row: SwapRow, swap: Swap, version: int | None) -> None:
    recorded = next(known for known in load_snapshot(session, machine_id).case.swaps if known.id == swap.id)
    changed = edit(row, version, {"label": swap.label, "side_changes": list(swap.side_changes)})
    if recorded.costs == swap.costs:
        return
    if not changed:
        check_version(row, version, {"costs": ", ".join(f"{line.label} {line.amount}" for line in recorded.costs)})
        row.version += 1
    row.costs = []
    session.flush()
    row.costs = rows.cost_rows(swap.costs)
