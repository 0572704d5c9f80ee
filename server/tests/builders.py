"""Small cases for tests: readings in, a whole case out."""

from collections.abc import Sequence
from datetime import UTC, datetime, timedelta
from typing import Any

from lynxbill.core.record.build import Build
from lynxbill.core.record.frame import Case, Machine
from lynxbill.core.record.ids import BuildId, MachineId, RunId, SittingId, SwapId
from lynxbill.core.record.plan import Plan, PlannedMeasure
from lynxbill.core.record.run import Reading, Run, Sitting
from lynxbill.core.record.swap import Swap
from lynxbill.core.terms.measure import Measure, MeasureId

DAY = datetime(2026, 5, 4, 9, tzinfo=UTC)
B, C, D = (BuildId(letter) for letter in "BCD")
TIME = Measure(MeasureId("time"), "Job", "job", "s", "ratio", "time", "lower", step=1e-9)
RATE = Measure(MeasureId("rate"), "Rate", "job", "MBy/s", "ratio", "rate", "higher", step=1e-9)
RISE = Measure(MeasureId("rise"), "Rise", "job", "K", "difference", "heat", "lower", step=1e-9)
Side = Sequence[Sequence[float]]


def make_case(before: Side, after: Side, measure: Measure = TIME, **plan: Any) -> Case:
    """
    A case with builds B and C, one list of readings a sitting, judged by one claim.

    The plan looks once, at all sittings that there are, unless it says otherwise.
    """
    in_turn = plan.get("order") == "alternating"
    sittings = [
        _sitting(build, i, in_turn) for build, side in (("B", before), ("C", after)) for i in range(len(side))
    ]
    runs = [
        make_run(sitting.id, position, value, measure)
        for sitting, values in zip(sittings, [*before, *after], strict=True)
        for position, value in enumerate(values, start=1)
    ]
    plan.setdefault("sittings_a_side", max(1, len(after)))
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


def _sitting(build: str, number: int, in_turn: bool) -> Sitting:
    is_after = build == "C"
    start = DAY + timedelta(days=2 * number + is_after if in_turn else number + 100 * is_after)
    identifier = f"{build}{number}"
    closed, room = start + timedelta(hours=1), 22.0 + number
    return Sitting(
        SittingId(identifier), BuildId(build), "plan", start, room, boot=identifier, boot_by="read", closed_at=closed
    )
