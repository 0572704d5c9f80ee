"""
Starts everything on this computer: private database, migration, demo, server; and stops it again.

The application is imported late: it takes two seconds, and what can't start says so before that.
"""

import os
import signal
import socket
import sys
from collections.abc import Iterator
from contextlib import contextmanager
from datetime import UTC, datetime
from pathlib import Path
from types import FrameType
from typing import TYPE_CHECKING, Never

import uvicorn
from sqlalchemy import Engine
from sqlalchemy.exc import OperationalError

from lynxbill.backup import back_up_before_migration
from lynxbill.dump_programs import BackupError
from lynxbill.installation import LOCAL, CannotStart, Place, serving_place
from lynxbill.store.database import NewerDatabase, chore, is_behind, migrate, open_engine, session_factory
from lynxbill.store.shape import differences_of
from lynxbill.store.space import FULL_MB

if TYPE_CHECKING:
    from fastapi import FastAPI

HOST = "127.0.0.1"
TURN_S = 0.0005
DEMO_CHORE = "demo"


class EndingServer(uvicorn.Server):
    """Ends the open event streams when it is asked to stop."""

    def __init__(self, config: uvicorn.Config, app: "FastAPI"):
        super().__init__(config)
        self.app = app

    def handle_exit(self, sig: int, frame: FrameType | None) -> None:
        if self.started:
            self.app.state.hub.close()
        super().handle_exit(sig, frame)


def serve(port: int, *, empty: bool, renew_demo: bool) -> None:
    """Serve until Ctrl-C; raises CannotStart with one clear line where that is impossible."""
    # Being asked to end, or a closed terminal, must stop the database as Ctrl-C does.
    signal.signal(signal.SIGTERM, _end)
    signal.signal(signal.SIGHUP, lambda *_: os.kill(os.getpid(), signal.SIGTERM))
    with serving_place(f"http://{HOST}:{port}") as place, listening(port) as listener:
        try:
            _prepare(place, empty=empty, renew_demo=renew_demo)
        except (NewerDatabase, BackupError) as error:
            raise CannotStart(str(error)) from error
        except OperationalError as error:
            raise CannotStart(f"The database does not answer: {str(error.orig).strip().splitlines()[0]}") from error
        from lynxbill.app import WEB, create_app

        if not WEB.is_dir():
            raise CannotStart("The screens are not built; run bin/setup first.")
        # A save is many short waits for the database, and after each it may have to wait for a thread that computes:
        # at the usual 5 ms a turn that adds up to half a second beside fifty readers.
        sys.setswitchinterval(TURN_S)
        app = create_app(place.url, space=place.space)
        config = uvicorn.Config(app, log_level="warning", timeout_graceful_shutdown=2)
        print(f"Lynxbill is at http://{HOST}:{port}   (Ctrl-C stops it)", flush=True)  # noqa: T201
        EndingServer(config, app).run([listener])


def _end(*_: object) -> Never:
    raise SystemExit(0)


def _prepare(place: Place, *, empty: bool, renew_demo: bool) -> None:
    engine = open_engine(place.url)
    try:
        if place.space.is_full:
            _serve_for_reading(engine)
            return
        kept = back_up_before_migration(place.url, engine, LOCAL / "backups", datetime.now(UTC))
        if kept is not None:
            print(f"Before the database is brought up to date, a backup was kept: {kept}", flush=True)  # noqa: T201
        migrate(engine, () if empty else (DEMO_CHORE,))
        refuse_other_shape(engine, LOCAL / "backups")
        from lynxbill.demo import load_demo, reset_demo
        from lynxbill.services.base.tallies import renew_sheets

        sessions = session_factory(engine, place.space)
        renew_sheets(sessions)
        with chore(sessions, DEMO_CHORE) as is_due:
            if renew_demo:
                reset_demo(sessions)
            elif is_due:
                load_demo(sessions)
    finally:
        engine.dispose()


def _serve_for_reading(engine: Engine) -> None:
    """Start on a full disk: what is there can be read, if it is of this program already."""
    if is_behind(engine):
        raise CannotStart(
            f"Less than {FULL_MB} MB are free, and the database has to be brought up to date first: make space, then "
            "start again."
        )
    print(f"Less than {FULL_MB} MB are free: nothing is saved until there is space; reading goes on.", flush=True)  # noqa: T201


def refuse_other_shape(engine: Engine, backups: Path) -> None:
    """Refuse a database that is not as its migrations make it, in one line that says what to do."""
    with engine.connect() as connection:
        found = differences_of(connection)
    if not found:
        return
    kept = sorted(backups.glob("before-migration-*.backup"))
    more = f" (and {len(found) - 1} more)" if len(found) > 1 else ""
    last = f"the backup that was kept before the last update, {kept[-1]}" if kept else "a backup of it"
    raise CannotStart(
        f"The database is not as this program makes it: {found[0]}{more}. Restore {last}, into an empty database: "
        "lynxbill restore FILE"
    )


@contextmanager
def listening(port: int) -> Iterator[socket.socket]:
    """Listen on a port of this computer; raises CannotStart where that is impossible."""
    # Only where the protocol is named does asyncio send at once; else an answer waits 40 ms for an acknowledgement.
    with socket.socket(proto=socket.IPPROTO_TCP) as listener:
        listener.setsockopt(socket.SOL_SOCKET, socket.SO_REUSEADDR, 1)
        try:
            listener.bind((HOST, port))
            listener.listen(128)
        except OverflowError as error:
            raise CannotStart(f"Port {port} does not exist; choose one from 1024 to 65535.") from error
        except OSError as error:
            reason = error.strerror or "taken"
            raise CannotStart(f"Port {port} can't be used ({reason}); choose another: --port {port + 1}") from error
        yield listener
