"""A swap: the step from one build to another, and all that was done and noted at it."""

from dataclasses import dataclass
from datetime import datetime
from typing import Literal

from lynxbill.core.record.ids import BuildId, SwapId
from lynxbill.core.record.ledger_entries import Showing
from lynxbill.core.record.plan import Plan
from lynxbill.core.terms.measure import MeasureId
from lynxbill.core.terms.money import CostLine

SwapState = Literal["planned", "open", "closed"]


Stage = Literal["before opening", "case open", "first start"]


ExplanationState = Literal["untested", "supported", "ruled out"]


Seen = Literal["pass", "pass with remark", "fail"]


NoteKind = Literal["teardown", "dust found", "paste found", "drawback"]


OverWhat = Literal["both sides", "after-side"]


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

    Of what was found, `step` says how it was, on the scale of its kind (`FOUND_STEPS` of core/record/vocabulary.py).
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
    grounds: str = ""


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
    names the differences that it is meant to make (keys of `core.change.difference`); `gate_reason` says why
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
