"""
Everything that is recorded in one file, and back.

A backup is of one moment while the server runs; a restore takes all of it or nothing. Of a file that comes back only
rows are taken: tables are made by this program's own migrations, so that nothing in a file is ever run.
"""

import re
import subprocess
from collections.abc import Iterator
from contextlib import contextmanager, suppress
from datetime import datetime
from io import TextIOWrapper
from pathlib import Path
from secrets import token_hex
from uuid import UUID

import psycopg
from alembic import command
from alembic.script import ScriptDirectory
from psycopg import sql
from sqlalchemy import Dialect, Engine, func, inspect, make_url, select, text
from sqlalchemy.dialects import postgresql

from lynxbill.cluster import ROLE
from lynxbill.dump_programs import BackupError, output_of, plain_url, program_path, run_program, say_failed
from lynxbill.store.belonging import Owned, owned_by
from lynxbill.store.database import WITH_REMOVED, announce, migrate, migration_config, open_engine, session_factory
from lynxbill.store.database import pending_revision as pending
from lynxbill.store.removal import delete_machine
from lynxbill.store.repair import find_broken
from lynxbill.store.tables.base import Table
from lynxbill.store.tables.machine import MachineRow, ShelfRow, TemplateRow

KEPT = 3
_DIALECT: Dialect = postgresql.dialect()  # type: ignore[no-untyped-call]
# Kinds of content that this program makes, and of functions and triggers those by name; the rest is refused.
_KINDS = (
    *("TABLE DATA", "TABLE", "SEQUENCE SET", "SEQUENCE OWNED BY", "SEQUENCE", "CONSTRAINT", "FK CONSTRAINT", "INDEX"),
    *("CHECK CONSTRAINT", "DEFAULT", "ENCODING", "STDSTRINGS", "SEARCHPATH", "FUNCTION", "TRIGGER"),
)
_FUNCTIONS = {"build_is_sealed(uuid)", "refuse_sealed_build()", "refuse_sealed_fitting()", "refuse_sealed_part()"}
_TRIGGERS = {"builds seal", "build_parts seal", "parts seal"}
_ENTRY = re.compile(r"\d+; \d+ \d+ (?P<rest>.+)")
_COPY = re.compile(r'COPY public\."?(?P<table>[a-z_]+)"? \((?P<columns>[a-z_", ]+)\) FROM stdin;')
# What stands between the rows and is not needed: settings of the session, and where numbers go on.
_ASIDE = re.compile(r"(SET [a-z_]+ = .*;|SELECT pg_catalog\.(set_config|setval)\(.*\);|--.*|\\(un)?restrict \S+|)")


def back_up(url: str, file: Path) -> None:
    """Write everything of a database into a file, which appears once it is whole."""
    if file.exists():
        raise BackupError(f"{file} is there already, and a backup overwrites nothing: choose another name.")
    part = file.with_name(f"{file.name}.part")
    try:
        part.touch(mode=0o600)
        run_program("pg_dump", url, "--format=custom", "--no-owner", "--no-privileges", f"--file={part}")
        part.rename(file)
    except OSError as error:
        raise BackupError(f"{file} can't be written: {error.strerror}.") from error
    finally:
        part.unlink(missing_ok=True)


def back_up_before_migration(url: str, engine: Engine, folder: Path, now: datetime) -> Path | None:
    """Keep what is there before a migration or a repair changes it; the last three of these are kept."""
    revision = pending(engine) or ("repair" if find_broken(engine) else None)
    if revision is None:
        return None
    folder.mkdir(mode=0o700, parents=True, exist_ok=True)
    file = folder / f"before-migration-{now:%Y%m%d-%H%M%S}-{revision}.backup"
    back_up(url, file)
    for old in sorted(folder.glob("before-migration-*.backup"))[:-KEPT]:
        old.unlink()
    return file


def restore_all(url: str, file: Path) -> int:
    """
    Restore a whole backup into a database without machines.

    Returns: how many machines there are now.
    """
    engine = open_engine(url)
    try:
        if strange := _strange_tables(engine):
            raise BackupError(
                f"There are tables here that are not of this program ({strange[0]}): a backup is restored into an "
                "empty database."
            )
        if _is_used(engine):
            raise BackupError(
                "There are machines, shelf parts or templates here already. A whole backup is restored into an empty "
                "database; one machine of it comes in beside what is there: --machine NAME."
            )
        _refuse_strange(file)
        _fill(url, file)
        with engine.connect() as connection:
            return connection.scalar(select(func.count(MachineRow.id))) or 0
    finally:
        engine.dispose()


def restore_machine(url: str, file: Path, machine: str, chores_url: str | None) -> str:
    """
    Restore one machine of a backup beside what is there.

    Args:
        machine: its name or id.
        chores_url: where a database can be made for the while; None: nowhere.
    Returns: its name.
    """
    if chores_url is None:
        raise BackupError(
            "One machine needs a database of its own for the while, and in a PostgreSQL of yours nothing is created. "
            "Restore the whole backup into an empty database, and take the machine from there as a run file."
        )
    _refuse_strange(file)
    with _database_aside(url, chores_url) as aside:
        _fill(aside, file)
        engine = open_engine(aside)
        try:
            identifier, name = _find(engine, machine)
        finally:
            engine.dispose()
        _copy(aside, url, identifier)
    return name


def _refuse_strange(file: Path) -> None:
    """Refuse a file that holds what this program does not make, before anything of it is read into a database."""
    if not file.is_file():
        raise BackupError(f"There is no file {file}.")
    listed = output_of("pg_restore", "--list", file)
    names = {table.name for table in Table.metadata.sorted_tables} | {"alembic_version"}
    for line in listed.splitlines():
        entry = _ENTRY.fullmatch(line)
        if entry is None:
            continue
        rest = entry["rest"]
        kind = next((known for known in _KINDS if rest.startswith(f"{known} ")), None)
        schema, _, name = rest.removeprefix(kind or "").strip().partition(" ")
        name = name.rpartition(" ")[0]
        is_ours = kind is not None and (
            (kind == "FUNCTION" and name in _FUNCTIONS)
            or (kind == "TRIGGER" and name in _TRIGGERS)
            or (kind in ("TABLE", "TABLE DATA") and name in names)
            or kind not in ("FUNCTION", "TRIGGER", "TABLE", "TABLE DATA")
        )
        if not is_ours or schema not in ("public", "-"):
            raise BackupError(
                f"This is no backup of Lynxbill alone: it holds “{rest}”, which this program does not make. "
                "Nothing of it was restored."
            )


def _fill(url: str, file: Path) -> None:
    """
    Make the tables of the backup's own version, take its rows, and bring all up to date; nothing, where that fails.
    """
    revision = _revision_of(file)
    engine = open_engine(url)
    try:
        config = migration_config(engine)
        _empty(engine)
        command.upgrade(config, revision)
        try:
            with psycopg.connect(plain_url(url)) as connection:
                _take_rows(connection, file)
        except (psycopg.Error, BackupError, UnicodeError) as error:
            _empty(engine)
            migrate(engine)
            sentence = str(error).strip().splitlines()[0]
            raise BackupError(f"{sentence.removesuffix('.')}. Nothing of this file was restored.") from error
        migrate(engine)
    finally:
        engine.dispose()


def _empty(engine: Engine) -> None:
    command.downgrade(migration_config(engine), "base")
    with engine.begin() as connection:
        connection.execute(text("DROP TABLE IF EXISTS alembic_version"))


def _revision_of(file: Path) -> str:
    """The version of the tables in a backup."""
    script = output_of("pg_restore", "--data-only", "--table=alembic_version", "--file=-", file)
    found = re.search(r"FROM stdin;\n([0-9a-z_]{1,32})\n\\\.", script)
    if found is None:
        raise BackupError("This is no backup of Lynxbill: it does not say of which version it is.")
    scripts = ScriptDirectory(str(Path(__file__).parent / "store" / "migrations"))
    if found[1] not in {each.revision for each in scripts.walk_revisions()}:
        raise BackupError("This backup was made by a newer Lynxbill: update this program.")
    return found[1]


def _take_rows(connection: psycopg.Connection, file: Path) -> None:
    """Copy the rows of every table, in one transaction; what else the file would have run is refused or left out."""
    keys = connection.execute(
        "SELECT c.relname, k.conname, pg_get_constraintdef(k.oid) FROM pg_constraint k JOIN pg_class c "
        "ON c.oid = k.conrelid WHERE k.contype = 'f' AND k.connamespace = 'public'::regnamespace"
    ).fetchall()
    known: dict[str, set[str]] = {}
    for table, column in connection.execute(
        "SELECT table_name, column_name FROM information_schema.columns WHERE table_schema = 'public'"
    ):
        known.setdefault(table, set()).add(column)
    # Rows come in the order of the file: what points at others is held together at the end.
    for table, name, _ in keys:
        connection.execute(sql.SQL("ALTER TABLE {} DROP CONSTRAINT {}").format(*map(sql.Identifier, (table, name))))
    for table in known:
        connection.execute(sql.SQL("ALTER TABLE {} DISABLE TRIGGER USER").format(sql.Identifier(table)))
    with _script(file) as lines:
        for line in lines:
            copied = _COPY.fullmatch(line)
            if copied is not None:
                _copy_in(connection, copied["table"], copied["columns"], known, lines)
            elif _ASIDE.fullmatch(line) is None:
                raise BackupError("The file would run a statement of its own")
    for table in known:
        connection.execute(sql.SQL("ALTER TABLE {} ENABLE TRIGGER USER").format(sql.Identifier(table)))
    there = {
        (table, column)
        for table, column in connection.execute(
            "SELECT table_name, column_name FROM information_schema.columns WHERE table_schema = 'public'"
        )
    }
    for table, name, definition in keys:
        # A column that an early migration left out comes back with its key as the database is mended.
        if any((table, column) not in there for column in _columns_of(definition)):
            continue
        added = sql.SQL("ALTER TABLE {} ADD CONSTRAINT {} {}")
        connection.execute(added.format(sql.Identifier(table), sql.Identifier(name), sql.SQL(definition)))
    numbered = connection.execute(
        "SELECT table_name, column_name FROM information_schema.columns "
        "WHERE table_schema = 'public' AND is_identity = 'YES'"
    ).fetchall()
    for table, column in numbered:
        last = sql.SQL("SELECT setval(pg_get_serial_sequence({}, {}), max({})) FROM {}")
        connection.execute(last.format(table, column, sql.Identifier(column), sql.Identifier(table)))


def _copy_in(
    connection: psycopg.Connection, table: str, columns: str, known: dict[str, set[str]], lines: Iterator[str]
) -> None:
    named = [column.strip().strip('"') for column in columns.split(",")]
    if not set(named) <= known.get(table, set()):
        raise BackupError(f"The file holds what no version of this program keeps: {table} ({', '.join(named)})")
    if table == "alembic_version":
        for line in lines:
            if line == "\\.":
                return
    # Of a version whose migration was changed later the file may lack a column: so did its database.
    for column in known[table] - set(named):
        connection.execute(sql.SQL("ALTER TABLE {} DROP COLUMN {}").format(*map(sql.Identifier, (table, column))))
    listed = sql.SQL(", ").join(map(sql.Identifier, named))
    into = sql.SQL("COPY {} ({}) FROM STDIN").format(sql.Identifier(table), listed)
    with connection.cursor() as cursor, cursor.copy(into) as copy:
        for line in lines:
            if line == "\\.":
                return
            copy.write(f"{line}\n")
    raise BackupError("The file ends in the middle of a table")


def _columns_of(definition: str) -> list[str]:
    """The columns of a key, as the database writes it: FOREIGN KEY (a, b) REFERENCES …"""
    inner = definition.partition("(")[2].partition(")")[0]
    return [column.strip().strip('"') for column in inner.split(",")]


@contextmanager
def _script(file: Path) -> Iterator[Iterator[str]]:
    """The rows of a backup as text, line by line."""
    command = [str(program_path("pg_restore")), "--data-only", "--no-owner", "--no-privileges", "--file=-", str(file)]
    with subprocess.Popen(command, stdout=subprocess.PIPE, stderr=subprocess.PIPE) as told:
        assert told.stdout is not None
        assert told.stderr is not None
        try:
            with TextIOWrapper(told.stdout, encoding="utf-8", newline="\n") as lines:
                yield (line.removesuffix("\n") for line in lines)
            if told.wait() != 0:
                raise BackupError(say_failed("pg_restore", told.stderr.read().decode(errors="replace")))
        finally:
            told.kill()


def _find(engine: Engine, machine: str) -> tuple[UUID, str]:
    with engine.connect() as connection:
        known = [(row.id, row.name) for row in connection.execute(select(MachineRow.id, MachineRow.name))]
    found = [each for each in known if machine in (str(each[0]), each[1])]
    if len(found) == 1:
        return found[0]
    if found:
        listed = ", ".join(str(identifier) for identifier, _ in found)
        raise BackupError(f"{len(found)} machines of the backup are called “{machine}”; name one by its id: {listed}")
    raise BackupError(
        f"The backup holds no “{machine}”; it holds: {', '.join(name for _, name in known) or 'nothing'}"
    )


def _copy(source: str, target: str, identifier: UUID) -> None:
    """Copy a machine's rows byte for byte, in one transaction."""
    engine = open_engine(target)
    sessions = session_factory(engine)
    try:
        migrate(engine)
        with psycopg.connect(plain_url(source)) as there, sessions.begin() as session:
            asked = select(MachineRow.removed_at).where(MachineRow.id == identifier)
            here_now = session.execute(asked, execution_options=WITH_REMOVED).first()
            if here_now is not None and here_now.removed_at is None:
                raise BackupError("This machine is here already: remove it first, then restore it.")
            if here_now is not None:
                # It was removed a moment ago and could still be brought back: what is restored stands in its place.
                delete_machine(session, identifier)
            here = session.connection().connection.driver_connection
            assert isinstance(here, psycopg.Connection)
            for owned in owned_by(identifier):
                _copy_rows(owned, there, here)
            announce(session, identifier, "machine", identifier)
    finally:
        engine.dispose()


def _copy_rows(owned: Owned, there: psycopg.Connection, here: psycopg.Connection) -> None:
    table, condition = owned
    # A number that the database gives is given anew, in the same order.
    columns = [column for column in table.columns if column.identity is None]
    numbers = [column for column in table.columns if column.identity is not None]
    rows = select(*columns).where(condition).order_by(*numbers)
    compiled = rows.compile(dialect=_DIALECT, compile_kwargs={"literal_binds": True})
    names = sql.SQL(", ").join(sql.Identifier(column.name) for column in columns)
    into = sql.SQL("COPY {} ({}) FROM STDIN").format(sql.Identifier(table.name), names)
    # Written by SQLAlchemy from our own tables and one UUID.
    out = sql.SQL("COPY ({}) TO STDOUT").format(sql.SQL(str(compiled)))
    with there.cursor() as reader, here.cursor() as writer, reader.copy(out) as read, writer.copy(into) as written:
        for chunk in read:
            written.write(chunk)


@contextmanager
def _database_aside(url: str, chores_url: str) -> Iterator[str]:
    """An empty database of its own, for as long as it is needed."""
    name = f"restore_{token_hex(6)}"
    made = sql.SQL("CREATE DATABASE {} TEMPLATE template0 OWNER {}")
    try:
        with psycopg.connect(plain_url(chores_url), autocommit=True) as connection:
            connection.execute(made.format(sql.Identifier(name), sql.Identifier(ROLE)))
    except psycopg.Error as error:
        raise BackupError("No database could be made to read the backup into.") from error
    try:
        yield make_url(url).set(database=name).render_as_string(hide_password=False)
    finally:
        with suppress(psycopg.Error), psycopg.connect(plain_url(chores_url), autocommit=True) as connection:
            connection.execute(sql.SQL("DROP DATABASE IF EXISTS {} WITH (FORCE)").format(sql.Identifier(name)))


def _strange_tables(engine: Engine) -> list[str]:
    return sorted(set(inspect(engine).get_table_names()) - set(Table.metadata.tables) - {"alembic_version"})


def _is_used(engine: Engine) -> bool:
    known = set(inspect(engine).get_table_names())
    shops = [Table.metadata.tables[row.__tablename__] for row in (MachineRow, ShelfRow, TemplateRow)]
    with engine.connect() as connection:
        return any(
            connection.scalar(text(f'SELECT EXISTS (SELECT 1 FROM "{table.name}")'))
            for table in shops
            if table.name in known
        )
