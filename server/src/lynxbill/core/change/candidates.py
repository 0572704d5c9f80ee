"""Candidates before buying: which would bring most for its price, and what came of the one that was bought."""

from dataclasses import dataclass

from lynxbill.core.change.fit import Fit, check_fit
from lynxbill.core.record.build import Candidate
from lynxbill.core.record.frame import Case


@dataclass(frozen=True, slots=True)
class Ranked:
    """
    A candidate in its place; `expected_per_10` is percent for 10 units of the currency of account.

    None where price or expectation is unknown, the price is zero, or the candidate does not fit: what can't go in
    brings nothing for its price.
    """

    candidate: Candidate
    fit: Fit
    expected_per_10: float | None


def rank_candidates(case: Case) -> tuple[Ranked, ...]:
    """
    Rank a machine's candidates, but for those set aside, by the gain expected for 10 units of currency.

    Args:
        case: the machine, its candidates and runs; gains in %, prices in its currency.
    Returns: most first; those that do not fit after those that may, and those without a ratio last of each.
    """
    fits = [(candidate, check_fit(candidate, case.machine, case.fitted)) for candidate in case.weighed]
    ranked = [
        Ranked(candidate, fit, None if fit.word == "does not fit" else expected_per_10(candidate))
        for candidate, fit in fits
    ]
    return tuple(sorted(ranked, key=_place))


def expected_per_10(candidate: Candidate) -> float | None:
    """
    Divide a candidate's expected gain by its price.

    Args:
        candidate: its expected gain in % and its price in its currency, both > 0 where given.
    Returns: percent for 10 units of currency; None without a price above zero and an expectation.
    """
    if candidate.price is None or candidate.expected_gain is None or candidate.price <= 0:
        return None
    return 10 * candidate.expected_gain / float(candidate.price)


def _place(ranked: Ranked) -> tuple[bool, bool, float]:
    ratio = ranked.expected_per_10
    return ranked.fit.word == "does not fit", ratio is None, -(ratio or 0.0)
