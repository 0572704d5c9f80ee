"""Heat in words: read together with what is traded for it, settled or not, and both sides at the same minute."""

from collections.abc import Mapping
from dataclasses import replace

import numpy as np
import pytest

from lynxbill.core.heat.equilibrium import NotReached, Refusal
from lynxbill.core.heat.roles import ChannelRole
from lynxbill.core.heat.run import Air
from lynxbill.core.heat.settled import find_course
from lynxbill.core.heat.sides import Overlay, RunCurves, counted_window, lay_over, run_curves
from lynxbill.core.heat.trace import Floats
from lynxbill.core.record.frame import Case
from lynxbill.core.record.ids import RunId, SittingId
from lynxbill.core.record.plan import PlannedMeasure
from lynxbill.core.record.run import Reading
from lynxbill.core.result.comparison import judge
from lynxbill.core.result.joint import read_together
from lynxbill.core.terms.measure import Kind, Measure, MeasureId
from lynxbill.words.heat.heat import say_heading, say_not_reached, say_overlay
from lynxbill.words.report.advice import question_advice
from lynxbill.words.results.comparison import say_comparison
from tests.builders import RISE, make_case

HOT, COOL = [[48.2, 48.0], [48.4, 48.1], [47.9, 48.3]], [[45.0, 44.8], [45.1, 45.2], [44.9, 45.0]]
FAN = replace(RISE, id=MeasureId("fan"), name="Fan", unit="/min", kind="fan", step=1.0)
NOISE = replace(RISE, id=MeasureId("noise"), name="Sound", unit="dB[SPL]", kind="noise", scale="level", step=0.1)
POWER = replace(RISE, id=MeasureId("power"), name="Power", unit="W", kind="power", scale="ratio", step=0.1)
Levels = tuple[float, float]


def traded(**beside: Levels) -> Case:
    """
    A claim on heat, 3.1 K cooler, and what else was read in the same runs before and after; `scatter` is that of the
    fan's sittings.
    """
    _, apart = beside.pop("scatter", (0.0, 0.0))
    measures: Mapping[str, Measure] = {"fan": FAN, "noise": NOISE, "power": POWER}
    case = make_case(HOT, COOL, replace(RISE, step=0.1), matters_from=1.0, change="thermal paste", headline=RISE.id)
    runs = []
    for number, run in enumerate(case.runs):
        level = {name: values["C" in run.sitting_id] + 0.1 * (number % 3) for name, values in beside.items()}
        if "fan" in level:
            level["fan"] += apart * ((number // 3) % 3 - 1) / 3
        more = {measures[name].id: Reading(value, value) for name, value in level.items()}
        runs.append(replace(run, readings=dict(run.readings) | more))
    (swap,) = case.swaps
    margins = {"fan": 100.0, "noise": 1.0, "power": 2.0}
    watched = {measures[name].id: PlannedMeasure("watch", margins[name]) for name in beside}
    plan = replace(swap.plan, measures=dict(swap.plan.measures) | watched)
    return replace(
        case,
        measures=(*case.measures, *(measures[name] for name in beside)),
        runs=tuple(runs),
        swaps=(replace(swap, plan=plan),),
    )


@pytest.mark.parametrize(
    ("beside", "word", "says"),
    [
        (
            {"fan": (1000.0, 1250.0), "noise": (33.0, 36.7)},
            "trade",
            "Rise: 3.15 K cooler, but at a 250.0 rpm faster fan and 3.70 dB(A) louder: the paste’s own share is not "
            "known; a run at a fixed fan would tell.",
        ),
        (
            {"power": (60.0, 54.0), "fan": (1000.0, 1000.0)},
            "trade",
            "at 9.98 % less power: the paste’s own share is not known; a run at a fixed power would tell.",
        ),
        ({"fan": (1250.0, 1000.0)}, "both", "Rise: 3.15 K cooler, and at a 250.0 rpm slower fan."),
        (
            {"fan": (1000.0, 1020.0), "power": (60.0, 60.1)},
            "held equal",
            "Rise: 3.15 K cooler at the same fan and power: that is the paste’s own.",
        ),
        # 20 rpm more, on sittings that scatter by some hundred: neither alike nor faster.
        (
            {"fan": (1000.0, 1020.0), "power": (60.0, 60.1), "scatter": (0.0, 900.0)},
            "not known",
            "Rise: 3.15 K cooler; whether the fan was alike is not known.",
        ),
        (
            {"fan": (1000.0, 1020.0), "noise": (36.7, 33.0), "scatter": (0.0, 900.0)},
            "both",
            "Rise: 3.15 K cooler, and 3.70 dB(A) quieter; whether the fan was alike is not known.",
        ),
        ({"power": (60.0, 60.0)}, "not measured", "neither fan nor sound is among the measures"),
    ],
)
def test_heat_is_read_together_with_what_a_controller_trades_for_it(
    beside: dict[str, Levels], word: str, says: str
) -> None:
    comparison = judge(traded(**beside))
    joint = read_together(comparison.measures, comparison.measures[0])
    assert joint is not None
    assert joint.word == word
    sentence = say_comparison(comparison, ".").joint
    assert sentence is not None
    assert says in sentence


@pytest.mark.parametrize(
    ("fan", "says"),
    [
        ((1000.0, 1200.0), "but at a 200.0 rpm faster fan: the paste’s own share is not known"),
        ((1000.0, 1001.0), "at the same fan: that is the paste’s own."),
        (None, "neither fan nor sound is among the measures"),
    ],
)
def test_what_only_traces_told_counts_as_what_was_measured(fan: Levels | None, says: str) -> None:
    case = traded()
    told: dict[RunId, dict[Kind, float]] = {}
    for number, run in enumerate(case.runs if fan else ()):
        told[run.id] = {"fan": (fan or (0.0, 0.0))["C" in run.sitting_id] + 2.0 * (number % 3)}
    comparison = judge(replace(case, traced=told))
    assert [result.measure.kind for result in comparison.measures] == ["heat"]
    sentence = say_comparison(comparison, ".").joint
    assert sentence is not None
    assert says in sentence


def test_a_measure_leads_before_what_the_trace_told_of_the_same() -> None:
    case = traded(fan=(1000.0, 1250.0))
    comparison = judge(replace(case, traced={run.id: {"fan": 1000.0} for run in case.runs}))
    assert comparison.traced == ()


def test_another_work_at_a_fixed_fan_tells_the_parts_own_share() -> None:
    case = traded(fan=(1000.0, 1250.0))
    fixed = replace(RISE, id=MeasureId("fixed"), name="Rise", workload="soak, fan fixed", step=0.1)
    turning = replace(FAN, id=MeasureId("turning"), workload="soak, fan fixed")
    runs = [
        replace(
            run,
            id=RunId(f"{run.id} fixed"),
            workload="soak, fan fixed",
            readings={
                fixed.id: Reading(level - 1.0, level - 1.0) if "C" in run.sitting_id else Reading(50.0, 50.0),
                turning.id: Reading(1200.0 + number % 3, 1200.0 + number % 3),
            },
        )
        for number, run in enumerate(case.runs)
        for level in (48.0 + 0.1 * (number % 2),)
    ]
    (swap,) = case.swaps
    more = {fixed.id: PlannedMeasure("watch", 1.0), turning.id: PlannedMeasure("watch", 100.0)}
    plan = replace(swap.plan, measures=dict(swap.plan.measures) | more)
    both = replace(
        case,
        measures=(*case.measures, fixed, turning),
        runs=(*case.runs, *runs),
        swaps=(replace(swap, plan=plan),),
    )
    sentence = say_comparison(judge(both), ".").joint
    assert sentence is not None
    assert "a run at a fixed fan would tell. In “soak, fan fixed” 2.9" in sentence
    assert sentence.endswith("K cooler at the same fan: that is the paste’s own.")


@pytest.mark.parametrize(
    ("text", "questioned"),
    [
        ("It runs 3.15 K cooler.", True),
        ("It runs 3.15 K cooler, at a faster fan.", False),
        ("It is louder.", True),
        ("It is louder, and cooler for it.", False),
    ],
)
def test_heat_that_was_had_for_a_fan_is_not_quoted_alone(text: str, questioned: bool) -> None:
    comparison = judge(traded(fan=(1000.0, 1250.0), noise=(33.0, 36.7)))
    doubts = question_advice(text, comparison, ["3.15 K"], [], ".")
    assert any("is quoted alone: 3.15 K cooler, but at a" in doubt.against for doubt in doubts) == questioned


def test_nothing_is_read_together_with_what_is_no_heat_or_has_no_interval() -> None:
    assert say_comparison(judge(make_case([[40.0]], [[30.0]])), ".").joint is None
    one_a_side = judge(make_case([[48.0]], [[45.0]], RISE))
    assert read_together(one_a_side.measures, one_a_side.measures[0]) is None


AT = np.arange(0.0, 900.0, 5.0)


def soaked(
    name: str, rise: float, minutes: float = 15.0, fan: float = 1500.0, room: float | None = 22.0
) -> RunCurves:
    at = AT[60 * minutes >= AT]
    channels: dict[ChannelRole, tuple[Floats, Floats]] = {
        "temperature": (at, 22 + rise * (1 - np.exp(-at / 120))),
        "fan": (at, np.full(len(at), fan)),
        "clock": (at, np.where(at < 210, 3600.0, 3300.0 if rise > 45 else 3600.0)),
        "power": (at, np.full(len(at), 60.0)),
    }
    air = None if room is None else Air(room)
    found = run_curves(RunId(name), SittingId(name[:1]), channels, [(0.0, "load")], air)
    assert found is not None
    return found


def overlay(before: list[RunCurves], after: list[RunCurves]) -> Overlay:
    found = lay_over(before, after)
    assert found is not None
    return found


def test_sides_are_set_against_each_other_at_the_minute_that_every_run_reached() -> None:
    # Peaks of unequal lengths would say 4.5 K; at the seventh minute it is 6 K less what both still lack.
    found = overlay([soaked("b1", 48.0)], [soaked("a1", 42.0, minutes=7.0)])
    assert found.same_s == 420
    worded = say_overlay(found, ".")
    assert worded.sentence == "At minute 7 of the load 5.8 K cooler."
    assert "1 of 1 after not shown to have settled at the end" in worded.beneath
    rows = {row.what: (row.before, row.after, row.change) for row in worded.rows}
    # The load of one side did not hold: it was held back, and ended where its limit is.
    assert "Would have ended at" not in rows
    held = say_overlay(overlay([soaked("b1", 45.0)], [soaked("a1", 42.0, minutes=7.0)]), ".")
    ends = next(row for row in held.rows if row.what == "Would have ended at")
    assert (ends.before, ends.after, ends.change) == ("45.0 K", "42.0 K", "3.0 K cooler")
    assert rows["Fan"] == ("1500 rpm", "1500 rpm", "alike")
    # Held back by heat: the power stayed at its highest, so that it is named.
    assert rows["Held back"] == ("51 % of the load", "never", "")
    assert rows["Rise by power"][2] == "0.096 K per W less"
    assert worded.held_before.startswith("held back by power")


def test_room_to_the_permitted_temperature_is_of_the_highest_of_each_side() -> None:
    sides = [
        [replace(soaked(name, rise), peaks={"processor": 22 + rise, "drive": 41.0 + number})]
        for number, (name, rise) in enumerate((("b1", 48.0), ("a1", 42.0)))
    ]
    found = overlay(*sides)
    rows = say_overlay(found, ".", {"processor": 85.0, "graphics": 90.0, "drive": 60.0}).rows[-2:]
    assert [(row.what, row.before, row.after) for row in rows] == [
        ("Room to the 85 °C of the processor", "15.0 K", "21.0 K"),
        ("Room to the 60 °C of the drive", "19.0 K", "18.0 K"),
    ]
    assert all("Room to" not in other.what for other in say_overlay(found, ".").rows)


def test_how_far_the_mounts_of_a_side_lie_apart_is_said_and_one_is_called_one() -> None:
    before = [replace(soaked("b1", 48.0), mount=1), replace(soaked("c1", 47.0), mount=2)]
    after = [replace(soaked(name, 42.0), mount=3) for name in ("d1", "e1")]
    row = next(row for row in say_overlay(overlay(before, after), ".").rows if row.what == "Mounts")
    assert (row.before, row.after) == ("2, 1.0 K apart", "one: remounting is in it")
    unknown = say_overlay(overlay([soaked("b1", 48.0)], after), ".")
    assert all(row.what != "Mounts" for row in unknown.rows)


def test_a_sitting_with_more_runs_weighs_no_more() -> None:
    sides = overlay(
        [soaked("b1", 40.0), soaked("b2", 40.0), soaked("b3", 40.0), soaked("c1", 50.0)], [soaked("a", 40)]
    )
    assert sides.before.sittings == 2
    assert sides.before.same_minute == pytest.approx(45.0, abs=0.1)


def test_without_a_room_on_one_side_nothing_is_laid_over_and_without_any_it_says_so() -> None:
    assert lay_over([soaked("b1", 48.0)], [soaked("a1", 42.0, room=None)]) is None
    assert lay_over([], [soaked("a1", 42.0)]) is None
    bare = overlay([soaked("b1", 48.0, room=None)], [soaked("a1", 48.0, room=None)])
    worded = say_overlay(bare, ",")
    assert worded.unit == "°C"
    assert worded.sentence.endswith("both sides are as warm (the room is not noted on every side).")


def test_what_climbs_says_how_far_and_how_long() -> None:
    at = np.arange(0.0, 361.0, 2.0)
    course = find_course("temperature", at, 70 - 40 * np.exp(-at / 120))
    assert course is not None
    sentence = say_heading(course, "Cel", ",")
    assert sentence == "still climbing: 2,0 K to go, about 3 min more; 95 % of the way to 70,0 °C"
    straight = find_course("temperature", at, 30 + at / 60)
    assert straight is not None
    assert "where it ends is not known yet" in say_heading(straight, "Cel", ".")


@pytest.mark.parametrize("why", ["too_few_samples", "too_short", "no_curve", "too_correlated"])
def test_every_refusal_has_its_words(why: Refusal) -> None:
    assert say_not_reached(NotReached(why, 240.0, 30, 150.0)).endswith(".")
    assert "5.0 min are needed" in say_not_reached(NotReached("too_short", 240.0, 200, 150.0))


def test_a_window_counts_only_where_both_sides_were_read_in_it() -> None:
    alike = overlay([soaked("b1", 48.0)], [soaked("a1", 42.0)])
    unequal = overlay([soaked("b1", 48.0)], [soaked("a1", 42.0, minutes=7.0)])
    end = alike.same_s
    assert counted_window("last minute", None, alike) == (end - 60, end)
    assert counted_window("settled", None, alike) == (end - 180, end)
    assert counted_window("at minute", 5.0, unequal) == (240, 300)
    assert counted_window("last minute", None, unequal) is None
    assert all(counted_window(figure, None, alike) is None for figure in (None, "highest", "equilibrium"))
