"""What a plan holds equal: what a sitting meets, what it does not, and how two sides differ."""

from dataclasses import replace
from typing import Any

import pytest

from lynxbill.core.plan.conditions import Departure, condition_departures, find_departures, held_conditions
from lynxbill.core.reading.counting import compared_sittings
from lynxbill.core.record.frame import Case
from lynxbill.core.record.ids import Plain
from lynxbill.core.record.run import Sitting
from tests.builders import B, C, make_case

HELD: dict[str, Plain] = {
    "fan_mode": "quiet",
    "power_limit_w": 65,
    "ambient_low_c": 20.0,
    "ambient_high_c": 24.0,
    "firmware": "",
}
(SITTING, *_) = make_case([[40.0]], []).sittings


def held(room: float | None, **conditions: Plain) -> Sitting:
    usual: dict[str, Plain] = {"fan_mode": "quiet", "power_limit_w": 65}
    return replace(SITTING, ambient_c=room, conditions=usual | conditions)


def names(sitting: Sitting) -> list[tuple[str, Plain, Plain]]:
    return [(one.name, one.had, one.wanted) for one in condition_departures(sitting, HELD)]


@pytest.mark.parametrize(
    ("sitting", "departs"),
    [
        (held(22.0), []),
        (held(22.0, fan_mode=" Quiet"), []),
        (held(22.0, power_limit_w="65"), []),
        (held(22.0, fan_mode="full"), [("fan_mode", "full", "quiet")]),
        (held(22.0, fan_mode=None), [("fan_mode", None, "quiet")]),
        (held(19.0), [("ambient_low_c", 19.0, 20.0)]),
        (held(25.5), [("ambient_high_c", 25.5, 24.0)]),
        (held(None), [("ambient_low_c", None, 20.0)]),
    ],
)
def test_a_sitting_meets_its_plan_or_says_where_it_departs(
    sitting: Sitting, departs: list[tuple[str, Plain, Plain]]
) -> None:
    assert names(sitting) == departs


def test_what_is_met_and_what_is_not_are_all_that_the_plan_holds() -> None:
    for sitting in (held(22.0), held(19.0, fan_mode="full"), held(None)):
        met = {name for name, _ in held_conditions(sitting, HELD)}
        not_met = {one.name for one in condition_departures(sitting, HELD)}
        assert not met & not_met
        # Of a room that nobody noted neither bound is met; what the plan leaves open is neither.
        wanted = HELD.keys() - {"firmware"} - ({"ambient_high_c"} if sitting.ambient_c is None else set())
        assert met | not_met == wanted


def departures(case: Case) -> set[str]:
    sides = compared_sittings(case, B), compared_sittings(case, C)
    return {one.condition or one.kind for one in find_departures(case, sides, case.swaps[0].plan)}


def sides(before: dict[str, Any], after: dict[str, Any]) -> Case:
    case = make_case([[40.0]] * 3, [[30.0]] * 3)
    members = {"B": {"ambient_c": 22.0} | before, "C": {"ambient_c": 22.0} | after}
    return replace(case, sittings=tuple(replace(s, **members[s.build_id]) for s in case.sittings))


def test_sides_that_were_measured_alike_differ_in_nothing() -> None:
    assert departures(sides({}, {})) == set()
    assert departures(make_case([[40.0]], [])) == set()


@pytest.mark.parametrize(
    ("before", "after", "found"),
    [
        ({"ambient_c": 20.0}, {"ambient_c": 23.0}, {"room"}),
        ({"ambient_c": 22.0}, {"ambient_c": 23.0}, {"room"}),
        ({"ambient_c": 22.0}, {"ambient_c": 22.9}, set()),
        ({"conditions": {"fan_mode": "quiet"}}, {"conditions": {"fan_mode": "full"}}, {"fan_mode"}),
        ({"conditions": {"driver": "1.2"}}, {}, {"driver"}),
    ],
)
def test_a_room_a_fan_or_a_driver_that_changed_is_named(
    before: dict[str, Any], after: dict[str, Any], found: set[str]
) -> None:
    assert departures(sides(before, after)) == found


def test_a_departure_says_how_the_sides_differ() -> None:
    case = sides({}, {})

    def found(changed: Case) -> tuple[Departure, ...]:
        chosen = compared_sittings(changed, B), compared_sittings(changed, C)
        return find_departures(changed, chosen, changed.swaps[0].plan)

    bare = replace(case, runs=tuple(run for run in case.runs if run.sitting_id.startswith("B")))
    assert found(bare) == (Departure("runs", (3,), (), "job"),)
    fewer = replace(case, sittings=tuple(s for s in case.sittings if s.id != "B2"))
    assert found(fewer) == (Departure("sittings", (2,), (3,)),)
    failed = tuple(replace(run, state="failed") if run.id == "C1-1" else run for run in case.runs)
    assert Departure("failed", (0,), (1,), "job") in found(replace(case, runs=failed))
    assert found(sides({"ambient_c": 20.0}, {"ambient_c": 23.0})) == (Departure("room", (20.0,), (23.0,)),)
    quiet, full = {"conditions": {"fan_mode": "quiet"}}, {"conditions": {"fan_mode": "full"}}
    assert found(sides(quiet, full)) == (Departure("condition", ("quiet",), ("full",), condition="fan_mode"),)


def test_counts_and_recipes_that_differ_are_named_by_their_kind() -> None:
    case = sides({}, {})
    fewer = tuple(s for s in case.sittings if s.id != "B2")
    assert departures(replace(case, sittings=fewer)) == {"sittings"}
    # An after-side that is still going on lacks nothing yet.
    going_on = tuple(s for s in case.sittings if s.id != "C2")
    assert departures(replace(case, sittings=going_on)) == set()
    newer = tuple(replace(run, workload_version="2") if run.sitting_id.startswith("C") else run for run in case.runs)
    assert departures(replace(case, runs=newer)) == {"version"}
    elsewhere = tuple(replace(run, target="D:") if run.sitting_id.startswith("C") else run for run in case.runs)
    assert departures(replace(case, runs=elsewhere)) == {"target"}
    soaked = tuple(replace(run, soak_s=930.0 if run.sitting_id.startswith("C") else 600.0) for run in case.runs)
    assert departures(replace(case, runs=soaked)) == {"soak"}
