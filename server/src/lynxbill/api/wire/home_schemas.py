"""Home, imports and units, as they travel."""

from datetime import date
from typing import Literal
from uuid import UUID

from lynxbill.api.wire.problems import FieldProblem
from lynxbill.api.wire.schemas import PartOut, RecognitionOut, StepOut
from lynxbill.core.plan.stage import JobState
from lynxbill.core.record.swap import SwapState
from lynxbill.exchange.fields import Strict
from lynxbill.store.tables.base import ImportState


class BenchBuildOut(Strict):
    """The build that a machine is now."""

    letter: str
    parts: list[PartOut]
    sittings_left: int


class BenchSwapOut(Strict):
    """The swap that is being worked on, and how far."""

    label: str
    state: SwapState
    opens: bool
    steps: list[StepOut]
    recognitions: list[RecognitionOut]


class NewestOut(Strict):
    """What the newest swap brought, in the measure that leads: `known` is null where nothing was measured."""

    label: str
    bundle: str | None
    known: str | None


class DueOut(Strict):
    """A re-check that is still to be done."""

    due_on: date
    note: str
    done: Literal[False]


class BenchLineOut(Strict):
    """What home says of a machine: `swap` is the one being worked on, `rechecks` those still to be done."""

    question: str
    job_state: JobState
    fitted: BenchBuildOut | None
    swap: BenchSwapOut | None
    newest: NewestOut | None
    rechecks: list[DueOut]


class BenchOut(Strict):
    """
    A machine as the home screen shows it.

    While it is being judged `line` is that of a moment ago, or null where there was none; null too where what is
    recorded of the machine can't be read.
    """

    id: UUID
    name: str
    owner: str
    state: Literal["judged", "being judged", "unreadable"]
    set_aside: str | None
    line: BenchLineOut | None


class HomeOut(Strict):
    """
    A page of the machines that were looked for, `found` in all.

    `total`, `waiting`, `due`, `resting` and the re-checks are of all machines, whatever was looked for; `first` is
    the one that waits for somebody at the bench before the others.
    """

    benches: list[BenchOut]
    found: int
    page_size: int
    total: int
    waiting: int
    due: int
    resting: int
    first: BenchOut | None
    rechecks: int
    next_due: date | None


class MachineNameOut(Strict):
    id: UUID
    name: str


class ImportOut(Strict):
    """
    What became of a run file, or how far it is: `done` of `total` runs are read, then written.

    A small file is "done" at once; a large one is asked for by its id until it is not "running" any more.
    """

    id: UUID | None
    state: ImportState
    stage: str
    done: int
    total: int
    machine: UUID | None
    problems: list[FieldProblem]


class UnitOut(Strict):
    code: str
    display: str
    dimension: str
