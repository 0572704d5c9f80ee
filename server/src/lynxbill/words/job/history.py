"""A machine's past in words: every measure through all builds, and how much of what was lost came back."""

from collections.abc import Mapping
from dataclasses import dataclass

from lynxbill.core.change.candidates import Ranked
from lynxbill.core.record.frame import Frame
from lynxbill.core.result.restoring import BuildMean, HistoryLine, Recovered
from lynxbill.core.result.wear import Wear
from lynxbill.core.terms.measure import Measure, difference_unit
from lynxbill.core.terms.quantity import unit_of
from lynxbill.words.base.figures import (
    LONG_S,
    DecimalMark,
    decimals_for,
    duration,
    figure,
    listed,
    shown,
    signed_percent,
)
from lynxbill.words.heat.heat import ALIKE_K
from lynxbill.words.money.account import day


@dataclass(frozen=True, slots=True)
class WordedLine:
    """One line of the history: its unit once, and a mean for each of its points."""

    unit: str
    means: tuple[str, ...]


def say_line(line: HistoryLine, measure: Measure, mark: DecimalMark) -> WordedLine:
    """Put a line of the history into words; temperatures stand above the room wherever one was noted."""
    above = any(point.above_room for point in line.points)
    unit = unit_of(measure.unit).display
    means = tuple(_say_mean(point, above, unit, mark) for point in line.points)
    return WordedLine("K above the room" if above else unit, means)


def _say_mean(point: BuildMean, above: bool, unit: str, mark: DecimalMark) -> str:
    if above and not point.above_room:
        return f"{figure(point.mean, mark)} {unit}, room not noted"
    return duration(point.mean) if unit == "s" and point.mean >= LONG_S else figure(point.mean, mark)


def say_recovered(share: Recovered, names: Mapping[str, str], mark: DecimalMark) -> str:
    """Say how much of what was lost came back, and what that rests on."""
    name = names.get(share.measure, "?")
    if share.loss_hidden:
        return f"{name}: the loss does not stand out of the scatter, so no share of it can be told."
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
    # Beyond new nothing can come back: something else than the wear was changed, or new was measured otherwise.
    beyond = " Better than new: more than the wear was changed." if share.share > 1 else ""
    return f"{name}: {whole(share.share)} % of what was lost came back{ends}{bundle}.{beyond}{grade}{room}"


def say_steps(line: HistoryLine, measure: Measure, case: Frame, mark: DecimalMark) -> str | None:
    """
    Say what each step of the ladder had of a change of heat: "of 14.7 K from A to C, Dust out brought 6.0 K (41 %)".

    None for what is no heat, and where fewer than two steps were measured on both their builds.
    """
    if measure.kind != "heat":
        return None
    means = {point.build: point.mean for point in line.points if not point.recheck}
    steps = [
        (swap.label, means[swap.before] - means[swap.after])
        for swap in case.swaps
        if swap.before in means and swap.after in means
    ]
    measured = [build for build in case.builds if build.id in means]
    if len(steps) < 2 or len(steps) != len(measured) - 1:
        return None
    whole = sum(change for _, change in steps)
    # Shares are told where all steps go the same way: of a sum of gains and losses they mean nothing.
    as_shares = all(change * whole > 0 for _, change in steps)
    sentences = [
        f"“{label}” {_kelvin(change, mark)}{f' ({shown(100 * change / whole, 0, mark)} %)' if as_shares else ''}"
        for label, change in steps
    ]
    first, last = measured[0].letter, measured[-1].letter
    return f"{measure.name}, {first} to {last}: {_kelvin(whole, mark)} in all; {listed(sentences)}."


def _kelvin(change: float, mark: DecimalMark) -> str:
    if abs(change) < ALIKE_K:
        return "as warm as before"
    return f"{shown(abs(change), 1, mark)} K {'cooler' if change >= 0 else 'hotter'}"


def say_wear(wear: Wear, measure: Measure, letter: str, mark: DecimalMark) -> str:
    """Say how a heat crept up on a build over its visits, and when it passes what is permitted at that pace."""
    slope, unit = wear.slope, unit_of(difference_unit(measure)).display
    decimals = decimals_for((slope.high - slope.low) / 2)
    ends = f"{shown(slope.low, decimals, mark)} to {shown(slope.high, decimals, mark)}"
    over = f"{slope.sittings} sittings over {shown(slope.years, 1, mark)} years"
    at = "" if slope.power_w is None else f" at {shown(slope.power_w, 0, mark)} W"
    head = f"{measure.name}{at} on build {letter}"
    if slope.low <= 0 <= slope.high:
        return f"{head}: no wear shown, between {ends} {unit} a year, {over}."
    way = "less" if slope.per_year < 0 else "more"
    sentence = f"{head}: {shown(abs(slope.per_year), decimals, mark)} {unit} {way} a year ({ends}), {over}."
    if slope.passes is None or slope.limit is None:
        return sentence
    return f"{sentence} At that pace it passes {shown(slope.limit, 0, mark)} {unit} about {day(slope.passes.date())}."


@dataclass(frozen=True, slots=True)
class WordedCandidate:
    """What is expected of a candidate, for 10 units of currency, and what came of it."""

    expected: str
    per_10: str
    achieved: str


def say_candidate(ranked: Ranked, achieved: float | None, mark: DecimalMark) -> WordedCandidate:
    """Put a candidate's figures into words."""
    expected, per_10 = ranked.candidate.expected_gain, ranked.expected_per_10
    return WordedCandidate(
        "–" if expected is None else signed_percent(expected, 1 if expected % 1 else 0, mark),
        "–" if per_10 is None else f"{shown(per_10, 2, mark)} %",
        "–" if achieved is None else signed_percent(achieved, 1, mark),
    )
