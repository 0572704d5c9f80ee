"""Real parts: a private PostgreSQL for the whole run, and the real server on it."""

import fcntl
import os
import shutil
import signal
import socket
import subprocess
import tempfile
import time
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from dataclasses import dataclass, field
from pathlib import Path
from uuid import uuid4

import httpx
import hypothesis
import psycopg
import pytest
from sqlalchemy import Engine

from lynxbill.cluster import ROLE, Cluster, find_cluster, start_cluster, stop_cluster
from lynxbill.demo import load_demo
from lynxbill.serve import DEMO_CHORE
from lynxbill.services.base.transaction import Sessions
from lynxbill.store.database import chore, migrate, open_engine, session_factory
from tests.forked import Forked, fork_server
from tests.tiers import NIGHTLY

# These machines are shared and noisy: no property fails for being slow.
hypothesis.settings.register_profile("untimed", deadline=None)
# A planted bug is noticed by any example; which is the smallest does not matter, and takes long to find.
PHASES = (hypothesis.Phase.explicit, hypothesis.Phase.generate)
hypothesis.settings.register_profile("mutants", deadline=None, derandomize=True, phases=PHASES)
hypothesis.settings.load_profile("mutants" if "LYNXBILL_MUTANTS" in os.environ else "untimed")

ROOT = Path(__file__).parents[2]
START_S = 120
# What takes longest is begun first, so that no worker is left with it at the end; what needs no database is begun
# beside the first, while that fills the one that all others copy.
SLOW_FIRST = (
    "prove/test_prove.py",
    "browser/test_frame.py",
    "bench/test_workloads.py",
    "browser/test_run_sheet.py",
    "bench/test_agent.py",
    "browser/test_every_screen.py",
    "browser/",
)
# It makes its questions up as it is read, which takes longer than many tests.
collect_ignore = [] if NIGHTLY or "LYNXBILL_FUZZ" in os.environ else ["api/test_fuzz.py"]
FORGETFUL = "-c fsync=off -c synchronous_commit=off -c full_page_writes=off"


def pytest_collection_modifyitems(items: list[pytest.Item]) -> None:
    def rank(item: pytest.Item) -> int:
        place = item.path.relative_to(Path(__file__).parent).as_posix()
        return next((number for number, slow in enumerate(SLOW_FIRST) if place.startswith(slow)), len(SLOW_FIRST))

    items.sort(key=rank)


# Where the workers of a run find what they share: one PostgreSQL, and databases to be copied.
SHARED = "LYNXBILL_TEST_FOLDER"


def pytest_configure(config: pytest.Config) -> None:
    if not hasattr(config, "workerinput"):
        os.environ[SHARED] = tempfile.mkdtemp(prefix="lynxbill-test-")
        Path(os.environ[SHARED]).chmod(0o755)


def pytest_unconfigure(config: pytest.Config) -> None:
    if not hasattr(config, "workerinput"):
        folder = Path(os.environ[SHARED])
        running = find_cluster(folder / "postgres")
        if running is not None:
            stop_cluster(running)
        shutil.rmtree(folder)


@contextmanager
def one_worker_at_a_time() -> Iterator[Path]:
    """Keep other workers of this run out, in what they share."""
    folder = Path(os.environ[SHARED])
    with (folder / "lock").open("w") as lock:
        fcntl.flock(lock, fcntl.LOCK_EX)
        yield folder


@pytest.fixture(scope="session")
def cluster() -> Cluster:
    """The PostgreSQL of the run: the first worker that asks for it starts it, and the run's end stops it."""
    with one_worker_at_a_time() as folder:
        return find_cluster(folder / "postgres") or start_cluster(folder / "postgres", options=FORGETFUL)


@pytest.fixture
def own_cluster() -> Iterator[Cluster]:
    with tempfile.TemporaryDirectory(prefix="lynxbill-heal-") as parent:
        Path(parent).chmod(0o755)
        cluster = start_cluster(Path(parent) / "postgres", options=FORGETFUL)
        yield cluster
        stop_cluster(cluster)


def kill_database(cluster: Cluster) -> None:
    pid = int((cluster.folder / "data" / "postmaster.pid").read_text().splitlines()[0])
    os.kill(pid, signal.SIGKILL)
    until(lambda: find_cluster(cluster.folder) is None, "the database did not end")


def until(found: Callable[[], object], what: str) -> None:
    deadline = time.monotonic() + START_S
    while not found():
        assert time.monotonic() < deadline, what
        time.sleep(0.05)


def create_database(cluster: Cluster, name: str, template: str = "template1") -> str:
    with psycopg.connect(cluster.chores_url, autocommit=True) as connection:
        connection.execute(f'CREATE DATABASE "{name}" TEMPLATE "{template}" OWNER "{ROLE}"')
    return cluster.url.rpartition("/")[0] + f"/{name}"


@pytest.fixture(scope="session")
def new_database(cluster: Cluster) -> Callable[[], str]:
    """Makes databases without a table."""
    return lambda: create_database(cluster, f"test_{uuid4().hex}")


def copies_of(cluster: Cluster, template: str, fill: Callable[[Engine], None]) -> Callable[[], str]:
    """Makes copies of a database that is filled once a run."""

    def copy() -> str:
        with one_worker_at_a_time() as folder:
            if not (folder / template).exists():
                engine = open_engine(create_database(cluster, template))
                fill(engine)
                engine.dispose()
                (folder / template).touch()
            return create_database(cluster, f"test_{uuid4().hex}", template)

    return copy


@pytest.fixture(scope="session")
def migrated_database(cluster: Cluster) -> Callable[[], str]:
    """Makes databases with every table, and nothing in them."""
    return copies_of(cluster, "migrated", migrate)


@pytest.fixture(scope="session")
def demo_database(cluster: Cluster) -> Callable[[], str]:
    """Makes databases with the demo, as a start leaves them."""

    def fill(engine: Engine) -> None:
        migrate(engine, (DEMO_CHORE,))
        with chore(sessions := session_factory(engine), DEMO_CHORE):
            load_demo(sessions)

    return copies_of(cluster, "with_demo", fill)


@pytest.fixture(scope="session")
def sessions(migrated_database: Callable[[], str]) -> Iterator[Sessions]:
    """Sessions on a migrated database of their own, for tests without a server."""
    engine = open_engine(migrated_database())
    yield session_factory(engine)
    engine.dispose()


@dataclass
class LiveServer:
    """The real server as its own process, which a test may kill and start again."""

    database_url: str
    port: int
    arguments: tuple[str, ...] = ()
    process: subprocess.Popen[bytes] | Forked | None = field(default=None, repr=False)

    @property
    def url(self) -> str:
        return f"http://127.0.0.1:{self.port}"

    def start(self) -> None:
        words = ("start", "--port", str(self.port), *self.arguments)
        self.process = fork_server(words, {"LYNXBILL_DATABASE_URL": self.database_url})
        deadline = time.monotonic() + START_S
        while not self._listens():
            assert self.process.poll() is None, "the server ended while it started"
            assert time.monotonic() < deadline, "the server did not listen"
            time.sleep(0.05)
        # It listens before it is ready, and answers then.
        httpx.get(f"{self.url}/api/units", timeout=START_S).raise_for_status()

    def _listens(self) -> bool:
        with socket.socket() as probe:
            return probe.connect_ex(("127.0.0.1", self.port)) == 0

    def kill(self) -> None:
        self._end(signal.SIGKILL)

    def stop(self) -> None:
        self._end(signal.SIGINT)

    def _end(self, how: signal.Signals) -> None:
        if self.process is not None and self.process.poll() is None:
            self.process.send_signal(how)
            self.process.wait(timeout=60)


def free_port() -> int:
    with socket.socket() as probe:
        probe.bind(("127.0.0.1", 0))
        return int(probe.getsockname()[1])


@pytest.fixture(scope="session")
def demo_server(demo_database: Callable[[], str]) -> Iterator[LiveServer]:
    """A server with the demo, shared by tests that read it or make machines of their own."""
    server = LiveServer(demo_database(), free_port())
    server.start()
    yield server
    server.stop()


@pytest.fixture
def empty_server(migrated_database: Callable[[], str]) -> Iterator[LiveServer]:
    server = LiveServer(migrated_database(), free_port(), ("--empty",))
    server.start()
    yield server
    server.stop()


def find_machine(api: httpx.Client, name: str) -> str:
    names = api.get("/machine-names").raise_for_status().json()
    return str(next(machine["id"] for machine in names if machine["name"] == name))


@pytest.fixture(scope="session")
def api(demo_server: LiveServer) -> Iterator[httpx.Client]:
    with httpx.Client(base_url=f"{demo_server.url}/api", timeout=30) as client:
        yield client


@pytest.fixture(scope="session")
def demo_id(api: httpx.Client) -> str:
    return find_machine(api, "Plotting PC")
