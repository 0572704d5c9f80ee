"""The home screen: each machine as one line that is kept: where its job stands, what its newest swap brought."""

import logging
from dataclasses import dataclass
from datetime import UTC, date, datetime
from typing import Protocol
from uuid import UUID

from lynxbill.core.plan.progress import tally_builds
from lynxbill.core.plan.stage import AT_THE_BENCH, JobState, current_swap, find_job_state
from lynxbill.core.record.build import Build
from lynxbill.core.record.frame import Case
from lynxbill.core.record.swap import Swap
from lynxbill.core.terms.errors import say_fault
from lynxbill.services.base.transaction import Sessions, reading
from lynxbill.services.verdicts.comparisons import Compared, Outcome, outcome_of
from lynxbill.store.answers import has_line, keep_line, lock_line, read_stamp, stale_lines
from lynxbill.store.benches import Asked, Bench, Show, Totals, count_found, read_benches, read_first, read_totals
from lynxbill.store.kept import read_case, read_snapshot
from lynxbill.store.snapshot import Snapshot
from lynxbill.store.space import space_of

log = logging.getLogger(__name__)
PAGE = 50


@dataclass(frozen=True, slots=True)
class Line:
    """
    What home says of a machine.

    `current` is the swap that waits to be begun or whose case is open; `newest` what came of its last swap;
    `sittings_left` what the standing build's plan still asks for.
    """

    snapshot: Snapshot
    case: Case
    job_state: JobState
    fitted: Build | None
    sittings_left: int
    current: Swap | None
    newest: Outcome | None


class Writer(Protocol):
    """Whoever writes what is kept of a machine in the form in which it travels."""

    def line(self, line: Line) -> str: ...

    def comparison(self, compared: Compared) -> str: ...


@dataclass(frozen=True, slots=True)
class Home:
    """A page of the machines that were looked for, and what is to be said of all; `first` waits before the others."""

    benches: tuple[Bench, ...]
    found: int
    totals: Totals
    first: Bench | None


def read_home(sessions: Sessions, *, day: date | None, find: str, page: int, show: Show = "all") -> Home:
    """Read a page of lines, those that wait first; nothing is judged here."""
    asked = Asked(find, show, AT_THE_BENCH, day or datetime.now(UTC).date())
    with reading(sessions) as session:
        return Home(
            benches=read_benches(session, asked, offset=PAGE * (page - 1), limit=PAGE),
            found=count_found(session, asked),
            totals=read_totals(session, asked),
            first=read_first(session, asked),
        )


def find_stale(sessions: Sessions) -> list[UUID]:
    """The machines whose line was written by another program, for another state, or not at all."""
    with sessions() as session:
        return stale_lines(session)


def renew_line(sessions: Sessions, machine_id: UUID, write: Writer) -> None:
    """
    Write a machine's line anew if it does not hold any more; one process at a time does.

    Whatever is wrong with a machine must not take the others from home: its line says that it can't be read.
    """
    with sessions.begin() as session:
        stamp = read_stamp(session, machine_id)
        if (
            stamp is None
            or space_of(session).is_full
            or not lock_line(session, machine_id)
            or has_line(session, machine_id)
        ):
            return
        try:
            line = _read_line(sessions, machine_id, write)
            content = write.line(line)
        except Exception as error:  # noqa: BLE001 (one machine must not take the others from home)
            # The fault is kept in the log, and the machine's own page still shows it.
            log.error("machine %s could not be read: %s", machine_id, say_fault(error))
            keep_line(session, machine_id, stamp, job_state=None, due_on=[], content=None)
            return
        due_on = sorted(recheck.due_on for recheck in line.case.rechecks if not recheck.done)
        keep_line(session, machine_id, stamp, job_state=line.job_state, due_on=due_on, content=content)


def _read_line(sessions: Sessions, machine_id: UUID, write: Writer) -> Line:
    with reading(sessions) as session:
        snapshot, case = read_snapshot(session, machine_id), read_case(session, machine_id)
    fitted, tallies = case.fitted, tally_builds(case)
    newest = case.swaps[-1] if case.swaps else None
    return Line(
        snapshot=snapshot,
        case=case,
        job_state=find_job_state(case, tallies),
        fitted=fitted,
        sittings_left=tallies[fitted.id].sittings_left if fitted else 0,
        current=current_swap(case),
        newest=outcome_of(sessions, machine_id, newest.before, newest.after, write.comparison) if newest else None,
    )
