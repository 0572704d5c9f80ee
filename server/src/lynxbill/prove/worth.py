"""Overall gain, value, better value and advice, where the truth is known."""

import math
from dataclasses import replace
from decimal import Decimal

import numpy as np

from lynxbill.core.judgement.ledger import SETTLED
from lynxbill.core.judgement.verdict import VerdictWord
from lynxbill.core.plan.planning import MOST_SITTINGS
from lynxbill.core.record.build import Build
from lynxbill.core.record.frame import Case
from lynxbill.core.record.ids import BuildId, RunId, SittingId, SwapId
from lynxbill.core.record.plan import PlannedMeasure
from lynxbill.core.record.swap import Swap
from lynxbill.core.result.comparison import judge, judge_measures
from lynxbill.core.result.settling import GOOD_CHANCE, Way, WayName
from lynxbill.core.terms.measure import Measure, MeasureId
from lynxbill.core.terms.money import CostLine
from lynxbill.core.value.better import better_value
from lynxbill.core.value.bill import judge_and_bill
from lynxbill.prove.hands import as_attempt
from lynxbill.prove.paths import so_far
from lynxbill.prove.simulate import SCORE, make_case, plan_for
from lynxbill.rig.noise import Bench, side_readings

_TIMES = tuple(
    Measure(MeasureId(f"t{number}"), f"T{number}", "job", "s", "ratio", "time", "lower", step=1e-9)
    for number in range(2)
)


def overall_misses(generator: np.random.Generator, replications: int) -> int:
    """How often the interval of two claims in the same sittings misses that nothing changed."""
    missed = 0
    for _ in range(replications):
        overall = judge(_time_case(generator, 0.0, ())).overall
        assert overall is not None
        assert overall.estimate is not None
        missed += not overall.estimate.low <= 0 <= overall.estimate.high
    return missed


def separate_misses(generator: np.random.Generator, replications: int) -> int:
    """The same where each claim is read in sittings of its own."""
    measures = (_TIMES[0], replace(_TIMES[1], workload="other"))
    plan = plan_for(measures, 3, matters_from=2.0)
    missed = 0
    for _ in range(replications):
        parts = []
        for measure in measures:
            scatter = 0.01 * generator.standard_normal((2, 1, 3, 1)) + 0.01 * generator.standard_normal((2, 1, 3, 3))
            before, after = (40 * np.exp(scatter)).tolist()
            parts.append(make_case(before, after, plan=plan, measures=(measure,)))
        overall = judge(_beside(parts[0], parts[1], measures)).overall
        assert overall is not None
        assert overall.estimate is not None
        missed += not overall.estimate.low <= 0 <= overall.estimate.high
    return missed


def _beside(one: Case, other: Case, measures: tuple[Measure, ...]) -> Case:
    later = {s.id: SittingId(f"o{s.id}") for s in other.sittings}
    sittings = tuple(replace(s, id=later[s.id], boot=f"o{s.boot}") for s in other.sittings)
    runs = tuple(
        replace(r, id=RunId(f"o{r.id}"), sitting_id=later[r.sitting_id], workload="other") for r in other.runs
    )
    return replace(one, measures=measures, sittings=(*one.sittings, *sittings), runs=(*one.runs, *runs))


def value_misses(generator: np.random.Generator, replications: int) -> int:
    """A true speed gain of 10 % for exactly 100: 1 % for every 10."""
    cost = CostLine("part", "Part", Decimal("100.00"), "EUR")
    missed = 0
    for _ in range(replications):
        value = judge_and_bill(_time_case(generator, float(np.log(1.1)), (cost,))).bill.value
        low, high = value.low, value.high
        missed += (low is not None and low > 1.0) or (high is not None and high < 1.0)
    return missed


def free_value_misses(generator: np.random.Generator, replications: int) -> int:
    """The same for a part whose resale may bring back more than it cost."""
    missed = 0
    for _ in range(replications):
        true = float(generator.triangular(20, 60, 100))
        costs = (
            CostLine("part", "Part", Decimal("70.00"), "EUR"),
            CostLine("resale", "Old part", Decimal("60.00"), "EUR", Decimal("20.00"), Decimal("100.00")),
        )
        net = 70.0 - true
        value = judge_and_bill(_time_case(generator, float(np.log(1.1)), costs)).bill.value
        angle = np.arctan2(10.0, net)
        low = None if value.low is None else np.arctan2(value.low, 10.0)
        high = None if value.high is None else np.arctan2(value.high, 10.0)
        missed += (low is not None and angle < low) or (high is not None and angle > high)
    return missed


def wrongly_better(generator: np.random.Generator, replications: int) -> int:
    """
    Two swaps of the same gain at the same cost from the same build: how often the first is called better value.

    The second is as often: 95 % is asked of each call.
    """
    called = 0
    cost = (CostLine("part", "Part", Decimal("100.00"), "EUR"),)
    for _ in range(replications):
        sides = [_times(generator, gain) for gain in (0.0, 0.1, 0.1)]
        plan = plan_for(_TIMES, 3, matters_from=2.0, headline=_TIMES[0].id)
        one = make_case(sides[0], sides[1], plan=plan, measures=_TIMES, costs=cost)
        other = make_case(sides[0], sides[2], plan=plan, measures=_TIMES, costs=cost)
        case = _with_second(one, other)
        first, second = (judge_and_bill(case, BuildId("B"), BuildId(after)) for after in ("C", "D"))
        called += better_value(first, second).winner == "first"
    return called


def _with_second(one: Case, other: Case) -> Case:
    d = BuildId("D")
    moved = {s.id: SittingId(f"D{s.id}") for s in other.sittings if s.build_id == "C"}
    sittings = tuple(
        replace(s, id=moved[s.id], build_id=d, boot=f"D{s.boot}") for s in other.sittings if s.id in moved
    )
    runs = tuple(
        replace(r, id=RunId(f"D{r.id}"), sitting_id=moved[r.sitting_id]) for r in other.runs if r.sitting_id in moved
    )
    swap = replace(other.swaps[0], id=SwapId("second"), after=d)
    swaps: tuple[Swap, ...] = (*one.swaps, swap)
    return replace(
        one,
        builds=(*one.builds, Build(d, "D", "Other")),
        sittings=(*one.sittings, *sittings),
        runs=(*one.runs, *runs),
        swaps=swaps,
    )


def _times(generator: np.random.Generator, gain: float) -> list[list[list[float]]]:
    """Two times of the same sittings; a reboot moves both together."""
    reboot = 0.01 * generator.standard_normal((1, 3, 1))
    answer: list[list[list[float]]] = (
        40 * np.exp(-gain + reboot + 0.01 * generator.standard_normal((2, 3, 3)))
    ).tolist()
    return answer


def _time_case(generator: np.random.Generator, gain: float, costs: tuple[CostLine, ...]) -> Case:
    plan = plan_for(_TIMES, 3, matters_from=2.0)
    sides = [_times(generator, shift) for shift in (0.0, gain)]
    return make_case(sides[0], sides[1], plan=plan, measures=_TIMES, costs=costs)


def advice_keeps(
    generator: np.random.Generator,
    replications: int,
    *,
    target: float,
    name: WayName,
    looks: tuple[int, int | None] = (3, None),
) -> int:
    """
    A gain of `target` scatters of a unit is there, the first look left it open, and the advice is followed.

    Answers how often it then ends in a verdict; counted over those benches alone that were left open and were
    advised.
    """
    gain = target * _UNIT_SD
    settled = asked = 0
    while asked < replications:
        whole, ways = _left_open(generator, gain, name, looks)
        ways = [way for way in ways if way.bound >= GOOD_CHANCE]
        if not ways:
            continue
        asked += 1
        settled += _followed(generator, whole, gain, ways[0]) in SETTLED
    return settled


def told_over_kept(
    generator: np.random.Generator,
    replications: int,
    *,
    name: WayName,
    tenth: int,
    looks: tuple[int, int | None] = (3, None),
) -> int:
    """
    Gains of 1 to 4 scatters of a unit are there, and hoped for: how many more of the benches that were left open, and
    told a chance in one tenth, were told to find theirs than did.
    """
    told, kept, asked = 0.0, 0, 0
    while asked < replications:
        gain = float(generator.uniform(1.0, 4.0)) * _UNIT_SD
        whole, ways = _left_open(generator, gain, name, looks)
        ways = [way for way in ways if tenth / 10 <= way.chance < (tenth + 1) / 10 + (tenth == 9)]
        if not ways:
            continue
        asked += 1
        told += ways[0].chance
        kept += _followed(generator, whole, gain, ways[0]) == "real_gain"
    return max(0, round(told - kept))


# Of the mean of a sitting's three runs, whose median is taken, and of the reboot.
_UNIT_SD = math.sqrt(1.0 + 1.35 / 3)


def _left_open(
    generator: np.random.Generator, gain: float, name: WayName, looks: tuple[int, int | None]
) -> tuple[Case, list[Way]]:
    """A bench with more sittings than its first look, and the ways of a kind that it is told where that is open."""
    planned = PlannedMeasure("claim", 0.75 * gain, hoped_for=gain)
    plan = replace(plan_for((SCORE,), looks[0], matters_from=1.0), order="alternating", at_most=looks[1])
    plan = replace(plan, measures={SCORE.id: planned}, pair_by="none")
    held = looks[1] or MOST_SITTINGS if name != "measured over" else looks[0]
    before, after = (side_readings(generator, Bench(1.0), held, 3, gain=g) for g in (0.0, gain))
    whole = make_case([before], [after], plan=plan)
    (result,) = judge_measures(so_far(whole, looks[0], looks[0]))
    if result.verdict.word != "not_settled":
        return whole, []
    return whole, [way for way in result.to_settle.ways if way.name == name and way.goal == "gain"]


def _followed(generator: np.random.Generator, whole: Case, gain: float, way: Way) -> VerdictWord:
    """What the verdict is once a way was gone."""
    k = way.sittings_a_side
    if way.name != "measured over":
        return judge_measures(so_far(whole, k, k))[0].verdict.word
    over = replace(whole.swaps[0].plan, sittings_a_side=k, at_most=None)
    before, after = (side_readings(generator, Bench(1.0), k, 3, gain=g) for g in (0.0, gain))
    return judge_measures(as_attempt(make_case([before], [after], plan=over), 2))[0].verdict.word
