"""Machines, builds, work, plans, candidates and the shelf."""

from datetime import date, datetime
from decimal import Decimal
from typing import Any
from uuid import UUID

from sqlalchemy import (
    BigInteger,
    CheckConstraint,
    ForeignKey,
    ForeignKeyConstraint,
    Index,
    UniqueConstraint,
    func,
    text,
)
from sqlalchemy.dialects.postgresql import JSONB
from sqlalchemy.orm import Mapped, mapped_column, relationship

from lynxbill.core.record.build import Alternative, FitWord, PartRole, Wear
from lynxbill.core.record.ids import Plain
from lynxbill.core.record.plan import Change, Design, Order, PairBy
from lynxbill.core.record.run import Statistic
from lynxbill.core.terms.measure import Better, Combined, Kind, Role, Scale, Summary, TraceFigure
from lynxbill.core.terms.money import Basis
from lynxbill.store.tables.base import DecimalMark, SetAside, Table, Versioned, one_of


class MachineRow(Versioned, SetAside, Table):
    __tablename__ = "machines"
    __table_args__ = (
        CheckConstraint("currency ~ '^[A-Z]{3}$'", name="currency_iso"),
        CheckConstraint("labour_rate >= 0", name="labour_rate_positive"),
        CheckConstraint("price >= 0", name="price_positive"),
        CheckConstraint("jobs_a_week > 0", name="tasks_positive"),
        CheckConstraint("hour_worth >= 0", name="hour_worth_positive"),
        one_of("decimal_mark", DecimalMark),
        Index("ix_machines_created_at", "created_at", "id"),
    )

    id: Mapped[UUID] = mapped_column(primary_key=True)
    name: Mapped[str]
    owner: Mapped[str] = mapped_column(default="")
    question: Mapped[str] = mapped_column(default="")
    settles: Mapped[str] = mapped_column(default="", server_default="")
    asked_by: Mapped[str] = mapped_column(default="", server_default="")
    use: Mapped[str] = mapped_column(default="", server_default="")
    limits: Mapped[dict[str, Plain]] = mapped_column(default=dict, server_default=text("'{}'"))
    currency: Mapped[str]
    labour_rate: Mapped[Decimal | None]
    decimal_mark: Mapped[DecimalMark] = mapped_column(default=".")
    time_zone: Mapped[str] = mapped_column(default="UTC")
    price: Mapped[Decimal | None]
    tasks_a_week: Mapped[float | None]
    hour_worth: Mapped[Decimal | None]
    # Raised by every change of what belongs to the machine, its runs aside.
    revision: Mapped[int] = mapped_column(default=0, server_default=text("0"))
    # Raised by every change of a run or reading, and by nothing else.
    evidence_revision: Mapped[int] = mapped_column(BigInteger, default=0, server_default=text("0"))
    # Mixed into the sums of serial numbers that its agent sends; it is in no file that leaves the server.
    serial_salt: Mapped[str] = mapped_column(server_default=text("gen_random_uuid()::text"))
    is_demo: Mapped[bool] = mapped_column(default=False, server_default=text("false"))
    # For a moment it can be brought back; no query sees it meanwhile.
    removed_at: Mapped[datetime | None]
    created_at: Mapped[datetime] = mapped_column(server_default=func.now())


class WorkloadRow(Versioned, SetAside, Table):
    __tablename__ = "workloads"
    __table_args__ = (
        UniqueConstraint("machine_id", "name"),
        CheckConstraint("minutes_a_run > 0", name="minutes_positive"),
    )

    id: Mapped[UUID] = mapped_column(primary_key=True)
    machine_id: Mapped[UUID] = mapped_column(ForeignKey("machines.id"))
    name: Mapped[str]
    workload_version: Mapped[str]
    parameters: Mapped[dict[str, Plain]]
    loads: Mapped[list[str]] = mapped_column(default=list, server_default=text("'{}'"))
    target: Mapped[str | None]
    card: Mapped[str] = mapped_column(default="", server_default="")
    minutes_a_run: Mapped[float | None]
    position: Mapped[int]


class MeasureRow(SetAside, Table):
    __tablename__ = "measures"
    __table_args__ = (
        UniqueConstraint("workload_id", "name"),
        UniqueConstraint("id", "workload_id", "scale"),
        one_of("scale", Scale),
        one_of("kind", Kind),
        one_of("better", Better),
        one_of("combined_by", Combined),
        one_of("trace_figure", TraceFigure),
        one_of("trace_by", Summary),
        CheckConstraint("trace_minute > 0", name="trace_minute_positive"),
        CheckConstraint("step > 0", name="step_positive"),
        CheckConstraint("part_of <> id", name="part_of_another"),
        CheckConstraint('"of" >= 1', name="of_positive"),
        CheckConstraint(
            "(derived_from IS NULL) = (per_measure IS NULL AND per_parameter IS NULL AND needs IS NULL)",
            name="derived_by_something",
        ),
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
    part_of: Mapped[UUID | None] = mapped_column(ForeignKey("measures.id"))
    combined_by: Mapped[Combined | None]
    rated_as: Mapped[str | None]
    of: Mapped[int | None]
    derived_from: Mapped[UUID | None] = mapped_column(ForeignKey("measures.id"))
    per_measure: Mapped[UUID | None] = mapped_column(ForeignKey("measures.id"))
    per_parameter: Mapped[str | None]
    needs: Mapped[float | None]
    trace_figure: Mapped[TraceFigure | None]
    trace_of: Mapped[str | None]
    trace_by: Mapped[Summary | None]
    trace_minute: Mapped[float | None]
    position: Mapped[int]


class PartRow(Table):
    __tablename__ = "parts"
    __table_args__ = (one_of("role", PartRole), Index("ix_parts_machine_id", "machine_id"))

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
        one_of("wear", Wear),
    )

    id: Mapped[UUID] = mapped_column(primary_key=True)
    machine_id: Mapped[UUID] = mapped_column(ForeignKey("machines.id"))
    letter: Mapped[str]
    label: Mapped[str]
    position: Mapped[int]
    settings: Mapped[dict[str, Plain]]
    wear: Mapped[Wear | None]
    read: Mapped[dict[str, list[str]]] = mapped_column(JSONB, server_default=text("'{}'"), default=dict)


class BuildPartRow(Table):
    __tablename__ = "build_parts"
    __table_args__ = (UniqueConstraint("build_id", "position"),)

    build_id: Mapped[UUID] = mapped_column(ForeignKey("builds.id"), primary_key=True)
    part_id: Mapped[UUID] = mapped_column(ForeignKey("parts.id"), primary_key=True)
    position: Mapped[int]


class CandidateRow(Versioned, SetAside, Table):
    __tablename__ = "candidates"
    __table_args__ = (
        one_of("role", PartRole),
        one_of("basis", Basis),
        one_of("fit_answer", FitWord),
        one_of("alternative", Alternative),
        CheckConstraint("price >= 0 AND price_low >= 0", name="price_positive"),
        CheckConstraint("price_low <= price AND price <= price_high", name="price_ordered"),
        CheckConstraint("gain_low <= expected_gain AND expected_gain <= gain_high", name="gain_ordered"),
    )

    id: Mapped[UUID] = mapped_column(primary_key=True)
    machine_id: Mapped[UUID] = mapped_column(ForeignKey("machines.id"), index=True)
    position: Mapped[int]
    role: Mapped[PartRole]
    label: Mapped[str]
    rated: Mapped[dict[str, Plain]]
    price: Mapped[Decimal | None]
    basis: Mapped[Basis]
    prerequisites: Mapped[str]
    expected_gain: Mapped[float | None]
    expected_from: Mapped[str]
    fit_answer: Mapped[FitWord | None]
    fit_source: Mapped[str]
    swap_id: Mapped[UUID | None] = mapped_column(ForeignKey("swaps.id"))
    worked: Mapped[str]
    alternative: Mapped[Alternative] = mapped_column(default="part", server_default="part")
    ticked: Mapped[list[str]] = mapped_column(server_default=text("'{}'"))
    price_low: Mapped[Decimal | None]
    price_high: Mapped[Decimal | None]
    gain_low: Mapped[float | None]
    gain_high: Mapped[float | None]
    recorded_at: Mapped[datetime | None]


class RecheckRow(Versioned, Table):
    """`plan` is a copy, so that a later edit of the swap's plan leaves it as it was."""

    __tablename__ = "rechecks"
    __table_args__ = (
        ForeignKeyConstraint(["machine_id", "build_id"], ["builds.machine_id", "builds.id"]),
        Index("ix_rechecks_machine_id", "machine_id"),
    )

    id: Mapped[UUID] = mapped_column(primary_key=True)
    machine_id: Mapped[UUID] = mapped_column(ForeignKey("machines.id"))
    build_id: Mapped[UUID]
    due_on: Mapped[date]
    plan: Mapped[dict[str, Any]] = mapped_column(JSONB)
    note: Mapped[str]
    done: Mapped[bool]


class ShelfRow(Versioned, Table):
    """A part that no machine has now; it stays there when the machine that it came from is removed."""

    __tablename__ = "shelf"
    __table_args__ = (
        UniqueConstraint("from_part_id"),
        one_of("role", PartRole),
        CheckConstraint("worth >= 0", name="worth_positive"),
        CheckConstraint("currency ~ '^[A-Z]{3}$'", name="currency_iso"),
        CheckConstraint("(taken_on IS NULL) = (taken_name = '')", name="taken_by_somebody"),
    )

    id: Mapped[UUID] = mapped_column(primary_key=True)
    role: Mapped[PartRole]
    label: Mapped[str]
    rated: Mapped[dict[str, Plain]]
    worth: Mapped[Decimal]
    currency: Mapped[str]
    put_on: Mapped[date]
    from_name: Mapped[str] = mapped_column(default="")
    from_part_id: Mapped[UUID | None]
    note: Mapped[str] = mapped_column(default="")
    taken_name: Mapped[str] = mapped_column(default="")
    taken_on: Mapped[date | None]


class TemplateRow(Versioned, Table):
    """A technician's own template; those that come with the program stand in the core."""

    __tablename__ = "templates"
    __table_args__ = (UniqueConstraint("name"), one_of("change", Change))

    id: Mapped[UUID] = mapped_column(primary_key=True)
    name: Mapped[str]
    change: Mapped[Change]
    content: Mapped[dict[str, Any]] = mapped_column(JSONB)


class PlanRow(Versioned, Table):
    """The plan of a swap; while `swap_id` is empty it is the machine's open plan, for the next swap."""

    __tablename__ = "plans"
    __table_args__ = (
        Index("uq_plans_open", "machine_id", unique=True, postgresql_where=text("swap_id IS NULL")),
        Index("ix_plans_machine_id", "machine_id"),
        one_of("design", Design),
        one_of("pair_by", PairBy),
        one_of("change", Change),
        one_of('"order"', Order),
        CheckConstraint("warm_ups >= 0 AND rest_min >= 0 AND soak_min >= 0", name="times_positive"),
        CheckConstraint("sittings_a_side BETWEEN 1 AND 100", name="sittings_sensible"),
        CheckConstraint("runs_a_sitting BETWEEN 1 AND 10000", name="runs_sensible"),
        CheckConstraint(
            "at_most IS NULL OR (sittings_a_side >= 2 AND at_most > sittings_a_side "
            "AND at_most <= 2 * sittings_a_side + 1)",
            name="second_look_fits",
        ),
    )

    id: Mapped[UUID] = mapped_column(primary_key=True, server_default=text("gen_random_uuid()"))
    machine_id: Mapped[UUID] = mapped_column(ForeignKey("machines.id"))
    swap_id: Mapped[UUID | None] = mapped_column(ForeignKey("swaps.id"), unique=True)
    design: Mapped[Design]
    pair_by: Mapped[PairBy]
    sittings_a_side: Mapped[int | None]
    at_most: Mapped[int | None]
    runs_a_sitting: Mapped[int | None]
    runs: Mapped[dict[str, Plain]] = mapped_column(default=dict, server_default=text("'{}'"))
    judge_whole: Mapped[UUID | None] = mapped_column(ForeignKey("builds.id"))
    headline_id: Mapped[UUID | None] = mapped_column(ForeignKey("measures.id"))
    pairs: Mapped[list[Any]] = mapped_column(JSONB)
    borrow_spread_from: Mapped[list[UUID]]
    change: Mapped[Change | None]
    order: Mapped[Order] = mapped_column(server_default="before_then_after")
    conditions: Mapped[dict[str, Plain]] = mapped_column(server_default=text("'{}'"))
    warm_ups: Mapped[int] = mapped_column(server_default=text("0"))
    rest_min: Mapped[float] = mapped_column(server_default=text("0"))
    soak_min: Mapped[float] = mapped_column(server_default=text("0"))
    measures: Mapped[list["PlannedMeasureRow"]] = relationship(cascade="all, delete-orphan")


class PlannedMeasureRow(Table):
    __tablename__ = "planned_measures"
    __table_args__ = (
        one_of("role", Role),
        one_of("statistic", Statistic),
        CheckConstraint("matters_from > 0", name="matters_from_positive"),
        CheckConstraint("weight >= 0", name="weight_positive"),
    )

    plan_id: Mapped[UUID] = mapped_column(ForeignKey("plans.id"), primary_key=True)
    measure_id: Mapped[UUID] = mapped_column(ForeignKey("measures.id"), primary_key=True)
    role: Mapped[Role]
    matters_from: Mapped[float]
    hoped_for: Mapped[float | None]
    weight: Mapped[float | None]
    statistic: Mapped[Statistic | None]
