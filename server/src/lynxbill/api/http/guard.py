"""What is refused before any endpoint sees it, what every answer carries, and what becomes of a fault of ours."""

import logging
import re
from collections.abc import Sequence
from contextlib import suppress

from starlette.datastructures import Headers, MutableHeaders
from starlette.types import ASGIApp, Message, Receive, Scope, Send

from lynxbill.api.http.errors import problem
from lynxbill.core.terms.errors import say_fault

log = logging.getLogger(__name__)
_OWN_HOST = re.compile(r"(127\.0\.0\.1|localhost|\[::1\])(:\d{1,5})?", re.IGNORECASE)
# Headless UI positions its menus with style attributes, hence unsafe-inline for styles alone.
POLICY = (
    "default-src 'self'; style-src 'self' 'unsafe-inline'; img-src 'self' data: blob:; object-src 'none'; "
    "frame-ancestors 'none'; base-uri 'none'; form-action 'self'"
)
ON_EVERY_ANSWER = {
    "Content-Security-Policy": POLICY,
    "X-Content-Type-Options": "nosniff",
    "Cross-Origin-Resource-Policy": "same-origin",
    "Cross-Origin-Opener-Policy": "same-origin",
    "Referrer-Policy": "same-origin",
}
MAX_BODY = 5 * 1024 * 1024
MAX_RUN_FILE = 100 * 1024 * 1024
# Days at ten rows a second, with many sensors.
MAX_SENSOR_LOG = 500 * 1024 * 1024
# It is read before its answer; a sitting with its traces has a few megabytes.
MAX_AGENT_FILE = 20 * 1024 * 1024
MAX_PICTURE = 10 * 1024 * 1024


class TooLarge(Exception):
    """The body grew past its limit while it was read."""


class RequestGuard:
    """
    ASGI middleware for a server on loopback.

    Checking Host stops a page elsewhere from reaching this server under a name of its own; checking Origin
    stops it from sending forms and scripts here, and Sec-Fetch-Site from fetching pictures and frames.
    """

    def __init__(self, app: ASGIApp):
        self.app = app

    async def __call__(self, scope: Scope, receive: Receive, send: Send) -> None:
        if scope["type"] != "http":
            await self.app(scope, receive, send)
            return
        is_begun = False

        async def dressed(message: Message) -> None:
            nonlocal is_begun
            if message["type"] == "http.response.start":
                is_begun = True
                MutableHeaders(scope=message).update(ON_EVERY_ANSWER)
            await send(message)

        headers = Headers(scope=scope)
        limit = _limit_of(scope["path"])
        refusal = _refuse_stranger(headers) or _refuse_length(headers, limit) or _refuse_nul(scope)
        try:
            if refusal is None:
                await self._pass_on(scope, receive, dressed, limit)
            else:
                await refusal(scope, receive, dressed)
        except Exception as error:  # noqa: BLE001 (nothing above could answer, and it would quote values)
            # An owner's name or a reading may have been at hand.
            log.error("%s %s failed: %s", scope["method"], _route_of(scope), say_fault(error))
            if not is_begun:
                await _FAULT(scope, receive, dressed)

    async def _pass_on(self, scope: Scope, receive: Receive, send: Send, limit: int) -> None:
        seen = 0

        async def counted() -> Message:
            nonlocal seen
            message = await receive()
            seen += len(message.get("body", b""))
            if seen > limit:
                raise TooLarge
            return message

        async def unless_too_large(message: Message) -> None:
            # The framework takes any failure to read a body for a bad request; this one has its own answer.
            if seen <= limit:
                await send(message)

        with suppress(TooLarge):
            await self.app(scope, counted, unless_too_large)
        if seen > limit:
            await _too_large(limit)(scope, receive, send)


def _limit_of(path: str) -> int:
    if path == "/api/run-files":
        return MAX_RUN_FILE
    if path == "/api/sensor-logs":
        return MAX_SENSOR_LOG
    if path.endswith("/agent-file"):
        return MAX_AGENT_FILE
    return MAX_PICTURE if path.endswith("/picture") else MAX_BODY


def _route_of(scope: Scope) -> str:
    """The path as it is described, not as it was asked for."""
    return str(getattr(scope.get("route"), "path", "a path that is none"))


def _refuse_stranger(headers: Headers) -> ASGIApp | None:
    hosts, origins = headers.getlist("host"), headers.getlist("origin")
    if len(hosts) != 1 or not _OWN_HOST.fullmatch(hosts[0]):
        return problem(421, "foreign_host", "This server answers on its own address only: 127.0.0.1 or localhost.")
    if origins and [origin.casefold() for origin in origins] != [f"http://{hosts[0]}".casefold()]:
        return problem(403, "foreign_origin", "Another site may not speak to this server.")
    sites: Sequence[str] = headers.getlist("sec-fetch-site")
    if any(site not in ("same-origin", "none") for site in sites) and not _is_visit(headers):
        return problem(403, "foreign_site", "Another site may not use this server; open its address yourself.")
    return None


def _is_visit(headers: Headers) -> bool:
    """Whether a person follows a link to a page: a browser says so of nothing else, and it reads only."""
    return (headers.get("sec-fetch-mode"), headers.get("sec-fetch-dest")) == ("navigate", "document")


def _refuse_length(headers: Headers, limit: int) -> ASGIApp | None:
    length = headers.get("content-length", "0")
    if not (length.isascii() and length.isdigit()):
        return problem(400, "bad_length", "The length of this body is no number.")
    return _too_large(limit) if int(length) > limit else None


def _refuse_nul(scope: Scope) -> ASGIApp | None:
    """No text of the database holds a NUL: asked for, it would be a fault of the database."""
    if "\0" not in scope["path"] and b"%00" not in scope["query_string"]:
        return None
    return problem(422, "invalid", "There is a sign in this address that no text holds (NUL); take it out.")


def _too_large(limit: int) -> ASGIApp:
    size = limit // 2**20
    return problem(413, "too_large", f"This is too large: at most {size} MB are taken. Send it in smaller parts.")


_FAULT = problem(
    500,
    "fault",
    "Something went wrong here, and this answer can't tell whether it was saved: look before you send it again. The "
    "server's log says what failed.",
)
