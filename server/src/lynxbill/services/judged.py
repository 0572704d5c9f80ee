"""Comparisons that were made, kept in memory while neither frame nor evidence of their machine changed."""

from collections import OrderedDict
from threading import Lock
from uuid import UUID

from lynxbill.exchange.verdict_schema import ComparisonOut
from lynxbill.store.kept import Stamp

MOST_BYTES = 48 * 1024 * 1024
Key = tuple[UUID, str, str]


class Judged:
    """By machine and its two builds, as they are written, up to a number of bytes; the oldest asked goes first."""

    def __init__(self, most_bytes: int = MOST_BYTES):
        self.most_bytes = most_bytes
        self.size = 0
        self._kept: OrderedDict[Key, tuple[Stamp, str]] = OrderedDict()
        self._lock = Lock()

    def find(self, key: Key, stamp: Stamp) -> ComparisonOut | None:
        """Hand out a comparison if nothing changed since it was made."""
        with self._lock:
            known = self._kept.get(key)
            if known is None or known[0] != stamp:
                return None
            self._kept.move_to_end(key)
        return ComparisonOut.model_validate_json(known[1])

    def keep(self, key: Key, stamp: Stamp, comparison: ComparisonOut) -> None:
        """Keep a comparison in the place of an older one."""
        written = comparison.model_dump_json()
        with self._lock:
            older = self._kept.pop(key, None)
            self.size += len(written) - (len(older[1]) if older else 0)
            self._kept[key] = (stamp, written)
            while self.size > self.most_bytes and len(self._kept) > 1:
                self.size -= len(self._kept.popitem(last=False)[1][1])


JUDGED = Judged()
