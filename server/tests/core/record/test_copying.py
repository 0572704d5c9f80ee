"""A job laid out for the next PC: what is to be done comes along, what was measured and noted stays."""

from dataclasses import replace
from datetime import date
from decimal import Decimal

import pytest

from lynxbill.core.record.copying import copy_job
from lynxbill.core.record.frame import Case
from lynxbill.core.record.ids import MachineId, SwapId
from lynxbill.core.record.plan import FixedPair
from lynxbill.core.record.swap import Recognition, Step
from lynxbill.core.terms.errors import Missing
from lynxbill.core.terms.money import CostLine
from tests.builders import DAY, TIME, B, make_case

NEXT = MachineId("next")


def done() -> Case:
    case = make_case([[40.0]], [[30.0]], headline=TIME.id)
    (swap,) = case.swaps
    runs = [run.id for run in case.runs]
    plan = replace(
        swap.plan, pairs=(FixedPair(runs[0], runs[1], "same scene"),), borrow_spread_from=(B,), judge_whole=B
    )
    swap = replace(
        swap,
        plan=plan,
        opened_at=DAY,
        closed_at=DAY,
        costs=(CostLine("part", "Varro 6-core", Decimal("118.00"), "EUR", on=date(2026, 5, 4)),),
        steps=(Step("1", "case open", "Paste on", DAY),),
        recognitions=(Recognition("1", "processor, cores", "6", "6", "pass", "as ordered"),),
    )
    machine = replace(case.machine, owner="Fenwick Map Room", question="Is it the processor?", asked_by="R. Feld")
    return replace(case, machine=machine, swaps=(swap,))


def test_the_swap_comes_along_planned_with_nothing_ticked_seen_or_dated() -> None:
    copy = copy_job(done(), NEXT, "Second PC")
    (swap,) = copy.swaps
    assert (copy.machine.id, copy.machine.name, copy.machine.owner, copy.machine.question) == (
        NEXT,
        "Second PC",
        "",
        "",
    )
    assert (copy.sittings, copy.runs, swap.state, swap.opened_at, swap.closed_at) == ((), (), "planned", None, None)
    assert [(step.text, step.done_at) for step in swap.steps] == [("Paste on", None)]
    assert [(r.expected, r.seen, r.result, r.remark) for r in swap.recognitions] == [("6", "", None, "")]
    assert [(line.amount, line.on) for line in swap.costs] == [(Decimal("118.00"), None)]
    assert [build.letter for build in copy.builds] == ["A", "B"]


def test_what_names_runs_or_builds_of_the_first_machine_stays_there() -> None:
    plan = copy_job(done(), NEXT, "Second PC").swaps[0].plan
    assert (plan.pairs, plan.borrow_spread_from, plan.judge_whole, plan.headline) == ((), (), None, TIME.id)


def test_a_measure_that_was_set_aside_is_not_planned_again() -> None:
    case = done()
    copy = copy_job(replace(case, measures=(replace(TIME, set_aside="no longer asked"),)), NEXT, "Second PC")
    assert (copy.swaps[0].plan.measures, copy.swaps[0].plan.headline) == ({}, None)


def test_without_a_swap_the_standing_build_comes_and_a_swap_it_never_had_is_refused() -> None:
    case = done()
    bare = replace(case, swaps=(), builds=case.builds[:1], open_plan=case.swaps[0].plan)
    copy = copy_job(bare, NEXT, "Second PC")
    assert (copy.swaps, copy.builds) == ((), case.builds[:1])
    assert copy.open_plan is not None
    assert copy.open_plan.measures.keys() == {TIME.id}
    with pytest.raises(Missing, match="no such swap"):
        copy_job(case, NEXT, "Second PC", SwapId("another"))
