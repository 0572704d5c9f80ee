"""Draws of gains and costs, the same for the same data."""

import hashlib
from collections.abc import Iterable, Sequence

import numpy as np
from numpy.typing import NDArray

from lynxbill.core.statistics.estimate import Estimate, t_quantile
from lynxbill.core.terms.measure import MOST_LOG
from lynxbill.core.terms.money import Booked

Floats = NDArray[np.float64]
SAMPLES = 20_000


def in_order(costs: Iterable[Booked]) -> list[Booked]:
    """
    Sort cost lines by their amounts, so that their order in a file changes no draw.

    Args:
        costs: cost lines in any order.
    """
    return sorted(costs, key=lambda line: (line.likely, line.low, line.high))


def seed_of(figures: Iterable[float], lines: Iterable[Booked]) -> int:
    """
    Make a seed from what is drawn from, so that the same data give the same figures everywhere.

    Args:
        figures, lines: in a canonical order.
    Returns: their SHA-256 as a number.
    """
    written = [float(figure).hex() for figure in figures]
    money = [f"{line.low:f}:{line.likely:f}:{line.high:f}" for line in lines]
    return int.from_bytes(hashlib.sha256("|".join(written + money).encode()).digest(), "big")


def draw_gains(generator: np.random.Generator, gain: Estimate) -> Floats:
    """
    Draw log gains: σ* = SE·√(ν/χ²_ν), d* = d + σ*·z.

    Where the anytime rule decided, whose interval is wider than t's, SE is scaled so that the draws have that
    interval.

    Args:
        generator: the source of chance, seeded by who asks.
        gain: estimate of the log gain with its SE and df.
    Returns: shape (DRAWS,), dimensionless.
    Source: docs/judgement.md, "Value".
    """
    se = gain.se
    if gain.basis == "anytime":
        se = (gain.high - gain.low) / 2 / t_quantile((1 + gain.level) / 2, gain.df)
    sd = se * np.sqrt(gain.df / generator.chisquare(gain.df, SAMPLES))
    drawn: Floats = gain.estimate + sd * generator.standard_normal(SAMPLES)
    return drawn


def in_percent(log_gains: Floats) -> Floats:
    """
    Turn log gains into percent.

    Args:
        log_gains: shape (n,); held at 700, for a guard interval on little scatter can draw past the largest number.
    """
    percents: Floats = 100 * np.expm1(np.minimum(log_gains, MOST_LOG))
    return percents


def draw_prices(generator: np.random.Generator, lines: Sequence[Booked]) -> Floats:
    """
    Draw net costs: certain lines as they are, uncertain ones triangular (low, likely, high).

    Args:
        generator: the source of chance, seeded by who asks.
        lines: booked amounts in the currency of account.
    Returns: shape (DRAWS,), in the currency of account.
    """
    prices = np.zeros(SAMPLES)
    for line in lines:
        low, likely, high = float(line.low), float(line.likely), float(line.high)
        prices += generator.triangular(low, likely, high, SAMPLES) if low < high else likely
    return prices
