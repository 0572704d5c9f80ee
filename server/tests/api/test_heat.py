"""Two builds laid over each other through the API: of the demo, and where there is nothing to lay."""

from typing import Any

import httpx
import numpy as np
import pytest

from lynxbill.services.base.remembered import Remembered
from lynxbill.services.evidence import heat as heat_service
from tests.api.bodies import new_id
from tests.conftest import find_machine


def heat(api: httpx.Client, machine: str, swap: dict[str, Any], **more: str) -> Any:
    asked = {"before": swap["before"], "after": swap["after"]} | more
    return api.get(f"/machines/{machine}/heat", params=asked).raise_for_status().json()


def test_the_cooler_of_the_light_table_is_laid_over_the_one_before(api: httpx.Client) -> None:
    machine = find_machine(api, "Light-table PC")
    (swap,) = api.get(f"/machines/{machine}").json()["swaps"]
    found = heat(api, machine, swap)
    before = found["sides"][0]
    assert [side["letter"] for side in found["sides"]] == ["A", "B"]
    assert [len(side["runs"]) for side in found["sides"]] == [6, 6]
    assert {run["sitting"] for run in before["runs"]} == {1, 2, 3}
    assert [curve["role"] for curve in before["means"]] == ["temperature", "clock", "fan", "power", "noise"]
    assert (found["above_room"], found["shown"]) == (True, True)
    assert found["same_s"] == pytest.approx(590, abs=15)
    # The agent's reading of it was written by the run, not read off the trace here: no window is claimed to count.
    assert found["window"] is None
    levels = [side["equilibrium"]["level"] for side in found["sides"]]
    assert levels[0] - levels[1] == pytest.approx(2.6, abs=1.0)
    assert all(side["equilibrium"]["low"] < level < side["equilibrium"]["high"] for side, level in zip(
        found["sides"], levels, strict=True
    ))  # fmt: skip
    assert "K cooler" in found["worded"]["sentence"]
    assert "not shown to have settled at the end" in found["worded"]["beneath"]


def test_a_plotting_pc_that_met_its_limit_shows_where_it_was_held_back(api: httpx.Client, demo_id: str) -> None:
    swaps = api.get(f"/machines/{demo_id}").json()["swaps"]
    found = heat(api, demo_id, swaps[0])
    before, after = found["sides"]
    assert after["held"] == []
    # Read off the last minute, of runs that are equally long.
    assert found["window"] == [found["same_s"] - 60, found["same_s"]]
    (held,) = before["held"]
    assert 240 < held[0] < 480
    assert held[1] == pytest.approx(found["same_s"], abs=20)
    assert found["worded"]["held_before"].startswith("held back by heat")
    spoken = api.get(
        f"/machines/{demo_id}/comparison", params={"before": swaps[0]["before"], "after": swaps[0]["after"]}
    ).json()["worded"]
    assert "K cooler, and" in spoken["joint"]
    # Its sound is a measure; clock, fan and power were told by its traces alone.
    assert all(sentence in spoken["joint"] for sentence in ("dB(A) quieter", "MHz higher clock", "rpm slower fan"))
    assert spoken["joint"].endswith("W more power.")


def test_where_no_work_was_traced_on_both_there_is_none(api: httpx.Client, demo_id: str) -> None:
    tower = find_machine(api, "Scanner-room tower")
    (swap,) = api.get(f"/machines/{tower}").json()["swaps"]
    assert heat(api, tower, swap) is None
    swaps = api.get(f"/machines/{demo_id}").json()["swaps"]
    assert heat(api, demo_id, swaps[0], workload=new_id()) is None


def test_fits_are_remembered_by_their_samples_and_the_oldest_forgotten(monkeypatch: pytest.MonkeyPatch) -> None:
    fitted = list[float]()
    monkeypatch.setattr(heat_service, "fit_equilibrium", lambda at, values: fitted.append(values[0]))
    monkeypatch.setattr(heat_service, "FITS", Remembered(2))
    at = np.arange(3.0)
    for level in (1.0, 2.0, 1.0, 3.0, 1.0, 2.0):
        heat_service.fit_once(at, np.full(3, level))
    # The first was asked for again in between; the second had to go for the third.
    assert fitted == [1.0, 2.0, 3.0, 2.0]
    heat_service.fit_once(at + 1, np.full(3, 2.0))
    assert len(fitted) == 5
