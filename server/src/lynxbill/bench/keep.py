"""What the agent keeps on the machine under test: whom it is paired with, and every run until the server has it."""

import json
import os
import sys
from collections.abc import Iterator
from dataclasses import dataclass
from pathlib import Path
from typing import Any

from lynxbill.bench.workload import CannotRun

NAME = "lynxbill-bench"


def usual_folder() -> Path:
    """
    Beside the agent's file where that can be written to: on a stick it goes along; else where the system keeps such.
    """
    file = Path(sys.argv[0]).resolve()
    if file.suffix == ".pyz" and os.access(file.parent, os.W_OK):
        return file.parent / NAME
    state = os.environ.get("XDG_STATE_HOME")
    return (Path(state) if state else Path.home() / ".local" / "state") / NAME


@dataclass(frozen=True, slots=True)
class Paired:
    """The server and machine that the agent works for."""

    server: str
    machine: str
    name: str


@dataclass(frozen=True, slots=True)
class Keep:
    """The folder of all that is kept."""

    folder: Path

    def __post_init__(self) -> None:
        try:
            self.folder.mkdir(parents=True, exist_ok=True)
        except OSError as error:
            raise CannotRun(
                f"{self.folder} can’t be made: {error.strerror}. Give another one: --state FOLDER"
            ) from error

    def paired(self) -> Paired | None:
        known = self._read("paired.json")
        return Paired(known["server"], known["machine"], known["name"]) if known else None

    def pair(self, paired: Paired) -> None:
        self._write("paired.json", {"server": paired.server, "machine": paired.machine, "name": paired.name})

    def job(self) -> dict[str, Any] | None:
        """What the server last said of the job."""
        return self._read("job.json")

    def keep_job(self, answer: dict[str, Any]) -> None:
        self._write("job.json", answer)

    def begin(self, run: dict[str, Any]) -> None:
        """A run begins: should the agent be ended in it, the next call knows."""
        self._write("begun.json", run)

    def begun(self) -> dict[str, Any] | None:
        return self._read("begun.json")

    def end(self) -> None:
        (self.folder / "begun.json").unlink(missing_ok=True)

    def add(self, sitting: str, entry: dict[str, Any]) -> None:
        """Keep an entry of a sitting: it is on the drive when this returns."""
        with (self.folder / f"{sitting}.jsonl").open("a", encoding="utf-8") as file:
            file.write(json.dumps(entry, allow_nan=False) + "\n")
            file.flush()
            os.fsync(file.fileno())

    def entries(self, sitting: str) -> list[dict[str, Any]]:
        """All that is kept of a sitting, in order; a last line that was cut off by a power cut is left out."""
        found = []
        try:
            lines = (self.folder / f"{sitting}.jsonl").read_text(encoding="utf-8").splitlines()
        except FileNotFoundError:
            return []
        for line in lines:
            try:
                found.append(json.loads(line))
            except ValueError:
                continue
        return found

    def sittings(self) -> Iterator[str]:
        """The sittings of which something is kept, oldest first."""
        files = sorted(self.folder.glob("*.jsonl"), key=lambda file: file.stat().st_mtime)
        return (file.stem for file in files)

    def forget(self, sitting: str) -> None:
        """The server has it all."""
        (self.folder / f"{sitting}.jsonl").unlink(missing_ok=True)

    def _read(self, name: str) -> dict[str, Any] | None:
        try:
            found: dict[str, Any] = json.loads((self.folder / name).read_text(encoding="utf-8"))
        except (OSError, ValueError):
            return None
        return found

    def _write(self, name: str, content: dict[str, Any]) -> None:
        fresh = self.folder / f"{name}.new"
        with fresh.open("w", encoding="utf-8") as file:
            json.dump(content, file)
            file.flush()
            os.fsync(file.fileno())
        fresh.replace(self.folder / name)
