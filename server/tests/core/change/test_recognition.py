"""What should be seen after a swap: of parts that went in, of settings, and of what is set anew silently."""

from dataclasses import replace

import pytest

from lynxbill.core.change.recognition import expect_of, find_failed, find_unanswered, find_unseen, is_measured_after
from lynxbill.core.record.build import Build, Part, PartRole
from lynxbill.core.record.ids import BuildId
from lynxbill.core.record.swap import Recognition
from tests.builders import DAY, B, C, make_case

FOUR = Part("1", "processor", "Varro 4-core", rated={"cores": 4, "boost_ghz": 3.9})
SIX = Part("2", "processor", "Varro 6-core", rated={"cores": 6, "boost_ghz": 4.4, "power_w": 65})
FAN = Part("3", "cooler", "Corl tower", rated={"fan_rpm": 1500})
BEFORE = Build(BuildId("A"), "A", "As received", parts=(FOUR, FAN), settings={"fan_mode": "quiet"})


def after(*parts: Part, **settings: str) -> Build:
    return Build(BuildId("B"), "B", "After", parts=parts, settings={**BEFORE.settings, **settings})


def test_a_part_that_went_in_is_to_be_seen_by_name_and_by_what_a_machine_shows_of_it() -> None:
    expected = dict(expect_of(BEFORE, after(SIX, FAN)))
    assert expected["processor, name"] == "Varro 6-core"
    assert "6" in expected.values()
    # Its power stands on its box alone, and what stayed in is not asked about.
    assert not any("65" in value for value in expected.values())
    assert not any("cooler" in what for what in expected)
    # A new processor makes the board set these anew.
    assert (expected["boost and power limits"], expected["memory speed and timings"]) == ("as before", "as before")


def test_without_a_new_part_the_state_is_looked_at_and_what_was_meant_to_change_is_not_as_before() -> None:
    same = dict(expect_of(BEFORE, after(FOUR, FAN)))
    assert same == {"boost and power limits": "as before", "fans": "as before", "cables": "as before"}
    meant = dict(expect_of(BEFORE, after(FOUR, FAN, fan_mode="full")))
    assert "fans" not in meant
    assert "full" in meant.values()


@pytest.mark.parametrize("role", ["thermal paste", "cooler", "power supply", "board"])
def test_no_machine_shows_the_name_of_what_has_no_voice(role: PartRole) -> None:
    expected = dict(expect_of(BEFORE, after(FOUR, FAN, Part("9", role, "Corl"))))
    assert "Corl" not in expected.values()


def line(number: str, seen: str = "", result: str | None = None) -> Recognition:
    return Recognition(number, "processor, cores", "6", seen, result)  # type: ignore[arg-type]


def test_each_line_is_failed_unanswered_unseen_or_settled() -> None:
    (swap,) = make_case([[40.0]], [[30.0]]).swaps
    lines = (line("fails", "4", "fail"), line("asks", "5"), line("waits", " "), line("passes", "6", "pass"))
    swap = replace(swap, recognitions=lines)
    found = [[one.id for one in find(swap)] for find in (find_failed, find_unanswered, find_unseen)]
    assert found == [["fails"], ["asks"], ["waits"]]


def test_a_build_that_was_there_before_counts_only_runs_since_its_case_was_opened() -> None:
    case = make_case([[40.0]], [[30.0]])
    (there,) = case.swaps
    assert is_measured_after(case, there, case.used_sittings)
    assert not is_measured_after(case, there, frozenset({case.sittings[0].id}))
    # Back to B, which has a run from before.
    back = replace(there, before=C, after=B, opened_at=DAY.replace(year=2027))
    flipped = replace(case, swaps=(there, back))
    assert not is_measured_after(flipped, back, flipped.used_sittings)
    again = replace(case.sittings[0], started_at=DAY.replace(year=2028))
    later = replace(flipped, sittings=(again, *case.sittings[1:]))
    assert is_measured_after(later, back, later.used_sittings)
