"""Whatever run file can be read can be taken in, and the database then judges as the file does."""

import copy
import json
import re
from collections.abc import Callable
from typing import Any

import pytest
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st

from lynxbill.core.record.frame import Case
from lynxbill.core.terms.errors import Refusal
from lynxbill.core.terms.measure import MeasureId
from lynxbill.core.value.better import judge_beside_others
from lynxbill.exchange.problem import UnusableText
from lynxbill.exchange.run_file import read_run_file, write_run_file
from lynxbill.exchange.verdict_file import describe
from lynxbill.services.base.transaction import Sessions, reading
from lynxbill.services.files.run_files import export_machine, import_machine
from lynxbill.services.frame.machines import erase_machine
from lynxbill.store.database import open_engine, session_factory
from lynxbill.store.kept import read_whole_case
from lynxbill.words.results.voice import Voice
from tests.conftest import ROOT
from tests.exchange.test_broken_files import REMOVED, Place, places, put
from tests.tiers import examples

LAPTOP: dict[str, Any] = json.loads((ROOT / "demo" / "fenwick-2-field-laptop.json").read_text())
# Its first runs are enough, of their traces one, and few samples of that.
LAPTOP["runs"] = [run for run in LAPTOP["runs"] if run["position"] == 1]
LAPTOP["swaps"] = [swap | {"shown": swap["shown"][:2]} for swap in LAPTOP["swaps"][:1]]
_TRACED = [run for run in LAPTOP["runs"] if "trace" in run]
for _run in _TRACED[:-1]:
    del _run["trace"]
for _channel in _TRACED[-1]["trace"]["channels"]:
    _channel["at"], _channel["values"] = _channel["at"][:3], _channel["values"][:3]
# Members by their place without its numbers, so that the few rare ones are drawn as often as the readings.
BY_KIND: dict[Place, list[Place]] = {}
for _place in places(LAPTOP):
    BY_KIND.setdefault(tuple("*" if isinstance(step, int) else step for step in _place), []).append(_place)


@st.composite
def changed_files(draw: st.DrawFn) -> str:
    """The laptop's file with a member taken out, or put where another one of the same name stands."""
    file = copy.deepcopy(LAPTOP)
    kind = draw(st.sampled_from(sorted(BY_KIND, key=str)))
    place = draw(st.sampled_from(BY_KIND[kind]))
    alike = [other for places in BY_KIND.values() for other in places if other[-1] == place[-1]]
    taken: Any = LAPTOP
    for step in draw(st.sampled_from(alike)):
        taken = taken[step]
    put(file, place, draw(st.sampled_from([REMOVED, None, copy.deepcopy(taken)])))
    return json.dumps(file)


@settings(max_examples=examples(60), deadline=None, suppress_health_check=[HealthCheck.too_slow])
@given(changed_files())
def test_a_file_that_is_read_is_taken_in_and_judged_alike(sessions: Sessions, text: str) -> None:
    try:
        case = read_run_file(text)
    except UnusableText:
        return
    machine = import_machine(sessions, text)
    try:
        with reading(sessions) as session:
            kept = read_whole_case(session, machine)
        assert figures(kept) == figures(case)
        assert figures(read_run_file(write_run_file(kept))) == figures(case)
    finally:
        erase_machine(sessions, machine)


def figures(case: Case) -> list[tuple[str, str | None, float | None, float | None]] | str:
    """The verdicts in the order of the measures' names: taking in gives ids that are none a UUID of its own."""
    try:
        out = describe(judge_beside_others(case), Voice("."))
    except Refusal as refusal:
        return type(refusal).__name__
    # Taken in, measures of one workload that a file calls alike are numbered.
    names = {measure.id: re.sub(r" \(\d+\)$", "", measure.name) for measure in case.measures}
    found = (
        (names[MeasureId(identifier)], result.verdict, result.gain_percent, result.p_adjusted)
        for identifier, result in out.measures.items()
    )
    return sorted(found, key=str)


def test_measures_that_a_file_calls_alike_are_told_apart(sessions: Sessions) -> None:
    file = copy.deepcopy(LAPTOP)
    soaks = [measure for measure in file["measures"] if measure["workload"].startswith("Soak")]
    for measure in soaks[:3]:
        measure["name"] = "Figure"
    machine = import_machine(sessions, json.dumps(file))
    with reading(sessions) as session:
        kept = read_whole_case(session, machine)
    assert {"Figure", "Figure (2)", "Figure (3)"} < {measure.name for measure in kept.measures}
    erase_machine(sessions, machine)


@pytest.mark.nightly
def test_what_is_exported_and_taken_into_an_empty_database_is_exported_the_same(
    migrated_database: Callable[[], str],
) -> None:
    """Ledger, costs, splits and electricity included: byte for byte."""
    engines = [open_engine(migrated_database()) for _ in range(2)]
    here, elsewhere = (session_factory(engine) for engine in engines)
    for file in sorted((ROOT / "demo").glob("*.json")):
        exported = export_machine(here, import_machine(here, file.read_bytes()))
        assert export_machine(elsewhere, import_machine(elsewhere, exported)) == exported
    for engine in engines:
        engine.dispose()
