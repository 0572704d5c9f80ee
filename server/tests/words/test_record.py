"""What another technician checks: how it was measured, what does not count, and what was changed on the way."""

from dataclasses import replace
from typing import Any

from lynxbill.core.reading.counting import compared_sittings
from lynxbill.core.record.frame import Case
from lynxbill.core.record.run import LateExclusion, Reading, Was
from lynxbill.core.record.swap import Attempt, MarginEdit
from lynxbill.core.result.comparison import judge
from lynxbill.core.result.result import Comparison
from lynxbill.core.terms.measure import Measure
from lynxbill.core.value.reckoning import reckon
from lynxbill.words.report.record import (
    say_all_left_out,
    say_corrected,
    say_how,
    say_looks,
    say_unchanged,
    say_untested,
)
from lynxbill.words.results.comparison import say_comparison
from tests.builders import DAY, RISE, TIME, B, C, Side, make_case

SLOW, FAST, ODD = [[40.0], [40.2], [40.1]], [[30.0], [30.2], [30.1]], [[30.0], [41.0], [39.0]]


def judged(case: Case) -> Comparison:
    comparison = judge(case)
    return replace(comparison, measures=tuple(replace(result, shown=True) for result in comparison.measures))


def of(before: Side, after: Side, measure: Measure = TIME, **plan: Any) -> Case:
    return make_case(before, after, measure, headline=measure.id, **plan)


def how(case: Case, mark: Any = ".") -> list[str]:
    sides = compared_sittings(case, B), compared_sittings(case, C)
    return list(say_how(judged(case), sides, mark))


def test_what_is_shown_unchanged_what_is_open_and_what_was_not_tested_are_three_things() -> None:
    same, opened = judged(of(SLOW, SLOW)), judged(of(SLOW, ODD))
    assert say_unchanged(same) == "Shown to be unchanged: Job."
    assert say_untested(same) is None
    assert (say_unchanged(opened), say_untested(opened)) == (None, "Not shown to be the same, nor to differ: Job.")
    assert say_untested(judged(of(SLOW, []))) == "Planned and not tested: Job."
    # A verdict that nobody was given is not told here either.
    assert say_untested(judge(of(SLOW, FAST))) == "Planned and not tested: Job."


def test_how_it_was_measured_has_its_runs_days_and_rooms() -> None:
    case = of(SLOW, FAST)
    first, second, room = how(case)
    assert first == "Job: 3 runs in 3 sittings before, 3 runs in 3 sittings after."
    assert second == "Measured from 4 May 2026 to 14 Aug 2026."
    assert room == "Room 22.0 to 24.0 °C."
    even = replace(case, sittings=tuple(replace(s, ambient_c=21.5) for s in case.sittings))
    assert how(even, ",")[-1] == "Room 21,5 °C."
    warm = replace(RISE, unit="Cel")
    assert how(of([[70.0]], [[65.0]], warm))[-1] == "Temperatures are counted above the room."


def test_runs_that_do_not_count_are_named_once_a_reason() -> None:
    # Slow ones: without them the change is the smaller one, and leads.
    case = of([[40.0, 41.5], [41.5, 40.3]], [[30.0, 30.1], [30.2, 30.3]])
    late = LateExclusion("the indexer ran")
    runs = tuple(replace(run, excluded_late=late) if run.id in ("B0-2", "B1-1") else run for run in case.runs)
    assert list(say_all_left_out(case, judged(replace(case, runs=runs)))) == [
        "B 1 run 2 and B 2 run 1: left out after its reading was seen: the indexer ran",
        "C 1 run 2 and C 2 run 2: beyond the first run that every sitting has",
    ]


def test_what_a_reading_was_until_it_was_corrected_stays_on_the_record() -> None:
    case = of(SLOW, FAST)
    first = case.runs[0]
    was = (
        Was(f"readings.{TIME.id}", Reading(418.0, 418.0), DAY, reason="a slip of digits"),
        Was(f"readings.{TIME.id}", None, DAY),
        Was("note", "", DAY),
    )
    corrected = replace(case, runs=(replace(first, was=was), *case.runs[1:]))
    (sentence,) = say_corrected(corrected, judged(corrected), ".")
    assert sentence.endswith("Job: it was 418 until 4 May 2026, then 40.0, because: a slip of digits.")
    elsewhere = replace(first, was=was, sitting_id="another")  # type: ignore[arg-type]
    assert list(say_corrected(replace(case, runs=(elsewhere,)), judged(case), ".")) == []


def test_looks_attempts_and_late_margins_are_told_whatever_they_did() -> None:
    case = of(SLOW, FAST)
    edit = MarginEdit(DAY, TIME.id, "matters_from", 2.0, 1.0, "the owner asked", late=True)
    attempt = Attempt(DAY, "the fan's lead was loose")
    (swap,) = case.swaps
    again = replace(case, swaps=(replace(swap, attempts=(attempt,), margin_edits=(edit,), shown=None),))
    comparison = judged(again)
    sentence = list(say_looks(say_comparison(comparison, "."), reckon(again, B, C, 0)))
    assert "Measured over, attempt 2 (both sides): the fan's lead was loose." in sentence
    assert "Swap: nobody knows what was shown of it before." in sentence
    assert "A margin or a hope was changed, after runs of the new build existed: the owner asked." in sentence


def test_the_record_counts_the_sittings_that_were_judged_and_no_old_log_that_was_refused() -> None:
    case = of([[40.0, 40.1]] * 3, [[30.0, 30.1]] * 3)
    refused = replace(case.sittings[0], id="B9", started_at=DAY.replace(year=2019))  # type: ignore[arg-type]
    how_many, held, *_ = how(replace(case, sittings=(*case.sittings, refused)), ".")
    assert how_many == "Job: 6 runs in 3 sittings before, 6 runs in 3 sittings after."
    assert held.startswith("Measured from 4 May 2026")
