"""`lynxbill start`: what it prints where it cannot start."""

import asyncio
import os
import signal
import socket
import subprocess
import sys
from collections.abc import Callable

import psycopg
import pytest

from lynxbill.serve import listening
from lynxbill.store.database import migrate, open_engine
from tests.conftest import LiveServer, find_machine, free_port

pytestmark = pytest.mark.nightly


def start(url: str, *arguments: str) -> subprocess.CompletedProcess[str]:
    command = [sys.executable, "-m", "lynxbill", "start", *arguments]
    environment = os.environ | {"LYNXBILL_DATABASE_URL": url}
    return subprocess.run(command, env=environment, capture_output=True, text=True, check=False, timeout=120)


def one_line(result: subprocess.CompletedProcess[str]) -> str:
    assert result.returncode == 1
    assert len(result.stderr.splitlines()) == 1, result.stderr
    return result.stderr


def test_a_taken_port_is_one_clear_line(new_database: Callable[[], str]) -> None:
    with socket.socket() as taken:
        taken.bind(("127.0.0.1", 0))
        taken.listen()
        port = taken.getsockname()[1]
        assert f"Port {port} can't be used" in one_line(start(new_database(), "--port", str(port)))


def test_answers_are_sent_without_waiting_for_more_to_send() -> None:
    delayed = []

    async def answer(_: asyncio.StreamReader, writer: asyncio.StreamWriter) -> None:
        delayed.append(writer.get_extra_info("socket").getsockopt(socket.IPPROTO_TCP, socket.TCP_NODELAY) == 0)
        writer.close()

    async def call(port: int, listener: socket.socket) -> None:
        async with await asyncio.start_server(answer, sock=listener):
            reader, writer = await asyncio.open_connection("127.0.0.1", port)
            await reader.read()
            writer.close()

    port = free_port()
    with listening(port) as listener:
        asyncio.run(call(port, listener))
    assert delayed == [False]


def test_a_database_of_a_newer_version_is_one_clear_line(new_database: Callable[[], str]) -> None:
    url = new_database()
    engine = open_engine(url)
    migrate(engine)
    engine.dispose()
    with psycopg.connect(url, autocommit=True) as connection:
        connection.execute("UPDATE alembic_version SET version_num = '9999'")
    assert "made by a newer Lynxbill" in one_line(start(url, "--port", str(free_port())))


def test_a_database_that_is_away_is_one_clear_line() -> None:
    url = f"postgresql://app:x@127.0.0.1:{free_port()}/none"
    assert "does not answer" in one_line(start(url, "--port", str(free_port())))


@pytest.mark.parametrize("how", [signal.SIGINT, signal.SIGTERM, signal.SIGHUP])
def test_it_ends_cleanly_when_asked_to(new_database: Callable[[], str], how: signal.Signals) -> None:
    server = LiveServer(new_database(), free_port(), ("--empty",))
    server.start()
    assert server.process is not None
    server.process.send_signal(how)
    assert server.process.wait(timeout=60) == 0


def test_reset_demo_loads_the_demo_anew_and_leaves_the_rest(new_database: Callable[[], str]) -> None:
    import httpx

    from tests.api.bodies import Job

    server = LiveServer(new_database(), free_port())
    server.start()
    with httpx.Client(base_url=f"{server.url}/api", timeout=30) as api:
        Job(api).describe()
        demo = find_machine(api, "Plotting PC")
        path = f"/machines/{demo}"
        api.put(path, json={"name": "Renamed", "currency": "EUR", "version": 1}).raise_for_status()
    server.stop()
    again = LiveServer(server.database_url, server.port, ("--reset-demo",))
    again.start()
    names = {machine["name"] for machine in httpx.get(f"{again.url}/api/machine-names").json()}
    again.stop()
    assert names >= {"Test bench", "Plotting PC"}
    assert "Renamed" not in names
