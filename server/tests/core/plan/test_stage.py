"""Where a job stands in the order of work, from nothing to judged and back."""

from dataclasses import replace

import pytest

from lynxbill.core.plan.progress import tally_builds
from lynxbill.core.plan.stage import current_swap, find_job_state
from lynxbill.core.record.frame import Case
from lynxbill.core.record.swap import SwapState
from tests.builders import B, C, make_case

HALF, WHOLE = [[40.0]], [[40.0], [40.1]]
FAST = [[30.0], [30.1]]


def job_states(case: Case) -> str:
    return find_job_state(case, tally_builds(case))


def at(state: SwapState, case: Case) -> Case:
    return replace(case, swaps=(replace(case.swaps[0], state=state),))


def planned(before: list[list[float]], after: list[list[float]]) -> Case:
    return make_case(before, after, sittings_a_side=2)


@pytest.mark.parametrize(
    ("case", "job_state"),
    [
        (at("planned", planned(HALF, [])), "planned"),
        (at("open", planned(WHOLE, [])), "open"),
        (at("closed", planned(WHOLE, [])), "after"),
        (at("closed", planned(WHOLE, HALF)), "after"),
        (at("closed", planned(WHOLE, FAST)), "judged"),
    ],
)
def test_a_swap_leads_from_planned_to_judged(case: Case, job_state: str) -> None:
    assert job_states(case) == job_state


def test_before_any_swap_it_is_set_up_then_the_baseline_then_time_to_swap() -> None:
    def first(before: list[list[float]]) -> Case:
        case = planned(before, [])
        return replace(case, swaps=(), builds=case.builds[:1], open_plan=case.swaps[0].plan)

    assert job_states(first(HALF)) == "baseline"
    assert job_states(first(WHOLE)) == "swap"
    assert job_states(replace(first(WHOLE), measures=(), runs=())) == "set up"
    assert job_states(replace(first(WHOLE), builds=(), sittings=(), runs=())) == "set up"


def test_the_open_swap_is_worked_on_before_one_that_is_planned() -> None:
    case = planned(WHOLE, FAST)
    (done,) = case.swaps
    waiting, open_one = replace(done, state="planned"), replace(done, before=C, after=B, state="open")
    assert current_swap(replace(case, swaps=(done, waiting, open_one))) == open_one
    assert current_swap(replace(case, swaps=(done, waiting))) == waiting
    assert current_swap(case) is None
