"""Sittings, runs, readings, traces, and what is kept of them."""

from datetime import datetime
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

from lynxbill.core.heat.roles import ChannelRole
from lynxbill.core.heat.trace import TraceSource
from lynxbill.core.record.ids import Plain
from lynxbill.core.record.run import BootBy, HeldBack, Purpose, ReadingSource, RunState, Statistic
from lynxbill.core.terms.measure import Scale
from lynxbill.store.tables.base import Table, Versioned, one_of


class SittingRow(Versioned, Table):
    __tablename__ = "sittings"
    __table_args__ = (
        UniqueConstraint("build_id", "position"),
        one_of("purpose", Purpose),
        CheckConstraint("ambient_c BETWEEN -60 AND 80", name="ambient_sensible"),
        one_of("boot_by", BootBy),
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
        one_of("state", RunState),
        one_of("held_back", HeldBack),
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
        one_of("source", ReadingSource),
        one_of("statistic", Statistic),
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

    __table_args__ = (Index("ix_traces_machine_id_ended", "machine_id", "ended"), one_of("source", TraceSource))


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
    __table_args__ = (one_of("role", ChannelRole),)

    heading: Mapped[str] = mapped_column(primary_key=True)
    role: Mapped[ChannelRole | None]
    of: Mapped[str]
    unit: Mapped[str]
