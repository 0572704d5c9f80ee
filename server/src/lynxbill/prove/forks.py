"""Forking paths through the ledger's amendments: what could be chosen once the readings are known, and how often."""

from collections.abc import Sequence
from dataclasses import replace
from datetime import datetime, timedelta

import numpy as np

from lynxbill.core.record.build import Build, Part
from lynxbill.core.record.frame import Case
from lynxbill.core.record.ids import BuildId, RunId, SittingId, SwapId
from lynxbill.core.record.ledger_entries import Showing
from lynxbill.core.record.plan import Plan, PlannedMeasure
from lynxbill.core.record.run import READING, Reading, Run, Sitting, Was
from lynxbill.core.result.comparison import judge_measures
from lynxbill.core.terms.measure import Measure, MeasureId
from lynxbill.prove.hands import GAIN, LATER, Hand, bench_of, word
from lynxbill.prove.paths import ask
from lynxbill.prove.rates import TINY
from lynxbill.prove.simulate import DAY, SCORE, C, make_case, make_run, plan_for
from lynxbill.rig.noise import Bench, side_readings

SOAK = Measure(MeasureId("soak"), "Soak", "job", "Cel", "difference", "heat", "lower", step=1e-9)
ROOM_C = 22.0
# What a hand adds to a side's rooms, in K: nobody believes more.
SHADES = (0.0, 0.25, 0.5, 1.0)
HOUR, MINUTE = timedelta(hours=1), timedelta(minutes=1)


def typed(case: Case) -> Case:
    """The same bench, typed by hand: each run written a minute after the one before it, every restart answered."""
    begun = {sitting.id: sitting.started_at for sitting in case.sittings}
    sittings = tuple(replace(s, boot_by="answered", closed_at=s.started_at + HOUR) for s in case.sittings)
    runs = tuple(replace(run, written_at=begun[run.sitting_id] + run.position * MINUTE) for run in case.runs)
    return replace(case, sittings=sittings, runs=runs)


def empties_and_retypes(generator: np.random.Generator, case: Case) -> Case:
    """Looks, empties every after-run of a look without a gain, and types better ones: three times over."""
    case, results = ask(typed(case))
    for number in range(3):
        if results[0].verdict.word == GAIN:
            break
        at = LATER + number * HOUR
        case = replace(
            case, runs=tuple(_retyped(generator, r, at) if r.sitting_id.startswith("C") else r for r in case.runs)
        )
        case, results = ask(case)
    return case


def _retyped(generator: np.random.Generator, run: Run, at: datetime) -> Run:
    value = 100.0 + float(generator.standard_normal())
    member = f"{READING}{SCORE.id}"
    past = (Was(member, run.readings[SCORE.id], at, "hand"), Was(member, None, at + MINUTE, "hand"))
    return replace(run, readings={SCORE.id: Reading(value, value)}, was=(*run.was, *past))


def dates_earlier(generator: np.random.Generator, case: Case, *, notes: bool = False) -> Case:
    """Looks, then adds sittings dated before those of the look, until there is a gain or six were added."""
    case, results = ask(typed(case))
    for number in range(6):
        if results[0].verdict.word == GAIN:
            break
        held = DAY + timedelta(days=50 + number)
        at = DAY + timedelta(days=500 + number)
        sitting = SittingId(f"C{90 + number}")
        model = next(s for s in case.sittings if s.build_id == C)
        added = replace(
            model,
            id=sitting,
            purpose="earlier" if notes else "plan",
            started_at=held,
            closed_at=at + HOUR,
            boot=str(sitting),
        )
        values = side_readings(generator, Bench(1.0), 1, 3)[0]
        runs = [_a_run(case, sitting, n, value, at) for n, value in enumerate(values, start=1)]
        case, results = ask(replace(case, sittings=(*case.sittings, added), runs=(*case.runs, *runs)))
    return case


def dates_notes_earlier(generator: np.random.Generator, case: Case) -> Case:
    """The same, each of them called notes of an old day."""
    return dates_earlier(generator, case, notes=True)


def _a_run(case: Case, sitting: SittingId, position: int, value: float, at: datetime) -> Run:
    model = next(run for run in case.runs if run.sitting_id.startswith("C"))
    readings = {SCORE.id: Reading(value, value)}
    return replace(
        model,
        id=RunId(f"{sitting}-{position}"),
        sitting_id=sitting,
        position=position,
        readings=readings,
        written_at=at + position * MINUTE,
    )


def calls_boots_others(generator: np.random.Generator, case: Case) -> Case:
    """Three sittings a side in one boot each, as was answered; once they are closed, each is said to have its own."""
    shift = {build: float(generator.standard_normal()) for build in ("B", "C")}
    runs = tuple(_moved(run, shift[run.sitting_id[0]]) for run in case.runs)
    case = typed(replace(case, runs=runs))
    sittings = tuple(replace(s, was=(Was("boot", f"one of {s.build_id}", LATER, "hand"),)) for s in case.sittings)
    return ask(replace(case, sittings=sittings))[0]


def _moved(run: Run, shift: float) -> Run:
    value = run.readings[SCORE.id].value + shift
    return replace(run, readings={SCORE.id: Reading(value, value)})


def puts_the_best_first(_: np.random.Generator, case: Case) -> Case:
    """A short sitting cuts all to one run; the places of the after-runs are then changed: the best comes first."""
    case = typed(case)
    runs = [run for run in case.runs if not (run.sitting_id == "B0" and run.position > 1)]
    placed: list[Run] = []
    for sitting in (s for s in case.sittings if s.build_id == C):
        here = [run for run in runs if run.sitting_id == sitting.id]
        best = sorted(here, key=lambda run: -run.readings[SCORE.id].value)
        placed += [
            run
            if run.position == place
            else replace(run, position=place, was=(Was("position", run.position, LATER, "hand"),))
            for place, run in enumerate(best, start=1)
        ]
    kept = [run for run in runs if not run.sitting_id.startswith("C")]
    return ask(replace(case, runs=(*kept, *placed)))[0]


def retypes_while_open(_: np.random.Generator, case: Case) -> Case:
    """
    While each after-sitting is open, types its worst figure as good as the best that is known by then.

    The last figure is left: what is chosen before another one is saved can't be told from what was read.
    """
    case = typed(case)
    changed: dict[RunId, Run] = {}
    known: list[Reading] = []
    for sitting in (s for s in case.sittings if s.build_id == C):
        here = [run for run in case.runs if run.sitting_id == sitting.id]
        known += [run.readings[SCORE.id] for run in here]
        worst = min(here[:-1], key=lambda run: run.readings[SCORE.id].value)
        best = max(known, key=lambda reading: reading.value)
        changed[worst.id] = _with_reading(worst, best, sitting.started_at + HOUR / 2)
    return ask(replace(case, runs=tuple(changed.get(run.id, run) for run in case.runs)))[0]


def calls_figures_remembered(_: np.random.Generator, case: Case) -> Case:
    """While each after-sitting is open, says of its worst figure that it was only remembered."""
    case = typed(case)
    changed: dict[RunId, Run] = {}
    for sitting in (s for s in case.sittings if s.build_id == C):
        here = [run for run in case.runs if run.sitting_id == sitting.id]
        worst = min(here, key=lambda run: run.readings[SCORE.id].value)
        told = replace(worst.readings[SCORE.id], source="remembered")
        changed[worst.id] = _with_reading(worst, told, sitting.started_at + HOUR / 2)
    return ask(replace(case, runs=tuple(changed.get(run.id, run) for run in case.runs)))[0]


def _with_reading(run: Run, reading: Reading, at: datetime) -> Run:
    past = Was(f"{READING}{SCORE.id}", run.readings[SCORE.id], at, "hand")
    return replace(run, readings={SCORE.id: reading}, was=(*run.was, past))


def shades_rooms(generator: np.random.Generator, replications: int, *, sittings: int, steady: bool) -> int:
    """
    How often rooms that are all given late make a gain of nothing: the best of several shades.

    Args:
        steady: shaded sitting by sitting too, so that each side looks as steady as it can.
    """
    found = 0
    for _ in range(replications):
        case = _soaked(generator, sittings, Plan(sittings_a_side=sittings))
        found += any(word(_with_rooms(case, shade, steady)) == GAIN for shade in SHADES)
    return found


def chooses_pairs(generator: np.random.Generator, replications: int, *, sittings: int) -> int:
    """How often rooms given late, so that the best order of pairs comes of them, make a gain of nothing."""
    found = 0
    plan = Plan(design="paired", pair_by="ambient", sittings_a_side=sittings)
    for _ in range(replications):
        case = _soaked(generator, sittings, plan)
        sides = [sorted(_side(case, build), key=lambda s: _mean(case, s)) for build in ("B", "C")]
        rooms = {s.id: ROOM_C + place / 4 for side in sides for place, s in enumerate(side)}
        found += word(_late(case, rooms)) == GAIN
    return found


def _soaked(generator: np.random.Generator, sittings: int, plan: Plan) -> Case:
    """Soaks of half a kelvin of scatter in a room that nobody noted."""
    scores = [side_readings(generator, Bench(1.0), sittings, 3) for _ in range(2)]
    sides = [[[75.0 + 0.5 * (value - 100.0) for value in sitting] for sitting in side] for side in scores]
    plan = replace(plan, measures={SOAK.id: PlannedMeasure("claim", TINY)})
    case = make_case([sides[0]], [sides[1]], plan=plan, measures=(SOAK,))
    return typed(case)


def _with_rooms(case: Case, shade: float, steady: bool) -> Case:
    rooms: dict[SittingId, float] = {}
    for build, sign in (("B", -1.0), ("C", 1.0)):
        side = _side(case, build)
        level = sum(_mean(case, s) for s in side) / len(side)
        for sitting in side:
            off = _mean(case, sitting) - level if steady else 0.0
            rooms[sitting.id] = ROOM_C + sign * shade + max(-1.0, min(1.0, off))
    return _late(case, rooms)


def _late(case: Case, rooms: dict[SittingId, float]) -> Case:
    noted = (Was("ambient_c", None, LATER, "hand"),)
    return replace(case, sittings=tuple(replace(s, ambient_c=rooms[s.id], was=noted) for s in case.sittings))


def _side(case: Case, build: str) -> Sequence[Sitting]:
    return [sitting for sitting in case.sittings if sitting.build_id == build]


def _mean(case: Case, sitting: Sitting) -> float:
    values = [run.readings[SOAK.id].value for run in case.runs if run.sitting_id == sitting.id]
    return sum(values) / len(values)


def brings_fresh_builds(generator: np.random.Generator, replications: int, *, builds: int) -> int:
    """How often one of several builds of the same part, each spelt otherwise, has a gain over one baseline."""
    found = 0
    for _ in range(replications):
        case = bench_of(generator, plan_for((SCORE,), 3, matters_from=TINY), 3, 3)
        case = replace(case, builds=(case.builds[0], replace(case.builds[1], parts=_kit(0))))
        for number in range(builds):
            if number:
                case = _with_fresh_build(generator, case, number)
            last = case.swaps[-1]
            results = judge_measures(case, last.before, last.after)
            if results[0].verdict.word == GAIN:
                found += 1
                break
            entry = Showing(SCORE.id, LATER + number * HOUR, 1, 0.95, "sittings", "not_settled", ())
            case = replace(case, swaps=(*case.swaps[:-1], replace(last, shown=(entry,))))
    return found


def _kit(number: int) -> tuple[Part, ...]:
    return (Part("kit", "memory", f"Kit {number}"),)


def _with_fresh_build(generator: np.random.Generator, case: Case, number: int) -> Case:
    build = BuildId(f"C{number}")
    old = [s for s in case.sittings if s.build_id == C]
    added = [
        replace(
            s,
            id=SittingId(f"{build}-{n}"),
            build_id=build,
            boot=f"{build}-{n}",
            started_at=s.started_at + timedelta(days=100 * number),
            closed_at=s.started_at + timedelta(days=100 * number, hours=1),
        )
        for n, s in enumerate(old)
    ]
    side = side_readings(generator, Bench(1.0), 3, 3)
    runs = [
        make_run(sitting.id, place, {SCORE.id: value})
        for sitting, values in zip(added, side, strict=True)
        for place, value in enumerate(values, start=1)
    ]
    swap = replace(case.swaps[0], id=SwapId(str(build)), after=build, shown=())
    return replace(
        case,
        builds=(*case.builds, Build(build, str(build), "Spelt otherwise", _kit(number))),
        sittings=(*case.sittings, *added),
        runs=(*case.runs, *runs),
        swaps=(*case.swaps, swap),
    )


# What a hand that keeps to three sittings a side may do; of one correction a side a little more is left to it.
FORKS: dict[str, Hand] = {
    "empties all and types better figures": empties_and_retypes,
    "dates sittings earlier": dates_earlier,
    "dates notes earlier": dates_notes_earlier,
    "calls one boot three": calls_boots_others,
    "puts the best runs first": puts_the_best_first,
    "calls figures remembered": calls_figures_remembered,
}
