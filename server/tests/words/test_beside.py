"""What stands beside a verdict for ever: nothing that was waived, and no drawback, is ever hidden."""

from dataclasses import replace
from datetime import UTC, datetime
from typing import Any

import pytest

from lynxbill.core.record.frame import Case
from lynxbill.core.record.swap import BenchNote, Recognition
from lynxbill.core.result.comparison import judge
from lynxbill.core.result.span import Span, span_of
from lynxbill.core.terms.measure import Measure, MeasureId
from lynxbill.words.report.beside import WordedBeside, say_beside, say_kind
from tests.builders import RISE, TIME, make_case

NOON = datetime(2026, 5, 4, 12, tzinfo=UTC)
SIDES = ([[40.0, 40.2, 40.1]] * 3, [[30.0, 30.2, 30.1]] * 3)


def sentence(case: Case, **swap: Any) -> WordedBeside:
    case = replace(case, swaps=(replace(case.swaps[0], **swap),))
    return say_beside(case, judge(case))


def test_the_gate_what_was_not_looked_at_and_a_control_that_there_is_none_of() -> None:
    made = sentence(
        make_case(*SIDES),
        gate_reason="it burnt",
        gate_missing=("Time: 1 of 3 sittings.",),
        recognition_skipped="no screen",
        recognitions=(Recognition("r", "memory, size", "16 GB"),),
    )
    assert made.waivers == (
        "Begun before the baseline was complete, because: it burnt. Time: 1 of 3 sittings.",
        "Not looked at: memory, size, because: no screen.",
        "No control: nothing here would show that the machine itself moved.",
    )
    assert sentence(make_case(*SIDES, role="control")).waivers == ()


def test_drawbacks_and_nuisances_of_the_runs_after_and_of_no_others() -> None:
    case = make_case(*SIDES)
    noisy: dict[str, dict[str, str | int]] = {
        "B0-1": {"nuisance": "a hum"},
        "C1-2": {"nuisance": "a rattle", "nuisance_step": 2},
    }
    case = replace(case, runs=tuple(replace(run, conditions={**noisy.get(run.id, {})}) for run in case.runs))
    notes = (
        BenchNote("n", NOON, "glares", kind="drawback"),
        BenchNote("m", NOON, "screw"),
        BenchNote("d", NOON, "on the fins", kind="dust found", step=3),
    )
    made = sentence(case, notes=notes)
    assert made.drawbacks == ("glares", "a rattle (2 of 4), C 2 run 2")
    assert len(made.found) == 1
    assert made.found[0].startswith("Dust found, 3 of 4: ")
    assert made.found[0].endswith("on the fins")
    assert say_kind(notes[0]) == "Drawback:"


def drawn(measure: Measure, before: float, after: float) -> Span:
    case = make_case([[before] * 3] * 3, [[after] * 3] * 3, measure)
    span = span_of(judge(case).measures[0])
    assert span is not None
    return span


def test_a_result_is_drawn_at_the_figure_that_is_said_of_it_with_better_to_the_right() -> None:
    work = drawn(TIME, 40.0, 30.0)
    assert work.estimate == pytest.approx(100 / 3)
    assert (work.margin_low, work.margin_high) == pytest.approx((100 / 1.02 - 100, 2.0))
    power = replace(TIME, id=MeasureId("p"), kind="power", unit="W")
    assert drawn(power, 100.0, 80.0).estimate == pytest.approx(20.0)
    assert drawn(replace(power, kind="fan", better="higher"), 1000.0, 800.0).estimate == pytest.approx(-20.0)
    assert drawn(RISE, 50.0, 54.6).estimate == pytest.approx(-4.6)
