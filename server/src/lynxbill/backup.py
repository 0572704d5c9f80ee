"""
Everything that is recorded in one file, and back, by PostgreSQL's own programs.

A backup is of one moment while the server runs; a restore takes all of it or nothing.
"""

import os
import subprocess
from collections.abc import Iterator
from contextlib import contextmanager
from datetime import datetime
from pathlib import Path
from secrets import token_hex
from uuid import UUID

import psycopg
from alembic import command
from psycopg import sql
from sqlalchemy import URL, Dialect, Engine, func, inspect, make_url, select, text
from sqlalchemy.dialects import postgresql

from lynxbill.cluster import ClusterError, find_program
from lynxbill.store.belonging import Owned, owned_by
from lynxbill.store.database import NewerDatabase, announce, migrate, migration_config, open_engine, session_factory
from lynxbill.store.database import pending_revision as pending
from lynxbill.store.repair import find_broken
from lynxbill.store.tables import MachineRow, ShelfRow, Table, TemplateRow

KEPT = 3
_DIALECT: Dialect = postgresql.dialect()  # type: ignore[no-untyped-call]


class BackupError(Exception):
    """One line that says why nothing was written or restored, and what to do."""


def back_up(url: str, file: Path) -> None:
    """Write everything of a database into a file, which appears once it is whole."""
    if file.exists():
        raise BackupError(f"{file} is there already, and a backup overwrites nothing: choose another name.")
    part = file.with_name(f"{file.name}.part")
    try:
        part.touch(mode=0o600)
        _run("pg_dump", url, "--format=custom", "--no-owner", "--no-privileges", f"--file={part}")
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
        if _is_used(engine):
            raise BackupError(
                "There are machines, shelf parts or templates here already. A whole backup is restored into an empty "
                "database; one machine of it comes in beside what is there: --machine NAME."
            )
        # Tried aside first: whatever is wrong with the file, nothing here has changed by then.
        with _restored_aside(url, file):
            pass
        command.downgrade(migration_config(engine), "base")
        with engine.begin() as connection:
            connection.execute(text("DROP TABLE IF EXISTS alembic_version"))
        _restore_into(url, "--single-transaction", file)
        with engine.connect() as connection:
            return connection.scalar(select(func.count(MachineRow.id))) or 0
    finally:
        engine.dispose()


def restore_machine(url: str, file: Path, machine: str) -> str:
    """
    Restore one machine of a backup beside what is there.

    Args:
        machine: its name or id.
    Returns: its name.
    """
    with _restored_aside(url, file) as aside:
        engine = open_engine(aside)
        try:
            migrate(engine)
            identifier, name = _find(engine, machine)
        finally:
            engine.dispose()
        _copy(aside, url, identifier)
    return name


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
        with psycopg.connect(_plain(source)) as there, sessions.begin() as session:
            if session.get(MachineRow, identifier) is not None:
                raise BackupError("This machine is here already: remove it first, then restore it.")
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
def _restored_aside(url: str, file: Path) -> Iterator[str]:
    """A database of its own with what a backup holds, for as long as it is needed."""
    if not file.is_file():
        raise BackupError(f"There is no file {file}.")
    name = f"restore_{token_hex(6)}"
    aside = make_url(url).set(database=name).render_as_string(hide_password=False)
    try:
        with psycopg.connect(_plain(url), autocommit=True) as connection:
            connection.execute(sql.SQL("CREATE DATABASE {} TEMPLATE template0").format(sql.Identifier(name)))
    except psycopg.Error as error:
        raise BackupError("No database could be made to read the backup into.") from error
    try:
        _restore_into(aside, "--exit-on-error", file)
        engine = open_engine(aside)
        try:
            pending(engine)
        except NewerDatabase as error:
            raise BackupError("This backup was made by a newer Lynxbill: update this program.") from error
        finally:
            engine.dispose()
        yield aside
    finally:
        with psycopg.connect(_plain(url), autocommit=True) as connection:
            connection.execute(sql.SQL("DROP DATABASE IF EXISTS {} WITH (FORCE)").format(sql.Identifier(name)))


def _is_used(engine: Engine) -> bool:
    known = set(inspect(engine).get_table_names())
    shops = [Table.metadata.tables[row.__tablename__] for row in (MachineRow, ShelfRow, TemplateRow)]
    with engine.connect() as connection:
        return any(
            connection.scalar(text(f'SELECT EXISTS (SELECT 1 FROM "{table.name}")'))
            for table in shops
            if table.name in known
        )


def _restore_into(url: str, how: str, file: Path) -> None:
    _run("pg_restore", url, how, "--no-owner", "--no-privileges", f"--dbname={make_url(url).database}", file)


def _run(program: str, url: str, *arguments: str | Path) -> None:
    """Run one of PostgreSQL's programs on a database; the password stays out of the list of processes."""
    known = make_url(url)
    environment = os.environ | {
        "PGHOST": known.host or "",
        "PGPORT": str(known.port or ""),
        "PGUSER": known.username or "",
        "PGPASSWORD": known.password or "",
        "PGDATABASE": known.database or "",
    }
    try:
        tool = find_program(program)
    except ClusterError as error:
        raise BackupError(str(error)) from error
    done = subprocess.run(
        [str(tool), *map(str, arguments)], env=environment, capture_output=True, text=True, check=False
    )
    if done.returncode != 0:
        last = (done.stderr.strip().splitlines() or ["no word of why"])[-1]
        raise BackupError(f"{program} failed: {last}")


def _plain(url: str) -> str:
    known: URL = make_url(url)
    return known.set(drivername="postgresql").render_as_string(hide_password=False)
