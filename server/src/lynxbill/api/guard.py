"""What is refused before any endpoint sees it: foreign hosts and origins, and bodies that are too large."""

from contextlib import suppress
from urllib.parse import urlsplit

from starlette.types import ASGIApp, Message, Receive, Scope, Send

from lynxbill.api.errors import problem

OWN_HOSTS = {"127.0.0.1", "localhost", "::1"}
MAX_BODY = 5 * 1024 * 1024
MAX_RUN_FILE = 100 * 1024 * 1024
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
        headers = {key.decode("latin-1"): value.decode("latin-1") for key, value in scope["headers"]}
        refusal = _refuse_stranger(headers)
        limit = _limit_of(scope["path"])
        if refusal is None and int(headers.get("content-length", "0")) > limit:
            refusal = _too_large(limit)
        if refusal is not None:
            await refusal(scope, receive, send)
            return
        await self._pass_on(scope, receive, send, limit)

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
    return MAX_PICTURE if path.endswith("/picture") else MAX_BODY


def _refuse_stranger(headers: dict[str, str]) -> ASGIApp | None:
    host = headers.get("host", "")
    if urlsplit(f"//{host}").hostname not in OWN_HOSTS:
        return problem(421, "foreign_host", "This server answers on its own address only: 127.0.0.1 or localhost.")
    origin = headers.get("origin")
    if origin is not None and urlsplit(origin).netloc != host:
        return problem(403, "foreign_origin", "Another site may not speak to this server.")
    if headers.get("sec-fetch-site", "none") not in ("same-origin", "none") and not _is_visit(headers):
        return problem(403, "foreign_site", "Another site may not use this server; open its address yourself.")
    return None


def _is_visit(headers: dict[str, str]) -> bool:
    """Whether a person follows a link to a page: a browser says so of nothing else, and it reads only."""
    return (headers.get("sec-fetch-mode"), headers.get("sec-fetch-dest")) == ("navigate", "document")


def _too_large(limit: int) -> ASGIApp:
    size = limit // 2**20
    return problem(413, "too_large", f"This is too large: at most {size} MB are taken. Send it in smaller parts.")
