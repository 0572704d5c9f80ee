"""What every table stands on: types, names of constraints, columns that several have."""

from datetime import datetime
from decimal import Decimal
from typing import Any, ClassVar, Literal, get_args
from uuid import UUID

from sqlalchemy import BigInteger, CheckConstraint, DateTime, Float, MetaData, Numeric, Text, Uuid, text
from sqlalchemy.dialects.postgresql import ARRAY, JSONB
from sqlalchemy.orm import DeclarativeBase, Mapped, mapped_column

from lynxbill.core.heat.roles import ChannelRole
from lynxbill.core.heat.trace import TraceSource
from lynxbill.core.record.build import Alternative, FitWord, PartRole, Wear
from lynxbill.core.record.ids import Plain
from lynxbill.core.record.plan import Change, Design, Order, PairBy
from lynxbill.core.record.run import BootBy, HeldBack, Purpose, ReadingSource, RunState, Statistic
from lynxbill.core.record.swap import ExplanationState, NoteKind, OverWhat, Seen, Stage, SwapState
from lynxbill.core.terms.measure import Better, Combined, Kind, Role, Scale, Summary, TraceFigure
from lynxbill.core.terms.money import Basis, CostKind, SplitRule

DecimalMark = Literal[".", ","]
# What a JSON column of mixed kinds holds.
Json = str | int | float | bool | dict[str, "Json"] | list["Json"] | None
MarginField = Literal["matters_from", "hoped_for"]
ImportState = Literal["running", "done", "refused", "stopped", "failed"]
_WORDS = (
    Alternative,
    Basis,
    Better,
    NoteKind,
    BootBy,
    Change,
    Combined,
    Summary,
    TraceFigure,
    TraceSource,
    ChannelRole,
    CostKind,
    DecimalMark,
    Design,
    ExplanationState,
    FitWord,
    HeldBack,
    ImportState,
    Kind,
    MarginField,
    Order,
    OverWhat,
    PairBy,
    PartRole,
    Purpose,
    ReadingSource,
    Role,
    RunState,
    Scale,
    Seen,
    SplitRule,
    Stage,
    Statistic,
    SwapState,
    Wear,
)


def one_of(column: str, words: object) -> CheckConstraint:
    """Allow only the words of a `Literal`, so that the database and the core can't drift apart."""
    listed = ", ".join(f"'{word}'" for word in get_args(words))
    return CheckConstraint(f"{column} IN ({listed})", name=f"{column.strip(chr(34))}_known")


class Table(DeclarativeBase):
    metadata = MetaData(
        naming_convention={
            "pk": "pk_%(table_name)s",
            "fk": "fk_%(table_name)s_%(column_0_N_name)s",
            "uq": "uq_%(table_name)s_%(column_0_N_name)s",
            "ix": "ix_%(table_name)s_%(column_0_N_name)s",
            "ck": "ck_%(table_name)s_%(constraint_name)s",
        }
    )
    type_annotation_map: ClassVar[dict[Any, Any]] = {
        str: Text,
        **dict.fromkeys(_WORDS, Text),
        UUID: Uuid,
        float: Float(53),
        datetime: DateTime(timezone=True),
        dict[str, Plain]: JSONB,
        list[str]: ARRAY(Text),
        list[UUID]: ARRAY(Uuid),
        # Without a scale of its own PostgreSQL keeps an amount's digits as they were written.
        Decimal: Numeric(),
    }


class Versioned:
    """A row that people edit: a save based on an older version is refused."""

    id: Mapped[UUID]
    version: Mapped[int] = mapped_column(default=1, server_default=text("1"))


class SetAside:
    """A row that is listed with the reason why nothing more is done with it (None: it is not set aside)."""

    set_aside: Mapped[str | None]


class Computed:
    """What was computed of a machine: for which state of it (described, revision, evidence), and by which program."""

    described: Mapped[datetime]
    revision: Mapped[int] = mapped_column(BigInteger)
    evidence_revision: Mapped[int] = mapped_column(BigInteger)
    program: Mapped[str]
