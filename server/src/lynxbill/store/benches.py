"""Machines as the home screen lists them, from the lines that are kept: nothing of a machine itself is read."""

from collections.abc import Collection
from dataclasses import dataclass
from datetime import date
from uuid import UUID

from sqlalchemy import ColumnElement, Row, Select, and_, exists, func, literal, or_, select
from sqlalchemy.orm import Session

from lynxbill.store.answers import holds
from lynxbill.store.tables import LineRow, MachineRow, PartRow


@dataclass(frozen=True, slots=True)
class Bench:
    """
    A machine on the home screen.

    `holds` is False while its line is written anew; `content` is None where there is none yet, or none could be made.
    """

    machine_id: UUID
    name: str
    owner: str
    holds: bool
    content: str | None


@dataclass(frozen=True, slots=True)
class Totals:
    """All machines, those that wait for somebody at the bench, and the re-checks that are planned."""

    machines: int
    waiting: int
    rechecks: int
    next_due: date | None


_HOLDS = func.coalesce(holds(LineRow), False)


def read_benches(session: Session, find: str, *, offset: int, limit: int) -> tuple[Bench, ...]:
    """A page of the machines whose name, owner or part holds a text, in the order in which they were described."""
    asked = _benches().where(*_found(find)).order_by(MachineRow.created_at, MachineRow.id)
    return tuple(_bench(row) for row in session.execute(asked.offset(offset).limit(limit)))


def count_found(session: Session, find: str) -> int:
    """How many machines a text finds."""
    return session.scalar(select(func.count()).select_from(MachineRow).where(*_found(find))) or 0


def read_totals(session: Session, waiting: Collection[str], day: date) -> Totals:
    """Count all machines; `waiting` are the stands at which one waits for somebody, whatever the date."""
    counts = select(func.count(MachineRow.id), func.count(LineRow.machine_id).filter(_waits(waiting, day)))
    machines, waits = session.execute(counts.outerjoin_from(MachineRow, LineRow)).one()
    due = select(func.unnest(LineRow.due_on).label("due")).subquery()
    rechecks, next_due = session.execute(select(func.count(due.c.due), func.min(due.c.due))).one()
    return Totals(machines, waits, rechecks, next_due)


def read_first(session: Session, waiting: Collection[str], day: date) -> Bench | None:
    """The machine that waits before all others: one that lies open, else the first that was described."""
    asked = _benches().where(_waits(waiting, day))
    row = session.execute(
        asked.order_by(LineRow.stand != "open", MachineRow.created_at, MachineRow.id).limit(1)
    ).first()
    return None if row is None else _bench(row)


def _benches() -> Select[UUID, str, str, bool, str | None]:
    columns = MachineRow.id, MachineRow.name, MachineRow.owner, _HOLDS.label("holds"), LineRow.content
    return select(*columns).outerjoin_from(MachineRow, LineRow)


def _bench(row: Row[UUID, str, str, bool, str | None]) -> Bench:
    return Bench(row.id, row.name, row.owner, row.holds, row.content)


def _found(find: str) -> list[ColumnElement[bool]]:
    """Every word has to be in the name, the owner, or the label of one part."""
    return [_has_word(word) for word in find.split()]


def _has_word(word: str) -> ColumnElement[bool]:
    part = exists().where(PartRow.machine_id == MachineRow.id, PartRow.label.icontains(word, autoescape=True))
    names = MachineRow.name, MachineRow.owner
    return or_(*(name.icontains(word, autoescape=True) for name in names), part)


def _waits(stands: Collection[str], day: date) -> ColumnElement[bool]:
    """At such a stand, or finished with a re-check that is due by a day."""
    is_due = literal(day) >= func.any(LineRow.due_on)
    return or_(LineRow.stand.in_(stands), and_(LineRow.stand == "judged", is_due))
