"""Whether gain follows a trait of the work: a number, such as a length or a count, that a workload is frozen to."""

import math
from collections.abc import Iterable, Mapping
from dataclasses import dataclass
from itertools import combinations

from lynxbill.core.record.ids import Plain
from lynxbill.core.record.workload import Workload
from lynxbill.core.terms.measure import LARGEST

FEWEST = 3
# From twelve points on a tau of .6 is told from chance four times in five: 4 + .437·((1.96 + .84)/atanh(.6))² = 11.1.
ENOUGH = 12
TOGETHER = 0.7


@dataclass(frozen=True, slots=True)
class TaskGain:
    """The oriented estimate of one workload's leading measure; `measure` is its id, `workload` by name."""

    measure: str
    workload: str
    estimate: float


@dataclass(frozen=True, slots=True)
class TraitPoint:
    measure: str
    value: float
    estimate: float


@dataclass(frozen=True, slots=True)
class Trend:
    """
    How the gains of several workloads lie along one trait; a description and no test.

    Of all pairs of workloads that differ in trait and gain, `rising` gained more where the trait is larger and
    `falling` gained less; `tau` is Kendall's tau-b, None where all traits or all gains are alike. `few` says that
    there are too few points to tell a trend from chance; `moves_with` names traits that these workloads share and
    that rise or fall together with this one, so that either may be what the gain follows.
    """

    trait: str
    points: tuple[TraitPoint, ...]
    rising: int
    falling: int
    tau: float | None
    moves_with: tuple[str, ...]

    @property
    def few(self) -> bool:
        return len(self.points) < ENOUGH


def gain_by_traits(workloads: Mapping[str, Workload], gains: Iterable[TaskGain]) -> tuple[Trend, ...]:
    """
    Lay the gains of workloads along every numeric parameter that at least three of them have.

    Args:
        workloads: by name; their parameters that are numbers are the traits.
        gains: one a workload, estimates on the scale of judgement (logarithms of speed ratios).
    Returns: one trend a trait that is not the same for all its workloads, by name of trait; points by rising value.
    Source: M. G. Kendall, Biometrika 30 (1938) 81; ties (tau-b) 33 (1945) 239; the variance behind `ENOUGH`:
        E. C. Fieller, H. O. Hartley, E. S. Pearson, Biometrika 44 (1957) 470.
    """
    by_trait: dict[str, dict[str, TraitPoint]] = {}
    for gain in gains:
        workload = workloads.get(gain.workload)
        for trait, parameter in (workload.parameters if workload else {}).items():
            value = _number(parameter)
            if value is not None:
                by_trait.setdefault(trait, {})[gain.measure] = TraitPoint(gain.measure, value, gain.estimate)
    found = {trait: points for trait, points in sorted(by_trait.items()) if _says_something(points)}
    return tuple(_trend(trait, points, found) for trait, points in found.items())


def _trend(trait: str, points: Mapping[str, TraitPoint], others: Mapping[str, Mapping[str, TraitPoint]]) -> Trend:
    ordered = tuple(sorted(points.values(), key=lambda point: (point.value, point.measure)))
    rising, falling = count_pairs([(point.value, point.estimate) for point in ordered])
    return Trend(
        trait=trait,
        points=ordered,
        rising=rising,
        falling=falling,
        tau=kendall_tau([(point.value, point.estimate) for point in ordered]),
        moves_with=tuple(name for name, other in others.items() if name != trait and _together(points, other)),
    )


def _together(ours: Mapping[str, TraitPoint], theirs: Mapping[str, TraitPoint]) -> bool:
    shared = [(point.value, theirs[measure].value) for measure, point in ours.items() if measure in theirs]
    tau = kendall_tau(shared) if len(shared) >= FEWEST else None
    return tau is not None and abs(tau) >= TOGETHER


def count_pairs(points: list[tuple[float, float]]) -> tuple[int, int]:
    """
    Count the pairs of points in which both coordinates rise together, and those in which one falls.

    Args:
        points: (trait, gain), in any units.
    Returns: (rising, falling); a pair with a tie in either coordinate is in neither.
    """
    signs = [_sign(a[0] - b[0]) * _sign(a[1] - b[1]) for a, b in combinations(points, 2)]
    return signs.count(1), signs.count(-1)


def kendall_tau(points: list[tuple[float, float]]) -> float | None:
    """
    Measure how far two figures rise together, by ranks alone.

    Args:
        points: (trait, gain), in any units.
    Returns: Kendall's tau-b, -1 to 1; None with fewer than two points, or where either figure is the same throughout.
    Source: M. G. Kendall, Biometrika 33 (1945) 239.
    """
    rising, falling = count_pairs(points)
    free = [sum(a[axis] != b[axis] for a, b in combinations(points, 2)) for axis in (0, 1)]
    return (rising - falling) / math.sqrt(free[0] * free[1]) if all(free) else None


def _says_something(points: Mapping[str, TraitPoint]) -> bool:
    return len(points) >= FEWEST and len({point.value for point in points.values()}) > 1


def _number(value: Plain) -> float | None:
    if isinstance(value, bool) or not isinstance(value, (int, float)):
        return None
    return float(value) if abs(value) <= LARGEST else None


def _sign(value: float) -> int:
    return (value > 0) - (value < 0)
