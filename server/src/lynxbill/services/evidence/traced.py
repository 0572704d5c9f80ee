"""What traces told of fan, sound, power and clock beside a heat that is judged."""

from collections.abc import Mapping
from dataclasses import replace
from datetime import datetime
from functools import partial
from uuid import UUID

from sqlalchemy.orm import Session

from lynxbill.core.heat.roles import ROLE_OF_KIND
from lynxbill.core.heat.run import last_levels
from lynxbill.core.reading.counting import is_whole
from lynxbill.core.record.frame import Case
from lynxbill.core.record.ids import RunId
from lynxbill.core.result.joint import LINKED
from lynxbill.core.terms.measure import Kind
from lynxbill.services.base.remembered import Remembered
from lynxbill.services.evidence.trace_figures import read_channels
from lynxbill.store.traces import Trace, read_traces

# Of a trace that ended, by when it was last heard of.
LEVELS = Remembered[tuple[UUID, datetime], Mapping[Kind, float]](20_000)


def with_traced(session: Session, machine_id: UUID, case: Case) -> Case:
    """A case with what the traces of its runs tell beside a heat."""
    heated = {measure.workload for measure in case.measures if measure.kind == "heat"}
    runs = {run.id: run for run in case.runs if run.workload in heated and is_whole(run)}
    if not runs:
        return case
    traced = dict[RunId, Mapping[Kind, float]]()
    for trace in read_traces(session, machine_id, list({UUID(run.sitting_id) for run in runs.values()})):
        if trace.ended and RunId(str(trace.id)) in runs:
            key = trace.id, trace.heard_at
            traced[RunId(str(trace.id))] = LEVELS.answer(key, partial(_levels, session, trace))
    return replace(case, traced=traced)


def _levels(session: Session, trace: Trace) -> Mapping[Kind, float]:
    beside = {ROLE_OF_KIND[kind] for kind in LINKED}
    return last_levels(read_channels(session, trace, {"load", *beside}), trace.marks)
