"""What is simulated and counted, cell by cell, with the limits that the counted rate must keep."""

from collections.abc import Callable, Iterator
from dataclasses import dataclass, replace
from decimal import Decimal
from functools import partial
from typing import TypeVar

import numpy as np
from scipy.special import stdtrit

from lynxbill.core.case import BuildId, Case, RunId, SittingId
from lynxbill.core.comparison import judge, judge_measures
from lynxbill.core.measure import Measure, MeasureId
from lynxbill.core.money import CostLine
from lynxbill.core.result import Comparison
from lynxbill.prove.simulate import (
    LEVEL,
    SCORE,
    Bench,
    autocorrelated,
    heavy_tailed,
    make_case,
    normal,
    outlying,
    plan_for,
    side_readings,
    skewed,
)

Item = TypeVar("Item")
Count = Callable[[np.random.Generator, int], int]
TINY = 1e-6
FIRST_LOOK, LAST_LOOK = 3, 20
CALLED = ("real_gain", "real_loss")


@dataclass(frozen=True, slots=True)
class Cell:
    """`count` answers how often the event happened in so many replications; its rate must lie in [low, high]."""

    group: str
    name: str
    count: Count
    low: float
    high: float


def all_cells() -> tuple[Cell, ...]:
    """Every cell of the proof."""
    return (
        *_planned_cells(),
        *_nuisance_cells(),
        *_unequal_cells(),
        *_design_cells(),
        *_rule_cells(),
        *_guard_cells(),
        *_margin_cells(),
        *_family_cells(),
        *_looking_cells(),
        *_flag_cells(),
        *_money_cells(),
        Cell("negative control", "t test on the runs of one sitting, n 10, tau 1", _run_level, 0.50, 0.57),
        Cell("negative control", "looking at 3 to 20 with the plain t", partial(_looks, rule="naive"), 0.20, 0.24),
    )


def _planned_cells() -> Iterator[Cell]:
    for k in (2, 3, 5):
        for r in (2, 3):
            for tau in (0.0, 0.5, 1.0, 2.0):
                count = partial(_false_alarms, bench=Bench(tau), k=(k, k), r=r)
                yield Cell("planned", f"{k} + {k} sittings, {r} runs, tau {tau:g}", count, 0.045, 0.055)


def _nuisance_cells() -> Iterator[Cell]:
    benches = {
        "heavy tails": Bench(1.0, heavy_tailed),
        "skewed": Bench(1.0, skewed),
        "autocorrelated": Bench(1.0, autocorrelated),
        "outliers": Bench(1.0, outlying),
        "cold first run": Bench(1.0, normal, cold=2.0),
        "drift within sittings": Bench(1.0, normal, drift=0.5),
    }
    for name, bench in benches.items():
        for k in (2, 3, 5):
            count = partial(_false_alarms, bench=bench, k=(k, k), r=3)
            yield Cell("nuisance", f"{name}, {k} + {k}", count, 0.0, 0.057)


def _unequal_cells() -> Iterator[Cell]:
    for k in ((2, 4), (3, 6)):
        for scatter in (0.5, 1.0, 2.0):
            count = partial(_false_alarms, bench=Bench(1.0), k=k, r=3, scatter=scatter)
            yield Cell("unequal", f"{k[0]} + {k[1]}, after-side scatters {scatter:g} times", count, 0.0, 0.07)


def _design_cells() -> Iterator[Cell]:
    """Matched sittings whose pairs share a shift, and a scatter that a third build lends."""
    for k in (3, 5):
        yield Cell("paired", f"{k} pairs that drift together", partial(_paired_alarms, k=k), 0.045, 0.055)
    yield Cell("borrowed", "2 + 2 sittings, scatter of 4 more lent by another build", _borrowed_alarms, 0.045, 0.055)


def _rule_cells() -> Iterator[Cell]:
    """Cells that miss their limits as soon as the cut to equal length or the floor of rounding is taken away."""
    cold = partial(_false_alarms, bench=Bench(0.25, cold=3.0), k=(3, 3), r=3, runs_after=7)
    yield Cell("cut and floor", "3 runs against 7, cold first run", cold, 0.0, 0.057)
    coarse = partial(_false_alarms, bench=Bench(0.0), k=(2, 2), r=3, unit=4.0)
    yield Cell("cut and floor", "steps four times the scatter, level between two", coarse, 0.0, 0.057)


def _guard_cells() -> Iterator[Cell]:
    for noise in (normal, heavy_tailed, skewed, outlying):
        for n in (3, 10):
            for tau in (0.0, 1.0, 2.0):
                count = partial(_false_alarms, bench=Bench(tau, noise), k=(1, 1), r=n)
                name = noise.__name__.replace("_", " ")
                yield Cell("one sitting a side", f"{name}, {n} runs, tau {tau:g}", count, 0.0, 0.06)


def _margin_cells() -> Iterator[Cell]:
    for k in (3, 5):
        yield Cell(
            "no change", f"true change just at the margin, {k} + {k}", partial(_wrong_no_change, k=k), 0.0, 0.056
        )


def _family_cells() -> Iterator[Cell]:
    for correlation in (0.0, 0.5, 0.9):
        count = partial(_family_alarms, correlation=correlation)
        yield Cell("families", f"any of 12 measures, correlation {correlation:g}", count, 0.0, 0.055)


def _looking_cells() -> Iterator[Cell]:
    name = f"looks at {FIRST_LOOK} to {LAST_LOOK}"
    yield Cell("anytime", f"{name}, from e 20", partial(_looks, rule="early"), 0.0, 0.05)
    yield Cell(
        "anytime", f"planned at {FIRST_LOOK}, then {name} from e 40", partial(_looks, rule="planned"), 0.0, 0.057
    )


def _flag_cells() -> Iterator[Cell]:
    for code in ("odd_run", "cold_first_run", "unequal_noise", "drift_within_sittings", "drift_across_sittings"):
        yield Cell("flags", f"{code.replace('_', ' ')} on clean readings", partial(_flagged, code=code), 0.005, 0.015)


def _money_cells() -> Iterator[Cell]:
    yield Cell("overall", "interval of two claims misses no gain", _overall_misses, 0.045, 0.055)
    yield Cell("value", "interval misses the true value", _value_misses, 0.0, 0.06)


def _false_alarms(
    generator: np.random.Generator,
    replications: int,
    *,
    bench: Bench,
    k: tuple[int, int],
    r: int,
    scatter: float = 1.0,
    runs_after: int | None = None,
    unit: float | None = None,
) -> int:
    """Nothing changed: how often a gain or loss is called real; `unit` is the step that readings come in."""
    # No pairs: where the two sides' counts of runs differ, the cut alone must make them alike.
    plan = replace(plan_for((SCORE,), min(k), matters_from=TINY), pair_by="none")
    measure = replace(SCORE, step=unit or SCORE.step)
    called = 0
    for _ in range(replications):
        before = side_readings(generator, bench, k[0], r)
        after = side_readings(generator, bench, k[1], runs_after or r, scatter=scatter)
        if unit is not None:
            before, after = (_rounded(side, unit) for side in (before, after))
        called += _word(make_case([before], [after], plan=plan, measures=(measure,))) in CALLED
    return called


def _paired_alarms(generator: np.random.Generator, replications: int, *, k: int) -> int:
    plan = replace(plan_for((SCORE,), k, matters_from=TINY), design="paired")
    called = 0
    for _ in range(replications):
        shared = 5.0 * np.cumsum(generator.standard_normal(k))
        sides = [
            [[value + shift for value in sitting] for sitting, shift in zip(side, shared, strict=True)]
            for side in (side_readings(generator, Bench(1.0), k, 3) for _ in range(2))
        ]
        called += _word(make_case([sides[0]], [sides[1]], plan=plan)) in CALLED
    return called


def _borrowed_alarms(generator: np.random.Generator, replications: int) -> int:
    plan = replace(plan_for((SCORE,), 2, matters_from=TINY), borrow_spread_from=(BuildId("A"),))
    called = 0
    for _ in range(replications):
        before, after = (side_readings(generator, Bench(1.0), 2, 3) for _ in range(2))
        lent = side_readings(generator, Bench(1.0), 4, 3, gain=40.0)
        case = make_case([before], [after], plan=plan)
        lender = make_case([lent], [[]], plan=plan)
        case = replace(
            case,
            builds=(*case.builds, replace(case.builds[0], id=BuildId("A"))),
            sittings=(
                *case.sittings,
                *(replace(s, id=SittingId(f"A{s.id}"), build_id=BuildId("A")) for s in lender.sittings),
            ),
            runs=(
                *case.runs,
                *(replace(r, id=RunId(f"A{r.id}"), sitting_id=SittingId(f"A{r.sitting_id}")) for r in lender.runs),
            ),
        )
        called += _word(case) in CALLED
    return called


def _rounded(side: list[list[float]], unit: float) -> list[list[float]]:
    """Readings as a coarse instrument shows them, at worst: the true level lies just between two of its steps."""
    offset = unit / 2 - LEVEL % unit
    return [[unit * round((value + offset) / unit) for value in sitting] for sitting in side]


def _word(case: Case) -> str:
    return judge_measures(case)[0].verdict.word


def _wrong_no_change(generator: np.random.Generator, replications: int, *, k: int) -> int:
    margin, bench = 2.0, Bench(0.5)
    plan = plan_for((SCORE,), k, matters_from=margin)
    called = 0
    for _ in range(replications):
        sides = side_readings(generator, bench, k, 3), side_readings(generator, bench, k, 3, gain=margin)
        called += _word(make_case([sides[0]], [sides[1]], plan=plan)) == "no_change"
    return called


def _family_alarms(generator: np.random.Generator, replications: int, *, correlation: float) -> int:
    measures = tuple(replace(SCORE, id=MeasureId(f"m{number}"), name=f"M{number}") for number in range(12))
    plan = plan_for(measures, 3, matters_from=TINY)
    called = 0
    for _ in range(replications):
        sides = []
        for _side in range(2):
            shared = generator.standard_normal((1, 3, 2))
            own = generator.standard_normal((12, 3, 2))
            sides.append((100 + np.sqrt(correlation) * shared + np.sqrt(1 - correlation) * own).tolist())
        results = judge_measures(make_case(sides[0], sides[1], plan=plan, measures=measures))
        called += any(result.verdict.word in CALLED for result in results)
    return called


def _looks(generator: np.random.Generator, replications: int, *, rule: str) -> int:
    """
    Sittings come in one by one and are looked at each time: how often any look calls.

    `early` plans more sittings than ever come; `planned` plans the first look, whose verdict is then remembered as
    shown; `naive` plans no number, so that every look is judged as if it were the only one.
    """
    plan = plan_for((SCORE,), LAST_LOOK + 1 if rule == "early" else FIRST_LOOK, matters_from=TINY)
    plan = replace(plan, pair_by="none", sittings_a_side=None if rule == "naive" else plan.sittings_a_side)
    called = 0
    for _ in range(replications):
        sides = [side_readings(generator, Bench(0.0), LAST_LOOK, 1) for _ in range(2)]
        whole = make_case([sides[0]], [sides[1]], plan=plan)
        called += any(_word(_so_far(whole, k, rule)) in CALLED for k in range(FIRST_LOOK, LAST_LOOK + 1))
    return called


def _so_far(whole: Case, sittings_a_side: int, rule: str) -> Case:
    """The case as it stood after so many sittings a side, each of one run."""

    def first(items: tuple[Item, ...], count: int) -> tuple[Item, ...]:
        return items[:count] + items[LAST_LOOK : LAST_LOOK + count]

    swap = whole.swaps[0]
    if rule == "planned" and sittings_a_side > FIRST_LOOK:
        shown = first(whole.sittings, FIRST_LOOK)
        swap = replace(swap, verdict_shown_for={SCORE.id: tuple(sitting.id for sitting in shown)})
    sittings, runs = first(whole.sittings, sittings_a_side), first(whole.runs, sittings_a_side)
    return replace(whole, sittings=sittings, runs=runs, swaps=(swap,))


def _flagged(generator: np.random.Generator, replications: int, *, code: str) -> int:
    plan, bench = plan_for((SCORE,), 3, matters_from=TINY), Bench(0.0)
    count = 0
    for _ in range(replications):
        sides = [side_readings(generator, bench, 3, 5) for _ in range(2)]
        flags = judge(make_case([sides[0]], [sides[1]], plan=plan)).measures[0].flags
        count += any(flag.code == code for flag in flags)
    return count


_TIMES = tuple(
    Measure(MeasureId(f"t{number}"), f"T{number}", "job", "s", "ratio", "time", "lower", step=1e-9)
    for number in range(2)
)


def _overall_misses(generator: np.random.Generator, replications: int) -> int:
    missed = 0
    for _ in range(replications):
        overall = _judge_times(generator, 0.0, ()).overall
        assert overall is not None
        assert overall.estimate is not None
        missed += not overall.estimate.low <= 0 <= overall.estimate.high
    return missed


def _value_misses(generator: np.random.Generator, replications: int) -> int:
    """A true speed gain of 10 % for exactly 100: 1 % for every 10."""
    cost = CostLine("part", "Part", Decimal("100.00"), "EUR")
    missed = 0
    for _ in range(replications):
        value = _judge_times(generator, float(np.log(1.1)), (cost,)).bill.value
        low, high = value.low, value.high
        missed += (low is not None and low > 1.0) or (high is not None and high < 1.0)
    return missed


def _judge_times(generator: np.random.Generator, gain: float, costs: tuple[CostLine, ...]) -> Comparison:
    """Two times of the same sittings; a reboot moves both together."""
    sides = []
    for shift in (0.0, -gain):
        reboot = 0.01 * generator.standard_normal((1, 3, 1))
        sides.append((40 * np.exp(shift + reboot + 0.01 * generator.standard_normal((2, 3, 3)))).tolist())
    plan = plan_for(_TIMES, 3, matters_from=2.0)
    return judge(make_case(sides[0], sides[1], plan=plan, measures=_TIMES, costs=costs))


def _run_level(generator: np.random.Generator, replications: int) -> int:
    """What the product never does: it must show that the simulated reboots are there."""
    readings = generator.standard_normal((replications, 2, 10)) + generator.standard_normal((replications, 2, 1))
    means, variances = readings.mean(axis=2), readings.var(axis=2, ddof=1)
    t = (means[:, 1] - means[:, 0]) / np.sqrt(variances.mean(axis=1) * 2 / 10)
    return int(np.sum(np.abs(t) > stdtrit(18, 0.975)))
