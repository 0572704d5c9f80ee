"""How often a rule calls what is not there, simulated run by run and judged by the product's own core."""

from collections.abc import Callable
from dataclasses import replace

import numpy as np
from scipy.special import stdtrit

from lynxbill.core.record.frame import Case
from lynxbill.core.record.ids import BuildId, RunId, SittingId
from lynxbill.core.record.plan import Design, Order, Plan
from lynxbill.core.result.comparison import judge, judge_measures
from lynxbill.core.terms.measure import Measure, MeasureId, Scale
from lynxbill.prove.simulate import SCORE, B, C, make_case, plan_for
from lynxbill.rig.noise import LEVEL, Bench, side_readings

Count = Callable[[np.random.Generator, int], int]
TINY = 1e-6
CALLED = ("real_gain", "real_loss")
Sides = tuple[list[list[float]], list[list[float]]]


def word_of(case: Case) -> str:
    """The verdict on the first measure."""
    return judge_measures(case)[0].verdict.word


def false_alarms(
    generator: np.random.Generator,
    replications: int,
    *,
    bench: Bench,
    k: tuple[int, int],
    r: int,
    scatter: float = 1.0,
    reboots: float | None = None,
    runs_after: int | None = None,
    unit: float | None = None,
) -> int:
    """Nothing changed: how often a gain or loss is called real; `unit` is the step that readings come in."""
    # No pairs: where the two sides' counts of runs differ, the cut alone must make them alike.
    plan = replace(plan_for((SCORE,), k[1], matters_from=TINY), pair_by="none")
    measure = replace(SCORE, step=unit or SCORE.step)
    called = 0
    for _ in range(replications):
        before = side_readings(generator, bench, k[0], r)
        after = side_readings(generator, bench, k[1], runs_after or r, scatter=scatter, reboots=reboots)
        if unit is not None:
            before, after = (_rounded(side, unit) for side in (before, after))
        called += word_of(make_case([before], [after], plan=plan, measures=(measure,))) in CALLED
    return called


def _rounded(side: list[list[float]], unit: float) -> list[list[float]]:
    """Readings as a coarse instrument shows them, at worst: the true level lies just between two of its steps."""
    offset = unit / 2 - LEVEL % unit
    return [[unit * round((value + offset) / unit) for value in sitting] for sitting in side]


def paired_alarms(generator: np.random.Generator, replications: int, *, k: int, at_most: int | None = None) -> int:
    """Matched sittings that drift together."""
    plan = replace(plan_for((SCORE,), k, matters_from=TINY), design="paired", order="alternating", at_most=at_most)
    called = 0
    for _ in range(replications):
        pairs = at_most or k
        shared = 5.0 * np.cumsum(generator.standard_normal(pairs))
        sides = [
            [[value + shift for value in sitting] for sitting, shift in zip(side, shared, strict=True)]
            for side in (side_readings(generator, Bench(1.0), pairs, 3) for _ in range(2))
        ]
        called += called_at_looks([sides[0]], [sides[1]], plan, (SCORE,))
    return called


def called_at_looks(
    before: list[list[list[float]]], after: list[list[list[float]]], plan: Plan, measures: tuple[Measure, ...]
) -> bool:
    """Whether the whole evidence calls something at any of the plan's looks; asked late, they are taken in order."""
    return any(
        r.verdict.word in CALLED for r in judge_measures(make_case(before, after, plan=plan, measures=measures))
    )


def label_alarms(generator: np.random.Generator, replications: int, *, k: int, labels: int) -> int:
    """The same labelled inputs on both sides, each of a level of its own; one sitting a side is the guard's."""
    plan = replace(plan_for((SCORE,), k, matters_from=TINY), design="paired", pair_by="label", order="alternating")
    names = [f"input {number}" for number in range(labels)]
    called = 0
    for _ in range(replications):
        levels = 10.0 * generator.standard_normal(labels)
        sides = [
            [[value + level for value, level in zip(sitting, levels, strict=True)] for sitting in side]
            for side in (side_readings(generator, Bench(1.0), k, labels) for _ in range(2))
        ]
        called += word_of(make_case([sides[0]], [sides[1]], plan=plan, labels=names)) in CALLED
    return called


def ambient_alarms(generator: np.random.Generator, replications: int, *, k: int) -> int:
    """The same days on both sides in any order, matched by a room that moves the readings."""
    plan = replace(plan_for((SCORE,), k, matters_from=TINY), design="paired", pair_by="ambient")
    called = 0
    for _ in range(replications):
        days = generator.uniform(18, 28, k)
        rooms = {
            f"{build}{n}": float(room + 0.2 * generator.standard_normal())
            for build in (B, C)
            for n, room in enumerate(generator.permutation(days))
        }
        sides = [
            [
                [value + 2.0 * (rooms[f"{build}{n}"] - 22) for value in sitting]
                for n, sitting in enumerate(side_readings(generator, Bench(0.5), k, 3))
            ]
            for build in (B, C)
        ]
        called += word_of(make_case([sides[0]], [sides[1]], plan=plan, rooms=rooms)) in CALLED
    return called


def drifting_alarms(generator: np.random.Generator, replications: int, *, k: int) -> int:
    """A B B A while the machine drifts by half of what a reboot moves, each sitting."""
    plan = replace(plan_for((SCORE,), k, matters_from=TINY), order="abba")
    called = 0
    for _ in range(replications):
        sides = []
        for first in (0, 1):
            days = [2 * n + (first if n % 2 == 0 else 1 - first) for n in range(k)]
            side = side_readings(generator, Bench(1.0), k, 3)
            sides.append([[v + 0.5 * day for v in sitting] for sitting, day in zip(side, days, strict=True)])
        called += word_of(make_case([sides[0]], [sides[1]], plan=plan)) in CALLED
    return called


def exact_alarms(generator: np.random.Generator, replications: int, *, scale: Scale, k: int) -> int:
    """Steps of a scale, or passes, whose chance differs from boot to boot."""
    measure = replace(SCORE, scale=scale, unit="1", step=None, kind="felt")
    plan = plan_for((measure,), k, matters_from=1.0)
    called = 0
    for _ in range(replications):
        moved = generator.standard_normal((2, k, 1)) + generator.standard_normal((2, k, 3))
        steps = np.clip(np.round(3 + moved), 1, 5) if scale == "ordinal" else (moved > 0).astype(float)
        sides = steps.tolist()
        called += word_of(make_case([sides[0]], [sides[1]], plan=plan, measures=(measure,))) in CALLED
    return called


def borrowed_alarms(generator: np.random.Generator, replications: int) -> int:
    plan = replace(plan_for((SCORE,), 2, matters_from=TINY), borrow_spread_from=(BuildId("A"),))
    called = 0
    for _ in range(replications):
        before, after = (side_readings(generator, Bench(1.0), 2, 3) for _ in range(2))
        lent = side_readings(generator, Bench(1.0), 4, 3, gain=40.0)
        called += word_of(_with_lender(make_case([before], [after], plan=plan), lent, plan)) in CALLED
    return called


def _with_lender(case: Case, lent: list[list[float]], plan: Plan) -> Case:
    lender = make_case([lent], [[]], plan=plan)
    return replace(
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


def wrong_no_change(
    generator: np.random.Generator,
    replications: int,
    *,
    k: int,
    at_most: int | None = None,
    scatter: float = 1.0,
    step: float | None = None,
    design: Design = "side_by_side",
) -> int:
    """
    The true change is just what matters: how often it is called no change.

    `step` is the step that readings come in, as a multiple of the scatter of units; both true levels are anywhere in
    it: a margin of whole steps would round alike on both sides, and no error would show.
    """
    bench = Bench(0.5)
    sd = np.sqrt(0.5**2 + 1 / 3 * 1.35)
    q = step * sd if step else None
    order: Order = "before_then_after" if design == "side_by_side" else "alternating"
    measure = replace(SCORE, step=q or SCORE.step)
    called = 0
    for _ in range(replications):
        margin = 2.0 if q is None else q * float(generator.uniform(4, 5))
        plan = replace(plan_for((SCORE,), k, matters_from=margin), at_most=at_most, design=design, order=order)
        count = at_most or k
        level = float(generator.uniform(0, q)) if q else 0.0
        before = side_readings(generator, bench, count, 3, gain=level)
        after = side_readings(generator, bench, count, 3, gain=level + margin, scatter=scatter)
        if q:
            before, after = ([[q * round(v / q) for v in s] for s in side] for side in (before, after))
        case = make_case([before], [after], plan=plan, measures=(measure,))
        called += word_of(case) == "no_change"
    return called


def missed_interval(
    generator: np.random.Generator, replications: int, *, k: int, step: float, design: Design = "side_by_side"
) -> int:
    """Readings in coarse steps: how often the interval misses a true change that may lie anywhere between two."""
    bench = Bench(0.5)
    q = step * float(np.sqrt(0.5**2 + 1 / 3 * 1.35))
    order: Order = "before_then_after" if design == "side_by_side" else "alternating"
    plan = replace(plan_for((SCORE,), k, matters_from=TINY), design=design, order=order)
    measure = replace(SCORE, step=q)
    missed = 0
    for _ in range(replications):
        level, gain = (float(generator.uniform(0, q)) for _ in range(2))
        sides = (side_readings(generator, bench, k, 3, gain=g) for g in (level, level + gain))
        before, after = ([[q * round(v / q) for v in s] for s in side] for side in sides)
        interval = judge_measures(make_case([before], [after], plan=plan, measures=(measure,)))[0].interval
        assert interval is not None
        missed += not interval.low <= gain <= interval.high
    return missed


def on_unnoted_grid(
    generator: np.random.Generator, replications: int, *, grid: float, share: float, at_margin: bool
) -> int:
    """
    Readings in steps that nobody noted, with a scatter of units of `share` of a step, at 3 + 3.

    At the margin: how often the change is called no change; else how often the interval misses it.
    """
    scale = share * grid / float(np.sqrt(0.5**2 + 1 / 3 * 1.35))
    measure = replace(SCORE, step=None)
    wrong = 0
    for _ in range(replications):
        level = LEVEL + float(generator.uniform(0, grid))
        gain = grid * float(generator.uniform(4, 5) if at_margin else generator.uniform(0, 1))
        noises = (np.array(side_readings(generator, Bench(0.5), 3, 3)) - LEVEL for _ in range(2))
        sides = (level + shift + scale * noise for shift, noise in zip((0.0, gain), noises, strict=True))
        before, after = ((grid * np.round(side / grid)).tolist() for side in sides)
        plan = plan_for((SCORE,), 3, matters_from=gain if at_margin else TINY)
        (result,) = judge_measures(make_case([before], [after], plan=plan, measures=(measure,)))
        assert result.interval is not None
        missed = not result.interval.low <= gain <= result.interval.high
        wrong += result.verdict.word == "no_change" if at_margin else missed
    return wrong


def family_alarms(
    generator: np.random.Generator,
    replications: int,
    *,
    correlation: float = 0.0,
    scatter: float = 1.0,
    measures: int = 12,
) -> int:
    """Many claims read in the same runs: how often any of them is called."""
    claims = tuple(replace(SCORE, id=MeasureId(f"m{number}"), name=f"M{number}") for number in range(measures))
    plan = plan_for(claims, 3, matters_from=TINY)
    called = 0
    for _ in range(replications):
        sides = []
        for noise in (1.0, scatter):
            shared = generator.standard_normal((1, 3, 2)) + generator.standard_normal((1, 3, 1))
            own = generator.standard_normal((measures, 3, 2)) + generator.standard_normal((measures, 3, 1))
            mixed = np.sqrt(correlation) * shared + np.sqrt(1 - correlation) * own
            sides.append((100 + noise * mixed).tolist())
        called += called_at_looks(sides[0], sides[1], plan, claims)
    return called


def flagged(
    generator: np.random.Generator, replications: int, *, code: str, make: Callable[[np.random.Generator], Sides]
) -> int:
    """How often a flag is raised on readings that `make` makes."""
    count = 0
    for _ in range(replications):
        before, after = make(generator)
        plan = plan_for((SCORE,), max(1, len(after)), matters_from=TINY)
        flags = judge(make_case([before], [after], plan=plan)).measures[0].flags
        count += any(flag.code == code for flag in flags)
    return count


def run_level(generator: np.random.Generator, replications: int) -> int:
    """What the product never does: it must show that the simulated reboots are there."""
    readings = generator.standard_normal((replications, 2, 10)) + generator.standard_normal((replications, 2, 1))
    means, variances = readings.mean(axis=2), readings.var(axis=2, ddof=1)
    t = (means[:, 1] - means[:, 0]) / np.sqrt(variances.mean(axis=1) * 2 / 10)
    return int(np.sum(np.abs(t) > stdtrit(18, 0.975)))
