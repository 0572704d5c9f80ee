"""The ledger's mark of the evidence, the looks that a plan grants, and what is left of the error after the last."""

from dataclasses import replace
from datetime import timedelta
from typing import Any

import pytest
from hypothesis import given
from hypothesis import strategies as st

from lynxbill.core.judgement.ledger import RULES, digest_of, of_measure, still_holds
from lynxbill.core.plan.agreement import ALPHA_OF_TWO, check_looks, looks_of
from lynxbill.core.record.frame import Case
from lynxbill.core.record.ids import RunId
from lynxbill.core.record.plan import Plan
from lynxbill.core.record.run import LateExclusion, Reading, SetAside, Was
from lynxbill.core.result.comparison import judge, showings_of
from lynxbill.core.terms.errors import BadValue
from lynxbill.words.results.results import say_result
from lynxbill.words.results.statistics import say_statistics
from tests.builders import DAY, RATE, TIME, B, C, make_case, make_run

SLOW = [[40.0, 40.2, 40.1], [40.3, 40.1, 40.2], [40.1, 40.0, 40.2]]
FAST = [[30.0, 30.2, 30.1], [30.3, 30.1, 30.2], [30.1, 30.0, 30.2]]


def mark(case: Case, wanted: int | None = None) -> str:
    return digest_of(case, TIME, (s.id for s in case.sittings), wanted)


def changed(case: Case, run_id: str, **fields: Any) -> Case:
    return replace(case, runs=tuple(replace(r, **fields) if r.id == run_id else r for r in case.runs))


@given(st.permutations(range(18)))
def test_the_mark_of_evidence_does_not_depend_on_the_order_in_which_it_comes(order: list[int]) -> None:
    case = make_case(SLOW, FAST)
    assert mark(replace(case, runs=tuple(case.runs[i] for i in order))) == mark(case)


@pytest.mark.parametrize(
    "fields",
    [
        {"state": "spoiled", "reason": "indexing"},
        {"readings": {TIME.id: Reading(40.0, 40.0000001)}},
        {"readings": {TIME.id: Reading(30.2, 30.2, about=True)}},
        {"readings": {TIME.id: Reading(30.2, 30.2, source="remembered")}},
        {"warm_up": True},
        {"workload_version": "2"},
        {"parameters": {"threads": 8}},
        {"target": "another drive"},
        {"position": 9},
        {"excluded_late": LateExclusion("odd")},
        {"id": RunId("another")},
    ],
)
def test_the_mark_changes_with_everything_that_a_verdict_rests_on(fields: dict[str, Any]) -> None:
    case = make_case(SLOW, FAST)
    assert mark(changed(case, "C1-2", **fields)) != mark(case)


def test_the_mark_is_none_of_what_lies_beyond_the_plan_or_elsewhere() -> None:
    case = make_case(SLOW, FAST)
    beyond = replace(case, runs=(*case.runs, make_run("C1", 4, 99.0)))
    assert mark(beyond, wanted=3) == mark(case, wanted=3)
    assert mark(beyond) != mark(case)
    other = replace(case, runs=(*case.runs, make_run("C1", 4, 99.0, replace(RATE, workload="another job"))))
    emptied = replace(case, runs=(*case.runs, replace(make_run("C1", 4, 99.0), readings={})))
    assert mark(other) == mark(emptied) == mark(case)


def test_an_entry_stands_while_its_evidence_does_and_one_that_kept_none_is_believed() -> None:
    case = make_case(SLOW, FAST)
    comparison = judge(case)
    (entry,) = showings_of(case, comparison, comparison.measures, at=DAY, by="a test")
    assert still_holds(case, TIME, entry, None)
    mended = changed(case, "C1-2", readings={TIME.id: Reading(29.0, 29.0)})
    assert not still_holds(mended, TIME, entry, None)
    assert still_holds(mended, TIME, replace(entry, digest=""), None)
    assert of_measure([entry], TIME) == (entry,)
    assert of_measure([entry], RATE) == ()


@given(st.integers(1, 12), st.integers(1, 30))
def test_a_second_look_has_more_than_the_first_and_at_most_twice_as_many_and_one(first: int, second: int) -> None:
    if first >= 2 and first < second <= 2 * first + 1:
        check_looks(first, second)
    else:
        with pytest.raises(BadValue) as refused:
            check_looks(first, second)
        assert refused.value.field == "at_most"
    check_looks(first, None)


def test_a_second_look_needs_a_first() -> None:
    with pytest.raises(BadValue):
        check_looks(None, 4)
    check_looks(None, None)


@given(st.integers(1, 3), st.booleans())
def test_each_time_it_is_measured_over_every_level_is_halved(attempt: int, has_two: bool) -> None:
    plan = Plan(sittings_a_side=3, at_most=6 if has_two else None)
    first, second, alpha, alpha_any = looks_of(plan, attempt)
    assert (first, second) == (3, 6 if has_two else None)
    assert alpha == (ALPHA_OF_TWO if has_two else 0.05) / 2 ** (attempt - 1)
    assert alpha_any == 0.05 / 2 ** (attempt - 1)


def test_after_the_last_look_half_of_the_error_is_left_and_before_it_the_whole() -> None:
    """The same sittings: once beyond a plan of three a side, once on the way to one of six."""
    wide = [[39.0, 39.1, 38.9], [41.0, 41.1, 40.9], [37.0, 37.1, 36.9], [39.5, 39.4, 39.6], [40.5, 40.4, 40.3]]
    calm = [*SLOW, *SLOW[:2]]
    (early,) = judge(make_case(calm, wide, sittings_a_side=6)).measures
    (late,) = judge(make_case(calm, wide, sittings_a_side=3)).measures
    assert early.interval is not None
    assert late.interval is not None
    assert (early.interval.level, late.interval.level) == (0.95, 0.975)
    assert early.interval.high < late.interval.high
    assert late.p == pytest.approx(min(1.0, 2 / (late.interval.e_value or 1)))


def given_by(case: Case, rules: int | None, **sentence: Any) -> Case:
    """The same case, whose verdict was given by other rules, which said something else of the same readings."""
    comparison = judge(case)
    (entry,) = showings_of(case, comparison, comparison.measures, at=DAY)
    assert entry.rules == RULES
    swap = replace(case.swaps[0], shown=(replace(entry, rules=rules, **sentence),))
    return replace(case, swaps=(swap,))


def test_a_verdict_given_by_earlier_rules_leads_while_its_readings_stand_and_todays_is_told_beside_it() -> None:
    case = make_case(SLOW, FAST)
    sentence = {"verdict": "not_settled", "gain": 0.2, "low": -0.1, "high": 0.5}
    (led,) = judge(given_by(case, RULES - 1, **sentence)).measures
    assert (led.verdict.word, led.estimate, led.shown) == ("not_settled", 0.2, True)
    assert led.interval is not None
    assert (led.interval.low, led.interval.high, led.interval.p) == (-0.1, 0.5, None)
    assert led.interval.low < led.interval.low90 < 0.2 < led.interval.high90 < led.interval.high
    assert (led.rules, led.today is not None and led.today.rules) == (RULES - 1, RULES)
    assert led.today is not None
    assert led.today.verdict.word == "real_gain"
    told = say_result(led, ".").today
    assert told is not None
    assert f"rules number {RULES - 1}" in told
    assert told.endswith("real gain.")
    (turned,) = judge(given_by(case, RULES - 1, **sentence), C, B).measures
    assert turned.today is not None
    assert (turned.estimate, turned.today.verdict.word) == (-0.2, "real_loss")


def test_todays_rules_lead_where_nothing_differs_the_readings_are_others_or_nobody_knows_the_rules() -> None:
    case = make_case(SLOW, FAST)
    (same,) = judge(given_by(case, RULES - 1)).measures
    assert (same.verdict.word, same.rules, same.today, say_result(same, ".").today) == (
        "real_gain",
        RULES,
        None,
        None,
    )
    mended = changed(given_by(case, RULES - 1, verdict="no_change"), "C1-2", readings={TIME.id: Reading(29.0, 29.0)})
    (after,) = judge(mended).measures
    assert (after.today, after.changed) == (None, True)
    unknown = given_by(case, None, verdict="no_change")
    (result,) = judge(unknown).measures
    assert (result.verdict.word, result.today, result.grade) == ("real_gain", None, "history_unknown")
    invented = given_by(case, RULES - 1, verdict="a great gain")
    assert judge(invented).measures[0].today is None


def test_an_early_verdict_of_earlier_rules_stands_when_more_is_measured() -> None:
    early = given_by(make_case(SLOW[:2], FAST[:2], sittings_a_side=2), RULES - 1, verdict="real_loss", gain=-0.2)
    more = replace(make_case(SLOW, FAST, sittings_a_side=2), swaps=early.swaps)
    (result,) = judge(more).measures
    assert (result.verdict.word, result.today is not None) == ("real_loss", True)


def test_figures_of_tests_stand_beside_nothing_before_a_look() -> None:
    wide = [[39.0, 39.1, 38.9], [41.0, 41.1, 40.9], [37.0, 37.1, 36.9]]
    open_one, at_look, early = (
        judge(make_case(before, after, sittings_a_side=k)).measures[0]
        for before, after, k in ((SLOW, wide, 5), (SLOW, wide, 3), (SLOW, FAST, 5))
    )
    assert [one.verdict.word for one in (open_one, at_look, early)] == ["not_settled", "not_settled", "real_gain"]
    for one, tested in ((open_one, False), (at_look, True), (early, True)):
        assert (one.companions.welch_p is not None, one.least_rank_p is not None) == (tested, tested)
        told = [figure.name for figure in say_statistics(one, ".").figures]
        assert any(name.startswith("p,") for name in told) == tested


def test_an_earlier_verdict_leads_no_more_once_its_sittings_were_changed_or_set_aside() -> None:
    """Its digest holds the runs; what is done to the sittings since is judged by today's rules."""
    case = given_by(make_case(SLOW, FAST), RULES - 1, verdict="real_loss", gain=-0.2, low=-0.3, high=-0.1)
    assert judge(case).measures[0].today is not None
    later = DAY + timedelta(days=900)
    changes: tuple[dict[str, Any], ...] = (
        {"set_aside": SetAside("odd", later)},
        {"was": (Was("boot", "one", later),)},
    )
    for change in changes:
        sittings = tuple(replace(s, **change) if s.id == "C2" else s for s in case.sittings)
        (result,) = judge(replace(case, sittings=sittings)).measures
        assert (result.today, result.verdict.word != "real_loss") == (None, True)
