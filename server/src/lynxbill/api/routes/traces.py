"""Traces over HTTP: appended while a run lasts, read as they are drawn."""

from typing import Annotated
from uuid import UUID

from fastapi import APIRouter, Query

from lynxbill.api.http.deps import ActDep, SessionsDep
from lynxbill.api.wire.bench_bodies import TraceIn
from lynxbill.api.wire.bench_schemas import (
    BesideOut,
    CurveOut,
    DrawnChannelOut,
    DrawnTraceOut,
    LiveOut,
    RunCurvesOut,
    TraceChannelOut,
    TraceOut,
    WordedLiveOut,
)
from lynxbill.core.terms.quantity import unit_of
from lynxbill.services.evidence.beside import read_beside
from lynxbill.services.evidence.live import view_live
from lynxbill.services.evidence.traces import draw_trace, list_traces, put_trace, take_in_trace
from lynxbill.store.traces import Channel, Trace

router = APIRouter(tags=["traces"], prefix="/machines/{machine_id}")


@router.post("/traces/{run_id}")
def post_trace(machine_id: UUID, run_id: UUID, body: TraceIn, sessions: SessionsDep, act: ActDep) -> TraceOut:
    """Append to the trace of a run; sending the same samples twice stores them once."""
    return trace_out(take_in_trace(sessions, act, machine_id, run_id, body.to_coming()))


@router.put("/traces/{run_id}")
def put_typed_trace(machine_id: UUID, run_id: UUID, body: TraceIn, sessions: SessionsDep, act: ActDep) -> TraceOut:
    """Keep readings over time that were typed, whole: what was typed before of this run gives way."""
    return trace_out(put_trace(sessions, act, machine_id, run_id, body.to_coming(), "typed"))


@router.get("/traces")
def read_traces(
    machine_id: UUID, sessions: SessionsDep, sitting: Annotated[list[UUID] | None, Query(max_length=200)] = None
) -> list[TraceOut]:
    """The traces of the sittings that are named, without their samples; without any, those of runs that last."""
    return [trace_out(trace) for trace in list_traces(sessions, machine_id, sitting)]


@router.get("/traces/{run_id}")
def read_trace(
    machine_id: UUID,
    run_id: UUID,
    sessions: SessionsDep,
    from_s: Annotated[float | None, Query(ge=0, allow_inf_nan=False)] = None,
    to_s: Annotated[float | None, Query(ge=0, allow_inf_nan=False)] = None,
    points: Annotated[int, Query(ge=1, le=5000)] = 600,
) -> DrawnTraceOut:
    """A trace as it is drawn: a window of it, each channel in at most so many stretches by lowest and highest."""
    trace, drawn = draw_trace(sessions, machine_id, run_id, (from_s, to_s), points)
    channels = [
        DrawnChannelOut(
            **dict(channel_out(one.channel)),
            at=list(one.stretches.at),
            lows=list(one.stretches.low),
            highs=list(one.stretches.high),
            highest=one.figures.highest,
            last_minute=one.figures.last_minute,
            within_s=one.figures.within_s,
        )
        for one in drawn
    ]
    return DrawnTraceOut(trace=trace_out(trace), channels=channels)


@router.get("/live")
def read_live(machine_id: UUID, sessions: SessionsDep) -> LiveOut | None:
    """How the run that lasts is doing, beside earlier runs of the same work; null where none lasts."""
    live = view_live(sessions, machine_id)
    if live is None:
        return None
    return LiveOut(
        run=live.trace.id,
        sitting=live.trace.sitting_id,
        above_room=live.above_room,
        runs=[
            RunCurvesOut(
                run=one.run,
                build=one.build,
                is_other=one.is_other,
                warm_up=one.warm_up,
                position=one.position,
                curves=[
                    CurveOut(
                        role=curve.role,
                        unit=curve.unit,
                        sensor=curve.sensor,
                        at=list(curve.stretches.at),
                        lows=list(curve.stretches.low),
                        highs=list(curve.stretches.high),
                    )
                    for curve in one.curves
                ],
            )
            for one in live.runs
        ],
        worded=WordedLiveOut.model_validate(live.worded),
    )


@router.get("/sittings/{sitting_id}/beside")
def read_beside_typed(machine_id: UUID, sitting_id: UUID, workload: UUID, sessions: SessionsDep) -> list[BesideOut]:
    """What sensors told at each minute of the other side's runs of a workload, else of earlier ones of this side."""
    return [
        BesideOut(
            role=one.key.role,
            of=one.key.of,
            unit=one.key.unit,
            sensor=one.key.sensor,
            build=one.build,
            first=one.first,
            minutes=list(one.minutes),
            last=one.last,
        )
        for one in read_beside(sessions, machine_id, sitting_id, workload)
    ]


def trace_out(trace: Trace) -> TraceOut:
    return TraceOut(
        id=trace.id,
        sitting=trace.sitting_id,
        workload=trace.workload_id,
        position=trace.position,
        warm_up=trace.warm_up,
        started_at=trace.started_at,
        heard_at=trace.heard_at,
        ended=trace.ended,
        marks=list(trace.marks),
        missing=trace.missing,
        source=trace.source,
        channels=[channel_out(channel) for channel in trace.channels],
    )


def channel_out(channel: Channel) -> TraceChannelOut:
    key = channel.key
    return TraceChannelOut(
        role=key.role,
        of=key.of,
        unit=key.unit,
        unit_display=unit_of(key.unit).display,
        sensor=key.sensor,
        stands_in=key.stands_in,
        count=channel.count,
        low=channel.low,
        high=channel.high,
    )
