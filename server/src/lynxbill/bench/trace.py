"""Traces: what every sensor says while a run lasts, taken by a thread of its own."""

import threading
import time
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from dataclasses import dataclass, field
from typing import Any

from lynxbill.bench.sensors import Channel

LONGEST_BATCH = 2000


@dataclass(slots=True)
class _Series:
    at: list[float] = field(default_factory=list)
    values: list[float | None] = field(default_factory=list)


class Recorder:
    """
    Samples channels at `hertz` from the start of a run on; times are seconds since then, by `clock`, which runs
    `speed` times as fast as ours.

    A sensor that could not be read leaves a gap: its value is None. `take` hands out what came since it was last
    asked, `settled` answers the mean of a role over the last seconds: of the processor's sensors where there are any,
    the highest of these means.
    """

    def __init__(
        self,
        channels: list[Channel],
        hertz: float,
        clock: Callable[[], float] = time.monotonic,
        speed: float = 1.0,
    ):
        self.channels = channels
        self._step = 1 / hertz
        self._clock, self._speed = clock, speed
        self._began = clock()
        self._series = [_Series() for _ in channels]
        self._taken = [0] * len(channels)
        self._marks: list[tuple[float, str]] = []
        self._taken_marks = 0
        self._lock = threading.Lock()
        self._ended = threading.Event()

    @property
    def elapsed(self) -> float:
        return self._clock() - self._began

    def mark(self, phase: str) -> None:
        with self._lock:
            self._marks.append((round(self.elapsed, 3), phase))

    @contextmanager
    def recording(self, on_sample: Callable[[], None] = lambda: None) -> Iterator[None]:
        """Sample in the background until the end of the block; `on_sample` is called after each round."""
        thread = threading.Thread(target=self._sample, args=(on_sample,), daemon=True)
        thread.start()
        try:
            yield
        finally:
            self._ended.set()
            thread.join()

    def _sample(self, on_sample: Callable[[], None]) -> None:
        due = self._clock()
        while not self._ended.is_set():
            self.sample()
            on_sample()
            due += self._step
            # Where a round took too long, the next ones are left out, not caught up with.
            while due < self._clock():
                due += self._step
            self._ended.wait((due - self._clock()) / self._speed)

    def sample(self) -> None:
        """Read every channel once."""
        read = [(round(self.elapsed, 3), channel.read()) for channel in self.channels]
        with self._lock:
            for series, (at, value) in zip(self._series, read, strict=True):
                # A clock that stands in for ours may stand still between two looks.
                if not series.at or at > series.at[-1]:
                    series.at.append(at)
                    series.values.append(value)

    def settled(self, role: str, last_s: float) -> float | None:
        means = []
        on_processor = any(channel.role == role and channel.of == "processor" for channel in self.channels)
        with self._lock:
            for channel, series in zip(self.channels, self._series, strict=True):
                if channel.role != role or (on_processor and channel.of != "processor") or not series.at:
                    continue
                since = series.at[-1] - last_s
                late = [v for at, v in zip(series.at, series.values, strict=True) if at >= since and v is not None]
                if late:
                    means.append(sum(late) / len(late))
        return max(means, default=None)

    def latest(self, role: str) -> float | None:
        """What a role's channels said last; the highest of them."""
        with self._lock:
            readings = [
                s.values[-1] for c, s in zip(self.channels, self._series, strict=True) if c.role == role and s.at
            ]
        return max((value for value in readings if value is not None), default=None)

    def hottest(self) -> float | None:
        """The highest that the processor's sensors said last, in °C; of all where it has none."""
        with self._lock:
            readings = [
                (channel.of == "processor", series.values[-1])
                for channel, series in zip(self.channels, self._series, strict=True)
                if channel.role == "temperature" and series.at
            ]
        told = [(on, value) for on, value in readings if value is not None]
        own = [value for on, value in told if on]
        return max(own or [value for _, value in told], default=None)

    def take(self) -> list[dict[str, Any]]:
        """What came since this was last asked, a channel each; what is not sent is given back with `untake`."""
        with self._lock:
            return [
                {
                    **describe(channel),
                    "first": taken,
                    "at": series.at[taken : taken + LONGEST_BATCH],
                    "values": series.values[taken : taken + LONGEST_BATCH],
                }
                for channel, series, taken in zip(self.channels, self._series, self._taken, strict=True)
                if len(series.at) > taken
            ]

    def confirm(self, batch: list[dict[str, Any]]) -> None:
        """What was taken has arrived, and is not handed out again."""
        known = {describe(channel)["sensor"] + channel.role: number for number, channel in enumerate(self.channels)}
        with self._lock:
            for piece in batch:
                number = known[piece["sensor"] + piece["role"]]
                self._taken[number] = max(self._taken[number], piece["first"] + len(piece["at"]))

    @property
    def marks(self) -> list[dict[str, Any]]:
        with self._lock:
            return [{"at": at, "phase": phase} for at, phase in self._marks]

    def whole(self) -> dict[str, Any]:
        """The whole trace in the run file's form."""
        with self._lock:
            channels = [
                {**describe(channel), "at": list(series.at), "values": list(series.values)}
                for channel, series in zip(self.channels, self._series, strict=True)
            ]
        return {"channels": channels, "marks": self.marks}


def describe(channel: Channel) -> dict[str, Any]:
    """A channel as it travels."""
    return {
        "role": channel.role,
        "of": channel.of,
        "unit": channel.unit,
        "sensor": channel.sensor,
        "stands_in": channel.stands_in,
    }
