"""The shape of the database: its columns, constraints and triggers, held against what this program makes."""

from collections.abc import Iterator
from pathlib import Path

from sqlalchemy import Connection, text

SHAPE = Path(__file__).parent / "migrations" / "shape.txt"
_COLUMNS = """
SELECT c.relname, a.attname, format_type(a.atttypid, a.atttypmod), a.attnotnull
FROM pg_attribute a JOIN pg_class c ON c.oid = a.attrelid
WHERE c.relnamespace = 'public'::regnamespace AND c.relkind = 'r' AND a.attnum > 0 AND NOT a.attisdropped
"""
# Not those of kind "n": a newer PostgreSQL lists what must not be empty among them.
_CONSTRAINTS = """
SELECT c.relname, k.conname, pg_get_constraintdef(k.oid)
FROM pg_constraint k JOIN pg_class c ON c.oid = k.conrelid
WHERE c.relnamespace = 'public'::regnamespace AND c.relkind = 'r' AND k.contype IN ('p', 'u', 'f', 'c')
"""
_TRIGGERS = """
SELECT c.relname, t.tgname, p.proname, md5(p.prosrc)
FROM pg_trigger t JOIN pg_class c ON c.oid = t.tgrelid JOIN pg_proc p ON p.oid = t.tgfoid
WHERE c.relnamespace = 'public'::regnamespace AND NOT t.tgisinternal
"""


def shape_of(connection: Connection) -> list[str]:
    """List what a database is made of, one line each, sorted."""
    return sorted(_lines(connection))


def differences_of(connection: Connection) -> list[str]:
    """
    Hold a database that was brought up to date against what this program makes.

    Returns: what differs, each in a few words; tables and indexes that somebody added beside ours are none.
    """
    wanted = set(SHAPE.read_text(encoding="utf-8").splitlines())
    ours = {line.split(" ", 2)[1].split(".")[0] for line in wanted}
    found = {line for line in _lines(connection) if line.split(" ", 2)[1].split(".")[0] in ours}
    named = {_name(line) for line in wanted - found} & {_name(line) for line in found - wanted}
    other = [f"{name} is another" for name in sorted(named)]
    missing = [f"{_name(line)} is missing" for line in sorted(wanted - found) if _name(line) not in named]
    more = [f"{_name(line)} is not ours" for line in sorted(found - wanted) if _name(line) not in named]
    return [*missing, *other, *more]


def _lines(connection: Connection) -> Iterator[str]:
    for table, column, kind, is_needed in connection.execute(text(_COLUMNS)):
        if table != "alembic_version":
            yield f"column {table}.{column} {kind}{' not null' if is_needed else ''}"
    for table, name, definition in connection.execute(text(_CONSTRAINTS)):
        if table != "alembic_version":
            yield f"constraint {table}.{name} {definition}"
    for table, name, function, body in connection.execute(text(_TRIGGERS)):
        yield f"trigger {table}.{name} {function} {body}"


def _name(line: str) -> str:
    return " ".join(line.split(" ", 2)[:2])
