"""Who acts, and when: services have no clock of their own."""

from dataclasses import dataclass
from datetime import datetime


@dataclass(frozen=True, slots=True)
class Act:
    """
    A device or a person, and the time (with zone) at which it asked.

    `by_agent`: it is the bench agent, which alone may say what it read off the machine.
    """

    by: str
    at: datetime
    by_agent: bool = False
