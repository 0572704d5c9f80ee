"""What must be alike on both sides; what is refused, flagged or lowers the grade where it is not."""

from collections.abc import Callable
from dataclasses import replace
from datetime import timedelta
from typing import Any

import pytest

from lynxbill.core.plan.conditions import Departure
from lynxbill.core.record.disturbance import disturbances
from lynxbill.core.record.frame import Case
from lynxbill.core.record.ids import BuildId, Plain, SittingId
from lynxbill.core.record.run import LateExclusion, Reading, Statistic, Was
from lynxbill.core.result.comparison import judge
from lynxbill.core.result.result import MeasureResult
from lynxbill.core.terms.errors import BadValue, NonPositiveReading, Refusal
from lynxbill.core.terms.measure import Measure, MeasureId, check_reading
from tests.builders import DAY, RISE, TIME, make_case, make_run

SLOW = [[40.0, 40.2, 40.1], [40.3, 40.1, 40.2], [40.1, 40.0, 40.2]]
FAST = [[30.0, 30.2, 30.1], [30.3, 30.1, 30.2], [30.1, 30.0, 30.2]]
HOT = Measure(MeasureId("temp"), "Soak", "job", "Cel", "difference", "heat", "lower", step=0.1)


def only(case: Case) -> MeasureResult:
    (result,) = judge(case).measures
    return result


def flags(result: MeasureResult) -> set[str]:
    return {flag.code for flag in result.flags}


def after_runs(case: Case, **fields: Any) -> Case:
    changed = tuple(replace(r, **fields) if r.sitting_id.startswith("C") else r for r in case.runs)
    return replace(case, runs=changed)


def with_statistic(case: Case, build: str, statistic: Statistic) -> Case:
    def sentence(reading: Reading) -> Reading:
        return replace(reading, statistic=statistic)

    runs = tuple(
        replace(r, readings={key: sentence(reading) for key, reading in r.readings.items()})
        if r.sitting_id.startswith(build)
        else r
        for r in case.runs
    )
    return replace(case, runs=runs)


def planned(case: Case, **fields: Any) -> Case:
    swap = case.swaps[0]
    measures = {key: replace(measure, **fields) for key, measure in swap.plan.measures.items()}
    return replace(case, swaps=(replace(swap, plan=replace(swap.plan, measures=measures)),))


def test_the_highest_before_and_the_settled_after_are_never_compared() -> None:
    case = with_statistic(with_statistic(make_case(SLOW, FAST), "B", "highest"), "C", "settled")
    result = only(case)
    assert (result.verdict.word, result.verdict.remark) == ("untested", "statistic_differs")
    assert "recipe_differs" in flags(result)
    assert result.estimate is None


def test_a_reading_that_does_not_say_is_the_plans_statistic_and_no_other() -> None:
    ruled_after = with_statistic(make_case(SLOW, FAST), "C", "highest")
    assert only(ruled_after).verdict.remark == "statistic_differs"
    assert only(planned(ruled_after, statistic="highest")).verdict.word == "real_gain"
    assert only(planned(ruled_after, statistic="mean")).verdict.remark == "statistic_differs"


def test_a_few_readings_of_another_statistic_are_left_out_and_counted() -> None:
    case = make_case(SLOW, FAST)
    odd = replace(case.runs[2], readings={TIME.id: Reading(45.0, 45.0, statistic="highest")})
    result = only(replace(case, runs=(*case.runs[:2], odd, *case.runs[3:])))
    assert result.verdict.word == "real_gain"
    assert [flag.count for flag in result.flags if flag.code == "recipe_differs"] == [1]
    assert "recipe_differs" not in flags(only(case))


def rooms(case: Case, before: float | None, after: float | None) -> Case:
    warm = {"B": before, "C": after}
    return replace(case, sittings=tuple(replace(s, ambient_c=warm[s.build_id]) for s in case.sittings))


def test_temperatures_are_compared_above_the_room_where_both_sides_know_it() -> None:
    """84 °C in a room of 22 °C and 82 °C in one of 18 °C: 62 K against 64 K, which is 2 K hotter, not cooler."""
    case = make_case([[84.0, 84.2, 83.8]] * 3, [[82.0, 82.2, 81.8]] * 3, HOT, matters_from=1.0)
    result = only(rooms(case, 22.0, 18.0))
    assert result.sides.above_room
    assert result.estimate == pytest.approx(-2.0)
    assert result.before_mean == pytest.approx(62.0)
    assert result.after_mean == pytest.approx(64.0)
    assert result.rise_saved_percent == pytest.approx(-100 * 2 / 62)
    assert result.verdict.word == "real_loss"
    assert result.gain_percent is None


@pytest.mark.parametrize("room", [(None, None), (22.0, None), (None, 18.0)])
def test_without_a_room_on_both_sides_plain_kelvin_have_a_lower_grade(
    room: tuple[float | None, float | None],
) -> None:
    case = make_case([[84.0, 84.2, 83.8]] * 3, [[82.0, 82.2, 81.8]] * 3, HOT, matters_from=1.0, order="alternating")
    result = only(rooms(case, *room))
    assert not result.sides.above_room
    assert result.estimate == pytest.approx(2.0)
    assert result.rise_saved_percent is None
    assert result.grade == "conditions_differ"
    assert "ambient_missing" in flags(result)
    assert only(rooms(case, 20.0, 20.0)).grade == "full_plan"


def test_soaks_of_other_lengths_are_told_and_lower_the_grade() -> None:
    case = rooms(make_case(SLOW, FAST, RISE, order="alternating"), 21.0, 21.0)
    alike = replace(case, runs=tuple(replace(run, soak_s=600.0) for run in case.runs))
    assert only(after_runs(alike, soak_s=605.0)).grade == "full_plan"
    unlike = only(after_runs(alike, soak_s=300.0))
    assert unlike.grade == "conditions_differ"
    assert unlike.flags[-1].departures == (Departure("soak", (600.0, 600.0), (300.0, 300.0), "job"),)
    unknown = only(after_runs(alike, soak_s=None))
    assert unknown.flags[-1].departures == (Departure("soak", (600.0, 600.0), (), "job"),)


def test_soaks_that_agree_in_their_shortest_alone_are_told() -> None:
    case = make_case([[40.0, 40.1]] * 3, [[30.0, 30.1]] * 3, sittings_a_side=3)
    longer = tuple(
        replace(run, soak_s=900.0 if run.sitting_id == "C2" and run.position == 2 else 600.0) for run in case.runs
    )
    (result,) = judge(replace(case, runs=longer)).measures
    assert [flag.departures for flag in result.flags if flag.code == "conditions_differ"] == [
        (Departure("soak", (600.0, 600.0), (600.0, 900.0), "job"),)
    ]


def test_runs_that_were_held_back_are_counted_on_both_sides() -> None:
    case = make_case(SLOW, FAST)
    result = only(after_runs(case, held_back="heat"))
    (held,) = (flag for flag in result.flags if flag.code == "throttled")
    assert (held.names, held.runs) == (("heat",), ((0, 9), (9, 9)))
    assert "throttled" not in flags(only(case))


@pytest.mark.parametrize(
    ("after", "flagged"),
    [
        ({"other_core_percent": 10.0}, True),
        ({"other_core_percent": 9.9}, False),
        ({"other_load_percent": 3.1}, True),
        ({"at_rest": "no"}, True),
        ({"power_source": "battery"}, True),
        ({"power_source": "mains", "rest_min": 10.0, "other_programs": "an indexer"}, False),
    ],
)
def test_what_the_agent_saw_beside_its_runs_is_flagged_and_caps_the_grade(
    after: dict[str, Plain], flagged: bool
) -> None:
    case = make_case(SLOW, FAST)
    result = only(after_runs(case, conditions=after))
    found = [flag for flag in result.flags if flag.code == "disturbed"]
    assert [flag.runs for flag in found] == [((0, 9), (9, 9))] * flagged
    assert (result.grade == "conditions_differ") == flagged
    # Nothing else of the result is touched.
    assert (result.verdict, result.interval) == (only(case).verdict, only(case).interval)


@pytest.mark.parametrize(
    ("before", "after", "flagged"), [(0, 1, False), (0, 2, True), (1, 1, False), (2, 2, True), (2, 0, True)]
)
def test_more_than_one_disturbed_run_in_five_is_flagged(before: int, after: int, flagged: bool) -> None:
    case = make_case(SLOW, FAST)
    disturbed = {"B": before, "C": after}
    runs = []
    for run in case.runs:
        left = disturbed[run.sitting_id[0]]
        disturbed[run.sitting_id[0]] = left - 1
        runs.append(replace(run, conditions={"other_core_percent": 40.0} if left > 0 else {}))
    result = only(replace(case, runs=tuple(runs)))
    assert ("disturbed" in flags(result)) == flagged


def test_a_battery_that_was_planned_disturbs_nothing() -> None:
    assert disturbances({"power_source": "battery"}, "battery") == ()
    assert disturbances({"power_source": "battery", "at_rest": "no"}, "mains") == ("not at rest", "battery")


def test_a_run_left_out_late_shows_the_verdict_with_and_without_it() -> None:
    case = make_case(SLOW, [[39.0, 39.2, 39.1], [39.1, 39.0, 39.2], [47.0, 47.2, 47.1]])
    late = LateExclusion("the fan was unplugged")
    without = tuple(replace(r, excluded_late=late) if r.sitting_id == "C2" else r for r in case.runs)
    result = only(replace(case, runs=without))
    assert (result.verdict.word, result.verdict.remark) == ("not_settled", "rests_on_left_out")
    assert {"left_out_late", "corrected_late"} <= flags(result)
    assert result.with_late is not None
    assert result.with_late.verdict.word == "not_settled"
    assert (result.with_late.interval, result.with_late.estimate) == (only(case).interval, only(case).estimate)
    assert only(case).with_late is None
    assert "left_out_late" not in flags(only(case))


def test_spread_is_borrowed_from_other_builds_only_where_the_plan_says_so() -> None:
    case = make_case(SLOW, FAST)
    other = make_case([[60.0], [61.0], [62.0]], [])
    more = replace(
        case,
        builds=(*case.builds, replace(case.builds[0], id=BuildId("A"), letter="A")),
        sittings=(
            *case.sittings,
            *(replace(s, id=SittingId(f"A{s.id}"), build_id=BuildId("A")) for s in other.sittings),
        ),
        runs=(
            *case.runs,
            *(make_run(f"A{s.id}", r, 60.0 + i) for i, s in enumerate(other.sittings) for r in (1, 2, 3)),
        ),
    )
    plain, borrowing = only(more), only(lend(more, "A"))
    assert plain.interval is not None
    assert borrowing.interval is not None
    assert (plain.interval.df, borrowing.interval.df) == (4, 6)
    assert borrowing.interval.sd > plain.interval.sd
    assert plain.estimate == borrowing.estimate


def lend(case: Case, build: str) -> Case:
    plan = replace(case.swaps[0].plan, borrow_spread_from=(BuildId(build),))
    return replace(case, swaps=(replace(case.swaps[0], plan=plan),))


def failed(case: Case) -> Case:
    return after_runs(case, state="failed", reason="crashed")


NO_VERDICT: list[tuple[str, Callable[[], Case], str]] = [
    ("another version", lambda: after_runs(make_case(SLOW, FAST), workload_version="2"), "workload_version_differs"),
    ("other parameters", lambda: after_runs(make_case(SLOW, FAST), parameters={"n": 2}), "parameters_differ"),
    ("a wrong target", lambda: after_runs(make_case(SLOW, FAST), target="second drive"), "target_differs"),
    ("another statistic", lambda: with_statistic(make_case(SLOW, FAST), "C", "lowest"), "statistic_differs"),
    ("one run a side", lambda: make_case([[40.0]], [[30.0]]), "one_run_a_side"),
    ("only failed runs", lambda: failed(make_case(SLOW, FAST)), "after_missing"),
    ("no pairs at all", lambda: make_case(SLOW, FAST, design="paired", pair_by="label"), "pairs_missing"),
    ("no runs", lambda: make_case([], []), "not_measured"),
    ("only told values", lambda: told(make_case(SLOW, FAST)), "after_missing"),
]


def told(case: Case) -> Case:
    return after_runs(case, readings={TIME.id: Reading(30.0, 30.0, source="remembered")})


@pytest.mark.parametrize(("make", "remark"), [case[1:] for case in NO_VERDICT], ids=[case[0] for case in NO_VERDICT])
def test_bad_input_never_gets_a_verdict_by_accident(make: Callable[[], Case], remark: str) -> None:
    result = only(make())
    assert result.verdict.word in ("untested", "not_settled")
    assert result.verdict.remark == remark
    assert result.interval is None


@pytest.mark.parametrize(
    ("scale", "value", "error"),
    [
        ("ordinal", 0.0, BadValue),
        ("ordinal", 6.0, BadValue),
        ("ordinal", 2.5, BadValue),
        ("outcome", 2.0, BadValue),
        ("ratio", 0.0, NonPositiveReading),
        ("ratio", -3.0, NonPositiveReading),
    ],
)
def test_a_reading_that_its_scale_cannot_hold_is_refused(scale: Any, value: float, error: type[Refusal]) -> None:
    levels = ("1", "2", "3", "4", "5") if scale == "ordinal" else ()
    measure = Measure(MeasureId("m"), "Feel", "job", "1", scale, "other", "higher", levels=levels)
    with pytest.raises(error, match="Feel"):
        check_reading(value, measure)


def test_ten_thousand_runs_of_one_sitting_are_still_one_sitting() -> None:
    """Sixty seconds against fifty-nine, ten thousand times: a reboot alone could do it, and more runs don't help."""
    before = [[60.0 + 0.5 * ((7 * i) % 11) for i in range(10_000)]]
    after = [[59.0 + 0.5 * ((7 * i) % 11) for i in range(10_000)]]
    result = only(make_case(before, after, sittings_a_side=1))
    assert result.interval is not None
    assert result.interval.basis == "one_sitting"
    assert (result.verdict.word, result.provisional) == ("not_settled", True)


def noted_late(case: Case, room: float) -> Case:
    """Every room was noted only after its sitting had been closed."""
    at = DAY + timedelta(days=300)
    entry = Was("ambient_c", None, at)
    sittings = tuple(
        replace(s, ambient_c=room, closed_at=s.started_at + timedelta(hours=1), was=(entry,)) for s in case.sittings
    )
    return replace(case, sittings=sittings)


def test_a_verdict_on_temperatures_waits_for_the_room_of_every_sitting() -> None:
    case = make_case([[71.0, 71.2, 71.1]] * 3, [[61.0, 61.2, 61.1]] * 3, measure=HOT, matters_from=1.0)
    without = replace(case, sittings=tuple(replace(s, ambient_c=None) for s in case.sittings))
    result = only(without)
    assert (result.verdict.word, result.verdict.remark) == ("not_settled", "room_unknown")
    assert result.estimate == pytest.approx(10.0), "the difference is shown"
    with_rooms = replace(case, sittings=tuple(replace(s, ambient_c=22.0) for s in case.sittings))
    assert only(with_rooms).verdict.word == "real_gain"
    first = replace(case.sittings[0], ambient_c=None)
    assert only(replace(with_rooms, sittings=(first, *with_rooms.sittings[1:]))).verdict.remark == "room_unknown"
    late = only(noted_late(case, 22.0))
    assert (late.verdict.word, late.grade) == ("real_gain", "conditions_differ"), "rooms given at last lift the cap"
    assert "room_noted_late" in flags(late)
    rise = replace(HOT, unit="K")
    above = make_case([[51.0, 51.2, 51.1]] * 3, [[41.0, 41.2, 41.1]] * 3, measure=rise, matters_from=1.0)
    assert only(above).verdict.word == "real_gain", "what was read as a rise has its room in it"
