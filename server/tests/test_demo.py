import importlib.util
from collections import Counter
from types import ModuleType

import pytest

from lynxbill.core.better import judge_every_swap
from lynxbill.core.comparison import judge
from lynxbill.exchange.run_file import read_run_file, write_run_file
from lynxbill.rig.machine import settled_rise
from lynxbill.rig.parts import RIGS
from tests.conftest import ROOT


def load_script() -> ModuleType:
    spec = importlib.util.spec_from_file_location("make_fenwick", ROOT / "demo" / "make_fenwick.py")
    assert spec is not None
    assert spec.loader is not None
    module = importlib.util.module_from_spec(spec)
    # Its frozen dataclasses look their module up while they are made.
    import sys

    sys.modules[spec.name] = module
    spec.loader.exec_module(module)
    return module


FENWICK = load_script()


def test_the_run_files_are_what_the_script_makes() -> None:
    made = FENWICK.run_files()
    assert {file.name for file in (ROOT / "demo").glob("*.json")} == set(made)
    for name, text in made.items():
        assert (ROOT / "demo" / name).read_text() == text + "\n"


@pytest.mark.parametrize("seed", [8440, 1, 2, 3, 4, 5])
def test_the_cooler_of_the_light_table_is_judged_as_it_truly_is(seed: int) -> None:
    case, traces = FENWICK.make_light_table(seed)
    assert set(traces) == {run.id for run in case.runs}
    (swap,) = case.swaps
    results = {result.measure.id: result for result in judge(case, swap.before, swap.after).measures}
    cooler = results[case.open_plan.headline]
    assert cooler.verdict.word == "real_gain"
    assert cooler.interval is not None
    rises = [settled_rise(RIGS[name], 10.0) for name in ("plotting-pc", "plotting-pc-120-mm")]
    assert cooler.interval.low - 1 < rises[0] - rises[1] < cooler.interval.high + 1


@pytest.mark.parametrize("seed", [8440, 1, 2, 3, 4, 5])
def test_the_demo_shows_every_verdict_and_the_true_gains_whatever_its_noise(seed: int) -> None:
    case = FENWICK.make_case(seed)
    assert read_run_file(write_run_file(case)) == case
    comparisons = [judge(case, swap.before, swap.after) for swap in case.swaps]
    words = Counter(result.verdict.word for comparison in comparisons for result in comparison.measures)
    assert set(words) == {"real_gain", "real_loss", "no_change", "not_settled"}
    states = Counter(run.state for run in case.runs)
    assert (states["spoiled"], states["failed"]) == (1, 1)
    processor = {result.measure.name: result for result in comparisons[1].measures}
    assert processor["Tile rendering"].verdict.word == "real_gain"
    assert processor["Soak, above ambient"].verdict.word == "real_loss"
    assert processor["Long read"].verdict.word == "no_change"
    assert str(comparisons[1].bill.net_cost) == "94.90"
    assert comparisons[1].bill.value.gain_per_10 is not None


@pytest.mark.parametrize("seed", [8440, 1, 2, 3, 4, 5])
def test_intervals_hold_the_true_gain_about_as_often_as_they_say(seed: int) -> None:
    case = FENWICK.make_case(seed)
    inside = []
    for number, swap in enumerate(case.swaps):
        results = {result.measure.id: result for result in judge(case, swap.before, swap.after).measures}
        for truth in FENWICK.TRUTHS:
            result = results[truth.measure.id]
            assert result.interval is not None
            true = _oriented(truth, truth.true[number], truth.true[number + 1])
            inside.append(result.interval.low <= true <= result.interval.high)
    # 24 intervals of 95 %: fewer than 19 inside would happen once in 1500 demos.
    assert sum(inside) >= 19


def _oriented(truth: object, before: float, after: float) -> float:
    from lynxbill.core.measure import orient

    measure = truth.measure  # type: ignore[attr-defined]
    return orient(after, measure) - orient(before, measure)


@pytest.mark.parametrize("seed", [8440, 1, 2, 3])
def test_what_stands_beside_the_verdicts_is_the_truth_of_the_demo(seed: int) -> None:
    """Fresh paste is the best value and memory the worst; the drive reads at 95 % of its rating, 13 % of its link."""
    case = FENWICK.make_case(seed)
    paste, processor, memory = judge_every_swap(case)
    assert [better.winner for _, better in processor.others] == ["second", "first"]
    assert [better.winner for _, better in memory.others] == ["second", "second"]
    assert [better.winner for _, better in paste.others] == ["first", "first"]
    read = next(r for r in processor.comparison.measures if r.measure.name == "Long read")
    assert [rated.share_percent for rated in read.context.rated] == pytest.approx([94.8, 95.0], abs=1)
    assert [against.share_percent for against in read.context.ceilings] == pytest.approx([13.0, 13.0], abs=0.2)
    tiles = next(r for r in processor.comparison.measures if r.measure.name == "Tile rendering")
    assert next(grown.increase_percent for grown in tiles.context.realised if grown.figure == "cores") == 50
