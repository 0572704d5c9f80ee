"""Whatever a bench can yield, the result can be written: no figure overflows, none is NaN."""

import json
from dataclasses import replace
from typing import Any

import pytest
from hypothesis import given
from hypothesis import strategies as st

from lynxbill.core.terms.errors import BadValue
from lynxbill.core.terms.measure import LARGEST, Measure, check_reading
from lynxbill.core.value.better import judge_beside_others
from lynxbill.exchange.verdict_file import describe
from lynxbill.words.results.voice import Voice
from tests.builders import RATE, RISE, TIME, make_case

EXTREMES = [1 / LARGEST, 1e-9, 1.0, 1e12, LARGEST]
READING = st.sampled_from(EXTREMES) | st.floats(1 / LARGEST, LARGEST)
SIDE = st.lists(st.lists(READING, min_size=1, max_size=4), min_size=1, max_size=4)


@given(
    before=SIDE,
    after=SIDE,
    measure=st.sampled_from([TIME, RATE, RISE]),
    step=st.none() | READING,
    plan=st.sampled_from([{}, {"design": "paired"}, {"sittings_a_side": 9}]),
    matters_from=READING,
)
def test_any_readings_within_limits_give_figures_that_json_carries(
    before: list[list[float]],
    after: list[list[float]],
    measure: Measure,
    step: float | None,
    plan: dict[str, Any],
    matters_from: float,
) -> None:
    case = make_case(before, after, measure=replace(measure, step=step), matters_from=matters_from, **plan)
    written = json.loads(describe(judge_beside_others(case), Voice(".")).model_dump_json())
    assert written["measures"][measure.id]["verdict"] in (
        "real_gain", "real_loss", "no_change", "not_settled", "untested",
    )  # fmt: skip


@pytest.mark.parametrize(("measure", "value"), [(TIME, 1e16), (TIME, 1e-16), (RISE, -1e16), (RATE, 1e300)])
def test_figures_that_no_bench_yields_are_refused(measure: Measure, value: float) -> None:
    with pytest.raises(BadValue, match="lies between"):
        check_reading(value, measure)
