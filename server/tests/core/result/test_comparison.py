import math
from dataclasses import replace
from datetime import timedelta
from decimal import Decimal
from typing import Any

import numpy as np
import pytest
from hypothesis import assume, given, settings
from hypothesis import strategies as st

from lynxbill.core.record.frame import Case
from lynxbill.core.record.ids import BuildId, RunId, SittingId, SwapId
from lynxbill.core.record.plan import PlannedMeasure
from lynxbill.core.record.run import Reading, SetAside, Was
from lynxbill.core.record.swap import Attempt
from lynxbill.core.result.comparison import judge, showings_of
from lynxbill.core.result.result import MeasureResult
from lynxbill.core.result.settling import NOTHING_TO_SETTLE
from lynxbill.core.statistics.estimate import t_quantile
from lynxbill.core.terms.errors import NoSwap, SameBuild, UnknownBuild
from lynxbill.core.terms.money import CostLine
from lynxbill.core.value.bill import judge_and_bill
from tests.builders import DAY, RATE, RISE, TIME, B, C, make_case, make_run
from tests.tiers import examples

LATER = DAY + timedelta(days=500)
FAST = [[30.0, 30.2, 30.1], [30.3, 30.1, 30.2], [30.1, 30.0, 30.2]]
SLOW = [[40.0, 40.2, 40.1], [40.3, 40.1, 40.2], [40.1, 40.0, 40.2]]
WILD = [[31.0, 36.0, 40.0], [45.0, 44.0, 47.0], [38.0, 35.0, 41.0]]
readings = st.lists(st.lists(st.floats(20, 60), min_size=3, max_size=3), min_size=1, max_size=5)
# Every rule that may decide: the planned one, pairs, the anytime rule, and the guard where a side has one sitting.
plans = st.sampled_from(
    [
        {},
        {"design": "paired"},
        {"design": "paired", "pair_by": "ambient"},
        {"sittings_a_side": 9},
        {"runs_a_sitting": 3},
    ]
)


def near(value: float | None, *, rel: float, abs: float = 0.0) -> Any:
    return None if value is None else pytest.approx(value, rel=rel, abs=abs)


def only(case: Case) -> MeasureResult:
    (result,) = judge(case).measures
    return result


@pytest.mark.parametrize(
    ("before", "after", "verdict"),
    [(SLOW, FAST, "real_gain"), (FAST, SLOW, "real_loss"), (SLOW, SLOW, "no_change"), (SLOW, WILD, "not_settled")],
)
def test_each_verdict_has_its_data(before: list[list[float]], after: list[list[float]], verdict: str) -> None:
    assert only(make_case(before, after, sittings_a_side=3)).verdict.word == verdict


CLOSE = [[39.0, 39.4, 39.2], [38.2, 38.6, 38.4], [39.9, 39.7, 39.8], [38.8, 39.0, 39.1]]
FOUR = [*SLOW, [41.5, 41.7, 41.6]]


def shown(case: Case, *measures: str) -> Case:
    """What somebody has who looks at the verdicts now: the same case, with the ledger written."""
    comparison = judge(case)
    asked = [r for r in comparison.measures if not measures or r.measure.id in measures]
    swap = case.swaps[0]
    entries = showings_of(case, comparison, asked, at=LATER, by="a test")
    return replace(case, swaps=(replace(swap, shown=(*(swap.shown or ()), *entries)), *case.swaps[1:]))


def test_before_the_plan_is_complete_only_the_anytime_rule_speaks() -> None:
    open_case = make_case(FOUR, CLOSE, sittings_a_side=5)
    result = only(open_case)
    assert (result.verdict.word, result.verdict.remark) == ("not_settled", "plan_incomplete")
    assert result.interval is not None
    assert (result.interval.basis, result.complete) == ("anytime", False)
    planned = only(make_case(FOUR, CLOSE))
    assert planned.interval is not None
    assert result.interval.low < planned.interval.low < planned.interval.high < result.interval.high
    assert judge(open_case).overall is None
    weighed = {TIME.id: PlannedMeasure("claim", 2.0, weight=1.0)}
    (swap,) = open_case.swaps
    overall = judge(replace(open_case, swaps=(replace(swap, plan=replace(swap.plan, measures=weighed)),))).overall
    assert overall is not None
    assert (overall.waiting, overall.estimate) == (True, result.interval)
    assert judge_and_bill(open_case).bill.value.note == "plan_incomplete"
    clear = only(make_case(SLOW, FAST, sittings_a_side=4))
    assert clear.verdict.word == "real_gain"
    assert clear.interval is not None
    assert clear.interval.e_value is not None
    assert clear.interval.e_value >= 20
    assert clear.p == pytest.approx(1 / clear.interval.e_value)


def test_what_a_look_judges_is_fixed_whenever_it_is_asked_for() -> None:
    """Sittings beyond the look are added, shown or not: they speak by the anytime rule, with twice the evidence."""
    late = only(make_case(FOUR, CLOSE, sittings_a_side=3))
    assert late.verdict.remark == "added_after_verdict"
    early = only(make_case(FOUR, CLOSE, sittings_a_side=5))
    assert late.interval is not None
    assert early.interval is not None
    assert late.interval.low < early.interval.low
    assert late.p == pytest.approx(min(1.0, 2 / (late.interval.e_value or 1)))
    settled = make_case(SLOW, [*FAST, [41.0, 41.2, 41.1]], sittings_a_side=3)
    assert only(settled).verdict == only(make_case(SLOW, FAST)).verdict
    assert only(settled).interval == only(make_case(SLOW, FAST)).interval
    # A sitting that joins the boot of the look's last unit came after it all the same.
    joined = tuple(replace(s, boot="C2") if s.id == "C3" else s for s in settled.sittings)
    assert only(replace(settled, sittings=joined)).interval == only(settled).interval


def test_of_two_looks_each_is_judged_at_97_percent_and_the_first_that_settles_stands() -> None:
    result = only(make_case([*SLOW, *SLOW], [*FAST, *SLOW], sittings_a_side=3, at_most=6, order="alternating"))
    assert (result.verdict.word, result.terms.look) == ("real_gain", 1)
    assert result.level == pytest.approx(0.97)
    wide = [[39.0, 39.1, 38.9], [41.0, 41.1, 40.9], [37.0, 37.1, 36.9]]
    waits = only(make_case(SLOW, wide, sittings_a_side=3, at_most=6, order="alternating"))
    assert (waits.verdict.word, waits.terms.look) == ("not_settled", 1)
    between = only(make_case([*SLOW, SLOW[0]], [*wide, wide[0]], sittings_a_side=3, at_most=6, order="alternating"))
    assert (between.verdict.remark, between.terms.look) == ("awaits_second_look", None)
    second = only(make_case([*SLOW, *SLOW], [*wide, *wide], sittings_a_side=3, at_most=6, order="alternating"))
    assert second.terms.look == 2
    assert second.level == pytest.approx(0.97)


def test_only_what_was_closed_before_the_first_after_reading_is_the_before_side_of_a_block() -> None:
    case = make_case(SLOW, FAST)
    late = tuple(replace(s, closed_at=LATER) if s.id == "B2" else s for s in case.sittings)
    result = only(replace(case, sittings=late))
    assert [unit.sitting.id for unit in result.sides.before] == ["B0", "B1"]
    assert next(item.why for item in result.sides.left_out if item.run_id == "B2-1") == "other_look"


def test_a_verdict_that_was_shown_early_stands_and_what_is_added_does_not_undo_it() -> None:
    case = shown(make_case(FOUR, [*FAST, FAST[0]], sittings_a_side=6))
    (entry,) = case.swaps[0].shown or ()
    assert (entry.look, entry.verdict, entry.rule) == (None, "real_gain", "anytime")
    assert only(case).shown
    more = make_case(FOUR, [*FAST, FAST[0], [41.0, 41.2, 41.1]], sittings_a_side=6)
    added = only(replace(more, swaps=case.swaps))
    assert (added.verdict.word, added.shown, added.changed) == ("real_gain", True, False)
    assert only(more).verdict.word == "not_settled"


def test_what_changed_after_a_verdict_is_named_beside_it_and_the_first_is_kept() -> None:
    case = shown(make_case(SLOW, FAST))
    first = only(case)
    assert (first.shown, first.changed) == (True, False)
    run = next(r for r in case.runs if r.sitting_id == "C1")
    was = Was("readings.time", run.readings[TIME.id], LATER, "somebody", "")
    better = replace(run, readings={TIME.id: Reading(29.0, 29.0)}, was=(was,))
    mended = only(replace(case, runs=tuple(better if r.id == run.id else r for r in case.runs)))
    assert (mended.verdict.word, mended.shown, mended.changed) == ("real_gain", False, True)
    assert mended.first_shown is not None
    assert mended.first_shown.verdict == "real_gain"
    # The more cautious of both variants: the figures are those of the larger p.
    assert mended.with_late is not None
    assert mended.with_late.p == first.p
    assert (mended.p or 0) >= (first.p or 0)
    assert {"changed_after_verdict", "corrected_late"} <= {flag.code for flag in mended.flags}
    assert mended.grade == "changed_after_verdict"


def test_a_later_swap_between_measured_builds_brings_no_plan_of_its_own() -> None:
    case = make_case(SLOW, CLOSE[:3], sittings_a_side=3)
    again = replace(
        case.swaps[0],
        id=SwapId("again"),
        plan=replace(case.swaps[0].plan, measures={TIME.id: PlannedMeasure("claim", 50)}),
    )
    assert judge(replace(case, swaps=(*case.swaps, again))).measures == judge(case).measures
    back = replace(again, before=C, after=B)
    turned = judge(replace(case, swaps=(*case.swaps, back)), C, B)
    (one,), (other,) = judge(case).measures, turned.measures
    assert other.planned == one.planned
    assert (other.estimate, other.p) == (-(one.estimate or 0), one.p)


def test_builds_that_no_swap_joins_are_unplanned_throughout() -> None:
    case = make_case(SLOW, FAST)
    elder = tuple(replace(s, id=SittingId(f"A{s.id}"), build_id=BuildId("A")) for s in case.sittings[:3])
    runs = tuple(replace(r, id=RunId(f"A{r.id}"), sitting_id=SittingId(f"A{r.sitting_id}")) for r in case.runs[:9])
    whole = replace(
        case,
        builds=(replace(case.builds[0], id=BuildId("A"), letter="A"), *case.builds),
        sittings=(*case.sittings, *elder),
        runs=(*case.runs, *runs),
    )
    (result,) = judge(whole, BuildId("A"), C).measures
    assert (result.grade, result.terms.look) == ("unplanned", None)
    assert result.interval is None or result.interval.basis == "anytime"
    # Named in advance, the total has the looks of the plan, and is weighed together with the step.
    plan = replace(case.swaps[0].plan, judge_whole=BuildId("A"), headline=TIME.id)
    named = replace(whole, swaps=(replace(case.swaps[0], plan=plan),))
    (total,) = judge(named, BuildId("A"), C).measures
    assert (total.terms.look, total.verdict.word) == (1, "real_gain")
    assert total.p_adjusted == pytest.approx(2 * (total.p or 0))
    assert judge(named, C, BuildId("A")).measures[0].verdict.word == "real_loss"


def test_readings_of_the_build_after_before_there_was_a_plan_leave_it_unplanned() -> None:
    case = make_case(SLOW, FAST)
    later = replace(case.swaps[0], opened_at=LATER)
    assert only(replace(case, swaps=(later,))).grade == "unplanned"


def test_measured_over_the_levels_are_halved_and_what_was_set_aside_is_no_late_change() -> None:
    case = make_case([*SLOW, *SLOW], [*WILD, *FAST], sittings_a_side=3)
    first = {"B0", "B1", "B2", "C0", "C1", "C2"}
    aside = SetAside("a fan was unplugged", LATER, over=True)
    sittings = tuple(replace(s, set_aside=aside) if s.id in first else replace(s, attempt=2) for s in case.sittings)
    swap = replace(case.swaps[0], attempts=(Attempt(LATER, "a fan was unplugged"),))
    result = only(replace(case, sittings=sittings, swaps=(swap,)))
    assert result.verdict.word == "real_gain"
    assert result.level == pytest.approx(0.975)
    assert result.with_late is None
    late = tuple(replace(s, set_aside=replace(aside, over=False)) if s.id in first else s for s in case.sittings)
    assert only(replace(case, sittings=late)).with_late is not None


def test_boots_that_are_only_answered_are_judged_both_ways() -> None:
    case = make_case(SLOW, FAST)
    denied = tuple(replace(s, boot=str(s.build_id), boot_by="answered") for s in case.sittings)
    result = only(replace(case, sittings=denied))
    assert (result.verdict.word, result.verdict.remark) == ("not_settled", "rests_on_boots")
    read = tuple(replace(s, boot=str(s.build_id), boot_by="read") for s in case.sittings)
    assert [len(side) for side in (only(replace(case, sittings=read)).sides.before,)] == [1]


def test_one_sitting_a_side_is_provisional_and_by_the_guard() -> None:
    result = only(make_case(SLOW[:1], FAST[:1], sittings_a_side=1))
    assert result.provisional
    assert result.interval is not None
    assert result.interval.basis == "one_sitting"
    assert result.verdict.word == "real_gain"
    assert result.interval.break_even is not None
    assert result.interval.break_even > 3


def test_one_sitting_of_a_longer_plan_shows_its_interval_but_no_verdict() -> None:
    result = only(make_case(SLOW[:1], FAST[:1], sittings_a_side=3))
    assert result.verdict.remark == "plan_incomplete"
    assert result.interval is not None
    assert (result.noise, result.to_settle) == (None, NOTHING_TO_SETTLE)


def test_one_run_a_side_shows_a_change_never_a_verdict() -> None:
    result = only(make_case([[41.9]], [[31.1]], sittings_a_side=1))
    assert (result.verdict.word, result.verdict.remark) == ("untested", "one_run_a_side")
    assert result.gain_percent == pytest.approx(100 * (41.9 / 31.1 - 1))
    assert result.interval is None


def test_several_sittings_before_and_one_after_are_the_guards_and_provisional() -> None:
    result = only(make_case(SLOW, FAST[:1], sittings_a_side=1))
    assert result.interval is not None
    assert result.interval.basis == "one_sitting"
    assert (result.provisional, result.verdict.word) == (True, "real_gain")


@pytest.mark.parametrize(
    ("before", "after", "remark"),
    [
        ([], FAST, "before_missing"),
        (SLOW, [], "after_missing"),
        ([], [], "not_measured"),
        ([[40, 41]], [[30, 31]], "too_few_runs"),
    ],
)
def test_what_is_missing_is_said(before: list[list[float]], after: list[list[float]], remark: str) -> None:
    assert only(make_case(before, after)).verdict.remark == remark


def test_watched_measures_get_an_interval_but_no_verdict() -> None:
    result = only(make_case(SLOW, FAST, role="watch"))
    assert (result.verdict.word, result.verdict.remark) == ("untested", "watched_only")
    assert result.interval is not None
    assert result.p_adjusted is None


def test_two_versions_get_no_verdict() -> None:
    case = make_case(SLOW, FAST)
    newer = tuple(replace(r, workload_version="2") if r.sitting_id.startswith("C") else r for r in case.runs)
    assert only(replace(case, runs=newer)).verdict.remark == "workload_version_differs"


def test_a_paired_plan_tests_the_differences() -> None:
    drifting = [[40.0 + 3 * i, 40.1 + 3 * i, 40.2 + 3 * i] for i in range(4)]
    better = [[value * 0.97 for value in sitting] for sitting in drifting]
    assert only(make_case(drifting, better)).verdict.word == "not_settled"
    result = only(make_case(drifting, better, design="paired"))
    assert result.interval is not None
    assert result.interval.basis == "paired_sittings"
    assert result.verdict.word == "real_gain"


@given(readings, readings, plans)
def test_swapping_before_and_after_mirrors_the_verdict(
    before: list[list[float]], after: list[list[float]], plan: dict[str, Any]
) -> None:
    one, other = only(make_case(before, after, **plan)), only(make_case(after, before, **plan))
    mirror = {"real_gain": "real_loss", "real_loss": "real_gain"}
    assert mirror.get(one.verdict.word, one.verdict.word) == other.verdict.word
    assert one.p == near(other.p, rel=1e-9)
    assert one.grade == other.grade


@given(readings, readings, st.sampled_from([1000, 0.001]), plans)
def test_a_change_of_unit_changes_nothing(
    before: list[list[float]], after: list[list[float]], factor: float, plan: dict[str, Any]
) -> None:
    """Of units a power of ten apart: what is a usual step in one is none in another."""
    before, after = ([[round(v, 2) for v in sitting] for sitting in side] for side in (before, after))
    assume(len({v for side in (before, after) for sitting in side for v in sitting}) > 2)
    scaled = [[[round(v * factor, 5) for v in sitting] for sitting in side] for side in (before, after)]
    measure = replace(TIME, step=0.1)
    one = only(make_case(before, after, measure, **plan))
    other = only(make_case(scaled[0], scaled[1], replace(measure, step=0.1 * factor), **plan))
    assert one.verdict == other.verdict
    assert one.estimate == pytest.approx(other.estimate, abs=1e-9)


@given(readings, readings, st.floats(-20, 500))
def test_a_constant_added_to_both_sides_changes_nothing_on_a_difference_scale(
    before: list[list[float]], after: list[list[float]], constant: float
) -> None:
    moved = [[[v + constant for v in sitting] for sitting in side] for side in (before, after)]
    measure = replace(RISE, step=0.1)
    one, other = only(make_case(before, after, measure)), only(make_case(moved[0], moved[1], measure))
    assert one.estimate == pytest.approx(other.estimate, abs=1e-9)
    assert one.p == near(other.p, rel=1e-5, abs=1e-12)


@given(st.randoms(use_true_random=False), plans)
def test_the_order_of_runs_in_the_file_changes_nothing(shuffler: object, plan: dict[str, Any]) -> None:
    case = make_case(SLOW, WILD, **plan)
    runs = list(case.runs)
    shuffler.shuffle(runs)  # type: ignore[attr-defined]
    shuffled = judge(replace(case, runs=tuple(runs)))
    assert shuffled == judge(case)


@given(st.floats(1, 1000), readings, readings, plans)
def test_adding_a_spoiled_run_never_changes_a_verdict(
    value: float, before: list[list[float]], after: list[list[float]], plan: dict[str, Any]
) -> None:
    case = make_case(before, after, **plan)
    spoiled = make_run("B0", 9, value, state="spoiled", reason="indexing")
    one, other = only(case), only(replace(case, runs=(*case.runs, spoiled)))
    assert (one.verdict, one.interval) == (other.verdict, other.interval)


@given(readings, readings, st.floats(0.1, 30), plans)
@settings(max_examples=examples(300))
def test_verdict_and_interval_never_contradict_each_other(
    before: list[list[float]], after: list[list[float]], margin: float, plan: dict[str, Any]
) -> None:
    result = only(make_case(before, after, matters_from=margin, **plan))
    if result.interval is None:
        assert result.verdict.word in ("not_settled", "untested")
        return
    low, high = result.interval.low, result.interval.high
    match result.verdict.word:
        case "real_gain":
            assert low > 0
        case "real_loss":
            assert high < 0
        case "no_change":
            assert max(abs(result.interval.low90), abs(result.interval.high90)) < result.bound
        case _:
            waits = result.interval.basis == "one_sitting" and not result.complete
            assert waits or low <= 0 <= high


@pytest.mark.nightly
@pytest.mark.parametrize("k", [2, 3, 5])
@pytest.mark.parametrize("tau", [0.0, 1.0])
def test_a_swap_that_changed_nothing_is_called_real_in_a_twentieth_of_cases(k: int, tau: float) -> None:
    """Reboots that move readings as much as the run-to-run scatter must not raise the rate of false alarms."""
    generator = np.random.default_rng(1000 * k + int(tau))
    n = 1200
    alarms = 0
    for _ in range(n):
        sides = 100 + generator.normal(0, tau, (2, k, 1)) + generator.normal(0, 1, (2, k, 3))
        result = only(make_case(sides[0].tolist(), sides[1].tolist(), RISE, matters_from=1e-6))
        alarms += result.verdict.word in ("real_gain", "real_loss")
    assert abs(alarms / n - 0.05) <= 3.3 * math.sqrt(0.05 * 0.95 / n)


@pytest.mark.nightly
def test_the_simulator_does_hold_a_sitting_effect() -> None:
    """Negative control: a t test on the runs of one sitting a side, ten each, errs in about half of the cases."""
    generator = np.random.default_rng(5)
    n, alarms, t = 2000, 0, t_quantile(0.975, 18)
    for _ in range(n):
        a, b = generator.normal(0, 1, (2, 1)) + generator.normal(0, 1, (2, 10))
        spread = math.sqrt((a.var(ddof=1) + b.var(ddof=1)) / 2 * 2 / 10)
        alarms += abs(a.mean() - b.mean()) > t * spread
    assert 0.50 <= alarms / n <= 0.58


def with_measures(weights: tuple[float, float]) -> Case:
    """Two claims in the same sittings: a time that gains 4/3 and a rate that gains 2."""
    first = make_case(SLOW, FAST)
    second = make_case([[100.0, 101, 99]] * 3, [[200.0, 202, 198]] * 3, RATE)
    runs = tuple(
        replace(a, readings={**a.readings, **b.readings}) for a, b in zip(first.runs, second.runs, strict=True)
    )
    measures = {m.id: PlannedMeasure("claim", 2.0, weight=w) for m, w in zip((TIME, RATE), weights, strict=True)}
    plan = replace(first.swaps[0].plan, measures=measures)
    return replace(first, measures=(TIME, RATE), runs=runs, swaps=(replace(first.swaps[0], plan=plan),))


def test_the_overall_gain_is_a_weighted_geometric_mean() -> None:
    overall = judge(with_measures((3, 1))).overall
    assert overall is not None
    single = {r.measure.id: r.estimate or 0 for r in judge(with_measures((3, 1))).measures}
    assert overall.difference == pytest.approx((3 * single[TIME.id] + single[RATE.id]) / 4)
    assert overall.estimate is not None
    assert overall.estimate.df == 4


def test_heat_stays_out_of_the_overall_gain() -> None:
    assert judge(make_case(SLOW, FAST, RISE)).overall is None


def test_the_bill_adds_the_swaps_between_two_builds() -> None:
    case = make_case(SLOW, FAST)
    costs = (CostLine("part", "x", Decimal("118"), "EUR"), CostLine("resale", "y", Decimal("52"), "EUR"))
    bill = judge_and_bill(replace(case, swaps=(replace(case.swaps[0], costs=costs),))).bill
    assert bill.net_cost == Decimal("66.00")
    assert bill.value.gain_per_10 == pytest.approx(10 * (only(case).gain_percent or 0) / 66)


def test_the_bill_is_set_against_the_headline() -> None:
    case = with_measures((1, 1))
    costs = (CostLine("part", "x", Decimal("100"), "EUR"),)
    for headline in (TIME.id, RATE.id):
        plan = replace(case.swaps[0].plan, headline=headline)
        found = judge_and_bill(replace(case, swaps=(replace(case.swaps[0], plan=plan, costs=costs),)))
        (of_headline,) = (r for r in found.comparison.measures if r.measure.id == headline)
        assert found.bill.value.gain_per_10 == pytest.approx((of_headline.gain_percent or 0) / 10)


def test_what_nobody_asked_two_builds_for_is_the_newest_swaps() -> None:
    case = make_case(SLOW, FAST)
    named = judge(case, B, C)
    shown = showings_of(case, None, named.measures, at=DAY)
    assert shown == showings_of(case, named, named.measures, at=DAY)
    assert [entry.measure for entry in shown] == [TIME.id]


def test_questions_that_cannot_be_asked_are_refused() -> None:
    case = make_case(SLOW, FAST)
    with pytest.raises(SameBuild):
        judge(case, B, B)
    with pytest.raises(UnknownBuild, match="B, C"):
        judge(case, B, BuildId("Z"))
    with pytest.raises(NoSwap):
        judge(replace(case, swaps=()))


@pytest.mark.parametrize("size", [1e-9, 1e12])
def test_numbers_survive_their_size(size: float) -> None:
    scaled = [[[v * size for v in sitting] for sitting in side] for side in (SLOW, FAST)]
    result = only(make_case(scaled[0], scaled[1], replace(TIME, step=0.1 * size)))
    assert result.verdict.word == "real_gain"
    assert result.gain_percent == pytest.approx(only(make_case(SLOW, FAST)).gain_percent, rel=1e-9)


def test_a_gain_that_only_just_stood_out_may_be_told_too_large() -> None:
    before = [[50.0, 50.1, 50.2], [50.5, 50.4, 50.6], [49.7, 49.8, 49.6]]
    gains = {gain: only(make_case(before, [[v - gain for v in s] for s in before], RISE)) for gain in (0.4, 1.5, 5.0)}
    assert [result.verdict.word for result in gains.values()] == ["no_change", "real_gain", "real_gain"]
    assert [result.may_be_large for result in gains.values()] == [False, True, False]
