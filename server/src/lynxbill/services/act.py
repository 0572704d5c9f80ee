"""Who acts, and when: services have no clock of their own."""

from dataclasses import dataclass
from datetime import datetime


@dataclass(frozen=True, slots=True)
class Act:
    """A device or a person, and the time (with zone) at which it asked."""

    by: str
    at: datetime
