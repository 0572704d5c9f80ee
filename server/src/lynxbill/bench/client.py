"""Speaks with a Lynxbill server, by the standard library alone."""

import json
import urllib.error
import urllib.parse
import urllib.request
from collections.abc import Mapping
from dataclasses import dataclass
from datetime import datetime
from email.utils import parsedate_to_datetime
from typing import Any

TIMEOUT_S = 10.0
USUAL_PORT = 8440
# A proxy has no business between the agent and a server on this machine.
_OPENER = urllib.request.build_opener(urllib.request.ProxyHandler({}))
TYPE_LIKE = f"type one like 127.0.0.1:{USUAL_PORT}"


class ServerRefused(Exception):
    """The server answered, and refused what was sent; trying again would not help."""


class ServerLost(Exception):
    """The server did not answer."""


def read_address(typed: str) -> str:
    """Bring an address as it is typed into the form that is asked: "127.0.0.1:8440" will do."""
    text = typed.strip().rstrip("/")
    if "://" not in text:
        text = f"http://{text}"
    try:
        parts = urllib.parse.urlsplit(text)
        port = parts.port
    except ValueError as error:
        raise ServerRefused(f"“{typed}” is not an address: {TYPE_LIKE}.") from error
    if parts.scheme not in ("http", "https") or not parts.hostname or " " in text:
        raise ServerRefused(f"“{typed}” is not an address: {TYPE_LIKE}.")
    host = f"[{parts.hostname}]" if ":" in parts.hostname else parts.hostname
    return f"{parts.scheme}://{host}:{port or USUAL_PORT}"


@dataclass(frozen=True, slots=True)
class Client:
    """A server; what is asked of it begins with “/api”."""

    server: str

    def get(self, path: str) -> Any:
        return self._call("GET", path)

    def put(self, path: str, body: Mapping[str, Any]) -> Any:
        return self._call("PUT", path, body)

    def post(self, path: str, body: Mapping[str, Any] | None = None) -> Any:
        return self._call("POST", path, body)

    def read_clock(self) -> datetime:
        """What time it is at the server's, to a second."""
        try:
            with _OPENER.open(f"{self.server}/api/health", timeout=TIMEOUT_S) as answer:
                return parsedate_to_datetime(answer.headers["Date"])
        except (urllib.error.URLError, OSError, TypeError, ValueError) as error:
            raise ServerLost(f"{self.server} does not answer. Is Lynxbill started there?") from error

    def _call(self, method: str, path: str, body: Mapping[str, Any] | None = None) -> Any:
        data = None if body is None else json.dumps(body, allow_nan=False).encode()
        headers = {"Accept": "application/json"} | ({"Content-Type": "application/json"} if data else {})
        request = urllib.request.Request(f"{self.server}/api{path}", data, headers, method=method)
        try:
            with _OPENER.open(request, timeout=TIMEOUT_S) as answer:
                return json.load(answer)
        except urllib.error.HTTPError as error:
            if error.code >= 500:
                raise ServerLost(f"{self.server} failed with status {error.code}.") from error
            raise ServerRefused(_why(error)) from error
        except (urllib.error.URLError, OSError) as error:
            raise ServerLost(f"{self.server} does not answer. Is Lynxbill started there?") from error
        except ValueError as error:
            raise ServerRefused(f"{self.server} does not answer as a Lynxbill server does.") from error


def _why(error: urllib.error.HTTPError) -> str:
    try:
        problem = json.load(error)
        sentence = str(problem["detail"])
        fields = [f"{e['field']}: {e['message']}" for e in problem.get("errors", ()) if e["message"] not in sentence]
        return "\n".join([sentence, *fields])
    except (ValueError, KeyError, TypeError):
        return f"it answered with status {error.code}; is this a Lynxbill server?"
