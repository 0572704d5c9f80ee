"""Sittings: begin one, note its conditions, close it, set it aside."""

from collections.abc import Iterable
from dataclasses import replace
from uuid import UUID
from zoneinfo import ZoneInfo

from sqlalchemy import func, select
from sqlalchemy.orm import Session

from lynxbill.core.reading.order import is_from_notes, swap_across
from lynxbill.core.record.frame import Frame
from lynxbill.core.record.run import Run, Sitting
from lynxbill.core.terms.errors import BadValue, CaseNotOpen, Clash, Missing, SittingClosed
from lynxbill.services.base.act import Act
from lynxbill.services.base.transaction import Sessions, edit, refuse_foreign, transaction
from lynxbill.services.swap.casework import refuse_unrecognised
from lynxbill.store import rows
from lynxbill.store.database import announce
from lynxbill.store.edits import Edit, edits_of, keep_edits
from lynxbill.store.evidence import has_runs_in
from lynxbill.store.kept import read_snapshot
from lynxbill.store.snapshot import find_machine
from lynxbill.store.tables.evidence import SittingRow
from lynxbill.store.tables.machine import BuildRow
from lynxbill.words.money.account import day as say_day


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


# What of a sitting may be edited by whoever holds it.
EDITED = ("purpose", "started_at", "ambient_c", "boot", "boot_by", "mount")


def save_sitting(sessions: Sessions, act: Act, machine_id: UUID, sitting: Sitting, version: int | None) -> None:
    """Begin a sitting on a build, which closes the one before it; or edit its conditions."""
    with transaction(sessions) as session:
        find_machine(session, machine_id, lock=True)
        build = session.get(BuildRow, UUID(sitting.build_id))
        if build is None or build.machine_id != machine_id:
            raise Missing("This machine has no such build; a sitting needs one.", field="build")
        if sitting.boot_by is not None and sitting.boot is None:
            raise BadValue("Say in which boot it was held, or leave open who said so.", field="boot")
        row = session.get(SittingRow, UUID(sitting.id))
        if sitting.boot_by == "read" and not act.by_agent and not _was_read(row, sitting.boot):
            raise BadValue(
                "Only the bench agent reads the boot of a machine. Say whether it was restarted.", field="boot_by"
            )
        frame = read_snapshot(session, machine_id).frame
        placed = (sitting.started_at, build.id, sitting.purpose)
        if row is None or (row.started_at, row.build_id, row.purpose) != placed:
            _refuse_other_side(frame, sitting)
        if row is None:
            _begin(session, act, frame, sitting, build)
        else:
            refuse_foreign(session.get_one(BuildRow, row.build_id).machine_id, machine_id)
            _edit(session, act, frame, sitting, version, row, build)
        announce(session, machine_id, "sitting", sitting.id)


def _refuse_other_side(frame: Frame, sitting: Sitting) -> None:
    """Refuse notes of a day on which the machine was another build, as its swaps are dated."""
    if not is_from_notes(sitting):
        return
    swap = swap_across(frame, sitting)
    if swap is None or swap.opened_at is None:
        return
    side = "after" if swap.after == sitting.build_id else "before"
    dated = say_day(swap.opened_at.astimezone(ZoneInfo(frame.machine.time_zone)).date())
    raise BadValue(
        f"Build {frame.build(sitting.build_id).letter} stands {side} “{swap.label}”, which is dated {dated}: on that "
        "day the machine was another. Choose another build or day, or correct the day of the swap on Swap.",
        field="started_at",
    )


def _was_read(row: SittingRow | None, boot: str | None) -> bool:
    return row is not None and (row.boot, row.boot_by) == (boot, "read")


def _begin(session: Session, act: Act, frame: Frame, sitting: Sitting, build: BuildRow) -> None:
    refuse_closed_build(frame, sitting.build_id)
    attempt = max((s.attempt for s in frame.swaps if s.after == sitting.build_id), default=1)
    session.add(rows.sitting_row(replace(sitting, attempt=attempt), position=_next_position(session, build)))
    close_open_ones(session, act, (UUID(other.id) for other in frame.sittings))


def _edit(
    session: Session,
    act: Act,
    frame: Frame,
    sitting: Sitting,
    version: int | None,
    row: SittingRow,
    build: BuildRow,
) -> None:
    changes: dict[str, object] = {name: getattr(sitting, name) for name in EDITED}
    changes["conditions"] = dict(sitting.conditions)
    if row.build_id != build.id:
        _refuse_move(frame, row, build)
        changes["build_id"] = build.id
    old = {name: getattr(row, name) for name in changes}
    place = {"position": _next_position(session, build)} if "build_id" in changes else {}
    if edit(row, version, changes | place) and has_runs_in(session, build.machine_id, row.id):
        keep_edits(session, build.machine_id, act.by, act.at, "", edits_of(old, changes, sitting_id=row.id))


def _next_position(session: Session, build: BuildRow) -> int:
    return (session.scalar(select(func.max(SittingRow.position)).where(SittingRow.build_id == build.id)) or 0) + 1


def _refuse_move(frame: Frame, row: SittingRow, build: BuildRow) -> None:
    """Only a sitting that is still open goes to another build, and only to the one that is fitted."""
    if row.closed_at is None and frame.fitted is not None and frame.fitted.id == str(build.id):
        return
    raise BadValue(
        "A sitting stays with the build that it was begun on; only an open one can be moved, to the build that is "
        "fitted now. Begin another one.",
        field="build",
    )


def close_sitting(sessions: Sessions, act: Act, machine_id: UUID, sitting_id: UUID) -> None:
    """Close a sitting: it takes no further runs, and what is changed of it later is named beside the verdict."""
    with transaction(sessions) as session:
        row = _find(session, machine_id, sitting_id)
        if row.closed_at is None:
            row.closed_at = act.at
            row.version += 1
            announce(session, machine_id, "sitting", sitting_id)


def set_aside(sessions: Sessions, act: Act, machine_id: UUID, sitting_id: UUID, reason: str) -> None:
    """Take a sitting out of the test after the fact; it stays listed for ever, and verdicts are given with it too."""
    with transaction(sessions) as session:
        row = _find(session, machine_id, sitting_id)
        if row.set_aside_reason is not None:
            raise Clash(f"This sitting was set aside before, “{row.set_aside_reason}”.")
        row.set_aside_reason, row.set_aside_at = reason, act.at
        row.version += 1
        excluded = Edit("set_aside", None, reason, sitting_id=sitting_id)
        keep_edits(session, machine_id, act.by, act.at, reason, [excluded])
        announce(session, machine_id, "sitting", sitting_id)


def _find(session: Session, machine_id: UUID, sitting_id: UUID) -> SittingRow:
    find_machine(session, machine_id, lock=True)
    row = session.get(SittingRow, sitting_id)
    if row is None or session.get_one(BuildRow, row.build_id).machine_id != machine_id:
        raise Missing("This machine has no such sitting.")
    return row


def close_open_ones(session: Session, act: Act, sittings: Iterable[UUID]) -> None:
    """Close those of some sittings that are open; one sits at a machine once at a time."""
    for row in session.scalars(select(SittingRow).where(SittingRow.id.in_(tuple(sittings)))):
        if row.closed_at is None:
            row.closed_at = act.at
            row.version += 1


def refuse_closed_sitting(frame: Frame, sitting: Sitting, run: Run, runs: int, *, by_agent: bool) -> None:
    """
    Refuse a further run in a sitting that was closed, unless the agent brings it up to plan in the boot that it read.

    What the agent measured before it was closed, and could not send by then, is no further run. When a run began is
    believed of the agent alone.

    Args:
        run: the one to be recorded.
        runs: how many of its workload the sitting has.
    """
    if sitting.closed_at is None:
        return
    if by_agent and sitting.boot_by == "read":
        if run.started_at is not None and run.started_at <= sitting.closed_at:
            return
        wanted = frame.plan_of(sitting.build_id).runs_of(run.workload)
        later = any(other.started_at > sitting.started_at for other in frame.sittings)
        if not later and wanted is not None and runs < wanted:
            return
    raise SittingClosed(
        "This sitting is closed, so it takes no further runs. Begin another sitting for them.", field="sitting"
    )
