"""How finely readings were read: what all of them are multiples of."""

import math
from collections.abc import Iterable
from dataclasses import dataclass
from fractions import Fraction
from functools import lru_cache

from lynxbill.core.terms.measure import Measure

# From so many readings on, what they have in common is no accident.
ENOUGH = 6
# As many different readings are kept as it takes to know that there are more than two.
_MANY = 3
# Whole readings of which no more than two differ say little: they are taken for no coarser than this.
_COARSEST_OF_FEW = 10.0
_USUAL = (Fraction(5), Fraction(5, 2), Fraction(2), Fraction(5, 4), Fraction(1))


@dataclass(frozen=True, slots=True)
class Grain:
    """
    What readings in one unit have in common, in decimal arithmetic.

    `count` is how many of them are not zero; 10^`place` is the smallest decimal place seen (1 for whole numbers),
    `divisor`, in these, the largest number that all are multiples of (0: all are zero). `some` are up to three that
    differ.
    """

    count: int = 0
    place: int = 0
    divisor: int = 0
    some: tuple[float, ...] = ()

    def joined(self, other: "Grain") -> "Grain":
        """Put the readings of both together."""
        place = min(self.place, other.place)
        ours, theirs = (one.divisor * 10 ** (one.place - place) for one in (self, other))
        some = tuple(dict.fromkeys((*self.some, *other.some)))[:_MANY]
        return Grain(self.count + other.count, place, math.gcd(ours, theirs), some)

    @property
    def step(self) -> float:
        """
        How far two readings lie apart at least, in their unit.

        From six readings on it is the largest usual step (1, 1.25, 2, 2.5 or 5 times a power of ten) that all are
        multiples of; below, the smallest decimal place seen.
        Source: docs/judgement.md, "From readings to units".
        """
        if self.count < ENOUGH:
            return float(f"1e{self.place}")
        step = float(_largest_usual(self.divisor) * Fraction(10) ** self.place)
        return min(step, _COARSEST_OF_FEW) if self.place == 0 and len(self.some) < _MANY else step


NO_GRAIN = Grain()


def grain_of(values: Iterable[float]) -> Grain:
    """
    Find what readings have in common.

    Args:
        values: in one unit, as they were read.
    """
    count, place, divisor, some = 0, 0, 0, dict[float, None]()
    for value in values:
        if len(some) < _MANY:
            some.setdefault(value)
        if value == 0:
            continue
        count += 1
        digits, exponent = _digits(value)
        if exponent < place:
            divisor, place = divisor * 10 ** (place - exponent), exponent
        divisor = math.gcd(divisor, digits * 10 ** (exponent - place))
    return Grain(count, place, divisor, tuple(some))


@lru_cache(maxsize=65_536)
def _digits(value: float) -> tuple[int, int]:
    """A reading as a whole number of its smallest decimal places, at most of ones; shape (digits, exponent)."""
    if value == int(value):
        return abs(int(value)), 0
    written = repr(float(value)).lstrip("-")
    mantissa, _, power = written.partition("e")
    whole, _, decimals = mantissa.partition(".")
    return int(whole + decimals), int(power or 0) - len(decimals)


@lru_cache(maxsize=4096)
def _largest_usual(whole: int) -> Fraction:
    """The largest usual step that a whole number above zero is a multiple of."""
    power = Fraction(10) ** (len(str(whole)) - 1)
    while True:
        for usual in _USUAL:
            if (whole / (usual * power)).denominator == 1:
                return usual * power
        power /= 10


def resolution(grain: Grain, mean: float, measure: Measure) -> float:
    """
    Find the smallest difference that readings could show, on the scale of judgement.

    Args:
        grain: what they have in common; mean: of them, oriented, on that scale.
    Returns: how finely they were read, never finer than the measure's own step; for `ratio` divided by the geometric
        mean of the readings.
    Source: docs/judgement.md, "From readings to units".
    """
    step = max(measure.step or 0.0, grain.step)
    if measure.scale != "ratio":
        return step
    return step / math.exp(mean if measure.better == "higher" else -mean)
