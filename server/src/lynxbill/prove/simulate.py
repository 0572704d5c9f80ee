"""Readings of a machine whose truth is known: scatter, reboots, cold starts and drift, as on a real bench."""

import math
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
B, C = BuildId("B"), BuildId("C")


def normal(generator: np.random.Generator, shape: tuple[int, ...]) -> Floats:
    readings: Floats = generator.standard_normal(shape)
    return readings


def heavy_tailed(generator: np.random.Generator, shape: tuple[int, ...]) -> Floats:
    """Student's t with 3 degrees of freedom, brought to a standard deviation of 1."""
    draws: Floats = generator.standard_t(3, shape) / np.sqrt(3)
    return draws


def skewed(generator: np.random.Generator, shape: tuple[int, ...]) -> Floats:
    """Exponential, around what a unit of so many runs is expected to be: its median, not its mean."""
    return generator.exponential(1.0, shape) - _expected_median(shape[-1])


def skewed_around_mean(generator: np.random.Generator, shape: tuple[int, ...]) -> Floats:
    """Exponential, around its mean: for the guard, which takes means of runs."""
    return generator.exponential(1.0, shape) - 1


def _expected_median(runs: int) -> float:
    """Expectation of the median of so many exponential draws; of two their mean."""

    def order_statistic(place: int) -> float:
        return math.fsum(1 / (runs - before) for before in range(place))

    if runs % 2:
        return order_statistic((runs + 1) // 2)
    return (order_statistic(runs // 2) + order_statistic(runs // 2 + 1)) / 2


def outlying(generator: np.random.Generator, shape: tuple[int, ...]) -> Floats:
    """Normal, but three readings in a hundred scatter five times as far."""
    return generator.standard_normal(shape) * np.where(generator.random(shape) < 0.03, 5.0, 1.0)


def autocorrelated(generator: np.random.Generator, shape: tuple[int, ...]) -> Floats:
    """AR(1) with coefficient 0.6 along the runs of a sitting, standard deviation 1."""
    steps = generator.standard_normal(shape)
    for run in range(1, shape[-1]):
        steps[..., run] = 0.6 * steps[..., run - 1] + 0.8 * steps[..., run]
    return steps


def two_states(generator: np.random.Generator, shape: tuple[int, ...]) -> Floats:
    """A boot ends in one of two states, as often in either."""
    return np.where(generator.random(shape) < 0.5, -1.0, 1.0)


def rare_good_boots(generator: np.random.Generator, shape: tuple[int, ...]) -> Floats:
    """One boot in eight is a good one."""
    return (np.where(generator.random(shape) < 0.125, 1.0, 0.0) - 0.125) / math.sqrt(0.125 * 0.875)


@dataclass(frozen=True, slots=True)
class Bench:
    """
    How a machine scatters: `reboot` between sittings by the law `boots`, `noise` between runs, `cold` first runs,
    `drift` a run and `creep` a sitting.
    """

    reboot: float = 1.0
    noise: Noise = normal
    cold: float = 0.0
    drift: float = 0.0
    boots: Noise = normal


def side_readings(
    generator: np.random.Generator,
    bench: Bench,
    sittings: int,
    runs: int,
    *,
    gain: float = 0.0,
    scatter: float = 1.0,
    reboots: float | None = None,
) -> list[list[float]]:
    """
    Readings of one side, a list a sitting.

    `scatter` scales the noise of this side's runs, `reboots` what its reboots move (without it, as its runs).
    """
    readings = LEVEL + gain + scatter * bench.noise(generator, (sittings, runs))
    moved = scatter if reboots is None else reboots
    readings += moved * bench.reboot * bench.boots(generator, (sittings, 1))
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
