"""The overall gain: made sitting by sitting, so that reboots which move every job alike are counted once."""

from collections.abc import Sequence
from dataclasses import replace

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from numpy.typing import NDArray
from scipy import stats

from lynxbill.core.record.frame import Case
from lynxbill.core.record.ids import RunId
from lynxbill.core.record.plan import PlannedMeasure
from lynxbill.core.result.comparison import judge
from lynxbill.core.result.result import Overall
from lynxbill.core.terms.measure import Measure, MeasureId
from tests.builders import make_case
from tests.tiers import examples

NAMES = "abcdefgh"
seeds = st.integers(0, 2**32)


def measure(name: str, workload: str = "job") -> Measure:
    return Measure(MeasureId(name), name, workload, "s", "ratio", "time", "lower", step=1e-9)


def bench(
    logs: NDArray[np.float64], weights: Sequence[float | None], *, workloads: bool = False, **plan: object
) -> Case:
    """
    Times by side, measure, sitting and run, given as logarithms turned so that higher is better.

    With `workloads` every measure comes from a job of its own, else all are read off one.
    """
    cases = []
    for index, weight in enumerate(weights):
        before, after = (np.exp(4.0 - side[index]).tolist() for side in logs)
        of = measure(NAMES[index], NAMES[index] if workloads else "job")
        case = make_case(before, after, of, **plan)
        cases.append(with_plan(case, {of.id: PlannedMeasure("claim", 2.0, weight=weight)}))
    first = cases[0]
    if workloads:
        runs = tuple(replace(run, id=RunId(f"{run.workload} {run.id}")) for case in cases for run in case.runs)
    else:
        columns = zip(*(case.runs for case in cases), strict=True)
        runs = tuple(
            replace(rows[0], readings={k: v for row in rows for k, v in row.readings.items()}) for rows in columns
        )
    planned = {key: value for case in cases for key, value in case.swaps[0].plan.measures.items()}
    measures = tuple(case.measures[0] for case in cases)
    return with_plan(replace(first, measures=measures, runs=runs), planned)


def with_plan(case: Case, measures: dict[MeasureId, PlannedMeasure]) -> Case:
    return replace(case, swaps=(replace(case.swaps[0], plan=replace(case.swaps[0].plan, measures=measures)),))


def draw(seed: int, measures: int, sittings: int, runs: int = 4, *, gain: float = 0.1) -> NDArray[np.float64]:
    """Reboots move all measures of a sitting together; runs scatter by themselves."""
    generator = np.random.default_rng(seed)
    logs = generator.normal(0, 0.02, (2, 1, sittings, 1)) + generator.normal(0, 0.01, (2, measures, sittings, runs))
    logs[1] += gain
    return logs


def overall(case: Case) -> Overall:
    found = judge(case).overall
    assert found is not None
    return found


@settings(max_examples=examples(60), deadline=None)
@given(seeds, st.lists(st.sampled_from([0.5, 1.0, 2.0, 7.0]), min_size=1, max_size=5), st.integers(2, 6))
def test_it_is_the_pooled_test_of_weighted_sitting_medians(seed: int, weights: list[float], sittings: int) -> None:
    logs = draw(seed, len(weights), sittings)
    shares = np.array(weights) / sum(weights)
    before, after = (np.einsum("m,ms->s", shares, np.median(side, axis=2)) for side in logs)
    tests = [stats.ttest_ind(after, before)]
    found = overall(bench(logs, weights)).estimate
    assert found is not None
    if found.sides_differ:
        tests.append(stats.ttest_ind(after, before, equal_var=False))
    interval = max((test.confidence_interval(0.95) for test in tests), key=lambda ci: ci.high - ci.low)
    assert (found.low, found.high) == pytest.approx((interval.low, interval.high), abs=1e-9)
    assert found.p == pytest.approx(max(test.pvalue for test in tests), rel=1e-6)
    assert found.sides_differ or found.df == 2 * sittings - 2


@settings(max_examples=examples(30), deadline=None)
@given(seeds, st.floats(0.01, 100))
def test_only_the_ratios_of_the_weights_matter(seed: int, factor: float) -> None:
    logs = draw(seed, 3, 3)
    weights = [3.0, 2.0, 1.0]
    one, other = overall(bench(logs, weights)), overall(bench(logs, [factor * weight for weight in weights]))
    assert other.difference == pytest.approx(one.difference, rel=1e-9)
    assert one.estimate is not None
    assert other.estimate is not None
    assert other.estimate.se == pytest.approx(one.estimate.se, rel=1e-9)


@pytest.mark.parametrize("none", [0.0, None])
def test_a_claim_of_no_weight_changes_nothing_and_claims_of_no_weight_alone_give_nothing(none: float | None) -> None:
    logs = draw(1, 2, 3)
    assert overall(bench(logs, [1.0, none])) == overall(bench(logs[:, :1], [1.0]))
    assert judge(bench(logs, [none, none])).overall is None


@settings(max_examples=examples(30), deadline=None)
@given(seeds)
def test_swapping_the_sides_mirrors_it(seed: int) -> None:
    logs = draw(seed, 3, 4)
    there, back = overall(bench(logs, [1, 1, 1])), overall(bench(logs[::-1], [1, 1, 1]))
    assert back.difference == pytest.approx(-there.difference, abs=1e-12)
    assert there.estimate is not None
    assert back.estimate is not None
    assert (back.estimate.low, back.estimate.high) == pytest.approx(
        (-there.estimate.high, -there.estimate.low), abs=1e-9
    )


def test_jobs_of_one_sitting_are_not_taken_for_independent() -> None:
    """Ten equal copies of one job say no more than the job itself: variances are never summed over them."""
    logs = draw(3, 1, 3)
    one = overall(bench(logs, [1.0])).estimate
    copies = overall(bench(np.repeat(logs, 8, axis=1), [1.0] * 8)).estimate
    assert one is not None
    assert copies is not None
    assert copies.se == pytest.approx(one.se, rel=1e-9)


def test_jobs_measured_in_sittings_of_their_own_are_summed_by_satterthwaite() -> None:
    logs = draw(4, 2, 6)
    case = bench(logs, [2.0, 1.0], workloads=True, sittings_a_side=3)
    kept = {"a": (0, 1, 2), "b": (3, 4, 5)}
    runs = tuple(run for run in case.runs if int(run.sitting_id[1:]) in kept[run.workload])
    found = overall(replace(case, runs=runs)).estimate
    assert found is not None
    shares, squares, dfs, differences = (2 / 3, 1 / 3), [], [], []
    for index, chosen in enumerate(kept.values()):
        before, after = (np.median(side[index, list(chosen)], axis=1) for side in logs)
        test = stats.ttest_ind(after, before)
        differences.append(after.mean() - before.mean())
        squares.append((differences[-1] / test.statistic) ** 2)
        dfs.append(test.df)
    terms = [share**2 * square for share, square in zip(shares, squares, strict=True)]
    df = sum(terms) ** 2 / sum(term**2 / each for term, each in zip(terms, dfs, strict=True))
    assert found.estimate == pytest.approx(sum(s * d for s, d in zip(shares, differences, strict=True)), rel=1e-9)
    assert (found.se, found.df) == pytest.approx((sum(terms) ** 0.5, df), rel=1e-6)


def test_a_sitting_without_one_of_the_claims_is_left_out_of_it() -> None:
    logs = draw(5, 2, 4)
    case = bench(logs, [1.0, 1.0], workloads=True)
    fewer = tuple(run for run in case.runs if not (run.workload == "b" and run.sitting_id == "B3"))
    found = overall(replace(case, runs=fewer)).estimate
    before = np.median(logs[0], axis=2).mean(axis=0)[:3]
    after = np.median(logs[1], axis=2).mean(axis=0)
    assert found is not None
    assert found.estimate == pytest.approx(float(after.mean() - before.mean()), abs=1e-9)


def test_matched_sittings_are_compared_pair_by_pair() -> None:
    logs = draw(6, 3, 5)
    found = overall(bench(logs, [1, 1, 1], design="paired")).estimate
    differences = np.median(logs[1], axis=2).mean(axis=0) - np.median(logs[0], axis=2).mean(axis=0)
    assert found is not None
    assert (found.basis, found.df) == ("paired_sittings", 4)
    assert found.p == pytest.approx(stats.ttest_1samp(differences, 0).pvalue, rel=1e-6)


def test_of_two_looks_the_whole_is_held_against_its_own_level_too() -> None:
    logs = draw(6, 3, 5)
    once = overall(bench(logs, [1, 1, 1], design="paired")).estimate
    first_of_two = overall(bench(logs, [1, 1, 1], design="paired", at_most=8)).estimate
    assert once is not None
    assert first_of_two is not None
    assert (first_of_two.estimate, first_of_two.p) == (once.estimate, once.p)
    wider = stats.t.ppf(1 - 0.03 / 2, 4) / stats.t.ppf(1 - 0.05 / 2, 4)
    assert first_of_two.high - first_of_two.low == pytest.approx(wider * (once.high - once.low))


def test_one_sitting_a_side_is_guarded_over_the_runs_of_all_jobs() -> None:
    logs = draw(7, 2, 1, runs=5)
    found = overall(bench(logs, [1, 1])).estimate
    before, after = (side[:, 0].mean(axis=0) for side in logs)
    variances = before.var(ddof=1), after.var(ddof=1)
    shared = stats.t.ppf(0.975, 8) * np.sqrt(sum(variances) / 2 * (2 / 5 + 9 * 2))
    a, b = (variance * (1 / 5 + 9) for variance in variances)
    apart = stats.t.ppf(0.975, (a + b) ** 2 / (a**2 / 4 + b**2 / 4)) * np.sqrt(a + b)
    half = max(shared, apart)
    assert found is not None
    assert found.basis == "one_sitting"
    assert found.high - found.estimate == pytest.approx(half, rel=1e-9)


def test_before_the_plan_is_complete_it_waits_under_the_anytime_rule() -> None:
    logs = draw(8, 2, 4)
    early, planned = (overall(bench(logs, [1, 1], sittings_a_side=wanted)) for wanted in (6, 4))
    assert early.estimate is not None
    assert planned.estimate is not None
    assert planned.waiting is False
    assert (early.estimate.basis, planned.estimate.basis) == ("anytime", "sittings")
    assert early.estimate.low < planned.estimate.low
    assert early.difference == pytest.approx(planned.difference)


def labelled(logs: NDArray[np.float64], weights: Sequence[float], sittings: int) -> Case:
    """Runs of the same position are of the same input, and paired by its name."""
    case = bench(logs, weights, design="paired", pair_by="label", sittings_a_side=sittings)
    return replace(case, runs=tuple(replace(run, pair_label=f"input {run.position}") for run in case.runs))


def test_inputs_of_one_sitting_a_side_are_paired_by_their_names_across_all_claims() -> None:
    logs = draw(9, 2, 1, runs=5)
    found = overall(labelled(logs, [3.0, 1.0], 1)).estimate
    differences = 0.75 * (logs[1, 0, 0] - logs[0, 0, 0]) + 0.25 * (logs[1, 1, 0] - logs[0, 1, 0])
    assert found is not None
    assert found.basis == "one_sitting"
    assert found.estimate == pytest.approx(float(differences.mean()), abs=1e-9)
    # An input that one claim lacks on a side is out of the whole.
    case = labelled(logs, [3.0, 1.0], 1)
    last = case.runs[-1]
    fewer = replace(last, readings={k: v for k, v in last.readings.items() if k != MeasureId("b")})
    without = overall(replace(case, runs=(*case.runs[:-1], fewer))).estimate
    assert without is not None
    assert without.estimate == pytest.approx(float(differences[:4].mean()), abs=1e-9)


def test_inputs_of_several_sittings_are_tested_pair_of_sittings_by_pair() -> None:
    logs = draw(10, 2, 5, runs=4)
    found = overall(labelled(logs, [1.0, 1.0], 5)).estimate
    differences = (logs[1] - logs[0]).mean(axis=(0, 2))
    assert found is not None
    assert found.df == 4
    assert found.p == pytest.approx(stats.ttest_1samp(differences, 0).pvalue, rel=1e-6)


def test_a_pair_of_sittings_is_too_few_to_be_tested_as_pairs_and_is_guarded() -> None:
    found = overall(bench(draw(11, 2, 1, runs=5), [1.0, 1.0], design="paired", sittings_a_side=1))
    assert found.estimate is not None
    assert found.estimate.basis == "one_sitting"
    few = overall(bench(draw(11, 2, 1, runs=1), [1.0, 1.0], design="paired", sittings_a_side=1))
    assert (few.estimate, few.verdict.word) == (None, "untested")


def test_pairs_before_the_planned_number_wait_under_the_anytime_rule() -> None:
    logs = draw(12, 2, 4)
    early = overall(bench(logs, [1, 1], design="paired", sittings_a_side=6))
    planned = overall(bench(logs, [1, 1], design="paired", sittings_a_side=4))
    assert early.estimate is not None
    assert planned.estimate is not None
    assert early.estimate.basis == "anytime"
    assert early.estimate.low < planned.estimate.low
    assert early.difference == pytest.approx(planned.difference)
