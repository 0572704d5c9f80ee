"""Swaps with all that belongs to them, and the reports of them."""

from datetime import date, datetime
from decimal import Decimal
from typing import Any
from uuid import UUID

from sqlalchemy import (
    BigInteger,
    CheckConstraint,
    ForeignKey,
    ForeignKeyConstraint,
    Identity,
    Index,
    UniqueConstraint,
    text,
)
from sqlalchemy.dialects.postgresql import JSONB
from sqlalchemy.orm import Mapped, mapped_column, relationship

from lynxbill.core.record.ids import Plain
from lynxbill.core.record.swap import ExplanationState, NoteKind, OverWhat, Seen, Stage, SwapState
from lynxbill.core.terms.money import Basis, CostKind, SplitRule
from lynxbill.store.tables.base import MarginField, Table, Versioned, one_of


class SwapRow(Versioned, Table):
    __tablename__ = "swaps"
    __table_args__ = (
        ForeignKeyConstraint(["machine_id", "before_id"], ["builds.machine_id", "builds.id"]),
        ForeignKeyConstraint(["machine_id", "after_id"], ["builds.machine_id", "builds.id"]),
        CheckConstraint("before_id <> after_id", name="leads_to_another_build"),
        UniqueConstraint("machine_id", "position", deferrable=True, initially="DEFERRED"),
        one_of("state", SwapState),
        CheckConstraint("state <> 'open' OR opened_at IS NOT NULL", name="opening_dated"),
    )

    id: Mapped[UUID] = mapped_column(primary_key=True)
    machine_id: Mapped[UUID] = mapped_column(ForeignKey("machines.id"))
    before_id: Mapped[UUID]
    after_id: Mapped[UUID]
    label: Mapped[str]
    position: Mapped[int]
    side_changes: Mapped[list[str]]
    # Whether all that was shown of it stands in the ledger; not so for one that came from elsewhere without it.
    history_known: Mapped[bool] = mapped_column(default=True, server_default=text("true"))
    state: Mapped[SwapState] = mapped_column(default="planned", server_default="closed")
    declares: Mapped[list[str]] = mapped_column(default=list, server_default=text("'{}'"))
    opened_at: Mapped[datetime | None]
    looked_at: Mapped[datetime | None]
    closed_at: Mapped[datetime | None]
    gate_reason: Mapped[str] = mapped_column(default="", server_default="")
    gate_missing: Mapped[list[str]] = mapped_column(default=list, server_default=text("'{}'"))
    recognition_skipped: Mapped[str] = mapped_column(default="", server_default="")
    attempts: Mapped[list["AttemptRow"]] = relationship(order_by="AttemptRow.number", cascade="all, delete-orphan")
    costs: Mapped[list["CostRow"]] = relationship(order_by="CostRow.position", cascade="all, delete-orphan")
    steps: Mapped[list["StepRow"]] = relationship(order_by="StepRow.position", cascade="all, delete-orphan")
    recognitions: Mapped[list["RecognitionRow"]] = relationship(
        order_by="RecognitionRow.position", cascade="all, delete-orphan"
    )
    starts: Mapped[list["StartRow"]] = relationship(order_by="StartRow.at", cascade="all, delete-orphan")
    notes: Mapped[list["BenchNoteRow"]] = relationship(order_by="BenchNoteRow.at", cascade="all, delete-orphan")
    explanations: Mapped[list["ExplanationRow"]] = relationship(
        order_by="ExplanationRow.position", cascade="all, delete-orphan"
    )
    margin_edits: Mapped[list["MarginEditRow"]] = relationship(
        order_by="MarginEditRow.at", cascade="all, delete-orphan"
    )


class AttemptRow(Table):
    """A comparison that is measured over: its second attempt, its third."""

    __tablename__ = "attempts"
    __table_args__ = (
        one_of("sides", OverWhat),
        CheckConstraint("number BETWEEN 2 AND 3", name="three_at_most"),
        CheckConstraint("length(trim(reason)) > 0", name="reason_given"),
    )

    swap_id: Mapped[UUID] = mapped_column(ForeignKey("swaps.id"), primary_key=True)
    number: Mapped[int] = mapped_column(primary_key=True)
    at: Mapped[datetime]
    reason: Mapped[str]
    sides: Mapped[OverWhat]
    sittings_a_side: Mapped[int | None]
    at_most: Mapped[int | None]


class ShowingRow(Table):
    """The ledger: a verdict as it was first given to somebody; rows are added, never changed."""

    __tablename__ = "showings"
    __table_args__ = (Index("ix_showings_machine_id", "machine_id"),)

    id: Mapped[int] = mapped_column(BigInteger, Identity(), primary_key=True)
    machine_id: Mapped[UUID] = mapped_column(ForeignKey("machines.id"))
    swap_id: Mapped[UUID]
    measure_id: Mapped[UUID]
    at: Mapped[datetime]
    by: Mapped[str]
    look: Mapped[int | None]
    level: Mapped[float]
    rule: Mapped[str]
    verdict: Mapped[str]
    sittings: Mapped[list[UUID]]
    digest: Mapped[str]
    attempt: Mapped[int] = mapped_column(default=1)
    compared: Mapped[UUID | None]
    gain: Mapped[float | None]
    low: Mapped[float | None]
    high: Mapped[float | None]
    boots: Mapped[dict[str, Plain]]
    conditions: Mapped[dict[str, Any]] = mapped_column(JSONB)
    plan: Mapped[str]
    rules: Mapped[int | None]


class CostRow(Table):
    __tablename__ = "costs"
    __table_args__ = (
        UniqueConstraint("swap_id", "position", deferrable=True, initially="DEFERRED"),
        one_of("kind", CostKind),
        CheckConstraint("amount >= 0 AND low >= 0", name="amounts_positive"),
        CheckConstraint("coalesce(low, amount) <= amount AND amount <= coalesce(high, amount)", name="ordered"),
        CheckConstraint("rate > 0", name="rate_positive"),
        CheckConstraint("quantity > 0", name="quantity_positive"),
        CheckConstraint("worth >= 0", name="worth_positive"),
        one_of("basis", Basis),
        one_of("split_by", SplitRule),
        CheckConstraint("(split_by IS NULL) = (shares = '{}')", name="split_has_weights"),
        CheckConstraint("running IS NULL OR kind = 'electricity'", name="only_electricity_runs"),
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
    quantity: Mapped[Decimal | None]
    unit: Mapped[str] = mapped_column(default="", server_default="")
    basis: Mapped[Basis | None]
    worth: Mapped[Decimal | None]
    supplier: Mapped[str] = mapped_column(default="", server_default="")
    on: Mapped[date | None]
    running: Mapped[dict[str, Any] | None] = mapped_column(JSONB(none_as_null=True))
    split_by: Mapped[SplitRule | None]
    # Weights by swap, as decimal texts.
    shares: Mapped[dict[str, Any]] = mapped_column(JSONB, default=dict, server_default=text("'{}'"))


class StepRow(Versioned, Table):
    __tablename__ = "steps"
    __table_args__ = (one_of("stage", Stage), CheckConstraint("length(trim(text)) > 0", name="text_given"))

    id: Mapped[UUID] = mapped_column(primary_key=True)
    swap_id: Mapped[UUID] = mapped_column(ForeignKey("swaps.id"), index=True)
    position: Mapped[int]
    stage: Mapped[Stage]
    text: Mapped[str]
    done_at: Mapped[datetime | None]


class RecognitionRow(Versioned, Table):
    __tablename__ = "recognitions"
    __table_args__ = (
        one_of("result", Seen),
        CheckConstraint("result <> 'pass with remark' OR length(trim(remark)) > 0", name="remark_given"),
        CheckConstraint("result IS NULL OR length(trim(seen)) > 0", name="seen_given"),
    )

    id: Mapped[UUID] = mapped_column(primary_key=True)
    swap_id: Mapped[UUID] = mapped_column(ForeignKey("swaps.id"), index=True)
    position: Mapped[int]
    what: Mapped[str]
    expected: Mapped[str]
    seen: Mapped[str]
    result: Mapped[Seen | None]
    remark: Mapped[str]


class StartRow(Versioned, Table):
    __tablename__ = "starts"
    __table_args__ = (CheckConstraint("rework_min >= 0", name="rework_positive"),)

    id: Mapped[UUID] = mapped_column(primary_key=True)
    swap_id: Mapped[UUID] = mapped_column(ForeignKey("swaps.id"), index=True)
    at: Mapped[datetime]
    booted: Mapped[bool]
    note: Mapped[str]
    rework_min: Mapped[float]


class BenchNoteRow(Versioned, Table):
    __tablename__ = "bench_notes"
    __table_args__ = (
        CheckConstraint("(picture_bytes IS NULL) = (picture_type IS NULL)", name="picture_typed"),
        CheckConstraint("length(picture_bytes) <= 10485760", name="picture_size"),
        one_of("kind", NoteKind),
        CheckConstraint(
            "(kind IN ('dust found', 'paste found')) = (step IS NOT NULL)", name="step_of_what_was_found"
        ),
        CheckConstraint("step BETWEEN 1 AND 4", name="step_on_scale"),
    )

    id: Mapped[UUID] = mapped_column(primary_key=True)
    swap_id: Mapped[UUID] = mapped_column(ForeignKey("swaps.id"), index=True)
    at: Mapped[datetime]
    text: Mapped[str]
    kind: Mapped[NoteKind]
    step: Mapped[int | None]
    picture_type: Mapped[str | None]
    picture_bytes: Mapped[bytes | None] = mapped_column(deferred=True)


class ExplanationRow(Versioned, Table):
    __tablename__ = "explanations"
    __table_args__ = (
        one_of("state", ExplanationState),
        CheckConstraint("state = 'untested' OR length(trim(grounds)) > 0", name="grounds_given"),
    )

    id: Mapped[UUID] = mapped_column(primary_key=True)
    swap_id: Mapped[UUID] = mapped_column(ForeignKey("swaps.id"), index=True)
    position: Mapped[int]
    text: Mapped[str]
    state: Mapped[ExplanationState]
    test: Mapped[str]
    grounds: Mapped[str]


class MarginEditRow(Table):
    __tablename__ = "margin_edits"
    __table_args__ = (one_of("field", MarginField), CheckConstraint("length(trim(reason)) > 0", name="reason_given"))

    id: Mapped[UUID] = mapped_column(primary_key=True, server_default=text("gen_random_uuid()"))
    swap_id: Mapped[UUID] = mapped_column(ForeignKey("swaps.id"), index=True)
    measure_id: Mapped[UUID] = mapped_column(ForeignKey("measures.id"))
    at: Mapped[datetime]
    field: Mapped[MarginField]
    old: Mapped[float | None]
    new: Mapped[float | None]
    reason: Mapped[str]
    late: Mapped[bool]


class ReportRow(Table):
    """A report that was handed out, as it was; rows are added, never changed."""

    __tablename__ = "reports"
    __table_args__ = (UniqueConstraint("machine_id", "number"), CheckConstraint("number > 0", name="number_positive"))

    id: Mapped[UUID] = mapped_column(primary_key=True)
    machine_id: Mapped[UUID] = mapped_column(ForeignKey("machines.id"))
    number: Mapped[int]
    made_at: Mapped[datetime]
    by: Mapped[str]
    before_id: Mapped[UUID]
    after_id: Mapped[UUID]
    form: Mapped[str]
    # What the form and the day have no part in: the same evidence gives the same report.
    digest: Mapped[str]
    since: Mapped[list[str]]
    shape: Mapped[int]
    content: Mapped[dict[str, Any]] = mapped_column(JSONB)
