"""Machines as the home screen lists them, from the lines that are kept: nothing of a machine itself is read."""

from collections.abc import Collection
from dataclasses import dataclass
from datetime import date
from typing import Any, Literal
from uuid import UUID

from sqlalchemy import ColumnElement, Row, Select, and_, case, exists, false, func, literal, not_, or_, select
from sqlalchemy.orm import Session

from lynxbill.store.answers import holds, is_ours
from lynxbill.store.tables.kept import LineRow
from lynxbill.store.tables.machine import MachineRow, PartRow

Show = Literal["all", "waiting", "due", "resting"]


@dataclass(frozen=True, slots=True)
class Bench:
    """
    A machine on the home screen.

    `holds` is False while its line is written anew; `content` is None where there is none yet, or none could be made;
    `set_aside` says why it waits for nobody any more.
    """

    machine_id: UUID
    name: str
    owner: str
    holds: bool
    content: str | None
    set_aside: str | None = None


@dataclass(frozen=True, slots=True)
class Totals:
    """
    All machines, those that wait for somebody at the bench, those with a re-check that is due, those with nothing to
    be done, and the re-checks that are planned.
    """

    machines: int
    waiting: int
    due: int
    resting: int
    rechecks: int
    next_due: date | None


_IS_ASIDE = MachineRow.set_aside.is_not(None)
_HOLDS = func.coalesce(holds(LineRow), False)
# A line of an older program may say what this one does not know: it is being judged until it is written anew.
_CONTENT = case((is_ours(LineRow), LineRow.content))


@dataclass(frozen=True, slots=True)
class Asked:
    """
    Which machines are asked for: those whose name, owner or part holds every word of `find`, of the kind to `show`.

    `stands` are those at which a machine waits for somebody, whatever the date; by `day` re-checks are due.
    """

    find: str
    show: Show
    job_states: Collection[str]
    day: date


def read_benches(session: Session, asked: Asked, *, offset: int, limit: int) -> tuple[Bench, ...]:
    """A page of the machines asked for: those that wait first, in the order in which they were described."""
    rows = session.execute(_benches().where(*_asked(asked)).order_by(*_first(asked)).offset(offset).limit(limit))
    return tuple(_bench(row) for row in rows)


def count_found(session: Session, asked: Asked) -> int:
    """How many machines are found."""
    found = select(func.count(MachineRow.id)).outerjoin_from(MachineRow, LineRow).where(*_asked(asked))
    return session.scalar(found) or 0


def read_totals(session: Session, asked: Asked) -> Totals:
    """Count all machines, whatever was looked for."""
    due = _is_due(asked.day)

    def count(kind: ColumnElement[bool]) -> ColumnElement[int]:
        return func.count(LineRow.machine_id).filter(kind)

    counts = func.count(MachineRow.id), count(_waits(asked)), count(due), count(_rests(due))
    machines, waiting, is_due, resting = session.execute(select(*counts).outerjoin_from(MachineRow, LineRow)).one()
    kept = MachineRow.set_aside.is_(None)
    dates = select(func.unnest(LineRow.due_on).label("due")).join_from(LineRow, MachineRow).where(kept).subquery()
    rechecks, next_due = session.execute(select(func.count(dates.c.due), func.min(dates.c.due))).one()
    return Totals(machines, waiting, is_due, resting, rechecks, next_due)


def read_first(session: Session, asked: Asked) -> Bench | None:
    """The machine that waits before all others: one that lies open, else the first that was described."""
    row = session.execute(_benches().where(_waits(asked)).order_by(*_first(asked)).limit(1)).first()
    return None if row is None else _bench(row)


def _benches() -> Select[UUID, str, str, bool, str | None, str | None]:
    columns = (
        *(MachineRow.id, MachineRow.name, MachineRow.owner),
        *(_HOLDS.label("holds"), _CONTENT.label("content"), MachineRow.set_aside),
    )
    return select(*columns).outerjoin_from(MachineRow, LineRow)


def _bench(row: Row[UUID, str, str, bool, str | None, str | None]) -> Bench:
    return Bench(row.id, row.name, row.owner, row.holds, row.content, row.set_aside)


def _found(find: str) -> list[ColumnElement[bool]]:
    """Every word has to be in the name, the owner, or the label of one part."""
    return [_has_word(word) for word in find.split()]


def _has_word(word: str) -> ColumnElement[bool]:
    part = exists().where(PartRow.machine_id == MachineRow.id, PartRow.label.icontains(word, autoescape=True))
    names = MachineRow.name, MachineRow.owner
    return or_(*(name.icontains(word, autoescape=True) for name in names), part)


def _asked(asked: Asked) -> list[ColumnElement[bool]]:
    due = _is_due(asked.day)
    shown: dict[Show, ColumnElement[bool]] = {
        "waiting": _waits(asked),
        "due": due,
        "resting": _rests(due),
    }
    found = _found(asked.find)
    return [*found, shown[asked.show]] if asked.show in shown else found


def _first(asked: Asked) -> list[Any]:
    """What lies open comes first, then what waits, then the rest, and what was set aside last."""
    lies_open = func.coalesce(LineRow.job_state == "open", false())
    waits = func.coalesce(_waits(asked), false())
    return [_IS_ASIDE, lies_open.desc(), waits.desc(), MachineRow.created_at, MachineRow.id]


def _rests(due: ColumnElement[bool]) -> ColumnElement[bool]:
    """Judged, and nothing to be measured again yet."""
    return and_(not_(_IS_ASIDE), LineRow.job_state == "judged", not_(due))


def _waits(asked: Asked) -> ColumnElement[bool]:
    """At a stand that waits for somebody, or finished with a re-check that is due."""
    judged_and_due = and_(LineRow.job_state == "judged", _is_due(asked.day))
    return and_(not_(_IS_ASIDE), or_(LineRow.job_state.in_(asked.job_states), judged_and_due))


def _is_due(day: date) -> ColumnElement[bool]:
    return and_(not_(_IS_ASIDE), literal(day) >= func.any(LineRow.due_on))
