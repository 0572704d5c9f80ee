"""The anytime rule, families, companions and exact tests: published constants, then what must hold for any data."""

import math
from dataclasses import replace
from itertools import combinations

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from scipy import stats

from lynxbill.core.record.frame import Case
from lynxbill.core.record.plan import Plan, PlannedMeasure
from lynxbill.core.record.run import Reading, Run
from lynxbill.core.result.companions import (
    mann_whitney_p,
    midranks,
    paired_companions,
    sign_flip_p,
    signed_rank_p,
    two_sample_companions,
    welch_p,
)
from lynxbill.core.result.comparison import judge
from lynxbill.core.statistics.anytime import at_any_time, critical_t, e_value, fewest_units
from lynxbill.core.statistics.estimate import t_quantile, two_forms
from lynxbill.core.statistics.exact import permutation_p
from lynxbill.core.statistics.families import adjust_families, holm
from lynxbill.core.terms.measure import Measure, MeasureId
from tests.builders import TIME, make_case, make_run

# Two sittings a side that differ by some six percent.
NEAR_TEN = [[40.0] * 3, [42.0] * 3], [[38.0] * 3, [39.5] * 3]
values = st.lists(st.floats(-50, 50).map(lambda x: round(x, 3)), min_size=2, max_size=7)


@pytest.mark.parametrize(
    ("df", "size", "wanted"),
    [
        (4, 1.5, (6.942, 9.304, 12.556)),
        (8, 2.5, (4.149, 4.786, 5.749)),
        (18, 5, (3.539, 3.878, 4.325)),
        (2, 3, (18.455, 28.260, 50.842)),
        (4, 5, (5.656, 7.113, 10.013)),
    ],
)
def test_the_critical_t_is_that_of_the_study(df: float, size: float, wanted: tuple[float, ...]) -> None:
    found = [critical_t(df, size, alpha) for alpha in (1 / 20, 1 / 40, 1 / 100)]
    assert found == pytest.approx(wanted, abs=0.0005)


@pytest.mark.parametrize("k", [3, 5, 10, 20])
def test_the_interval_excludes_zero_exactly_where_e_reaches_its_bound(k: int) -> None:
    for alpha in (0.05, 0.025):
        t = critical_t(2 * k - 2, k / 2, alpha)
        if t is not None:
            assert e_value(t, 2 * k - 2, k / 2) == pytest.approx(1 / alpha, rel=1e-9)


def test_too_few_sittings_have_no_anytime_interval_and_huge_evidence_stays_finite() -> None:
    assert critical_t(1, 1.0, 0.05) is None
    assert [fewest_units(after_last_look=over, alpha=0.05) for over in (False, True)] == [3, 3]
    # Two pairs could not reach even the widest of the plan's levels.
    assert critical_t(1, 2.0, 0.05 / 8) is None
    assert fewest_units(after_last_look=True, paired=True, alpha=0.05 / 4) == 3
    units = [0.0, 0.1, 0.2], [9.0, 9.1, 9.2]
    found = at_any_time(two_forms(*units, step=1e-9), 1.5, after_last_look=False)
    assert found is not None
    assert found.low > 0
    assert math.isfinite(e_value(1e300, 1998, 500.0))
    assert at_any_time(two_forms([0.0, 0.1], [9.0], step=1e-9), 2 / 3, after_last_look=True) is None


@pytest.mark.nightly
def test_looking_often_keeps_the_level_where_naive_looks_do_not() -> None:
    """Looks at 3 to 12 sittings a side, nothing changed: the rule's false alarms against those of the plain t."""
    generator = np.random.default_rng(7)
    replications, last = 1500, 12
    samples = generator.standard_normal((replications, 2, last))
    called = naive = 0
    for before, after in samples:
        looks = [two_forms(before[:k].tolist(), after[:k].tolist(), step=1e-9) for k in range(3, last + 1)]
        shown = [at_any_time(p, k / 2, after_last_look=False) for k, p in enumerate(looks, start=3)]
        called += any(s is not None and not s.low <= 0 <= s.high for s in shown)
        naive += any(abs(p.difference) > t_quantile(0.975, p.df) * p.se for p in looks)
    assert called / replications < 0.05 + 3.3 * math.sqrt(0.05 * 0.95 / replications)
    assert naive / replications > 0.12


def test_holm_is_that_of_the_textbook_and_never_lowers_a_p() -> None:
    assert holm([0.01, 0.04, 0.03, 0.005]) == pytest.approx((0.03, 0.06, 0.06, 0.02))
    assert holm([]) == ()


@given(st.lists(st.floats(1e-6, 1), min_size=1, max_size=12))
def test_holm_lies_between_p_and_bonferroni_and_keeps_the_order(p_values: list[float]) -> None:
    adjusted = holm(p_values)
    for p, q in zip(p_values, adjusted, strict=True):
        assert p <= q <= min(1.0, len(p_values) * p) + 1e-12
    order = sorted(range(len(p_values)), key=lambda i: p_values[i])
    assert [adjusted[i] for i in order] == sorted(adjusted)


def test_the_headline_stands_alone_and_controls_are_a_family_of_their_own() -> None:
    tested = {"head": ("claim", 0.04), "a": ("claim", 0.03), "b": ("claim", 0.02), "c": ("control", 0.03)}
    adjusted = adjust_families(tested, "head")  # type: ignore[arg-type]
    assert adjusted == pytest.approx({"head": 0.04, "a": 0.04, "b": 0.04, "c": 0.03})
    assert adjust_families(tested, None)[MeasureId("head")] == pytest.approx(0.06)  # type: ignore[arg-type]


def many_claims(case: Case, copies: int, headline: MeasureId | None) -> Case:
    """The same readings under several measures of one workload."""
    measures = tuple(replace(TIME, id=MeasureId(f"m{n}"), name=f"M{n}") for n in range(copies))
    runs = tuple(replace(r, readings={m.id: r.readings[TIME.id] for m in measures}) for r in case.runs)
    planned = {m.id: PlannedMeasure("claim", 2.0) for m in measures}
    swap = replace(case.swaps[0], plan=replace(case.swaps[0].plan, measures=planned, headline=headline))
    return replace(case, measures=measures, runs=runs, swaps=(swap,))


def test_a_gain_that_only_the_number_of_measures_stands_against_says_so() -> None:
    base = make_case([[40.0] * 3, [40.9] * 3, [41.8] * 3], [[37.0] * 3, [38.0] * 3, [38.9] * 3], sittings_a_side=3)
    (alone,) = judge(many_claims(base, 1, None)).measures
    assert alone.verdict.word == "real_gain"
    results = judge(many_claims(base, 12, MeasureId("m0"))).measures
    assert results[0].verdict.word == "real_gain"
    assert {(r.verdict.word, r.verdict.remark) for r in results[1:]} == {("not_settled", "blocked_by_family")}
    assert results[1].p_adjusted == pytest.approx(min(1.0, 11 * (results[1].p or 0)))


def test_what_was_found_at_an_earlier_look_counts_as_found_in_the_families_of_a_later_one() -> None:
    """Holm with one of two found: the other is held against its own p, not against twice as much."""
    scatter = [-0.02, 0.02, 0.0] * 2
    before, after = ([[40.0 * math.exp(e - shift)] * 3 for e in scatter] for shift in (0.0, 0.0285))
    base = make_case(before, after, order="alternating", sittings_a_side=3, at_most=6)
    case = many_claims(base, 2, None)
    clear = {"B": 40.0, "C": 30.0}
    runs = tuple(
        replace(
            r, readings={**r.readings, MeasureId("m0"): Reading(v := clear[r.sitting_id[0]] + 0.1 * r.position, v)}
        )
        for r in case.runs
    )
    found, other = judge(replace(case, runs=runs)).measures
    assert (found.verdict.word, found.terms.look) == ("real_gain", 1)
    assert other.p is not None
    assert 0.015 < other.p < 0.03
    assert (other.verdict.word, other.terms.look) == ("real_gain", 2)
    assert other.p_adjusted == pytest.approx(other.p)


@given(values, values)
@settings(max_examples=60, deadline=None)
def test_two_sample_companions_agree_with_scipy(before: list[float], after: list[float]) -> None:
    if len(set(before + after)) == len(before + after):
        expected = stats.mannwhitneyu(before, after, method="exact").pvalue
        assert mann_whitney_p(before, after) == pytest.approx(expected, abs=1e-9)
    if np.ptp(before) > 1e-6 and np.ptp(after) > 1e-6:
        assert welch_p(before, after) == pytest.approx(
            stats.ttest_ind(after, before, equal_var=False).pvalue, rel=1e-9
        )
    shift = two_sample_companions(before, after).hodges_lehmann
    assert shift == pytest.approx(float(np.median(np.subtract.outer(after, before))), abs=1e-9)


@given(values)
@settings(max_examples=60, deadline=None)
def test_paired_companions_agree_with_scipy(differences: list[float]) -> None:
    sizes = [abs(d) for d in differences]
    if len(set(sizes)) == len(sizes) and 0 not in sizes:
        expected = stats.wilcoxon(differences, method="exact").pvalue
        assert signed_rank_p(differences) == pytest.approx(expected, abs=1e-9)
    flips = np.array(np.meshgrid(*[[-1, 1]] * len(differences))).reshape(len(differences), -1)
    means = np.abs(differences @ flips)
    assert sign_flip_p(differences) == pytest.approx(float(np.mean(means >= abs(sum(differences)) - 1e-9)), abs=1e-9)
    walsh = [(a + b) / 2 for i, a in enumerate(differences) for b in differences[i:]]
    assert paired_companions(differences).hodges_lehmann == pytest.approx(float(np.median(walsh)), abs=1e-9)


def test_welch_keeps_a_tail_that_scipy_and_the_float_would_lose() -> None:
    p = welch_p([0.0, 1e-3, 2e-3] * 4, [50.0, 50.001, 50.002] * 4)
    assert p is not None
    assert 0 < p < 1e-60


def test_ties_share_their_ranks_and_what_cannot_exist_is_none() -> None:
    assert midranks([3.0, 1.0, 3.0]) == [2.5, 1.0, 2.5]
    assert sign_flip_p([1.0] * 21) is None
    assert signed_rank_p([0.0, 0.0]) is None
    assert welch_p([1.0], [2.0, 3.0]) is None
    assert welch_p([1.0, 1.0], [2.0, 2.0]) is None
    assert mann_whitney_p([], [1.0]) is None


def test_the_exact_permutation_counts_every_arrangement() -> None:
    assert permutation_p([1, 1, 1, 1], [3, 3, 3, 3]) == pytest.approx(2 / 70)
    assert permutation_p([1, 2, 3], [4, 5, 6]) == pytest.approx(2 / 20)
    assert permutation_p([1, 1], [1, 1]) == 1.0
    many = permutation_p([1.0] * 20 + [2.0] * 10, [2.0] * 20 + [3.0] * 10)
    assert 0 < many < 1e-7


steps = st.lists(st.integers(2, 10).map(lambda x: x / 2), min_size=1, max_size=5)


@given(steps, steps)
def test_the_exact_p_is_that_of_counting_one_by_one(before: list[float], after: list[float]) -> None:
    units = [*before, *after]

    def gap(chosen: tuple[float, ...]) -> float:
        return abs((sum(units) - sum(chosen)) / len(after) - sum(chosen) / len(before))

    gaps = [gap(chosen) for chosen in combinations(units, len(before))]
    expected = sum(g >= gap(tuple(before)) - 1e-9 for g in gaps) / len(gaps)
    assert permutation_p(before, after) == pytest.approx(expected)


OUTCOME = Measure(MeasureId("ok"), "Starts", "job", "1", "outcome", "other", "higher")
STEPS = Measure(
    MeasureId("feel"), "Smoothness", "job", "1", "ordinal", "other", "higher", levels=("bad", "fair", "good")
)


@pytest.mark.parametrize(
    ("measure", "before", "after", "word", "remark"),
    [
        (OUTCOME, [[0, 0, 1]] * 4, [[1, 1, 1]] * 4, "real_gain", None),
        (OUTCOME, [[1, 1, 1]] * 4, [[0, 0, 1]] * 4, "real_loss", None),
        (OUTCOME, [[0, 0, 1]] * 3, [[1, 1, 1]] * 3, "not_settled", "scale_needs_counts"),
        (OUTCOME, [[1, 1, 1]] * 5, [[1, 1, 1]] * 5, "not_settled", "too_wide"),
        (OUTCOME, [[0, 0, 0]], [[1, 1, 1]], "not_settled", "scale_needs_counts"),
        (STEPS, [[1, 1, 2]] * 4, [[3, 3, 3]] * 4, "real_gain", None),
        (STEPS, [[2, 2, 2]] * 5, [[2, 2, 2]] * 5, "not_settled", "too_wide"),
    ],
)
def test_steps_and_outcomes_are_judged_exactly_and_never_called_unchanged(
    measure: Measure, before: list[list[float]], after: list[list[float]], word: str, remark: str | None
) -> None:
    (result,) = judge(make_case(before, after, measure=measure)).measures
    assert (result.verdict.word, result.verdict.remark) == (word, remark)
    assert result.interval is None


@pytest.mark.parametrize(("measure", "low", "high"), [(OUTCOME, 0, 1), (STEPS, 1, 3)])
def test_steps_and_outcomes_wait_for_their_plan(measure: Measure, low: int, high: int) -> None:
    sides = [[low] * 3] * 5, [[high] * 3] * 5
    (early,) = judge(make_case(*sides, measure=measure, sittings_a_side=6)).measures
    assert (early.verdict.word, early.verdict.remark) == ("not_settled", "plan_incomplete")
    (planned,) = judge(make_case(*sides, measure=measure, sittings_a_side=5)).measures
    assert planned.verdict.word == "real_gain"


def test_what_is_not_settled_says_how_many_sittings_would_settle_it() -> None:
    sides = [[40.0] * 3, [42.0] * 3, [38.0] * 3], [[39.0] * 3, [41.0] * 3, [37.0] * 3]
    wide = make_case(*sides, sittings_a_side=3, order="alternating")
    (result,) = judge(wide).measures
    assert result.verdict.word == "not_settled"
    assert not [way for way in result.to_settle.ways if way.name == "more sittings"]
    # Going on helps where the gain hoped for lies near what was found: else the gap between them is scatter too.
    (hoped,) = judge(with_hope(make_case(*NEAR_TEN, sittings_a_side=2, order="alternating"), 10)).measures
    ways = {(way.name, way.goal): way for way in hoped.to_settle.ways}
    assert 4 <= ways["more sittings", "gain"].sittings_a_side <= 20
    assert ways["more sittings", "gain"].chance >= 0.8
    # In turn, both sides grow.
    assert ways["more sittings", "gain"].more == 2 * (ways["more sittings", "gain"].sittings_a_side - 2)
    over = ways["measured over", "gain"]
    assert over.more == 2 * over.sittings_a_side


def test_fewer_than_three_sittings_before_the_swap_are_not_made_good_by_more_after_it() -> None:
    (block,) = judge(with_hope(make_case(*NEAR_TEN, sittings_a_side=2), 10)).measures
    (in_turn,) = judge(with_hope(make_case(*NEAR_TEN, sittings_a_side=2, order="alternating"), 10)).measures
    assert block.to_settle.short_block
    assert {way.name for way in block.to_settle.ways} == {"measured over"}
    assert not in_turn.to_settle.short_block
    assert "more sittings" in {way.name for way in in_turn.to_settle.ways}


def with_hope(case: Case, hoped_for: float) -> Case:
    plan: Plan = case.swaps[0].plan
    planned = {TIME.id: replace(plan.measures[TIME.id], hoped_for=hoped_for)}
    return replace(case, swaps=(replace(case.swaps[0], plan=replace(plan, measures=planned)),))


def test_a_spoiled_run_changes_no_figure() -> None:
    case = make_case([[40.0, 40.2]] * 3, [[30.0, 30.3]] * 3, sittings_a_side=3)
    spoiled: Run = make_run("B0", 9, 400.0, state="spoiled", reason="fell over")
    (clean,), (dirty,) = judge(case).measures, judge(replace(case, runs=(*case.runs, spoiled))).measures
    assert (clean.verdict, clean.interval, clean.companions) == (dirty.verdict, dirty.interval, dirty.companions)
