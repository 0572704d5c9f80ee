"""Reports: what would be handed out, and what was."""

from datetime import datetime
from typing import Annotated
from uuid import UUID

from fastapi import APIRouter
from pydantic import Field, StrictBool, StrictInt

from lynxbill.api.http.deps import ActDep, SessionsDep
from lynxbill.core.record.ids import BuildId
from lynxbill.core.value.account import MOST_YEARS
from lynxbill.exchange.fields import Note, OptionalLine, Strict
from lynxbill.services.verdicts.reports import (
    Form,
    Made,
    MadeLine,
    draft_report,
    list_reports,
    make_report,
    read_report,
)
from lynxbill.words.report.report import Report, Wish

router = APIRouter(prefix="/machines/{machine_id}", tags=["reports"])


class ReportIn(Strict):
    """
    What the technician adds to a report; without builds it is that of the newest swap.

    `changed_since`: what was changed after the last run; empty: nothing was, null: not asked yet.
    """

    before: UUID | None = None
    after: UUID | None = None
    form: Form = "short"
    technician: OptionalLine = ""
    advice: Note = ""
    next_step: OptionalLine = ""
    changed_since: OptionalLine | None = None
    labour: StrictBool = True
    years: Annotated[StrictInt, Field(ge=0, le=MOST_YEARS)] = 0

    def pair(self) -> tuple[BuildId | None, BuildId | None]:
        first, last = (None if build is None else BuildId(str(build)) for build in (self.before, self.after))
        return first, last

    def wish(self) -> Wish:
        return Wish(**self.model_dump(exclude={"before", "after", "form"}))


class MadeOut(Strict):
    """A report that was handed out; `since` says what it says otherwise than the one before it."""

    id: UUID
    number: int
    made_at: datetime
    form: Form
    before: UUID
    after: UUID
    since: list[str]
    report: Report


class MadeLineOut(Strict):
    id: UUID
    number: int
    made_at: datetime
    form: Form
    title: str
    answer: str


@router.post("/report-draft")
def post_draft(machine_id: UUID, body: ReportIn, sessions: SessionsDep, act: ActDep) -> Report:
    """Write a report to be looked at; nothing is kept of it."""
    return draft_report(sessions, act, machine_id, body.pair(), body.wish())


@router.post("/reports")
def post_report(machine_id: UUID, body: ReportIn, sessions: SessionsDep, act: ActDep) -> MadeOut:
    """Hand a report out: it gets a number, and is kept as it is."""
    return _made_out(make_report(sessions, act, machine_id, body.pair(), body.wish(), body.form))


@router.get("/reports")
def get_reports(machine_id: UUID, sessions: SessionsDep) -> list[MadeLineOut]:
    """Every report that was handed out, the newest first."""
    return [_line_out(line) for line in list_reports(sessions, machine_id)]


@router.get("/reports/{report_id}")
def get_report(machine_id: UUID, report_id: UUID, sessions: SessionsDep) -> MadeOut:
    """A report as it was handed out."""
    return _made_out(read_report(sessions, machine_id, report_id))


def _made_out(made: Made) -> MadeOut:
    return MadeOut.model_validate(made)


def _line_out(line: MadeLine) -> MadeLineOut:
    return MadeLineOut.model_validate(line)
