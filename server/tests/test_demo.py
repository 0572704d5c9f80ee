import re
import sys
from collections import Counter
from dataclasses import replace
from importlib import import_module

import pytest

from lynxbill.core.result.comparison import judge
from lynxbill.core.result.joint import read_together
from lynxbill.core.result.restoring import history_lines
from lynxbill.core.terms.measure import orient
from lynxbill.core.value.better import judge_every_swap
from lynxbill.core.value.bill import judge_and_bill
from lynxbill.exchange.run_file import read_run_file, write_run_file
from lynxbill.rig.machine import settled_rise
from lynxbill.rig.parts import RIGS
from lynxbill.words.job.history import say_steps
from tests.conftest import ROOT
from tests.tiers import noises

sys.path.insert(0, str(ROOT / "demo"))
FENWICK, PLOTTING, LAPTOP, LIGHT_TABLE = (
    import_module(name) for name in ("make_fenwick", "fenwick.plotting", "fenwick.laptop", "fenwick.light_table")
)


def test_the_run_files_are_what_the_script_makes() -> None:
    made = FENWICK.run_files()
    assert {file.name for file in (ROOT / "demo").glob("*.json")} == set(made)
    for name, text in made.items():
        assert (ROOT / "demo" / name).read_text() == text + "\n"


@pytest.mark.parametrize("seed", noises(8440, 1, 2, 3, 4, 5))
def test_the_cooler_of_the_light_table_is_judged_as_it_truly_is(seed: int) -> None:
    case, traces = LIGHT_TABLE.make_light_table(seed)
    assert set(traces) == {run.id for run in case.runs}
    (swap,) = case.swaps
    results = {result.measure.id: result for result in judge(case, swap.before, swap.after).measures}
    cooler = results[case.open_plan.headline]
    assert cooler.verdict.word == "real_gain"
    assert cooler.interval is not None
    rises = [settled_rise(RIGS[name], 10.0) for name in ("plotting-pc", "plotting-pc-120-mm")]
    assert cooler.interval.low - 1 < rises[0] - rises[1] < cooler.interval.high + 1


@pytest.mark.parametrize("seed", noises(8440, 1, 2))
def test_dust_and_paste_of_the_laptop_are_kept_apart_and_judged_as_they_truly_are(seed: int) -> None:
    case, traces = LAPTOP.make_laptop(seed)
    assert set(traces) == {run.id for run in case.runs if run.workload == LAPTOP.SOAK}
    rises = [settled_rise(replace(RIGS[name], room_c=LAPTOP.ROOM_C), 12.0) for name in LAPTOP.RIGS_OF]
    for number, swap in enumerate(case.swaps):
        comparison = judge(case, swap.before, swap.after)
        heat = next(result for result in comparison.measures if result.measure.id == LAPTOP.RISE.id)
        assert heat.verdict.word == "real_gain"
        assert heat.estimate == pytest.approx(rises[number] - rises[number + 1], abs=2.5)
        joint = read_together(comparison.measures, heat)
        assert joint is not None
        # Cooler, and its automatic fan slower: neither is the price of the other.
        assert joint.word == "both"
    paste = judge(case, case.swaps[1].before, case.swaps[1].after)
    assert "one_mount" not in {flag.code for result in paste.measures for flag in result.flags}
    line = next(line for line in history_lines(case) if line.measure == LAPTOP.RISE.id)
    sentence = say_steps(line, LAPTOP.RISE, case, ".")
    assert sentence is not None
    assert re.fullmatch(
        r"Soak, above ambient, A to C: 1\d\.\d K cooler in all; “Dust out” \d\.\d K cooler \(\d\d %\) and "
        r"“Fresh paste” \d\.\d K cooler \(\d\d %\)\.",
        sentence,
    )
    held = next(r for r in judge(case, *(b.id for b in case.builds[:2])).measures if r.measure == LAPTOP.HELD_BACK)
    assert held.before_mean is not None
    assert held.before_mean > 20


@pytest.mark.parametrize("seed", noises(8440, 1, 2, 3, 4, 5))
def test_the_demo_shows_every_verdict_and_the_true_gains_whatever_its_noise(seed: int) -> None:
    case, traces = PLOTTING.make_plotting_pc(seed)
    assert read_run_file(write_run_file(case, traces)) == case
    assert set(traces) == {run.id for run in case.runs if run.workload == "Twenty-minute soak"}
    comparisons = [judge(case, swap.before, swap.after) for swap in case.swaps]
    words = Counter(result.verdict.word for comparison in comparisons for result in comparison.measures)
    assert set(words) == {"real_gain", "real_loss", "no_change", "not_settled"}
    states = Counter(run.state for run in case.runs)
    assert (states["spoiled"], states["failed"]) == (1, 1)
    processor = {result.measure.name: result for result in comparisons[1].measures}
    assert processor["Tile rendering"].verdict.word == "real_gain"
    assert processor["Soak, above ambient"].verdict.word == "real_loss"
    assert processor["Long read"].verdict.word == "no_change"
    assert str(judge_and_bill(case, case.swaps[1].before, case.swaps[1].after).bill.net_cost) == "94.90"
    assert judge_and_bill(case, case.swaps[1].before, case.swaps[1].after).bill.value.gain_per_10 is not None


@pytest.mark.parametrize("seed", noises(8440, 1, 2, 3, 4, 5))
def test_intervals_hold_the_true_gain_about_as_often_as_they_say(seed: int) -> None:
    case, _ = PLOTTING.make_plotting_pc(seed)
    inside = []
    for number, swap in enumerate(case.swaps):
        results = {result.measure.id: result for result in judge(case, swap.before, swap.after).measures}
        for measured, true in PLOTTING.truths().items():
            result = results[measured.id]
            assert result.interval is not None
            gained = orient(true[number + 1], measured) - orient(true[number], measured)
            # Readings are rounded as they are written down: half a step on either side.
            half = 0.5 * (measured.step or 0) / (true[number] if measured.scale == "ratio" else 1)
            inside.append(result.interval.low - half <= gained <= result.interval.high + half)
    # 24 intervals of 95 %: fewer than 19 inside would happen once in 1500 demos.
    assert sum(inside) >= 19


@pytest.mark.parametrize("seed", noises(8440, 1, 2, 3))
def test_what_stands_beside_the_verdicts_is_the_truth_of_the_demo(seed: int) -> None:
    """Fresh paste is the best value and memory the worst; the drive reads at 95 % of its rating, 13 % of its link."""
    case, _ = PLOTTING.make_plotting_pc(seed)
    paste, processor, memory = judge_every_swap(case)
    assert [better.winner for _, better in processor.others] == ["second", "first"]
    assert [better.winner for _, better in memory.others] == ["second", "second"]
    assert [better.winner for _, better in paste.others] == ["first", "first"]
    read = next(r for r in processor.comparison.measures if r.measure.name == "Long read")
    assert [rated.share_percent for rated in read.context.rated] == pytest.approx([94.8, 95.0], abs=1)
    assert [against.share_percent for against in read.context.ceilings] == pytest.approx([13.0, 13.0], abs=0.2)
    tiles = next(r for r in processor.comparison.measures if r.measure.name == "Tile rendering")
    assert next(grown.increase_percent for grown in tiles.context.realised if grown.figure == "cores") == 50
