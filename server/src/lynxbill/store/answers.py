"""What was computed of a machine, kept for every server process: answers as they are sent, and home's lines."""

from collections.abc import Mapping
from dataclasses import dataclass
from datetime import date, datetime
from uuid import UUID

from sqlalchemy import ColumnElement, and_, func, or_, select, text, tuple_
from sqlalchemy.dialects.postgresql import insert
from sqlalchemy.orm import Session

from lynxbill.store.program import fingerprint
from lynxbill.store.tables.base import Computed
from lynxbill.store.tables.evidence import SittingRow
from lynxbill.store.tables.kept import AnswerRow, LineRow
from lynxbill.store.tables.machine import BuildRow, MachineRow

# The first of the two numbers of an advisory lock: what it is that is locked.
LINES = 1


@dataclass(frozen=True, slots=True)
class Stamp:
    """At what state a machine was: when it was described, its revision, and its count of evidence."""

    described: datetime
    revision: int
    evidence_revision: int


def read_stamp(session: Session, machine_id: UUID) -> Stamp | None:
    """Say at what state a machine is; None where there is none."""
    columns = MachineRow.created_at, MachineRow.revision, MachineRow.evidence_revision
    found = session.execute(select(*columns).where(MachineRow.id == machine_id)).first()
    return None if found is None else Stamp(*found)


def holds(kept: type[Computed]) -> ColumnElement[bool]:
    """Whether what is kept was computed by this program from the machine as it stands now; both are joined."""
    return and_(
        kept.described == MachineRow.created_at,
        kept.revision == MachineRow.revision,
        kept.evidence_revision == MachineRow.evidence_revision,
        is_ours(kept),
    )


def is_ours(kept: type[Computed]) -> ColumnElement[bool]:
    """Whether what is kept was written by this very program, at whatever state: another's is not to be read."""
    return kept.program == fingerprint()


def find_answer(session: Session, machine_id: UUID, question: str) -> str | None:
    """Hand out an answer that holds."""
    query = select(AnswerRow.content).join(MachineRow, MachineRow.id == AnswerRow.machine_id)
    asked = AnswerRow.machine_id == machine_id, AnswerRow.question == question
    return session.scalar(query.where(*asked, holds(AnswerRow)))


def keep_answer(session: Session, machine_id: UUID, question: str, stamp: Stamp, content: str) -> None:
    """Keep an answer for the machine at a state, unless that of a later state is kept."""
    _keep(session, AnswerRow, {"machine_id": machine_id, "question": question}, stamp, {"content": content})


def keep_line(
    session: Session,
    machine_id: UUID,
    stamp: Stamp,
    *,
    job_state: str | None,
    due_on: list[date],
    content: str | None,
) -> None:
    """Keep a machine's line on the home screen."""
    fields = {"job_state": job_state, "due_on": due_on, "content": content}
    _keep(session, LineRow, {"machine_id": machine_id}, stamp, fields)


def has_line(session: Session, machine_id: UUID) -> bool:
    """Whether a machine's line holds."""
    query = select(LineRow.machine_id).join(MachineRow, MachineRow.id == LineRow.machine_id)
    return session.scalar(query.where(LineRow.machine_id == machine_id, holds(LineRow))) is not None


def stale_lines(session: Session) -> list[UUID]:
    """The machines whose line does not hold, or that have none; those that were measured last come first."""
    last = (
        select(BuildRow.machine_id, func.max(SittingRow.started_at).label("at"))
        .join(SittingRow, SittingRow.build_id == BuildRow.id)
        .group_by(BuildRow.machine_id)
        .subquery()
    )
    query = select(MachineRow.id).outerjoin(LineRow, LineRow.machine_id == MachineRow.id)
    query = query.outerjoin(last, last.c.machine_id == MachineRow.id).where(holds(LineRow).is_not(True))
    return list(session.scalars(query.order_by(last.c.at.desc().nulls_last(), MachineRow.created_at.desc())))


def lock_line(session: Session, machine_id: UUID) -> bool:
    """Take the lock on a machine's line until the transaction ends; False where another process has it."""
    taken = text("SELECT pg_try_advisory_xact_lock(:what, hashtext(:machine))")
    return bool(session.scalar(taken, {"what": LINES, "machine": str(machine_id)}))


def _keep(
    session: Session,
    table: type[AnswerRow] | type[LineRow],
    key: Mapping[str, object],
    stamp: Stamp,
    fields: Mapping[str, object],
) -> None:
    values = {
        "described": stamp.described,
        "revision": stamp.revision,
        "evidence_revision": stamp.evidence_revision,
        "program": fingerprint(),
        **fields,
    }
    written = insert(table).values(**key, **values)
    # Two processes may have computed the same for two states: the older must not take the newer's place.
    is_later = or_(
        table.described != stamp.described,
        table.program != fingerprint(),
        tuple_(table.revision, table.evidence_revision) <= (stamp.revision, stamp.evidence_revision),
    )
    session.execute(written.on_conflict_do_update(index_elements=[*key], set_=values, where=is_later))
