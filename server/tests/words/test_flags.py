"""Flags, questions, lacks and departures in words: each has its sentence, with figures by the machine's mark."""

import re
from dataclasses import replace
from decimal import Decimal
from typing import get_args

import pytest

from lynxbill.core.change.difference import Difference
from lynxbill.core.plan.conditions import Departure, NotHeld
from lynxbill.core.plan.gate import Lack, LackCode
from lynxbill.core.plan.planning import Strength
from lynxbill.core.plan.progress import Progress
from lynxbill.core.plan.questions import Question, QuestionCode
from lynxbill.core.record.ledger_entries import Showing
from lynxbill.core.result.comparison import judge
from lynxbill.core.result.flags import Flag, FlagCode
from lynxbill.core.result.result import MeasureResult
from lynxbill.core.statistics.scatter import Noise
from lynxbill.words.base.conditions import WordedDeparture, say_condition, say_departure, say_not_held
from lynxbill.words.job.questions import say_lack, say_question
from lynxbill.words.results.flags import say_flag
from tests.builders import DAY, RATE, TIME, make_case

(RESULT,) = judge(make_case([[40.0, 40.1]] * 3, [[30.0, 30.1]] * 3)).measures
SOAK = Departure("soak", (600.0, 600.0), (600.0, 930.0), "job")
FULL = Flag(
    "odd_run",
    side="before",
    sitting=2,
    run=3,
    count=2,
    names=("memory", "cooler"),
    runs=((0, 9), (1, 9)),
    word="not_settled",
    figures=(104.4, 2.5),
    departures=(SOAK,),
)
STRENGTH = Strength("time", Noise(0.1, 4, 3), 3, 3.46, 0.6, 3.46, 2.84, 2.44, 2.0, 5)


def sentence(code: FlagCode, mark: str = ".", result: MeasureResult = RESULT, **fields: object) -> str:
    return say_flag(replace(FULL, code=code, **fields), result, mark)  # type: ignore[arg-type]


@pytest.mark.parametrize("code", get_args(FlagCode))
def test_every_flag_is_said_in_whole_sentences_without_a_bare_code(code: FlagCode) -> None:
    text = sentence(code)
    assert re.fullmatch(r"[A-Z0-9“].*[.?]", text)
    assert "_" not in text
    assert "None" not in text


def test_flags_name_what_they_are_about() -> None:
    assert sentence("odd_run") == "Run 3 of before-sitting 2 stands far from the others of that sitting."
    assert sentence("throttled", names=("heat",)) == "Held back by heat: 0 of 9 runs before, 1 of 9 runs after."
    assert sentence("disturbed", names=("battery", "other programs")) == (
        "Disturbed, as the agent saw it: 0 of 9 runs before, 1 of 9 runs after (other programs at 10 % of a core or "
        "more and on battery)."
    )
    assert sentence("rests_on_pairing").startswith("Without its pairs this would be “not settled”")
    assert sentence("rests_on_mounts", count=4).startswith(
        "Sittings share 4 mounts; with each mount as one value this"
    )
    assert sentence("told_values", count=1) == "1 value was told, not measured here; it enters no test."
    assert sentence("left_out_late") == "2 runs were left out after their readings had been seen."
    assert sentence("cold_first_run", figures=(-0.2,)).startswith("The first run of a sitting is slower or worse")
    first = Showing(TIME.id, DAY, 1, 0.05, "sittings", "real_gain", ())
    assert sentence("changed_after_verdict", result=replace(RESULT, first_shown=first)).endswith("said “real gain”.")


def test_figures_of_flags_are_rounded_here_and_carry_the_machines_mark() -> None:
    assert "The before-figure is 104 % of" in sentence("above_ceiling")
    margins = "“Matters from” was changed from 2,5 to 4 % after readings; the first one decides."
    assert sentence("margin_changed", ",", figures=(2.5, 4.0)) == margins
    floor = replace(RESULT, floor=0.0123)
    assert "differ by up to 1,2 % between sittings" in sentence("within_noise_floor", ",", floor)
    assert "length of the soak: 10 min before, 10 to 15,5 min after" in sentence("conditions_differ", ",")


@pytest.mark.parametrize(
    ("departure", "words"),
    [
        (Departure("runs", (9,), (), "job"), ("job, runs", "9", "none yet")),
        (Departure("version", ("1",), ("1", "3.10"), "job"), ("job, version", "1", "1, 3.10")),
        (Departure("parameters", ('{"size": 1.5}',), ("{}",), "job"), ("job, parameters", "size 1,5", "none")),
        (Departure("failed", (0,), (1,), "job"), ("job, runs that failed, broke off or were spoiled", "0", "1")),
        (Departure("room", (21.04,), (24.56,)), ("room temperature, mean", "21 °C", "24,6 °C")),
        (Departure("soak", (600.0, 600.0), (), "job"), ("job, length of the soak", "10 min", "not noted")),
        (Departure("condition", ("auto",), (None,), condition="fan"), ("fan mode", "auto", "not noted")),
        (Departure("condition", (65,), (95.5,), condition="power_limit_w"), ("power limit", "65 W", "95,5 W")),
        (Departure("condition", ("two",), ("1.5",), condition="desk_lamp"), ("desk lamp", "two", "1.5")),
    ],
)
def test_departures_are_said_with_labels_and_units(departure: Departure, words: tuple[str, str, str]) -> None:
    assert say_departure(departure, ",") == WordedDeparture(*words)


def test_conditions_of_the_plan_are_said_as_they_are_spoken_of() -> None:
    assert say_condition("ambient_low_c", 21.5, ",") == "room, from: 21,5 °C"
    assert say_not_held(NotHeld("ambient_high_c", 26.25, 25), ",") == (
        "the room had 26,25 °C, up to 25 °C is planned"
    )
    assert say_not_held(NotHeld("ambient_low_c", None, 21), ".") == "the room temperature was not noted"
    assert say_not_held(NotHeld("fan", "full", "auto"), ".") == "fan mode was full, auto is planned"
    assert say_not_held(NotHeld("screens", None, "two"), ".") == "screens was not noted, two is planned"


@pytest.mark.parametrize("code", get_args(QuestionCode))
def test_every_question_is_asked_in_whole_sentences(code: QuestionCode) -> None:
    known = Difference("setting:fan_mode", "setting", "fan mode", "auto", None)
    full = Question(code, "key", "memory", "Tiles", known, ("board",), Decimal("35.00"), Decimal("34.90"))
    question = say_question(full, "EUR", ",")
    assert (question.code, question.about) == (code, "key")
    assert re.fullmatch(r"[A-Z].*[.?]", question.message)
    assert "None" not in question.message


def test_what_the_proof_costs_is_asked_in_the_machines_money() -> None:
    question = Question("proof_costs_more", hands=Decimal("35.00"), price=Decimal("34.90"))
    message = say_question(question, "EUR", ",").message
    assert "cost 35,00 EUR at this labour rate, the change itself 34,90 EUR" in message


@pytest.mark.parametrize("code", get_args(LackCode))
def test_every_lack_is_said(code: LackCode) -> None:
    held = NotHeld("fan", "full", "auto")
    by = (Progress(TIME, (5, 4, 5), 3, 3, 4), Progress(RATE, (1,), 1, 1, 1))
    lack = Lack(code, True, TIME, 2, 3, sitting=1, not_held=held, strength=STRENGTH, hoped=2.5, by=by)
    found = say_lack(lack, ",")
    assert found.hint
    assert re.fullmatch(r"[A-Z].*\.", found.message)
    assert "None" not in found.message


def test_lacks_name_the_measure_and_what_is_there() -> None:
    sittings = Lack("sittings", measure=TIME, had=2, wanted=3, one_boot=True)
    assert say_lack(sittings, ".").message == (
        "Job: 2 of 3 sittings. Those in one boot count as one: restart before the next. Left at two here: a gain "
        "that three a side find 80 times in 100, two find 40 times, however many the other side gets."
    )
    assert say_lack(Lack("runs", measure=TIME, had=1, wanted=3), ".").message == "Job: a sitting has 1 of 3 runs."
    by = Lack("goes_by", by=(Progress(TIME, (5, 4, 5), 3, 3, 4), Progress(RATE, (1,), 1, 1, 1)))
    sentence = f"It goes by Job (3 sittings, 4 or more in each) and by {RATE.name} (1 sitting, a run in each)."
    assert say_lack(by, ".").message == sentence
    steady = Lack("steadiness", measure=TIME, strength=STRENGTH, hoped=2.5)
    assert "would show 3,5 % at best; hoped for are 2,5 %" in say_lack(steady, ",").message
    assert "find a gain from 3,5 %, 4 from 2,8 %, 5 from 2,4 %" in (
        say_lack(Lack("prospects", True, measure=TIME, strength=STRENGTH), ",").message
    )
    assert say_lack(Lack("prospects", True), ".").message.startswith("One sitting a side is a quick look")
