"""What a start makes good, and what goes on by itself: killed loads, a dead database, a full disk."""

import os
import signal
import subprocess
import sys
import tempfile
from collections.abc import Callable
from datetime import UTC, datetime, timedelta
from pathlib import Path
from uuid import uuid4

import httpx
import psycopg
import pytest

from lynxbill import serve
from lynxbill.cluster import Cluster
from lynxbill.core.terms.errors import DiskFull
from lynxbill.demo import DEMO
from lynxbill.installation import BALLAST_MB, DANGER_MB, CannotStart, Place, Watch
from lynxbill.services.base.transaction import Sessions, transaction
from lynxbill.services.files import imports
from lynxbill.services.files.imports import read_import
from lynxbill.services.frame.machines import list_names
from lynxbill.store.database import migrate, open_engine, session_factory
from lynxbill.store.space import FULL_MB, MB, SCARCE_MB, Space
from lynxbill.store.tables.kept import ImportRow
from tests.api.bodies import Job
from tests.conftest import START_S, LiveServer, free_port, kill_database, until

pytestmark = pytest.mark.nightly


def count_machines(url: str) -> int:
    try:
        with psycopg.connect(url) as connection:
            row = connection.execute("SELECT count(*) FROM machines").fetchone()
    except psycopg.errors.UndefinedTable:
        return 0
    return row[0] if row else 0


def test_a_demo_load_that_was_killed_is_made_good_by_the_next_start(new_database: Callable[[], str]) -> None:
    wanted = len(list(DEMO.glob("*.json")))
    url = new_database()
    command = [sys.executable, "-m", "lynxbill", "start", "--port", str(free_port())]
    first = subprocess.Popen(command, env=os.environ | {"LYNXBILL_DATABASE_URL": url}, stdout=subprocess.DEVNULL)
    until(lambda: count_machines(url) > 0, "nothing was loaded")
    first.kill()
    first.wait()
    assert count_machines(url) < wanted, "it was killed too late to show anything"
    server = LiveServer(url, free_port())
    server.start()
    try:
        assert count_machines(url) == wanted
    finally:
        server.stop()


def test_two_servers_that_start_at_once_on_a_new_database_both_serve(new_database: Callable[[], str]) -> None:
    url = new_database()
    servers = [LiveServer(url, free_port()) for _ in range(2)]
    commands = [[sys.executable, "-m", "lynxbill", "start", "--port", str(server.port)] for server in servers]
    environment = os.environ | {"LYNXBILL_DATABASE_URL": url}
    for server, command in zip(servers, commands, strict=True):
        server.process = subprocess.Popen(command, env=environment, stdout=subprocess.DEVNULL)
    try:
        until(lambda: all(map(answers, servers)), "a server does not serve")
        names = [{m["name"] for m in httpx.get(f"{s.url}/api/machine-names").json()} for s in servers]
        assert names[0] == names[1]
        assert count_machines(url) == len(list(DEMO.glob("*.json")))
    finally:
        for server in servers:
            server.stop()


def answers(server: LiveServer) -> bool:
    try:
        return httpx.get(f"{server.url}/api/units", timeout=START_S).is_success
    except httpx.TransportError:
        return False


def test_a_database_that_dies_is_started_again_and_meanwhile_said_to_be_away(own_cluster: Cluster) -> None:
    server = LiveServer(own_cluster.url, free_port(), ("--empty",))
    server.start()
    watch = Watch(own_cluster)
    try:
        with httpx.Client(base_url=f"{server.url}/api", timeout=START_S) as api:
            job = Job(api).describe()
            kill_database(own_cluster)
            refused = job.put("", {"name": "Meanwhile", "currency": "EUR", "version": 1})
            assert (refused.status_code, refused.json()["code"]) == (503, "database_away")
            assert refused.headers["content-type"] == "application/problem+json"
            assert "typed entries are kept" in refused.json()["detail"]
            assert api.get("/health").json()["database"] == "away"
            watch.start()
            until(lambda: api.get("/health").json()["database"] == "here", "the database did not come back")
            assert job.put("", {"name": "Afterwards", "currency": "EUR", "version": 1}).status_code == 200
    finally:
        watch.stop()
        server.stop()


@pytest.fixture
def disk(monkeypatch: pytest.MonkeyPatch) -> dict[str, int]:
    """How many megabytes are said to be free."""
    free = {"mb": 80_000}

    class Usage:
        free = 0

    def usage(_: Path) -> Usage:
        found = Usage()
        found.free = free["mb"] * MB
        return found

    monkeypatch.setattr("lynxbill.store.space.shutil.disk_usage", usage)
    return free


def test_below_200_mb_nothing_is_written_and_reading_goes_on(
    new_database: Callable[[], str], disk: dict[str, int], tmp_path: Path
) -> None:
    engine = open_engine(new_database())
    migrate(engine)
    sessions: Sessions = session_factory(engine, Space(tmp_path))
    disk["mb"] = SCARCE_MB - 1
    assert Space(tmp_path).word == "scarce"
    with transaction(sessions):
        pass
    disk["mb"] = FULL_MB - 1
    with pytest.raises(DiskFull, match="reading goes on"), transaction(sessions):
        raise AssertionError("it was let through")
    assert list_names(sessions) == []
    disk["mb"] = FULL_MB
    with transaction(sessions):
        pass
    engine.dispose()


def test_ballast_is_laid_where_there_is_room_and_freed_where_others_fill_the_disk(
    disk: dict[str, int], tmp_path: Path
) -> None:
    cluster = Cluster(tmp_path, free_port())
    watch = Watch(cluster)
    ballast = tmp_path / "ballast"

    def look(free: int) -> bool:
        disk["mb"] = free
        watch.see_to_ballast()
        return ballast.exists()

    assert not look(SCARCE_MB)
    assert look(SCARCE_MB + BALLAST_MB + 1)
    assert ballast.stat().st_size == BALLAST_MB * MB
    assert look(DANGER_MB)
    assert not look(DANGER_MB - 1)
    assert not look(FULL_MB)
    assert look(80_000)


def test_a_server_that_knows_where_its_data_lie_says_how_much_is_free(new_database: Callable[[], str]) -> None:
    port, url = free_port(), new_database()
    environment = os.environ | {"LYNXBILL_DATABASE_URL": url, "LYNXBILL_DATA_FOLDER": tempfile.gettempdir()}
    command = [sys.executable, "-m", "lynxbill", "start", "--empty", "--port", str(port)]
    server = LiveServer(url, port)
    server.process = subprocess.Popen(command, env=environment, stdout=subprocess.DEVNULL)
    try:
        until(lambda: answers(server), "the server does not serve")
        health = httpx.get(f"{server.url}/api/health").json()
        assert health["free_mb"] > 0
        assert health["full_mb"] == FULL_MB
    finally:
        server.stop()


def test_whoever_asks_a_frozen_database_is_told_that_it_is_away(own_cluster: Cluster) -> None:
    server = LiveServer(own_cluster.url, free_port(), ("--empty",))
    server.start()
    try:
        with httpx.Client(base_url=f"{server.url}/api", timeout=START_S) as api:
            job = Job(api).describe()
            frozen = processes_of(own_cluster)
            for process in frozen:
                os.kill(process, signal.SIGSTOP)
            try:
                for path in ("/health", f"/machines/{job.machine}", "/machines"):
                    answer = api.get(path)
                    assert (path, answer.status_code) == (path, 503)
                    assert answer.json()["code"] == "database_away"
            finally:
                for process in frozen:
                    os.kill(process, signal.SIGCONT)
            until(lambda: api.get("/health").status_code == 200, "it did not come back")
            assert job.case()["machine"]["name"]
    finally:
        server.stop()


def processes_of(cluster: Cluster) -> list[int]:
    """PostgreSQL's main process, and those that it made."""
    main = int((cluster.folder / "data" / "postmaster.pid").read_text().splitlines()[0])
    children = Path(f"/proc/{main}/task/{main}/children").read_text().split()
    return [main, *map(int, children)]


def test_a_start_on_a_full_disk_is_for_reading_and_says_so_in_one_line(
    migrated_database: Callable[[], str],
    new_database: Callable[[], str],
    disk: dict[str, int],
    tmp_path: Path,
    capsys: pytest.CaptureFixture[str],
) -> None:
    disk["mb"] = FULL_MB - 1
    serve._prepare(Place(migrated_database(), Space(tmp_path)), empty=False, renew_demo=False)
    told = capsys.readouterr().out
    assert told == "Less than 200 MB are free: nothing is saved until there is space; reading goes on.\n"
    with pytest.raises(CannotStart, match="make space, then start again"):
        serve._prepare(Place(new_database(), Space(tmp_path)), empty=False, renew_demo=False)


def test_an_import_whose_process_and_server_are_gone_is_said_to_have_ended(
    migrated_database: Callable[[], str],
) -> None:
    engine = open_engine(migrated_database())
    sessions: Sessions = session_factory(engine)
    now = datetime.now(UTC)
    dead, alive, fresh = uuid4(), uuid4(), uuid4()
    with sessions.begin() as session:
        for key, age in ((dead, 2), (alive, 2), (fresh, 0)):
            session.add(ImportRow(id=key, by="somebody", begun_at=now - timedelta(minutes=age)))
    with imports._alive(sessions, alive):
        assert imports.end_orphans(sessions, now) == 1
    ended = read_import(sessions, dead)
    assert (ended.state, "Try it once more" in ended.problems[0][1]) == ("failed", True)
    assert [read_import(sessions, key).state for key in (alive, fresh)] == ["running", "running"]
    engine.dispose()


def test_whoever_asks_for_a_table_that_is_locked_is_told_that_the_database_is_away(own_cluster: Cluster) -> None:
    server = LiveServer(own_cluster.url, free_port(), ("--empty",))
    server.start()
    try:
        with (
            psycopg.connect(own_cluster.url) as other,
            httpx.Client(base_url=f"{server.url}/api", timeout=START_S) as api,
        ):
            job = Job(api).describe()
            other.execute("LOCK TABLE runs IN ACCESS EXCLUSIVE MODE")
            answer = api.get(f"/machines/{job.machine}/runs")
            assert (answer.status_code, answer.json()["code"]) == (503, "database_away")
            assert api.get("/health").json()["database"] == "here"
            other.rollback()
            assert api.get(f"/machines/{job.machine}/runs").status_code == 200
    finally:
        server.stop()
