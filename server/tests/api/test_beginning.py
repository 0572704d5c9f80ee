"""A new job begins with what is to be changed; all else follows, or can wait."""

from typing import Any

import httpx
import pytest

from tests.api.bodies import fields_of, new_id


def timed(name: str = "Render the tiles", role: str = "claim", **measure: Any) -> dict[str, Any]:
    usual = {"unit": "s", "scale": "ratio", "kind": "time", "better": "lower"}
    return {"workload": new_id(), "measure": {"id": new_id(), "name": name} | usual | measure, "role": role}


def body(*jobs: dict[str, Any], **fields: Any) -> dict[str, Any]:
    machine = {"name": "Bench PC", "currency": "EUR"}
    return {"machine": machine, "build": new_id(), "change": "processor", "timed": list(jobs) or [timed()]} | fields


def begin(api: httpx.Client, machine: str, sent: dict[str, Any]) -> httpx.Response:
    return api.put(f"/machines/{machine}/beginning", json=sent)


def begun(api: httpx.Client, machine: str, sent: dict[str, Any]) -> dict[str, Any]:
    case: dict[str, Any] = begin(api, machine, sent).raise_for_status().json()
    return case


def test_one_save_makes_machine_build_workloads_and_plan(api: httpx.Client) -> None:
    machine, control = new_id(), timed("Long read", "control", unit="MBy/s", kind="rate", better="higher")
    sent = body(timed(), timed("Open the project", "watch"), control, hoped_for=25, matters_from=1.5)
    case = begun(api, machine, sent)
    assert [build["letter"] for build in case["builds"]] == ["A"]
    assert [workload["name"] for workload in case["workloads"]] == [
        "Render the tiles",
        "Open the project",
        "Long read",
    ]
    plan = case["open_plan"]["plan"]
    claim, watched, held = (plan["measures"][one["measure"]["id"]] for one in sent["timed"])
    assert (claim["role"], claim["matters_from"], claim["hoped_for"]) == ("claim", 1.5, 25)
    assert (watched["role"], held["role"], held["hoped_for"]) == ("watch", "control", None)
    assert plan["headline"] == sent["timed"][0]["measure"]["id"]
    assert (plan["change"], plan["sittings_a_side"], plan["runs_a_sitting"]) == ("processor", 3, 5)
    assert begun(api, machine, sent) == case


def test_what_can_be_flipped_back_gets_two_looks_and_a_quick_look_one_sitting(api: httpx.Client) -> None:
    setting = begun(api, new_id(), body(change="settings", sittings_a_side=4))["open_plan"]["plan"]
    assert (setting["order"], setting["sittings_a_side"], setting["at_most"]) == ("abba", 4, 8)
    quick = begun(api, new_id(), body(change="settings", quick=True))["open_plan"]["plan"]
    counts = {name: quick[name] for name in ("sittings_a_side", "at_most", "runs_a_sitting", "warm_ups", "rest_min")}
    assert counts == {"sittings_a_side": 1, "at_most": None, "runs_a_sitting": 3, "warm_ups": 0, "rest_min": 0}
    several = begun(api, new_id(), body(change="other"))["open_plan"]["plan"]
    assert (several["change"], several["sittings_a_side"]) == ("other", 3)


@pytest.mark.parametrize(
    ("wrong", "field"),
    [
        ({"timed": []}, "timed"),
        ({"timed": [timed("Same"), timed("Same")]}, "timed"),
        ({"timed": [timed(unit="parsec")]}, "timed.0.measure.unit"),
        ({"machine": {"name": "", "currency": "EUR"}}, "machine.name"),
        ({"matters_from": -1}, "matters_from"),
    ],
)
def test_what_is_wrong_is_named_and_nothing_is_saved(api: httpx.Client, wrong: dict[str, Any], field: str) -> None:
    machine = new_id()
    answer = begin(api, machine, body() | wrong)
    assert field in fields_of(answer)
    assert api.get(f"/machines/{machine}").status_code == 404


def test_a_machine_that_is_there_already_is_left_alone(api: httpx.Client) -> None:
    machine = new_id()
    case = begun(api, machine, body())
    assert begin(api, machine, body()).status_code == 422
    assert api.get(f"/machines/{machine}").json() == case
