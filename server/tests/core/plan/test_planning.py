"""What a plan takes and could show, and what a baseline still lacks."""

import math
from dataclasses import replace
from typing import Any

import numpy as np
import pytest

from lynxbill.core.plan.conditions import Departure, NotHeld, condition_departures, find_departures
from lynxbill.core.plan.gate import Lack, baseline_gate
from lynxbill.core.plan.planning import (
    bench_time,
    detectable_difference,
    found_by_two,
    known_noise,
    plan_strength,
    sittings_for,
    what_is_known,
)
from lynxbill.core.plan.progress import tally_builds
from lynxbill.core.reading.counting import compared_sittings
from lynxbill.core.reading.tally import sheets_of
from lynxbill.core.record.frame import Case
from lynxbill.core.record.ids import Plain, RunId, WorkloadId
from lynxbill.core.record.plan import Plan, PlannedMeasure
from lynxbill.core.record.run import LateExclusion, Reading
from lynxbill.core.record.workload import Workload
from lynxbill.core.statistics.estimate import ALPHA, side_by_side
from lynxbill.core.statistics.scatter import Noise
from lynxbill.core.terms.measure import MeasureId
from tests.builders import RISE, TIME, B, C, make_case, make_run

STEADY = [[40.0, 40.2, 40.1], [40.3, 40.1, 40.2], [40.1, 40.0, 40.2]]


def test_the_detectable_difference_follows_the_published_quantiles() -> None:
    # t(.975; 4) = 2.776 and t(.80; 4) = 0.941, chi2(.20; 4) = 1.649: tables of any statistics textbook.
    noise = Noise(sd=1.0, df=4, sittings=6)
    expected = (2.776 + 0.941) * math.sqrt(4 / 1.649) * math.sqrt(2 / 3)
    assert detectable_difference(noise, 3) == pytest.approx(expected, rel=1e-3)


def test_more_sittings_show_smaller_differences_and_a_large_target_needs_few() -> None:
    noise = Noise(sd=0.01, df=4, sittings=6)
    sizes = [detectable_difference(noise, k) for k in range(2, 12)]
    assert sizes == sorted(sizes, reverse=True)
    needed = sittings_for(noise, 0.03)
    assert needed is not None
    assert detectable_difference(noise, needed) <= 0.03 < detectable_difference(noise, needed - 1)
    assert sittings_for(noise, 1e-4) is None


def test_noise_is_the_scatter_of_sittings_around_their_own_builds_mean() -> None:
    shifted = make_case([[40.0] * 3, [41.0] * 3, [42.0] * 3], [[20.0] * 3, [20.5] * 3, [21.0] * 3])
    noise = known_noise(shifted, TIME)
    assert noise is not None
    assert (noise.df, noise.sittings) == (4, 6)
    logs = np.log(np.array([[40, 41, 42], [20, 20.5, 21]]))
    assert noise.sd == pytest.approx(math.sqrt(logs.var(axis=1, ddof=1).mean()), rel=1e-6)
    assert known_noise(make_case([[40.0, 41.0]], [[30.0]]), TIME) is None
    # A machine that is looked at months later is another one.
    checked = make_case([[40.0] * 3, [41.0] * 3, [42.0] * 3, [60.0] * 3], [[20.0] * 3, [20.5] * 3, [21.0] * 3])
    again = tuple(replace(s, purpose="recheck") if s.id == "B3" else s for s in checked.sittings)
    assert known_noise(replace(checked, sittings=again), TIME) == noise


def test_readings_that_never_differ_are_no_quieter_than_their_resolution() -> None:
    coarse = replace(TIME, step=0.5)
    noise = known_noise(make_case([[40.5] * 3] * 3, [[40.5] * 3] * 3, coarse), coarse)
    assert noise is not None
    assert noise.sd == pytest.approx(0.5 / 40.5 / math.sqrt(12), rel=1e-6)
    assert (noise.df, noise.sittings) == (4, 6)


def test_a_workload_with_its_own_number_of_runs_has_a_noise_of_its_own() -> None:
    """One run of a long soak is all its plan asks for, whatever other workloads are run."""
    case = make_case([[50.0], [52.0], [49.0]], [[51.0], [50.0], [52.5]], measure=RISE)
    plan = replace(case.swaps[0].plan, runs_a_sitting=6, runs={RISE.workload: 1})
    noise = known_noise(replace(case, swaps=(replace(case.swaps[0], plan=plan),)), RISE)
    assert noise is not None
    assert noise.df == 4
    longer = replace(plan, runs={})
    assert known_noise(replace(case, swaps=(replace(case.swaps[0], plan=longer),)), RISE) is None


def test_a_plan_says_what_it_could_show_in_percent_and_in_kelvin() -> None:
    case = make_case(STEADY, [])
    plan = Plan(sittings_a_side=3, measures={TIME.id: PlannedMeasure("claim", 2.0, 25)})
    (strength,) = plan_strength(case, plan)
    assert 0 < strength.with_five < strength.with_four < strength.with_three == strength.detectable < 5
    assert strength.after_first == pytest.approx(0.8)
    assert (strength.target, strength.sittings_needed) == (25, 2)
    heat = make_case([[50.0, 51.0], [52.0, 51.0], [49.0, 50.0]], [], measure=RISE)
    (in_kelvin,) = plan_strength(heat, Plan(measures={RISE.id: PlannedMeasure("claim", 1.0)}))
    assert in_kelvin.detectable == pytest.approx(detectable_difference(in_kelvin.noise, 3))


def test_bench_time_adds_starts_runs_rests_and_soaks() -> None:
    case = replace(make_case([], []), workloads=(Workload(WorkloadId("w"), "job", minutes_a_run=4.0),))
    plan = Plan(
        sittings_a_side=3, runs_a_sitting=5, warm_ups=1, rest_min=2, soak_min=10,
        measures={TIME.id: PlannedMeasure("claim", 2.0)},
    )  # fmt: skip
    time = bench_time(case, plan)
    assert time.minutes_a_sitting == 5 + 10 + 6 * 4 + 5 * 2
    assert time.minutes_a_side == 3 * 49
    # Two minutes a sitting, and half a minute for each of six runs: the rest needs nobody.
    assert (time.at_hand_a_side, time.unattended_a_side) == (3 * (2 + 3), 3 * 49 - 15)
    unknown = bench_time(replace(case, workloads=(Workload(WorkloadId("w"), "job"),)), plan)
    assert (unknown.minutes_a_side, unknown.unknown) == (None, ("job",))
    measured = replace(make_case([[120.0, 120.0]], []), workloads=(Workload(WorkloadId("w"), "job"),))
    assert bench_time(measured, Plan(measures=plan.measures)).minutes_a_sitting == 5 + 2


def gate_codes(before: list[list[float]], **plan: object) -> list[str]:
    case = make_case(before, [])
    measures = {"time": PlannedMeasure("claim", 2.0, plan.pop("hoped_for", None))}  # type: ignore[arg-type]
    fields = {"sittings_a_side": 3, "runs_a_sitting": 3, "measures": measures} | plan
    return [lack.code for lack in baseline_gate(case, "B", Plan(**fields)) if lack.code != "goes_by"]  # type: ignore[arg-type]


def test_the_gate_says_what_the_baseline_lacks() -> None:
    assert gate_codes(STEADY) == ["control"]
    assert gate_codes(STEADY[:2]) == ["sittings", "control"]
    assert gate_codes([*STEADY[:2], [40.1]]) == ["runs", "control"]
    assert gate_codes([]) == ["sittings", "control"]
    assert gate_codes(STEADY, measures={}) == ["no_measures"]
    assert gate_codes(STEADY[:1], order="abba") == ["control"]
    assert gate_codes(STEADY, conditions={"fan": "auto"}) == ["conditions"] * 3 + ["control"]
    assert gate_codes(STEADY, conditions={"ambient_high_c": 23.5}) == ["conditions", "control"]


def test_an_unsteady_baseline_is_told_before_the_part_leaves() -> None:
    wild = [[40.0] * 3, [44.0] * 3, [36.0] * 3]
    assert gate_codes(wild, hoped_for=5) == ["steadiness", "control"]
    assert gate_codes(wild, hoped_for=200) == ["control"]


def test_heat_without_a_room_temperature_is_a_lack() -> None:
    case = make_case([[50.0, 51.0, 50.0]] * 3, [], measure=RISE)
    blind = replace(case, sittings=tuple(replace(s, ambient_c=None) for s in case.sittings))
    plan = Plan(sittings_a_side=3, runs_a_sitting=3, measures={RISE.id: PlannedMeasure("claim", 1.0)})
    assert "ambient" in [lack.code for lack in baseline_gate(blind, B, plan)]
    assert "ambient" not in [lack.code for lack in baseline_gate(case, B, plan)]
    timed = make_case(STEADY, [])
    timed = replace(timed, sittings=tuple(replace(s, ambient_c=None) for s in timed.sittings))
    of_times = replace(plan, measures={TIME.id: PlannedMeasure("claim", 2.0)})
    assert "ambient" not in [lack.code for lack in baseline_gate(timed, B, of_times)]


def test_conditions_are_held_word_for_word_case_aside() -> None:
    sitting = replace(
        make_case([[1.0]], []).sittings[0], conditions={"fan": "Auto", "power_limit_w": "65"}, ambient_c=26.0
    )
    held: dict[str, Plain] = {"fan": "auto", "power_limit_w": 65, "screens": "two", "ambient_high_c": 25}
    assert condition_departures(sitting, held) == (
        NotHeld("ambient_high_c", 26.0, 25),
        NotHeld("screens", None, "two"),
    )


def departures_of(case: Case) -> tuple[Departure, ...]:
    return find_departures(case, (compared_sittings(case, B), compared_sittings(case, C)), case.swaps[0].plan)


def test_departures_between_the_sides_are_named_and_like_sides_have_none() -> None:
    case = make_case(STEADY, STEADY)
    alike = replace(
        case, sittings=tuple(replace(s, ambient_c=22.0, conditions={"fan": "auto"}) for s in case.sittings)
    )
    assert departures_of(alike) == ()
    sittings = tuple(
        replace(s, ambient_c=27.0, conditions={"fan": "full"}) if s.build_id == "C" else s for s in alike.sittings
    )
    runs = tuple(replace(run, workload_version="2") if run.sitting_id == "C0" else run for run in alike.runs)
    runs += (make_run("C1", 9, 30.0, state="failed", reason="crashed"),)
    odd = replace(alike, sittings=sittings, runs=runs)
    assert departures_of(odd) == (
        Departure("version", ("1",), ("1", "2"), "job"),
        Departure("failed", (0,), (1,), "job"),
        Departure("room", (22.0,), (27.0,)),
        Departure("condition", ("auto",), ("full",), condition="fan"),
    )


def test_the_gate_counts_controls_and_only_what_counts() -> None:
    control = replace(TIME, id=MeasureId("control"), name="Control")
    case = make_case(STEADY, [])
    plan = Plan(
        sittings_a_side=3,
        runs_a_sitting=3,
        measures={
            TIME.id: PlannedMeasure("claim", 2.0),
            MeasureId("control"): PlannedMeasure("control", 2.0),
        },
    )
    both = replace(case, measures=(TIME, control))
    assert baseline_gate(both, B, plan) == (Lack("sittings", measure=control, had=0, wanted=3),)
    measured = replace(
        both,
        runs=tuple(
            replace(run, readings={**run.readings, MeasureId("control"): Reading(9.0, 9.0)}) for run in both.runs
        ),
    )
    (by,) = baseline_gate(measured, B, plan)
    assert (by.code, by.hint, [of.measure.id for of in by.by]) == ("goes_by", True, ["time"])
    # By the headline, and by what has the fewest.
    fewer = Plan(sittings_a_side=3, runs_a_sitting=2, measures=plan.measures, headline=TIME.id)
    taken = tuple(
        replace(run, readings={TIME.id: run.readings[TIME.id]}) if run.id == "B2-1" else run for run in measured.runs
    )
    by = next(lack for lack in baseline_gate(replace(measured, runs=taken), B, fewer) if lack.code == "goes_by")
    assert [(of.measure.id, of.rank) for of in by.by] == [("time", (3, 3)), ("control", (3, 2))]


@pytest.mark.parametrize(
    "spoil",
    [
        {"state": "failed", "reason": "it hung"},
        {"state": "spoiled", "reason": "indexing"},
        {"excluded_late": LateExclusion("odd")},
        {"readings": {"time": Reading(40.0, 40.0, source="remembered")}},
        {"readings": {}},
        {"warm_up": True},
    ],
)
def test_a_sitting_of_runs_that_do_not_count_is_none(spoil: dict[str, Any]) -> None:
    case = make_case(STEADY, [])
    plan = Plan(sittings_a_side=3, runs_a_sitting=3, measures={TIME.id: PlannedMeasure("claim", 2.0)})
    last = tuple(replace(run, **spoil) if run.sitting_id == "B2" else run for run in case.runs)
    (sittings, hint) = baseline_gate(replace(case, runs=last), B, plan)
    assert sittings == Lack("sittings", measure=TIME, had=2, wanted=3)
    assert hint.hint
    tally = tally_builds(replace(case, runs=last, open_plan=plan, swaps=()))["B"]
    assert (tally.sittings, tally.runs, tally.sittings_left) == (2, 6, 1)
    one = tuple(replace(run, **spoil) if run.id == "B2-1" else run for run in case.runs)
    (runs, _) = baseline_gate(replace(case, runs=one), B, plan)
    assert runs == Lack("runs", measure=TIME, had=2, wanted=3)


def test_trials_and_rechecks_count_in_nobodys_stand() -> None:
    case = make_case(STEADY, [])
    plan = Plan(sittings_a_side=3, runs_a_sitting=3, measures={TIME.id: PlannedMeasure("claim", 2.0)})
    for purpose in ("trial", "recheck"):
        tried = tuple(replace(s, purpose=purpose) if s.id == "B2" else s for s in case.sittings)
        tally = tally_builds(replace(case, sittings=tried, open_plan=plan, swaps=()))["B"]
        assert (tally.sittings, tally.runs, tally.sittings_left) == (2, 6, 1)


def test_sittings_in_one_boot_are_one_for_the_plan() -> None:
    case = make_case(STEADY, [])
    plan = Plan(sittings_a_side=3, runs_a_sitting=3, measures={TIME.id: PlannedMeasure("claim", 2.0)})
    one_boot = tuple(replace(s, boot="same", boot_by="read") if s.id != "B0" else s for s in case.sittings)
    case = replace(case, sittings=one_boot)
    (sittings, _) = baseline_gate(case, B, plan)
    assert sittings == Lack("sittings", measure=TIME, had=2, wanted=3, one_boot=True)
    tally = tally_builds(replace(case, open_plan=plan, swaps=()))["B"]
    assert (tally.sittings, tally.runs, tally.sittings_left) == (3, 9, 1)


def test_warm_ups_are_no_runs_of_a_sheet() -> None:
    case = make_case([[40.0, 40.1]], [[30.0]])
    warm = replace(case.runs[0], id=RunId("warm"), warm_up=True, soak_s=5.0, workload_version="0")
    bare, with_warm_up = (sheets_of(replace(case, runs=runs)) for runs in (case.runs, (*case.runs, warm)))
    assert with_warm_up == bare


def test_what_is_known_holds_noise_and_minutes_and_changes_no_answer() -> None:
    case = replace(
        make_case(STEADY, []),
        workloads=(Workload(WorkloadId("w"), "job", minutes_a_run=4.0), Workload(WorkloadId("v"), "new")),
    )
    plan = Plan(sittings_a_side=3, measures={TIME.id: PlannedMeasure("claim", 2.0)})
    known = what_is_known(case)
    assert known.minutes == {"job": 4.0, "new": None}
    assert known.noise == {TIME.id: known_noise(case, TIME)}
    assert bench_time(case, plan, known) == bench_time(case, plan)
    assert plan_strength(case, plan, known) == plan_strength(case, plan)


def test_each_workload_is_held_to_its_own_number_of_runs() -> None:
    plan = Plan(
        sittings_a_side=3, runs_a_sitting=3, runs={"job": 4}, measures={TIME.id: PlannedMeasure("claim", 2.0)}
    )
    (runs, _) = baseline_gate(make_case(STEADY, []), B, plan)
    assert runs == Lack("runs", measure=TIME, had=3, wanted=4)


def test_a_level_holds_the_scatter_of_its_runs() -> None:
    (sheet,) = sheets_of(make_case([[40.0, 41.0, 45.0]], [], RISE)).values()
    level = sheet.levels[RISE.id]
    assert (level.unit, level.runs, level.alike) == (-41.0, 3, 3)
    assert level.squares == pytest.approx(14.0)


def test_what_two_sittings_find_of_what_three_find_is_what_they_do_find() -> None:
    random, many = np.random.default_rng(21), 1500

    def found(before: int, after: int, gain: float) -> float:
        told = 0
        for _ in range(many):
            sides = [list(map(float, random.normal(mean, 1.0, k))) for mean, k in ((0.0, before), (gain, after))]
            told += side_by_side(*sides, step=0.0, alpha=ALPHA).low > 0
        return told / many

    # A gain of 3.1 standard deviations of a unit.
    assert found(3, 3, 3.1) == pytest.approx(0.80, abs=0.05)
    assert found(2, 2, 3.1) == pytest.approx(found_by_two(), abs=0.05)
    # More on the other side do not help.
    assert found(2, 8, 3.1) < found_by_two() + 0.03
