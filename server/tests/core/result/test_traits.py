"""Gain against a trait of the work, and what an unchanged machine shows: neither decides anything."""

import math
from dataclasses import replace

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from scipy import stats

from lynxbill.core.plan.planning import noise_floor
from lynxbill.core.record.frame import Case
from lynxbill.core.record.ids import Plain, RunId, SittingId, WorkloadId
from lynxbill.core.record.plan import PlannedMeasure
from lynxbill.core.record.workload import Workload
from lynxbill.core.result.comparison import judge
from lynxbill.core.result.traits import ENOUGH, TaskGain, Trend, gain_by_traits, kendall_tau
from lynxbill.core.statistics.scatter import Noise
from lynxbill.core.terms.measure import MeasureId
from tests.builders import TIME, make_case, make_run

FINITE = st.floats(-100, 100)


@given(st.lists(st.tuples(FINITE, FINITE), min_size=2, max_size=15))
def test_tau_is_the_one_that_scipy_gives(points: list[tuple[float, float]]) -> None:
    ours = kendall_tau(points)
    with np.errstate(all="ignore"):
        theirs = stats.kendalltau(*zip(*points, strict=True)).statistic
    if ours is None:
        assert math.isnan(theirs)
    else:
        assert ours == pytest.approx(theirs, abs=1e-9)


def along(traits: list[dict[str, Plain]], gains: list[float]) -> tuple[Trend, ...]:
    jobs = {
        str(index): Workload(WorkloadId(str(index)), str(index), parameters=held) for index, held in enumerate(traits)
    }
    return gain_by_traits(jobs, [TaskGain(f"m{name}", name, gain) for name, gain in zip(jobs, gains, strict=True)])


def test_gains_that_rise_with_a_trait_are_counted_pair_by_pair() -> None:
    (trend,) = along([{"photos": 40}, {"photos": 10}, {"photos": 20}, {"photos": 80.0}], [0.2, 0.1, 0.3, 0.4])
    assert (trend.trait, trend.rising, trend.falling) == ("photos", 5, 1)
    assert trend.tau == pytest.approx(4 / 6)
    assert [point.value for point in trend.points] == [10, 20, 40, 80]
    assert trend.few
    assert trend.moves_with == ()


@pytest.mark.parametrize(
    "traits",
    [
        [{"photos": 1}, {"photos": 2}],
        [{"photos": 5}, {"photos": 5}, {"photos": 5}],
        [{"preset": "fine"}, {"preset": "coarse"}, {"preset": "none"}],
        [{"cold": True}, {"cold": False}, {"cold": True}],
        [{"photos": 10**400}, {"photos": 1}, {"photos": 2}],
    ],
)
def test_two_jobs_a_constant_a_word_or_an_absurd_number_are_no_trend(traits: list[dict[str, Plain]]) -> None:
    assert along(traits, [0.1 * index for index in range(len(traits))]) == ()


def test_traits_that_move_together_name_each_other_and_unrelated_ones_stay_silent() -> None:
    sizes, lengths, others = [1, 2, 3, 4, 5], [50, 40, 30, 20, 10], [3, 1, 5, 2, 4]
    traits: list[dict[str, Plain]] = [
        {"size": size, "length": length, "colours": other}
        for size, length, other in zip(sizes, lengths, others, strict=True)
    ]
    found = {trend.trait: trend.moves_with for trend in along(traits, [0.1, 0.2, 0.15, 0.3, 0.25])}
    assert found == {"size": ("length",), "length": ("size",), "colours": ()}


def test_few_points_are_called_few_up_to_eleven() -> None:
    for count in (ENOUGH - 1, ENOUGH):
        (trend,) = along([{"n": n} for n in range(count)], [float(n) for n in range(count)])
        assert trend.few == (count < ENOUGH)
        assert trend.tau == 1


def many_jobs(roles: tuple[str, ...], photos: tuple[Plain, ...]) -> Case:
    """One workload a role, each with its own number of photos; the after-side is 10, 20, ... % faster."""
    case = make_case([[]] * 3, [[]] * 3)
    measures = [replace(TIME, id=MeasureId(f"m{n}"), name=f"Job {n}", workload=f"job {n}") for n in range(len(roles))]
    noise = np.random.default_rng(3)
    runs = [
        make_run(sitting.id, 1, float(40 * noise.normal(1, 0.001) / speed), measure, suffix=f"-{n}")
        for n, measure in enumerate(measures)
        for sitting in case.sittings
        for speed in [1 + 0.1 * (n + 1) if sitting.build_id == "C" else 1.0]
    ]
    planned = {m.id: PlannedMeasure(role, 2.0) for m, role in zip(measures, roles, strict=True)}  # type: ignore[arg-type]
    (swap,) = case.swaps
    return replace(
        case,
        measures=tuple(measures),
        runs=tuple(runs),
        swaps=(replace(swap, plan=replace(swap.plan, measures=planned)),),
        workloads=tuple(
            Workload(WorkloadId(f"w{n}"), f"job {n}", parameters={"photos": count}) for n, count in enumerate(photos)
        ),
    )


def test_a_comparison_lays_its_claims_along_their_traits_and_leaves_controls_out() -> None:
    comparison = judge(many_jobs(("claim", "claim", "claim", "control"), (10, 20, 30, 5)))
    (trend,) = comparison.trends
    assert [point.measure for point in trend.points] == ["m0", "m1", "m2"]
    assert (trend.rising, trend.falling) == (3, 0)
    assert trend.points[2].estimate == comparison.measures[2].estimate


def test_a_noise_floor_is_the_spread_of_two_unchanged_sides() -> None:
    # t(.975; 4) = 2.776: two sides of three sittings differ by up to 2.267 scatters.
    assert noise_floor(Noise(1.0, 4, 6), 3, 3) == pytest.approx(2.267, abs=5e-4)
    generator = np.random.default_rng(11)
    sides = generator.normal(size=(4000, 4, 3))
    within = 0
    for before, after, left, right in sides:
        scatter = math.sqrt((left.var(ddof=1) + right.var(ddof=1)) / 2)
        within += abs(after.mean() - before.mean()) <= noise_floor(Noise(scatter, 4, 6), 3, 3)
    assert 0.94 < within / 4000 < 0.96


def test_the_floor_comes_from_the_sittings_compared_or_from_all_that_the_machine_has() -> None:
    steady = [[40.0, 40.2], [40.3, 40.1], [40.1, 40.0]]
    (alone,) = judge(make_case(steady, [[30.0, 30.1], [30.2, 30.1], [30.0, 29.9]])).measures
    assert alone.interval is not None
    assert alone.floor == pytest.approx((alone.interval.high - alone.interval.low) / 2)
    assert not alone.within_floor

    (single,) = judge(make_case([[40.0, 40.2, 40.1]], [[39.0, 39.1, 39.2]])).measures
    assert (single.floor, single.within_floor) == (None, False)

    # The same single sittings, beside three trials on the before-build which differ by more than the swap did.
    case = make_case([[40.0, 40.2, 40.1], [42.0] * 3, [38.0] * 3, [41.0] * 3], [[39.0, 39.1, 39.2]])
    trials = tuple(replace(s, purpose="trial") if s.id in ("B1", "B2", "B3") else s for s in case.sittings)
    (beside,) = judge(replace(case, sittings=trials)).measures
    assert beside.floor is not None
    assert beside.within_floor
    assert beside.estimate == single.estimate
    assert (beside.verdict, beside.interval) == (single.verdict, single.interval)


def test_trials_tell_what_is_unchanged_by_their_medians_and_those_of_another_recipe_do_not() -> None:
    trials = [[40.0, 44.0, 44.0, 44.0, 44.0], [42.0, 46.0, 46.0, 46.0, 46.0], [38.0, 42.0, 42.0, 42.0, 42.0]]
    case = make_case([[40.0], *trials], [[39.0]])
    marked = tuple(replace(s, purpose="trial") if s.id in ("B1", "B2", "B3") else s for s in case.sittings)
    (whole,) = judge(replace(case, sittings=marked)).measures
    logs = np.log([40, 44, 46, 42])
    expected = noise_floor(Noise(logs.std(ddof=1), 3, 4), 1, 1)
    assert whole.floor == pytest.approx(expected, rel=1e-6)
    other = tuple(replace(r, workload_version="2") if r.sitting_id != "B0" and r.sitting_id[0] == "B" else r
                  for r in case.runs)  # fmt: skip
    (alone,) = judge(replace(case, sittings=marked, runs=other)).measures
    assert alone.floor is None


def test_the_floor_is_never_below_what_the_readings_can_show() -> None:
    alike = replace(TIME, step=0.5)
    case = make_case([[40.5] * 2] * 3, [[40.5] * 2] * 3, alike)
    trials = tuple(replace(s, id=SittingId(f"{s.id} again"), purpose="trial") for s in case.sittings[:3])
    runs = tuple(
        replace(r, id=RunId(f"{r.id} again"), sitting_id=SittingId(f"{r.sitting_id} again")) for r in case.runs[:6]
    )
    (result,) = judge(replace(case, sittings=(*case.sittings, *trials), runs=(*case.runs, *runs))).measures
    step = 0.5 / 40.5 / math.sqrt(12)
    assert result.floor == pytest.approx(noise_floor(Noise(step, 7, 0, step**2), 3, 3), rel=1e-6)


def test_a_called_change_within_the_floor_is_flagged_and_others_are_not() -> None:
    case = make_case([[40.0], [40.01], [40.02]], [[39.0], [39.01], [39.02]])
    (clear,) = judge(case).measures
    assert "within_noise_floor" not in [flag.code for flag in clear.flags]
    trials = make_case([[40.0], [40.01], [40.02], [46.0], [34.0], [47.0]], [[39.0], [39.01], [39.02]])
    rough = tuple(replace(s, purpose="trial") if s.id in ("B3", "B4", "B5") else s for s in trials.sittings)
    (doubtful,) = judge(replace(trials, sittings=rough)).measures
    assert doubtful.verdict == clear.verdict
    assert doubtful.verdict.word == "real_gain"
    assert "within_noise_floor" in [flag.code for flag in doubtful.flags]


def test_matched_sides_and_steps_have_no_floor() -> None:
    (paired,) = judge(make_case([[40.0], [41.0], [42.0]], [[30.0], [31.0], [32.0]], design="paired")).measures
    assert paired.floor is None
