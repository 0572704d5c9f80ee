"""What sensors told at each minute of earlier runs, to stand beside readings that are typed as a run goes on."""

from collections.abc import Iterable
from dataclasses import dataclass, replace
from typing import cast
from uuid import UUID

import numpy as np
from sqlalchemy.orm import Session

from lynxbill.core.heat.live import level_at
from lynxbill.core.heat.phases import Phase
from lynxbill.core.heat.readoff import phases_of
from lynxbill.core.heat.roles import UNITS, ChannelRole
from lynxbill.core.heat.run import in_units
from lynxbill.core.heat.trace import Floats
from lynxbill.core.reading.counting import compared_sittings, is_whole
from lynxbill.core.record.frame import Case
from lynxbill.core.record.ids import BuildId
from lynxbill.core.terms.errors import Missing
from lynxbill.services.base.transaction import Sessions, reading
from lynxbill.services.evidence.live import other_build
from lynxbill.services.evidence.trace_figures import read_channels
from lynxbill.store.evidence import load_evidence
from lynxbill.store.kept import read_case
from lynxbill.store.traces import ChannelKey, Trace, read_samples, read_traces
from lynxbill.words.heat.live import say_level

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
            traces = _of_workload(session, case, ids, workload_id)
            if build is not None and traces:
                return list(_levels(session, case, build, traces))
    return []


def _of_workload(session: Session, case: Case, sittings: list[UUID], workload_id: UUID) -> list[Trace]:
    """The newest traces of runs that count: what broke off tells nothing of a minute."""
    told = read_traces(session, UUID(case.machine.id), sittings) if sittings else []
    told = [t for t in told if t.workload_id == workload_id and not t.warm_up and t.ended and t.channels]
    runs = load_evidence(session, case, {str(trace.sitting_id) for trace in told}).runs if told else ()
    whole = {run.id for run in runs if is_whole(run)}
    return [trace for trace in told if str(trace.id) in whole][-MOST_RUNS:]


def _levels(session: Session, case: Case, build: BuildId, traces: list[Trace]) -> Iterable[Beside]:
    found: dict[ChannelKey, list[tuple[Floats, Floats]]] = {}
    for trace in traces:
        load = _load_of(session, trace)
        for channel in trace.channels:
            role = cast(ChannelRole, channel.key.role)
            at, values = read_samples(session, trace.id, channel.number, None, None)
            told = in_units(role, channel.key.unit, values) if role in UNITS else None
            if channel.high is None or told is None:
                continue
            # Minutes are those of the load: what the machine cooled down to after it is none of them.
            if load is not None:
                kept = (at < load.began_s) | load.covers(at)
                at, told = at[kept] - load.began_s, told[kept]
            if len(at) > 0:
                found.setdefault(replace(channel.key, unit=UNITS[role]), []).append((at, told))
    for key, runs in found.items():
        minutes = min(MOST_MINUTES, max(int(at[-1] // 60) for at, _ in runs))
        # At rest is the first sample alone: soon after it the load has warmed it.
        firsts = _mean(float(values[~np.isnan(values)][0]) for _, values in runs if not np.isnan(values).all())
        lasts = _mean(level_at(at, values, float(at[-1])) for at, values in runs)
        each = [_mean(level_at(*run, 60.0 * minute) for run in runs) for minute in range(1, minutes + 1)]
        first, last, *told_each = (
            say_level(cast(ChannelRole, key.role), level, case.machine.decimal_mark)
            for level in (firsts, lasts, *each)
        )
        yield Beside(key, case.build(build).letter, first, tuple(told_each), last)


def _load_of(session: Session, trace: Trace) -> Phase | None:
    phases = phases_of(read_channels(session, trace, {"load", "temperature", "clock"}), trace.marks)
    return max((phase for phase in phases if phase.name == "load"), key=lambda p: p.lasted_s, default=None)


def _mean(levels: Iterable[float | None]) -> float | None:
    known = [level for level in levels if level is not None]
    return sum(known) / len(known) if known else None
