"""Whether one swap was better value than another."""

import math
from dataclasses import replace
from decimal import Decimal
from typing import Any

import numpy as np
import pytest
from scipy import stats

from lynxbill.core.record.build import Build
from lynxbill.core.record.frame import Case
from lynxbill.core.record.ids import BuildId, SittingId, SwapId
from lynxbill.core.record.run import Reading, Sitting
from lynxbill.core.record.swap import Swap
from lynxbill.core.result.comparison import judge
from lynxbill.core.terms.measure import Measure
from lynxbill.core.terms.money import CostLine
from lynxbill.core.value.better import better_value, judge_beside_others, judge_every_swap
from lynxbill.core.value.bill import judge_and_bill
from tests.builders import RISE, TIME, B, C, D, make_case, make_run

NOISE = np.random.default_rng(7).normal(0, 0.004, (4, 4, 3))
Costs = tuple[str, ...]


def ladder(times: tuple[float, ...], costs: tuple[Costs, ...], **plan: Any) -> Case:
    """Builds B, C, D … with a swap from each to the next; true times of the job, and what each swap cost."""
    names = "BCDE"[: len(times)]
    case = make_case([], [], **{"sittings_a_side": 4} | plan)
    sittings, runs = [], []
    for number, (name, level) in enumerate(zip(names, times, strict=True)):
        for k, noise in enumerate(NOISE[number]):
            first = make_case([[1.0]], []).sittings[0]
            start = first.started_at.replace(month=5 + number, day=4 + k)
            sittings.append(Sitting(SittingId(f"{name}{k}"), BuildId(name), "plan", start, closed_at=start))
            runs += [make_run(f"{name}{k}", r + 1, level * math.exp(e)) for r, e in enumerate(noise)]
    swaps = tuple(
        Swap(
            SwapId(f"{a}{b}"),
            BuildId(a),
            BuildId(b),
            f"{a} to {b}",
            case.swaps[0].plan,
            costs=tuple(line(text) for text in lines),
        )
        for a, b, lines in zip(names, names[1:], costs, strict=False)
    )
    builds = tuple(Build(BuildId(name), name, name) for name in names)
    return replace(case, builds=builds, sittings=tuple(sittings), runs=tuple(runs), swaps=swaps)


def line(text: str) -> CostLine:
    amount = Decimal(text)
    return CostLine("resale" if amount < 0 else "part", "x", abs(amount), "EUR")


def probability(case: Case) -> float | None:
    return better_value(judge_and_bill(case, B, C), judge_and_bill(case, C, D)).probability


def test_more_gain_for_less_money_is_surely_better_value_and_the_reverse() -> None:
    case = ladder((40, 30, 28.5), (("20",), ("80",)))
    better = better_value(judge_and_bill(case, B, C), judge_and_bill(case, C, D))
    assert better.winner == "first"
    back = better_value(judge_and_bill(case, C, D), judge_and_bill(case, B, C))
    assert back.winner == "second"
    assert back.probability == pytest.approx(1 - (better.probability or 0))
    assert better.mirrored() == back


def test_readings_without_any_scatter_are_no_surer_than_their_rounding() -> None:
    case = ladder((40, 36, 32.5), (("50",), ("50",)))
    coarse_s = {"B": 40.0, "C": 36.0, "D": 33.0}
    flat = tuple(replace(run, readings={TIME.id: Reading(v := coarse_s[run.sitting_id[0]], v)}) for run in case.runs)
    coarse = replace(case, runs=flat, measures=(replace(case.measures[0], step=2.0),))
    first, second = judge_and_bill(coarse, B, C), judge_and_bill(coarse, C, D)
    doubtful = better_value(first, second).probability
    fine_s = {"B": 40.001, "C": 36.002, "D": 32.503}
    alike = tuple(replace(run, readings={TIME.id: Reading(v := fine_s[run.sitting_id[0]], v)}) for run in case.runs)
    fine = replace(case, runs=alike, measures=(replace(case.measures[0], step=0.001),))
    sure = better_value(judge_and_bill(fine, B, C), judge_and_bill(fine, C, D)).probability
    assert doubtful is not None
    assert sure is not None
    assert sure > 0.999
    assert doubtful < 0.99


def test_of_flat_readings_the_probability_is_that_of_their_rounding_by_hand() -> None:
    """The scatter is q/√12 with 9 df, and as much once more for each build: rounding is shared by its sittings."""
    seconds = {"B": 40.0, "C": 36.0, "D": 33.0}
    case = ladder((40, 36, 33), (("50",), ("50",)))
    runs = tuple(replace(run, readings={TIME.id: Reading(v := seconds[run.sitting_id[0]], v)}) for run in case.runs)
    flat = replace(case, runs=runs, measures=(replace(case.measures[0], step=2.0),))
    q = max(judge(flat, B, C).measures[0].sides.step, judge(flat, C, D).measures[0].sides.step)
    gap = -2 * math.log(36) + math.log(40) + math.log(33)
    generator = np.random.default_rng(2)
    scatter = q / math.sqrt(12) * np.sqrt(9 / generator.chisquare(9, 200_000))
    sd = np.sqrt(6 * (scatter**2 / 4 + q**2 / 12))
    expected = float(np.mean(stats.norm.cdf(gap / sd)))
    assert 0.6 < expected < 0.9
    assert probability(flat) == pytest.approx(expected, abs=0.015)


def test_like_gains_at_like_costs_are_undecided() -> None:
    p = probability(ladder((40, 36, 32.4), (("50",), ("50",))))
    assert p is not None
    assert 0.05 < p < 0.95


def test_the_probability_is_that_of_the_shared_mean_by_hand() -> None:
    """Equal certain costs: the first is better where 2·m_C > m_B + m_D on the log scale, a t with 9 df."""
    case = ladder((40, 36.2, 32.4), (("50",), ("50",)))
    units = np.median(np.log([40, 36.2, 32.4])[:, None, None] + NOISE[:3], axis=2)
    means, s2 = -units.mean(axis=1), units.var(axis=1, ddof=1).mean()
    gap = 2 * means[1] - means[0] - means[2]
    expected = stats.t.cdf(gap / math.sqrt(s2 * (4 + 1 + 1) / 4), 9)
    assert probability(case) == pytest.approx(expected, abs=0.015)


def test_the_same_data_give_the_same_probability_whatever_the_ids_are_called() -> None:
    case = ladder((40, 36, 33), (("50",), ("40",)))
    renamed = {"B": "x", "C": "a", "D": "m"}
    other = replace(
        case,
        builds=tuple(replace(b, id=BuildId(renamed[b.id])) for b in case.builds),
        sittings=tuple(replace(s, build_id=BuildId(renamed[s.build_id])) for s in case.sittings),
        swaps=tuple(
            replace(s, id=SwapId(s.id[::-1]), before=BuildId(renamed[s.before]), after=BuildId(renamed[s.after]))
            for s in case.swaps
        ),
    )
    assert better_value(
        judge_and_bill(other, BuildId("x"), BuildId("a")), judge_and_bill(other, BuildId("a"), BuildId("m"))
    ).probability == probability(case)


@pytest.mark.parametrize(
    ("case", "note"),
    [
        (ladder((40, 30, 28), (("50",), ())), "no_costs"),
        (ladder((40, 39.9, 39.8), (("50",), ("50",)), sittings_a_side=9, matters_from=0.1), "plan_incomplete"),
        (ladder((40, 30, 28), (("-5",), ("10", "-20"))), "both_pay_for_themselves"),
        (ladder((40, 30, 31), (("50",), ("-50",))), "no_gain"),
        (ladder((40, 30, 30), (("50",), ("50",))), "no_gain"),
    ],
)
def test_where_it_cannot_be_said_it_says_why(case: Case, note: str) -> None:
    better = better_value(judge_and_bill(case, B, C), judge_and_bill(case, C, D))
    assert (better.probability, better.winner, better.note) == (None, None, note)


def test_swaps_that_were_judged_by_other_work_are_not_weighed() -> None:
    case = ladder((40, 30, 28), (("50",), ("50",)))
    untested = replace(case, runs=tuple(run for run in case.runs if not run.sitting_id.startswith("D")))
    assert better_value(judge_and_bill(untested, B, C), judge_and_bill(untested, C, D)).note == "untested"


def test_the_guard_is_drawn_from_its_own_allowance() -> None:
    case = ladder((40, 30, 28), (("20",), ("80",)))
    once = tuple(replace(s, plan=replace(s.plan, sittings_a_side=1)) for s in case.swaps)
    single = replace(case, sittings=tuple(s for s in case.sittings if s.id.endswith("0")), swaps=once)
    kept = {s.id for s in single.sittings}
    single = replace(single, runs=tuple(run for run in single.runs if run.sitting_id in kept))
    guarded = probability(single)
    assert guarded is not None
    assert 0.9 < guarded <= (probability(case) or 0)


def test_every_swap_stands_beside_the_others_and_planned_ones_stay_out() -> None:
    case = ladder((40, 30, 28, 27.9), (("20",), ("80",), ("10",)))
    planned = replace(case, swaps=(*case.swaps[:2], replace(case.swaps[2], state="planned")))
    placings = judge_every_swap(planned)
    assert [[other.after for other, _ in placing.others] for placing in placings] == [["D"], ["C"], []]
    alone = judge_beside_others(planned, B, C)
    assert alone.others[0][1] == placings[0].others[0][1]


def test_gains_in_kelvin_are_weighed_as_they_are_by_hand() -> None:
    """What is no percent is drawn in its own unit: at equal certain costs the larger difference is better value."""
    heat = replace(RISE, step=0.01)
    case = ladder((40, 36.2, 32.4), (("50",), ("50",)), measure=heat, matters_from=0.5)
    kelvin = {run.id: 100 * math.log(run.readings[TIME.id].value) for run in case.runs}
    runs = tuple(
        replace(run, readings={RISE.id: Reading(kelvin[run.id], kelvin[run.id])}, soak_s=600.0) for run in case.runs
    )
    cooler = replace(case, runs=runs, measures=(heat,))
    better = better_value(judge_and_bill(cooler, B, C), judge_and_bill(cooler, C, D))
    assert better.note is None
    units = np.median(100 * (np.log([40, 36.2, 32.4])[:, None, None] + NOISE[:3]), axis=2)
    means, s2 = -units.mean(axis=1), units.var(axis=1, ddof=1).mean()
    expected = stats.t.cdf((2 * means[1] - means[0] - means[2]) / math.sqrt(s2 * 6 / 4), 9)
    assert better.probability == pytest.approx(float(expected), abs=0.015)


def test_what_is_counted_has_no_share_with_a_price() -> None:
    works = Measure(TIME.id, "Programs", "job", "1", "outcome", "other", "higher", of=9)
    case = ladder((40, 30, 20), (("50",), ("50",)))
    passed = {"B": 1.0, "C": 5.0, "D": 9.0}
    runs = tuple(replace(run, readings={TIME.id: Reading(v := passed[run.sitting_id[0]], v)}) for run in case.runs)
    counted = replace(case, runs=runs, measures=(works,))
    assert better_value(judge_and_bill(counted, B, C), judge_and_bill(counted, C, D)).note == "not_divisible"
