"""The bill says nothing that goes against the verdict of the claim that leads."""

from dataclasses import replace
from decimal import Decimal

import pytest

from lynxbill.core.record.build import Build
from lynxbill.core.record.frame import Case
from lynxbill.core.record.ids import SwapId
from lynxbill.core.record.plan import PlannedMeasure
from lynxbill.core.record.run import Reading
from lynxbill.core.record.swap import Swap
from lynxbill.core.terms.measure import Measure, MeasureId
from lynxbill.core.terms.money import CostLine
from lynxbill.core.value.bill import Bill, judge_and_bill
from tests.builders import RISE, TIME, B, C, D, Side, make_case

SLOW: Side = [[40.0, 40.2, 40.1], [40.3, 40.1, 40.2], [40.1, 40.0, 40.2]]
FAST: Side = [[30.0, 30.2, 30.1], [30.3, 30.1, 30.2], [30.1, 30.0, 30.2]]
PART = CostLine("part", "Varro", Decimal("50.00"), "EUR")
RESALE = CostLine("resale", "old one", Decimal("60.00"), "EUR")
GIFT = CostLine("part", "from the drawer", Decimal("0.00"), "EUR")


NEAR = [[39.0, 39.4, 39.2], [38.2, 38.6, 38.4], [39.9, 39.7, 39.8]]


def with_costs(case: Case, *costs: CostLine) -> Case:
    return replace(case, swaps=(replace(case.swaps[0], costs=costs),))


def bill_of(before: Side, after: Side, *costs: CostLine, measure: Measure = TIME, sittings: int = 3) -> Bill:
    return judge_and_bill(with_costs(make_case(before, after, measure, sittings_a_side=sittings), *costs)).bill


@pytest.mark.parametrize(
    ("bill", "note", "has_ratio"),
    [
        (bill_of(SLOW, FAST, PART), None, True),
        (bill_of(SLOW, SLOW, PART), "no_change", False),
        (bill_of(FAST, SLOW, PART), "loss", False),
        (bill_of(FAST, SLOW, PART, RESALE), "loss_that_pays", False),
        (bill_of(SLOW, FAST, PART, sittings=4), None, True),
        (bill_of(SLOW, NEAR, PART, sittings=4), "plan_incomplete", False),
        (bill_of([[40.0]], [[30.0]], PART, sittings=1), "untested", False),
        (bill_of(SLOW, FAST), "no_costs", False),
        (bill_of(SLOW, FAST, PART, RESALE), "pays_for_itself", False),
        (bill_of(SLOW, FAST, GIFT), "cost_nothing", False),
        (bill_of([[40.0], [44.0], [36.0]], [[39.0], [43.0], [38.0]], PART), "not_settled_at_most", False),
        (bill_of([[40.0], [44.0], [36.0]], [[39.0], [43.0], [38.0]], PART, RESALE), "not_settled", False),
        (bill_of(SLOW, FAST, PART, measure=replace(TIME, kind="power", unit="W")), "no_ratio", False),
    ],
)  # fmt: skip
def test_there_is_a_ratio_for_a_real_gain_alone(bill: Bill, note: str | None, has_ratio: bool) -> None:
    assert bill.value.note == note
    assert (bill.value.gain_per_10 is not None) == has_ratio
    assert bill.value.low is None or has_ratio


def test_a_swap_without_cost_lines_has_no_cost_and_one_for_nothing_costs_nothing() -> None:
    assert bill_of(SLOW, FAST).net_cost is None
    assert bill_of(SLOW, FAST, GIFT).net_cost == Decimal("0.00")


def test_a_chain_with_a_step_whose_cost_is_not_given_has_no_cost() -> None:
    case = with_costs(make_case(SLOW, FAST), PART)
    step = Swap(SwapId("next"), C, D, "Next", case.swaps[0].plan)
    chain = replace(case, builds=(*case.builds, Build(D, "D", "D")), swaps=(*case.swaps, step))
    assert judge_and_bill(chain, B, D).bill.net_cost is None
    paid = replace(chain, swaps=(chain.swaps[0], replace(step, costs=(PART,))))
    assert judge_and_bill(paid, B, D).bill.net_cost == Decimal("100.00")


def test_heat_is_bought_by_the_kelvin() -> None:
    warm, cool = [[50.0, 50.2], [50.1, 50.3], [50.2, 50.0]], [[47.2, 47.4], [47.3, 47.5], [47.4, 47.2]]
    value = bill_of(warm, cool, PART, measure=RISE).value
    assert value.note is None
    assert value.gain_per_10 == pytest.approx(10 * 2.8 / 50)
    assert value.low is not None
    assert value.high is not None
    assert value.low < 0.56 < value.high


def test_a_measure_without_a_reading_in_one_sitting_does_not_empty_the_bill() -> None:
    other = replace(TIME, id=MeasureId("other"), name="Other")
    case = with_costs(make_case(SLOW, FAST, sittings_a_side=3, headline="time"), PART)
    plan = case.swaps[0].plan
    both = replace(plan, measures={**plan.measures, MeasureId("other"): PlannedMeasure("claim", 2.0)})
    runs = tuple(
        replace(run, readings={**run.readings, MeasureId("other"): Reading(9.0, 9.0)})
        if run.sitting_id != "B1"
        else run
        for run in case.runs
    )
    gapped = replace(case, measures=(TIME, other), runs=runs, swaps=(replace(case.swaps[0], plan=both),))
    billed = judge_and_bill(gapped)
    comparison = billed.comparison
    assert comparison.lead is not None
    assert comparison.lead.measure == TIME
    assert billed.bill.value == judge_and_bill(case).bill.value
    assert billed.bill.value.gain_per_10 is not None


def test_the_overall_gain_lends_no_value_to_a_headline_that_is_not_real() -> None:
    other = replace(TIME, id=MeasureId("other"), name="Other")
    case = with_costs(make_case(SLOW, SLOW, sittings_a_side=3, headline="time"), PART)
    plan = case.swaps[0].plan
    both = replace(plan, measures={**plan.measures, MeasureId("other"): PlannedMeasure("claim", 2.0, weight=3.0)})
    runs = tuple(
        replace(
            run,
            readings={**run.readings, MeasureId("other"): Reading(v := 9.0 if run.sitting_id[0] == "B" else 6.0, v)},
        )
        for run in case.runs
    )
    whole = replace(case, measures=(TIME, other), runs=runs, swaps=(replace(case.swaps[0], plan=both),))
    billed = judge_and_bill(whole)
    comparison = billed.comparison
    assert comparison.overall is not None
    assert comparison.overall.difference > 0.2
    assert billed.bill.value.note == "no_change"
    assert billed.bill.value.gain_per_10 is None
