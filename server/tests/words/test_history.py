"""A machine's past in words: means through all builds, what came back of a loss, what each step had of a change."""

from dataclasses import replace

import pytest

from lynxbill.core.record.build import Build
from lynxbill.core.record.frame import Case
from lynxbill.core.record.ids import BuildId, SwapId
from lynxbill.core.record.swap import Swap
from lynxbill.core.result.restoring import BuildMean, HistoryLine, Recovered
from lynxbill.core.terms.measure import Measure
from lynxbill.words.job.history import say_line, say_recovered, say_steps
from tests.builders import RISE, TIME, make_case

CAME_BACK = Recovered("time", "A", "B", "C", 0.82, 0.71, 0.94, ("thermal paste",), True, False)
NAMES = {"time": "Job"}


def point(build: str, mean: float, *, recheck: bool = False, above: bool = False) -> BuildMean:
    return BuildMean(build, mean, 3, 9, recheck, above)


@pytest.mark.parametrize(
    ("share", "sentence"),
    [
        (CAME_BACK, "Job: 82 % of what was lost came back (71 to 94 %)."),
        (replace(CAME_BACK, low=None, high=None), "Job: 82 % of what was lost came back (between which ends is not"),
        (
            replace(CAME_BACK, changes=("dust-out", "thermal paste")),
            "Job: 82 % of what was lost came back (71 to 94 %) by dust-out and thermal paste together.",
        ),
        (replace(CAME_BACK, share=1.2), "Job: 120 % of what was lost came back (71 to 94 %). Better than new: more"),
        (
            replace(CAME_BACK, share=None, loss_hidden=True),
            "Job: the loss does not stand out of the scatter, so no share of it can be told.",
        ),
        (replace(CAME_BACK, share=None), "Job: less was lost than matters, so no share can be told."),
    ],
)
def test_a_share_that_came_back_has_its_ends_and_its_bundle(share: Recovered, sentence: str) -> None:
    assert say_recovered(share, NAMES, ".").startswith(sentence)


def test_what_a_share_rests_on_stands_behind_it() -> None:
    told = replace(CAME_BACK, as_new_measured=False, room_missing=True)
    sentence = say_recovered(told, NAMES, ".")
    assert sentence.endswith("it is remembered or claimed. A room was not noted, so a warm day is in it.")


def test_means_of_a_line_have_its_unit_once_and_a_missing_room_is_said_where_it_is_missing() -> None:
    heat = replace(RISE, unit="Cel")
    line = HistoryLine("rise", (point("A", 48.2, above=True), point("B", 71.3)))
    worded = say_line(line, heat, ",")
    assert (worded.unit, worded.means) == ("K above the room", ("48,2", "71,3 °C, room not noted"))
    long = say_line(HistoryLine("time", (point("A", 41.92), point("B", 431.0))), TIME, ".")
    assert (long.unit, long.means) == ("s", ("41.9", "7 min 11 s"))


def ladder(*labels: str) -> Case:
    """Builds A, B, C … with a swap from each to the next."""
    case = make_case([[1.0]], [])
    letters = "ABCD"[: len(labels) + 1]
    builds = tuple(Build(BuildId(letter), letter, letter) for letter in letters)
    plan = case.swaps[0].plan
    swaps = tuple(
        Swap(SwapId(label), BuildId(one), BuildId(other), label, plan)
        for label, one, other in zip(labels, letters, letters[1:], strict=False)
    )
    return replace(case, builds=builds, sittings=(), runs=(), swaps=swaps)


def steps(means: dict[str, float], measure: Measure = RISE, labels: tuple[str, ...] = ("Dust out", "Paste")) -> str:
    line = HistoryLine(measure.id, tuple(point(build, mean) for build, mean in means.items()))
    return say_steps(line, measure, ladder(*labels), ".") or ""


def test_each_step_of_the_ladder_has_its_share_of_the_whole_change_of_heat() -> None:
    sentence = steps({"A": 64.7, "B": 58.7, "C": 50.0})
    assert (
        sentence
        == "Rise, A to C: 14.7 K cooler in all; “Dust out” 6.0 K cooler (41 %) and “Paste” 8.7 K cooler (59 %)."
    )


def test_of_steps_that_go_both_ways_no_share_is_told() -> None:
    sentence = steps({"A": 64.7, "B": 50.0, "C": 52.0})
    assert sentence == "Rise, A to C: 12.7 K cooler in all; “Dust out” 14.7 K cooler and “Paste” 2.0 K hotter."
    assert "“Paste” as warm as before" in steps({"A": 64.7, "B": 50.0, "C": 50.01})


def test_nothing_is_said_of_one_step_of_a_gap_or_of_what_is_no_heat() -> None:
    assert steps({"A": 64.7, "B": 58.7}) == ""
    assert steps({"A": 64.7, "C": 50.0}) == ""
    assert steps({"A": 64.7, "B": 58.7, "C": 50.0}, TIME) == ""
