"""Who may speak to the server and in which form; what every answer carries; what becomes of a fault."""

import asyncio
import json
import logging
import socket
from collections.abc import Callable

import httpx
import psycopg
import pytest

from lynxbill.app import create_app
from lynxbill.core.terms.errors import say_fault
from tests.conftest import LiveServer

NOBODY = "00000000-0000-4000-8000-000000000000"


def raw(server: LiveServer, *headers: str, method: str = "GET", path: str = "/api/machines") -> tuple[int, str]:
    """Ask with header lines as they are, in forms that no client would send."""
    with socket.create_connection(("127.0.0.1", server.port), timeout=20) as connection:
        lines = (f"{method} {path} HTTP/1.1", *headers, "Connection: close", "", "")
        connection.sendall("\r\n".join(lines).encode("latin-1"))
        answer = b""
        while chunk := connection.recv(65536):
            answer += chunk
    text = answer.decode("latin-1")
    return int(text.split(" ", 2)[1]), text


@pytest.mark.parametrize(
    ("host", "more", "status"),
    [
        ("[", (), 421),
        ("evil@127.0.0.1", (), 421),
        ("127.0.0.1:80:80", (), 421),
        ("127.0.0.1@evil.example", (), 421),
        ("", (), 421),
        ("127.0.0.1", ("Host: evil.example",), 421),
        ("LOCALHOST", (), 200),
        ("[::1]:8000", (), 200),
        ("127.0.0.1", ("Origin: http://127.0.0.1",), 200),
        ("127.0.0.1", ("Origin: https://127.0.0.1",), 403),
        ("127.0.0.1", ("Origin: http://127.0.0.1", "Origin: http://evil.example"), 403),
        ("127.0.0.1", ("Origin: http://127.0.0.1", "Origin: http://127.0.0.1"), 403),
        ("127.0.0.1", ("Origin: [",), 403),
        ("127.0.0.1", ("Origin: http://evil@127.0.0.1",), 403),
        ("127.0.0.1", ("Sec-Fetch-Site: same-origin", "Sec-Fetch-Site: cross-site"), 403),
    ],
)
def test_odd_forms_of_host_and_origin_are_refused_and_never_a_fault(
    demo_server: LiveServer, host: str, more: tuple[str, ...], status: int
) -> None:
    found, text = raw(demo_server, f"Host: {host}", *more)
    assert found in ({status, 400} if status != 200 else {200}), text


def test_every_answer_says_what_may_be_done_with_it(demo_server: LiveServer) -> None:
    for path in ("/api/machines", "/", "/api/machines/none", "/api/openapi.json", "/nothing/here"):
        headers = httpx.get(demo_server.url + path).headers
        assert headers["x-content-type-options"] == "nosniff"
        assert "default-src 'self'" in headers["content-security-policy"]
        assert headers["cross-origin-resource-policy"] == "same-origin"
    refused = httpx.get(f"{demo_server.url}/api/machines", headers={"Origin": "null"})
    assert "frame-ancestors 'none'" in refused.headers["content-security-policy"]


@pytest.mark.parametrize(
    ("method", "path", "allowed"),
    [
        ("POST", "/machines", {"GET"}),
        ("PATCH", f"/machines/{NOBODY}", {"GET", "PUT", "DELETE"}),
        ("GET", "/columns", {"POST"}),
        ("BREW", f"/shelf/{NOBODY}", {"PUT", "DELETE"}),
    ],
)
def test_another_method_is_405_with_those_that_there_are(
    api: httpx.Client, method: str, path: str, allowed: set[str]
) -> None:
    answer = api.request(method, path)
    assert answer.status_code == 405
    assert set(answer.headers["allow"].split(", ")) == allowed
    assert answer.headers["content-type"] == "application/problem+json"


def test_an_address_of_nothing_is_404_as_a_problem(api: httpx.Client) -> None:
    answer = api.get("/nothing")
    assert (answer.status_code, answer.headers["content-type"]) == (404, "application/problem+json")


def test_problems_are_described_in_their_own_media_type(api: httpx.Client) -> None:
    described = api.get("/openapi.json").json()
    for path in described["paths"].values():
        for operation in path.values():
            assert list(operation["responses"]["default"]["content"]) == ["application/problem+json"]
            assert "422" not in operation["responses"]
    assert "HTTPValidationError" not in json.dumps(described)


def test_a_fault_is_a_problem_without_details_and_the_log_holds_no_values(
    new_database: Callable[[], str], monkeypatch: pytest.MonkeyPatch, caplog: pytest.LogCaptureFixture
) -> None:
    def fail(*_: object) -> None:
        raise RuntimeError("Miller, 41.9 s")

    monkeypatch.setattr("lynxbill.api.routes.machines.list_names", fail)

    async def ask() -> httpx.Response:
        transport = httpx.ASGITransport(create_app(new_database()))
        async with httpx.AsyncClient(transport=transport, base_url="http://127.0.0.1") as client:
            return await client.get("/api/machine-names")

    with caplog.at_level(logging.DEBUG):
        answer = asyncio.run(ask())
    assert (answer.status_code, answer.headers["content-type"]) == (500, "application/problem+json")
    assert "RuntimeError" not in answer.text
    assert "builtins.RuntimeError" in caplog.text
    assert "Miller" not in caplog.text + answer.text
    assert "41.9" not in caplog.text


def test_a_fault_of_the_database_is_named_without_the_row_that_it_quotes() -> None:
    error = psycopg.errors.NotNullViolation("Failing row contains (Miller, 41.9)")
    try:
        raise ValueError("Miller") from error
    except ValueError as raised:
        sentence = say_fault(raised)
    assert "ValueError from psycopg.errors.NotNullViolation" in sentence
    assert "Miller" not in sentence
