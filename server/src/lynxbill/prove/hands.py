"""
A hand that seeks a gain and looks again and again, and what of it the ledger and the late rules leave standing.

Nothing changed in any of these benches. Each hand does what it can to have a gain called, asks after every move, and
is counted where the record that it leaves behind says "real gain" (the last ask, for what was called earlier stands).
"""

from collections.abc import Callable
from dataclasses import replace
from datetime import datetime, timedelta
from itertools import combinations

import numpy as np

from lynxbill.core.record.frame import Case
from lynxbill.core.record.plan import Plan
from lynxbill.core.record.run import READING, BootBy, Reading, Run, SetAside, Sitting, Was
from lynxbill.core.record.swap import Attempt
from lynxbill.core.result.comparison import judge_measures
from lynxbill.prove.paths import ask, so_far
from lynxbill.prove.rates import CALLED, TINY
from lynxbill.prove.simulate import DAY, SCORE, C, make_case, plan_for
from lynxbill.rig.noise import Bench, side_readings

GAIN = "real_gain"
LATER = DAY + timedelta(days=500)
Hand = Callable[[np.random.Generator, Case], Case]


def bench_of(generator: np.random.Generator, plan: Plan, before: int, after: int, runs: int = 3) -> Case:
    """A bench on which nothing changed, whose reboots move as much as its runs scatter."""
    sides = [side_readings(generator, Bench(1.0), count, runs) for count in (before, after)]
    return make_case([sides[0]], [sides[1]], plan=plan)


def gains_sought(
    generator: np.random.Generator,
    replications: int,
    *,
    hand: Hand,
    plan: Plan,
    before: int,
    after: int,
    runs: int = 3,
) -> int:
    """How often a hand ends with a gain."""
    found = 0
    for _ in range(replications):
        case = hand(generator, bench_of(generator, plan, before, after, runs))
        found += word(case) == GAIN
    return found


def word(case: Case) -> str:
    """The verdict as it stands."""
    return judge_measures(case)[0].verdict.word


def best_time(_: np.random.Generator, case: Case) -> Case:
    """Asks after every sitting from the first on, and stops at the first gain."""
    sittings = [s for s in case.sittings if s.build_id == C]
    before = len(case.sittings) - len(sittings)
    seen: Case | None = None
    for count in range(1, len(sittings) + 1):
        seen, results = ask(so_far(case, before, count, seen))
        if results[0].verdict.word == GAIN:
            return seen
    return seen or case


def spoils(_: np.random.Generator, case: Case) -> Case:
    """Looks, then spoils the worst run of each after-sitting, one after the other, and looks after each."""
    case, results = ask(case)
    for sitting in (s for s in case.sittings if s.build_id == C):
        if results[0].verdict.word == GAIN:
            break
        runs = [r for r in case.runs if r.sitting_id == sitting.id]
        worst = min(runs, key=_reading)
        late = Was("state", "complete", LATER, "hand", "")
        spoiled = replace(worst, state="spoiled", reason="seemed odd", left_out_at=LATER, was=(*worst.was, late))
        case, results = ask(_with_run(case, spoiled))
    return case


def spoils_at_once(_: np.random.Generator, case: Case) -> Case:
    """Marks the worst run of every after-sitting in the same save as its reading: more than one of them is late."""
    begun = {sitting.id: sitting.started_at for sitting in case.sittings}
    runs = {r.id: replace(r, written_at=begun[r.sitting_id]) for r in case.runs}
    for sitting in (s for s in case.sittings if s.build_id == C):
        here = [r for r in runs.values() if r.sitting_id == sitting.id]
        worst = min(here, key=_reading)
        runs[worst.id] = replace(worst, state="spoiled", reason="seemed odd", left_out_at=worst.written_at)
    return replace(case, runs=tuple(runs.values()))


def best_subset(_: np.random.Generator, case: Case) -> Case:
    """Tries every set of after-sittings that leaves three, sets the others aside, and keeps the best."""
    case, results = ask(case)
    if results[0].verdict.word == GAIN:
        return case
    after = [s for s in case.sittings if s.build_id == C]
    best = case
    for size in range(1, max(1, len(after) - 2)):
        for dropped in combinations(after, size):
            tried = _set_aside(case, {s.id for s in dropped})
            if word(tried) == GAIN:
                return tried
            best = tried
    return best


def abandons(generator: np.random.Generator, case: Case) -> Case:
    """Breaks a sitting off after two runs if they look bad, and begins another in its place."""
    kept: list[Sitting] = []
    runs: list[Run] = [r for r in case.runs if not r.sitting_id.startswith("C")]
    wanted = case.swaps[0].plan.sittings_a_side or 3
    whole = 0
    for sitting in (s for s in case.sittings if s.build_id == C):
        if whole == wanted:
            break
        here = [r for r in case.runs if r.sitting_id == sitting.id]
        bad = sum(_reading(r) for r in here[:2]) / 2 < 100.0
        taken = here[:2] if bad else here
        whole += not bad
        kept.append(sitting)
        runs += taken
    before = [s for s in case.sittings if s.build_id != C]
    return ask(replace(case, sittings=(*before, *kept), runs=tuple(runs)))[0]


def counts_trials(_: np.random.Generator, case: Case) -> Case:
    """Calls bad sittings trials, and trials that went well plan, once their readings are known."""
    sittings = []
    for sitting in case.sittings:
        if sitting.build_id != C:
            sittings.append(sitting)
            continue
        mean = np.mean([_reading(r) for r in case.runs if r.sitting_id == sitting.id])
        if mean < 100.0:
            was = Was("purpose", "plan", LATER, "hand", "")
            sittings.append(replace(sitting, purpose="trial", was=(*sitting.was, was)))
        else:
            sittings.append(sitting)
    case = ask(case)[0]
    return ask(replace(case, sittings=tuple(sittings)))[0]


def corrects(_: np.random.Generator, case: Case) -> Case:
    """Looks, then "corrects" the worst after-reading to the best one of the others."""
    case, results = ask(case)
    if results[0].verdict.word == GAIN:
        return case
    runs = [r for r in case.runs if r.sitting_id.startswith("C")]
    worst, best = min(runs, key=_reading), max(runs, key=_reading)
    old = worst.readings[SCORE.id]
    was = Was(f"{READING}{SCORE.id}", old, LATER, "hand", "a slip of the pen")
    mended = replace(worst, readings={SCORE.id: Reading(_reading(best), _reading(best))}, was=(*worst.was, was))
    return ask(_with_run(case, mended))[0]


def adds_runs(generator: np.random.Generator, case: Case) -> Case:
    """Looks, then adds runs to every sitting of the after-side until it looks best."""
    case, results = ask(case)
    for position in (4, 5, 6):
        if results[0].verdict.word == GAIN:
            break
        fresh = []
        for sitting in (s for s in case.sittings if s.build_id == C):
            value = 100.0 + float(generator.standard_normal())
            model = next(r for r in case.runs if r.sitting_id == sitting.id)
            reading = {SCORE.id: Reading(value, value)}
            fresh.append(
                replace(model, id=type(model.id)(f"{sitting.id}-{position}"), position=position, readings=reading)
            )
        case, results = ask(replace(case, runs=(*case.runs, *fresh)))
    return case


def one_boot(generator: np.random.Generator, replications: int) -> int:
    """Three sittings a side in one boot each, which was read off the machine: they are one unit, and the guard's."""
    plan = plan_for((SCORE,), 1, matters_from=TINY)
    return sum(word(_in_one_boot(generator, plan, "read")) in CALLED for _ in range(replications))


def boots_answered(generator: np.random.Generator, replications: int) -> int:
    """Three sittings a side in one boot each, where the boot is only answered: both ways must agree."""
    plan = plan_for((SCORE,), 3, matters_from=TINY)
    return sum(word(_in_one_boot(generator, plan, "answered")) == GAIN for _ in range(replications))


def _in_one_boot(generator: np.random.Generator, plan: Plan, told: BootBy) -> Case:
    """A case of three sittings a side, without a gain: a boot moves all the sittings of its side together."""
    sides = []
    for _ in range(2):
        boot = float(generator.standard_normal())
        side = side_readings(generator, Bench(0.0), 3, 3)
        sides.append([[value + boot for value in sitting] for sitting in side])
    case = make_case([sides[0]], [sides[1]], plan=plan)
    sittings = tuple(replace(s, boot=str(s.build_id), boot_by=told) for s in case.sittings)
    return replace(case, sittings=sittings)


def measured_over(generator: np.random.Generator, replications: int, *, attempts: int) -> int:
    """Measures over until something is called, at most so many times: any false gain or loss counts."""
    called = 0
    for _ in range(replications):
        found = False
        for attempt in range(1, attempts + 1):
            plan = replace(plan_for((SCORE,), 3, matters_from=TINY), at_most=None)
            case = bench_of(generator, plan, 3, 3)
            case = as_attempt(case, attempt)
            found = found or word(case) in CALLED
            if found:
                break
        called += found
    return called


def as_attempt(case: Case, number: int) -> Case:
    """Make a case the attempt of that number at its comparison."""
    over = tuple(Attempt(_at(n), "measured over") for n in range(2, number + 1))
    sittings = tuple(replace(s, attempt=number) for s in case.sittings)
    return replace(case, sittings=sittings, swaps=(replace(case.swaps[0], attempts=over),))


def _at(number: int) -> datetime:
    return LATER + timedelta(days=number)


def _set_aside(case: Case, ids: set[str]) -> Case:
    aside = SetAside("seemed odd", LATER)
    return replace(case, sittings=tuple(replace(s, set_aside=aside) if s.id in ids else s for s in case.sittings))


def _with_run(case: Case, changed: Run) -> Case:
    return replace(case, runs=tuple(changed if run.id == changed.id else run for run in case.runs))


def _reading(run: Run) -> float:
    return run.readings[SCORE.id].value
