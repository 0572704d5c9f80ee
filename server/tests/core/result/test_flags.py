"""Each flag has one data set on which it fires and one on which it just stays silent."""

from dataclasses import replace
from typing import Any

import numpy as np
import pytest

from lynxbill.core.record.build import Part, PartRole
from lynxbill.core.record.frame import Case
from lynxbill.core.record.ids import WorkloadId
from lynxbill.core.record.plan import PlannedMeasure
from lynxbill.core.record.run import Reading
from lynxbill.core.record.workload import Workload
from lynxbill.core.result.comparison import judge
from lynxbill.core.result.flags import Flag, drop_one_flag
from lynxbill.core.result.result import MeasureResult
from lynxbill.core.terms.measure import Measure, MeasureId
from tests.builders import RISE, make_case

Side = list[list[float]]
NOISE = np.random.default_rng(11).normal(0, 0.3, (2, 3, 5))
QUIET: tuple[Side, Side] = (NOISE[0] + 50).tolist(), (NOISE[1] + 47).tolist()


def add(side: Side, extra: object) -> Side:
    moved: Side = (np.array(side) + np.array(extra)).tolist()
    return moved


def codes(before: Side, after: Side, measure: Measure = RISE, **plan: object) -> set[str]:
    (result,) = judge(make_case(before, after, measure=measure, **plan)).measures
    return {flag.code for flag in result.flags}


def outlier(size: float) -> Side:
    extra = np.zeros((3, 5))
    extra[1, 2] = size
    return add(QUIET[0], extra.tolist())


@pytest.mark.parametrize(
    ("code", "fires", "silent"),
    [
        ("odd_run", (outlier(3.0), QUIET[1]), (outlier(0.6), QUIET[1])),
        (
            "cold_first_run",
            (add(QUIET[0], [2.0, 0, 0, 0, 0]), add(QUIET[1], [2.0, 0, 0, 0, 0])),
            (add(QUIET[0], [0.1, 0, 0, 0, 0]), add(QUIET[1], [0.1, 0, 0, 0, 0])),
        ),
        (
            "unequal_noise",
            (QUIET[0], add((6 * NOISE[1]).tolist(), [47.0] * 5)),
            (QUIET[0], add((1.5 * NOISE[1]).tolist(), [47.0] * 5)),
        ),
        (
            "drift_within_sittings",
            (add(QUIET[0], [0, 0.6, 1.2, 1.8, 2.4]), add(QUIET[1], [0, 0.6, 1.2, 1.8, 2.4])),
            (add(QUIET[0], [0, 0.05, 0.1, 0.15, 0.2]), add(QUIET[1], [0, 0.05, 0.1, 0.15, 0.2])),
        ),
        (
            "drift_across_sittings",
            (add(QUIET[0], [[0], [3], [6]]), add(QUIET[1], [[0], [3], [6]])),
            (add(QUIET[0], [[0], [0.1], [0.2]]), add(QUIET[1], [[0], [0.1], [0.2]])),
        ),
        ("reboots_matter", (add(QUIET[0], [[0], [3], [1]]), QUIET[1]), QUIET),
    ],
)  # fmt: skip
def test_a_flag_on_the_readings_fires_and_just_stays_silent(
    code: str, fires: tuple[Side, Side], silent: tuple[Side, Side]
) -> None:
    assert code in codes(*fires)
    assert code not in codes(*silent)


def test_readings_as_coarse_as_their_scatter_are_told() -> None:
    coarse = replace(RISE, step=1.0)
    assert "too_coarse" in codes(*QUIET, measure=coarse)
    assert "too_coarse" not in codes(*QUIET, measure=replace(RISE, step=0.01))


def test_below_five_sittings_it_is_said_that_each_weighs_much_and_from_five_on_whether_one_decides() -> None:
    assert "few_sittings" in codes(*QUIET, sittings_a_side=3)
    steady = [[50.0 + n / 10] * 3 for n in range(5)]
    clear = [[45.0 + n / 10] * 3 for n in range(5)]
    assert not {"few_sittings", "one_sitting_decides"} & codes(steady, clear, sittings_a_side=5)
    spread = [[50.0], [50.6], [49.4], [50.3], [49.7]]
    edge = [[49.0], [49.5], [48.5], [49.1], [50.4]]
    assert "one_sitting_decides" in codes(spread, edge, sittings_a_side=5, matters_from=0.5)


def test_a_measure_that_twenty_sittings_would_not_settle_says_so() -> None:
    wild = [[40.0] * 3, [60.0] * 3, [50.0] * 3], [[41.0] * 3, [61.0] * 3, [49.0] * 3]
    assert "cannot_settle" in codes(*wild, sittings_a_side=3)
    assert "cannot_settle" not in codes(*QUIET, sittings_a_side=3)


def test_the_sitting_that_decides_is_named_by_its_side_and_place() -> None:
    level, odd = [0.0] * 5, [0.0, 0.0, 0.0, 9.0, 0.0]

    def word(before: list[float], after: list[float]) -> str:
        return "odd" if 9.0 in before or 9.0 in after else "even"

    assert drop_one_flag(odd, level, "odd", word) == Flag("one_sitting_decides", side="before", sitting=4)
    assert drop_one_flag(level, odd, "odd", word) == Flag("one_sitting_decides", side="after", sitting=4)
    assert drop_one_flag(level, level, "even", word) is None
    assert drop_one_flag(odd, level[:4], "odd", word) == Flag("few_sittings")


def two_measures(control_after: float) -> MeasureResult:
    case = make_case([[50.0, 50.1, 50.2]] * 3, [[45.0, 45.1, 45.2]] * 3, measure=RISE, sittings_a_side=3)
    control = replace(RISE, id=MeasureId("control"), name="Control")
    before = {sitting.id for sitting in case.sittings if sitting.build_id == "B"}

    def with_control(run_id: str, sitting: str, reading: Reading) -> dict[MeasureId, Reading]:
        value = (30.0 if sitting in before else control_after) + int(run_id[-1]) / 1000
        return {RISE.id: reading, MeasureId("control"): Reading(value, value)}

    runs = tuple(replace(r, readings=with_control(r.id, r.sitting_id, r.readings[RISE.id])) for r in case.runs)
    plan = case.swaps[0].plan
    planned = {**plan.measures, MeasureId("control"): PlannedMeasure("control", 1.0)}
    swap = replace(case.swaps[0], plan=replace(plan, measures=planned))
    return judge(replace(case, measures=(RISE, control), runs=runs, swaps=(swap,))).measures[0]


def test_a_control_that_moved_is_told_beside_the_claim() -> None:
    assert "control_moved" in {flag.code for flag in two_measures(25.0).flags}
    assert "control_moved" not in {flag.code for flag in two_measures(30.0).flags}


def alike(case: Case) -> Case:
    return replace(case, sittings=tuple(replace(s, ambient_c=22.0) for s in case.sittings))


def test_differing_conditions_a_bundle_and_a_missing_room_temperature_are_told_and_lower_the_grade() -> None:
    case = alike(make_case(*QUIET, measure=RISE, sittings_a_side=3, order="alternating"))
    (plain,) = judge(case).measures
    assert plain.grade == "full_plan"
    assert {flag.code for flag in plain.flags} <= {"few_sittings"}
    fan = tuple(replace(s, conditions={"fan": "full"}) if s.build_id == "C" else s for s in case.sittings)
    (loud,) = judge(replace(case, sittings=fan)).measures
    assert ("conditions_differ" in {flag.code for flag in loud.flags}, loud.grade) == (True, "conditions_differ")
    bundle = replace(case, swaps=(replace(case.swaps[0], side_changes=("dust-out", "fresh paste")),))
    assert "several_changes" in {flag.code for flag in judge(bundle).measures[0].flags}
    blind = replace(case, sittings=tuple(replace(s, ambient_c=None) for s in case.sittings))
    (unknown,) = judge(blind).measures
    assert ("ambient_missing" in {flag.code for flag in unknown.flags}, unknown.grade) == (True, "conditions_differ")


def test_told_values_enter_no_test_and_have_a_grade_of_their_own() -> None:
    case = make_case(*QUIET, measure=RISE, sittings_a_side=3)
    told = tuple(replace(r, readings={RISE.id: replace(r.readings[RISE.id], source="remembered")}) for r in case.runs)
    (result,) = judge(replace(case, runs=told)).measures
    assert (result.grade, result.interval) == ("told", None)
    assert "told_values" in {flag.code for flag in result.flags}


@pytest.mark.nightly
def test_flags_keep_their_level_on_clean_data() -> None:
    """Readings with nothing wrong: each flag of the readings fires in about one case in a hundred."""
    generator = np.random.default_rng(5)
    counts = dict.fromkeys(
        ("odd_run", "cold_first_run", "unequal_noise", "drift_within_sittings", "drift_across_sittings"), 0
    )
    replications = 800
    for _ in range(replications):
        before, after = generator.normal(50, 0.3, (2, 4, 5)).tolist()
        for code in codes(before, after) & counts.keys():
            counts[code] += 1
    for code, count in counts.items():
        assert count / replications < 0.01 + 3.3 * np.sqrt(0.01 * 0.99 / replications), code


def test_an_odd_run_is_named_by_its_side_and_sitting() -> None:
    (result,) = judge(make_case(outlier(3.0), QUIET[1], measure=RISE)).measures
    (odd,) = (flag for flag in result.flags if flag.code == "odd_run")
    assert (odd.side, odd.sitting, odd.run) == ("before", 2, 3)


def test_it_is_said_where_only_the_pairs_make_a_result() -> None:
    drifting: tuple[Side, Side] = [[40.0], [44.0], [48.0]], [[39.0], [43.02], [46.99]]
    assert "rests_on_pairing" in codes(*drifting, design="paired")
    assert "rests_on_pairing" not in codes(*drifting)
    steady: tuple[Side, Side] = [[40.0], [40.1], [40.2]], [[30.0], [30.1], [30.2]]
    assert "rests_on_pairing" not in codes(*steady, design="paired")


def exchanged(role: PartRole, loads: tuple[PartRole, ...], **swap: Any) -> set[str]:
    """Flags of a claim whose workload loads something, after one part of a role was exchanged."""
    case = make_case([[40.0], [40.1], [40.2]], [[30.0], [30.1], [30.2]])
    builds = tuple(replace(b, parts=(Part(f"part {b.id}", role, b.id),)) for b in case.builds)
    (only,) = case.swaps
    workloads = (Workload(WorkloadId("w"), "job", loads=loads),)
    (result,) = judge(replace(case, builds=builds, workloads=workloads, swaps=(replace(only, **swap),))).measures
    return {flag.code for flag in result.flags}


def test_a_job_that_does_not_load_what_was_changed_can_not_show_it() -> None:
    assert "does_not_load_it" in exchanged("memory", ("drive",))
    assert "does_not_load_it" not in exchanged("memory", ("drive", "memory"))
    # A new adapter shows in what loads the drive, and paste in what loads the cooler or heats it.
    assert "does_not_load_it" not in exchanged("adapter", ("drive",))
    assert "does_not_load_it" not in exchanged("thermal paste", ("cooler",))
    assert "does_not_load_it" not in exchanged("thermal paste", ("processor",))
    assert "does_not_load_it" in exchanged("thermal paste", ("drive",))
    # Nothing is said of a board, of unknown loads, or where something else was touched as well.
    assert "does_not_load_it" not in exchanged("board", ("drive",))
    assert "does_not_load_it" not in exchanged("memory", ())
    assert "does_not_load_it" not in exchanged("memory", ("drive",), side_changes=("dust-out",))


@pytest.mark.parametrize(
    ("sittings", "wanted", "grade"),
    [(1, 1, "one_sitting"), (1, 3, "one_sitting"), (2, 3, "early_look"), (4, 5, "early_look"), (3, 3, "block_order")],
)
def test_the_grade_says_how_far_the_plan_was_held(sittings: int, wanted: int, grade: str) -> None:
    """Two of three planned sittings give no interval yet; that is an early look all the same, not one sitting."""
    case = make_case([[40.0, 40.2, 40.1]] * sittings, [[30.0, 30.2, 30.1]] * sittings, sittings_a_side=wanted)
    (result,) = judge(case).measures
    assert result.grade == grade
