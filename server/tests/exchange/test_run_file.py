# ruff: noqa: E501
import json
import re
from collections.abc import Callable
from dataclasses import replace
from datetime import UTC, datetime
from typing import Any

import pytest

from lynxbill.core.record.run import Was
from lynxbill.core.record.swap import Swap
from lynxbill.core.result.comparison import judge
from lynxbill.exchange.problem import UnusableText
from lynxbill.exchange.run_file import read_run_file, run_file_schema, write_run_file
from tests.builders import DAY
from tests.conftest import ROOT

EXAMPLE = json.loads((ROOT / "docs" / "example.runs.json").read_text())


def changed(change: Callable[[dict[str, Any]], object]) -> str:
    copy = json.loads(json.dumps(EXAMPLE))
    change(copy)
    return json.dumps(copy)


def problems(text: str) -> dict[str, str]:
    with pytest.raises(UnusableText) as caught:
        read_run_file(text)
    return {problem.path: problem.message for problem in caught.value.problems}


def test_what_is_written_reads_back_as_the_same_case() -> None:
    case = read_run_file(json.dumps(EXAMPLE))
    assert read_run_file(write_run_file(case)) == case
    demo = read_run_file((ROOT / "demo" / "fenwick-1-plotting-pc.json").read_bytes())
    assert read_run_file(write_run_file(demo)) == demo


@pytest.mark.parametrize(
    "form",
    [
        {"value": 41, "about": True},
        {"low": 40, "high": 43, "statistic": "settled"},
        {"value": 44, "source": "remembered"},
    ],
)
def test_every_form_of_a_reading_survives(form: dict[str, Any]) -> None:
    case = read_run_file(changed(lambda file: file["runs"][0]["readings"].update({"tiles.time": form})))
    assert read_run_file(write_run_file(case)) == case


@pytest.mark.parametrize(
    ("shown", "measures"),
    [
        (["s1", "s2"], {"tiles.time", "soak.rise"}),
        ({"tiles.time": ["s1", "s2"]}, {"tiles.time"}),
        ({"tiles.time": ["s1"], "soak.rise": ["s2"]}, {"tiles.time", "soak.rise"}),
    ],
)
def test_what_an_earlier_file_says_was_shown_becomes_the_ledger(shown: Any, measures: set[str]) -> None:
    case = read_run_file(changed(lambda file: file["swaps"][0].update(verdict_shown_for=shown)))
    entries = case.swaps[0].shown
    assert entries is not None
    assert {entry.measure for entry in entries} == measures
    assert {(entry.level, entry.digest, entry.verdict) for entry in entries} == {(0.95, "", "")}
    assert read_run_file(write_run_file(case)) == case


def test_a_file_that_says_nothing_of_what_was_shown_has_an_unknown_history() -> None:
    case = read_run_file(changed(lambda file: file["swaps"][0].pop("verdict_shown_for")))
    assert case.swaps[0].shown is None
    assert read_run_file(write_run_file(case)) == case
    nothing = read_run_file(changed(lambda file: file["swaps"][0].update(shown=[])))
    assert nothing.swaps[0].shown is None, "whoever says so keeps no sum of what was"


def _told(file: dict[str, Any]) -> dict[str, Any]:
    """The demo's first file, whose ledger is not empty."""
    assert file["swaps"][0]["shown"]
    return file


@pytest.mark.parametrize(
    "cut",
    [
        lambda file: file["swaps"][0].update(shown=[]),
        lambda file: file["swaps"][0]["shown"].pop(),
        lambda file: file["swaps"][0]["shown"][0].update(verdict="no_change"),
        lambda file: file["swaps"][0]["shown"][0].update(rules=1),
        lambda file: file["runs"][-1].pop("was"),
        lambda file: file["runs"][-1].update(written_at="2026-05-01T09:00:00Z"),
        lambda file: file["sittings"][-1].update(closed_at="2026-05-01T09:00:00Z"),
        lambda file: file.pop("history"),
    ],
)
def test_a_past_that_was_cut_out_of_a_file_is_not_known(cut: Callable[[dict[str, Any]], object]) -> None:
    case = read_run_file(next((ROOT / "demo").glob("fenwick-1-*.json")).read_bytes())
    run = case.runs[-1]
    was = Was("state", "complete", DAY, "somebody", "odd")
    changed = replace(case, runs=(*case.runs[:-1], replace(run, was=(was,), written_at=DAY)))
    file = json.loads(write_run_file(changed))
    assert all(known_history(swap) for swap in read_run_file(json.dumps(file)).swaps if swap.shown)
    cut(_told(file))
    found = read_run_file(json.dumps(file))
    measured = {s.build_id for s in found.sittings if s.id in found.used_sittings}
    assert not any(known_history(swap) for swap in found.swaps if swap.after in measured)
    judged = judge(found, found.swaps[0].before, found.swaps[0].after)
    assert "history_unknown" in {flag.code for result in judged.measures for flag in result.flags}


def known_history(swap: Swap) -> bool:
    return swap.shown is not None and all(entry.rules is not None for entry in swap.shown)


def test_the_sum_of_a_past_is_the_same_under_other_ids() -> None:
    text = next((ROOT / "demo").glob("fenwick-1-*.json")).read_text()
    renamed = re.sub(r"[0-9a-f]{8}(-[0-9a-f]{4}){3}-[0-9a-f]{12}", lambda found: found[0][::-1], text)
    assert renamed != text
    assert read_run_file(renamed).swaps[0].shown is not None
    assert known_history(read_run_file(renamed).swaps[0])


def test_a_sitting_that_does_not_say_was_closed_by_the_next_one_or_at_its_last_run() -> None:
    case = read_run_file(changed(lambda file: file["runs"][2].update(started_at="2026-05-04T13:55:00Z")))
    first, second = case.sittings
    assert first.closed_at == second.started_at
    assert second.closed_at == case.runs[2].started_at
    still_open = read_run_file(changed(lambda file: file["sittings"][1].update(closed_at=None)))
    assert still_open.sittings[1].closed_at is None
    assert read_run_file(write_run_file(still_open)) == still_open


def test_everything_that_the_ledger_needs_survives() -> None:
    entry = {"measure": "tiles.time", "at": "2026-05-05T09:00:00Z", "look": 1, "level": 0.97, "rule": "sittings",
             "verdict": "real_gain", "sittings": ["s1", "s2"], "digest": "abc", "boots": {"s1": "one"},
             "conditions": {"s1": {"fan": "auto"}}, "plan": "side_by_side"}  # fmt: skip
    was = {"member": "state", "value": "complete", "at": "2026-05-05T10:00:00Z", "by": "somebody", "reason": "odd"}
    moved = {"member": "started_at", "value": "2026-05-04T09:00:00+00:00", "at": "2026-05-05T10:00:00Z"}

    def change(file: dict[str, Any]) -> None:
        file["swaps"][0].update(
            shown=[entry], attempts=[{"at": "2026-05-06T09:00:00Z", "reason": "a fan was unplugged"}]
        )
        file["swaps"][0]["plan"].update(at_most=6, runs={"soak": 1}, order="block", judge_whole="B")
        file["sittings"][0].update(
            boot="one", boot_by="read", mount=2, attempt=1, closed_at="2026-05-04T10:00:00Z", was=[moved],
            set_aside={"reason": "the wrong drive", "at": "2026-05-05T10:00:00Z"},
        )  # fmt: skip
        file["runs"][1].update(written_at="2026-05-04T09:20:00Z", left_out_at="2026-05-04T09:20:00Z", was=[was])
        old = {"value": 41.2, "was": [{"value": 14.2, "at": "2026-05-04T09:21:00Z"}]}
        file["runs"][0]["readings"]["tiles.time"] = old

    case = read_run_file(changed(change))
    assert case.runs[0].was[0].member == "readings.tiles.time"
    assert case.swaps[0].plan.order == "before_then_after"
    assert case.sittings[0].was[0].value == datetime(2026, 5, 4, 9, tzinfo=UTC)
    assert read_run_file(write_run_file(case)) == case


SEEN = {"id": "line", "what": "cores", "expected": "6"}
PASTE = {"id": "paste", "role": "thermal paste", "label": "as delivered"}
EDIT = {"at": "2026-05-04T09:10:00Z", "measure": "nope", "field": "hoped_for", "reason": "asked for", "late": True}


@pytest.mark.parametrize(
    ("change", "path", "says"),
    [
        (lambda f: f.update(colour="red"), "$.colour", "not part of the format"),
        (lambda f: f["runs"][1].update(reason=None), "$.runs[1]", "needs a “reason”"),
        (lambda f: f["runs"][0]["readings"].update({"tiles.time": 0}), "$.runs[0].readings.tiles.time", "above zero"),
        (lambda f: f["runs"][0]["readings"].update({"tiles.time": -4}), "$.runs[0].readings.tiles.time", "above zero"),
        (lambda f: f["runs"][0]["readings"].update({"tiles.time": "fast"}), "$.runs[0].readings.tiles.time", "number here"),
        (lambda f: f["runs"][0]["readings"].update({"nope": 4}), "$.runs[0].readings.nope", "no measure “nope”"),
        (lambda f: f["runs"][0].update(sitting="s9"), "$.runs[0].sitting", "no sitting “s9”"),
        (lambda f: f["runs"][0].pop("sitting"), "$.runs[0].sitting", "required"),
        (lambda f: f["runs"][1].update(position=1), "$.runs[1].position", "already has a run 1"),
        (lambda f: f["runs"][1].update(id="r1"), "$.runs[1].id", "stands twice"),
        (lambda f: f["measures"][0].update(unit="parsec"), "$.measures[0].unit", "not a known unit"),
        (lambda f: f["swaps"][0].update(to="B"), "$.swaps[0].to", "another build"),
        (lambda f: f["swaps"][0].update(to="Z"), "$.swaps[0].to", "no build “Z”"),
        (lambda f: f["swaps"][0]["costs"][0].update(currency="USD"), "$.swaps[0].costs[0].rate", "rate of exchange"),
        (lambda f: f["swaps"][0]["costs"][0].update(amount=118.0), "$.swaps[0].costs[0].amount", "decimal string"),
        (lambda f: f["swaps"][0]["costs"][1].update(low="55"), "$.swaps[0].costs[1]", "between"),
        (lambda f: f["swaps"][0]["plan"].update(headline="nope"), "$.swaps[0].plan.headline", "no measure"),
        (lambda f: f["swaps"][0]["plan"]["measures"]["tiles.time"].update(weight=-1),
         "$.swaps[0].plan.measures.tiles.time.weight", "0 or more"),
        (lambda f: f["machine"].update(name="x" * 300), "$.machine.name", "at most 200"),
        (lambda f: f["sittings"][0].update(started_at="2026-05-04T09:10:00"), "$.sittings[0].started_at", "timezone"),
        (lambda f: f["sittings"][0].update(build="Z"), "$.sittings[0].build", "no build"),
        (lambda f: f["swaps"][0].update(verdict_shown_for=["s9"]), "$.swaps[0].verdict_shown_for[0]", "no sitting"),
        (lambda f: f["swaps"][0].update(verdict_shown_for={"nope": ["s1"]}),
         "$.swaps[0].verdict_shown_for.nope", "no measure"),
        (lambda f: f["swaps"][0].update(explanations=[{"id": "e", "text": "Heat", "state": "supported"}]),
         "$.swaps[0].explanations[0]", "needs its “grounds”"),
        (lambda f: f["swaps"][0].update(recognitions=[SEEN | {"result": "pass"}]), "$.swaps[0].recognitions[0]", "“seen”"),
        (lambda f: f["swaps"][0].update(recognitions=[SEEN | {"seen": "4", "result": "pass with remark"}]),
         "$.swaps[0].recognitions[0]", "“remark”"),
        (lambda f: f["swaps"][0].update(recognitions=[SEEN, SEEN]), "$.swaps[0].recognitions[1].id", "stands twice"),
        (lambda f: f["swaps"][0].update(state="open"), "$.swaps[0]", "“opened_at”"),
        (lambda f: f["swaps"][0].update(margin_edits=[EDIT]), "$.swaps[0].margin_edits[0].measure", "no measure"),
        (lambda f: f["swaps"].append(f["swaps"][0] | {"id": "s"}) or f["swaps"][0].update(id="s"),
         "$.swaps[1].id", "stands twice"),
        (lambda f: f["swaps"][0]["plan"].update(borrow_spread_from=["Z"]),
         "$.swaps[0].plan.borrow_spread_from[0]", "no build"),
        (lambda f: [build.update(letter="A") for build in f["builds"]], "$.builds[1].letter", "stands twice"),
        (lambda f: f["builds"][0].update(parts=[PASTE, PASTE]), "$.builds[0].parts[1].id", "stands twice"),
        (lambda f: f.update(rechecks=[{"id": "r", "build": "B", "due_on": "2027-01-01"}] * 2),
         "$.rechecks[1].id", "stands twice"),
        (lambda f: f["runs"][0].update(held_back="gremlins"), "$.runs[0].held_back", "heat"),
        (lambda f: f["swaps"][0]["plan"].update(design="paired", pair_by="none"), "$.swaps[0].plan", "pairs nothing"),
    ],
)  # fmt: skip
def test_each_problem_is_listed_with_its_json_path(change: Any, path: str, says: str) -> None:
    found = problems(changed(change))
    assert path in found
    assert says in found[path]


def test_all_problems_are_listed_at_once() -> None:
    def spoil(file: dict[str, Any]) -> None:
        file["runs"][0]["readings"]["tiles.time"] = -1
        file["runs"][2]["sitting"] = "nowhere"

    assert len(problems(changed(spoil))) == 2


def test_broken_json_and_giants_are_refused_in_words() -> None:
    assert "not valid JSON" in problems('{"format": ')["$"]
    assert "at most 100 MB" in problems(" " * (100 * 2**20 + 1))["$"]


def test_one_part_is_not_two_things() -> None:
    def spoil(file: dict[str, Any]) -> None:
        for build, label in zip(file["builds"], ("Marl 8 GB", "Marl 16 GB"), strict=True):
            build["parts"] = [{"id": "module", "role": "memory", "label": label}]

    assert "described differently" in problems(changed(spoil))["$.builds[1].parts[0]"]


def test_the_schema_in_the_documents_is_the_one_that_is_read() -> None:
    assert json.loads((ROOT / "docs" / "run-file.schema.json").read_text()) == run_file_schema()


def test_of_very_many_problems_fifty_are_named() -> None:
    file = {"format": "lynxbill-runs", "version": 1, "machine": {"name": "x", "currency": "EUR"}, "runs": [1] * 5000}
    found = problems(json.dumps(file))
    assert (len(found), "$.runs[49]" in found, "$.runs[50]" in found) == (50, True, False)
