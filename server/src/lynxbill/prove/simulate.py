"""Readings of a machine whose truth is known: scatter, reboots, cold starts and drift, as on a real bench."""

from collections.abc import Mapping, Sequence
from datetime import UTC, datetime, timedelta

from lynxbill.core.record.build import Build
from lynxbill.core.record.frame import Case, Machine
from lynxbill.core.record.ids import BuildId, MachineId, RunId, SittingId, SwapId
from lynxbill.core.record.plan import Plan, PlannedMeasure
from lynxbill.core.record.run import Reading, Run, Sitting
from lynxbill.core.record.swap import Swap
from lynxbill.core.terms.measure import Measure, MeasureId
from lynxbill.core.terms.money import CostLine

DAY = datetime(2026, 5, 4, 9, tzinfo=UTC)
SCORE = Measure(MeasureId("m0"), "Figure", "job", "K", "difference", "other", "higher", step=1e-9)
B, C = BuildId("B"), BuildId("C")


def make_case(
    before: Sequence[Sequence[Sequence[float]]],
    after: Sequence[Sequence[Sequence[float]]],
    *,
    plan: Plan,
    measures: Sequence[Measure] = (SCORE,),
    costs: tuple[CostLine, ...] = (),
    labels: Sequence[str] | None = None,
    rooms: Mapping[str, float] | None = None,
) -> Case:
    """
    A case of two builds, every sitting in a boot of its own; readings by measure, sitting and run.

    All measures are read in the same runs. The sides are measured one after the other, or in turn where the plan
    alternates. `labels` of the runs of every sitting, `rooms` by sitting.
    """
    sittings, runs = [], []
    for build, side in ((B, before), (C, after)):
        for number in range(len(side[0])):
            sitting = SittingId(f"{build}{number}")
            start = DAY + timedelta(days=_day(number, build, alternates=plan.alternates))
            room = rooms.get(sitting) if rooms else None
            sittings.append(
                Sitting(sitting, build, "plan", start, room, boot=sitting, boot_by="read", closed_at=start)
            )
            for position in range(len(side[0][number])):
                values = {m.id: side[index][number][position] for index, m in enumerate(measures)}
                runs.append(make_run(sitting, position + 1, values, labels[position] if labels else None))
    swap = Swap(SwapId("swap"), B, C, "Swap", plan, costs=costs)
    builds = (Build(B, "B", "Before"), Build(C, "C", "After"))
    machine = Machine(MachineId("machine"), "Machine", "EUR")
    return Case(machine, tuple(measures), builds, tuple(sittings), (swap,), runs=tuple(runs))


def _day(number: int, build: BuildId, *, alternates: bool) -> int:
    """One after the other with room for many; in turn A B B A A B B A."""
    if not alternates:
        return number + (100 if build == C else 0)
    first = (number % 2 == 0) == (build == B)
    return 2 * number + (0 if first else 1)


def make_run(sitting: SittingId, position: int, values: Mapping[MeasureId, float], label: str | None = None) -> Run:
    """A complete run, as it was read."""
    readings = {measure: Reading(value, value) for measure, value in values.items()}
    identifier = RunId(f"{sitting}-{position}")
    return Run(identifier, sitting, "job", "1", position, "complete", readings, pair_label=label)


def plan_for(
    measures: Sequence[Measure], sittings: int, *, matters_from: float, headline: MeasureId | None = None
) -> Plan:
    """A plan with every measure a claim."""
    claims = {measure.id: PlannedMeasure("claim", matters_from, weight=1.0) for measure in measures}
    return Plan(sittings_a_side=sittings, headline=headline, measures=claims)
