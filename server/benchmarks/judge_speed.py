"""
Prints how fast a comparison is judged, beside the same analysis written as plain SciPy calls, in one run.

Usage: judge_speed.py [--measures 60] [--lines 400]
"""

import argparse
import json
import subprocess
import sys
import tempfile
import time
from pathlib import Path

import numpy as np
from scipy import stats

from lynxbill.core.record.frame import Case
from lynxbill.core.result.comparison import judge
from lynxbill.core.terms.measure import Measure
from lynxbill.exchange.run_file import write_run_file
from lynxbill.prove.simulate import make_case, plan_for
from lynxbill.rig.noise import Bench, side_readings

SITTINGS, RUNS = 6, 8
REPEATS = 7


def main() -> None:
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("--measures", type=int, default=60)
    parser.add_argument("--lines", type=int, default=400, help="small files that are judged in one call")
    chosen = parser.parse_args()
    count, some = chosen.measures, chosen.measures // 2
    generator = np.random.default_rng(1)
    measures = tuple(
        Measure(f"m{n}", f"M{n}", "job", "K", "difference", "other", "higher", step=1e-6) for n in range(count)
    )
    sides = [[side_readings(generator, Bench(), SITTINGS, RUNS) for _ in measures] for _ in range(2)]
    case = make_case(*sides, plan=plan_for(measures, SITTINGS, matters_from=1.0), measures=measures)
    half = make_case(
        *(side[:some] for side in sides),
        plan=plan_for(measures[:some], SITTINGS, matters_from=1.0),
        measures=measures[:some],
    )
    ours = best(lambda: judge_whole(case))
    halved = best(lambda: judge_whole(half))
    plain = best(lambda: plain_scipy(np.array(sides[0]), np.array(sides[1])))
    print(f"{count} measures x {SITTINGS} sittings a side x {RUNS} runs, flags and companions: {1e3 * ours:.1f} ms")
    print(f"half as many measures: {1e3 * halved:.1f} ms, {ours / halved:.2f} times less")
    print(f"means, t, Welch and Mann-Whitney alone, as plain SciPy calls: {1e3 * plain:.1f} ms")
    print(f"ours over plain: {ours / plain:.2f}")
    with tempfile.TemporaryDirectory() as folder:
        file = Path(folder) / "case.json"
        file.write_text(write_run_file(case))
        whole = best(lambda: run("judge", str(file)), repeats=3)
        print(f"lynxbill judge on its run file, whole process: {whole:.2f} s")
        small = make_case(
            [side_readings(generator, Bench(), 3, 5)],
            [side_readings(generator, Bench(), 3, 5)],
            plan=plan_for(measures[:1], 3, matters_from=1.0),
            measures=measures[:1],
        )
        line = json.dumps(json.loads(write_run_file(small)))
        lines = Path(folder) / "lines.jsonl"
        lines.write_text((line + "\n") * chosen.lines)
        print(
            f"lynxbill judge --lines: {chosen.lines / run('judge', '--lines', str(lines)):.0f} small files a second"
        )


def judge_whole(case: Case) -> None:
    """Everything that the core says, companions included, which it makes when they are asked for."""
    for result in judge(case).measures:
        assert result.companions


def best(action: object, repeats: int = REPEATS) -> float:
    """The least of several times: what the machine can do when nothing else runs."""
    times = []
    for _ in range(repeats):
        start = time.perf_counter()
        action()  # type: ignore[operator]
        times.append(time.perf_counter() - start)
    return min(times)


def run(*arguments: str) -> float:
    start = time.perf_counter()
    subprocess.run([sys.executable, "-m", "lynxbill", *arguments], check=True, stdout=subprocess.DEVNULL)
    return time.perf_counter() - start


def plain_scipy(before: np.ndarray, after: np.ndarray) -> None:
    """The least that anybody would compute of each measure by hand."""
    for left, right in zip(np.median(before, axis=2), np.median(after, axis=2), strict=True):
        stats.ttest_ind(right, left).confidence_interval(0.95)
        stats.ttest_ind(right, left).confidence_interval(0.90)
        stats.ttest_ind(right, left, equal_var=False)
        stats.mannwhitneyu(right, left, method="exact")


if __name__ == "__main__":
    main()
