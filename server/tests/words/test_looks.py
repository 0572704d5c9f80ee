"""Which look says it, what another could bring, and what a comparison says of all its results together."""

from dataclasses import replace
from typing import Any

import pytest

from lynxbill.core.record.frame import Case
from lynxbill.core.record.plan import PlannedMeasure
from lynxbill.core.record.run import Reading
from lynxbill.core.record.swap import Attempt
from lynxbill.core.result.comparison import judge
from lynxbill.core.result.result import Comparison
from lynxbill.core.terms.measure import Measure, MeasureId
from lynxbill.words.results.comparison import WordedOfAll, say_bundle, say_comparison, write_comparison
from tests.builders import DAY, RISE, TIME, Side, make_case

SLOW, FAST = [[40.0], [40.2], [40.1]], [[30.0], [30.2], [30.1]]
LIKE_SLOW = [[39.5], [40.9], [39.7]]
OTHER = Measure(MeasureId("other"), "Other job", "job", "s", "ratio", "time", "lower", step=1e-9)


def sentence(case: Case) -> WordedOfAll:
    return say_comparison(shown(judge(case)), ".")


def shown(comparison: Comparison) -> Comparison:
    return replace(comparison, measures=tuple(replace(result, shown=True) for result in comparison.measures))


def of(before: Side, after: Side, **plan: Any) -> Case:
    return make_case(before, after, headline=TIME.id, **plan)


def again(case: Case) -> Case:
    """The same, measured over."""
    sittings = tuple(replace(sitting, attempt=2) for sitting in case.sittings)
    return replace(case, sittings=sittings, swaps=(replace(case.swaps[0], attempts=(Attempt(DAY, "a loose fan"),)),))


@pytest.mark.parametrize(
    ("case", "look"),
    [
        (of(SLOW, FAST, sittings_a_side=3), "The plan’s one look, at 95 %."),
        (of(SLOW, FAST, sittings_a_side=3, at_most=6), "The first look of two, at 97 %."),
        (
            of(SLOW, LIKE_SLOW, sittings_a_side=3, at_most=6),
            "The first look of two, at 97 %. A second one, at 6 a side, could still settle it.",
        ),
        (of(2 * SLOW, 2 * LIKE_SLOW, sittings_a_side=3, at_most=6), "The second look of two, at 97 %."),
        (of(2 * SLOW, 2 * FAST, sittings_a_side=8), "Outside the plan’s looks, by a stricter rule."),
        (
            of(2 * SLOW, 2 * LIKE_SLOW, sittings_a_side=8),
            "Outside the plan’s looks, by a stricter rule. Its first look is due at 8 a side.",
        ),
        (
            again(of(SLOW, FAST, sittings_a_side=3)),
            "The plan’s one look, at 97.5 %. Attempt 2: every level is halved.",
        ),
        (of(SLOW, [], sittings_a_side=3), None),
    ],
)
def test_it_is_said_which_look_of_the_plan_speaks(case: Case, look: str | None) -> None:
    assert sentence(case).look == look


def test_builds_that_were_not_planned_to_be_compared_are_said_to_be() -> None:
    case = of(2 * SLOW, 2 * FAST, sittings_a_side=None)
    assert (sentence(case).look or "").startswith("Nothing was planned between these two builds: a stricter rule")


def with_other(case: Case, before: float, after: float) -> Case:
    """A second claim, read in the same runs."""
    runs = []
    for number, run in enumerate(case.runs):
        value = (before if run.sitting_id.startswith("B") else after) + number % 3 / 10
        runs.append(replace(run, readings=dict(run.readings) | {OTHER.id: Reading(value, value)}))
    (swap,) = case.swaps
    measures = dict(swap.plan.measures) | {OTHER.id: PlannedMeasure("claim", 2.0)}
    swaps = (replace(swap, plan=replace(swap.plan, measures=measures)),)
    return replace(case, measures=(*case.measures, OTHER), runs=tuple(runs), swaps=swaps)


def test_what_got_worse_is_said_before_what_got_better() -> None:
    worse = sentence(with_other(of(SLOW, FAST), 20.0, 30.0))
    assert worse.losses is not None
    assert "Other job" in worse.losses
    assert worse.rest.startswith("Job: 1.33× as fast, and the gain is real.")
    better = sentence(with_other(of(SLOW, FAST), 30.0, 20.0))
    assert better.losses is None
    assert better.rest.startswith("Nothing was shown to get worse.")
    assert better.counts == "In all: 2 real gains."


def test_a_bundle_is_named_where_more_than_one_thing_was_changed() -> None:
    assert say_bundle(["processor"]) is None
    assert say_bundle(["processor", "fresh paste"]) == "Changed together: processor and fresh paste."


def test_as_plain_text_it_has_a_line_for_each_measure() -> None:
    text = write_comparison(shown(judge(with_other(of(SLOW, FAST), 30.0, 30.0))), ".")
    head, rows = text.split("\n\n")
    assert head.splitlines()[0].startswith("Nothing was shown to get worse.")
    first, second = rows.splitlines()
    assert first.startswith("Job: 40.1 → 30.1 s. 1.33× as fast (+33")
    assert first.endswith("Real gain.")
    assert second.endswith("No change.")
    assert "%" not in write_comparison(shown(judge(make_case(SLOW, FAST, RISE, headline=RISE.id))), ".").split(":")[0]


def test_what_is_not_measured_is_said_as_such() -> None:
    assert sentence(of([], [])).rest == "Job is not measured on both sides yet."
    assert sentence(replace(of([], []), measures=())).rest == "Nothing is measured on these two builds yet."
