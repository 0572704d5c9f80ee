"""Sensor logs over HTTP: a file is looked at, then taken in as the trace of a run."""

import json
from collections.abc import Iterator
from itertools import chain
from typing import Annotated, Literal
from uuid import UUID

from fastapi import APIRouter
from fastapi.responses import StreamingResponse
from pydantic import Field, StrictInt

from lynxbill.api.http.deps import ActDep, SessionsDep, SpooledDep
from lynxbill.api.wire.bench_bodies import PlaceIn
from lynxbill.core.heat.roles import ChannelRole
from lynxbill.core.heat.trace import LONGEST_S
from lynxbill.core.terms.errors import Refusal
from lynxbill.exchange.entry import DecimalMark
from lynxbill.exchange.fields import Finite, Line, Strict, Unit
from lynxbill.exchange.problem import UnusableText
from lynxbill.exchange.sensor_log import MOST_COLUMNS, LogColumn, LogForm, LogHead
from lynxbill.services.evidence.sensor_logs import MOST_TAKEN, TakenIn, Wanted, receive_log, take_in_log

router = APIRouter(tags=["traces"])
LOG_BODY = {"requestBody": {"required": True, "content": {"text/csv": {"schema": {"type": "string"}}}}}
Column = Annotated[StrictInt, Field(ge=0, lt=MOST_COLUMNS)]
Seconds = Annotated[Finite, Field(ge=0, le=LONGEST_S)]


class LogFormBoth(Strict):
    """How a log is written: heading row and the time's column counted from 0."""

    encoding: Annotated[str, Field(pattern="^(utf-8-sig|utf-16|cp1252)$")]
    separator: Annotated[str, Field(min_length=1, max_length=1)]
    decimal_mark: DecimalMark
    heading_row: Annotated[StrictInt, Field(ge=0, le=10_000)]
    time: Column
    time_unit: Unit


class LogColumnOut(Strict):
    """A column, and what it is taken for; without a role it is not taken."""

    number: int
    heading: str
    role: ChannelRole | None
    of: str
    unit: str


class LogOut(Strict):
    """A log as it was found; `id` names it for an hour; `rows` are its first, as written."""

    id: UUID
    form: LogFormBoth
    columns: list[LogColumnOut]
    rows: list[list[str]]


class LogColumnIn(Strict):
    """`unit`: a unit of a channel's, or degrees Fahrenheit, which are kept in °C."""

    number: Column
    heading: Line
    role: ChannelRole
    of: Line
    unit: Unit | Literal["[degF]"]


class LogIn(PlaceIn):
    """What of a log becomes the trace of a run."""

    log: UUID
    form: LogFormBoth
    columns: Annotated[list[LogColumnIn], Field(min_length=1, max_length=MOST_TAKEN)]
    begins_s: Seconds = 0.0
    lasts_s: Annotated[Finite, Field(gt=0, le=LONGEST_S)] | None = None

    def to_wanted(self) -> Wanted:
        columns = tuple(LogColumn(c.number, c.heading, c.role, c.of, c.unit) for c in self.columns)
        return Wanted(LogForm(**self.form.model_dump()), columns, self.begins_s, self.lasts_s)


@router.post("/sensor-logs", openapi_extra=LOG_BODY)
def post_sensor_log(file: SpooledDep, sessions: SessionsDep) -> LogOut:
    """Look at a sensor log: how it is written, and what its columns seem to be. Nothing is taken in yet."""
    return _log_out(*receive_log(sessions, file))


@router.put("/machines/{machine_id}/traces/{run_id}/log", response_class=StreamingResponse)
def put_sensor_log(
    machine_id: UUID, run_id: UUID, body: LogIn, sessions: SessionsDep, act: ActDep
) -> StreamingResponse:
    """
    Take a log in as the trace of a run.

    Answers lines of JSON while it is read: the `share` that is done, at last the `samples` that were kept or what was
    wrong. Whoever hangs up meanwhile has taken in nothing.
    """
    steps = take_in_log(sessions, act, machine_id, run_id, body.log, body.to_coming(), body.to_wanted())
    # What is refused at once is refused like everything else.
    first = next(steps)
    return StreamingResponse(_lines(chain((first,), steps)), media_type="application/x-ndjson")


def _lines(steps: Iterator[TakenIn]) -> Iterator[str]:
    try:
        for step in steps:
            yield json.dumps({"share": step.share, "samples": step.samples}) + "\n"
    except UnusableText as error:
        problems = [{"field": problem.path, "message": problem.message} for problem in error.problems]
        yield json.dumps({"problems": problems}) + "\n"
    except Refusal as refusal:
        yield json.dumps({"problems": [{"field": refusal.field or "", "message": refusal.message}]}) + "\n"


def _log_out(identifier: UUID, head: LogHead) -> LogOut:
    return LogOut(
        id=identifier,
        form=LogFormBoth.model_validate(head.form, from_attributes=True),
        columns=[LogColumnOut.model_validate(column, from_attributes=True) for column in head.columns],
        rows=[list(row) for row in head.rows],
    )
