"""Two sides by the minutes since their load began: at the same minute, in their own time, held back and on mounts."""

import numpy as np
import pytest

from lynxbill.core.heat.held_back import Limits
from lynxbill.core.heat.run import Air
from lynxbill.core.heat.sides import Overlay, RunCurves, lay_over, run_curves
from lynxbill.core.record.ids import RunId, SittingId

ROOM = 22.0
REST_S = 60.0


def run(
    name: str, sitting: str, rise: float, tau: float = 150.0, load_s: float = 1200.0, mount: int | None = None
) -> RunCurves:
    """A soak: a minute's rest, load up to `rise` above the room, ten minutes of cooling; no sensor in between."""
    at = np.arange(0.0, REST_S + load_s + 600.0, 2.0)
    loaded = (at >= REST_S) & (at < REST_S + load_s)
    up = rise * (1 - np.exp(-(at - REST_S) / tau))
    top = rise * (1 - np.exp(-load_s / tau))
    down = top * np.exp(-(at - REST_S - load_s) / tau)
    values = ROOM + np.where(at < REST_S, 0.0, np.where(loaded, up, down))
    clock = np.where(loaded & (values > ROOM + 49.0), 3200.0, 3600.0)
    channels = {
        "temperature": (at, values),
        "load": (at, np.where(loaded, 100.0, 0.0)),
        "clock": (at, clock),
        "power": (at, np.where(loaded, 50.0, 5.0)),
    }
    made = run_curves(RunId(name), SittingId(sitting), channels, (), Air(ROOM), mount, Limits(temperature_c=70.0))  # type: ignore[arg-type]
    assert made is not None
    return made


def laid(before: list[RunCurves], after: list[RunCurves]) -> Overlay:
    found = lay_over(before, after)
    assert found is not None
    return found


def test_sides_of_unequal_length_are_compared_at_the_same_minute() -> None:
    found = laid([run("1", "B", 50.0, 300.0, 600.0)], [run("2", "C", 45.0, 300.0, 3600.0)])
    assert found.same_s == pytest.approx(600, abs=4)
    assert found.longest_s == pytest.approx(3600, abs=4)
    assert found.before.same_minute is not None
    assert found.after.same_minute is not None
    # A sample more or less at the edge of the load is all that they may differ by.
    assert found.after.same_minute / found.before.same_minute == pytest.approx(0.9, abs=1e-3)
    assert (found.before.settled, found.after.settled) == (0, 1)


def test_how_soon_a_side_settles_and_recovers_is_told_where_every_run_tells_it() -> None:
    quick = [run(str(n), "C", 40.0, 100.0, 1800.0) for n in range(2)]
    slow = [run("3", "B", 40.0, 150.0, 1800.0)]
    found = laid(slow, quick)
    for side, tau in ((found.before, 150.0), (found.after, 100.0)):
        assert side.within_s == pytest.approx(tau * np.log(40), rel=0.05)
        assert side.recovery_s == pytest.approx(tau * np.log(2), abs=3)
    # One that still climbs when its load ends would leave the quick ones to speak for it.
    short = laid([*slow, run("4", "B", 40.0, 200.0, 400.0)], quick)
    assert short.before.within_s is None
    assert short.before.recovery_s is not None


def test_a_sitting_with_more_runs_weighs_no_more() -> None:
    many = [run(str(n), "B1", 40.0) for n in range(3)]
    found = laid([*many, run("9", "B2", 50.0)], [run("8", "C1", 40.0)])
    assert found.before.same_minute == pytest.approx(45.0, abs=0.1)
    assert found.before.resistance == pytest.approx(0.9, abs=0.01)


def test_mounts_are_counted_and_lie_apart_by_their_means() -> None:
    before = [run("1", "B1", 40.0, mount=1), run("2", "B2", 41.0, mount=1), run("3", "B3", 43.0, mount=2)]
    found = laid(before, [run("4", "C1", 40.0, mount=1)])
    assert (found.before.mounts, found.after.mounts) == (2, 1)
    assert found.before.mounts_apart == pytest.approx(2.5, abs=0.05)
    assert found.after.mounts_apart is None
    assert laid([run("1", "B1", 40.0)], before).before.mounts is None


def test_a_side_that_was_held_back_for_long_has_no_equilibrium() -> None:
    one = run("1", "B", 50.0)
    found = laid([one], [run("2", "C", 40.0)])
    # Within 1 K of 50 after 150·ln 50 s, and held from there: 70 °C are permitted.
    assert found.before.held_back == pytest.approx(1 - 150 * np.log(50) / 1200, abs=0.01)
    assert found.before.causes.keys() == {"heat"}
    assert one.of_load.held_back is not None
    assert found.before.held_back == one.of_load.held_back.share
    # Of a longer run it is what was held of the load up to the same second.
    shorter = laid([one], [run("2", "C", 40.0, load_s=800.0)])
    assert shorter.before.held_back == pytest.approx(1 - 150 * np.log(50) / 800, abs=0.01)
    assert found.before.equilibrium is None
    assert found.after.held_back == 0
    assert found.after.equilibrium is not None
    assert found.after.equilibrium.level == pytest.approx(40, abs=0.05)


def test_a_room_on_one_side_alone_lays_nothing_over() -> None:
    at = np.arange(0.0, 600.0, 5.0)
    bare = run_curves(RunId("1"), SittingId("B"), {"temperature": (at, 40 + at / 60)}, (), None)
    assert bare is not None
    assert lay_over([bare], [run("2", "C", 40.0)]) is None
    assert lay_over([], [bare]) is None
