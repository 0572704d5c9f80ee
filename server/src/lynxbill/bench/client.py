"""Speaks with a Lynxbill server."""

from collections.abc import Mapping
from dataclasses import dataclass
from typing import Any

import httpx

TIMEOUT_S = 10.0


class ServerRefused(Exception):
    """The server answered, and refused what was sent; trying again would not help."""


class ServerLost(Exception):
    """The server did not answer."""


@dataclass(frozen=True, slots=True)
class Client:
    """One machine on one server."""

    server: str
    machine_id: str

    def read_case(self) -> dict[str, Any]:
        """Read everything recorded of the machine."""
        return self._call("GET", "")

    def put(self, path: str, body: Mapping[str, Any]) -> dict[str, Any]:
        """Save one thing under the machine's address."""
        return self._call("PUT", f"/{path}", body)

    def post(self, path: str) -> dict[str, Any]:
        """Do one thing under the machine's address."""
        return self._call("POST", f"/{path}")

    def _call(self, method: str, path: str, body: Mapping[str, Any] | None = None) -> dict[str, Any]:
        url = f"{self.server.rstrip('/')}/api/machines/{self.machine_id}{path}"
        try:
            response = httpx.request(method, url, json=body, timeout=TIMEOUT_S)
        except httpx.HTTPError as error:
            raise ServerLost(f"{self.server} does not answer ({type(error).__name__}).") from error
        except httpx.InvalidURL as error:
            raise ServerRefused(
                f"“{self.server}” is not an address; write one like http://127.0.0.1:8440."
            ) from error
        if response.status_code >= 500:
            raise ServerLost(f"{self.server} failed with status {response.status_code}.")
        if response.is_error:
            raise ServerRefused(_why(response))
        answer: dict[str, Any] = response.json()
        return answer


def _why(response: httpx.Response) -> str:
    try:
        return str(response.json()["detail"])
    except (ValueError, KeyError, TypeError):
        return f"it answered with status {response.status_code}; is this a Lynxbill server?"
