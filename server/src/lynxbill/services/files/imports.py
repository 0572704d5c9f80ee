"""
Large run files, taken over by a process of their own beside the requests.

What that process takes of memory and of the interpreter is gone with it, and it can be stopped at any time: until the
last step nothing of a file is kept. How far it is stands in the database, so that any server process can say so.
"""

import os
import subprocess
import sys
from collections.abc import Iterator
from contextlib import contextmanager
from dataclasses import dataclass
from datetime import datetime, timedelta
from pathlib import Path
from threading import Thread
from uuid import UUID, uuid4

from sqlalchemy import delete, select, text, update
from sqlalchemy.orm import Session

from lynxbill.core.terms.errors import Missing, Refusal
from lynxbill.exchange.problem import UnusableText
from lynxbill.services.base.act import Act
from lynxbill.services.base.transaction import Sessions, transaction
from lynxbill.services.files.run_files import import_machine
from lynxbill.store.tables.base import ImportState
from lynxbill.store.tables.kept import ImportRow

# Requests come first: whoever waits for a file waits a little longer.
NICENESS = 10
KEPT = timedelta(days=7)
# A process that was begun has taken its lock by then.
FIRST_WORD = timedelta(minutes=1)
# The first of the two numbers of an advisory lock: what it is that is locked.
IMPORTS = 2
_LOCK = text("SELECT pg_try_advisory_xact_lock(:what, hashtext(:key))")
_ENDED = "The import ended before it was done; nothing of the file was taken over. Try it once more."


class Stopped(Exception):
    """Somebody asked that the import end."""


@dataclass(frozen=True, slots=True)
class ImportView:
    """
    How far an import is: `done` of `total` runs are read, then written.

    `problems` are pairs of place and message where it was refused.
    """

    id: UUID
    state: ImportState
    stage: str
    done: int
    total: int
    machine: UUID | None
    problems: tuple[tuple[str, str], ...]


def start_import(sessions: Sessions, act: Act, file: Path) -> UUID:
    """Take a file over beside the requests; the file is removed once it was read."""
    identifier = uuid4()
    with transaction(sessions) as session:
        # Whoever waited for one has long been told of it.
        session.execute(delete(ImportRow).where(ImportRow.begun_at < act.at - KEPT))
        session.add(ImportRow(id=identifier, by=act.by, begun_at=act.at))
    url = sessions.kw["bind"].url.render_as_string(hide_password=False)
    command = [sys.executable, "-m", "lynxbill", "take-in", str(file), "--import", str(identifier)]
    folder = sessions.kw["info"]["space"].folder
    environment = (
        os.environ | {"LYNXBILL_DATABASE_URL": url} | ({"LYNXBILL_DATA_FOLDER": str(folder)} if folder else {})
    )
    process = subprocess.Popen(command, env=environment, stdin=subprocess.DEVNULL, stdout=subprocess.DEVNULL)
    Thread(target=_watch, args=(sessions, identifier, process, file), daemon=True).start()
    return identifier


def read_import(sessions: Sessions, identifier: UUID) -> ImportView:
    """Say how far an import is."""
    with sessions() as session:
        row = session.get(ImportRow, identifier)
        if row is None:
            raise Missing("There is no such import here.")
        problems = tuple((problem["field"], problem["message"]) for problem in row.problems)
        return ImportView(row.id, row.state, row.stage, row.done, row.total, row.machine_id, problems)


def stop_import(sessions: Sessions, identifier: UUID) -> None:
    """Ask an import to end; one that is over stays what it became."""
    read_import(sessions, identifier)
    with sessions.begin() as session:
        _settle(session, identifier, "stopped")


def end_orphans(sessions: Sessions, now: datetime) -> int:
    """
    Say of imports whose process is gone, and whose server could not say so any more, that they ended.

    Returns: how many they were. A process holds the lock of its import for as long as it lives; one that was only
    begun has not taken it yet.
    """
    with sessions.begin() as session:
        running = select(ImportRow.id).where(ImportRow.state == "running", ImportRow.begun_at < now - FIRST_WORD)
        orphans = [key for key in session.scalars(running) if session.scalar(_LOCK, _lock_of(key))]
        for key in orphans:
            _settle(session, key, "failed", [{"field": "$", "message": _ENDED}])
    return len(orphans)


@contextmanager
def _alive(sessions: Sessions, identifier: UUID) -> Iterator[None]:
    """Hold the lock of an import, which the database lets go of with the process."""
    with sessions.kw["bind"].connect().execution_options(isolation_level="AUTOCOMMIT") as connection:
        connection.execute(text("SELECT pg_advisory_lock(:what, hashtext(:key))"), _lock_of(identifier))
        yield


def _lock_of(identifier: UUID) -> dict[str, object]:
    return {"what": IMPORTS, "key": str(identifier)}


def take_in(sessions: Sessions, identifier: UUID, file: Path) -> None:
    """Take a file over in this process, and say how far it is; the file is removed once it was read."""

    def progress(stage: str, done: int, total: int) -> None:
        told = {"stage": stage, "done": done, "total": total}
        running = update(ImportRow).where(ImportRow.id == identifier, ImportRow.state == "running")
        with transaction(sessions) as session:
            if session.execute(running.values(told).returning(ImportRow.id)).first() is None:
                raise Stopped

    def finish(session: Session, machine_id: UUID) -> None:
        if not _settle(session, identifier, "done", machine=machine_id):
            raise Stopped

    os.nice(NICENESS)
    content = file.read_bytes()
    file.unlink()
    try:
        with _alive(sessions, identifier):
            import_machine(sessions, content, progress=progress, finish=finish)
    except Stopped:
        return
    except UnusableText as error:
        problems = [{"field": problem.path, "message": problem.message} for problem in error.problems]
    except Refusal as refusal:
        problems = [{"field": refusal.field or "$", "message": refusal.message}]
    else:
        return
    with sessions.begin() as session:
        _settle(session, identifier, "refused", problems)


def _watch(sessions: Sessions, identifier: UUID, process: subprocess.Popen[bytes], file: Path) -> None:
    """Wait for the process, and say so where it ended without a word."""
    process.wait()
    file.unlink(missing_ok=True)
    with sessions.begin() as session:
        _settle(session, identifier, "failed", [{"field": "$", "message": _ENDED}])


def _settle(
    session: Session,
    identifier: UUID,
    state: ImportState,
    problems: list[dict[str, str]] | None = None,
    machine: UUID | None = None,
) -> bool:
    """Say what became of an import that is running; False where it is settled already, and stays so."""
    values = {"state": state, "problems": problems or [], "machine_id": machine}
    running = update(ImportRow).where(ImportRow.id == identifier, ImportRow.state == "running")
    return session.execute(running.values(values).returning(ImportRow.id)).first() is not None
