"""A run file damaged anywhere is refused with its place, or judged; it never breaks the program."""

import copy
import json
from collections.abc import Iterator
from typing import Any

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from lynxbill.core.terms.errors import Refusal
from lynxbill.core.value.better import judge_beside_others
from lynxbill.exchange.problem import Problem, UnusableText
from lynxbill.exchange.run_file import read_run_file
from lynxbill.exchange.verdict_file import describe
from lynxbill.words.results.voice import Voice
from tests.conftest import ROOT
from tests.tiers import examples

EXAMPLE: dict[str, Any] = json.loads((ROOT / "docs" / "example.runs.json").read_text())
DEMO: dict[str, Any] = json.loads((ROOT / "demo" / "fenwick-3-scanner-room-tower.json").read_text())
Place = tuple[str | int, ...]


def places(value: Any, at: Place = ()) -> Iterator[Place]:
    members = value.items() if isinstance(value, dict) else enumerate(value) if isinstance(value, list) else ()
    for key, member in members:
        yield (*at, key)
        yield from places(member, (*at, key))


def put(file: dict[str, Any], at: Place, change: Any) -> None:
    inside: Any = file
    for key in at[:-1]:
        inside = inside[key]
    if change is REMOVED:
        del inside[at[-1]]
    else:
        inside[at[-1]] = change


REMOVED = object()
STRANGE = st.one_of(
    st.just(REMOVED),
    st.none(),
    st.booleans(),
    st.integers(-(2**70), 2**70),
    st.floats(),
    st.text(max_size=8),
    st.sampled_from(
        ["", "0", "-1", "1e400", "2026-02-30T00:00:00Z", "\ud800", "\x00", "NaN", "plan", "Cel", "ratio"]
    ),
    st.just([]),
    st.just({}),
    st.lists(st.integers(0, 3), max_size=2),
    st.dictionaries(st.text(max_size=3), st.integers(0, 3), max_size=2),
)


@pytest.mark.parametrize("file", [EXAMPLE, DEMO], ids=["example", "tower"])
@settings(max_examples=examples(200), deadline=None)
@given(data=st.data())
def test_a_file_with_one_member_changed_is_judged_or_refused_with_places(
    file: dict[str, Any], data: st.DataObject
) -> None:
    broken = copy.deepcopy(file)
    put(broken, data.draw(st.sampled_from(list(places(file)))), data.draw(STRANGE))
    judged_or_refused(json.dumps(broken).encode())


@settings(max_examples=examples(100), deadline=None)
@given(data=st.data())
def test_a_file_whose_members_changed_places_is_judged_or_refused(data: st.DataObject) -> None:
    broken = copy.deepcopy(DEMO)
    spots = list(places(DEMO))
    taken = data.draw(st.sampled_from(spots))
    value: Any = DEMO
    for key in taken:
        value = value[key]
    put(broken, data.draw(st.sampled_from(spots)), copy.deepcopy(value))
    judged_or_refused(json.dumps(broken).encode())


@settings(max_examples=examples(100), deadline=None)
@given(st.integers(0, 10**6), st.binary(max_size=3))
def test_a_file_with_bytes_changed_is_judged_or_refused(place: int, content: bytes) -> None:
    whole = json.dumps(EXAMPLE).encode()
    cut = place % len(whole)
    judged_or_refused(whole[:cut] + content + whole[cut + len(content) :])
    judged_or_refused(whole[:cut])


def judged_or_refused(content: bytes) -> None:
    problems = problems_of(content)
    assert all(problem.path.startswith("$") and problem.message for problem in problems)


def problems_of(content: bytes) -> list[Problem]:
    try:
        placing = judge_beside_others(read_run_file(content))
    except UnusableText as error:
        return error.problems
    except Refusal as refusal:
        return [Problem("$", refusal.message)]
    json.loads(describe(placing, Voice(".")).model_dump_json(), parse_constant=refuse_constant)
    return []


def refuse_constant(name: str) -> None:
    raise AssertionError(f"{name} is no JSON number")
