"""PostgreSQL's own programs that write a database out and read it in."""

import os
import subprocess
from pathlib import Path

from sqlalchemy import URL, make_url

from lynxbill.cluster import ClusterError, find_program


class BackupError(Exception):
    """One line that says why nothing was written or restored, and what to do."""


def run_program(program: str, url: str, *arguments: str | Path) -> None:
    """Run one of PostgreSQL's programs on a database; the password stays out of the list of processes."""
    known = make_url(url)
    environment = os.environ | {
        "PGHOST": known.host or "",
        "PGPORT": str(known.port or ""),
        "PGUSER": known.username or "",
        "PGPASSWORD": known.password or "",
        "PGDATABASE": known.database or "",
    }
    command = [str(program_path(program)), *map(str, arguments)]
    done = subprocess.run(command, env=environment, capture_output=True, text=True, check=False)
    if done.returncode != 0:
        raise BackupError(say_failed(program, done.stderr))


def output_of(program: str, *arguments: str | Path) -> str:
    """What one of PostgreSQL's programs says of a file, without a database."""
    command = [str(program_path(program)), *map(str, arguments)]
    done = subprocess.run(command, capture_output=True, text=True, check=False)
    if done.returncode != 0:
        raise BackupError(say_failed(program, done.stderr))
    return done.stdout


def program_path(name: str) -> Path:
    """Where one of PostgreSQL's programs is."""
    try:
        return find_program(name)
    except ClusterError as error:
        raise BackupError(str(error)) from error


def say_failed(program: str, printed: str) -> str:
    """The last line of what a program said of its failure."""
    return f"{program} failed: {(printed.strip().splitlines() or ['no word of why'])[-1]}"


def plain_url(url: str) -> str:
    """An address as psycopg itself reads it."""
    known: URL = make_url(url)
    return known.set(drivername="postgresql").render_as_string(hide_password=False)
