"""What a plan could show, in words."""

from dataclasses import dataclass

from lynxbill.core.plan.planning import Strength
from lynxbill.core.terms.measure import Measure
from lynxbill.words.base.change import amount
from lynxbill.words.base.figures import DecimalMark, shown

# A plan is asked for what it finds in so many of ten jobs.
_POWER = 0.8


@dataclass(frozen=True, slots=True)
class WordedStrength:
    """The smallest change that a plan could show, and more sittings could; `two_looks` where it may look twice."""

    detectable: str
    with_three: str
    with_four: str
    with_five: str
    target: str
    two_looks: str | None


def say_strength(strength: Strength, measure: Measure, at_most: int | None, mark: DecimalMark) -> WordedStrength:
    """Put the strength of a plan into words; `at_most` are the sittings a side of its second look."""
    detectable = amount(strength.detectable, measure, mark)
    first = shown(100 * strength.after_first / _POWER, 0, mark)
    two_looks = (
        None
        if at_most is None
        else f"A gain from {detectable} on is found in 8 of 10 jobs: {first} of 100 of those after "
        f"{strength.sittings_a_side} sittings a side, the rest after up to {at_most}."
    )
    found = (strength.with_three, strength.with_four, strength.with_five, strength.target)
    three, four, five, target = (amount(value, measure, mark) for value in found)
    return WordedStrength(detectable, three, four, five, target, two_looks)
