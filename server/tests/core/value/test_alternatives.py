"""Every way to spend the money side by side: what takes part, who buys most, and what ten more would buy."""

from dataclasses import replace
from decimal import Decimal
from typing import Any

import pytest

from lynxbill.core.record.build import Candidate
from lynxbill.core.record.frame import Case, Machine
from lynxbill.core.record.ids import MachineId
from lynxbill.core.result.comparison import judge, showings_of
from lynxbill.core.value.account import Terms
from lynxbill.core.value.alternatives import Option, options_of
from lynxbill.core.value.bill import judge_and_bill
from lynxbill.core.value.ladder_total import whole_chain
from lynxbill.core.value.payback import payback_of
from lynxbill.core.value.reckoning import reckon
from tests.builders import DAY, TIME, B, C, D
from tests.core.value.test_better import ladder


def given(case: Case) -> Case:
    """Judge has shown every swap's verdicts."""
    swaps = tuple(
        replace(s, shown=showings_of(case, made := judge(case, s.before, s.after), made.measures, at=DAY))
        for s in case.swaps
    )
    return replace(case, swaps=swaps)


def candidate(name: str, price: str, gain: float, low: float | None = None, high: float | None = None) -> Candidate:
    return Candidate(name, "drive", name, price=Decimal(price), expected_gain=gain, gain_low=low, gain_high=high)


def options(case: Case, *candidates: Candidate, **terms: Any) -> dict[str, Option]:
    case = replace(case, candidates=candidates)
    made: dict[str, Any] = {s.id: judge(case, s.before, s.after) for s in case.swaps}
    found = options_of(case, made, TIME, Terms(**terms))
    return {option.id or "nothing": option for option in found}


TWO = given(ladder((40, 30, 28), (("100",), ("20",))))


def test_doing_nothing_is_a_row_and_what_judge_has_not_given_has_no_gain() -> None:
    found = options(TWO)
    assert found["nothing"].cost == 0
    assert found["BC"].gain == pytest.approx(33.3, abs=1.5)
    assert found["BC"].value.gain_per_10 == pytest.approx(3.33, abs=0.15)
    hidden = options(ladder((40, 30, 28), (("100",), ("20",))))
    assert (hidden["BC"].gain, hidden["BC"].verdict, hidden["BC"].waits) == (None, "untested", True)
    assert hidden["BC"].chance is None


def test_a_candidate_takes_part_only_with_both_ends_of_what_is_expected() -> None:
    bare = options(TWO, candidate("drive", "10.00", 20.0))
    assert bare["drive"].chance is None
    assert bare["drive"].value.gain_per_10 == 20.0
    ranged = options(TWO, candidate("drive", "10.00", 20.0, 10.0, 30.0))
    assert ranged["drive"].chance == 1.0
    chances = [option.chance for option in ranged.values() if option.chance is not None]
    assert sum(chances) == pytest.approx(1.0)


def test_alike_ways_share_the_chance_and_the_order_of_candidates_changes_nothing() -> None:
    twins = [candidate(name, "10.00", 20.0, 10.0, 30.0) for name in ("one", "two")]
    found = options(TWO, *twins)
    assert found["one"].chance == pytest.approx(0.5, abs=0.02)
    far = [candidate("one", "10.00", 20.0, 10.0, 30.0), candidate("two", "10.01", 20.5, 10.0, 31.0)]
    assert options(TWO, *far)["two"].chance == options(TWO, *far[::-1])["two"].chance
    assert 0.3 < (options(TWO, *far)["two"].chance or 0) < 0.7


def test_ten_more_buy_what_is_gained_over_the_next_cheaper_that_is_not_outdone() -> None:
    found = options(
        TWO,
        candidate("cheap", "50.00", 10.0),
        candidate("poor", "60.00", 8.0),
        candidate("dear", "200.00", 50.0),
    )
    second = found["CD"].gain or 0.0
    assert found["CD"].extra_per_10 == pytest.approx(10 * second / 20)
    assert found["cheap"].extra_per_10 == pytest.approx(10 * (10.0 - second) / 30)
    assert (found["poor"].extra_per_10, found["poor"].outdone) == (None, True)
    assert found["dear"].extra_per_10 == pytest.approx(10 * (50.0 - (found["BC"].gain or 0)) / 100)


def test_what_was_expected_stands_beside_what_was_achieved() -> None:
    fitted = replace(candidate("fitted", "100.00", 40.0), swap=TWO.swaps[0].id)
    found = options(TWO, fitted)
    assert "fitted" not in found
    assert found["BC"].expected == 40.0


def test_the_whole_ladder_has_the_cost_of_all_steps_and_their_shares_add_up() -> None:
    case = replace(TWO, machine=Machine(MachineId("machine"), "Machine", "EUR", price=Decimal("250.00")))
    way = whole_chain(case)
    assert way is not None
    assert [swap.id for swap in way[2]] == ["BC", "CD"]
    whole_shown = showings_of(case, total := judge(case, B, D), total.measures, at=DAY)
    last = replace(case.swaps[1], shown=(*(case.swaps[1].shown or ()), *whole_shown))
    case = replace(case, swaps=(case.swaps[0], last))
    (setting,) = reckon(case, C, D, 0).settings
    whole = setting.whole
    assert whole is not None
    assert (whole.bill.net_cost, whole.with_machine) == (Decimal("120.00"), Decimal("370.00"))
    assert sum(step.shares[TIME.id] for step in whole.steps) == pytest.approx(1.0)
    assert whole_chain(replace(case, swaps=case.swaps[:1])) is None


def test_a_step_whose_verdict_was_not_given_has_no_share() -> None:
    case = replace(TWO, swaps=(TWO.swaps[0], replace(TWO.swaps[1], shown=())))
    (setting,) = reckon(case, B, C, 0).settings
    assert setting.whole is not None
    assert all(step.shares == {} for step in setting.whole.steps)


def test_the_weeks_until_it_is_earned_back_are_the_cost_over_what_a_week_saves() -> None:
    machine = replace(TWO.machine, tasks_a_week=360, hour_worth=Decimal("20.00"))
    billed = judge_and_bill(TWO, B, C)
    lead = billed.comparison.lead
    made = payback_of(machine, lead, billed.bill)
    assert made is not None
    # About 10 s a job, an hour a week, 20.00: 100.00 in five weeks.
    assert made.weeks == pytest.approx(5.0, rel=0.06)
    assert made.high is not None
    assert made.low < made.weeks < made.high
    assert made.weeks == pytest.approx(100 / (made.saved_s * 360 / 3600 * 20))
    assert payback_of(TWO.machine, lead, billed.bill) is None, "nobody said what an hour is worth"
    free = judge_and_bill(ladder((40, 30), (("0",),)), B, C)
    assert payback_of(machine, free.comparison.lead, free.bill) is None
