"""What is simulated and counted, cell by cell, with the limits that the counted rate must keep."""

import math
from collections.abc import Callable, Iterator, Sequence
from dataclasses import dataclass, replace
from functools import partial
from itertools import product

import numpy as np

from lynxbill.core.heat.roles import SENSED
from lynxbill.core.record.plan import Design, Plan
from lynxbill.core.result.settling import WayName
from lynxbill.prove import forks, hands, heat, marks, paths, rates, worth
from lynxbill.prove.rates import TINY
from lynxbill.prove.simulate import SCORE, plan_for
from lynxbill.rig.noise import (
    Bench,
    Law,
    autocorrelated,
    heavy_tailed,
    normal,
    outlying,
    rare_good_boots,
    skewed,
    skewed_around_mean,
    two_states,
)

Count = Callable[[np.random.Generator, int], int]
NUISANCES = {
    "heavy tails": Bench(1.0, heavy_tailed),
    "skewed": Bench(1.0, skewed),
    "autocorrelated": Bench(1.0, autocorrelated),
    "outliers": Bench(1.0, outlying),
    "cold first run": Bench(1.0, normal, cold=2.0),
    "drift within sittings": Bench(1.0, normal, drift=0.5),
}
# What the short form counts: of a usual cell, of a costly one that a broken rule moves far, of one it moves little.
FEW, SOME, MANY = 30, 100, 2_000
FULL = 20_000


@dataclass(frozen=True, slots=True)
class Cell:
    """
    `count` answers how often the event happened in so many replications; its rate must lie in [low, high].

    `short`: the replications of the short form; `full`: of the whole one.
    """

    group: str
    name: str
    count: Count
    low: float
    high: float
    short: int = FEW
    full: int = FULL


def all_cells() -> tuple[Cell, ...]:
    """Every cell of the proof."""
    return (
        *_planned(),
        *_nuisances(),
        *_unequal_counts(),
        *_unequal_scatter(),
        *_designs(),
        *_cut_and_floor(),
        *_guard(),
        *_margin(),
        *_coarse(),
        *_families(),
        *_boots(),
        *_looks(),
        *_anytime(),
        *_hands(),
        *_flags(),
        *worth_cells(),
        *_heat(),
        Cell("negative control", "t test on the runs of one sitting, n 10, tau 1", rates.run_level, 0.50, 0.57),
        Cell("negative control", "looking at 3 to 20 with the plain t", paths.naive_looks, 0.20, 0.24),
    )


def _planned() -> Iterator[Cell]:
    for k in (2, 3, 5):
        for r in (2, 3):
            for tau in (0.0, 0.5, 1.0, 2.0):
                count = partial(rates.false_alarms, bench=Bench(tau), k=(k, k), r=r)
                short = MANY if (k, r, tau) == (3, 3, 1.0) else FEW
                yield Cell("planned", f"{k} + {k} sittings, {r} runs, tau {tau:g}", count, 0.040, 0.055, short)


def _nuisances() -> Iterator[Cell]:
    for name, bench in NUISANCES.items():
        for k in (2, 3, 5):
            count = partial(rates.false_alarms, bench=bench, k=(k, k), r=3)
            yield Cell("nuisance", f"{name}, {k} + {k}", count, 0.0, 0.057)


def _unequal_counts() -> Iterator[Cell]:
    for k in ((2, 4), (3, 6), (5, 3)):
        for scatter in (0.5, 1.0, 2.0):
            count = partial(rates.false_alarms, bench=Bench(1.0), k=k, r=3, scatter=scatter)
            name = f"{k[0]} + {k[1]}, after-side scatters {scatter:g} times"
            yield Cell("unequal counts", name, count, 0.0, 0.07)
    # The side with fewer sittings is the noisier one.
    for k, times in product(((6, 2), (5, 3), (8, 3)), (3.0, 4.0)):
        count = partial(rates.false_alarms, bench=Bench(1.0), k=k, r=3, scatter=times)
        short = MANY if (k, times) == ((6, 2), 4.0) else FEW
        yield Cell("unequal counts", f"{k[0]} + {k[1]}, fewer {times:g} times noisier", count, 0.0, 0.062, short)


def _unequal_scatter() -> Iterator[Cell]:
    alone = {2: 0.06, 3: 0.07, 4: 0.08}
    for k in (2, 3, 5):
        for times in (2, 3, 4):
            alike = partial(rates.false_alarms, bench=Bench(1.0), k=(k, k), r=3, scatter=float(times))
            runs = partial(rates.false_alarms, bench=Bench(1.0), k=(k, k), r=3, scatter=float(times), reboots=1.0)
            boots = partial(rates.false_alarms, bench=Bench(1.0), k=(k, k), r=3, reboots=float(times))
            short = MANY if (k, times) == (3, 4) else FEW
            group = "unequal scatter"
            yield Cell(group, f"{k} + {k}, runs and reboots {times} times noisier after", alike, 0.0, 0.062, short)
            yield Cell(group, f"{k} + {k}, runs alone {times} times noisier after", runs, 0.0, 0.062)
            yield Cell(group, f"{k} + {k}, reboots alone {times} times noisier after", boots, 0.0, alone[times])


def _designs() -> Iterator[Cell]:
    """Matched sittings whose pairs share a shift, labelled inputs, a scatter that another build lends, no figures."""
    for k in (3, 5):
        yield Cell("paired", f"{k} pairs that drift together", partial(rates.paired_alarms, k=k), 0.043, 0.057)
        yield Cell("paired", f"{k} pairs by label", partial(rates.label_alarms, k=k, labels=4), 0.0, 0.06)
        yield Cell("paired", f"{k} pairs by room", partial(rates.ambient_alarms, k=k), 0.0, 0.06)
        yield Cell("order", f"A B B A, {k} + {k}, under drift", partial(rates.drifting_alarms, k=k), 0.0, 0.06)
    yield Cell("paired", "6 labels in one sitting a side", partial(rates.label_alarms, k=1, labels=6), 0.0, 0.06)
    yield Cell("borrowed", "2 + 2, scatter of 4 more lent by another build", rates.borrowed_alarms, 0.0, 0.055)
    for scale in ("ordinal", "outcome"):
        for k in (4, 6):
            count = partial(rates.exact_alarms, scale=scale, k=k)
            yield Cell("exact", f"{scale}, {k} + {k}", count, 0.0, 0.06)


def _cut_and_floor() -> Iterator[Cell]:
    """Cells that miss their limits as soon as the cut to equal length or the floor of rounding is taken away."""
    cold = partial(rates.false_alarms, bench=Bench(0.25, cold=3.0), k=(3, 3), r=3, runs_after=7)
    yield Cell("cut and floor", "3 runs against 7, cold first run", cold, 0.0, 0.057, MANY)
    coarse = partial(rates.false_alarms, bench=Bench(0.0), k=(2, 2), r=3, unit=4.0)
    yield Cell("cut and floor", "steps four times the scatter, level between two", coarse, 0.0, 0.057, MANY)


def _guard() -> Iterator[Cell]:
    noises: dict[str, Law] = {
        "normal": normal,
        "heavy tails": heavy_tailed,
        "skewed": skewed_around_mean,
        "outliers": outlying,
        "autocorrelated": autocorrelated,
    }
    for name, noise in noises.items():
        for n in (3, 10):
            for tau in (0.0, 1.0, 2.0):
                count = partial(rates.false_alarms, bench=Bench(tau, noise), k=(1, 1), r=n)
                short = MANY if (name, n, tau) == ("normal", 10, 2.0) else FEW
                yield Cell("one sitting", f"{name}, {n} runs, tau {tau:g}", count, 0.0, 0.06, short)
        for k in ((2, 1), (5, 1), (1, 3)):
            count = partial(rates.false_alarms, bench=Bench(2.0, noise), k=k, r=5, scatter=3.0)
            limit = 0.06 if noise is normal else 0.08
            yield Cell("one sitting", f"{name}, {k[0]} + {k[1]}, after-side 3 times noisier", count, 0.0, limit)


def _margin() -> Iterator[Cell]:
    for k in (3, 5):
        count = partial(rates.wrong_no_change, k=k)
        yield Cell(
            "no change", f"true change just at the margin, {k} + {k}", count, 0.0, 0.056, MANY if k == 3 else FEW
        )
    for looks in ((2, 4), (3, 5), (3, 6)):
        count = partial(rates.wrong_no_change, k=looks[0], at_most=looks[1])
        yield Cell("no change", f"at the margin over looks {looks[0]} and {looks[1]}", count, 0.0, 0.058)


def _coarse() -> Iterator[Cell]:
    """Steps up to far beyond the scatter, where all readings of a side round alike and their number helps nothing."""
    designs: tuple[Design, ...] = ("side_by_side", "paired")
    for step, design, k in product((1.0, 2.0, 5.0, 20.0), designs, (3, 5)):
        short = MANY if (design, step, k) == ("side_by_side", 20.0, 5) else FEW
        name = f"{design}, {k} + {k}, steps {step:g} S"
        margin = partial(rates.wrong_no_change, k=k, step=step, design=design)
        yield Cell("coarse readings", f"{name}, at the margin", margin, 0.0, 0.06, short)
        missed = partial(rates.missed_interval, k=k, step=step, design=design)
        yield Cell("coarse readings", f"{name}, interval misses", missed, 0.0, 0.06)

    for grid, share in product((0.125, 0.25, 0.5), (0.05, 0.1, 0.2)):
        name = f"steps of {grid:g} that nobody noted, scatter {share:g} of one"
        margin = partial(rates.on_unnoted_grid, grid=grid, share=share, at_margin=True)
        short = MANY if (grid, share) == (0.25, 0.1) else FEW
        yield Cell("coarse readings", f"{name}, at the margin", margin, 0.0, 0.06, short)
        missed = partial(rates.on_unnoted_grid, grid=grid, share=share, at_margin=False)
        yield Cell("coarse readings", f"{name}, interval misses", missed, 0.0, 0.06)


def _families() -> Iterator[Cell]:
    for correlation in (0.0, 0.5, 0.9):
        count = partial(rates.family_alarms, correlation=correlation)
        yield Cell(
            "families",
            f"any of 12, correlation {correlation:g}",
            count,
            0.0,
            0.055,
            SOME if correlation == 0.0 else FEW,
        )
    for times, limit in ((2.0, 0.07), (3.0, 0.09), (4.0, 0.11)):
        count = partial(rates.family_alarms, scatter=times)
        yield Cell("families", f"any of 12, after-side {times:g} times noisier", count, 0.0, limit)


def _boots() -> Iterator[Cell]:
    laws: dict[str, Law] = {"t3": heavy_tailed, "two states": two_states}
    for name, law in laws.items():
        for k in (3, 5):
            count = partial(rates.false_alarms, bench=Bench(2.0, boots=law), k=(k, k), r=3)
            yield Cell("reboots", f"{name}, {k} + {k}", count, 0.0, 0.06)
    # Reported, not limited.
    reported = (("two states", two_states, 2), ("rare good boots", rare_good_boots, 3))
    for name, law, k in reported:
        count = partial(rates.false_alarms, bench=Bench(2.0, boots=law), k=(k, k), r=3)
        yield Cell("reboots", f"{name}, {k} + {k} (reported)", count, 0.0, 1.0)


def _looks() -> Iterator[Cell]:
    for looks in ((2, 4), (3, 5), (3, 6)):
        for alternating in (False, True):
            count = partial(paths.two_looks, bench=Bench(1.0), looks=looks, alternating=alternating)
            order = "alternating" if alternating else "block"
            name = f"{looks[0]} and {looks[1]}, {order}"
            short = MANY if looks == (3, 6) and alternating else FEW
            yield Cell("two looks", name, count, 0.0, 0.053, short)
        for before in (2, 3, 4):
            if before < looks[1]:
                count = partial(paths.two_looks, bench=Bench(1.0), looks=looks, before=before)
                yield Cell("two looks", f"{looks[0]} and {looks[1]}, {before} before", count, 0.0, 0.055)
    for name, bench in NUISANCES.items():
        count = partial(paths.two_looks, bench=bench, looks=(3, 6), alternating=True)
        yield Cell("two looks", f"3 and 6, {name}", count, 0.0, 0.058)
    for times in (2.0, 3.0, 4.0):
        count = partial(paths.two_looks, bench=Bench(1.0), looks=(3, 6), scatter=times, alternating=True)
        yield Cell("two looks", f"3 and 6, after-side {times:g} times noisier", count, 0.0, 0.075)
    yield Cell("two looks", "3 and 6 pairs", partial(rates.paired_alarms, k=3, at_most=6), 0.0, 0.057)


def _anytime() -> Iterator[Cell]:
    looks = partial(paths.anytime_looks, planned=False)
    yield Cell("anytime", "looks at 3 to 20, from e 20", looks, 0.0, 0.05)
    planned = partial(paths.anytime_looks, planned=True)
    yield Cell("anytime", "planned at 3, then looks to 20 from e 40", planned, 0.0, 0.057)
    for gain, least, short in ((10.0, 0.25, SOME), (30.0, 0.85, FEW)):
        count = partial(paths.settles_unplanned, gain=gain)
        yield Cell("anytime", f"one of five, unplanned, {gain:g} sd at 3 + 3, settled", count, least, 1.0, short)
    # Over two looks as much is granted as to two looks alone.
    for two, alternating, limit in (((5, None), False, 0.065), ((3, 6), True, 0.075)):
        noisier = partial(paths.whole_path, looks=two, alternating=alternating, scatter=3.0)
        name = f"whole path, looks {two[0]} and {two[1] or 'none'}, after-side 3 times noisier"
        yield Cell("anytime", name, noisier, 0.0, limit)
    for alternating in (False, True):
        for plan in ((3, 6), (5, None)):
            count = partial(paths.whole_path, looks=plan, alternating=alternating)
            label = "alternating" if alternating else "before-side first"
            name = f"whole path to 10 a side, looks {plan[0]} and {plan[1] or 'none'}, {label}"
            yield Cell("anytime", name, count, 0.0, 0.058, SOME if alternating else FEW)


def _hands() -> Iterator[Cell]:
    one, two = plan_for((SCORE,), 3, matters_from=TINY), plan_for((SCORE,), 3, matters_from=TINY)
    two = replace(two, at_most=6)
    tried: dict[str, tuple[hands.Hand, Plan, int, int]] = {
        "asks at the best time, one look": (hands.best_time, one, 3, 8),
        "asks at the best time, two looks": (hands.best_time, two, 6, 9),
        "keeps the best sittings of 4": (hands.best_subset, replace(one, sittings_a_side=4), 4, 4),
        "keeps the best sittings of 5": (hands.best_subset, replace(one, sittings_a_side=5), 5, 5),
        "spoils what looks bad": (hands.spoils, one, 3, 3),
        "spoils in the same save": (hands.spoils_at_once, one, 3, 3),
        "breaks bad sittings off": (hands.abandons, replace(one, runs_a_sitting=3), 3, 8),
        "calls bad sittings trials": (hands.counts_trials, one, 3, 5),
        "corrects a reading": (hands.corrects, one, 3, 3),
        "adds runs": (hands.adds_runs, replace(one, runs_a_sitting=3), 3, 3),
    }
    for name, (hand, plan, before, after) in tried.items():
        count = partial(hands.gains_sought, hand=hand, plan=plan, before=before, after=after)
        short = MANY if hand is hands.spoils_at_once else SOME
        yield Cell("a gain-seeking hand", name, count, 0.0, 0.03, short)
    yield Cell("a gain-seeking hand", "denies one boot: both ways must agree", hands.boots_answered, 0.0, 0.03, SOME)
    yield Cell("a gain-seeking hand", "three sittings in one boot, which is read", hands.one_boot, 0.0, 0.06, SOME)
    plan = replace(one, pair_by="none")
    for name, hand in forks.FORKS.items():
        count = partial(hands.gains_sought, hand=hand, plan=plan, before=3, after=3)
        yield Cell("paths", name, count, 0.0, 0.03, SOME)
    retyping = partial(hands.gains_sought, hand=forks.retypes_while_open, plan=plan, before=3, after=3)
    yield Cell("paths", "retypes while the sittings are open", retyping, 0.0, 0.04, SOME)
    for sittings, steady in product((2, 3), (False, True)):
        name = f"shades late rooms, {sittings} a side" + (", sitting by sitting" if steady else "")
        yield Cell("paths", name, partial(forks.shades_rooms, sittings=sittings, steady=steady), 0.0, 0.03, SOME)
    for builds, limit in ((2, 0.0415), (3, 0.0465)):
        fresh = partial(forks.brings_fresh_builds, builds=builds)
        yield Cell("paths", f"brings {builds} builds of one part, spelt otherwise", fresh, 0.0, limit, SOME)
    pairs = partial(forks.chooses_pairs, sittings=3)
    yield Cell("paths", "chooses pairs by late rooms", pairs, 0.0, 0.03, SOME)
    for attempts, limit in ((2, 0.083), (3, 0.093)):
        count = partial(hands.measured_over, attempts=attempts)
        yield Cell("measured over", f"{attempts} attempts, gain or loss", count, 0.0, limit)


def _flags() -> Iterator[Cell]:
    for code in marks.CLEAN:
        count = partial(rates.flagged, code=code, make=marks.clean)
        yield Cell("flags", f"{code.replace('_', ' ')} on clean readings", count, 0.005, 0.015)
    for code, make in marks.FAULTS.items():
        count = partial(rates.flagged, code=code, make=make)
        yield Cell("flags", f"{code.replace('_', ' ')} where there is one", count, 0.8, 1.0)


def _heat() -> Iterator[Cell]:
    within = SENSED["temperature"].within
    moving: tuple[tuple[str, Callable[[np.random.Generator], heat.Soak], float], ...] = (
        ("more than half a kelvin left", heat.any_soak, within),
        ("more than 1 K left, with a slow second part", heat.second_soak, 1.0),
    )
    for name, soak, least in moving:
        count = partial(heat.called_settled, soak=soak, left=(least, math.inf))
        yield Cell("settled or not", f"{name}, said to have settled", count, 0.0, 0.05, SOME, full=3_000)
    # The hardest corner: a slow part that lasts longer than most loads.
    slowest = partial(heat.second_soak, slow_s=(600.0, 1200.0))
    corner = partial(heat.called_settled, soak=slowest, left=(1.0, 2.0))
    name = "1 to 2 K left of a part at 600 to 1,200 s, said to have settled"
    yield Cell("settled or not", name, corner, 0.0, 0.10, 200, full=3_000)
    long = partial(heat.called_settled, soak=heat.long_soak, left=(0.0, 0.1))
    yield Cell("settled or not", "settled, 15 minutes and more, said so", long, 0.9, 1.0, SOME, full=3_000)
    short_soak = partial(heat.long_soak, minutes=(5.0, 10.0))
    short = partial(heat.called_settled, soak=short_soak, left=(0.0, 0.1))
    yield Cell("settled or not", "settled, 5 to 10 minutes, said so (reported)", short, 0.0, 1.0, 20, full=1_000)
    for phi, taus, step in heat.equilibrium_grid():
        misses = partial(heat.missed_equilibria, phi=phi, taus=taus, step=step)
        name = f"interval misses it, phi {phi:g}/s, {taus:g} tau, a sample in {step:g} s"
        # The shortest soak with the slowest noise lies closest to its limit: it is counted longer.
        full = 4_000 if taus == 2 and phi == 0.9 else 1_000
        yield Cell("equilibrium", name, misses, 0.03, 0.10, 4, full=full)
    for sd in (0.05, 0.4):
        coarse = partial(heat.missed_equilibria, phi=0.0, taus=6.0, step=2.0, sd=sd, read=1.0)
        name = f"interval misses it, steps of 1 K, noise {sd:g} K"
        yield Cell("equilibrium", name, coarse, 0.0, 0.06, FEW, full=1_000)
    for job in heat.GAINS:
        yield Cell("heat jobs", f"{job.name}, not judged a gain", partial(heat.misjudged, job=job), 0.0, 0.05, 4, 100)
    called = partial(heat.called_gains, job=heat.NOTHING)
    yield Cell("heat jobs", f"{heat.NOTHING.name}, called a gain", called, 0.0, 0.05, 4, 100)


def worth_cells() -> Iterator[Cell]:
    """Overall gain, value and advice."""
    yield Cell("overall", "interval of two claims misses no gain", worth.overall_misses, 0.045, 0.055)
    yield Cell("overall", "two claims in sittings of their own", worth.separate_misses, 0.0, 0.058)
    yield Cell("value", "interval misses the true value", worth.value_misses, 0.0, 0.06)
    yield Cell("value", "costs around zero", worth.free_value_misses, 0.0, 0.06)
    yield Cell("value", "“A is better value” is wrong at 95 %", worth.wrongly_better, 0.0, 0.06)
    for target in (2.0, 3.0):
        second = partial(worth.advice_keeps, target=target, name="second look", looks=(3, 6))
        yield Cell("advice", f"second look at 6, {target:g} sd, settled", second, 0.75, 1.0, 20)
        for name in ("more sittings", "measured over"):
            count = partial(worth.advice_keeps, target=target, name=name)
            yield Cell("advice", f"{name}, {target:g} sd, settled", count, 0.75, 1.0, 20)
    told: tuple[tuple[WayName, tuple[int, int | None], Sequence[int]], ...] = (
        ("second look", (3, 6), range(10)),
        # Their number of sittings is chosen so that they find it four times in five at least.
        ("measured over", (3, None), (8, 9)),
        ("more sittings", (3, None), (8,)),
    )
    for name, looks, tenths in told:
        for tenth in tenths:
            count = partial(worth.told_over_kept, name=name, tenth=tenth, looks=looks)
            label = f"{name}, told {10 * tenth} to {10 * tenth + 10} of 100, told less kept"
            yield Cell("chances told", label, count, 0.0, 0.10, 4, full=300)
