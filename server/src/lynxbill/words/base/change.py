"""How a change is said: "+34.1 %", "20 % less power", "4.6 K hotter", and between which ends it lies."""

import math
from dataclasses import dataclass

from lynxbill.core.terms.measure import Kind, Measure, difference_unit, gain_percent
from lynxbill.core.terms.quantity import unit_of
from lynxbill.words.base.figures import DecimalMark, decimals_for, decimals_of, shown, signed_percent

# Less and more of a reading; of no other kind can be said what more of it is.
_LESS_MORE: dict[Kind, tuple[str, str]] = {
    "heat": ("cooler", "hotter"),
    "noise": ("quieter", "louder"),
    "power": ("less power", "more power"),
    "clock": ("lower clock", "higher clock"),
    "fan": ("slower fan", "faster fan"),
    "gauge": ("lower", "higher"),
    "rank": ("lower", "higher"),
    "amount": ("less", "more"),
}
# A share of a quantity that is no temperature and no level is neither hotter nor louder.
_NO_SHARES: frozenset[Kind] = frozenset({"heat", "noise"})


def less_or_more(measure: Measure, *, more: bool) -> str:
    """Say that there is less or more of what a measure reads: "cooler", "more power", "less"."""
    bare = measure.scale == "ratio" and measure.kind in _NO_SHARES
    return ("less", "more")[more] if bare else _LESS_MORE.get(measure.kind, ("less", "more"))[more]


@dataclass(frozen=True, slots=True)
class Change:
    """
    An oriented difference with the ends of its interval, to be said; `low` and `high` are None without an interval.

    For `ratio` all three are logarithms, else in the measure's unit; so is `step`, the resolution of the readings
    (None: not known).
    """

    measure: Measure
    estimate: float
    low: float | None = None
    high: float | None = None
    mark: DecimalMark = "."
    step: float | None = None

    @property
    def is_times(self) -> bool:
        """Whether it is said as percent of speed: of work alone, of whatever else is only more or less."""
        return self.measure.scale == "ratio" and self.measure.is_work

    @property
    def decimals(self) -> int:
        """As many as two digits of the interval's half-width deserve, and one finer than was read at most."""
        half = None if self._ends is None else (self._ends[1] - self._ends[0]) / 2
        most = 6 if self.measure.scale != "ratio" else 2 if half is not None else 1
        read = None if self.step is None else self.step * (100 if self.measure.scale == "ratio" else 1)
        if read is not None and read > 0:
            most = min(most, max(0, math.ceil(-math.log10(read))) + 1)
        return min(most, decimals_for(half))

    @property
    def _ends(self) -> tuple[float, float] | None:
        """Both ends as they are said, the smaller first."""
        if self.low is None or self.high is None:
            return None
        low, high = sorted((self._as_written(self.low), self._as_written(self.high)))
        return low, high

    def _as_written(self, oriented: float) -> float:
        if self.measure.scale != "ratio":
            return oriented
        if self.measure.is_work:
            return gain_percent(oriented)
        # Percent of what it was; positive is more of it, whichever way is better.
        return 100 * math.expm1(oriented if self.measure.better == "higher" else -oriented)

    def say(self) -> str:
        """Say the change; what rounds to nothing is neither better nor worse."""
        value = self._as_written(self.estimate)
        if self.is_times:
            return signed_percent(value, self.decimals, self.mark)
        size = shown(abs(value), self.decimals, self.mark)
        if not any(digit in size for digit in "123456789"):
            return "alike"
        if self.measure.scale == "ratio":
            return f"{size} % {less_or_more(self.measure, more=value > 0)}"
        return f"{in_units(size, self.measure)} {self._way(value)}"

    def say_interval(self) -> str | None:
        """Say between which ends it lies; None without an interval."""
        if self._ends is None:
            return None
        low, high = self._ends
        if self.is_times:
            first = signed_percent(low, self.decimals, self.mark, unit="")
            return f"{first} to {signed_percent(high, self.decimals, self.mark)}"
        if low < 0 < high:
            return f"{self._one(low)} to {self._one(high)}"
        near, far = (low, high) if low >= 0 else (high, low)
        return f"{shown(abs(near), self.decimals, self.mark)} to {self._one(far)}"

    def _one(self, value: float) -> str:
        size = shown(abs(value), self.decimals, self.mark)
        if self.measure.scale == "ratio":
            return f"{size} % {less_or_more(self.measure, more=value > 0)}"
        return f"{in_units(size, self.measure)} {self._way(value)}"

    def _way(self, oriented: float) -> str:
        measure, is_better = self.measure, oriented >= 0
        if measure.kind not in _LESS_MORE:
            return "better" if is_better else "worse"
        return less_or_more(measure, more=is_better == (measure.better == "higher"))


def amount(value: float, measure: Measure, mark: DecimalMark) -> str:
    """
    Write the size of a difference with its unit, to two significant digits.

    Args:
        value: in percent for `ratio`, else in the measure's unit.
    """
    return in_units(shown(abs(value), min(6, decimals_of(value, digits=2)), mark), measure)


def in_units(size: str, measure: Measure) -> str:
    """Write a difference with its unit; steps of a scale have no other."""
    unit = "steps" if measure.scale == "ordinal" else unit_of(difference_unit(measure)).display
    return f"{size} {unit}".rstrip()
