"""Builds: describe the first one, correct one that has no runs yet."""

from dataclasses import replace
from uuid import UUID

from sqlalchemy import delete, select
from sqlalchemy.orm import Session

from lynxbill.core.record.build import MOST_BUILDS, Build, Part
from lynxbill.core.record.ids import BuildId
from lynxbill.core.record.vocabulary import PART_FIGURES, SETTINGS, check_figures
from lynxbill.core.terms.errors import BadQuestion, Clash
from lynxbill.services.base.transaction import (
    Sessions,
    check_version,
    edit,
    refuse_foreign,
    sealed_build,
    transaction,
)
from lynxbill.store import rows
from lynxbill.store.database import announce
from lynxbill.store.evidence import is_sealed
from lynxbill.store.kept import read_snapshot
from lynxbill.store.snapshot import find_machine
from lynxbill.store.tables.machine import BuildPartRow, BuildRow, PartRow


def save_build(sessions: Sessions, machine_id: UUID, build: Build, version: int | None) -> None:
    """Create a machine's first build, or edit one that is not sealed; later builds come from swaps."""
    check_build(build)
    with transaction(sessions) as session:
        find_machine(session, machine_id, lock=True)
        row = session.get(BuildRow, UUID(build.id))
        if row is None:
            if session.scalar(select(BuildRow.id).where(BuildRow.machine_id == machine_id).limit(1)):
                raise BadQuestion("This machine has a build already. Record a swap: it makes the next build.")
            add_build(session, machine_id, build, position=1)
        else:
            refuse_foreign(row.machine_id, machine_id)
            _edit_build(session, machine_id, row, build, version)
        announce(session, machine_id, "build", build.id)


def check_build(build: Build, place: str = "") -> None:
    """Refuse figures and settings that can't be what they are called."""
    for number, part in enumerate(build.parts):
        check_figures(part.rated, PART_FIGURES[part.role], f"{place}parts.{number}.rated")
    check_figures(build.settings, SETTINGS, f"{place}settings")


def add_build(session: Session, machine_id: UUID, build: Build, position: int) -> None:
    """Insert a build with its letter; parts that stand there already are fitted again, not copied."""
    if position > MOST_BUILDS:
        raise Clash(
            f"This machine has {MOST_BUILDS} builds, and more are not kept: lay the job out on a new machine."
        )
    lettered = replace(build, letter=build_letter(position))
    session.add(rows.build_row(lettered, machine_id, position))
    _save_parts(session, machine_id, build.parts)
    session.flush()
    session.add_all(rows.fitting_rows(build))


def build_letter(position: int) -> str:
    """Letter the builds A to Z, then AA, AB and so on."""
    letters = ""
    while position:
        position, rest = divmod(position - 1, 26)
        letters = chr(ord("A") + rest) + letters
    return letters


def _edit_build(session: Session, machine_id: UUID, row: BuildRow, build: Build, version: int | None) -> None:
    snapshot = read_snapshot(session, machine_id)
    recorded = snapshot.frame.build(BuildId(str(row.id)))
    parts_differ = recorded.parts != build.parts
    if (parts_differ or recorded.settings != build.settings) and is_sealed(session, row.id):
        raise sealed_build()
    changed = edit(row, version, {"label": build.label, "settings": dict(build.settings), "wear": build.wear})
    if not parts_differ:
        return
    if not changed:
        check_version(row, version, {"parts": ", ".join(part.label for part in recorded.parts)})
        row.version += 1
    fit_parts(session, machine_id, recorded, build)


def fit_parts(session: Session, machine_id: UUID, recorded: Build, build: Build) -> None:
    """Fit other parts into a build that is recorded; nothing where they are the same."""
    if recorded.parts == build.parts:
        return
    session.execute(delete(BuildPartRow).where(BuildPartRow.build_id == UUID(build.id)))
    _save_parts(session, machine_id, build.parts)
    session.flush()
    session.add_all(rows.fitting_rows(build))


def _save_parts(session: Session, machine_id: UUID, parts: tuple[Part, ...]) -> None:
    for number, part in enumerate(parts):
        row = session.get(PartRow, UUID(part.id))
        if row is None:
            session.add(rows.part_row(part, machine_id))
            continue
        refuse_foreign(row.machine_id, machine_id, f"parts.{number}.id")
        if (row.role, row.label, row.rated) != (part.role, part.label, dict(part.rated)):
            row.role, row.label, row.rated = part.role, part.label, dict(part.rated)
