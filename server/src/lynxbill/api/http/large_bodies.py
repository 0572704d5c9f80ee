"""
Large bodies are looked through by a process of its own before any endpoint sees them.

To refuse a body of some megabytes can take seconds of the interpreter, which every other request would wait for; in a
thread as well, for one call of the validator holds it from begin to end.
"""

import asyncio
import json
import os
import signal
import time
from collections.abc import Callable, Iterator, Sequence
from concurrent.futures import Executor, ProcessPoolExecutor
from concurrent.futures.process import BrokenProcessPool
from functools import cache
from itertools import islice
from multiprocessing import get_context
from threading import Thread
from typing import Any

from fastapi.routing import APIRoute
from pydantic import TypeAdapter, ValidationError
from starlette.types import ASGIApp, Message, Receive, Scope, Send

from lynxbill.api.http.errors import invalid, problem, say_problems
from lynxbill.api.wire.problems import FieldProblem
from lynxbill.exchange.problem import Problem
from lynxbill.exchange.shape import MOST_PROBLEMS, check_shape

LARGE_BYTES = 64 * 1024
SLICE = 1000
LONGEST_S = 20.0
# What has a reader of its own: pictures, and run files, which are taken over by their own process.
OWN_READERS = ("/picture", "/run-files", "/agent-file", "/sensor-logs")
READING = ("GET", "HEAD")
NICENESS = 10

Found = tuple[str, str, str]


Routes = Callable[[], Sequence[APIRoute]]


class BodyChecker:
    """The process that looks large bodies through, one at a time; it begins with the first of them."""

    def __init__(self, routes: Routes):
        self.routes = routes
        self._workers: Executor | None = None

    async def refuse(self, method: str, path: str, body: bytes) -> ASGIApp | None:
        """Answer for the body of an operation what is wrong with it; None where the endpoint may see it."""
        number = self._route_of(method, path)
        if number is None:
            return None
        if self._workers is None:
            # Not forked: a fork of a process with threads may wait for ever for a lock that nobody holds.
            self._workers = ProcessPoolExecutor(1, mp_context=get_context("spawn"), initializer=_prepare)
        loop = asyncio.get_running_loop()
        work = loop.run_in_executor(self._workers, look_through, self.routes, number, body)
        try:
            found = await asyncio.wait_for(work, LONGEST_S)
        except (TimeoutError, BrokenProcessPool):
            self.close()
            return problem(413, "too_large", "This takes too long to be looked through. Send it in smaller parts.")
        return (
            invalid([FieldProblem(field=field, code=code, message=sentence) for field, code, sentence in found])
            if found
            else None
        )

    def close(self) -> None:
        """End the process; the next large body begins another."""
        if self._workers is not None:
            self._workers.shutdown(wait=False, cancel_futures=True)
            self._workers = None

    def _route_of(self, method: str, path: str) -> int | None:
        """The number of the operation that takes the body."""
        for number, route in enumerate(self.routes()):
            if method in (route.methods or ()) and route.path_regex.match(path.removeprefix("/api")):
                return number if route.body_field is not None else None
        return None


class LargeBodies:
    """ASGI middleware: a large JSON body that is wrong goes no further, and costs the other requests nothing."""

    def __init__(self, app: ASGIApp, checker: BodyChecker):
        self.app = app
        self.checker = checker

    async def __call__(self, scope: Scope, receive: Receive, send: Send) -> None:
        if scope["type"] != "http" or scope["method"] in READING or scope["path"].endswith(OWN_READERS):
            await self.app(scope, receive, send)
            return
        messages, body = [], bytearray()
        while True:
            message = await receive()
            messages.append(message)
            body += message.get("body", b"")
            if not message.get("more_body", False):
                break
        is_large = len(body) > LARGE_BYTES
        refusal = await self.checker.refuse(scope["method"], scope["path"], bytes(body)) if is_large else None
        await (refusal or self.app)(scope, _again(messages, receive), send)


def _again(messages: list[Message], receive: Receive) -> Receive:
    """Hand out what was received already, then what comes."""
    left = iter(messages)

    async def receive_again() -> Message:
        return next(left, None) or await receive()

    return receive_again


def _prepare() -> None:
    """Requests come first; Ctrl-C is the server's to hear, and no worker outlives it."""
    os.nice(NICENESS)
    signal.signal(signal.SIGINT, signal.SIG_IGN)
    server = os.getppid()

    def follow() -> None:
        while os.getppid() == server:
            time.sleep(1)
        os._exit(0)

    Thread(target=follow, daemon=True).start()


def look_through(routes: Routes, route: int, body: bytes) -> list[Found]:
    """
    Find what is wrong with a body; runs in the process of its own.

    Args:
        routes: answers the operations; `route` is the number of this one among them.
    Returns: place, code and message of the first problems; none where the endpoint may see it.
    """
    try:
        value = json.loads(body)
    except (ValueError, RecursionError):
        # The framework says of it what it says of every broken body.
        return [("body", "json_invalid", "This is not valid JSON; nothing was saved")]
    shapes = list(islice(check_shape(value), MOST_PROBLEMS))
    if shapes:
        return [(_field(shape), "too_large", shape.message[:1].upper() + shape.message[1:]) for shape in shapes]
    found: list[Found] = []
    for part, name, first in _slices(value):
        try:
            _adapter(routes, route).validate_python(part)
        except ValidationError as error:
            errors = error.errors(include_url=False, include_input=False, include_context=True)
            found += [(each.field, each.code, each.message) for each in say_problems(errors, name, first)]
        if len(found) >= MOST_PROBLEMS:
            break
    return found[:MOST_PROBLEMS]


def _slices(value: Any) -> Iterator[tuple[Any, str, int]]:
    """The body with a thousand items at a time of its longest list, the list's name, and the number of the first."""
    lists = {name: each for name, each in value.items() if isinstance(each, list)} if isinstance(value, dict) else {}
    longest = max(lists, key=lambda name: len(lists[name]), default="")
    if not longest or len(lists[longest]) <= SLICE:
        yield value, "", 0
        return
    for start in range(0, len(lists[longest]), SLICE):
        yield value | {longest: lists[longest][start : start + SLICE]}, longest, start


def _field(shape: Problem) -> str:
    return shape.path.removeprefix("$").removeprefix(".") or "body"


@cache
def _adapter(routes: Routes, route: int) -> TypeAdapter[Any]:
    field = routes()[route].body_field
    assert field is not None
    annotation: Any = field.field_info.annotation
    return TypeAdapter(annotation)
