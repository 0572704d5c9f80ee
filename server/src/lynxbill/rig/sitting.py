"""A sitting on a simulated PC, held at once: runs with their traces, the same for the same seed."""

from collections.abc import Mapping
from dataclasses import dataclass
from datetime import datetime, timedelta
from pathlib import Path
from typing import cast

from lynxbill.bench.trace import Recorder
from lynxbill.bench.workload import Bench, Parameters, WrongResult
from lynxbill.core.heat.roles import ChannelRole
from lynxbill.core.heat.trace import Samples, WholeTrace
from lynxbill.rig.machine import Rig


@dataclass(frozen=True, slots=True)
class RigRun:
    """One run: its figures by the workload's keys, its trace, how long it took; `fault` where it failed."""

    started_at: datetime
    readings: Mapping[str, float]
    trace: WholeTrace
    duration_s: float
    rest_min: float
    start_c: float
    fault: str | None


def perform_once(
    rig: Rig, key: str, parameters: Parameters, began: datetime, *, rest_min: float = 0.0, every_s: float = 5.0
) -> RigRun:
    """
    Let a rig rest for so many minutes, then do a workload of the agent's on it once.

    Args:
        began: when the rig was started, by the calendar: its clock tells what follows.
        every_s: how often its sensors are read.
    """
    work = rig.known()[key]
    rig.wait(60 * rest_min)
    started, start_c = rig.clock(), rig.state.die_c
    recorder = Recorder(rig.channels(), 1 / every_s, rig.clock)
    due = [0.0]

    def look() -> None:
        if recorder.elapsed >= due[0]:
            recorder.sample()
            due[0] += every_s

    rig.on_moment = look
    try:
        bench = Bench(rig.threads, lambda _share: None, recorder, Path("/"), {})
        figures, fault = work.perform({**work.parameters, **parameters}, bench).readings, None
    except WrongResult as error:
        figures, fault = {}, str(error)
    finally:
        rig.on_moment = None
    at = began + timedelta(seconds=round(started))
    lasted = round(rig.clock() - started, 1)
    return RigRun(at, figures, _trace(recorder, at), lasted, rest_min, round(start_c, 1), fault)


def _trace(recorder: Recorder, started_at: datetime) -> WholeTrace:
    whole = recorder.whole()
    channels = tuple(
        Samples(
            cast(ChannelRole, channel["role"]),
            channel["of"],
            channel["unit"],
            channel["sensor"],
            tuple(channel["at"]),
            tuple(channel["values"]),
            channel["stands_in"],
        )
        for channel in whole["channels"]
    )
    return WholeTrace(started_at, channels, tuple((mark["at"], mark["phase"]) for mark in whole["marks"]))
