"""The one plan that holds for a pair of builds, and what looks it grants, whichever way round it is asked."""

from dataclasses import replace
from datetime import timedelta
from typing import Any

import pytest

from lynxbill.core.plan.agreement import agreement_of, check_looks, first_reading, looks_of, plan_between
from lynxbill.core.record.build import Build
from lynxbill.core.record.frame import Case
from lynxbill.core.record.ids import SwapId
from lynxbill.core.record.plan import Plan
from lynxbill.core.record.swap import Attempt, MarginEdit, Swap
from lynxbill.core.terms.errors import BadValue
from tests.builders import DAY, TIME, B, C, D, make_case, make_run


def ladder(**plan: Any) -> Case:
    """Builds B, C and D; the plan is that of the swap from B to C, and D's asks for two sittings a side."""
    case = make_case([[40.0]], [[30.0]], **plan)
    (swap,) = case.swaps
    last = Swap(SwapId("second"), C, D, "Second", replace(swap.plan, sittings_a_side=2, at_most=None))
    return replace(case, builds=(*case.builds, Build(D, "D", "Last")), swaps=(swap, last))


def with_first(case: Case, **members: Any) -> Case:
    return replace(case, swaps=(replace(case.swaps[0], **members), *case.swaps[1:]))


def test_a_pair_has_one_plan_whichever_way_round_it_is_asked() -> None:
    case = ladder(sittings_a_side=3)
    there, back = agreement_of(case, B, C), agreement_of(case, C, B)
    assert (there.before, there.after, there.mirrored, there.first, there.planned) == (B, C, False, 3, True)
    assert back == replace(there, mirrored=True)
    # A swap back later changes nothing: the first plan of the pair holds for ever.
    flipped = Swap(SwapId("back"), C, B, "Back", Plan(sittings_a_side=9))
    assert agreement_of(replace(case, swaps=(*case.swaps, flipped)), C, B).first == 3


def test_builds_that_no_swap_joins_get_no_look_and_the_margins_of_the_later_plan() -> None:
    case = ladder(sittings_a_side=3)
    found = agreement_of(case, B, D)
    assert (found.planned, found.first, found.attempt, found.swap) == (False, None, 1, case.swaps[1])
    assert found.plan.measures == case.swaps[1].plan.measures
    assert found.compared == B
    bare = agreement_of(replace(case, swaps=()), B, D)
    assert (bare.swap, bare.planned) == (None, False)
    assert bare.plan.measures[TIME.id].matters_from == 2.0


def test_a_whole_that_was_named_in_advance_has_the_looks_of_its_last_plan() -> None:
    case = ladder(sittings_a_side=3)
    last = case.swaps[1]
    named = replace(case, swaps=(case.swaps[0], replace(last, plan=replace(last.plan, judge_whole=B))))
    found = agreement_of(named, B, D)
    assert (found.whole, found.first, found.swap) == (True, 2, named.swaps[1])
    assert agreement_of(named, D, B).mirrored
    # The step itself keeps its own.
    assert not agreement_of(named, C, D).whole


def test_a_build_that_was_measured_before_its_case_was_opened_has_no_look() -> None:
    case = ladder(sittings_a_side=3)
    read = first_reading(case, C)
    assert read is not None
    assert agreement_of(with_first(case, opened_at=read - timedelta(minutes=1)), B, C).planned
    assert not agreement_of(with_first(case, opened_at=read + timedelta(minutes=1)), B, C).planned


def test_the_first_reading_is_when_it_was_written_else_when_its_run_or_sitting_began() -> None:
    case = make_case([[40.0]], [[30.0], [31.0]])
    assert first_reading(case, C) == min(s.started_at for s in case.sittings if s.build_id == C)
    written = tuple(replace(run, written_at=DAY) if run.sitting_id == "C1" else run for run in case.runs)
    assert first_reading(replace(case, runs=written), C) == DAY
    emptied = tuple(replace(run, readings={}) for run in written)
    assert first_reading(replace(case, runs=emptied), C) == DAY, "what was read and taken back was known"
    never = tuple(replace(run, readings={}, state="failed", reason="it hung") for run in case.runs)
    assert first_reading(replace(case, runs=never), C) is None
    later = tuple(replace(s, attempt=2) if s.id == "C0" else s for s in case.sittings)
    again = replace(case, sittings=later, runs=(*case.runs, make_run("C1", 9, 30.0)))
    assert first_reading(again, C, attempt=2) == next(s.started_at for s in later if s.id == "C0")


def test_each_attempt_halves_the_levels_and_may_ask_for_other_numbers() -> None:
    case = ladder(sittings_a_side=3, at_most=6)
    assert looks_of(case.swaps[0].plan) == (3, 6, 0.03, 0.05)
    anew = Attempt(DAY, "the fan's lead was loose", "both sides", 4, None)
    found = agreement_of(with_first(case, attempts=(anew,)), B, C)
    assert (found.attempt, found.first, found.second, found.alpha, found.alpha_any) == (2, 4, None, 0.025, 0.025)
    assert found.alpha_after(last_look_over=True) == found.alpha_after(last_look_over=False) / 2
    as_planned = agreement_of(with_first(case, attempts=(replace(anew, sittings_a_side=None),)), B, C)
    assert (as_planned.first, as_planned.second, as_planned.alpha) == (3, 6, 0.015)


def test_a_margin_that_was_changed_after_readings_decides_nothing() -> None:
    edits = [MarginEdit(DAY, TIME.id, "matters_from", old, new, "", late) for old, new, late in (
        (2.0, 1.0, True), (1.0, 0.5, True),
    )]  # fmt: skip
    late = agreement_of(with_first(ladder(matters_from=0.5), margin_edits=tuple(edits)), B, C)
    assert late.plan.measures[TIME.id].matters_from == 2.0
    early = tuple(replace(edit, late=False) for edit in edits)
    kept = agreement_of(with_first(ladder(matters_from=0.5), margin_edits=early), B, C)
    assert kept.plan.measures[TIME.id].matters_from == 0.5


@pytest.mark.parametrize(("first", "second"), [(2, 3), (2, 5), (3, 7), (5, None), (None, None)])
def test_a_second_look_of_up_to_twice_as_many_and_one_is_allowed(first: int | None, second: int | None) -> None:
    check_looks(first, second)


@pytest.mark.parametrize(
    ("first", "second", "sentence"),
    [
        (None, 4, "needs a first one of two"),
        (1, 2, "needs a first one of two"),
        (3, 3, "after a first look at 3 a side a second one has 4 to 7"),
        (3, 8, "after a first look at 3 a side a second one has 4 to 7"),
    ],
)
def test_another_is_refused_with_what_would_do(first: int | None, second: int, sentence: str) -> None:
    with pytest.raises(BadValue, match=sentence):
        check_looks(first, second)


def test_a_plan_between_builds_is_known_without_a_look_too() -> None:
    case = ladder(sittings_a_side=3)
    assert plan_between(case, B, C) == plan_between(case, C, B) == case.swaps[0].plan
    assert plan_between(case, B, D) == case.swaps[1].plan
    assert plan_between(replace(case, swaps=()), B, C) is None
