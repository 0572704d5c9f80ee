"""Scatter of groups around their own means, pooled; every rule that needs one asks here."""

import math
from collections.abc import Iterable, Sequence
from dataclasses import dataclass


@dataclass(frozen=True, slots=True)
class Scatter:
    """
    Scatter around each group's own mean, pooled over groups.

    `squares` is the sum of squares and `df` its degrees of freedom; `size` counts the values of the groups that can
    tell (two or more); `rounding` is the variance that the rounding of a value has, q²/12 of one reading.
    """

    squares: float = 0.0
    df: int = 0
    rounding: float = 0.0
    size: int = 0

    @property
    def variance(self) -> float:
        """
        The pooled variance, on the squared scale of the values; df above 0.

        It never falls below the variance of rounding: identical readings do not prove that nothing scatters.
        Source: docs/judgement.md, "Estimate and interval".
        """
        return max(self.squares / self.df, self.rounding)

    @property
    def sd(self) -> float:
        """Root of the pooled variance; df above 0."""
        return math.sqrt(self.variance)

    def joined(self, other: "Scatter") -> "Scatter":
        """Pool the scatter of other groups with this one, by the coarser rounding of both."""
        rounding = max(self.rounding, other.rounding)
        return Scatter(self.squares + other.squares, self.df + other.df, rounding, self.size + other.size)


NO_SCATTER = Scatter()


@dataclass(frozen=True, slots=True)
class Noise:
    """
    Scatter of sitting units around their own build's mean, on the scale of judgement, from `sittings` sittings.

    `coarse` is the variance of a mean that is rounding which all its sittings share; more of them don't average it
    away.
    """

    sd: float
    df: int
    sittings: int
    coarse: float = 0.0

    def se(self, size: float, *, raised: float = 1.0) -> float:
        """
        Standard error of a difference of two means, on the scale of judgement.

        Args:
            size: k_b·k_a/(k_b + k_a), or the number of pairs; raised: how many times the scatter is taken.
        Source: docs/judgement.md, "Estimate and interval".
        """
        return math.sqrt((raised * self.sd) ** 2 / size + 2 * self.coarse)


def pool(groups: Iterable[Sequence[float]], *, step: float = 0.0, readings: int = 1) -> Scatter:
    """
    Pool the scatter of groups of values, each around its own mean.

    Args:
        groups: values on one scale; a group of fewer than two says nothing.
        step: resolution q of the readings behind the values, on the same scale, at least 0.
        readings: how many readings each value is a difference or sum of.
    Returns: no degrees of freedom where no group can tell.
    """
    telling = [group for group in groups if len(group) >= 2]
    size = sum(map(len, telling))
    return Scatter(math.fsum(map(squares_around_mean, telling)), size - len(telling), readings * step**2 / 12, size)


def shared_rounding(variance: float, step: float) -> float:
    """
    Say how much of the variance of a mean is rounding that all its values share, so that more don't average it away.

    Args:
        variance: of single values, after its floor; step: their resolution q.
    Returns: q²/12 where q² is as large as the variance, else 0.
    Source: docs/judgement.md, "Estimate and interval".
    """
    return step**2 / 12 if step > 0 and step**2 >= variance else 0.0


# Exact summation: the order in which runs stand in a file must not move the last digit of a result.
def mean_of(values: Sequence[float]) -> float:
    """
    Average values on any scale; at least one.

    Args:
        values: shape (n,), n >= 1.
    Returns: exactly rounded, whatever their order.
    """
    return math.fsum(values) / len(values)


def squares_around_mean(values: Sequence[float]) -> float:
    """
    Sum the squares of values around their mean.

    Args:
        values: at least one.
    Returns: on the squared scale of the values, exactly summed, whatever their order.
    """
    mean = mean_of(values)
    gaps = [value - mean for value in values]
    return math.fsum([gap * gap for gap in gaps])
