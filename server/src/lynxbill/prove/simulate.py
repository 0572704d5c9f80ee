"""Readings of a machine whose truth is known: scatter, reboots, cold starts and drift, as on a real bench."""

from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass
from datetime import UTC, datetime, timedelta

import numpy as np
from numpy.typing import NDArray

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
from lynxbill.core.money import CostLine

Floats = NDArray[np.float64]
Noise = Callable[[np.random.Generator, tuple[int, ...]], Floats]
DAY = datetime(2026, 5, 4, 9, tzinfo=UTC)
LEVEL = 100.0
SCORE = Measure(MeasureId("m0"), "Figure", "job", "K", "difference", "other", "higher", step=1e-9)


def normal(generator: np.random.Generator, shape: tuple[int, ...]) -> Floats:
    readings: Floats = generator.standard_normal(shape)
    return readings


def heavy_tailed(generator: np.random.Generator, shape: tuple[int, ...]) -> Floats:
    """Student's t with 3 degrees of freedom, brought to a standard deviation of 1."""
    draws: Floats = generator.standard_t(3, shape) / np.sqrt(3)
    return draws


def skewed(generator: np.random.Generator, shape: tuple[int, ...]) -> Floats:
    """Exponential, around its mean."""
    return generator.exponential(1.0, shape) - 1


def outlying(generator: np.random.Generator, shape: tuple[int, ...]) -> Floats:
    """Normal, but three readings in a hundred scatter five times as far."""
    return generator.standard_normal(shape) * np.where(generator.random(shape) < 0.03, 5.0, 1.0)


def autocorrelated(generator: np.random.Generator, shape: tuple[int, ...]) -> Floats:
    """AR(1) with coefficient 0.6 along the runs of a sitting, standard deviation 1."""
    steps = generator.standard_normal(shape)
    for run in range(1, shape[-1]):
        steps[..., run] = 0.6 * steps[..., run - 1] + 0.8 * steps[..., run]
    return steps


@dataclass(frozen=True, slots=True)
class Bench:
    """How a machine scatters: `reboot` between sittings, `noise` between runs, `cold` first runs, `drift` a run."""

    reboot: float = 1.0
    noise: Noise = normal
    cold: float = 0.0
    drift: float = 0.0


def side_readings(
    generator: np.random.Generator, bench: Bench, sittings: int, runs: int, *, gain: float = 0.0, scatter: float = 1.0
) -> list[list[float]]:
    """Readings of one side, a list a sitting; `scatter` scales all noise of this side."""
    readings = LEVEL + gain + scatter * bench.noise(generator, (sittings, runs))
    readings += scatter * bench.reboot * generator.standard_normal((sittings, 1))
    readings[:, 0] -= bench.cold
    readings += bench.drift * np.arange(runs)
    answer: list[list[float]] = readings.tolist()
    return answer


def make_case(
    before: Sequence[Sequence[Sequence[float]]],
    after: Sequence[Sequence[Sequence[float]]],
    *,
    plan: Plan,
    measures: Sequence[Measure] = (SCORE,),
    costs: tuple[CostLine, ...] = (),
) -> Case:
    """A case of two builds; readings by measure, sitting and run, all measures read in the same runs."""
    sittings, runs = [], []
    for build, side in (("B", before), ("C", after)):
        for number in range(len(side[0])):
            sitting = f"{build}{number}"
            start = DAY + timedelta(days=number + (20 if build == "C" else 0))
            sittings.append(Sitting(SittingId(sitting), BuildId(build), "plan", start))
            for position in range(len(side[0][number])):
                values = {m.id: side[index][number][position] for index, m in enumerate(measures)}
                runs.append(_run(sitting, position + 1, values))
    swap = Swap(SwapId("swap"), BuildId("B"), BuildId("C"), "Swap", plan, costs=costs)
    builds = (Build(BuildId("B"), "B", "Before"), Build(BuildId("C"), "C", "After"))
    machine = Machine(MachineId("machine"), "Machine", "EUR")
    return Case(machine, tuple(measures), builds, tuple(sittings), (swap,), runs=tuple(runs))


def _run(sitting: str, position: int, values: Mapping[MeasureId, float]) -> Run:
    readings = {measure: Reading(value, value) for measure, value in values.items()}
    return Run(RunId(f"{sitting}-{position}"), SittingId(sitting), "job", "1", position, "complete", readings)


def plan_for(
    measures: Sequence[Measure], sittings: int, *, matters_from: float, headline: MeasureId | None = None
) -> Plan:
    """A plan with every measure a claim."""
    claims = {measure.id: PlannedMeasure("claim", matters_from) for measure in measures}
    return Plan(sittings_a_side=sittings, headline=headline, measures=claims)
