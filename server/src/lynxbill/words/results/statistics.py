"""What a customer never asks for: both sides in figures, and every figure behind a verdict, to seven digits."""

import math
from collections.abc import Iterable, Mapping
from dataclasses import dataclass

from lynxbill.core.result.result import MeasureResult
from lynxbill.core.statistics.estimate import Basis
from lynxbill.core.terms.measure import difference_unit
from lynxbill.core.terms.quantity import unit_of
from lynxbill.words.base.figures import DecimalMark, figure, percent

_DIGITS = 7
_RULES: Mapping[Basis, str] = {
    "sittings": "Each sitting counts as one figure, the median of its runs; the two sides’ figures are compared by "
    "Student’s t, and by Welch’s rule too where the counts differ.",
    "paired_sittings": "Sittings were matched on purpose; the differences of the pairs are tested by Student’s t.",
    "one_sitting": "Too few sittings to see what a reboot moves: the interval allows for reboots that move readings "
    "by three times their scatter.",
    "anytime": "A rule that stays valid however often one looks.",
    "exact": "All ways to deal the sittings to the two sides are counted.",
}


@dataclass(frozen=True, slots=True)
class WordedSides:
    """One figure of both sides, in the unit of the readings."""

    name: str
    before: str
    after: str


@dataclass(frozen=True, slots=True)
class WordedFigure:
    """A figure as it was computed."""

    name: str
    value: str


@dataclass(frozen=True, slots=True)
class WordedStatistics:
    """One result for the next technician."""

    sides: tuple[WordedSides, ...]
    rule: str | None
    figures: tuple[WordedFigure, ...]


def say_statistics(result: MeasureResult, mark: DecimalMark) -> WordedStatistics:
    """Put into words what a customer never asks for; figures beside the verdict, which never decide, among it."""
    return WordedStatistics(say_sides(result, mark), say_rule(result), say_figures(result, mark))


def say_sides(result: MeasureResult, mark: DecimalMark) -> tuple[WordedSides, ...]:
    """Both sides in a few figures; nothing where neither has a run."""
    before, after = result.summaries
    if before is None and after is None:
        return ()

    def row(name: str, one: float | None, other: float | None) -> WordedSides:
        return WordedSides(name, *("–" if value is None else figure(value, mark) for value in (one, other)))

    names = ("mean", "median", "sd", "low", "high")
    sentence = ("mean of all runs", "median", "standard deviation", "lowest", "highest")
    sides = [[None if side is None else getattr(side, name) for name in names] for side in (before, after)]
    runs = WordedSides("runs", *(str(0 if side is None else side.runs) for side in (before, after)))
    judged = row("mean of sittings, as judged", result.before_mean, result.after_mean)
    return (runs, judged, *(row(name, *pair) for name, pair in zip(sentence, zip(*sides, strict=True), strict=True)))


def say_rule(result: MeasureResult) -> str | None:
    """Say by which rule it was judged, and what its figures are in; None where no rule spoke."""
    basis = result.interval.basis if result.interval is not None else "exact" if result.exact_p is not None else None
    if basis is None:
        return None
    measure = result.measure
    unit = unit_of(difference_unit(measure)).display or "steps"
    scale = "on the scale of natural logarithms" if measure.scale == "ratio" else f"in {unit}"
    return f"{_RULES[basis]} Differences and intervals are {scale}, positive is better. Seven digits."


def say_figures(result: MeasureResult, mark: DecimalMark) -> tuple[WordedFigure, ...]:
    """Every figure behind a verdict that there is, in its order."""
    return tuple(WordedFigure(name, exact(value, mark)) for name, value in _figures(result) if value is not None)


def exact(value: float, mark: DecimalMark) -> str:
    """Write a figure as it was computed, to seven significant digits: what stands behind every rounded one."""
    text, _, exponent = f"{value:.{_DIGITS}g}".partition("e")
    written = text.replace(".", mark).replace("-", "−")
    return f"{written}e{int(exponent)}".replace("-", "−") if exponent else written


def _figures(result: MeasureResult) -> Iterable[tuple[str, float | None]]:
    interval, companions = result.interval, result.companions
    level = percent(0.95 if result.level is None else result.level)
    yield "mean before", result.before_mean
    yield "mean after", result.after_mean
    yield "gain, %", result.gain_percent
    yield "difference d", result.estimate
    if interval is not None:
        yield "scatter S", interval.sd
        yield "readings apart by q", result.sides.step
        if result.noise is not None and result.noise.coarse > 0:
            # Of each side's mean; with S it makes up the standard error.
            yield "shared rounding, q/√12", math.sqrt(result.noise.coarse)
        yield "standard error", interval.se
        yield "degrees of freedom", interval.df
        yield f"{level} low", interval.low
        yield f"{level} high", interval.high
        yield "90 % low", interval.low90
        yield "90 % high", interval.high90
    if not result.is_tested:
        return
    yield "p, by chance alone", result.p
    yield "p, among all tested", result.p_adjusted
    yield "p, the same", result.p_equivalence
    yield "e-value", interval.e_value if interval is not None else None
    yield "Hodges-Lehmann", companions.hodges_lehmann
    yield "p, Mann-Whitney", companions.mann_whitney_p
    yield "p, Welch", companions.welch_p
    yield "p, sign flips", companions.sign_flip_p
    yield "p, signed ranks", companions.signed_rank_p
    yield "least p, ranks of so few", result.least_rank_p
