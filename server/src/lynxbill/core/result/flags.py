"""Flags: what a technician should look at. They inform; they never change data or verdict."""

import math
from collections.abc import Callable, Iterator, Sequence
from dataclasses import dataclass
from statistics import median
from typing import Literal

from scipy.special import fdtrc

from lynxbill.core.change.context import Side
from lynxbill.core.judgement.sitting import Sides, SittingUnit
from lynxbill.core.judgement.verdict import VerdictWord
from lynxbill.core.plan.conditions import Departure
from lynxbill.core.statistics.estimate import Estimate, t_quantile, variances_differ
from lynxbill.core.statistics.scatter import Scatter, mean_of, pool, squares_around_mean

FlagCode = Literal[
    "too_few_runs",
    "odd_run",
    "cold_first_run",
    "unequal_noise",
    "drift_within_sittings",
    "drift_across_sittings",
    "one_sitting_decides",
    "few_sittings",
    "reboots_matter",
    "too_coarse",
    "cannot_settle",
    "control_moved",
    "conditions_differ",
    "several_changes",
    "ambient_missing",
    "room_noted_late",
    "told_values",
    "recipe_differs",
    "left_out_late",
    "throttled",
    "disturbed",
    "above_ceiling",
    "within_noise_floor",
    "rests_on_pairing",
    "rests_on_mounts",
    "does_not_load_it",
    "sittings_close",
    "boots_unknown",
    "one_mount",
    "block_order",
    "changed_after_verdict",
    "corrected_late",
    "closed_short",
    "history_unknown",
    "margin_changed",
]
LEVEL = 0.01
ENOUGH_TO_DROP_ONE = 5


@dataclass(frozen=True, slots=True)
class Flag:
    """
    What was seen; of the rest as much as the code needs.

    Attributes:
        side, sitting, run: where it was seen; sittings and runs are numbered as they were taken.
        count: how many values, runs, sittings or mounts it is about.
        names: the causes, controls or changes that it is about.
        runs: of each side, of how many of its runs it is true, and all of them.
        word: the verdict that stood before, or would stand otherwise.
        figures: a share in percent; the first run's lead over the others, oriented; the first margin and the last.
        departures: how the sides differ.
    """

    code: FlagCode
    side: Side | None = None
    sitting: int = 0
    run: int = 0
    count: int = 0
    names: tuple[str, ...] = ()
    runs: tuple[tuple[int, int], ...] = ()
    word: VerdictWord | None = None
    figures: tuple[float, ...] = ()
    departures: tuple[Departure, ...] = ()


def reading_flags(sides: Sides, interval: Estimate | None, measures: int) -> tuple[Flag, ...]:
    """
    Look through the readings of one measure.

    Args:
        sides: its units on both sides after the cut.
        interval: the rule that decided, for its scatter.
        measures: how many measures are looked through; the level of 1 % a flag is divided by it.
    Source: docs/judgement.md, "Flags".
    """
    units = sides.units
    if not sides.before or not sides.after:
        return ()
    level = LEVEL / max(1, measures)
    within = _within(sides.before), _within(sides.after)
    found = [
        *_odd_runs(sides, within[0].joined(within[1]), level),
        *_cold_first_run(units, level),
        *_unequal_noise(*within, level),
        *_drift_within(units, level),
        *_drift_across(sides, level),
        *_reboots(sides, within[0].joined(within[1])),
    ]
    if interval is not None and sides.step >= interval.sd > 0:
        found.append(Flag("too_coarse"))
    return tuple(found)


def drop_one_flag(
    before: Sequence[float], after: Sequence[float], word: str, judge: Callable[[list[float], list[float]], str]
) -> Flag | None:
    """
    Ask whether one sitting decides: whether the verdict falls when any one is left out.

    Args:
        before, after: oriented units.
        word: the verdict with all of them.
        judge: judges two lists of units to a word.
    Returns: below five sittings a side a remark that so few were taken; None where every sitting can be spared.
    """
    if min(len(before), len(after)) < ENOUGH_TO_DROP_ONE:
        return Flag("few_sittings")
    for side, other, ahead in ((before, after, True), (after, before, False)):
        for index in range(len(side)):
            rest = [unit for place, unit in enumerate(side) if place != index]
            left = judge(rest, list(other)) if ahead else judge(list(other), rest)
            if left != word:
                return Flag("one_sitting_decides", side="before" if ahead else "after", sitting=index + 1)
    return None


def _odd_runs(sides: Sides, within: Scatter, level: float) -> Iterator[Flag]:
    """Deleted studentised residuals from the sitting's mean; R. D. Cook and S. Weisberg, Residuals (1982)."""
    sittings = [values for unit in sides.units for values in unit.by_sitting]
    runs = sum(map(len, sittings))
    df = within.df - 1
    if df < 1 or within.squares == 0:
        return
    limit = t_quantile(1 - level / (2 * runs), df)
    # All sittings have the same number of runs, so one largest residual serves them all.
    share = 1 - 1 / len(sittings[0])
    largest = limit * math.sqrt(share * within.squares / (df + limit**2))
    named: tuple[tuple[Side, tuple[SittingUnit, ...]], ...] = (("before", sides.before), ("after", sides.after))
    for name, side in named:
        for number, unit in enumerate(side, start=1):
            means = [mean for values in unit.by_sitting for mean in [mean_of(values)] * len(values)]
            for run, value, mean in zip(unit.runs, unit.values, means, strict=True):
                if abs(value - mean) > largest:
                    yield Flag("odd_run", side=name, sitting=number, run=run.position)


def _cold_first_run(units: Sequence[SittingUnit], level: float) -> Iterator[Flag]:
    sittings = [values for unit in units for values in unit.by_sitting]
    gaps = [values[0] - mean_of(values[1:]) for values in sittings if len(values) > 1]
    if len(gaps) < 3:
        return
    if _t_of_mean(gaps) > t_quantile(1 - level / 2, len(gaps) - 1):
        yield Flag("cold_first_run", figures=(mean_of(gaps),))


def _unequal_noise(before: Scatter, after: Scatter, level: float) -> Iterator[Flag]:
    if min(before.squares, after.squares) > 0 and variances_differ(before, after, level=level):
        yield Flag("unequal_noise", side="after" if after.variance > before.variance else "before")


def _drift_within(units: Sequence[SittingUnit], level: float) -> Iterator[Flag]:
    series = [values for unit in units for values in unit.by_sitting if len(values) >= 4]
    if series and _common_slope_t(series, level):
        yield Flag("drift_within_sittings")


def _drift_across(sides: Sides, level: float) -> Iterator[Flag]:
    series = [tuple(unit.unit for unit in side) for side in (sides.before, sides.after) if len(side) >= 3]
    if series and _common_slope_t(series, level):
        yield Flag("drift_across_sittings")


def _reboots(sides: Sides, within: Scatter) -> Iterator[Flag]:
    """Between-sitting against within-sitting variance, sides apart; information, so at 5 %."""
    between, df_between = 0.0, 0
    for side in (sides.before, sides.after):
        means = pool([[mean_of(unit.values) for unit in side]])
        between += len(side[0].by_sitting[0]) * means.squares
        df_between += means.df
    if df_between < 1 or within.df < 1 or within.squares == 0:
        return
    if float(fdtrc(df_between, within.df, (between / df_between) / within.variance)) < 0.05:
        yield Flag("reboots_matter")


def _common_slope_t(series: Sequence[Sequence[float]], level: float) -> bool:
    """Whether a slope common to all series, each around its own mean, is beyond chance."""
    cross = spread = total = 0.0
    for values in series:
        middle, mean = (len(values) - 1) / 2, mean_of(values)
        from_mean = [value - mean for value in values]
        cross += math.fsum([(place - middle) * gap for place, gap in enumerate(from_mean)])
        spread += len(values) * (len(values) ** 2 - 1) / 12
        total += math.fsum([gap * gap for gap in from_mean])
    df = sum(len(values) for values in series) - len(series) - 1
    slope = cross / spread
    rest = total - slope * cross
    if df < 1 or total == 0:
        return False
    if rest <= 1e-12 * total:
        return True
    return abs(slope) / math.sqrt(rest / df / spread) > t_quantile(1 - level / 2, df)


def _within(units: Sequence[SittingUnit]) -> Scatter:
    """The scatter of runs within their sittings, whatever their rounding."""
    return pool([values for unit in units for values in unit.by_sitting])


def _t_of_mean(values: Sequence[float]) -> float:
    mean = mean_of(values)
    squares = squares_around_mean(values)
    if squares <= 1e-24 * len(values) * max(1.0, median(abs(v) for v in values) ** 2):
        return math.inf if mean else 0.0
    return abs(mean) / math.sqrt(squares / (len(values) - 1) / len(values))
