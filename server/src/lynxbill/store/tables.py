"""The tables, with what the database itself refuses: see the checks, keys and the seal triggers in migrations."""

from datetime import date, datetime
from decimal import Decimal
from typing import Any, ClassVar, Literal, get_args
from uuid import UUID

from sqlalchemy import (
    CheckConstraint,
    DateTime,
    Float,
    ForeignKey,
    ForeignKeyConstraint,
    Index,
    MetaData,
    Numeric,
    Text,
    UniqueConstraint,
    Uuid,
    func,
    text,
)
from sqlalchemy.dialects.postgresql import ARRAY, JSONB
from sqlalchemy.orm import DeclarativeBase, Mapped, mapped_column, relationship

from lynxbill.core.case import Design, PairBy, PartRole, Plain, Purpose, ReadingSource, RunState, Statistic
from lynxbill.core.measure import Better, Kind, Role, Scale
from lynxbill.core.money import CostKind

DecimalMark = Literal[".", ","]
_WORDS = (
    Better,
    CostKind,
    DecimalMark,
    Design,
    Kind,
    PairBy,
    PartRole,
    Purpose,
    ReadingSource,
    Role,
    RunState,
    Scale,
    Statistic,
)


def _one_of(column: str, words: object) -> CheckConstraint:
    """Allow only the words of a `Literal`, so that the database and the core can't drift apart."""
    listed = ", ".join(f"'{word}'" for word in get_args(words))
    return CheckConstraint(f"{column} IN ({listed})", name=f"{column}_known")


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

    version: Mapped[int] = mapped_column(default=1, server_default=text("1"))


class MachineRow(Versioned, Table):
    __tablename__ = "machines"
    __table_args__ = (
        CheckConstraint("currency ~ '^[A-Z]{3}$'", name="currency_iso"),
        CheckConstraint("labour_rate >= 0", name="labour_rate_positive"),
        _one_of("decimal_mark", DecimalMark),
    )

    id: Mapped[UUID] = mapped_column(primary_key=True)
    name: Mapped[str]
    owner: Mapped[str] = mapped_column(default="")
    question: Mapped[str] = mapped_column(default="")
    currency: Mapped[str]
    labour_rate: Mapped[Decimal | None]
    decimal_mark: Mapped[DecimalMark] = mapped_column(default=".")
    time_zone: Mapped[str] = mapped_column(default="UTC")
    is_demo: Mapped[bool] = mapped_column(default=False, server_default=text("false"))
    created_at: Mapped[datetime] = mapped_column(server_default=func.now())


class WorkloadRow(Table):
    __tablename__ = "workloads"
    __table_args__ = (UniqueConstraint("machine_id", "name"),)

    id: Mapped[UUID] = mapped_column(primary_key=True)
    machine_id: Mapped[UUID] = mapped_column(ForeignKey("machines.id"))
    name: Mapped[str]
    workload_version: Mapped[str]
    parameters: Mapped[dict[str, Plain]]
    position: Mapped[int]


class MeasureRow(Table):
    __tablename__ = "measures"
    __table_args__ = (
        UniqueConstraint("workload_id", "name"),
        UniqueConstraint("id", "workload_id", "scale"),
        _one_of("scale", Scale),
        _one_of("kind", Kind),
        _one_of("better", Better),
        CheckConstraint("step > 0", name="step_positive"),
    )

    id: Mapped[UUID] = mapped_column(primary_key=True)
    workload_id: Mapped[UUID] = mapped_column(ForeignKey("workloads.id"))
    name: Mapped[str]
    unit: Mapped[str]
    scale: Mapped[Scale]
    kind: Mapped[Kind]
    better: Mapped[Better]
    step: Mapped[float | None]
    levels: Mapped[list[str]]
    position: Mapped[int]


class PartRow(Table):
    __tablename__ = "parts"
    __table_args__ = (_one_of("role", PartRole),)

    id: Mapped[UUID] = mapped_column(primary_key=True)
    machine_id: Mapped[UUID] = mapped_column(ForeignKey("machines.id"))
    role: Mapped[PartRole]
    label: Mapped[str]
    rated: Mapped[dict[str, Plain]]


class BuildRow(Versioned, Table):
    __tablename__ = "builds"
    __table_args__ = (
        UniqueConstraint("machine_id", "letter"),
        UniqueConstraint("machine_id", "position"),
        UniqueConstraint("machine_id", "id"),
    )

    id: Mapped[UUID] = mapped_column(primary_key=True)
    machine_id: Mapped[UUID] = mapped_column(ForeignKey("machines.id"))
    letter: Mapped[str]
    label: Mapped[str]
    position: Mapped[int]
    settings: Mapped[dict[str, Plain]]


class BuildPartRow(Table):
    __tablename__ = "build_parts"
    __table_args__ = (UniqueConstraint("build_id", "position"),)

    build_id: Mapped[UUID] = mapped_column(ForeignKey("builds.id"), primary_key=True)
    part_id: Mapped[UUID] = mapped_column(ForeignKey("parts.id"), primary_key=True)
    position: Mapped[int]


class SwapRow(Versioned, Table):
    __tablename__ = "swaps"
    __table_args__ = (
        ForeignKeyConstraint(["machine_id", "before_id"], ["builds.machine_id", "builds.id"]),
        ForeignKeyConstraint(["machine_id", "after_id"], ["builds.machine_id", "builds.id"]),
        CheckConstraint("before_id <> after_id", name="leads_to_another_build"),
        UniqueConstraint("machine_id", "position"),
    )

    id: Mapped[UUID] = mapped_column(primary_key=True)
    machine_id: Mapped[UUID] = mapped_column(ForeignKey("machines.id"))
    before_id: Mapped[UUID]
    after_id: Mapped[UUID]
    label: Mapped[str]
    position: Mapped[int]
    side_changes: Mapped[list[str]]
    verdict_shown_for: Mapped[list[UUID] | None]
    costs: Mapped[list["CostRow"]] = relationship(order_by="CostRow.position", cascade="all, delete-orphan")


class CostRow(Table):
    __tablename__ = "costs"
    __table_args__ = (
        UniqueConstraint("swap_id", "position", deferrable=True, initially="DEFERRED"),
        _one_of("kind", CostKind),
        CheckConstraint("amount >= 0 AND low >= 0", name="amounts_positive"),
        CheckConstraint("coalesce(low, amount) <= amount AND amount <= coalesce(high, amount)", name="ordered"),
        CheckConstraint("rate > 0", name="rate_positive"),
    )

    id: Mapped[UUID] = mapped_column(primary_key=True, server_default=text("gen_random_uuid()"))
    swap_id: Mapped[UUID] = mapped_column(ForeignKey("swaps.id"))
    position: Mapped[int]
    kind: Mapped[CostKind]
    label: Mapped[str]
    amount: Mapped[Decimal]
    low: Mapped[Decimal | None]
    high: Mapped[Decimal | None]
    currency: Mapped[str]
    rate: Mapped[Decimal | None]
    rate_date: Mapped[date | None]


class PlanRow(Versioned, Table):
    """The plan of a swap; while `swap_id` is empty it is the machine's open plan, for the next swap."""

    __tablename__ = "plans"
    __table_args__ = (
        Index("uq_plans_open", "machine_id", unique=True, postgresql_where=text("swap_id IS NULL")),
        _one_of("design", Design),
        _one_of("pair_by", PairBy),
        CheckConstraint("sittings_a_side BETWEEN 1 AND 100", name="sittings_sensible"),
        CheckConstraint("runs_a_sitting BETWEEN 1 AND 10000", name="runs_sensible"),
    )

    id: Mapped[UUID] = mapped_column(primary_key=True, server_default=text("gen_random_uuid()"))
    machine_id: Mapped[UUID] = mapped_column(ForeignKey("machines.id"))
    swap_id: Mapped[UUID | None] = mapped_column(ForeignKey("swaps.id"), unique=True)
    design: Mapped[Design]
    pair_by: Mapped[PairBy]
    sittings_a_side: Mapped[int | None]
    runs_a_sitting: Mapped[int | None]
    headline_id: Mapped[UUID | None] = mapped_column(ForeignKey("measures.id"))
    pairs: Mapped[list[Any]] = mapped_column(JSONB)
    borrow_spread_from: Mapped[list[UUID]]
    measures: Mapped[list["PlannedMeasureRow"]] = relationship(cascade="all, delete-orphan")


class PlannedMeasureRow(Table):
    __tablename__ = "planned_measures"
    __table_args__ = (
        _one_of("role", Role),
        CheckConstraint("matters_from > 0", name="matters_from_positive"),
        CheckConstraint("weight >= 0", name="weight_positive"),
    )

    plan_id: Mapped[UUID] = mapped_column(ForeignKey("plans.id"), primary_key=True)
    measure_id: Mapped[UUID] = mapped_column(ForeignKey("measures.id"), primary_key=True)
    role: Mapped[Role]
    matters_from: Mapped[float]
    hoped_for: Mapped[float | None]
    weight: Mapped[float]


class SittingRow(Versioned, Table):
    __tablename__ = "sittings"
    __table_args__ = (
        UniqueConstraint("build_id", "position"),
        _one_of("purpose", Purpose),
        CheckConstraint("ambient_c BETWEEN -60 AND 80", name="ambient_sensible"),
    )

    id: Mapped[UUID] = mapped_column(primary_key=True)
    build_id: Mapped[UUID] = mapped_column(ForeignKey("builds.id"))
    position: Mapped[int]
    purpose: Mapped[Purpose]
    started_at: Mapped[datetime]
    ambient_c: Mapped[float | None]
    conditions: Mapped[dict[str, Plain]]


class RunRow(Versioned, Table):
    __tablename__ = "runs"
    __table_args__ = (
        UniqueConstraint("sitting_id", "workload_id", "warm_up", "position"),
        UniqueConstraint("id", "workload_id"),
        _one_of("state", RunState),
        CheckConstraint("state = 'complete' OR length(trim(reason)) > 0", name="reason_given"),
        CheckConstraint("state = 'complete' OR reason IS NOT NULL", name="reason_present"),
        CheckConstraint("position > 0", name="position_positive"),
    )

    id: Mapped[UUID] = mapped_column(primary_key=True)
    sitting_id: Mapped[UUID] = mapped_column(ForeignKey("sittings.id"))
    workload_id: Mapped[UUID] = mapped_column(ForeignKey("workloads.id"))
    workload_version: Mapped[str]
    parameters: Mapped[dict[str, Plain]]
    position: Mapped[int]
    state: Mapped[RunState]
    reason: Mapped[str | None]
    warm_up: Mapped[bool]
    target: Mapped[str | None]
    pair_label: Mapped[str | None]
    started_at: Mapped[datetime | None]
    duration_s: Mapped[float | None]
    soak_s: Mapped[float | None]
    excluded_late_reason: Mapped[str | None]
    excluded_late_at: Mapped[datetime | None]
    readings: Mapped[list["ReadingRow"]] = relationship(cascade="all, delete-orphan")


class ReadingRow(Table):
    __tablename__ = "readings"
    __table_args__ = (
        ForeignKeyConstraint(["run_id", "workload_id"], ["runs.id", "runs.workload_id"]),
        ForeignKeyConstraint(
            ["measure_id", "workload_id", "scale"], ["measures.id", "measures.workload_id", "measures.scale"]
        ),
        CheckConstraint("scale <> 'ratio' OR low > 0", name="ratio_above_zero"),
        CheckConstraint("low > '-Infinity' AND low <= high AND high < 'Infinity'", name="finite_and_ordered"),
        _one_of("source", ReadingSource),
        _one_of("statistic", Statistic),
    )

    run_id: Mapped[UUID] = mapped_column(primary_key=True)
    measure_id: Mapped[UUID] = mapped_column(primary_key=True)
    workload_id: Mapped[UUID]
    scale: Mapped[Scale]
    low: Mapped[float]
    high: Mapped[float]
    about: Mapped[bool]
    source: Mapped[ReadingSource | None]
    statistic: Mapped[Statistic | None]
