"""What is computed or known of machines beside their record."""

from datetime import date, datetime
from typing import Any
from uuid import UUID

from sqlalchemy import Date, ForeignKey
from sqlalchemy.dialects.postgresql import ARRAY, JSONB
from sqlalchemy.orm import Mapped, mapped_column

from lynxbill.store.tables.base import Computed, ImportState, Table, one_of


class AnswerRow(Computed, Table):
    """An answer that was computed, as it is sent; it holds until the machine or the program is another."""

    __tablename__ = "answers"

    machine_id: Mapped[UUID] = mapped_column(ForeignKey("machines.id"), primary_key=True)
    question: Mapped[str] = mapped_column(primary_key=True)
    content: Mapped[str]


class LineRow(Computed, Table):
    """A machine's line on the home screen, which depends on no date; no content where it could not be read."""

    __tablename__ = "lines"

    machine_id: Mapped[UUID] = mapped_column(ForeignKey("machines.id"), primary_key=True)
    job_state: Mapped[str | None]
    due_on: Mapped[list[date]] = mapped_column(ARRAY(Date))
    content: Mapped[str | None]


class PairingRow(Table):
    """A code that is typed on the machine under test once, so that an agent there knows which machine it is."""

    __tablename__ = "pairings"

    code: Mapped[str] = mapped_column(primary_key=True)
    machine_id: Mapped[UUID] = mapped_column(ForeignKey("machines.id"), index=True)
    until: Mapped[datetime]


class ShownRow(Table):
    """What a machine showed of itself when the bench agent last looked, and the build that it was held to be then."""

    __tablename__ = "shown"

    machine_id: Mapped[UUID] = mapped_column(ForeignKey("machines.id"), primary_key=True)
    build_id: Mapped[UUID] = mapped_column(ForeignKey("builds.id"), index=True)
    at: Mapped[datetime]
    # Parts as {"role", "label", "rated"}.
    parts: Mapped[list[dict[str, Any]]] = mapped_column(JSONB, default=list)
    firmware: Mapped[str | None]
    system: Mapped[str | None]


class ChoreRow(Table):
    """Something that a start has to finish, however often it is killed meanwhile."""

    __tablename__ = "chores"

    name: Mapped[str] = mapped_column(primary_key=True)


class ImportRow(Table):
    """How far a large run file is with being taken over; `problems` say why it was not."""

    __tablename__ = "imports"
    __table_args__ = (one_of("state", ImportState),)

    id: Mapped[UUID] = mapped_column(primary_key=True)
    by: Mapped[str]
    begun_at: Mapped[datetime]
    state: Mapped[ImportState] = mapped_column(default="running")
    stage: Mapped[str] = mapped_column(default="reading")
    done: Mapped[int] = mapped_column(default=0)
    total: Mapped[int] = mapped_column(default=0)
    machine_id: Mapped[UUID | None]
    problems: Mapped[list[dict[str, str]]] = mapped_column(JSONB, default=list)
