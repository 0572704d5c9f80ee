"""A result in its context: against ratings and ceilings, and against what the hardware grew by."""

from collections.abc import Callable, Iterator
from dataclasses import dataclass
from typing import Literal

from lynxbill.core.change.ceilings import Ceiling, ceiling_of, number
from lynxbill.core.record.build import Build, Part, PartRole
from lynxbill.core.record.frame import Case
from lynxbill.core.record.naming import is_named_at_all, parts_loaded
from lynxbill.core.record.vocabulary import PART_FIGURES, Figure
from lynxbill.core.record.workload import Workload
from lynxbill.core.statistics.estimate import Estimate
from lynxbill.core.terms.errors import UnitMismatch, UnknownUnit
from lynxbill.core.terms.measure import Measure, times_as_fast
from lynxbill.core.terms.quantity import convert, unit_of

Side = Literal["before", "after"]
CEILED: tuple[PartRole, ...] = ("drive", "memory", "graphics")
# Figures of which more should make work faster; sizes and powers promise nothing of the kind.
GROWING = (
    "cores",
    "threads",
    "base_ghz",
    "boost_ghz",
    "rate_mts",
    "channels",
    "link_gts",
    "lanes",
    "read_mbs",
    "write_mbs",
)


@dataclass(frozen=True, slots=True)
class Against:
    """
    A measured mean beside the ceiling of the link or bus it went over; `share_percent` is of the usable ceiling.

    At 100 % or above, the figure can't have been carried by that link: a cache answered, or it is another link.
    """

    side: Side
    part: str
    measured: float
    ceiling: Ceiling
    share_percent: float


@dataclass(frozen=True, slots=True)
class Rated:
    """
    A measured mean beside what the part is rated for, both in the measure's unit.

    `reachable` is False where the link could not carry the rating: then the rating could not be tested here.
    """

    side: Side
    part: str
    figure: str
    measured: float
    rated: float
    share_percent: float
    reachable: bool


@dataclass(frozen=True, slots=True)
class Realised:
    """How much of a rise in the hardware came out as gain: the gain as a share of the increase, both in percent."""

    figure: str
    before: float
    after: float
    increase_percent: float
    share_percent: float


@dataclass(frozen=True, slots=True)
class Context:
    """What stands beside one measure's result; empty where nothing is known to set it against."""

    ceilings: tuple[Against, ...] = ()
    rated: tuple[Rated, ...] = ()
    realised: tuple[Realised, ...] = ()


NO_CONTEXT = Context()


@dataclass(frozen=True, slots=True)
class Measured:
    """What a context needs to know of a result: its means in the measure's unit and its oriented estimate."""

    measure: Measure
    before_mean: float | None
    after_mean: float | None
    estimate: float | None
    interval: Estimate | None
    real_gain: bool


def context_of(case: Case, before: Build, after: Build) -> Callable[[Measured], Context]:
    """
    Prepare to set the measures of two builds against ratings, ceilings and the rise of the hardware.

    Args:
        case: the machine.
        before, after: two of its builds.
    Returns: a function from one measure's figures to its context.
    """
    workloads = {workload.name: workload for workload in case.workloads}
    builds: dict[Side, Build] = {"before": before, "after": after}

    def look_up(measured: Measured) -> Context:
        workload = workloads.get(measured.measure.workload)
        if workload is None or not workload.loads:
            return NO_CONTEXT
        sides = [(side, build) for side, build in builds.items() if _mean_on(measured, side) is not None]
        return Context(
            ceilings=tuple(a for side, build in sides for a in _against(case, side, build, workload, measured)),
            rated=tuple(r for side, build in sides for r in _rated(case, side, build, workload, measured)),
            realised=tuple(_realised(before, after, workload, measured)),
        )

    return look_up


def ceiling_over(case: Case, build: Build, workload: Workload) -> Ceiling | None:
    """
    Find the most that the link which a workload goes over can carry.

    Args:
        case: the machine; link rates in MB/s.
        build: the build that the workload runs on.
        workload: what is run.
    Returns: None where it loads no single part of a build, or the figures of that part don't say.
    """
    part = _carrier(case, build, workload)
    return ceiling_of(case.machine.limits, build, part) if part is not None else None


def _against(case: Case, side: Side, build: Build, workload: Workload, measured: Measured) -> Iterator[Against]:
    mean = _mean_on(measured, side)
    unit = unit_of(measured.measure.unit)
    part = _carrier(case, build, workload)
    ceiling = (
        ceiling_of(case.machine.limits, build, part) if part is not None and unit.dimension == "data rate" else None
    )
    if part is None or ceiling is None or mean is None:
        return
    in_mb = convert(mean, measured.measure.unit, unit_of("MBy/s"))
    yield Against(side, part.label, in_mb, ceiling, 100 * in_mb / ceiling.usable)


def _carrier(case: Case, build: Build, workload: Workload) -> Part | None:
    """The one part whose link the workload goes over; None where that can't be told."""
    roles = [role for role in workload.loads if role in CEILED]
    parts = parts_loaded(case, build, workload, roles)
    # Aimed at a part, it goes over that part's link, whatever else it loads.
    is_one = len(parts) == 1 and (len(roles) == 1 or is_named_at_all(workload.target))
    return parts[0] if is_one else None


def _rated(case: Case, side: Side, build: Build, workload: Workload, measured: Measured) -> Iterator[Rated]:
    mean, key = _mean_on(measured, side), measured.measure.rated_as
    if key is None or mean is None:
        return
    rated = {role: next((f for f in figures if f.key == key), None) for role, figures in PART_FIGURES.items()}
    parts = parts_loaded(case, build, workload, [role for role, figure in rated.items() if figure])
    # Of two parts with such a rating it can't be told whose the figure is.
    if len(parts) != 1:
        return
    (part,) = parts
    figure, claimed = rated[part.role], number(part.rated, key)
    rating = _in_unit(claimed, figure, measured.measure) if figure and claimed else None
    if figure is None or claimed is None or rating is None:
        return
    ceiling = ceiling_of(case.machine.limits, build, part)
    reachable = ceiling is None or figure.unit != "MB/s" or claimed <= ceiling.usable
    yield Rated(side, part.label, figure.label, mean, rating, 100 * mean / rating, reachable)


def _in_unit(value: float, figure: Figure, measure: Measure) -> float | None:
    try:
        return convert(value, figure.unit, unit_of(measure.unit))
    except (UnknownUnit, UnitMismatch):
        return None


def _realised(before: Build, after: Build, workload: Workload, measured: Measured) -> Iterator[Realised]:
    if measured.estimate is None or not measured.measure.is_work:
        return
    gain = times_as_fast(measured.estimate) - 1
    for role in workload.loads:
        old, new = (_only(build, role) for build in (before, after))
        if old is None or new is None or old.id == new.id:
            continue
        for figure in PART_FIGURES[role]:
            was, now = number(old.rated, figure.key), number(new.rated, figure.key)
            if figure.key not in GROWING or was is None or now is None or now <= was:
                continue
            increase = now / was - 1
            yield Realised(figure.label, was, now, 100 * increase, 100 * gain / increase)


def _only(build: Build, role: PartRole) -> Part | None:
    parts = [part for part in build.parts if part.role == role]
    return parts[0] if len(parts) == 1 else None


def _mean_on(measured: Measured, side: Side) -> float | None:
    return measured.before_mean if side == "before" else measured.after_mean
