from dataclasses import replace

import pytest

from lynxbill.core.judgement.sitting import Sides, split_sides
from lynxbill.core.reading.counting import compared_sittings, group_runs
from lynxbill.core.record.frame import Case
from lynxbill.core.record.plan import Plan
from lynxbill.core.record.run import LateExclusion, Reading, Run
from lynxbill.words.results.left_out import say_left_out
from tests.builders import RISE, TIME, B, C, make_case, make_run


def sides_of(case: Case, plan: Plan | None = None) -> Sides:
    sittings = compared_sittings(case, B), compared_sittings(case, C)
    return split_sides(group_runs(case.runs), case.measures[0], plan or case.swaps[0].plan, *sittings)


def reasons(sides: Sides) -> dict[str, str]:
    return {item.run_id: say_left_out(item) for item in sides.left_out}


def test_every_sitting_is_cut_to_the_shortest_with_its_first_runs_kept() -> None:
    sides = sides_of(make_case([[40, 41, 42, 43], [40, 41]], [[30, 31, 32], [30, 31, 32]]))
    assert [len(unit.runs) for unit in sides.before + sides.after] == [2, 2, 2, 2]
    assert [run.position for run in sides.before[0].runs] == [1, 2]
    assert set(reasons(sides)) == {"B0-3", "B0-4", "C0-3", "C1-3"}


def still_open(case: Case, *sittings: str) -> Case:
    return replace(case, sittings=tuple(replace(s, closed_at=None) if s.id in sittings else s for s in case.sittings))


def test_an_open_sitting_with_fewer_runs_than_planned_stays_out_and_a_closed_one_cuts_the_others() -> None:
    case = make_case([[40, 41, 42, 43, 44], [40, 41]], [[30] * 5, [31] * 5], runs_a_sitting=5)
    closed = sides_of(case)
    assert [len(unit.runs) for unit in closed.before] == [2, 2]
    sides = sides_of(still_open(case, "B1"))
    assert [unit.sitting.id for unit in sides.before] == ["B0"]
    assert not sides.short
    assert reasons(sides)["B1-1"] == "its sitting is open and has 2 of 5 runs"


def test_runs_beyond_the_plan_are_listed_and_no_more() -> None:
    sides = sides_of(make_case([[40, 41, 42, 43]], [[30, 31, 32, 33]], runs_a_sitting=3))
    assert [len(unit.runs) for unit in sides.units] == [3, 3]
    assert reasons(sides)["B0-4"] == "beyond the 3 planned runs"


def test_sittings_of_one_boot_are_one_unit_of_the_mean_of_their_medians() -> None:
    case = make_case([[50, 53, 99], [60, 61, 62], [70, 71, 72]], [[40, 41, 42]], RISE)
    boots = tuple(replace(s, boot="one") if s.id in ("B0", "B2") else s for s in case.sittings)
    sides = sides_of(replace(case, sittings=boots))
    assert [unit.unit for unit in sides.before] == [-62.0, -61.0]
    assert [len(unit.by_sitting) for unit in sides.before] == [2, 1]


def test_a_side_of_open_short_sittings_alone_is_shown_but_is_no_unit() -> None:
    sides = sides_of(still_open(make_case([[40]], [[30]], runs_a_sitting=5), "B0", "C0"))
    assert sides.short
    assert len(sides.before) == len(sides.after) == 1


def test_the_unit_is_the_median_and_of_two_runs_the_mean() -> None:
    three = sides_of(make_case([[50, 53, 99]], [[40, 41, 42]], RISE))
    assert three.before[0].unit == -53
    two = sides_of(make_case([[50, 53]], [[40, 41]], RISE))
    assert two.before[0].unit == -51.5


@pytest.mark.parametrize(
    ("run", "reason"),
    [
        (make_run("B0", 9, 99, state="spoiled", reason="indexing ran"), "spoiled: indexing ran"),
        (make_run("B0", 9, 99, state="failed", reason="crash"), "failed: crash"),
        (make_run("B0", 9, 99, warm_up=True), "warm-up"),
        (make_run("B0", 9, 99, excluded_late=LateExclusion("odd")), "left out after its reading was seen: odd"),
        (
            make_run("B0", 9, 99, version="2"),
            "another version, target, parameters or kind of reading than the comparison",
        ),
    ],
)
def test_runs_that_do_not_count_are_named_and_change_nothing(run: Run, reason: str) -> None:
    case = make_case([[40, 41, 42], [40, 41, 42]], [[30, 31, 32], [30, 31, 32]])
    with_run = replace(case, runs=(*case.runs, run))
    assert reasons(sides_of(with_run))[run.id] == reason
    assert sides_of(with_run).before == sides_of(case).before


def test_a_remembered_value_never_enters() -> None:
    case = make_case([[40, 41, 42]], [[30, 31, 32]])
    remembered = replace(case.runs[0], readings={TIME.id: Reading(40, 40, source="remembered")})
    sides = sides_of(replace(case, runs=(remembered, *case.runs[1:])))
    assert reasons(sides)["B0-1"] == "remembered value, kept out of the test"


def test_two_versions_of_a_workload_are_never_compared() -> None:
    case = make_case([[40, 41, 42]], [[30, 31, 32]])
    newer = tuple(replace(run, workload_version="2") if run.sitting_id == "C0" else run for run in case.runs)
    sides = sides_of(replace(case, runs=newer))
    assert sides.mismatch == "workload_version_differs"
    assert not sides.before
    assert not sides.after


@pytest.mark.parametrize(
    ("fields", "mismatch"),
    [({"target": "slot 2"}, "target_differs"), ({"parameters": {"size": 2}}, "parameters_differ")],
)
def test_other_targets_and_parameters_are_never_compared(fields: dict[str, object], mismatch: str) -> None:
    case = make_case([[40, 41, 42]], [[30, 31, 32]])
    other = tuple(replace(run, **fields) if run.sitting_id == "C0" else run for run in case.runs)  # type: ignore[arg-type]
    assert sides_of(replace(case, runs=other)).mismatch == mismatch


def test_only_planned_and_earlier_sittings_enter() -> None:
    case = make_case([[40], [41], [42], [43]], [[30]])
    purposes = ["plan", "earlier", "trial", "recheck"]
    sittings = [replace(s, purpose=p) for s, p in zip(case.sittings, purposes, strict=False)]  # type: ignore[arg-type]
    changed = replace(case, sittings=(*sittings, case.sittings[4]))
    assert [s.id for s in compared_sittings(changed, B)] == ["B0", "B1"]


def test_about_and_ranges_count_at_their_midpoint_and_add_doubt() -> None:
    case = make_case([[40, 40, 40]], [[30, 30, 30]], RISE)
    vague = replace(case.runs[0], readings={RISE.id: Reading(38, 44)})
    sides = sides_of(replace(case, runs=(vague, *case.runs[1:])))
    assert sides.before[0].values[0] == -41
    assert sides.before[0].doubt == pytest.approx(6**2 / 12 / 3)
    about = replace(case.runs[0], readings={RISE.id: Reading(40, 40, about=True)})
    assert sides_of(replace(case, runs=(about, *case.runs[1:]))).before[0].doubt == pytest.approx(10**2 / 12 / 3)


@pytest.mark.parametrize(
    ("value", "place"), [(40, 10), (41, 1), (41.5, 0.1), (0.00025, 1e-5), (3e-9, 1e-9), (1.5e12, 1e11), (7e12, 1e12)]
)
def test_about_leaves_the_last_digit_written_open_at_any_size(value: float, place: float) -> None:
    case = make_case([[value] * 3], [[value] * 3])
    about = replace(case.runs[0], readings={TIME.id: Reading(value, value, about=True)})
    sides = sides_of(replace(case, runs=(about, *case.runs[1:])))
    assert sides.before[0].doubt == pytest.approx((place / value) ** 2 / 12 / 3)
