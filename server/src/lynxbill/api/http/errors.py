"""The only place that knows status codes: every error leaves as an RFC 9457 problem."""

from collections.abc import Iterable, Mapping, Sequence
from http import HTTPStatus
from itertools import islice

from fastapi import FastAPI, Request
from fastapi.exceptions import RequestValidationError
from fastapi.responses import JSONResponse
from fastapi.routing import APIRoute
from sqlalchemy.exc import DBAPIError
from sqlalchemy.exc import TimeoutError as PoolTimeout
from starlette.exceptions import HTTPException
from starlette.types import Receive, Scope, Send

from lynxbill.api.wire.problems import FieldProblem, ProblemOut
from lynxbill.core.terms.errors import BadQuestion, BadValue, Clash, DiskFull, Missing, Refusal, Several
from lynxbill.exchange.problem import UnusableText, say_validation, steps_of
from lynxbill.exchange.shape import MOST_PROBLEMS
from lynxbill.store.outages import OUTAGES, Outage, find_outage

MEDIA_TYPE = "application/problem+json"
STATUS: dict[type[Refusal], HTTPStatus] = {
    Missing: HTTPStatus.NOT_FOUND,
    Clash: HTTPStatus.CONFLICT,
    DiskFull: HTTPStatus.SERVICE_UNAVAILABLE,
    BadValue: HTTPStatus.UNPROCESSABLE_ENTITY,
    BadQuestion: HTTPStatus.UNPROCESSABLE_ENTITY,
    Several: HTTPStatus.UNPROCESSABLE_ENTITY,
}


def add_error_handlers(app: FastAPI) -> None:
    """Turn every refusal, the framework's own too, into a problem."""
    app.exception_handler(Refusal)(_on_refusal)
    app.exception_handler(UnusableText)(_on_unusable_text)
    app.exception_handler(RequestValidationError)(_on_validation)
    app.exception_handler(HTTPException)(_on_http)
    app.exception_handler(DBAPIError)(_on_database)
    app.exception_handler(PoolTimeout)(_on_database)


def problem(
    status: int,
    code: str,
    detail: str,
    errors: Sequence[FieldProblem] = (),
    details: dict[str, object] | None = None,
) -> JSONResponse:
    """Write one problem as a response."""
    title = HTTPStatus(status).phrase
    body = ProblemOut(
        title=title, status=status, detail=detail, code=code, errors=list(errors), details=details or {}
    )
    return JSONResponse(body.model_dump(mode="json"), status, media_type=MEDIA_TYPE)


def _status_of(refusal: Refusal) -> HTTPStatus:
    return next(status for kind, status in STATUS.items() if isinstance(refusal, kind))


def _on_refusal(_: Request, error: Exception) -> JSONResponse:
    assert isinstance(error, Refusal)
    each = error.refusals if isinstance(error, Several) else (error,)
    named = (item for item in each if item.field)
    errors = [
        FieldProblem(field=item.field or "", code=item.code, message=item.message)
        for item in islice(named, MOST_PROBLEMS)
    ]
    return problem(_status_of(error), error.code, error.message, errors, error.details)


def _on_unusable_text(_: Request, error: Exception) -> JSONResponse:
    assert isinstance(error, UnusableText)
    count = len(error.problems)
    least = "at least " if count >= MOST_PROBLEMS else ""
    detail = f"Nothing was taken over: the file has {least}{count} problem{'s' if count > 1 else ''}."
    errors = [FieldProblem(field=item.path, code="unusable", message=item.message) for item in error.problems]
    return problem(422, "unusable_text", detail, errors)


def _on_validation(_: Request, error: Exception) -> JSONResponse:
    assert isinstance(error, RequestValidationError)
    return invalid(say_problems([dict(item) | {"loc": _within_body(item)} for item in error.errors()]))


def _within_body(item: Mapping[str, object]) -> tuple[object, ...]:
    """The framework names first where something stood: body, path or query."""
    location = item["loc"] if isinstance(item["loc"], tuple) else ()
    return location[1:] or location


def invalid(errors: Sequence[FieldProblem]) -> JSONResponse:
    """Refuse a body for its problems, fifty at most."""
    listed = errors[:MOST_PROBLEMS]
    sentence = " ".join(f"{item.field}: {item.message}." for item in listed[:3])
    return problem(422, "invalid", sentence, listed)


def say_problems(errors: Iterable[Mapping[str, object]], sliced: str = "", first: int = 0) -> list[FieldProblem]:
    """
    Put errors of Pydantic into words, one a place.

    Args:
        sliced: the list of which a part was validated, beginning with number `first`.
    """
    found = [_field_problem(item, sliced, first) for item in errors]
    # Of several members of a union that were tried at one place, the first says what is meant to stand there.
    return list({item.field: item for item in reversed(found)}.values())[::-1]


def _field_problem(item: Mapping[str, object], sliced: str, first: int) -> FieldProblem:
    steps = [str(step) for step in steps_of(item)]
    if sliced and steps[:1] == [sliced] and len(steps) > 1:
        steps[1] = str(int(steps[1]) + first)
    message = say_validation(item)
    if item["type"] == "json_invalid":
        message = "this is not valid JSON; nothing was saved"
    return FieldProblem(field=".".join(steps), code=str(item["type"]), message=message[:1].upper() + message[1:])


def _on_http(_: Request, error: Exception) -> JSONResponse:
    assert isinstance(error, HTTPException)
    answer = problem(error.status_code, "http", str(error.detail))
    answer.headers.update(error.headers or {})
    return answer


def _on_database(_: Request, error: Exception) -> JSONResponse:
    """The database is away or full: nothing was saved, and the same may be asked again. Anything else is a fault."""
    outage = find_outage(error)
    if outage is None:
        raise error
    return away(outage)


def away(outage: Outage = "database_away") -> JSONResponse:
    """Say that nothing can be asked or saved now, and may be asked again."""
    answer = problem(503, outage, OUTAGES[outage])
    answer.headers["Retry-After"] = "1"
    return answer


class Unrouted:
    """Answers for what no operation takes: 405 with the methods that there are, else 404."""

    def __init__(self, routes: Sequence[APIRoute]):
        self.routes = routes

    async def __call__(self, scope: Scope, receive: Receive, send: Send) -> None:
        path = str(scope["path"]).removeprefix(str(scope.get("root_path", "")))
        methods = sorted({m for r in self.routes if r.path_regex.match(path) for m in r.methods or ()})
        if methods:
            answer = problem(405, "http", f"This address takes {' and '.join(methods)} only.")
            answer.headers["Allow"] = ", ".join(methods)
        else:
            answer = problem(404, "http", "There is nothing at this address.")
        await answer(scope, receive, send)
