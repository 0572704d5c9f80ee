"""A machine's past in words: every measure through all builds, and how much of what was lost came back."""

from collections.abc import Mapping
from dataclasses import dataclass

from lynxbill.core.candidates import Ranked
from lynxbill.core.measure import Measure
from lynxbill.core.quantity import unit_of
from lynxbill.core.restoring import BuildMean, HistoryLine, Recovered
from lynxbill.words.figures import LONG_S, DecimalMark, duration, figure, listed, shown, signed_percent


@dataclass(frozen=True, slots=True)
class SaidLine:
    """One line of the history: its unit once, and a mean for each of its points."""

    unit: str
    means: tuple[str, ...]


def say_line(line: HistoryLine, measure: Measure, mark: DecimalMark) -> SaidLine:
    """Put a line of the history into words; temperatures stand above the room wherever one was noted."""
    above = any(point.above_room for point in line.points)
    unit = unit_of(measure.unit).display
    means = tuple(_say_mean(point, above, unit, mark) for point in line.points)
    return SaidLine("K above the room" if above else unit, means)


def _say_mean(point: BuildMean, above: bool, unit: str, mark: DecimalMark) -> str:
    if above and not point.above_room:
        return f"{figure(point.mean, mark)} {unit}, room not noted"
    return duration(point.mean) if unit == "s" and point.mean >= LONG_S else figure(point.mean, mark)


def say_recovered(share: Recovered, names: Mapping[str, str], mark: DecimalMark) -> str:
    """Say how much of what was lost came back, and what that rests on."""
    name = names.get(share.measure, "?")
    if share.share is None:
        return f"{name}: less was lost than matters, so no share can be told."

    def whole(part: float) -> str:
        return shown(100 * part, 0, mark)

    ends = " (between which ends is not settled)"
    if share.low is not None and share.high is not None:
        ends = f" ({whole(share.low)} to {whole(share.high)} %)"
    bundle = f" by {listed(share.changes)} together" if len(share.changes) > 1 else ""
    grade = "" if share.as_new_measured else " As new was not measured here: it is remembered or claimed."
    room = " A room was not noted, so a warm day is in it." if share.room_missing else ""
    return f"{name}: {whole(share.share)} % of what was lost came back{ends}{bundle}.{grade}{room}"


@dataclass(frozen=True, slots=True)
class SaidCandidate:
    """What is expected of a candidate, for 10 units of currency, and what came of it."""

    expected: str
    per_10: str
    achieved: str


def say_candidate(ranked: Ranked, achieved: float | None, mark: DecimalMark) -> SaidCandidate:
    """Put a candidate's figures into words."""
    expected, per_10 = ranked.candidate.expected_gain, ranked.expected_per_10
    return SaidCandidate(
        "–" if expected is None else signed_percent(expected, 1 if expected % 1 else 0, mark),
        "–" if per_10 is None else f"{shown(per_10, 2, mark)} %",
        "–" if achieved is None else signed_percent(achieved, 1, mark),
    )
