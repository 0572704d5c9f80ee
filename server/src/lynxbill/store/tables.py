"""The tables, with what the database itself refuses: see the checks, keys and the seal triggers in migrations."""

from datetime import date, datetime
from decimal import Decimal
from typing import Any, ClassVar, Literal, get_args
from uuid import UUID

from sqlalchemy import (
    BigInteger,
    CheckConstraint,
    Date,
    DateTime,
    Float,
    ForeignKey,
    ForeignKeyConstraint,
    Identity,
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


def _one_of(column: str, words: object) -> CheckConstraint:
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


class MachineRow(Versioned, SetAside, Table):
    __tablename__ = "machines"
    __table_args__ = (
        CheckConstraint("currency ~ '^[A-Z]{3}$'", name="currency_iso"),
        CheckConstraint("labour_rate >= 0", name="labour_rate_positive"),
        CheckConstraint("price >= 0", name="price_positive"),
        CheckConstraint("jobs_a_week > 0", name="jobs_positive"),
        CheckConstraint("hour_worth >= 0", name="hour_worth_positive"),
        _one_of("decimal_mark", DecimalMark),
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
    jobs_a_week: Mapped[float | None]
    hour_worth: Mapped[Decimal | None]
    # Raised by every change of what belongs to the machine, its runs aside.
    revision: Mapped[int] = mapped_column(default=0, server_default=text("0"))
    # Raised by every change of a run or reading, and by nothing else.
    evidence: Mapped[int] = mapped_column(BigInteger, default=0, server_default=text("0"))
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
        _one_of("scale", Scale),
        _one_of("kind", Kind),
        _one_of("better", Better),
        _one_of("combined_by", Combined),
        _one_of("trace_figure", TraceFigure),
        _one_of("trace_by", Summary),
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
    __table_args__ = (_one_of("role", PartRole), Index("ix_parts_machine_id", "machine_id"))

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
        _one_of("wear", Wear),
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


class SwapRow(Versioned, Table):
    __tablename__ = "swaps"
    __table_args__ = (
        ForeignKeyConstraint(["machine_id", "before_id"], ["builds.machine_id", "builds.id"]),
        ForeignKeyConstraint(["machine_id", "after_id"], ["builds.machine_id", "builds.id"]),
        CheckConstraint("before_id <> after_id", name="leads_to_another_build"),
        UniqueConstraint("machine_id", "position", deferrable=True, initially="DEFERRED"),
        _one_of("state", SwapState),
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
        _one_of("sides", OverWhat),
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
    evidence: Mapped[str]
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
        _one_of("kind", CostKind),
        CheckConstraint("amount >= 0 AND low >= 0", name="amounts_positive"),
        CheckConstraint("coalesce(low, amount) <= amount AND amount <= coalesce(high, amount)", name="ordered"),
        CheckConstraint("rate > 0", name="rate_positive"),
        CheckConstraint("quantity > 0", name="quantity_positive"),
        CheckConstraint("worth >= 0", name="worth_positive"),
        _one_of("basis", Basis),
        _one_of("split_by", SplitRule),
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
    __table_args__ = (_one_of("stage", Stage), CheckConstraint("length(trim(text)) > 0", name="text_given"))

    id: Mapped[UUID] = mapped_column(primary_key=True)
    swap_id: Mapped[UUID] = mapped_column(ForeignKey("swaps.id"), index=True)
    position: Mapped[int]
    stage: Mapped[Stage]
    text: Mapped[str]
    done_at: Mapped[datetime | None]


class RecognitionRow(Versioned, Table):
    __tablename__ = "recognitions"
    __table_args__ = (
        _one_of("result", Seen),
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
        _one_of("kind", NoteKind),
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
        _one_of("state", ExplanationState),
        CheckConstraint("state = 'untested' OR length(trim(evidence)) > 0", name="evidence_given"),
    )

    id: Mapped[UUID] = mapped_column(primary_key=True)
    swap_id: Mapped[UUID] = mapped_column(ForeignKey("swaps.id"), index=True)
    position: Mapped[int]
    text: Mapped[str]
    state: Mapped[ExplanationState]
    test: Mapped[str]
    evidence: Mapped[str]


class MarginEditRow(Table):
    __tablename__ = "margin_edits"
    __table_args__ = (_one_of("field", MarginField), CheckConstraint("length(trim(reason)) > 0", name="reason_given"))

    id: Mapped[UUID] = mapped_column(primary_key=True, server_default=text("gen_random_uuid()"))
    swap_id: Mapped[UUID] = mapped_column(ForeignKey("swaps.id"), index=True)
    measure_id: Mapped[UUID] = mapped_column(ForeignKey("measures.id"))
    at: Mapped[datetime]
    field: Mapped[MarginField]
    old: Mapped[float | None]
    new: Mapped[float | None]
    reason: Mapped[str]
    late: Mapped[bool]


class CandidateRow(Versioned, SetAside, Table):
    __tablename__ = "candidates"
    __table_args__ = (
        _one_of("role", PartRole),
        _one_of("basis", Basis),
        _one_of("fit_said", FitWord),
        _one_of("alternative", Alternative),
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
    fit_said: Mapped[FitWord | None]
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
        _one_of("role", PartRole),
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
    __table_args__ = (UniqueConstraint("name"), _one_of("change", Change))

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
        _one_of("design", Design),
        _one_of("pair_by", PairBy),
        _one_of("change", Change),
        _one_of('"order"', Order),
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
        _one_of("role", Role),
        _one_of("statistic", Statistic),
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


class SittingRow(Versioned, Table):
    __tablename__ = "sittings"
    __table_args__ = (
        UniqueConstraint("build_id", "position"),
        _one_of("purpose", Purpose),
        CheckConstraint("ambient_c BETWEEN -60 AND 80", name="ambient_sensible"),
        _one_of("boot_by", BootBy),
        CheckConstraint("boot_by IS NULL OR boot IS NOT NULL", name="boot_given"),
        CheckConstraint("(set_aside_reason IS NULL) = (set_aside_at IS NULL)", name="set_aside_dated"),
    )

    id: Mapped[UUID] = mapped_column(primary_key=True)
    build_id: Mapped[UUID] = mapped_column(ForeignKey("builds.id"))
    position: Mapped[int]
    purpose: Mapped[Purpose]
    started_at: Mapped[datetime]
    ambient_c: Mapped[float | None]
    conditions: Mapped[dict[str, Plain]]
    boot: Mapped[str | None]
    boot_by: Mapped[BootBy | None]
    closed_at: Mapped[datetime | None]
    mount: Mapped[int | None]
    set_aside_reason: Mapped[str | None]
    set_aside_at: Mapped[datetime | None]
    set_aside_over: Mapped[bool] = mapped_column(default=False, server_default=text("false"))
    attempt: Mapped[int] = mapped_column(default=1, server_default=text("1"))


class RunRow(Versioned, Table):
    __tablename__ = "runs"
    __table_args__ = (
        UniqueConstraint("sitting_id", "workload_id", "warm_up", "position"),
        UniqueConstraint("id", "workload_id"),
        _one_of("state", RunState),
        _one_of("held_back", HeldBack),
        CheckConstraint("state = 'complete' OR length(trim(reason)) > 0", name="reason_given"),
        CheckConstraint("state = 'complete' OR reason IS NOT NULL", name="reason_present"),
        CheckConstraint("position > 0", name="position_positive"),
        Index("ix_runs_machine_id_sitting_id", "machine_id", "sitting_id"),
    )

    id: Mapped[UUID] = mapped_column(primary_key=True)
    machine_id: Mapped[UUID] = mapped_column(ForeignKey("machines.id"))
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
    held_back: Mapped[HeldBack | None]
    conditions: Mapped[dict[str, Plain]] = mapped_column(server_default=text("'{}'"))
    note: Mapped[str] = mapped_column(default="", server_default="")
    written_at: Mapped[datetime | None]
    left_out_at: Mapped[datetime | None]
    readings: Mapped[list["ReadingRow"]] = relationship(cascade="all, delete-orphan")


class RunPictureRow(Table):
    """
    A picture of what a run's figure was read off: apart from the run, for it is asked for by itself, and it may be
    there before the run is recorded. Its place in the sitting is then the picture's.
    """

    __tablename__ = "run_pictures"
    __table_args__ = (
        CheckConstraint("length(picture_bytes) <= 10485760", name="picture_size"),
        Index("ix_run_pictures_machine_id_sitting_id", "machine_id", "sitting_id"),
    )

    run_id: Mapped[UUID] = mapped_column(primary_key=True)
    machine_id: Mapped[UUID] = mapped_column(ForeignKey("machines.id"))
    sitting_id: Mapped[UUID] = mapped_column(ForeignKey("sittings.id"))
    workload_id: Mapped[UUID] = mapped_column(ForeignKey("workloads.id"), index=True)
    position: Mapped[int]
    warm_up: Mapped[bool]
    picture_type: Mapped[str]
    picture_bytes: Mapped[bytes]
    at: Mapped[datetime]


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
        Index("ix_readings_machine_id_sitting_id", "machine_id", "sitting_id"),
        Index("ix_readings_measure_id", "measure_id"),
    )

    machine_id: Mapped[UUID]
    sitting_id: Mapped[UUID]
    run_id: Mapped[UUID] = mapped_column(primary_key=True)
    measure_id: Mapped[UUID] = mapped_column(primary_key=True)
    workload_id: Mapped[UUID]
    scale: Mapped[Scale]
    low: Mapped[float]
    high: Mapped[float]
    about: Mapped[bool]
    source: Mapped[ReadingSource | None]
    statistic: Mapped[Statistic | None]
    confirmed: Mapped[bool]


class EditRow(Table):
    """One member of evidence that was changed after it had been written; rows are added, never changed."""

    __tablename__ = "edits"
    __table_args__ = (Index("ix_edits_machine_id_sitting_id", "machine_id", "sitting_id"),)

    id: Mapped[int] = mapped_column(BigInteger, Identity(), primary_key=True)
    machine_id: Mapped[UUID] = mapped_column(ForeignKey("machines.id"))
    sitting_id: Mapped[UUID | None]
    run_id: Mapped[UUID | None]
    measure_id: Mapped[UUID | None]
    member: Mapped[str]
    old: Mapped[Any] = mapped_column(JSONB)
    new: Mapped[Any] = mapped_column(JSONB)
    by: Mapped[str]
    at: Mapped[datetime]
    reason: Mapped[str]


class SheetRow(Table):
    """
    What is kept of one workload's runs in one sitting, written with every save; no content where all was emptied.

    `shape` is the version of `core.reading.tally` that made it, `stamp` the machine's count of evidence when it was
    written.
    """

    __tablename__ = "sheets"
    __table_args__ = (Index("ix_sheets_machine_id", "machine_id"),)

    sitting_id: Mapped[UUID] = mapped_column(ForeignKey("sittings.id"), primary_key=True)
    workload_id: Mapped[UUID] = mapped_column(ForeignKey("workloads.id"), primary_key=True)
    machine_id: Mapped[UUID] = mapped_column(ForeignKey("machines.id"))
    shape: Mapped[int]
    stamp: Mapped[int] = mapped_column(BigInteger)
    # Else a sheet without content would be JSON's null, which the database takes for something.
    content: Mapped[dict[str, Any] | None] = mapped_column(JSONB(none_as_null=True))


class Computed:
    """What was computed of a machine: for which state of it (described, revision, evidence), and by which program."""

    described: Mapped[datetime]
    revision: Mapped[int] = mapped_column(BigInteger)
    evidence: Mapped[int] = mapped_column(BigInteger)
    program: Mapped[str]


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
    stand: Mapped[str | None]
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


class TraceRow(Table):
    """
    What sensors said during a run, under the id of that run: it comes while that lasts, before the run is recorded.
    """

    __tablename__ = "traces"

    id: Mapped[UUID] = mapped_column(primary_key=True)
    machine_id: Mapped[UUID] = mapped_column(ForeignKey("machines.id"))
    sitting_id: Mapped[UUID] = mapped_column(ForeignKey("sittings.id"), index=True)
    workload_id: Mapped[UUID] = mapped_column(ForeignKey("workloads.id"), index=True)
    position: Mapped[int]
    warm_up: Mapped[bool]
    started_at: Mapped[datetime]
    heard_at: Mapped[datetime]
    ended: Mapped[bool] = mapped_column(default=False, server_default=text("false"))
    # Pairs of seconds and phase; and by role, why no sensor tells it.
    marks: Mapped[list[list[Any]]] = mapped_column(JSONB, default=list)
    missing: Mapped[dict[str, Plain]] = mapped_column(default=dict)
    source: Mapped[TraceSource] = mapped_column(default="agent", server_default="agent")
    # What the agent saw beside the sensors when it was last heard of while the run lasted.
    seen: Mapped[dict[str, Plain]] = mapped_column(default=dict, server_default="{}")

    __table_args__ = (Index("ix_traces_machine_id_ended", "machine_id", "ended"), _one_of("source", TraceSource))


class ChannelRow(Table):
    """One sensor of a trace; `count` samples are kept of it, from `low` to `high`."""

    __tablename__ = "trace_channels"

    trace_id: Mapped[UUID] = mapped_column(ForeignKey("traces.id"), primary_key=True)
    number: Mapped[int] = mapped_column(primary_key=True)
    role: Mapped[str]
    of: Mapped[str]
    unit: Mapped[str]
    sensor: Mapped[str]
    stands_in: Mapped[bool]
    count: Mapped[int] = mapped_column(default=0)
    low: Mapped[float | None]
    high: Mapped[float | None]


class ChunkRow(Table):
    """A stretch of samples of a channel: seconds and values, as numbers of eight bytes one after another."""

    __tablename__ = "trace_chunks"
    __table_args__ = (
        ForeignKeyConstraint(["trace_id", "channel"], ["trace_channels.trace_id", "trace_channels.number"]),
    )

    trace_id: Mapped[UUID] = mapped_column(primary_key=True)
    channel: Mapped[int] = mapped_column(primary_key=True)
    first: Mapped[int] = mapped_column(primary_key=True)
    count: Mapped[int]
    from_s: Mapped[float]
    to_s: Mapped[float]
    at: Mapped[bytes]
    held: Mapped[bytes]


class LogHeadingRow(Table):
    """What a column of sensor logs was said to be, by its heading; without a role it is not taken."""

    __tablename__ = "log_headings"
    __table_args__ = (_one_of("role", ChannelRole),)

    heading: Mapped[str] = mapped_column(primary_key=True)
    role: Mapped[ChannelRole | None]
    of: Mapped[str]
    unit: Mapped[str]


class ChoreRow(Table):
    """Something that a start has to finish, however often it is killed meanwhile."""

    __tablename__ = "chores"

    name: Mapped[str] = mapped_column(primary_key=True)


class ImportRow(Table):
    """How far a large run file is with being taken over; `problems` say why it was not."""

    __tablename__ = "imports"
    __table_args__ = (_one_of("state", ImportState),)

    id: Mapped[UUID] = mapped_column(primary_key=True)
    by: Mapped[str]
    begun_at: Mapped[datetime]
    state: Mapped[ImportState] = mapped_column(default="running")
    stage: Mapped[str] = mapped_column(default="reading")
    done: Mapped[int] = mapped_column(default=0)
    total: Mapped[int] = mapped_column(default=0)
    machine_id: Mapped[UUID | None]
    problems: Mapped[list[dict[str, str]]] = mapped_column(JSONB, default=list)
