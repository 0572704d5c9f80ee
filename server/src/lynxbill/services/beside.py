"""What sensors told at each minute of earlier runs, to stand beside readings that are typed as a run goes on."""

from collections.abc import Iterable
from dataclasses import dataclass
from uuid import UUID

import numpy as np
from sqlalchemy.orm import Session

from lynxbill.core.case import BuildId, Case
from lynxbill.core.counting import compared_sittings
from lynxbill.core.errors import Missing
from lynxbill.core.live import level_at
from lynxbill.core.trace import Floats
from lynxbill.services.live import other_build
from lynxbill.services.transaction import Sessions, reading
from lynxbill.store.kept import read_case
from lynxbill.store.traces import ChannelKey, Trace, read_samples, read_traces
from lynxbill.words.live import say_level

MOST_RUNS = 4
# Two hours, after which nobody reads by hand.
MOST_MINUTES = 120


@dataclass(frozen=True, slots=True)
class Beside:
    """
    One sensor of earlier runs: means in its unit at the start, at each whole minute from 1, and at the end, as told.

    `build` is the letter of the build they were of; None where no run told that minute.
    """

    key: ChannelKey
    build: str
    first: str | None
    minutes: tuple[str | None, ...]
    last: str | None


def read_beside(sessions: Sessions, machine_id: UUID, sitting_id: UUID, workload_id: UUID) -> list[Beside]:
    """Of the other side's newest runs of a workload what each sensor told; where it has none, of this side's."""
    with reading(sessions) as session:
        case = read_case(session, machine_id)
        sitting = next((s for s in case.sittings if s.id == str(sitting_id)), None)
        if sitting is None:
            raise Missing("This machine has no such sitting.")
        for build in (other_build(case, sitting.build_id), sitting.build_id):
            ids = [UUID(s.id) for s in compared_sittings(case, build)] if build is not None else []
            traces = _of_workload(session, machine_id, ids, workload_id)
            if build is not None and traces:
                return list(_levels(session, case, build, traces))
    return []


def _of_workload(session: Session, machine_id: UUID, sittings: list[UUID], workload_id: UUID) -> list[Trace]:
    told = read_traces(session, machine_id, sittings) if sittings else []
    return [t for t in told if t.workload_id == workload_id and not t.warm_up and t.ended and t.channels][-MOST_RUNS:]


def _levels(session: Session, case: Case, build: BuildId, traces: list[Trace]) -> Iterable[Beside]:
    found: dict[ChannelKey, list[tuple[Floats, Floats]]] = {}
    for trace in traces:
        for channel in trace.channels:
            samples = read_samples(session, trace.id, channel.number, None, None)
            if channel.high is not None and len(samples[0]):
                found.setdefault(channel.key, []).append(samples)
    for key, runs in found.items():
        minutes = min(MOST_MINUTES, max(int(at[-1] // 60) for at, _ in runs))
        # At rest is the first sample alone: soon after it the load has warmed it.
        firsts = _mean(float(values[~np.isnan(values)][0]) for _, values in runs if not np.isnan(values).all())
        lasts = _mean(level_at(at, values, float(at[-1])) for at, values in runs)
        each = [_mean(level_at(*run, 60.0 * minute) for run in runs) for minute in range(1, minutes + 1)]
        first, last, *told = (
            say_level(key.role, level, case.machine.decimal_mark) for level in (firsts, lasts, *each)
        )
        yield Beside(key, case.build(build).letter, first, tuple(told), last)


def _mean(levels: Iterable[float | None]) -> float | None:
    known = [level for level in levels if level is not None]
    return sum(known) / len(known) if known else None
