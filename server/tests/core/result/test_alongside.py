"""What stands alongside a verdict: it follows the same symmetries as the verdict, and it never changes one."""

from dataclasses import replace

import pytest
from hypothesis import given
from hypothesis import strategies as st

from lynxbill.core.judgement.spread import pool_spread
from lynxbill.core.plan.questions import loaded_by
from lynxbill.core.reading.counting import compared_sittings, group_runs
from lynxbill.core.record.build import Build, Part
from lynxbill.core.record.frame import Case
from lynxbill.core.record.ids import BuildId, SwapId, WorkloadId
from lynxbill.core.record.plan import PlannedMeasure
from lynxbill.core.record.run import Purpose, Run
from lynxbill.core.record.swap import Swap
from lynxbill.core.record.workload import Workload
from lynxbill.core.result.comparison import judge, judge_measures
from lynxbill.core.result.result import MeasureResult
from lynxbill.core.terms.measure import Measure, MeasureId
from tests.builders import RATE, RISE, TIME, B, C, make_case, make_run

READING = st.floats(1.0, 100.0)
SIDE = st.lists(st.lists(READING, min_size=2, max_size=3), min_size=2, max_size=4)
MEASURES = st.sampled_from([TIME, RATE, RISE])


def only(case: Case) -> MeasureResult:
    (result,) = judge(case).measures
    return result


@given(SIDE, SIDE, MEASURES)
def test_swapping_the_sides_keeps_the_floor_and_swaps_the_summaries(
    before: list[list[float]], after: list[list[float]], measure: Measure
) -> None:
    there, back = only(make_case(before, after, measure)), only(make_case(after, before, measure))
    assert there.floor == pytest.approx(back.floor)
    assert there.within_floor == back.within_floor
    assert there.summaries == back.summaries[::-1]
    assert there.least_rank_p == back.least_rank_p


@given(SIDE, SIDE, st.sampled_from([0.001, 60.0, 1000.0]))
def test_a_change_of_unit_keeps_the_floor_of_a_ratio_and_scales_the_summaries(
    before: list[list[float]], after: list[list[float]], factor: float
) -> None:
    def scaled(side: list[list[float]]) -> list[list[float]]:
        return [[factor * value for value in sitting] for sitting in side]

    plain = only(make_case(before, after))
    other = only(make_case(scaled(before), scaled(after), replace(TIME, step=(TIME.step or 0) * factor)))
    assert other.floor == pytest.approx(plain.floor, rel=1e-6, abs=1e-12)
    for ours, theirs in zip(plain.summaries, other.summaries, strict=True):
        assert ours is not None
        assert theirs is not None
        assert theirs.mean == pytest.approx(factor * ours.mean)
        assert theirs.sd == pytest.approx(factor * (ours.sd or 0.0), abs=1e-9 * factor)


@given(SIDE, SIDE, st.randoms(use_true_random=False))
def test_spoiled_runs_and_the_order_in_the_file_leave_it_as_it_is(
    before: list[list[float]], after: list[list[float]], random: object
) -> None:
    case = make_case(before, after)
    spoiled = make_run("B0", 99, 1e6, state="spoiled", reason="a scan ran", suffix="-spoiled")
    runs: list[Run] = [*case.runs, spoiled]
    random.shuffle(runs)  # type: ignore[attr-defined]
    plain, other = only(case), only(replace(case, runs=tuple(runs)))
    assert other.floor == pytest.approx(plain.floor)
    assert other.summaries == plain.summaries
    assert other.least_rank_p == plain.least_rank_p


@given(SIDE, SIDE, MEASURES, st.sampled_from([{}, {"design": "paired"}, {"sittings_a_side": 6}]))
def test_nothing_alongside_changes_a_verdict(
    before: list[list[float]], after: list[list[float]], measure: Measure, plan: dict[str, object]
) -> None:
    case = make_case(before, after, measure, **plan)
    (bare,) = judge_measures(case)
    whole = only(case)
    assert (whole.verdict, whole.interval, whole.p_adjusted) == (bare.verdict, bare.interval, bare.p_adjusted)


def test_the_spread_of_builds_is_pooled_around_their_own_means() -> None:
    case = make_case([[40.0], [41.0], [42.0]], [[20.0], [22.0]], measure=RISE)
    (swap,) = case.swaps
    builds = [compared_sittings(case, BuildId(build)) for build in ("B", "C")]
    pooled = pool_spread(group_runs(case.runs), RISE, swap.plan, builds, builds[0] + builds[1])
    assert pooled.squares == pytest.approx(1 + 0 + 1 + 1 + 1)
    assert pooled.df == 3
    assert pool_spread(group_runs(case.runs), RISE, swap.plan, [builds[0][:1]], builds[1]).df == 0


def test_a_re_check_is_taken_to_learn_of_age_and_is_no_unchanged_sitting() -> None:
    case = make_case([[40.0], [40.1], [40.2], [60.0]], [[30.0], [30.1], [30.2]])

    def told_as(purpose: Purpose) -> float | None:
        sittings = tuple(replace(s, purpose=purpose) if s.id == "B3" else s for s in case.sittings)
        return only(replace(case, sittings=sittings)).floor

    trial, recheck = told_as("trial"), told_as("recheck")
    assert trial is not None
    assert recheck is not None
    assert recheck < 0.05 < trial


@pytest.mark.parametrize(
    ("role", "shown_in"),
    [
        ("processor", {"processor"}),
        ("adapter", {"drive", "adapter"}),
        ("thermal paste", {"thermal paste", "cooler", "processor", "graphics"}),
        ("board", set()),
    ],
)
def test_a_change_of_a_part_shows_in_what_loads_it_or_heats_it(role: str, shown_in: set[str]) -> None:
    assert loaded_by(role) == shown_in


def ladder(*steps: tuple[str, ...]) -> Case:
    """Builds A, B, ... with one part each; every step names what its swap touched besides."""
    letters = "ABC"[: len(steps) + 1]
    builds = tuple(Build(BuildId(x), x, x, (Part(f"memory {x}", "memory", f"Marl {x}"),)) for x in letters)
    base = make_case([[40.0]], [[30.0]])
    (swap,) = base.swaps
    chain = tuple(
        Swap(SwapId(f"swap {index}"), BuildId(before), BuildId(after), "Memory", swap.plan, side_changes=touched)
        for index, (before, after, touched) in enumerate(zip(letters, letters[1:], steps, strict=False))
    )
    return replace(
        base, builds=builds, swaps=chain, sittings=(), runs=(), workloads=(Workload(WorkloadId("w"), "job"),)
    )


def test_over_several_swaps_everything_touched_on_the_way_joins_the_bundle_once() -> None:
    case = ladder(("dust-out", "cables moved"), ("dust-out",))
    assert judge(case, BuildId("A"), C).changes == ("memory", "dust-out", "cables moved")
    assert judge(case, B, C).changes == ("memory", "dust-out")


def test_traits_follow_the_headline_of_a_workload_and_not_its_other_figures() -> None:
    rate = replace(RATE, workload="job")
    jobs = [Workload(WorkloadId(f"w{n}"), f"job {n}" if n else "job", parameters={"size": n}) for n in range(3)]
    others = [replace(TIME, id=MeasureId(f"t{n}"), workload=f"job {n}") for n in (1, 2)]
    case = make_case([[40.0]] * 3, [[30.0]] * 3)
    (swap,) = case.swaps
    more = [
        make_run(sitting.id, 1, value, measure, suffix=f"-{measure.id}")
        for sitting in case.sittings
        for measure, value in [(m, 10.0) for m in others]
    ]
    runs = tuple(replace(run, readings={**run.readings, RATE.id: run.readings[TIME.id]}) for run in case.runs)
    planned = {m.id: PlannedMeasure("claim", 2.0) for m in (TIME, rate, *others)}
    whole = replace(
        case,
        measures=(TIME, rate, *others),
        runs=(*runs, *more),
        workloads=tuple(jobs),
        swaps=(replace(swap, plan=replace(swap.plan, measures=planned, headline=RATE.id)),),
    )
    (trend,) = judge(whole).trends
    assert {point.measure for point in trend.points} == {"rate", "t1", "t2"}
