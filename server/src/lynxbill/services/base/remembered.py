"""Answers that are dear to make and come out the same each time: the newest are kept in the process."""

from collections import OrderedDict
from collections.abc import Callable, Hashable
from threading import Lock
from typing import Generic, TypeVar

Key = TypeVar("Key", bound=Hashable)
Value = TypeVar("Value")


class Remembered(Generic[Key, Value]):
    """At most so many answers by what they are of; the one that was asked for longest ago is forgotten first."""

    def __init__(self, most: int):
        self.most = most
        self._known: OrderedDict[Key, Value] = OrderedDict()
        self._lock = Lock()

    def answer(self, key: Key, make: Callable[[], Value]) -> Value:
        """The answer as it is known, else made now; two who ask at once may both make it."""
        with self._lock:
            if key in self._known:
                self._known.move_to_end(key)
                return self._known[key]
        made = make()
        with self._lock:
            self._known[key] = made
            if len(self._known) > self.most:
                self._known.popitem(last=False)
        return made
