"""From an interval to a verdict: every word and every remark at its ends, and mirrored for a loss."""

import math
from dataclasses import replace

import pytest

from lynxbill.core.judgement.verdict import Remark, Verdict, VerdictWord, block_by_family, decide, decide_exact
from lynxbill.core.statistics.estimate import Estimate

MARGIN = 2.0


def estimate(low: float, high: float, p: float | None = 0.01) -> Estimate:
    """An interval whose 90 % one lies a tenth of its width further in."""
    middle, width = (low + high) / 2, high - low
    ends = low + width / 10, high - width / 10
    return Estimate("sittings", middle, 1.0, 1.0, 4.0, low, high, *ends, p)


@pytest.mark.parametrize(
    ("low", "high", "p", "word", "remark"),
    [
        (3.0, 5.0, 0.01, "gain", None),
        (2.0, 5.0, 0.01, "gain", None),
        (1.9, 5.0, 0.01, "gain", "may_be_too_small_to_matter"),
        (0.1, 5.0, None, "gain", "may_be_too_small_to_matter"),
        (0.1, 5.0, 0.05, "not_settled", "too_wide"),
        (0.0, 5.0, 0.01, "not_settled", "too_wide"),
        (-1.0, 1.0, 0.5, "no_change", None),
        (0.5, 1.5, 0.01, "no_change", "small_but_detectable_gain"),
        (-2.1, 2.1, 0.5, "no_change", None),
        (-2.6, 2.6, 0.5, "not_settled", "too_wide"),
    ],
)
def test_a_verdict_follows_from_where_the_interval_lies(
    low: float, high: float, p: float | None, word: str, remark: Remark | None
) -> None:
    mirrored = {"small_but_detectable_gain": "small_but_detectable_loss"}
    for turned, called in ((False, "real_gain"), (True, "real_loss")):
        ends = (-high, -low) if turned else (low, high)
        found = decide(estimate(*ends, p), MARGIN, alpha=0.05, fewest_sittings=3)
        expected = mirrored.get(remark or "", remark) if turned else remark
        assert (found.word, found.remark) == (called if word == "gain" else word, expected)


def test_with_few_sittings_it_is_they_that_are_missing() -> None:
    wide = estimate(-5.0, 5.0, 0.5)
    assert decide(wide, MARGIN, alpha=0.05, fewest_sittings=2).remark == "too_few_sittings"
    assert decide(replace(wide, p=None), math.inf, alpha=0.05, fewest_sittings=2).word == "no_change"


def test_an_exact_p_calls_or_leaves_open_and_a_family_takes_back_what_it_called() -> None:
    assert decide_exact(0.049, better=True, alpha=0.05) == Verdict("real_gain")
    assert decide_exact(0.049, better=False, alpha=0.05) == Verdict("real_loss")
    assert decide_exact(0.05, better=True, alpha=0.05) == Verdict("not_settled", "too_wide")
    called: tuple[VerdictWord, ...] = ("real_gain", "real_loss")
    for word in called:
        assert block_by_family(Verdict(word), 0.05, 0.05) == Verdict("not_settled", "blocked_by_family")
        assert block_by_family(Verdict(word), 0.049, 0.05) == Verdict(word)
        assert block_by_family(Verdict(word), None, 0.05) == Verdict(word)
    assert block_by_family(Verdict("no_change"), 0.9, 0.05) == Verdict("no_change")
