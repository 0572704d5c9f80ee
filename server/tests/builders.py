"""Small cases for tests: readings in, a whole case out."""

from collections.abc import Sequence
from datetime import UTC, datetime, timedelta
from typing import Any

from lynxbill.core.case import (
    Build,
    BuildId,
    Case,
    Machine,
    MachineId,
    Plan,
    PlannedMeasure,
    Reading,
    Run,
    RunId,
    Sitting,
    SittingId,
    Swap,
    SwapId,
)
from lynxbill.core.measure import Measure, MeasureId

DAY = datetime(2026, 5, 4, 9, tzinfo=UTC)
B, C, D = (BuildId(letter) for letter in "BCD")
TIME = Measure(MeasureId("time"), "Job", "job", "s", "ratio", "time", "lower", step=1e-9)
RATE = Measure(MeasureId("rate"), "Rate", "job", "MBy/s", "ratio", "rate", "higher", step=1e-9)
RISE = Measure(MeasureId("rise"), "Rise", "job", "K", "difference", "heat", "lower", step=1e-9)
Side = Sequence[Sequence[float]]


def make_case(before: Side, after: Side, measure: Measure = TIME, **plan: Any) -> Case:
    """A case with builds B and C, one list of readings a sitting, judged by one claim."""
    sittings = [_sitting("B", i) for i in range(len(before))] + [_sitting("C", i) for i in range(len(after))]
    runs = [
        make_run(sitting.id, position, value, measure)
        for sitting, values in zip(sittings, [*before, *after], strict=True)
        for position, value in enumerate(values, start=1)
    ]
    margin = plan.pop("matters_from", 2.0)
    role = plan.pop("role", "claim")
    swap = Swap(
        SwapId("swap"),
        BuildId("B"),
        BuildId("C"),
        "Swap",
        Plan(measures={measure.id: PlannedMeasure(role, margin)}, **plan),
    )
    return Case(
        machine=Machine(MachineId("machine"), "Machine", "EUR"),
        measures=(measure,),
        builds=(Build(BuildId("B"), "B", "Before"), Build(BuildId("C"), "C", "After")),
        sittings=tuple(sittings),
        runs=tuple(runs),
        swaps=(swap,),
    )


def make_run(sitting: str, position: int, value: float, measure: Measure = TIME, **fields: Any) -> Run:
    return Run(
        id=RunId(f"{sitting}-{position}{fields.pop('suffix', '')}"),
        sitting_id=SittingId(sitting),
        workload=measure.workload,
        workload_version=fields.pop("version", "1"),
        position=position,
        state=fields.pop("state", "complete"),
        readings={measure.id: Reading(value, value)},
        **fields,
    )


def _sitting(build: str, number: int) -> Sitting:
    start = DAY + timedelta(days=number + (10 if build == "C" else 0))
    return Sitting(SittingId(f"{build}{number}"), BuildId(build), "plan", start, ambient_c=22.0 + number)
