"""Backup and restore: every table comes back as it was, pictures and ledger included, from a server that runs."""

import re
from collections.abc import Callable, Iterator
from datetime import UTC, datetime, timedelta
from pathlib import Path
from uuid import uuid4

import httpx
import psycopg
import pytest
from alembic import command
from sqlalchemy import make_url, text
from typer.testing import CliRunner

from lynxbill.backup import KEPT, back_up, back_up_before_migration, restore_all, restore_machine
from lynxbill.cli import app
from lynxbill.cluster import Cluster
from lynxbill.demo import load_demo
from lynxbill.dump_programs import BackupError
from lynxbill.services.base.act import Act
from lynxbill.services.evidence.removal import remove_machine
from lynxbill.services.files.run_files import export_machine
from lynxbill.services.frame.machines import erase_machine, list_names
from lynxbill.store.answers import stale_lines
from lynxbill.store.belonging import owned_by
from lynxbill.store.database import migrate, migration_config, open_engine, session_factory
from lynxbill.store.shape import differences_of
from lynxbill.store.tables.base import Table
from tests.api.bodies import Job, new_id
from tests.conftest import LiveServer, free_port, until
from tests.store.test_old_databases import OLD, STATES, restored

pytestmark = pytest.mark.nightly

DIGEST = 'SELECT count(*), md5(string_agg(row::text, chr(10) ORDER BY row::text)) FROM "{}" AS row'
PICTURE = Path(__file__).parents[2] / "docs" / "screenshots" / "home.png"


def tables_of(url: str) -> dict[str, tuple[int, str | None]]:
    with psycopg.connect(url) as connection:
        names = [
            name for (name,) in connection.execute("SELECT tablename FROM pg_tables WHERE schemaname = 'public'")
        ]
        found = {name: connection.execute(DIGEST.format(name)).fetchone() for name in sorted(names)}
    return {name: row for name, row in found.items() if row is not None}


@pytest.fixture(scope="module")
def shop(demo_database: Callable[[], str]) -> Iterator[LiveServer]:
    """A server with the demo, a job of its own with a picture, a correction and a report."""
    server = LiveServer(demo_database(), free_port())
    server.start()
    try:
        with httpx.Client(base_url=f"{server.url}/api", timeout=30) as api:
            job = Job(api).describe(name="Bench with a past")
            job.measure(job.build, [[41.9, 42.0], [42.1, 41.8]])
            run = job.runs()[0]
            api.put(
                f"/machines/{job.machine}/runs/{run['id']}/picture", content=PICTURE.read_bytes()
            ).raise_for_status()
            corrected = job.row(run["sitting"], run["position"], 41.7) | {"id": run["id"], "version": run["version"]}
            job.post("/runs", {"runs": [corrected]}).raise_for_status()
            demo = next(m["id"] for m in api.get("/machine-names").json() if m["name"] == "Plotting PC")
            swap = api.get(f"/machines/{demo}").json()["swaps"][0]
            wish = {"before": swap["before"], "after": swap["after"], "technician": "R. Feld", "changed_since": ""}
            api.post(f"/machines/{demo}/reports", json=wish).raise_for_status()
        # What the server keeps of its own accord is written by then.
        engine = open_engine(server.database_url)
        with session_factory(engine)() as session:
            until(lambda: stale_lines(session) == [], "home's lines are not written")
        engine.dispose()
        yield server
    finally:
        server.stop()


def test_a_backup_of_a_running_server_restores_every_table_as_it_was(
    shop: LiveServer, new_database: Callable[[], str], tmp_path: Path
) -> None:
    file = tmp_path / "all.backup"
    back_up(shop.database_url, file)
    there = tables_of(shop.database_url)
    assert {"run_pictures", "showings", "edits", "reports", "shelf"} <= {
        name for name, (rows, _) in there.items() if rows
    }
    target = new_database()
    assert restore_all(target, file) == there["machines"][0]
    assert tables_of(target) == there
    assert file.stat().st_mode & 0o077 == 0


def test_a_restore_goes_over_an_empty_database_of_this_program_and_over_nothing_else(
    shop: LiveServer, new_database: Callable[[], str], tmp_path: Path
) -> None:
    file = tmp_path / "all.backup"
    back_up(shop.database_url, file)
    engine = open_engine(target := new_database())
    migrate(engine)
    engine.dispose()
    restore_all(target, file)
    assert tables_of(target) == tables_of(shop.database_url)
    with pytest.raises(BackupError, match="into an empty database"):
        restore_all(target, file)
    assert tables_of(target) == tables_of(shop.database_url)
    with psycopg.connect(strange := new_database()) as connection:
        connection.execute("CREATE TABLE somebody_elses (name text)")
    with pytest.raises(BackupError, match="somebody_elses"):
        restore_all(strange, file)
    assert list(tables_of(strange)) == ["somebody_elses"]


def test_a_file_that_is_no_backup_changes_nothing(new_database: Callable[[], str], tmp_path: Path) -> None:
    engine = open_engine(target := new_database())
    migrate(engine)
    engine.dispose()
    before = tables_of(target)
    torn = tmp_path / "torn.backup"
    back_up(target, whole := tmp_path / "whole.backup")
    torn.write_bytes(whole.read_bytes()[:-4000])
    (tmp_path / "text.backup").write_text("no backup")
    for name, says in (("torn", "pg_restore failed"), ("text", "pg_restore failed"), ("missing", "There is no file")):
        with pytest.raises(BackupError, match=says):
            restore_all(target, tmp_path / f"{name}.backup")
    assert tables_of(target) == before
    with psycopg.connect(target) as connection:
        left = connection.execute("SELECT count(*) FROM pg_database WHERE datname LIKE 'restore_%'").fetchone()
    assert left == (0,)


def test_one_machine_comes_in_beside_what_is_there(
    shop: LiveServer, new_database: Callable[[], str], cluster: Cluster, tmp_path: Path
) -> None:
    file = tmp_path / "all.backup"
    back_up(shop.database_url, file)
    engine = open_engine(target := new_database())
    migrate(engine)
    sessions = session_factory(engine)
    load_demo(sessions)
    assert restore_machine(target, file, "Bench with a past", cluster.chores_url) == "Bench with a past"
    (machine,) = [identifier for identifier, name in list_names(sessions) if name == "Bench with a past"]
    source = open_engine(shop.database_url)
    assert export_machine(sessions, machine) == export_machine(session_factory(source), machine)
    for table, condition in owned_by(machine):
        columns = [column for column in table.columns if column.identity is None]
        rows = table.select().with_only_columns(*columns).where(condition).order_by(*table.primary_key.columns)
        with engine.connect() as here, source.connect() as there:
            found = [dict(row._mapping) for row in here.execute(rows)]
            wanted = [dict(row._mapping) for row in there.execute(rows)]
        for row in (*found, *wanted) if table.name == "machines" else ():
            row.pop("revision")
        assert found == wanted, table.name
    source.dispose()
    with pytest.raises(BackupError, match="remove it first"):
        restore_machine(target, file, str(machine), cluster.chores_url)
    # In the minute in which it could be brought back, too.
    remove_machine(sessions, Act("somebody", datetime.now(UTC)), machine, "Bench with a past")
    restore_machine(target, file, str(machine), cluster.chores_url)
    assert machine in dict(list_names(sessions))
    erase_machine(sessions, machine)
    restore_machine(target, file, str(machine), cluster.chores_url)
    with pytest.raises(BackupError, match="holds no “Nobody’s”; it holds: "):
        restore_machine(target, file, "Nobody’s", cluster.chores_url)
    engine.dispose()


def test_what_belongs_to_a_machine_is_every_table_but_the_shops_own() -> None:
    owned = {table.name for table, _ in owned_by(uuid4())}
    assert set(Table.metadata.tables) - owned == {"shelf", "templates", "imports", "chores", "log_headings"}


def test_the_last_three_backups_before_a_migration_are_kept(new_database: Callable[[], str], tmp_path: Path) -> None:
    engine = open_engine(url := new_database())
    now = datetime(2026, 5, 4, 9, tzinfo=UTC)
    assert back_up_before_migration(url, engine, tmp_path, now) is None
    migrate(engine)
    assert back_up_before_migration(url, engine, tmp_path, now) is None
    with engine.begin() as connection:
        connection.execute(text("INSERT INTO chores VALUES ('left to do')"))
    command.downgrade(migration_config(engine), "-1")
    made = [
        back_up_before_migration(url, engine, tmp_path, now + timedelta(minutes=step)) for step in range(KEPT + 2)
    ]
    engine.dispose()
    assert sorted(tmp_path.iterdir()) == made[-KEPT:]
    assert made[-1] is not None
    target = new_database()
    assert restore_all(target, made[-1]) == 0
    engine = open_engine(target)
    migrate(engine)
    engine.dispose()


def test_the_commands_say_what_they_did_and_overwrite_nothing(
    shop: LiveServer, new_database: Callable[[], str], tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    file, runner = str(tmp_path / "all.backup"), CliRunner()
    monkeypatch.setenv("LYNXBILL_DATABASE_URL", shop.database_url)
    assert "holds everything that is recorded" in runner.invoke(app, ["backup", file]).output
    again = runner.invoke(app, ["backup", file])
    assert (again.exit_code, "overwrites nothing" in again.output) == (2, True)
    assert runner.invoke(app, ["backup", str(tmp_path / "no" / "folder")]).exit_code == 2
    monkeypatch.setenv("LYNXBILL_DATABASE_URL", new_database())
    assert "Everything is restored: " in runner.invoke(app, ["restore", file]).output
    refused = runner.invoke(app, ["restore", file, "--machine", new_id()])
    assert (refused.exit_code, "in a PostgreSQL of yours nothing is created" in refused.output) == (2, True)


DOCTORED = {
    "a function": "CREATE FUNCTION evil() RETURNS int LANGUAGE sql AS 'SELECT 1'",
    "a function of another kind": "CREATE PROCEDURE evil() LANGUAGE sql AS 'SELECT 1'",
    "a trigger": "CREATE FUNCTION evil() RETURNS trigger LANGUAGE plpgsql AS 'BEGIN RETURN NEW; END'; "
    "CREATE TRIGGER evil BEFORE INSERT ON machines FOR EACH ROW EXECUTE FUNCTION evil()",
    "our trigger elsewhere": "CREATE TRIGGER seal BEFORE UPDATE ON machines FOR EACH ROW "
    "EXECUTE FUNCTION refuse_sealed_build()",
    "a rule": "CREATE RULE evil AS ON INSERT TO chores DO ALSO DELETE FROM machines",
    "an extension": "CREATE EXTENSION pg_trgm",
    "a foreign table": "CREATE EXTENSION file_fdw; CREATE SERVER evil FOREIGN DATA WRAPPER file_fdw; "
    "CREATE FOREIGN TABLE evil (line text) SERVER evil OPTIONS (filename '/etc/passwd')",
    "an event trigger": "CREATE FUNCTION evil() RETURNS event_trigger LANGUAGE plpgsql AS 'BEGIN END'; "
    "CREATE EVENT TRIGGER evil ON ddl_command_end EXECUTE FUNCTION evil()",
    "a table": "CREATE TABLE evil (name text); INSERT INTO evil VALUES ('evil')",
    "a view": "CREATE VIEW evil AS SELECT 1 AS one",
    "a schema": "CREATE SCHEMA evil; CREATE TABLE evil.machines (name text)",
    "a type": "CREATE DOMAIN evil AS text CHECK (VALUE <> '')",
    "a large object": "SELECT lo_from_bytea(0, 'evil')",
    "a column": "ALTER TABLE machines ADD COLUMN evil text",
    "rows of a newer version": "UPDATE alembic_version SET version_num = '9999'",
    "no version": "DELETE FROM alembic_version",
}


@pytest.mark.parametrize("what", DOCTORED)
def test_what_this_program_does_not_make_is_refused_before_anything_is_touched(
    what: str, migrated_database: Callable[[], str], cluster: Cluster, tmp_path: Path
) -> None:
    source, target = migrated_database(), migrated_database()
    as_master = make_url(cluster.chores_url).set(database=make_url(source).database)
    with psycopg.connect(as_master.render_as_string(hide_password=False)) as connection:
        connection.execute(
            "INSERT INTO machines "
            "(id, name, owner, question, currency, decimal_mark, time_zone, created_at, version) "
            "SELECT gen_random_uuid(), 'Kept', '', '', 'EUR', '.', 'UTC', now(), 1"
        )
        for statement in re.split(r"; (?=[A-Z]{6} )", DOCTORED[what]):
            connection.execute(statement)
    back_up(as_master.render_as_string(hide_password=False), file := tmp_path / "doctored.backup")
    before = tables_of(target)
    for restore in (
        lambda: restore_all(target, file),
        lambda: restore_machine(target, file, "Kept", cluster.chores_url),
    ):
        with pytest.raises(BackupError) as refused:
            restore()
        assert "\n" not in str(refused.value)
        assert tables_of(target) == before
    with psycopg.connect(target) as connection:
        left = connection.execute("SELECT count(*) FROM pg_database WHERE datname LIKE 'restore_%'").fetchone()
    assert left == (0,)


def test_a_function_of_ours_with_another_body_is_not_taken_over(
    migrated_database: Callable[[], str], cluster: Cluster, tmp_path: Path
) -> None:
    source, target = migrated_database(), migrated_database()
    evil = (
        "CREATE OR REPLACE FUNCTION build_is_sealed(build uuid) RETURNS boolean LANGUAGE sql STABLE AS 'SELECT false'"
    )
    with psycopg.connect(source) as connection:
        connection.execute(evil)
    back_up(source, file := tmp_path / "doctored.backup")
    restore_all(target, file)
    with psycopg.connect(target) as connection:
        (body,) = connection.execute("SELECT prosrc FROM pg_proc WHERE proname = 'build_is_sealed'").fetchone() or (
            "",
        )
    assert "runs" in body


@pytest.mark.parametrize("name", STATES)
def test_a_backup_of_an_older_version_is_brought_up_to_date_as_it_comes_in(
    name: str, new_database: Callable[[], str]
) -> None:
    target, upgraded = new_database(), new_database()
    assert restore_all(target, OLD / f"{name}.dump") > 0
    restored(upgraded, name)
    engine = open_engine(upgraded)
    migrate(engine)
    engine.dispose()
    found, wanted = tables_of(target), tables_of(upgraded)
    # A machine that was there before salts were kept is given one at random.
    assert {table: rows for table, (rows, _) in found.items()} == {table: rows for table, (rows, _) in wanted.items()}
    assert {table for table in found if found[table] != wanted[table]} <= {"machines"}
    engine = open_engine(target)
    with engine.connect() as connection:
        assert differences_of(connection) == []
    engine.dispose()
