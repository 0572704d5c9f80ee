"""What this copy of the program keeps on this computer: one server a folder, its database, and space for it."""

import fcntl
import sys
from collections.abc import Iterator
from contextlib import contextmanager
from dataclasses import dataclass
from pathlib import Path
from threading import Event, Thread

from lynxbill.cluster import Cluster, ClusterError, find_cluster, start_cluster, stop_cluster
from lynxbill.settings import Settings
from lynxbill.store.space import FULL_MB, MB, SCARCE_MB, Space

LOCAL = Path(__file__).parents[3] / ".local"
LOOK_S = 1.0
BALLAST_MB = 64
# Below this the database itself is in danger, whoever fills the disk: the ballast is what it has left.
DANGER_MB = FULL_MB // 2


class CannotStart(Exception):
    """One line that says why, and what to do."""


@dataclass(frozen=True, slots=True)
class Place:
    """A database, and the room where it keeps its data."""

    url: str
    space: Space
    # Where databases may be made and dropped; None where the database is somebody's own.
    chores_url: str | None = None


@contextmanager
def serving_place(address: str) -> Iterator[Place]:
    """The database that a server at an address works on: given, or private, watched and stopped at the end."""
    if (given := _given()) is not None:
        yield given
        return
    with _alone(address):
        try:
            cluster = start_cluster(LOCAL / "postgres")
        except ClusterError as error:
            raise CannotStart(str(error)) from error
        watch = Watch(cluster)
        watch.start()
        try:
            yield Place(cluster.url, Space(cluster.folder), cluster.chores_url)
        finally:
            watch.stop()
            stop_cluster(cluster)


@contextmanager
def place_at_hand(*, alone: bool = False) -> Iterator[Place]:
    """
    The database for a command, whether a server runs or not: one that was not running is stopped again.

    Args:
        alone: refuse while a server runs.
    """
    if (given := _given()) is not None:
        yield given
        return
    running = None if alone else find_cluster(LOCAL / "postgres")
    if running is not None:
        yield Place(running.url, Space(running.folder), running.chores_url)
        return
    with serving_place("a command of yours, which ends by itself") as place:
        yield place


def _given() -> Place | None:
    settings = Settings()
    return None if settings.database_url is None else Place(settings.database_url, Space(settings.data_folder))


@contextmanager
def _alone(address: str) -> Iterator[None]:
    """One server a folder: a second one would stop the first one's database when it ends."""
    LOCAL.mkdir(exist_ok=True)
    with (LOCAL / "lock").open("a+") as lock:
        try:
            fcntl.flock(lock, fcntl.LOCK_EX | fcntl.LOCK_NB)
        except BlockingIOError as error:
            lock.seek(0)
            raise CannotStart(
                f"Lynxbill already runs from this folder, at {lock.read().strip()}: use that one, or stop it first."
            ) from error
        lock.truncate(0)
        lock.write(address)
        lock.flush()
        yield


class Watch(Thread):
    """Starts the private database again when it dies, and keeps a ballast for it on the disk."""

    def __init__(self, cluster: Cluster):
        super().__init__(name="watch", daemon=True)
        self.cluster = cluster
        self._ended = Event()
        self._ballast = cluster.folder / "ballast"
        self._told = ""

    def run(self) -> None:
        while not self._ended.is_set():
            self.look()
            self._ended.wait(LOOK_S)

    def stop(self) -> None:
        """End, and wait until it has: the database may be stopped then."""
        self._ended.set()
        if self.is_alive():
            self.join()

    def look(self) -> None:
        """See to the ballast, then to the database."""
        self.see_to_ballast()
        if find_cluster(self.cluster.folder) is not None:
            self._told = ""
            return
        try:
            start_cluster(self.cluster.folder, port=self.cluster.port, may_make=False)
            self._tell("The database had ended; it was started again.")
        except ClusterError as error:
            self._tell(f"The database ended and can't be started yet; trying again. {error}")

    def see_to_ballast(self) -> None:
        """Lay the ballast where there is room for it; free it where others fill the disk."""
        free = Space(self.cluster.folder).free_mb
        if free is None:
            return
        if free < DANGER_MB:
            self._ballast.unlink(missing_ok=True)
        elif free > SCARCE_MB + BALLAST_MB and not self._ballast.exists():
            _fill(self._ballast)

    def _tell(self, line: str) -> None:
        if line != self._told:
            print(line, file=sys.stderr, flush=True)  # noqa: T201
        self._told = line


def _fill(ballast: Path) -> None:
    """Write the ballast aside first: half of one would never be made whole."""
    aside = ballast.with_suffix(".new")
    chunk = bytes(MB)
    with aside.open("wb") as file:
        for _ in range(BALLAST_MB):
            file.write(chunk)
    aside.rename(ballast)
