"""For the next technician: both sides in figures, the rule by its name, and every figure to seven digits."""

from dataclasses import replace

import pytest
from hypothesis import given
from hypothesis import strategies as st

from lynxbill.core.result.comparison import judge
from lynxbill.core.result.result import MeasureResult
from lynxbill.core.terms.measure import Measure, MeasureId
from lynxbill.words.results.statistics import exact, say_statistics
from tests.builders import RISE, TIME, Side, make_case

SLOW, FAST = [[40.0, 40.2, 40.1], [40.3, 40.1, 40.2]], [[30.0, 30.2, 30.1], [30.3, 30.1, 30.2]]


def judged(before: Side, after: Side, measure: Measure = TIME, **plan: object) -> MeasureResult:
    (result,) = judge(make_case(before, after, measure, **plan)).measures
    return result


@given(st.floats(-1e300, 1e300, allow_nan=False), st.sampled_from([".", ","]))
def test_a_figure_is_written_to_seven_digits_and_read_back(value: float, mark: str) -> None:
    written = exact(value, mark)  # type: ignore[arg-type]
    assert "-" not in written
    assert float(written.replace("−", "-").replace(mark, ".")) == pytest.approx(value, rel=1e-6)


def test_both_sides_stand_in_the_unit_of_their_readings() -> None:
    rows = {row.name: (row.before, row.after) for row in say_statistics(judged(SLOW, FAST), ".").sides}
    assert rows["runs"] == ("6", "6")
    assert rows["lowest"] == ("40.0", "30.0")
    assert rows["highest"] == ("40.3", "30.3")
    empty = say_statistics(judged(SLOW, []), ".")
    assert {row.after for row in empty.sides if row.name != "runs"} == {"–"}
    assert say_statistics(judged([], []), ".").sides == ()


def test_the_rule_is_named_with_the_scale_that_its_figures_are_in() -> None:
    def rule(result: MeasureResult) -> str:
        return say_statistics(result, ".").rule or ""

    free = rule(judged(SLOW, FAST))
    assert "Student’s t" in free
    assert "natural logarithms" in free
    kelvin = rule(judged(SLOW, FAST, RISE))
    assert "are in K" in kelvin
    pairs = judged(2 * SLOW, 2 * FAST, design="paired")
    assert rule(pairs).startswith("Sittings were matched")
    assert rule(judged(SLOW[:1], FAST[:1])).startswith("Too few sittings")
    assert rule(judged(2 * SLOW, 2 * FAST, sittings_a_side=6)).startswith("A rule that stays valid")
    felt = Measure(MeasureId("felt"), "Feels", "job", "1", "ordinal", "felt", "higher")
    exactly = rule(judged([[1.0], [1.0], [2.0], [1.0]], [[4.0], [5.0], [4.0], [5.0]], felt))
    assert exactly.startswith("All ways to deal the sittings")
    assert "are in steps" in exactly
    assert say_statistics(judged([[40.0]], []), ".").rule is None


def test_only_figures_that_there_are_stand_there_and_they_are_the_results() -> None:
    result = judged(SLOW, FAST)
    figures = {figure.name: figure.value for figure in say_statistics(result, ".").figures}
    assert result.interval is not None
    assert float(figures["difference d"]) == pytest.approx(result.interval.estimate, rel=1e-6)
    assert float(figures["95 % low"]) == pytest.approx(result.interval.low, rel=1e-6)
    assert figures["degrees of freedom"] == "2"
    assert "p, sign flips" not in figures
    assert "e-value" not in figures
    only = {figure.name for figure in say_statistics(replace(result, interval=None), ".").figures}
    assert "scatter S" not in only
