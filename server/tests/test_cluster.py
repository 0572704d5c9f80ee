"""The private PostgreSQL after a power cut or a killed first start: it starts, and signals nobody else."""

import os
import signal
import subprocess
import tempfile
import time
from collections.abc import Iterator
from contextlib import suppress
from pathlib import Path

import psycopg
import pytest
from alembic import command

from lynxbill.cluster import SECRET, Cluster, ClusterError, start_cluster, stop_cluster
from lynxbill.installation import Watch
from lynxbill.store.database import migrate, migration_config, open_engine
from tests.conftest import FORGETFUL

pytestmark = pytest.mark.nightly
AS_OWNER = ["runuser", "-u", "postgres", "--"] if os.geteuid() == 0 else []


@pytest.fixture
def folder() -> Iterator[Path]:
    with tempfile.TemporaryDirectory(prefix="lynxbill-cluster-") as parent:
        Path(parent).chmod(0o755)
        yield Path(parent) / "postgres"


@pytest.fixture
def stranger() -> Iterator[subprocess.Popen[bytes]]:
    """A program of the account that PostgreSQL runs as, which ends on any signal."""
    process = subprocess.Popen([*AS_OWNER, "sleep", "600"], cwd="/")
    yield process
    process.kill()
    process.wait()


def cut_power(cluster: Cluster) -> Path:
    """Kill the server with all its helpers; answers the file with its number, which stays behind."""
    file = cluster.folder / "data" / "postmaster.pid"
    process = int(file.read_text().splitlines()[0])
    left = file.read_text()
    os.kill(process, signal.SIGKILL)
    deadline = time.monotonic() + 30
    while _works_in(cluster.folder / "data") and time.monotonic() < deadline:
        time.sleep(0.02)
    file.write_text(left)
    return file


def _works_in(data: Path) -> bool:
    """Whether the server or one of its helpers is still there."""
    for place in Path("/proc").glob("[0-9]*/cwd"):
        with suppress(OSError):
            if place.readlink() == data.resolve():
                return True
    return False


def answers(cluster: Cluster) -> bool:
    with psycopg.connect(cluster.url) as connection:
        return connection.execute("SELECT 1").fetchone() == (1,)


def number_of(process: subprocess.Popen[bytes]) -> int:
    """The stranger itself, below the program that changes accounts."""
    if not AS_OWNER:
        return process.pid
    deadline = time.monotonic() + 30
    while time.monotonic() < deadline:
        children = Path(f"/proc/{process.pid}/task/{process.pid}/children").read_text().split()
        if children:
            return int(children[0])
        time.sleep(0.02)
    raise AssertionError("the stranger did not start")


def test_a_stale_number_that_is_another_programs_by_now_is_never_signalled(
    folder: Path, stranger: subprocess.Popen[bytes]
) -> None:
    file = cut_power(start_cluster(folder, options=FORGETFUL))
    lines = file.read_text().splitlines()
    file.write_text("\n".join([str(number_of(stranger)), *lines[1:]]) + "\n")
    stop_cluster(Cluster(folder, 0))
    assert stranger.poll() is None
    again = start_cluster(folder, options=FORGETFUL)
    assert answers(again)
    stop_cluster(again)
    assert stranger.poll() is None


def test_the_server_of_another_folder_is_not_taken_for_ours(folder: Path, cluster: Cluster) -> None:
    file = cut_power(start_cluster(folder, options=FORGETFUL))
    theirs = (cluster.folder / "data" / "postmaster.pid").read_text().splitlines()
    lines = file.read_text().splitlines()
    file.write_text("\n".join([theirs[0], *lines[1:3], theirs[3], *lines[4:]]) + "\n")
    ours = start_cluster(folder, options=FORGETFUL)
    assert ours.port != cluster.port
    stop_cluster(ours)
    assert answers(cluster)


def test_a_server_that_still_runs_is_used_again(folder: Path) -> None:
    first = start_cluster(folder, options=FORGETFUL)
    assert start_cluster(folder, options=FORGETFUL) == first
    stop_cluster(first)


@pytest.mark.parametrize("half", ["data", "data.new"])
def test_a_data_folder_that_is_half_made_does_not_block_the_next_start(folder: Path, half: str) -> None:
    (folder / half).mkdir(parents=True)
    (folder / half / "PG_VERSION").write_text("15\n")
    (folder / half / "note").write_text("kept")
    made = start_cluster(folder, options=FORGETFUL)
    assert answers(made)
    stop_cluster(made)
    assert not (folder / "data.new").exists()
    kept = [path.read_text() for path in folder.glob("data.half-made.*/note")]
    assert kept == (["kept"] if half == "data" else [])


def test_its_log_keeps_no_row_and_no_statement(folder: Path) -> None:
    cluster = start_cluster(folder, options=FORGETFUL)
    with psycopg.connect(cluster.url, autocommit=True) as connection:
        connection.execute("CREATE TABLE owners (name text PRIMARY KEY, reading float8 NOT NULL)")
        connection.execute("INSERT INTO owners VALUES ('Miller', 41.9)")
        for statement in (
            "INSERT INTO owners VALUES ('Miller', 41.9)",
            "INSERT INTO owners VALUES ('Miller', NULL)",
            "SELECT reading FROM owners WHERE name = 'Miller' AND nothing",
        ):
            with pytest.raises(psycopg.Error):
                connection.execute(statement)
    stop_cluster(cluster)
    log = (folder / "server.log").read_text()
    assert "duplicate key" in log
    assert "Miller" not in log
    assert "41.9" not in log


def taken_away(folder: Path) -> Path:
    """The data as when their disk is not mounted: the folder is there, and nothing in it."""
    elsewhere = folder.parent / "elsewhere"
    (folder.resolve() / "data").rename(elsewhere)
    return elsewhere


def test_data_that_are_away_are_never_replaced_and_are_used_again_when_they_are_back(folder: Path) -> None:
    cluster = start_cluster(folder, options=FORGETFUL)
    with psycopg.connect(cluster.url, autocommit=True) as connection:
        connection.execute("CREATE TABLE kept (name text)")
    stop_cluster(cluster)
    elsewhere = taken_away(folder)
    for may_make in (True, False):
        with pytest.raises(ClusterError, match="is away or damaged: bring it back"):
            start_cluster(folder, options=FORGETFUL, may_make=may_make)
    assert not (folder.resolve() / "data").exists()
    elsewhere.rename(folder.resolve() / "data")
    again = start_cluster(folder, options=FORGETFUL)
    with psycopg.connect(again.url) as connection:
        assert connection.execute("SELECT count(*) FROM kept").fetchone() == (0,)
    stop_cluster(again)


def test_the_watch_makes_no_data_where_there_are_none_any_more(folder: Path) -> None:
    cluster = start_cluster(folder, options=FORGETFUL)
    stop_cluster(cluster)
    taken_away(folder)
    folder.with_name(f"{folder.name}.made").unlink()
    Watch(cluster).look()
    assert not (folder.resolve() / "data").exists()


def test_the_password_of_an_older_folder_goes_to_its_data(folder: Path) -> None:
    cluster = start_cluster(folder, options=FORGETFUL)
    stop_cluster(cluster)
    (folder.resolve() / "data" / SECRET).rename(folder.resolve() / "secret")
    again = start_cluster(folder, options=FORGETFUL)
    assert answers(again)
    stop_cluster(again)


def test_an_older_cluster_is_handed_over_once_with_a_backup_before(folder: Path) -> None:
    cluster = start_cluster(folder, options=FORGETFUL)
    with psycopg.connect(cluster.chores_url, autocommit=True) as connection:
        connection.execute("ALTER DATABASE postgres OWNER TO app")
        connection.execute("DROP OWNED BY lynxbill")
        connection.execute("DROP ROLE lynxbill")
    engine = open_engine(cluster.chores_url)
    migrate(engine)
    engine.dispose()
    for _ in range(2):
        cluster = start_cluster(folder, options=FORGETFUL)
    assert (cluster.folder / "before-handing-over.backup").stat().st_mode & 0o077 == 0
    engine = open_engine(cluster.url)
    command.downgrade(migration_config(engine), "-1")
    migrate(engine)
    engine.dispose()
    with psycopg.connect(cluster.url) as connection:
        assert connection.execute(
            "SELECT current_user, rolsuper FROM pg_roles WHERE rolname = current_user"
        ).fetchone() == (
            "lynxbill",
            False,
        )
        with pytest.raises(psycopg.errors.InsufficientPrivilege):
            connection.execute("COPY machines TO PROGRAM 'true'")
    stop_cluster(cluster)
