"""Looking more than once: the plan's looks, other times between and after them, and the ledger that remembers."""

from collections.abc import Sequence
from dataclasses import replace
from datetime import timedelta

import numpy as np
from scipy.special import stdtrit

from lynxbill.core.record.frame import Case
from lynxbill.core.record.ids import SittingId
from lynxbill.core.record.plan import Order
from lynxbill.core.result.comparison import judge_measures, showings_of
from lynxbill.core.result.result import MeasureResult
from lynxbill.core.terms.measure import MeasureId
from lynxbill.prove.rates import CALLED, TINY, word_of
from lynxbill.prove.simulate import DAY, SCORE, B, C, make_case, plan_for
from lynxbill.rig.noise import Bench, side_readings


def two_looks(
    generator: np.random.Generator,
    replications: int,
    *,
    bench: Bench,
    looks: tuple[int, int],
    r: int = 3,
    before: int | None = None,
    scatter: float = 1.0,
    alternating: bool = False,
) -> int:
    """Two planned looks at a change that is none; `before` sittings stand before the swap (else as many as after)."""
    order: Order = "alternating" if alternating else "before_then_after"
    plan = replace(plan_for((SCORE,), looks[0], matters_from=TINY), at_most=looks[1], order=order)
    called = 0
    for _ in range(replications):
        sides = (
            side_readings(generator, bench, before or looks[1], r),
            side_readings(generator, bench, looks[1], r, scatter=scatter),
        )
        called += word_of(make_case([sides[0]], [sides[1]], plan=plan)) in CALLED
    return called


def ask(case: Case) -> tuple[Case, tuple[MeasureResult, ...]]:
    """Look at the verdicts, as a screen does: what is given goes into the ledger."""
    results = judge_measures(case)
    swap = case.swaps[0]
    at = DAY + timedelta(days=400 + len(swap.shown or ()))
    entries = showings_of(case, None, results, at=at, by="proof")
    if not entries:
        return case, results
    return replace(case, swaps=(replace(swap, shown=(*(swap.shown or ()), *entries)), *case.swaps[1:])), results


def so_far(whole: Case, before: int, after: int, ledger: Case | None = None) -> Case:
    """The case as it stood after so many sittings a side, with what was shown by then."""
    kept = {SittingId(f"{build}{n}") for build, count in ((B, before), (C, after)) for n in range(count)}
    sittings = tuple(s for s in whole.sittings if s.id in kept)
    runs = tuple(run for run in whole.runs if run.sitting_id in kept)
    swaps = ledger.swaps if ledger is not None else whole.swaps
    return replace(whole, sittings=sittings, runs=runs, swaps=swaps)


def asked_at(whole: Case, steps: Sequence[tuple[int, int]]) -> bool:
    """Whether anything is called to one who asks after every step, and stays called in the end."""
    case: Case | None = None
    called = False
    for before, after in steps:
        case, results = ask(so_far(whole, before, after, case))
        called = called or any(result.verdict.word in CALLED for result in results)
    return called


def whole_path(
    generator: np.random.Generator,
    replications: int,
    *,
    looks: tuple[int, int | None],
    alternating: bool,
    most: int = 10,
    scatter: float = 1.0,
) -> int:
    """Asked after every sitting: early, at the looks, between them and after, until ten a side."""
    order: Order = "alternating" if alternating else "before_then_after"
    plan = replace(plan_for((SCORE,), looks[0], matters_from=TINY), at_most=looks[1], order=order, pair_by="none")
    called = 0
    for _ in range(replications):
        before = most if alternating else looks[0]
        sides = (
            side_readings(generator, Bench(1.0), before, 1),
            side_readings(generator, Bench(1.0), most, 1, scatter=scatter),
        )
        whole = make_case([sides[0]], [sides[1]], plan=plan)
        steps = [(k if alternating else before, k) for k in range(3, most + 1)]
        called += asked_at(whole, steps)
    return called


def anytime_looks(generator: np.random.Generator, replications: int, *, planned: bool, last: int = 20) -> int:
    """Looks at 3 to 20 a side: with no look planned; or with one at three, and the anytime rule after it."""
    plan = plan_for((SCORE,), 3, matters_from=TINY)
    plan = replace(plan, pair_by="none", order="alternating", sittings_a_side=3 if planned else None)
    called = 0
    for _ in range(replications):
        sides = [side_readings(generator, Bench(0.0), last, 1) for _ in range(2)]
        whole = make_case([sides[0]], [sides[1]], plan=plan)
        called += any(word_of(so_far(whole, k, k)) in CALLED for k in range(3, last + 1))
    return called


def settles_unplanned(generator: np.random.Generator, replications: int, *, gain: float, measures: int = 5) -> int:
    """Nothing was planned, three sittings a side: how often one of five claims is called that gained so many sd."""
    claims = tuple(replace(SCORE, id=MeasureId(f"m{number}"), name=f"M{number}") for number in range(measures))
    plan = replace(plan_for(claims, 3, matters_from=TINY), sittings_a_side=None, pair_by="none")
    called = 0
    for _ in range(replications):
        before, after = (
            [
                side_readings(generator, Bench(0.0), 3, 1, gain=shift if number == 0 else 0.0)
                for number in range(measures)
            ]
            for shift in (0.0, gain)
        )
        called += word_of(make_case(before, after, plan=plan, measures=claims)) == "real_gain"
    return called


def naive_looks(generator: np.random.Generator, replications: int, *, last: int = 20) -> int:
    """What the product never does: each look is judged as if it were the only one; counted without the product."""
    called = np.zeros(replications, dtype=bool)
    readings = generator.standard_normal((replications, 2, last))
    for k in range(3, last + 1):
        sides = readings[:, :, :k]
        scatter = np.sqrt(sides.var(axis=2, ddof=1).mean(axis=1) * 2 / k)
        t = (sides[:, 1].mean(axis=1) - sides[:, 0].mean(axis=1)) / scatter
        called |= np.abs(t) > stdtrit(2 * k - 2, 0.975)
    return int(called.sum())
