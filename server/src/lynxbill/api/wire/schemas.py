"""A machine and what is recorded of it, as they travel."""

from datetime import date
from decimal import Decimal
from typing import Literal
from uuid import UUID

from lynxbill.core.judgement.verdict import VerdictWord
from lynxbill.core.plan.stage import JobState
from lynxbill.core.reading.doubts import DoubtCode
from lynxbill.core.record.build import PartRole, Wear
from lynxbill.core.record.ids import Plain
from lynxbill.core.record.run import BootBy, HeldBack, Purpose, ReadingSource, RunState, Statistic
from lynxbill.core.record.swap import ExplanationState, SwapState
from lynxbill.core.terms.measure import Better, Combined, Kind, Scale, Summary, TraceFigure
from lynxbill.exchange.evidence_schema import ReadingFile, SetAsideFile
from lynxbill.exchange.fields import Instant, Strict
from lynxbill.exchange.frame_schema import CandidateFile, PlanFile
from lynxbill.exchange.swap_schema import (
    AttemptFile,
    BenchNoteFile,
    CostFile,
    MarginEditFile,
    RecognitionFile,
    ShowingFile,
    StartFile,
    StepFile,
)


class MachineOut(Strict):
    id: UUID
    name: str
    owner: str
    question: str
    settles: str
    asked_by: str
    use: str
    limits: dict[str, Plain]
    currency: str
    labour_rate: Decimal | None
    decimal_mark: Literal[".", ","]
    time_zone: str
    price: Decimal | None
    tasks_a_week: float | None
    hour_worth: Decimal | None
    set_aside: str | None
    version: int


class PartOut(Strict):
    id: UUID
    role: PartRole
    label: str
    rated: dict[str, Plain]


class BuildOut(Strict):
    id: UUID
    letter: str
    label: str
    parts: list[PartOut]
    settings: dict[str, Plain]
    wear: Wear | None
    sealed: bool
    version: int


class MeasureOut(Strict):
    id: UUID
    name: str
    workload: str
    unit: str
    unit_display: str
    difference_display: str
    scale: Scale
    kind: Kind
    better: Better
    step: float | None
    levels: list[str]
    part_of: UUID | None
    combined_by: Combined | None
    rated_as: str | None
    of: int | None
    derived_from: UUID | None
    per_measure: UUID | None
    per_parameter: str | None
    needs: float | None
    trace_figure: TraceFigure | None
    trace_of: str | None
    trace_by: Summary | None
    trace_minute: float | None
    set_aside: str | None


class WorkloadOut(Strict):
    """`frozen`: it has runs, so other parameters or another target are another version."""

    id: UUID
    name: str
    workload_version: str
    parameters: dict[str, Plain]
    loads: list[PartRole]
    target: str | None
    card: str
    minutes_a_run: float | None
    set_aside: str | None
    frozen: bool
    version: int


class ChangeOut(Strict):
    """A member, or a reading as "readings.MEASURE", that held `old` until `at`, when it became `new`."""

    member: str
    old: Plain | ReadingFile
    new: Plain | ReadingFile
    at: Instant
    by: str
    reason: str


class SittingOut(Strict):
    id: UUID
    build: UUID
    purpose: Purpose
    started_at: Instant
    ambient_c: float | None
    conditions: dict[str, Plain]
    boot: str | None
    boot_by: BootBy | None
    closed_at: Instant | None
    mount: int | None
    set_aside: SetAsideFile | None
    attempt: int
    changes: list[ChangeOut]
    version: int


class ReadingOut(Strict):
    low: float
    high: float
    about: bool
    source: ReadingSource | None
    statistic: Statistic | None
    confirmed: bool


class DoubtOut(Strict):
    """A reading that may have been typed wrong, and what may have been meant (in the measure's unit)."""

    run: UUID
    measure: UUID
    code: DoubtCode
    value: float
    meant: float | None
    message: str


class RunOut(Strict):
    """A run as it is recorded; `counts_for` are the measures in whose tests it may stand."""

    id: UUID
    sitting: UUID
    workload: str
    workload_version: str
    parameters: dict[str, Plain]
    position: int
    state: RunState
    reason: str | None
    warm_up: bool
    target: str | None
    pair_label: str | None
    started_at: Instant | None
    duration_s: float | None
    soak_s: float | None
    held_back: HeldBack | None
    conditions: dict[str, Plain]
    note: str
    excluded_late: str | None
    written_at: Instant | None
    left_out_at: Instant | None
    changes: list[ChangeOut]
    readings: dict[str, ReadingOut]
    counts_for: list[str]
    version: int


class CostOut(CostFile):
    """A line of what a swap cost."""


class PlanOut(PlanFile):
    """A plan as it stands."""


class RunsSavedOut(Strict):
    """
    The runs that were saved, as they are recorded, and the machine's count of evidence by then; `doubts` are those of
    their whole sittings, as far as these are open.
    """

    runs: list[RunOut]
    doubts: list[DoubtOut]
    evidence_revision: int


class WhatIfOut(Strict):
    """A verdict that would be another one if what was asked about were left out."""

    before: UUID
    after: UUID
    measure: UUID
    now: VerdictWord
    then: VerdictWord


class StepOut(StepFile):
    version: int


class RecognitionOut(RecognitionFile):
    version: int


class StartOut(StartFile):
    version: int


class ExplanationOut(Strict):
    id: UUID
    text: str
    state: ExplanationState
    test: str
    grounds: str
    version: int


class BenchNoteOut(BenchNoteFile):
    version: int


class SwapOut(Strict):
    """
    `shown` is the ledger, null where nobody knows what was shown.

    `opens`: the machine is opened for it; else it is a matter of settings, or of time.
    """

    id: UUID
    before: UUID
    after: UUID
    label: str
    side_changes: list[str]
    costs: list[CostOut]
    net_written: str
    plan: PlanOut
    plan_version: int
    state: SwapState
    opens: bool
    declares: list[str]
    opened_at: Instant | None
    looked_at: Instant | None
    closed_at: Instant | None
    gate_reason: str
    gate_missing: list[str]
    recognition_skipped: str
    steps: list[StepOut]
    recognitions: list[RecognitionOut]
    starts: list[StartOut]
    notes: list[BenchNoteOut]
    explanations: list[ExplanationOut]
    margin_edits: list[MarginEditFile]
    shown: list[ShowingFile] | None
    attempts: list[AttemptFile]
    version: int


class CandidateOut(CandidateFile):
    version: int


class RecheckOut(Strict):
    id: UUID
    build: UUID
    due_on: date
    plan: PlanOut
    note: str
    done: bool
    version: int


class OpenPlanOut(Strict):
    plan: PlanOut
    version: int


class TallyOut(Strict):
    """Sittings and runs of a build that count, and how many sittings its plan still asks for."""

    sittings: int
    runs: int
    sittings_left: int


class ShownOut(Strict):
    """What the machine showed of itself when the bench agent last looked: what is not as the build says, in words."""

    at: Instant
    build: str
    departs: list[str]


class CaseOut(Strict):
    """
    One machine with all its builds, workloads, sittings and swaps, without its runs; `tallies` by build.

    `revision` and `evidence` count its changes: the news of a machine carries them too.
    """

    revision: int
    evidence_revision: int
    lasting: UUID | None
    shown: ShownOut | None
    machine: MachineOut
    builds: list[BuildOut]
    workloads: list[WorkloadOut]
    measures: list[MeasureOut]
    sittings: list[SittingOut]
    swaps: list[SwapOut]
    open_plan: OpenPlanOut
    fitted: UUID | None
    candidates: list[CandidateOut]
    rechecks: list[RecheckOut]
    job_state: JobState
    tallies: dict[str, TallyOut]


class RemovedOut(Strict):
    """
    What was removed, to be sent again where that was a slip: a removed workload or measure stands in `workload`.

    `plan` is the open plan as it was before, `machine` everything as it stands now; a machine has its name alone.
    """

    name: str
    candidate: CandidateOut | None = None
    run: RunOut | None = None
    sitting: SittingOut | None = None
    workload: WorkloadOut | None = None
    measures: list[MeasureOut] = []
    plan: OpenPlanOut | None = None
    machine: CaseOut | None = None
