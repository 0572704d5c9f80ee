"""The case of one machine: everything that was written down, as plain values."""

from collections.abc import Mapping
from dataclasses import dataclass, field, fields
from datetime import date, datetime
from decimal import Decimal
from typing import Literal, NewType

from lynxbill.core.errors import UnknownBuild
from lynxbill.core.measure import Measure, MeasureId, Role, usual_margin
from lynxbill.core.money import Basis, CostLine

RunState = Literal["complete", "partial", "failed", "spoiled"]
Purpose = Literal["plan", "earlier", "trial", "recheck"]
Design = Literal["side_by_side", "paired"]
PairBy = Literal["order", "ambient", "label", "none"]
ReadingSource = Literal["remembered", "inherited", "claimed"]
# Every id is a text; which thing it is one of, the types keep apart.
BuildId = NewType("BuildId", str)
SittingId = NewType("SittingId", str)
RunId = NewType("RunId", str)
SwapId = NewType("SwapId", str)
WorkloadId = NewType("WorkloadId", str)
MachineId = NewType("MachineId", str)
HeldBack = Literal["heat", "power", "current", "other"]
Statistic = Literal["lowest", "mean", "highest", "settled", "momentary"]
PartRole = Literal[
    "processor",
    "cooler",
    "thermal paste",
    "memory",
    "drive",
    "graphics",
    "board",
    "power supply",
    "adapter",
    "other",
]
Order = Literal["before_then_after", "alternating", "abba", "swap_back"]
SwapState = Literal["planned", "open", "closed"]
Change = Literal[
    "processor",
    "memory",
    "drive",
    "thermal paste",
    "cooler",
    "graphics",
    "settings",
    "cleaning",
    "several",
    "other",
]
Wear = Literal["as new", "worn", "renewed"]
# What may be weighed beside a part: nothing at all, cleaning alone, somebody's service, another machine.
Alternative = Literal["part", "nothing", "cleaning", "service", "another machine"]
FitWord = Literal["fits", "doubtful", "does not fit"]
Stage = Literal["before opening", "case open", "first start"]
ExplanationState = Literal["untested", "supported", "ruled out"]
Seen = Literal["pass", "pass with remark", "fail"]
Plain = str | float | int | bool | None
NoteKind = Literal["teardown", "dust found", "paste found", "drawback"]
BootBy = Literal["read", "answered"]
OverWhat = Literal["both sides", "after-side"]
READING = "readings."
# A machine that is swapped every month for fifteen years has fewer.
MOST_BUILDS = 200
MOST_MEASURES = 500


@dataclass(frozen=True, slots=True)
class Reading:
    """
    One figure of one run, in the measure's unit: `low` = `high` unless it was read as a range.

    `confirmed`: it was asked whether it is typed right, and it is.
    """

    low: float
    high: float
    about: bool = False
    source: ReadingSource | None = None
    statistic: Statistic | None = None
    confirmed: bool = False

    @property
    def value(self) -> float:
        return self.low if self.low == self.high else (self.low + self.high) / 2


@dataclass(frozen=True, slots=True)
class LateExclusion:
    """A run left out after its reading was looked at; marked so for ever."""

    reason: str
    at: datetime | None = None


@dataclass(frozen=True, slots=True)
class Was:
    """
    What stood in a member of a run or sitting until somebody changed it, after a reading was written.

    `member` is the name of a field, or "readings.MEASURE", whose `value` is then the old reading (None: none stood).
    """

    member: str
    value: "Plain | Reading | datetime"
    at: datetime
    by: str = ""
    reason: str = ""


@dataclass(frozen=True, slots=True)
class SetAside:
    """A sitting taken out of the test: late, unless the comparison is measured `over` as a whole."""

    reason: str
    at: datetime
    over: bool = False


@dataclass(frozen=True, slots=True)
class Run:
    """
    One execution of a workload; `held_back` says what kept the machine from its full clock during it, `conditions`
    what was so of this run alone (`RUN_CONDITIONS` of core/figures.py; they enter no verdict).

    `duration_s` and `soak_s` are in seconds. `written_at` is when its reading was first written, `left_out_at` when
    it was last taken out of the test by its state (equal: in the same save); `was` what was changed since, oldest
    first.
    """

    id: RunId
    sitting_id: SittingId
    workload: str
    workload_version: str
    position: int
    state: RunState
    readings: Mapping[MeasureId, Reading]
    parameters: Mapping[str, Plain] = field(default_factory=dict)
    reason: str | None = None
    warm_up: bool = False
    target: str | None = None
    pair_label: str | None = None
    started_at: datetime | None = None
    duration_s: float | None = None
    soak_s: float | None = None
    excluded_late: LateExclusion | None = None
    held_back: HeldBack | None = None
    conditions: Mapping[str, Plain] = field(default_factory=dict)
    note: str = ""
    written_at: datetime | None = None
    left_out_at: datetime | None = None
    was: tuple[Was, ...] = ()

    @property
    def is_emptied(self) -> bool:
        """Whether its entry was taken back: its place is free to be typed anew, and it counts as no run."""
        return self.state == "complete" and not self.readings


# What a run is called by, holds and belongs to is written differently in each form of it; all else is the same in
# every one, and is carried over by name: a new member need only be added where it is declared.
_IN_ITS_OWN_FORM = {"id", "sitting_id", "workload", "readings", "excluded_late", "was"}
RUN_MEMBERS = tuple(member.name for member in fields(Run) if member.name not in _IN_ITS_OWN_FORM)
# Kept by whoever keeps the run, never sent with it.
RUN_DATES = ("written_at", "left_out_at")
SENT_MEMBERS = tuple(name for name in RUN_MEMBERS if name not in RUN_DATES)
# What may be corrected of a run that is recorded.
CORRECTABLE = tuple(
    name for name in RUN_MEMBERS if name not in ("workload_version", "parameters", "warm_up", *RUN_DATES)
)


@dataclass(frozen=True, slots=True)
class Sitting:
    """
    One unbroken stretch at the bench; `ambient_c` in °C.

    `boot` names the start of the machine that it was held in, `boot_by` whether that was read or only answered;
    sittings of a build in one boot are one unit. `closed_at` is None while it is open. `mount` rises with each
    remounting of what carries the heat away. `attempt` counts how often its comparison was measured over by then.
    """

    id: SittingId
    build_id: BuildId
    purpose: Purpose
    started_at: datetime
    ambient_c: float | None = None
    conditions: Mapping[str, Plain] = field(default_factory=dict)
    boot: str | None = None
    boot_by: BootBy | None = None
    closed_at: datetime | None = None
    mount: int | None = None
    set_aside: SetAside | None = None
    attempt: int = 1
    was: tuple[Was, ...] = ()


@dataclass(frozen=True, slots=True)
class Part:
    id: str
    role: PartRole
    label: str
    rated: Mapping[str, Plain] = field(default_factory=dict)


@dataclass(frozen=True, slots=True)
class Build:
    """A state of the machine; `read` is what the agent read of its parts, by role, as `identities_of` writes it."""

    id: BuildId
    letter: str
    label: str
    parts: tuple[Part, ...] = ()
    settings: Mapping[str, Plain] = field(default_factory=dict)
    wear: Wear | None = None
    read: Mapping[str, tuple[str, ...]] = field(default_factory=dict)


@dataclass(frozen=True, slots=True)
class Workload:
    """
    A repeatable piece of work: what it loads, what it is aimed at, and how it is done.

    `card` tells in words how the job is done and what is timed or judged; `minutes_a_run` is in minutes. `set_aside`
    says why no further plan asks for it.
    """

    id: WorkloadId
    name: str
    workload_version: str = "1"
    parameters: Mapping[str, Plain] = field(default_factory=dict)
    loads: tuple[PartRole, ...] = ()
    target: str | None = None
    card: str = ""
    minutes_a_run: float | None = None
    set_aside: str | None = None


@dataclass(frozen=True, slots=True)
class PlannedMeasure:
    """
    `matters_from` and `hoped_for`: percent for `ratio`, else the measure's unit; `weight` is its share in the overall
    gain, None where none was given.
    """

    role: Role
    matters_from: float
    hoped_for: float | None = None
    weight: float | None = None
    statistic: Statistic | None = None


@dataclass(frozen=True, slots=True)
class FixedPair:
    """Two runs paired by hand, which overrides the plan's rule."""

    before_run: RunId
    after_run: RunId
    reason: str


@dataclass(frozen=True, slots=True)
class Plan:
    """
    What was settled before measuring; None in a count asks for no particular number.

    `sittings_a_side` is the first look and `at_most` the second (None: one look); `runs` overrides `runs_a_sitting`
    by workload. `judge_whole` names the first build of a chain whose last one is judged against it too.

    `change` is the kind of change it was made for; `conditions` are those that both sides must share; rests and
    soaks are in minutes.
    """

    design: Design = "side_by_side"
    pair_by: PairBy = "order"
    sittings_a_side: int | None = None
    at_most: int | None = None
    runs_a_sitting: int | None = None
    runs: Mapping[str, int] = field(default_factory=dict)
    judge_whole: BuildId | None = None
    headline: MeasureId | None = None
    measures: Mapping[MeasureId, PlannedMeasure] = field(default_factory=dict)
    pairs: tuple[FixedPair, ...] = ()
    borrow_spread_from: tuple[BuildId, ...] = ()
    change: Change | None = None
    order: Order = "before_then_after"
    conditions: Mapping[str, Plain] = field(default_factory=dict)
    warm_ups: int = 0
    rest_min: float = 0.0
    soak_min: float = 0.0

    @property
    def alternates(self) -> bool:
        """Whether the sittings of both sides take turns; else all before-sittings come first."""
        return self.order in ("alternating", "abba")

    def runs_of(self, workload: str) -> int | None:
        """How many runs a sitting of a workload has."""
        return self.runs.get(workload, self.runs_a_sitting)


@dataclass(frozen=True, slots=True)
class Step:
    """One step of a swap's checklist; `done_at` is None while it is open."""

    id: str
    stage: Stage
    text: str
    done_at: datetime | None = None


@dataclass(frozen=True, slots=True)
class Recognition:
    """What a part was expected to show itself as, what was seen, and whether that will do."""

    id: str
    what: str
    expected: str
    seen: str = ""
    result: Seen | None = None
    remark: str = ""


@dataclass(frozen=True, slots=True)
class Start:
    """One attempt to start after the swap; `rework_min` minutes were spent on what kept it from starting."""

    id: str
    at: datetime
    booted: bool
    note: str = ""
    rework_min: float = 0.0


@dataclass(frozen=True, slots=True)
class BenchNote:
    """
    A note of the teardown, in order; `picture` says whether one belongs to it.

    Of what was found, `step` says how it was, on the scale of its kind (`FOUND_STEPS` of core/figures.py).
    """

    id: str
    at: datetime
    text: str = ""
    picture: bool = False
    kind: NoteKind = "teardown"
    step: int | None = None


@dataclass(frozen=True, slots=True)
class Explanation:
    """
    A suspected cause or limit, held as a claim: how it could be tested, and what speaks for it or against it.

    It is no finding while it is untested, and words that report it follow its state.
    """

    id: str
    text: str
    state: ExplanationState = "untested"
    test: str = ""
    evidence: str = ""


@dataclass(frozen=True, slots=True)
class MarginEdit:
    """A margin or hope of a measure that was changed after the swap was planned; `late` once after-runs existed."""

    at: datetime
    measure: MeasureId
    field: Literal["matters_from", "hoped_for"]
    old: float | None
    new: float | None
    reason: str
    late: bool


@dataclass(frozen=True, slots=True)
class Showing:
    """
    One entry of the ledger: the verdict of a measure, as it was first given to somebody.

    `compared` is the build before where the comparison is another one than its swap's own. `look` is None for the
    anytime rule; `sittings` are those it rested on, `evidence` a digest of their runs (empty:
    not kept), `gain` the oriented estimate and `low` to `high` its interval then. `boots` and `conditions` are by
    sitting; `plan` is that of the comparison, written out. `rules` is the number of the rules that it was reached by
    (`RULES` of core/ledger.py; None: nobody knows).
    """

    measure: MeasureId
    at: datetime
    look: int | None
    level: float
    rule: str
    verdict: str
    sittings: tuple[SittingId, ...]
    evidence: str = ""
    attempt: int = 1
    compared: BuildId | None = None
    by: str = ""
    gain: float | None = None
    low: float | None = None
    high: float | None = None
    boots: Mapping[SittingId, str | None] = field(default_factory=dict)
    conditions: Mapping[SittingId, Mapping[str, Plain]] = field(default_factory=dict)
    plan: str = ""
    rules: int | None = None


@dataclass(frozen=True, slots=True)
class Attempt:
    """A comparison measured over: why, on which sides, and what it asks for anew (None: as the plan says)."""

    at: datetime
    reason: str
    sides: OverWhat = "both sides"
    sittings_a_side: int | None = None
    at_most: int | None = None


@dataclass(frozen=True, slots=True)
class Swap:
    """
    The step from one build to another.

    `shown` is the ledger of its comparison, oldest first; None where nobody knows what was shown. `attempts` are
    those after the first. `declares`
    names the differences that it is meant to make (keys of `core.difference`); `gate_reason` says why
    the old part left although `gate_missing` was missing from the before-side, `recognition_skipped` why the case was
    closed although something that went in had not been looked at. `looked_at` is when a chart or a comparison of both
    its sides was first on a screen, verdict or not.
    """

    id: SwapId
    before: BuildId
    after: BuildId
    label: str
    plan: Plan
    side_changes: tuple[str, ...] = ()
    shown: tuple[Showing, ...] | None = ()
    attempts: tuple[Attempt, ...] = ()
    costs: tuple[CostLine, ...] = ()
    state: SwapState = "closed"
    declares: tuple[str, ...] = ()
    opened_at: datetime | None = None
    closed_at: datetime | None = None
    gate_reason: str = ""
    gate_missing: tuple[str, ...] = ()
    recognition_skipped: str = ""
    steps: tuple[Step, ...] = ()
    recognitions: tuple[Recognition, ...] = ()
    starts: tuple[Start, ...] = ()
    notes: tuple[BenchNote, ...] = ()
    explanations: tuple[Explanation, ...] = ()
    margin_edits: tuple[MarginEdit, ...] = ()
    looked_at: datetime | None = None

    @property
    def attempt(self) -> int:
        """Which attempt it is: 1, 2 …"""
        return 1 + len(self.attempts)


@dataclass(frozen=True, slots=True)
class Candidate:
    """
    A part that might be bought, or an `alternative` to one; `price` is in the currency of account, `expected_gain` in
    percent of the headline's speed; `price_low` to `price_high` and `gain_low` to `gain_high` say how sure both are.
    `ticked` are those of its prerequisites and steps of delivery that are seen to.

    `fit_said` with `fit_source` is the technician's own word on its fit; `swap` the one in which it was fitted, and
    `worked` what came of it. `set_aside` says why it is not weighed any more, `recorded_at`
    since when it is on record with its model and price.
    """

    id: str
    role: PartRole
    label: str
    rated: Mapping[str, Plain] = field(default_factory=dict)
    price: Decimal | None = None
    basis: Basis = "new"
    prerequisites: str = ""
    expected_gain: float | None = None
    expected_from: str = ""
    fit_said: FitWord | None = None
    fit_source: str = ""
    swap: SwapId | None = None
    worked: str = ""
    alternative: Alternative = "part"
    ticked: tuple[str, ...] = ()
    price_low: Decimal | None = None
    price_high: Decimal | None = None
    gain_low: float | None = None
    gain_high: float | None = None
    set_aside: str | None = None
    recorded_at: datetime | None = None


@dataclass(frozen=True, slots=True)
class Recheck:
    """A date to measure a build again, under a copy of the plan that it was judged by."""

    id: str
    build: BuildId
    due_on: date
    plan: Plan
    note: str = ""
    done: bool = False


@dataclass(frozen=True, slots=True)
class Machine:
    """
    One PC under test; `price` is what the machine itself was bought for or is worth.

    `jobs_a_week` is how often the headline's job is done, `hour_worth` what an hour of waiting for it is worth: both
    in the payback of a swap alone. `set_aside` says why it waits for nobody any more.
    """

    id: MachineId
    name: str
    currency: str
    labour_rate: Decimal | None = None
    owner: str = ""
    question: str = ""
    settles: str = ""
    asked_by: str = ""
    use: str = ""
    limits: Mapping[str, Plain] = field(default_factory=dict)
    decimal_mark: Literal[".", ","] = "."
    time_zone: str = "UTC"
    price: Decimal | None = None
    jobs_a_week: float | None = None
    hour_worth: Decimal | None = None
    set_aside: str | None = None


@dataclass(frozen=True, slots=True)
class Level:
    """
    Where one measure stands in one sitting.

    `runs` is how many count; `alike` of them share the recipe that most have, and only these are in the figures:
    `unit` is the median of their oriented readings (temperatures as they were read), `squares` the sum of squares of
    the readings around their mean, `place` the smallest decimal place read, in the measure's unit. `told` is the mean
    of all readings of complete runs, also those that were remembered or claimed. None where there is no such run.
    """

    runs: int
    alike: int = 0
    recipe: str = ""
    unit: float | None = None
    squares: float = 0.0
    place: float | None = None
    told: float | None = None


@dataclass(frozen=True, slots=True)
class Sheet:
    """
    The runs of one workload in one sitting, warm-ups aside.

    `recipes` are the distinct (version, target, parameters) as written; `soaks` the shortest and longest soak and
    `seconds` the median duration, in seconds, where they were noted; `levels` by measure id.
    """

    runs: int
    failed: int
    recipes: tuple[tuple[str, str, str], ...]
    soaks: tuple[float, float] | None
    seconds: float | None
    levels: Mapping[MeasureId, Level]


SheetKey = tuple[SittingId, str]


@dataclass(frozen=True, slots=True)
class Frame:
    """
    What a machine is and what is to be done with it, without its runs; `open_plan` is the plan for the next swap.
    """

    machine: Machine
    measures: tuple[Measure, ...]
    builds: tuple[Build, ...]
    sittings: tuple[Sitting, ...]
    swaps: tuple[Swap, ...]
    open_plan: Plan | None = None
    workloads: tuple[Workload, ...] = ()
    candidates: tuple[Candidate, ...] = ()
    rechecks: tuple[Recheck, ...] = ()
    # Asked for once a measure and build: a look through all sittings each time is what a long past would cost.
    _by_build: Mapping[BuildId, tuple[Sitting, ...]] = field(init=False, repr=False, compare=False)

    def __post_init__(self) -> None:
        by_build: dict[BuildId, list[Sitting]] = {}
        for sitting in self.sittings:
            by_build.setdefault(sitting.build_id, []).append(sitting)
        object.__setattr__(self, "_by_build", {build: tuple(sittings) for build, sittings in by_build.items()})

    def sittings_of(self, build_id: BuildId) -> tuple[Sitting, ...]:
        """List a build's sittings of any purpose, in their order."""
        return self._by_build.get(build_id, ())

    @property
    def standing(self) -> Build | None:
        """The build that the machine is now: where its newest swap that was begun led, else its first."""
        begun = [swap for swap in self.swaps if swap.state != "planned"]
        if begun:
            return self.build(begun[-1].after)
        return self.builds[0] if self.builds else None

    @property
    def workload_names(self) -> tuple[str, ...]:
        """Every workload that a measure is read off, in the order of measures."""
        return tuple(dict.fromkeys(measure.workload for measure in self.measures))

    @property
    def weighed(self) -> tuple[Candidate, ...]:
        """The candidates that were not set aside."""
        return tuple(candidate for candidate in self.candidates if candidate.set_aside is None)

    @property
    def aside(self) -> Mapping[MeasureId, str]:
        """Why a measure, or the workload that it is read off, was set aside; by measure."""
        workloads = {workload.name: workload.set_aside for workload in self.workloads}
        reasons = {m.id: m.set_aside or workloads.get(m.workload) for m in self.measures}
        return {measure: reason for measure, reason in reasons.items() if reason is not None}

    def build(self, build_id: BuildId) -> Build:
        """
        Find a build by its id.

        Raises:
            UnknownBuild: the case has no such build.
        """
        for build in self.builds:
            if build.id == build_id:
                return build
        known = ", ".join(build.id for build in self.builds)
        raise UnknownBuild(f"There is no build “{build_id}”; this machine has {known or 'none'}.")

    def swap_into(self, build_id: BuildId) -> Swap | None:
        """Find the newest swap that led to a build, or None for a first build."""
        return next((swap for swap in reversed(self.swaps) if swap.after == build_id), None)

    def swap_between(self, one: BuildId, other: BuildId) -> Swap | None:
        """Find the first swap between two builds, in either direction: its plan is that of the pair, for ever."""
        return next((s for s in self.swaps if {s.before, s.after} == {one, other}), None)

    def step_into(self, before: BuildId, after: BuildId) -> Swap | None:
        """Find the newest swap from one build to another, else the newest into the second; None for a first build."""
        direct = (s for s in reversed(self.swaps) if (s.before, s.after) == (before, after))
        return next(direct, None) or self.swap_into(after)

    def plan_of(self, build_id: BuildId) -> Plan:
        """
        Choose the plan that a build is measured by: that of the swap that first led to it, else of the first swap
        from it, else the open plan.
        """
        into = next((swap for swap in self.swaps if swap.after == build_id), None)
        out = next((swap for swap in self.swaps if swap.before == build_id), None)
        chosen = into or out
        return chosen.plan if chosen else self.open_plan or Plan()


@dataclass(frozen=True, slots=True)
class Case(Frame):
    """
    A machine with evidence: all its runs, or (with `sheets`) those that a question needs.

    `sheets` are those that the store keeps of all its runs; None where all the runs are at hand instead.
    """

    runs: tuple[Run, ...] = ()
    sheets: Mapping[SheetKey, Sheet] | None = None

    @property
    def used_sittings(self) -> frozenset[SittingId]:
        """The sittings that have a run; a row that was emptied is none."""
        if self.sheets is not None:
            return frozenset(sitting for sitting, _ in self.sheets)
        return frozenset(run.sitting_id for run in self.runs if not run.is_emptied)


def default_plan(measures: tuple[Measure, ...]) -> Plan:
    """
    Plan for two builds with no swap between them: every measure a claim, with the default margin.

    Returns: a plan that asks for no particular number of sittings or runs.
    Source: docs/run-file.md (`ratio` 2 %, `difference` 1 K, `level` 1 dB).
    """
    claims = {
        measure.id: PlannedMeasure(role="claim", matters_from=usual_margin(measure.scale, measure.kind))
        for measure in measures
    }
    return Plan(measures=claims)
