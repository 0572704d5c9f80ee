"""Whatever sensors tell, however sparse, odd or short: every figure is a number or says why it is none."""

import math
import warnings
from collections.abc import Iterator
from dataclasses import astuple, fields, is_dataclass
from typing import get_args

import numpy as np
from hypothesis import given, settings
from hypothesis import strategies as st

from lynxbill.core.heat.held_back import Limits
from lynxbill.core.heat.readoff import as_noted, phases_of, read_off, role_read
from lynxbill.core.heat.roles import ChannelRole
from lynxbill.core.heat.run import Air, Channels, look_at_run
from lynxbill.core.heat.sides import lay_over, run_curves
from lynxbill.core.heat.trace import Floats
from lynxbill.core.record.ids import RunId, SittingId
from lynxbill.core.terms.measure import Kind, Measure, MeasureId, Scale, TraceFigure
from lynxbill.words.heat.heat import WordedOverlay, say_overlay
from tests.tiers import examples

ROLES: tuple[ChannelRole, ...] = ("temperature", "load", "clock", "power", "fan", "noise", "held back")
MEASURES: dict[TraceFigure, tuple[Kind, str, Scale]] = {
    "within 1 K": ("time", "s", "ratio"),
    "recovery": ("time", "s", "ratio"),
    "held back": ("other", "%", "difference"),
    "resistance": ("other", "K/W", "ratio"),
    "last less first": ("heat", "K", "difference"),
}
values = st.one_of(st.floats(-60, 130), st.floats(-1e15, 1e15), st.sampled_from([0.0, 100.0, 62.0]))


@st.composite
def channel(draw: st.DrawFn) -> tuple[Floats, Floats]:
    """Samples at rising times, near each other or hours apart; often a level that only jumps."""
    steps = draw(st.lists(st.sampled_from([0.1, 1.0, 5.0, 60.0, 3600.0]), min_size=1, max_size=60))
    at = np.cumsum(steps) - steps[0]
    levels = draw(st.lists(values, min_size=1, max_size=4))
    kinds = draw(st.lists(st.integers(0, len(levels) - 1), min_size=len(steps), max_size=len(steps)))
    return at, np.array([levels[kind] for kind in kinds])


channels = st.dictionaries(st.sampled_from(ROLES), channel(), min_size=1)
marks = st.lists(st.tuples(st.floats(0, 5000), st.sampled_from(["rest", "load", "cool-down"])), max_size=4).map(
    lambda found: tuple(sorted(found))
)
airs = st.one_of(st.none(), st.builds(Air, st.floats(-20, 45), st.one_of(st.none(), st.floats(-20, 45))))
limits = st.builds(Limits, st.one_of(st.none(), st.floats(40, 110)), st.one_of(st.none(), st.floats(5, 400)))


def measure(figure: TraceFigure) -> Measure:
    kind, unit, scale = MEASURES.get(figure, ("heat", "Cel", "difference"))
    minute = 5.0 if figure == "at minute" else None
    return Measure(MeasureId("m"), "M", "soak", unit, scale, kind, "lower", trace_figure=figure, trace_minute=minute)


def numbers(told: object) -> Iterator[float]:
    """Every number in what came out."""
    if isinstance(told, float):
        yield told
    elif isinstance(told, np.ndarray):
        yield from told.tolist()
    elif is_dataclass(told):
        for member in fields(told):
            yield from numbers(getattr(told, member.name))
    elif isinstance(told, dict):
        for value in told.values():
            yield from numbers(value)
    elif isinstance(told, (tuple, list)):
        for value in told:
            yield from numbers(value)


def words(told: WordedOverlay) -> list[str]:
    """Every text of what is said."""
    return [text for row in told.rows for text in astuple(row)] + [told.sentence, told.beneath, told.held_before]


@settings(max_examples=examples(150), deadline=None)
@given(channels, marks, airs, limits)
def test_every_figure_is_a_finite_number_or_says_why_there_is_none(
    told: Channels, phases: tuple[tuple[float, str], ...], air: Air | None, most: Limits
) -> None:
    with warnings.catch_warnings():
        warnings.simplefilter("error")
        for figure in get_args(TraceFigure):
            asked = measure(figure)
            role = role_read(asked)
            assert role is not None
            found = as_noted(read_off(asked, role, told, phases_of(told, phases), air, most), asked)
            assert (found.value is None) == (found.why is not None)
            assert found.value is None or math.isfinite(found.value)
            assert all(map(math.isfinite, numbers(found)))


@settings(max_examples=examples(100), deadline=None)
@given(channels, channels, marks, airs, limits)
def test_what_a_run_and_two_sides_come_to_is_finite(
    told: Channels, others: Channels, phases: tuple[tuple[float, str], ...], air: Air | None, most: Limits
) -> None:
    with warnings.catch_warnings():
        warnings.simplefilter("error")
        heat = look_at_run(told, phases, air, most)
        assert (heat is None) == ("temperature" not in told)
        assert all(map(math.isfinite, numbers(heat)))
        sides = [
            run_curves(RunId(name), SittingId(name), each, phases, air, None, most, {"processor": 70.0})
            for name, each in (("one", told), ("other", others))
        ]
        one, other = ([] if side is None else [side] for side in sides)
        overlay = lay_over(one, other)
        if overlay is not None:
            assert all(map(math.isfinite, numbers(overlay)))
            sentence = " ".join(words(say_overlay(overlay, ".", {"processor": 92.0})))
            assert not {"nan", "inf", "None"} & set(sentence.split())
