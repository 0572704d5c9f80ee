"""A run while it lasts, in words: its first sentence, what departs, and what would spoil it."""

from dataclasses import replace

import pytest

from lynxbill.core.heat.live import Latest
from lynxbill.core.heat.settled import Course
from lynxbill.core.record.ids import Plain
from lynxbill.words.heat.live import Seen, say_level, say_live

CLIMBS = Course(48.0, "left to go", None, 300.0, 0.5, (1.0, 2.0), 50.1, 2.1, 0.92, 7.0)
SETTLED = replace(CLIMBS, moving=None)
SEEN = Seen(
    workload="Soak",
    build="B",
    run="run 2 of 3",
    elapsed_s=490.0,
    length_s=1200.0,
    above_room=True,
    other_build="A",
    rooms=(22.0, 22.4),
    units={"temperature": "°C", "clock": "MHz", "power": "W"},
    latest={"temperature": Latest(48.0, 53.2, CLIMBS), "clock": Latest(3590.0, 3400.0, None)},
    clock_falls_s=None,
    held_back_s=None,
    not_held=(),
    held=(),
    seen={},
    missing={},
    stands_in=False,
)


def heat(now: float, others: float | None, course: Course | None = CLIMBS) -> Seen:
    return replace(SEEN, latest={"temperature": Latest(now, others, course)})


@pytest.mark.parametrize(
    ("seen", "lead"),
    [
        (SEEN, "Still climbing: 2.1 K to go, about 7 min. 5.2 K cooler than build A at this minute."),
        (heat(48.0, 47.9, SETTLED), "Settled. As warm as build A at this minute."),
        (heat(51.0, 48.0, None), "Minute 9: too early to say whether it settles. 3.0 K warmer than build A at this"),
        (heat(48.0, None), "Still climbing: 2.1 K to go, about 7 min. Nothing of another side stands beside it yet."),
        (replace(SEEN, latest={}), "Soak, run 2 of 3: minute 9. No temperature is told."),
    ],
)
def test_the_first_sentence_says_where_it_is_heading_and_against_what(seen: Seen, lead: str) -> None:
    assert say_live(seen, ".").lead.startswith(lead)


def test_the_decimal_mark_is_the_machines() -> None:
    worded = say_live(SEEN, ",")
    assert "2,1 K to go" in worded.lead
    assert worded.now[0].beside == "5,2 K cooler"
    assert say_level("temperature", 48.04, ",") == "48,0"
    assert say_level("clock", 3590.4, ",") == "3590"
    assert say_level("clock", None, ",") is None


def test_what_is_so_now_stands_in_its_unit_beside_the_other_side() -> None:
    first, second = say_live(SEEN, ".").now
    assert (first.what, first.now, first.beside) == ("Above the room", "48.0 K", "5.2 K cooler")
    assert (second.what, second.now, second.beside) == ("Clock", "3590 MHz", "190 MHz higher")
    bare = say_live(replace(SEEN, above_room=False), ".").now[0]
    assert (bare.what, bare.now) == ("Temperature", "48.0 °C")


def test_time_that_is_left_is_told_until_it_is_over() -> None:
    assert "about 12 min left" in say_live(SEEN, ".").beneath
    assert "longer than the runs before it" in say_live(replace(SEEN, elapsed_s=1300.0), ".").beneath
    assert " left" not in say_live(replace(SEEN, length_s=None), ".").beneath


@pytest.mark.parametrize(
    ("seen", "sentence"),
    [
        (heat(58.4, 53.2), "5.2 K hotter than build A at this minute: is the fan’s lead plugged in"),
        (replace(SEEN, rooms=(None, 22.0)), "The room’s temperature is not noted"),
        (replace(SEEN, rooms=(24.5, 22.0)), "The room is 2.5 K warmer than on the other side. Counted: temperatures"),
        (replace(SEEN, rooms=(20.0, 22.0), above_room=False), "The room is 2.0 K cooler than on the other side."),
        (replace(SEEN, clock_falls_s=300.0), "The clock falls since minute 6."),
        (replace(SEEN, clock_falls_s=300.0, held_back_s=290.0), "The clock falls since minute 6: heat."),
        (replace(SEEN, held_back_s=290.0), "Held back by heat since minute 5."),
        (replace(SEEN, stands_in=True), "Sensors stand in for the machine’s own."),
        (replace(SEEN, missing={"fan": "the board tells none"}), "No fan: the board tells none."),
    ],
)
def test_what_departs_is_said_with_what_to_look_at(seen: Seen, sentence: str) -> None:
    assert any(line.startswith(sentence) for line in say_live(seen, ".").departs)
    assert say_live(SEEN, ".").departs == ()


def test_what_spoils_it_is_named_and_where_nothing_does_what_would() -> None:
    (quiet,) = say_live(SEEN, ".").spoils
    assert quiet.startswith("Nothing disturbs it now.")
    busy: dict[str, Plain] = {"other_core_percent": 12.4, "other_programs": "an indexer", "power_source": "battery"}
    sentence = say_live(replace(SEEN, seen=busy | {"power_source_before": "mains"}), ".").spoils
    assert sentence == (
        "an indexer takes 12 % of a core now: it would disturb this run. End it.",
        "Runs on battery now, on mains at its start: it would spoil this run.",
    )
    (unnamed,) = say_live(replace(SEEN, seen={"other_core_percent": 4.0}), ".").spoils
    assert unnamed.startswith("Another program takes 4 %")
