"""Sittings: begin one, note its conditions."""

from uuid import UUID

from sqlalchemy import func, select

from lynxbill.core.case import Frame, Sitting
from lynxbill.core.errors import BadValue, CaseNotOpen, Missing
from lynxbill.services.act import Act
from lynxbill.services.casework import refuse_unrecognised
from lynxbill.services.transaction import Sessions, edit, refuse_foreign, transaction
from lynxbill.store import rows
from lynxbill.store.database import announce
from lynxbill.store.edits import edits_of, keep_edits
from lynxbill.store.evidence import has_runs_in
from lynxbill.store.kept import read_snapshot
from lynxbill.store.snapshot import find_machine
from lynxbill.store.tables import BuildRow, SittingRow


def refuse_closed_build(case: Frame, build_id: str) -> None:
    """Refuse to measure a build that the machine is not yet, or one whose parts it does not see."""
    into = [swap for swap in case.swaps if swap.after == build_id]
    if into and all(swap.state == "planned" for swap in into):
        raise CaseNotOpen(
            f"“{into[-1].label}” is only planned, so the machine is not this build yet. Begin the swap first.",
            field="build",
        )
    for swap in into:
        refuse_unrecognised(swap)


def save_sitting(sessions: Sessions, act: Act, machine_id: UUID, sitting: Sitting, version: int | None) -> None:
    """Begin a sitting on a build, or edit its conditions."""
    with transaction(sessions) as session:
        find_machine(session, machine_id, lock=True)
        build = session.get(BuildRow, UUID(sitting.build_id))
        if build is None or build.machine_id != machine_id:
            raise Missing("This machine has no such build; a sitting needs one.", field="build")
        row = session.get(SittingRow, UUID(sitting.id))
        if row is None:
            refuse_closed_build(read_snapshot(session, machine_id).frame, sitting.build_id)
            count = session.scalar(select(func.count()).where(SittingRow.build_id == build.id)) or 0
            session.add(rows.sitting_row(sitting, position=count + 1))
        else:
            refuse_foreign(session.get_one(BuildRow, row.build_id).machine_id, machine_id)
            if row.build_id != build.id:
                raise BadValue(
                    "A sitting stays with the build that it was begun on; begin another one.", field="build"
                )
            changes = {
                "purpose": sitting.purpose,
                "started_at": sitting.started_at,
                "ambient_c": sitting.ambient_c,
                "conditions": dict(sitting.conditions),
            }
            old = {name: getattr(row, name) for name in changes}
            if edit(row, version, changes) and has_runs_in(session, machine_id, row.id):
                keep_edits(session, machine_id, act.by, act.at, "", edits_of(old, changes, sitting_id=row.id))
        announce(session, machine_id, "sitting", sitting.id)
