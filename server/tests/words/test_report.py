"""The report: its answer, what it never leaves out, and what it questions in a typed advice."""

from dataclasses import replace
from datetime import UTC, date, datetime
from decimal import Decimal
from typing import Any

import pytest

from lynxbill.core.record.frame import Case
from lynxbill.core.record.plan import Recheck
from lynxbill.core.record.run import READING, Reading, Was
from lynxbill.core.record.swap import BenchNote, Explanation
from lynxbill.core.result.answer import answer_of
from lynxbill.core.result.comparison import judge, showings_of
from lynxbill.core.terms.money import CostLine
from lynxbill.core.value.reckoning import reckon
from lynxbill.words.report.report import Report, Wish, say_report
from lynxbill.words.report.since import say_since
from tests.builders import DAY, RISE, TIME, B, C, Side, make_case

SLOW: Side = [[40.0, 40.2, 40.1], [40.3, 40.1, 40.2], [40.1, 40.0, 40.2]]
FAST: Side = [[30.0, 30.2, 30.1], [30.3, 30.1, 30.2], [30.1, 30.0, 30.2]]
NOISY: Side = [[36.0, 36.2, 36.1], [33.0, 33.4, 33.2], [39.0, 39.1, 39.2]]
PART = CostLine("part", "Varro", Decimal("94.90"), "EUR")


def given(case: Case) -> Case:
    entries = showings_of(case, judge(case), judge(case).measures, at=DAY)
    return replace(case, swaps=(replace(case.swaps[0], shown=entries),))


def job(after: Side = FAST, before: Side = SLOW, hoped: float | None = None, **members: Any) -> Case:
    measure = members.pop("measure", TIME)
    case = make_case(before, after, measure, headline=measure.id)
    plan = case.swaps[0].plan
    planned = replace(plan.measures[measure.id], hoped_for=hoped)
    swap = replace(case.swaps[0], plan=replace(plan, measures={measure.id: planned}), costs=(PART,), **members)
    return given(replace(case, swaps=(swap,)))


def report(case: Case, **wish: Any) -> Report:
    return say_report(case, reckon(case, B, C, 0), Wish(**wish), "Six cores", date(2026, 5, 9))


@pytest.mark.parametrize(
    ("after", "hoped", "word"),
    [
        (FAST, 25.0, "yes"),
        (FAST, 33.0, "not_settled"),
        (FAST, 40.0, "no"),
        (SLOW, 25.0, "no"),
        (NOISY, 5.0, "not_settled"),
        (FAST, None, None),
    ],
)
def test_yes_needs_the_near_end_no_the_far_one_and_without_a_hope_there_is_neither(
    after: Side, hoped: float | None, word: str | None
) -> None:
    case = job(after, hoped=hoped)
    lead = judge(case).lead
    answer = answer_of(lead)
    assert (answer.word if answer else None) == word
    worded = report(case)
    assert worded.answer_word == word
    starts = {
        "yes": "Yes: ",
        "no": "No, less than was hoped for: ",
        "not_settled": "Not settled: ",
        None: "Job takes",
    }
    assert worded.answer.startswith(starts[word])


def test_a_loss_is_no_answer_that_was_hoped_for_and_a_hidden_verdict_gives_none() -> None:
    assert report(job(SLOW, FAST, hoped=5.0)).answer_word == "no"
    hidden = job(hoped=5.0)
    hidden = replace(hidden, swaps=(replace(hidden.swaps[0], shown=()),))
    worded = report(hidden)
    assert worded.answer_word is None
    assert "given to nobody yet" in worded.answer
    assert (worded.rows[0].verdict, worded.rows[0].span, worded.rows[0].interval) == ("untested", None, None)


def test_what_was_hoped_for_stands_in_both_forms_and_heat_in_kelvin() -> None:
    assert report(job(hoped=25.0)).answer == (
        "Yes: Job takes 25 % less time (+33 % speed), and that is more than chance. "
        "Hoped for: +25 % speed, which is 20 % less time."
    )
    cooler: Side = [[50.0, 50.2, 50.1], [50.3, 50.4, 50.2], [49.8, 50.0, 49.9]]
    heat = job([[45.0, 45.2, 45.1]] * 3, cooler, hoped=2.0, measure=replace(RISE, step=0.1))
    assert report(heat).answer == "Yes: Rise: 5.00 K cooler, and that is more than chance. Hoped for: 2 K."


def test_what_must_be_disclosed_stands_at_the_head() -> None:
    gift = CostLine("part", "Varro", Decimal(0), "EUR", basis="gift", worth=Decimal("99.00"), supplier="the maker")
    case = job(gate_reason="it burnt", gate_missing=(), notes=(BenchNote("n", DAY, "glares", kind="drawback"),))
    case = replace(case, swaps=(replace(case.swaps[0], costs=(gift,)),))
    assert report(case, changed_since="a fan was turned").notices == (
        "Varro is a gift, from the maker: nothing paid, 99.00 EUR in a shop.",
        "Begun before the baseline was complete, because: it burnt.",
        "No control: nothing here would show that the machine itself moved.",
        "Drawback: glares",
        "Measured on a provisional build: after the last run this was changed: a fan was turned.",
    )


def test_runs_that_do_not_count_and_corrections_are_told_with_their_reasons() -> None:
    case = job()
    late = datetime(2026, 5, 9, 12, tzinfo=UTC)
    first = replace(case.runs[0], state="spoiled", reason="an update ran")
    was = Was(READING + TIME.id, Reading(41.9, 41.9), late, reason="read off wrongly")
    second = replace(case.runs[1], was=(was,))
    told = report(replace(case, runs=(first, second, *case.runs[2:])))
    assert any(line.startswith("B 1 run 1: ") and "an update ran" in line for line in told.left_out)
    assert told.corrected == ("B 1 run 2, Job: it was 41.9 until 9 May 2026, then 40.2, because: read off wrongly.",)


def test_what_comes_next_names_the_recheck_and_what_would_settle_it() -> None:
    case = job()
    again = replace(case, rechecks=(Recheck("r", C, date(2027, 5, 5), case.swaps[0].plan, "Has it aged?"),))
    assert report(again, next_step="Fit the cooler.").next == (
        "Fit the cooler.",
        "Measure again on 5 May 2027: Has it aged?",
    )


def test_advice_is_taken_from_the_verdicts_and_bound_to_what_was_tested() -> None:
    sentences = report(job()).advice
    assert [advice.says for advice in sentences] == [
        "Worth it for job (25 % less time), as tested.",
        "Tested: job. Nothing is said of any other use.",
    ]
    assert report(job(SLOW)).advice[0].says == "No difference for job, as tested."


@pytest.mark.parametrize(
    ("advice", "against"),
    [
        ("It takes 25 % less time.", None),
        ("It is 30 % faster.", "“30 %” is none of the results."),
        ("It is 33 % faster.", None),
        ("It cost 94.90 EUR net.", None),
        ("It cost 90 EUR.", "“90 EUR” is none of the results."),
        ("The machine is quieter.", "“quieter”: nothing of the kind was measured."),
        ("The machine is slower.", "“slower” goes against the result: Job, +33.33 %, real gain."),
        ("It is twice as fast now.", "“twice” is not what was shown: Job, +33.33 %."),
        ("The job takes half the time.", "“half” is not what was shown: Job, +"),
        ("It is better than new.", "“better than new”: it was compared with the build before"),
        ("Good for games as well.", "“games” was not tested here."),
        ("It helps with everything.", "“everything” is more than was tested: name the tested uses."),
        ("It is better because of the cores.", "No cause is proved here: write “suspected”, or test it."),
    ],
)
def test_a_typed_advice_that_no_result_bears_out_is_questioned(advice: str, against: str | None) -> None:
    case = job(explanations=(Explanation("e", "The cores waited"),))
    doubts = report(case, advice=advice).doubts
    if against is None:
        assert doubts == ()
    else:
        assert len(doubts) == 1
        (doubt,) = doubts
        assert doubt.sentence == advice
        assert doubt.against.startswith(against[:40])


def test_a_cause_that_was_tested_may_be_named() -> None:
    case = job(explanations=(Explanation("e", "The cores waited", "supported", grounds="Seen"),))
    assert report(case, advice="It is better because of the cores.").doubts == ()


def test_a_later_report_says_what_it_says_otherwise() -> None:
    first = report(job(hoped=25.0))
    assert say_since(first, first) == ()
    later = report(job([[28.0, 28.2, 28.1]] * 3, hoped=25.0), changed_since="a cable")
    worded = say_since(first, later)
    assert worded[0] == f"The answer was: {first.answer}"
    assert worded[1].startswith("Job was: +33")
    assert worded[-1].startswith("New at its head: Measured on a provisional build")
    dearer = job(hoped=25.0)
    dearer = replace(dearer, swaps=(replace(dearer.swaps[0], costs=(replace(PART, amount=Decimal("99")),)),))
    assert "The net cost was: 94.90 EUR." in say_since(first, report(dearer))


def test_each_figure_of_a_row_is_the_one_of_the_screens() -> None:
    case = job()
    row = report(case).rows[0]
    assert (row.before, row.after, row.unit) == ("40.1", "30.1", "s")
    assert [len(dots) for dots in (row.before_dots, row.after_dots)] == [9, 9]
    assert row.before_dots[0].value == pytest.approx(40.0)


def test_twice_may_be_said_of_what_was_shown_to_be_twice_as_fast() -> None:
    slow = [[2 * value for value in sitting] for sitting in FAST]
    assert report(job(before=slow), advice="The job is twice as fast.").doubts == ()
