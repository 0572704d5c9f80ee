"""Whatever a file holds: it is read as rows of finite figures and gaps at rising times, or refused in words."""

import io
import warnings
from contextlib import suppress

import numpy as np
from hypothesis import given, settings
from hypothesis import strategies as st

from lynxbill.core.terms.errors import BadValue
from lynxbill.exchange.heat_file import describe_heat
from lynxbill.exchange.problem import Problem, UnusableText
from lynxbill.exchange.sensor_log import LogRows, look_at_log, read_log
from lynxbill.words.heat.heat import say_not_reached
from tests.tiers import examples

FIGURES = ("", "0", "1", "2.5", "2,5", "1.041,5", "-", "n/a", "hot", "62 °C", "143 °F", "1e308", "-0", "nan", "inf")
TIMES = ("10:00:00", "23:59:59.5", "00:00:01", "2026-05-04 10:00:00", "04.05.2026 10:00:01", "99:99:99", '"', "\x00")
NAMES = ("Time", "s", "ms", "CPU °C", "CPU °F", "Fan [RPM]", "Fan [%]", "CPU W", "clock GHz", "load %", "x")
cells = st.one_of(
    st.sampled_from((*FIGURES, *TIMES)),
    st.floats(allow_nan=False).map(str),
    st.integers(0, 10**6).map(str),
    st.text(max_size=6),
)
headings = st.one_of(st.sampled_from(NAMES), st.text(max_size=8))


@st.composite
def logs(draw: st.DrawFn) -> bytes:
    separator, end = draw(st.sampled_from([",", ";", "\t", "|"])), draw(st.sampled_from(["\n", "\r\n"]))
    width = draw(st.integers(1, 4))
    heading = draw(st.lists(headings, min_size=width, max_size=width))
    rows = draw(st.lists(st.lists(cells, min_size=1, max_size=width + 1), max_size=12))
    counted = draw(st.booleans())
    lines = [separator.join([str(5 * number), *row] if counted else row) for number, row in enumerate(rows)]
    text = end.join([separator.join((["s"] if counted else []) + heading), *lines])
    return text.encode(draw(st.sampled_from(["utf-8", "utf-16", "cp1252"])), errors="replace")


anything = st.one_of(logs(), st.binary(max_size=400))


def read(text: bytes) -> list[LogRows] | list[Problem]:
    """The rows of a text, or what is wrong with it."""
    try:
        head = look_at_log(text, {})
        columns = [column for column in head.columns if column.role is not None]
        return list(read_log(io.BytesIO(text), head.form, columns, lambda _: None)) if columns else []
    except BadValue as refusal:
        return [Problem("row 1", str(refusal))]
    except UnusableText as refusal:
        return refusal.problems


@settings(max_examples=examples(400), deadline=None)
@given(anything)
def test_a_log_is_read_whole_or_refused_with_its_places(text: bytes) -> None:
    found = read(text)
    problems = [one for one in found if isinstance(one, Problem)]
    assert all(problem.path.startswith("row ") and problem.message for problem in problems)
    blocks = [one for one in found if isinstance(one, LogRows)]
    at = np.concatenate([np.empty(0), *(block.at for block in blocks)])
    assert np.isfinite(at).all()
    assert (np.diff(at) >= 0).all()
    assert not any(np.isinf(told).any() for block in blocks for told in block.values)


@settings(max_examples=examples(200), deadline=None)
@given(anything)
def test_the_heat_of_whatever_it_is_comes_without_a_fault(text: bytes) -> None:
    with warnings.catch_warnings(), suppress(UnusableText):
        warnings.simplefilter("error")
        assert describe_heat(text, say_not_reached)["format"] == "lynxbill-heat"
