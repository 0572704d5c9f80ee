"""The difference between two builds is computed, and what was not declared is questioned."""

from dataclasses import replace

import pytest

from lynxbill.core.change.difference import find_differences, find_undeclared, is_opened, name_bundle
from lynxbill.core.change.recognition import expect_of, find_failed
from lynxbill.core.plan.questions import question_plan, question_swap
from lynxbill.core.record.build import Build, Part
from lynxbill.core.record.frame import Case
from lynxbill.core.record.ids import SwapId
from lynxbill.core.record.plan import Plan, PlannedMeasure
from lynxbill.core.record.swap import Swap
from lynxbill.core.record.workload import Workload
from lynxbill.core.terms.measure import MeasureId
from tests.builders import B, C, make_case

OLD = Part("old", "processor", "Varro 4-core", {"cores": 4})
NEW = Part("new", "processor", "Varro 6-core", {"cores": 6, "boost_ghz": 3.9, "power_w": 65})
PASTE = Part("paste", "thermal paste", "Ostrel P2")
DRIVE = Part("drive", "drive", "Siskin")
BEFORE = Build(B, "B", "Before", (OLD, DRIVE), {"threads": 4, "firmware": "1.4"})
AFTER = Build(C, "C", "After", (DRIVE, NEW, PASTE), {"threads": 12, "firmware": "1.4"})
SWAP = Swap(SwapId("s"), B, C, "Processor", Plan(), declares=("part:processor", "setting:threads"))


def test_parts_exchanged_added_and_settings_moved_are_differences_but_not_their_order() -> None:
    found = {d.key: (d.kind, d.before, d.after) for d in find_differences(BEFORE, AFTER)}
    assert found == {
        "part:processor": ("part exchanged", "Varro 4-core", "Varro 6-core"),
        "part:thermal paste": ("part in", None, "Ostrel P2"),
        "setting:threads": ("setting", "4", "12"),
    }
    assert find_differences(BEFORE, replace(BEFORE, parts=BEFORE.parts[::-1])) == ()


def test_a_difference_mirrors_when_the_builds_change_places() -> None:
    there, back = find_differences(BEFORE, AFTER), find_differences(AFTER, BEFORE)
    assert {(d.key, d.before, d.after) for d in there} == {(d.key, d.after, d.before) for d in back}


def test_only_what_the_swap_does_not_declare_is_questioned() -> None:
    differences = find_differences(BEFORE, AFTER)
    assert [d.key for d in find_undeclared(SWAP, differences)] == ["part:thermal paste"]
    more = replace(AFTER, settings={**AFTER.settings, "firmware": "1.6"})
    assert [d.key for d in find_undeclared(SWAP, find_differences(BEFORE, more))] == [
        "part:thermal paste",
        "setting:firmware",
    ]


def test_a_bundle_names_everything_once() -> None:
    differences = find_differences(BEFORE, AFTER)
    assert name_bundle(("fresh paste", "dust-out"), differences) == (
        "processor",
        "thermal paste",
        "dust-out",
    )


def with_builds(swap: Swap, after: Build = AFTER, **fields: object) -> Case:
    return replace(make_case([[1.0]], [[1.0]]), builds=(BEFORE, after), swaps=(swap,), **fields)  # type: ignore[arg-type]


def test_a_cooler_taken_off_without_fresh_paste_is_questioned() -> None:
    bare = replace(AFTER, parts=(DRIVE, NEW))
    swap = replace(SWAP, declares=("part:processor", "setting:threads"))
    assert [q.code for q in question_swap(with_builds(swap, bare), swap)] == ["paste_untouched"]
    ticked = replace(swap, side_changes=("fresh paste",))
    assert question_swap(with_builds(ticked, bare), ticked) == ()
    both = replace(swap, side_changes=("fresh paste", "dust-out"))
    assert [q.code for q in question_swap(with_builds(both, bare), both)] == ["cleaning_with_paste"]


@pytest.mark.parametrize(
    ("loads", "role", "codes"),
    [
        ((), "claim", ["no_control", "loads_unknown"]),
        (("drive",), "claim", ["no_control", "nothing_loads_it", "headline_does_not_load_it"]),
        (("processor", "drive"), "claim", ["no_control"]),
    ],
)
def test_a_plan_in_which_nothing_loads_the_changed_part_is_questioned(
    loads: tuple[str, ...], role: str, codes: list[str]
) -> None:
    case = replace(make_case([[1.0]], [[1.0]]), workloads=(Workload("w", "job", loads=loads),))  # type: ignore[arg-type]
    plan = Plan(change="processor", headline="time", measures={MeasureId("time"): PlannedMeasure(role, 2.0)})  # type: ignore[arg-type]
    assert [q.code for q in question_plan(case, plan)] == codes


def test_where_no_part_goes_in_the_state_of_the_machine_is_looked_at() -> None:
    limited = replace(BEFORE, settings={**BEFORE.settings, "power_limit_w": 65})
    assert expect_of(BEFORE, limited) == (*(("power limit", "65 W"), ("fans", "as before"), ("cables", "as before")),)
    assert expect_of(BEFORE, replace(BEFORE, wear="worn"))[0] == ("boost and power limits", "as before")


def test_threads_that_follow_a_new_processor_are_no_second_change() -> None:
    differences = find_differences(BEFORE, AFTER)
    assert {d.key: d.follows for d in differences if d.follows} == {"setting:threads": "part:processor"}
    assert "threads" not in name_bundle((), differences)
    rated = {"threads": 16}
    held = replace(AFTER, parts=tuple(replace(p, rated=rated) if p.role == "processor" else p for p in AFTER.parts))
    assert "threads" in name_bundle((), find_differences(BEFORE, held)), "fewer than it has are a choice"
    alone = find_differences(BEFORE, replace(BEFORE, settings={**BEFORE.settings, "threads": 2}))
    assert [d.follows for d in alone] == [None]


def test_nothing_is_opened_for_settings_drivers_and_time() -> None:
    assert not is_opened([], ["new drivers", "time passed"])
    assert is_opened([], ["dust-out"])
    assert is_opened([], ["something of one's own"])
    assert is_opened(find_differences(BEFORE, AFTER), [])


def test_another_part_than_the_plans_asks_again_what_decides() -> None:
    case = make_case([[1.0]], [[1.0]])
    for change, asked in (("memory", True), ("processor", False), ("settings", False), (None, False)):
        swap = replace(SWAP, plan=Plan(change=change, headline="time"))  # type: ignore[arg-type]
        codes = [q.code for q in question_swap(replace(case, builds=(BEFORE, AFTER)), swap)]
        assert ("headline_again" in codes) == asked, change


def test_what_went_in_is_expected_to_be_seen_and_what_it_may_set_anew_is_asked_about() -> None:
    assert expect_of(BEFORE, AFTER) == (
        ("processor, name", "Varro 6-core"),
        ("processor, cores", "6"),
        ("processor, boost clock", "3.9 GHz"),
        ("boost and power limits", "as before"),
        ("memory speed and timings", "as before"),
    )
    assert find_failed(SWAP) == ()


def test_new_pads_are_no_paste_and_stay_in_the_name_of_a_bundle() -> None:
    one, other = (
        Build(B, letter, letter, parts=(Part(letter, "thermal paste", f"Paste {letter}"),)) for letter in ("A", "B")
    )
    differences = find_differences(one, other)
    assert name_bundle(("new pads", "fresh paste"), differences) == ("thermal paste", "new pads")
