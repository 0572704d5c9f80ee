"""Whole verdicts against the rules written once more, plainly, with SciPy's own distributions and tests."""

import math
from dataclasses import dataclass

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from numpy.typing import NDArray
from scipy import integrate, optimize, stats

from lynxbill.core.result.comparison import judge
from lynxbill.core.result.result import MeasureResult
from lynxbill.core.statistics.anytime import e_value
from tests.builders import make_case
from tests.tiers import examples

Floats = NDArray[np.float64]
RUNS = 6
STEP = 1e-9 / 40


@dataclass(frozen=True)
class Plain:
    """What the rules say: a word, the interval where there is one, and the p."""

    word: str
    low: float | None = None
    high: float | None = None
    p: float | None = None


@st.composite
def benches(draw: st.DrawFn) -> tuple[list[list[float]], list[list[float]]]:
    """Two sides of one to six sittings of one to six runs: reboots, noise and a gain of any size."""
    generator = np.random.default_rng(draw(st.integers(0, 2**32)))
    tau, noise, gain = (
        draw(st.sampled_from(sizes)) for sizes in ((0.0, 0.01, 0.05), (0.004, 0.03), (0.0, 0.02, 0.3))
    )
    sides = []
    for shift in (0.0, gain):
        sittings = []
        for _ in range(draw(st.integers(1, 6))):
            length = draw(st.sampled_from([*range(1, RUNS), *[RUNS] * 12]))
            logs = 3.7 - shift + generator.normal(0, tau or 1e-12) + generator.normal(0, noise, length)
            sittings.append([float(value) for value in np.exp(logs)])
        sides.append(sittings)
    return sides[0], sides[1]


def oriented(side: list[list[float]]) -> list[Floats]:
    """Times are better when lower."""
    return [-np.log(np.array(values)) for values in side]


def plainly(before: list[Floats], after: list[Floats], *, wanted: int, margin: float) -> Plain:
    """
    The more cautious of two variants: short sittings taken, and skipped.

    In both a look judges the whole block before and the first sittings after; what lies beyond is added.
    """
    bound = math.log1p(margin / 100)
    whole = variant(before, after, wanted, bound)
    if all(len(values) == RUNS for values in before + after):
        return whole
    beside = (len(before), wanted) if len(after) >= wanted else None
    rest = [[values for values in side if len(values) == RUNS] for side in (before, after)]
    skipped = variant(rest[0], rest[1], wanted, bound, beside, was_due=beside is not None)
    if whole.word != skipped.word:
        return Plain("not_settled")
    if whole.word == "no_change":
        return max(whole, skipped, key=lambda worded: (worded.high or 0.0) - (worded.low or 0.0))
    return max(skipped, whole, key=lambda worded: -1.0 if worded.p is None else worded.p)


def variant(
    before: list[Floats],
    after: list[Floats],
    wanted: int,
    bound: float,
    beside: tuple[int, int] | None = None,
    *,
    was_due: bool = False,
) -> Plain:
    if not before or not after:
        return Plain("not_settled" if was_due else "untested")
    look = after[:wanted]
    if beside is None:
        due = len(look) == wanted
    else:
        due = len(before) >= min(2, beside[0]) and len(look) >= min(2, beside[1])
    if not due:
        # What was taken out has to be made good first; what there is speaks at other times alone.
        sentence = at_other_times(before, after, bound, last_look=was_due)
        return sentence or (Plain("not_settled") if was_due else so_far(before, after))
    first = at_look(before, look, bound)
    if first.word in ("real_gain", "real_loss", "no_change") or len(after) == len(look):
        return first
    return at_other_times(before, after, bound, last_look=True) or first


def even(before: list[Floats], after: list[Floats]) -> tuple[list[Floats], list[Floats]]:
    length = min(len(values) for values in before + after)
    return [values[:length] for values in before], [values[:length] for values in after]


def at_look(before: list[Floats], after: list[Floats], bound: float) -> Plain:
    before, after = even(before, after)
    if min(len(before), len(after)) == 1:
        return by_guard(before, after, bound)
    u_b, u_a = medians(before), medians(after)
    test = stats.linregress([0.0] * len(u_b) + [1.0] * len(u_a), [*u_b, *u_a])
    d, se, df, p = test.slope, test.stderr, len(u_b) + len(u_a) - 2, test.pvalue
    halves = {level: stats.t.ppf(level, df) * se for level in (0.95, 0.975)}
    if len(u_b) != len(u_a) or differ(within(before), within(after), 0.05) or differ(spread(u_b), spread(u_a), 0.10):
        wide, welch_df = welch(u_b, u_a)
        p = max(p, 2 * stats.t.sf(abs(d) / wide, welch_df))
        halves = {level: max(half, stats.t.ppf(level, welch_df) * wide) for level, half in halves.items()}
    return word_of(d, halves[0.95], halves[0.975], bound, p)


def welch(u_b: Floats, u_a: Floats) -> tuple[float, float]:
    """Each side's own scatter; of unlike counts the fewer scatter as much as the more, by as many df as two such."""
    small, large = sorted((u_b, u_a), key=len)
    v_small, v_large = small.var(ddof=1), large.var(ddof=1)
    raised = len(small) < len(large) and v_small < v_large
    a, b = (v_large if raised else v_small) / len(small), v_large / len(large)
    df = (a + b) ** 2 / (a**2 / (len(small) - 1) + b**2 / (len(large) - 1))
    return math.sqrt(a + b), max(df, 2 * len(small) - 2) if raised else df


def medians(side: list[Floats]) -> Floats:
    return np.array([np.median(values) for values in side])


def within(side: list[Floats]) -> tuple[float, int]:
    return sum(float(((v - v.mean()) ** 2).sum()) for v in side), sum(len(v) - 1 for v in side)


def spread(units: Floats) -> tuple[float, int]:
    return float(((units - units.mean()) ** 2).sum()), len(units) - 1


def differ(before: tuple[float, int], after: tuple[float, int], level: float) -> bool:
    if min(before[1], after[1]) < 1:
        return False
    # No scatter is taken to be finer than what readings of nine digits show.
    floor = STEP**2 / 12
    ratio = max(after[0] / after[1], floor) / max(before[0] / before[1], floor)
    law = stats.f(after[1], before[1])
    return bool(2 * min(law.cdf(ratio), law.sf(ratio)) < level)


def at_other_times(before: list[Floats], after: list[Floats], bound: float, *, last_look: bool) -> Plain | None:
    """The anytime rule: the larger standard error and the smaller degrees of freedom of both forms."""
    before, after = even(before, after)
    k_b, k_a = len(before), len(after)
    if min(k_b, k_a) < 3:
        return None
    u_b, u_a = medians(before), medians(after)
    fit = stats.linregress([0.0] * k_b + [1.0] * k_a, [*u_b, *u_a])
    apart, welch_df = welch(u_b, u_a)
    se, df = max(fit.stderr, apart), min(k_b + k_a - 2, float(welch_df))
    size, spent = k_b * k_a / (k_b + k_a), 2 if last_look else 1
    wide, narrow = (t_where_evidence_is(level * spent, df, size) for level in (20, 10))
    if wide is None or narrow is None:
        return None
    evidence = evidence_of(fit.slope / se, df, size)
    return word_of(fit.slope, narrow * se, wide * se, bound, min(1.0, spent / evidence))


def so_far(before: list[Floats], after: list[Floats]) -> Plain:
    """Before a look is due, the guard's interval is shown where a side has a single sitting, and no verdict."""
    before, after = even(before, after)
    if min(len(before), len(after)) >= 2:
        return Plain("not_settled")
    worded = by_guard(before, after, 1.0)
    return worded if worded.word == "untested" else Plain("not_settled", worded.low, worded.high)


def evidence_of(t: float, df: float, size: float) -> float:
    """A normal effect widens t by the root of 1 + g N: the ratio of the densities is the evidence; of two bets."""
    spreads = math.sqrt(1 + 4 * size), math.sqrt(1 + 400 * size)
    bets = [float(stats.t.pdf(t / spread, df) / spread / stats.t.pdf(t, df)) for spread in spreads]
    return 0.8 * bets[0] + 0.2 * bets[1]


def t_where_evidence_is(level: float, df: float, size: float) -> float | None:
    if evidence_of(1e6, df, size) < level:
        return None
    return float(optimize.brentq(lambda t: evidence_of(t, df, size) - level, 0.0, 1e6))


def by_guard(before: list[Floats], after: list[Floats], bound: float) -> Plain:
    runs_b, runs_a = np.concatenate(before), np.concatenate(after)
    if min(len(runs_b), len(runs_a)) < 3 or len(before[0]) < 2:
        return Plain("untested")
    (ss_b, f_b), (ss_a, f_a) = within(before), within(after)
    allowed = [1 / len(runs) + 9 / len(side) for runs, side in ((runs_b, before), (runs_a, after))]
    shared = (ss_b + ss_a) / (f_b + f_a) * sum(allowed), f_b + f_a
    a, b = ss_b / f_b * allowed[0], ss_a / f_a * allowed[1]
    apart = a + b, (a + b) ** 2 / (a**2 / f_b + b**2 / f_a)
    half90, half95 = (
        max(float(stats.t.ppf(level, df)) * math.sqrt(variance) for variance, df in (shared, apart))
        for level in (0.95, 0.975)
    )
    return word_of(float(runs_a.mean() - runs_b.mean()), half90, half95, bound, None)


def word_of(d: float, half90: float, half95: float, bound: float, p: float | None) -> Plain:
    low, high = d - half95, d + half95
    if -bound < d - half90 and d + half90 < bound:
        return Plain("no_change", low, high, p)
    if (low > 0 or high < 0) and (p is None or p < 0.05):
        return Plain("real_gain" if d > 0 else "real_loss", low, high, p)
    return Plain("not_settled", low, high, p)


def ours(before: list[list[float]], after: list[list[float]], *, wanted: int, margin: float) -> MeasureResult:
    case = make_case(before, after, matters_from=margin, sittings_a_side=wanted, runs_a_sitting=RUNS)
    (result,) = judge(case).measures
    return result


@settings(max_examples=examples(200), deadline=None)
@given(benches(), st.integers(1, 6), st.sampled_from([0.5, 2.0, 10.0]))
def test_a_verdict_is_that_of_the_rules_written_plainly(
    bench: tuple[list[list[float]], list[list[float]]], wanted: int, margin: float
) -> None:
    before, after = map(oriented, bench)
    worded = plainly(before, after, wanted=wanted, margin=margin)
    result = ours(*bench, wanted=wanted, margin=margin)
    assert result.verdict.word == worded.word
    if worded.low is None:
        # Where both variants differ, or nothing may speak, there is no figure that the rules name.
        return
    assert result.interval is not None
    assert (result.interval.low, result.interval.high) == pytest.approx((worded.low, worded.high), rel=1e-7, abs=1e-9)
    assert result.p == (None if worded.p is None else pytest.approx(worded.p, rel=1e-6))


@settings(max_examples=examples(60), deadline=None)
@given(st.integers(0, 2**32), st.integers(3, 7), st.sampled_from([0.0, 0.02, 0.2]))
def test_a_paired_verdict_is_that_of_a_one_sample_test(seed: int, pairs: int, gain: float) -> None:
    generator = np.random.default_rng(seed)
    ground = generator.normal(3.7, 0.05, (pairs, 1))
    logs_b, logs_a = (ground - shift + generator.normal(0, 0.01, (pairs, 4)) for shift in (0.0, gain))
    before, after = (np.exp(logs).tolist() for logs in (logs_b, logs_a))
    case = make_case(before, after, matters_from=1.0, sittings_a_side=pairs, design="paired")
    (result,) = judge(case).measures
    test = stats.ttest_1samp(np.median(logs_b, axis=1) - np.median(logs_a, axis=1), 0.0)
    half90, half95 = (float(ci.high - ci.low) / 2 for ci in map(test.confidence_interval, (0.90, 0.95)))
    middle = float(np.median(logs_b, axis=1).mean() - np.median(logs_a, axis=1).mean())
    worded = word_of(middle, half90, half95, math.log1p(0.01), float(test.pvalue))
    assert result.verdict.word == worded.word
    assert result.interval is not None
    assert (result.interval.low, result.interval.high) == pytest.approx((worded.low, worded.high), rel=1e-7, abs=1e-9)
    assert result.p == pytest.approx(worded.p, rel=1e-6)


@pytest.mark.parametrize(("t", "df", "size"), [(0.0, 4, 1.5), (2.5, 4, 1.5), (-4.0, 8, 2.5), (6.0, 2, 1.0)])
def test_the_evidence_is_an_average_over_effects_of_normal_size(t: float, df: float, size: float) -> None:
    def weighed(effect: float) -> float:
        sizes = 0.8 * stats.norm.pdf(effect, scale=2) + 0.2 * stats.norm.pdf(effect, scale=20)
        return float(stats.nct.pdf(t, df, effect * math.sqrt(size)) * sizes)

    mixed, _ = integrate.quad(weighed, -80, 80, limit=800, points=[0.0, t / math.sqrt(size)])
    assert e_value(t, df, size) == pytest.approx(mixed / stats.t.pdf(t, df), rel=1e-6)
    assert e_value(t, df, size) == pytest.approx(evidence_of(t, df, size), rel=1e-12)


def test_the_plain_rules_meet_every_verdict_and_every_rule() -> None:
    """The random benches are worth their name: each word and each rule is among them."""
    met = set()
    generator = np.random.default_rng(7)
    for sittings in (1, 3, 5):
        for wanted in (1, 5):
            for gain in (0.0, 0.3, -0.3):
                sides = [
                    np.exp(3.7 - shift + generator.normal(0, 0.002, (sittings, RUNS))).tolist()
                    for shift in (0.0, gain)
                ]
                result = ours(*sides, wanted=wanted, margin=2.0)
                met |= {result.verdict.word, result.interval.basis if result.interval else "none"}
    assert met >= {"real_gain", "real_loss", "no_change", "not_settled", "sittings", "anytime", "one_sitting"}
