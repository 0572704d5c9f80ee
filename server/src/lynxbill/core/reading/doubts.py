"""Questions to a reading when it is entered: was it typed right? Never whether to leave it out."""

import math
from collections.abc import Iterable, Iterator, Mapping, Sequence
from dataclasses import dataclass
from statistics import median
from typing import Literal

from lynxbill.core.change.context import ceiling_over
from lynxbill.core.reading.counting import why_not_counted
from lynxbill.core.record.frame import Case
from lynxbill.core.record.ids import SittingId
from lynxbill.core.record.possible import is_possible
from lynxbill.core.record.run import Run, Statistic
from lynxbill.core.terms.measure import Measure, MeasureId, restore
from lynxbill.core.terms.quantity import convert, unit_of

DoubtCode = Literal[
    "slip_of_digits",
    "no_temperature",
    "not_of_a_pc",
    "at_the_stop",
    "above_the_link",
    "crosswise",
    "highest_below_settled",
]
# So far from its siblings no repetition of one job lies; what is merely odd is asked nothing.
FAR = 3.0
# A swap may make a job some times as fast: against another build only a digit too many is told.
FAR_FROM_ANOTHER_BUILD = 8.0
FEWEST_SIBLINGS = 2
# How a figure is typed wrong: a digit or a decimal mark too many or too few, minutes for seconds, hours for minutes.
SLIPS = (0.001, 0.01, 0.1, 10.0, 100.0, 1000.0, 60.0, 1 / 60.0)
NEAR = 1.5
MANY = 50
# Two columns are typed crosswise where each figure lies so much nearer to the other's siblings than these are apart.
CROSSWISE = 0.25
_BELOW: tuple[Statistic, ...] = ("mean", "settled", "lowest")


@dataclass(frozen=True, slots=True)
class Doubt:
    """
    One reading that may have been typed wrong.

    `siblings` is what it is held against (the middle of its siblings, the link's ceiling, the stop limit, the other
    statistic) and `meant` what may have been meant, both in the measure's unit; None where that can't be told.
    `other` is the column that it may belong to.
    """

    measure: MeasureId
    code: DoubtCode
    value: float
    siblings: float | None = None
    meant: float | None = None
    other: str = ""


def doubts_of(case: Case, sitting: SittingId, runs: Sequence[Run]) -> Mapping[str, tuple[Doubt, ...]]:
    """
    Ask of each run of an open sitting whether it was typed right.

    Args:
        case: with its sheets.
        sitting: where the runs were made.
        runs: all of that sitting.
    Returns: by run id; nothing for a closed sitting, for what was confirmed, nor for what is odd but possible.
    """
    held = next((known for known in case.sittings if known.id == sitting), None)
    if held is None or held.closed_at is not None:
        return {}
    bench = _Bench(case, sitting, runs)
    found = {run.id: tuple(bench.ask_of(run)) for run in runs if run.state == "complete"}
    return {run: doubts for run, doubts in found.items() if doubts}


class _Bench:
    """One sitting, its build, and what each measure was read at."""

    def __init__(self, case: Case, sitting: SittingId, runs: Sequence[Run]):
        self.case, self.sitting, self.runs = case, sitting, runs
        self.measures = {measure.id: measure for measure in case.measures}
        self.workloads = {workload.name: workload for workload in case.workloads}
        self.build = next(s.build_id for s in case.sittings if s.id == sitting)
        self._here: dict[MeasureId, dict[str, float]] = {}

    def ask_of(self, run: Run) -> Iterator[Doubt]:
        for key in (key for key in self.measures if key in run.readings):
            measure, reading = self.measures[key], run.readings[key]
            if reading.confirmed or reading.source is not None:
                continue
            doubt = (
                _impossible(measure, reading.value)
                or self._at_the_stop(measure, reading.value)
                or self._above_link(measure, reading.value)
                or self._slip(run, measure, reading.value)
                or self._crosswise(run, measure, reading.value)
            )
            if doubt is not None:
                yield doubt
        yield from _order_of_statistics(run, self.measures)

    def _slip(self, run: Run, measure: Measure, value: float) -> Doubt | None:
        """A figure far from all its siblings: those of its build, else of the others."""
        if measure.scale != "ratio" or value <= 0:
            return None
        siblings, far = self._beside(run, measure), FAR
        if len(siblings) < FEWEST_SIBLINGS:
            elsewhere = {known.id for known in self.case.sittings if known.build_id != self.build}
            siblings, far = self._kept(measure, elsewhere), FAR_FROM_ANOTHER_BUILD
        # A slip among the siblings must not make the right ones look wrong: more of them are far than near.
        distant = [each for each in siblings if each > 0 and abs(math.log(value / each)) >= math.log(far)]
        if not distant or 2 * len(distant) <= len(siblings):
            return None
        middle = median(distant)
        return Doubt(measure.id, "slip_of_digits", value, middle, _meant(value, middle))

    def _crosswise(self, run: Run, measure: Measure, value: float) -> Doubt | None:
        """A figure that lies with the siblings of another column, whose own figure lies with this one's."""
        own = self._middle(run, measure)
        if own is None:
            return None
        for key, reading in run.readings.items():
            other = self.measures.get(key)
            if other is None or other.workload != measure.workload or key == measure.id or reading.confirmed:
                continue
            theirs = self._middle(run, other)
            if theirs is None or theirs == own:
                continue
            near = CROSSWISE * abs(theirs - own)
            if abs(value - theirs) < near and abs(reading.value - own) < near:
                return Doubt(measure.id, "crosswise", value, own, reading.value, other.name)
        return None

    def _middle(self, run: Run, measure: Measure) -> float | None:
        siblings = self._beside(run, measure)
        return median(siblings) if len(siblings) >= FEWEST_SIBLINGS else None

    def _at_the_stop(self, measure: Measure, value: float) -> Doubt | None:
        stop = self.case.machine.limits.get("stop_c")
        if measure.unit != "Cel" or isinstance(stop, (str, bool)) or stop is None or value < stop:
            return None
        return Doubt(measure.id, "at_the_stop", value, float(stop))

    def _beside(self, run: Run, measure: Measure) -> list[float]:
        """The other readings of the sitting, and the middle of each other sitting of the build."""
        if measure.id not in self._here:
            counted = [other for other in self.runs if why_not_counted(other, measure.id) is None]
            self._here[measure.id] = {other.id: other.readings[measure.id].value for other in counted}
        here = self._here[measure.id]
        # Among so many, the run's own figure does not move their middle: it need not be told from the others.
        beside = [median(here.values())] * len(here) if len(here) > MANY else self._others(here, run)
        return beside + self._kept(measure, {s.id for s in self.case.sittings_of(self.build)} - {self.sitting})

    @staticmethod
    def _others(here: Mapping[str, float], run: Run) -> list[float]:
        return [value for identifier, value in here.items() if identifier != run.id]

    def _kept(self, measure: Measure, sittings: Iterable[SittingId]) -> list[float]:
        """The middle of a measure in each of some sittings, as a reading."""
        sheets = self.case.sheets or {}
        found = [sheets.get((sitting, measure.workload)) for sitting in sittings]
        levels = [sheet.levels.get(measure.id) for sheet in found if sheet is not None]
        return [restore(level.unit, measure) for level in levels if level is not None and level.unit is not None]

    def _above_link(self, measure: Measure, value: float) -> Doubt | None:
        unit, workload = unit_of(measure.unit), self.workloads.get(measure.workload)
        if unit.dimension != "data rate" or workload is None:
            return None
        ceiling = ceiling_over(self.case, self.case.build(self.build), workload)
        if ceiling is None or convert(value, measure.unit, unit_of("MBy/s")) < ceiling.usable:
            return None
        return Doubt(measure.id, "above_the_link", value, convert(ceiling.usable, "MBy/s", unit))


def _impossible(measure: Measure, value: float) -> Doubt | None:
    """A figure that no part of a PC is read at; what lies a thousand below it may have been meant."""
    unit = unit_of(measure.unit)
    if is_possible(value, unit):
        return None
    if unit.dimension == "temperature":
        return Doubt(measure.id, "no_temperature", value)
    thousandth = value / 1000
    return Doubt(measure.id, "not_of_a_pc", value, None, thousandth if is_possible(thousandth, unit) else None)


def _meant(value: float, middle: float) -> float | None:
    near = [value * slip for slip in SLIPS if 1 / NEAR < value * slip / middle < NEAR]
    # Twelve digits: more are an artefact of the division.
    return float(f"{min(near, key=lambda each: abs(math.log(each / middle))):.12g}") if near else None


def _order_of_statistics(run: Run, measures: Mapping[MeasureId, Measure]) -> Iterator[Doubt]:
    """The highest of a run can't lie below what it settled at."""
    for high in (key for key, reading in run.readings.items() if reading.statistic == "highest"):
        for low in (key for key, reading in run.readings.items() if reading.statistic in _BELOW):
            top, bottom = run.readings[high], run.readings[low]
            alike = (measures[high].unit, measures[high].kind) == (measures[low].unit, measures[low].kind)
            if alike and top.value < bottom.value and not top.confirmed:
                yield Doubt(high, "highest_below_settled", top.value, bottom.value)
                return
