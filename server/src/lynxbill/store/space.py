"""How much room is left where the database keeps its data: it can't recover from a disk that is full to the end."""

import shutil
from dataclasses import dataclass
from pathlib import Path
from typing import Literal

from sqlalchemy.orm import Session

from lynxbill.core.terms.errors import DiskFull
from lynxbill.store.outages import OUTAGES

MB = 2**20
SCARCE_MB = 500
FULL_MB = 200
SpaceWord = Literal["ample", "scarce", "full"]


@dataclass(frozen=True, slots=True)
class Space:
    """The disk under a folder; without a folder (a database elsewhere) nothing is known, and nothing refused."""

    folder: Path | None = None

    @property
    def free_mb(self) -> int | None:
        """Whole megabytes that are free."""
        if self.folder is None:
            return None
        try:
            return shutil.disk_usage(self.folder).free // MB
        except OSError:
            return None

    @property
    def word(self) -> SpaceWord:
        """Whether writing goes on, should be thought of, or has ended."""
        free = self.free_mb
        if free is None or free >= SCARCE_MB:
            return "ample"
        return "scarce" if free >= FULL_MB else "full"

    @property
    def is_full(self) -> bool:
        return self.word == "full"

    def refuse_if_full(self) -> None:
        """Refuse to write while there is too little room."""
        if self.is_full:
            raise DiskFull(OUTAGES["disk_full"])


def space_of(session: Session) -> Space:
    """The room where a session's database keeps its data."""
    space = session.info.get("space", Space())
    assert isinstance(space, Space)
    return space
