"""Reports: a draft of what would be handed out, and what was, kept as it was."""

import hashlib
from collections.abc import Mapping
from copy import deepcopy
from dataclasses import dataclass, replace
from datetime import date, datetime
from typing import Literal
from uuid import UUID, uuid4
from zoneinfo import ZoneInfo

from pydantic import TypeAdapter, ValidationError
from sqlalchemy import func, select
from sqlalchemy.orm import Session

from lynxbill.core.record.frame import Case
from lynxbill.core.record.ids import BuildId
from lynxbill.core.result.comparison import choose_builds
from lynxbill.core.terms.errors import BadQuestion, Missing
from lynxbill.core.value.reckoning import reckon
from lynxbill.exchange.older_names import REPORT, Names, take_older_names
from lynxbill.services.base.act import Act
from lynxbill.services.base.transaction import Sessions, reading, transaction
from lynxbill.services.evidence.heat import look_at_heat, picture_heat
from lynxbill.services.evidence.traced import with_traced
from lynxbill.services.verdicts.reckonings import builds_reckoned, name_of
from lynxbill.store.database import announce
from lynxbill.store.kept import read_case, read_snapshot
from lynxbill.store.snapshot import find_machine
from lynxbill.store.tables.swap import ReportRow
from lynxbill.words.report.report import Report, Wish, say_report
from lynxbill.words.report.since import say_since

Form = Literal["short", "full"]
# Raised when the document changes; one of a shape that is not read is listed, and can't be drawn any more.
SHAPE = 2
_OLDER: Mapping[int, Names] = {1: REPORT, SHAPE: {}}
USUAL_YEARS = 3
_REPORT = TypeAdapter(Report)


@dataclass(frozen=True, slots=True)
class Made:
    """A report that was handed out: `since` says what it says otherwise than the one before it."""

    id: UUID
    number: int
    made_at: datetime
    form: Form
    before: BuildId
    after: BuildId
    since: tuple[str, ...]
    report: Report


@dataclass(frozen=True, slots=True)
class MadeLine:
    """One line of the list of reports that were handed out."""

    id: UUID
    number: int
    made_at: datetime
    form: Form
    title: str
    answer: str


def draft_report(
    sessions: Sessions, act: Act, machine_id: UUID, pair: tuple[BuildId | None, BuildId | None], wish: Wish
) -> Report:
    """Write the report of two builds, without them of the newest swap; nothing is kept of it."""
    with reading(sessions) as session:
        return _write(session, act, machine_id, pair, wish)[1]


def make_report(
    sessions: Sessions,
    act: Act,
    machine_id: UUID,
    pair: tuple[BuildId | None, BuildId | None],
    wish: Wish,
    form: Form,
) -> Made:
    """
    Hand a report out, and keep it as it is.

    The same evidence in the same form gives the report that is there already.

    Refuses with BadQuestion where nobody said whether anything was changed after the last run.
    """
    if wish.changed_since is None:
        raise BadQuestion(
            "Say first whether anything was changed after the last run: cables, fans, settings.",
            field="changed_since",
        )
    with transaction(sessions) as session:
        find_machine(session, machine_id, lock=True)
        (before, after), report = _write(session, act, machine_id, pair, wish)
        of_pair = select(ReportRow).where(
            ReportRow.machine_id == machine_id, ReportRow.before_id == UUID(before), ReportRow.after_id == UUID(after)
        )
        last = session.scalar(of_pair.order_by(ReportRow.number.desc()).limit(1))
        digest = digest_of_report(report)
        if last is not None and (last.digest, last.form) == (digest, form):
            return _made(last)
        earlier = None if last is None else read_content(last)
        count = select(func.coalesce(func.max(ReportRow.number), 0)).where(ReportRow.machine_id == machine_id)
        row = ReportRow(
            id=uuid4(),
            machine_id=machine_id,
            number=(session.scalar(count) or 0) + 1,
            made_at=act.at,
            by=act.by,
            before_id=UUID(before),
            after_id=UUID(after),
            form=form,
            digest=digest,
            since=list(say_since(earlier, report)) if earlier is not None else [],
            shape=SHAPE,
            content=_REPORT.dump_python(report, mode="json"),
        )
        session.add(row)
        session.flush()
        announce(session, machine_id, "report", row.id)
        return _made(row)


def list_reports(sessions: Sessions, machine_id: UUID) -> list[MadeLine]:
    """Every report that was handed out of a machine, the newest first."""
    with reading(sessions) as session:
        find_machine(session, machine_id)
        rows = session.scalars(
            select(ReportRow).where(ReportRow.machine_id == machine_id).order_by(ReportRow.number.desc())
        )
        return [
            MadeLine(
                row.id,
                row.number,
                row.made_at,
                _form(row),
                str(row.content.get("title", "")),
                str(row.content.get("answer", "")),
            )
            for row in rows
        ]


def read_report(sessions: Sessions, machine_id: UUID, report_id: UUID) -> Made:
    """Show a report again as it was handed out."""
    with reading(sessions) as session:
        row = session.get(ReportRow, report_id)
        if row is None or row.machine_id != machine_id:
            raise Missing("This machine has no such report.", field="report")
        return _made(row)


def digest_of_report(report: Report) -> str:
    """A digest of what a report says, the day aside."""
    return hashlib.sha256(_REPORT.dump_json(replace(report, made_on=""))).hexdigest()


def read_content(row: ReportRow) -> Report | None:
    """The document of a kept report; None where it is of a shape that this program doesn't read."""
    if row.shape not in _OLDER:
        return None
    content = deepcopy(row.content)
    take_older_names(content, _OLDER[row.shape])
    try:
        return _REPORT.validate_python(content)
    except ValidationError:
        return None


def _write(
    session: Session, act: Act, machine_id: UUID, pair: tuple[BuildId | None, BuildId | None], wish: Wish
) -> tuple[tuple[BuildId, BuildId], Report]:
    frame = read_snapshot(session, machine_id).frame
    before, after = choose_builds(frame, *pair)
    case = with_traced(
        session, machine_id, read_case(session, machine_id, builds=builds_reckoned(frame, before, after))
    )
    # Both settings of the switch are told, whichever the report is made up on.
    reckoning = reckon(case, before, after, wish.years or USUAL_YEARS)
    view = look_at_heat(session, machine_id, case, before, after, None)
    heat = None if view is None else picture_heat(view)
    report = say_report(case, reckoning, wish, name_of(case, before, after), _today(act, case), heat)
    return (before, after), report


def _today(act: Act, case: Case) -> date:
    return act.at.astimezone(ZoneInfo(case.machine.time_zone)).date()


def _form(row: ReportRow) -> Form:
    return "full" if row.form == "full" else "short"


def _made(row: ReportRow) -> Made:
    report = read_content(row)
    if report is None:
        raise Missing("This report was written by another version of the program, and can't be drawn any more.")
    pair = BuildId(str(row.before_id)), BuildId(str(row.after_id))
    return Made(row.id, row.number, row.made_at, _form(row), *pair, tuple(row.since), report)
