"""Ways to spend money on a machine, in words: one row each, as the picture beside them shows it."""

from collections.abc import Callable
from dataclasses import dataclass
from decimal import Decimal

from lynxbill.core.judgement.verdict import VerdictWord
from lynxbill.core.terms.measure import Measure, difference_unit
from lynxbill.core.terms.quantity import unit_of
from lynxbill.core.value.alternatives import Option, OptionKind
from lynxbill.core.value.better import Better, BetterNote
from lynxbill.words.base.figures import DecimalMark, decimals_for, shown, signed_percent
from lynxbill.words.money.account import BASES, bare
from lynxbill.words.money.bill import bought_in, say_per_10
from lynxbill.words.results.results import change_of, say_passed


@dataclass(frozen=True, slots=True)
class WordedOption:
    """One row; `point` is where the picture draws it, None where its cost or gain is not known."""

    kind: OptionKind
    id: str | None
    label: str
    verdict: VerdictWord | None
    provisional: bool
    is_expected: bool
    cost: str
    cost_range: str | None
    gain: str
    gain_range: str | None
    value: str
    chance: str
    extra: str
    expected: str | None
    basis: str | None
    point: "Point | None"


@dataclass(frozen=True, slots=True)
class Point:
    """Where an option stands in the picture: net cost across, gain up, each with its ends where it has some."""

    cost: float
    cost_low: float | None
    cost_high: float | None
    gain: float
    low: float | None
    high: float | None


def say_option(option: Option, measure: Measure | None, currency: str, mark: DecimalMark) -> WordedOption:
    """Put one way to spend money into words."""
    say = _gains_of(measure, mark)
    ends = (option.low, option.high)
    decimals = 1 if None in ends else min(2, decimals_for(abs((option.high or 0) - (option.low or 0)) / 2))
    known = option.gain is not None and not option.waits
    value = option.value
    return WordedOption(
        kind=option.kind,
        id=option.id,
        label=option.label,
        verdict=option.verdict,
        provisional=option.provisional,
        is_expected=option.kind == "candidate",
        cost="not given" if option.cost is None else bare(option.cost, mark),
        cost_range=None
        if option.cost_low is None or option.cost_high is None
        else f"{bare(option.cost_low, mark)} to {bare(option.cost_high, mark)}",
        gain=_say_gain(option, say, decimals, mark),
        gain_range=_say_range(option, measure, decimals, mark) if known else None,
        value=_say_value(option, measure, mark),
        chance="–" if option.chance is None else _chance(option.chance, mark),
        extra=_say_extra(option, mark),
        expected=None if option.expected is None else signed_percent(option.expected, 0, mark),
        basis=BASES[option.basis] if option.basis is not None else None,
        point=_point(option, known and value.note != "plan_incomplete"),
    )


def _point(option: Option, known: bool) -> Point | None:
    if option.cost is None or option.gain is None or not known:
        return None
    low, high = (None if end is None else float(end) for end in (option.cost_low, option.cost_high))
    return Point(float(option.cost), low, high, option.gain, option.low, option.high)


def _gains_of(measure: Measure | None, mark: DecimalMark) -> Callable[[float | None, int], str]:
    def say(gain: float | None, decimals: int) -> str:
        if gain is None or measure is None:
            return "–"
        if measure.is_work:
            return signed_percent(gain, decimals, mark)
        sign = "+" if gain > 0 else ""
        return f"{sign}{shown(gain, decimals, mark)} {unit_of(difference_unit(measure)).display}"

    return say


def _say_gain(option: Option, say: Callable[[float | None, int], str], decimals: int, mark: DecimalMark) -> str:
    if option.kind == "nothing":
        return "none"
    if not option.fits:
        return "does not fit"
    if option.verdict == "untested" and option.waits:
        return "judge it first"
    if option.verdict == "untested" or option.gain is None:
        return "not tested" if option.kind == "swap" else "not known"
    if option.result is not None and (passed := say_passed(option.result)) is not None:
        return passed
    change = change_of(option.result, mark) if option.result is not None else None
    return change.say() if change is not None else say(option.gain, decimals)


def _say_value(option: Option, measure: Measure | None, mark: DecimalMark) -> str:
    if option.kind == "nothing" or measure is None:
        return "–"
    if option.kind == "candidate":
        per_10 = option.value.gain_per_10
        return "–" if per_10 is None else shown(per_10, 2, mark)
    if option.value.cost_per_item is not None:
        return f"{bare(Decimal(f'{option.value.cost_per_item:.2f}'), mark)} each"
    # The head of the column names what is bought.
    return say_per_10(option.value, measure, mark).removesuffix(f" {bought_in(measure)}")


def _say_extra(option: Option, mark: DecimalMark) -> str:
    if option.outdone:
        return "cheaper gives more"
    return "–" if option.extra_per_10 is None else shown(option.extra_per_10, 2, mark)


def _say_range(option: Option, measure: Measure | None, decimals: int, mark: DecimalMark) -> str | None:
    is_counted = measure is not None and measure.scale == "outcome"
    if option.result is not None and not is_counted:
        change = change_of(option.result, mark)
        return change.say_interval() if change is not None else None
    if option.low is None or option.high is None:
        return None
    if measure is not None and measure.is_work:
        low, high = (signed_percent(end, decimals, mark, unit="") for end in (option.low, option.high))
    else:
        low, high = (shown(end, decimals, mark) for end in (option.low, option.high))
    return f"{low} to {high}"


def _chance(chance: float, mark: DecimalMark) -> str:
    if chance > 0.999:
        return "over 99.9 %".replace(".", mark)
    return f"{shown(100 * chance, 1 if chance > 0.99 else 0, mark)} %" if chance >= 0.01 else "under 1 %"


def say_better(better: Better, other: str, mark: DecimalMark, by: str | None = None) -> str:
    """
    Say how surely a swap bought more for its money than another one; a sentence.

    Args:
        by: the measure by which both are weighed beside each other all the same; None: they are not.
    """
    name = f"“{other}”"
    if better.probability is None:
        why = _NOT_WEIGHED[better.note or "no_interval"]
        alone = f" By {by} alone they are weighed in the table, under “buys most”." if by is not None else ""
        return f"Against {name} as wholes: {why}{alone}" if alone else f"Against {name}: {why}"
    if better.winner == "first":
        return f"Better value than {name}, {_sure(better.probability, mark)} sure."
    if better.winner == "second":
        return f"Worse value than {name}, {_sure(1 - better.probability, mark)} sure."
    return f"Against {name} it is not settled which was better value: {_sure(better.probability, mark)} for this one."


def _sure(p: float, mark: DecimalMark) -> str:
    return f"more than 99{mark}9 %" if p > 0.999 else f"{shown(100 * p, 1 if p > 0.99 else 0, mark)} %"


_NOT_WEIGHED: dict[BetterNote, str] = {
    "untested": "the gain of one of them is not tested, so their values can’t be weighed.",
    "plan_incomplete": "the plan of one of them is not complete, so their values can’t be weighed yet.",
    "no_costs": "the cost of one of them is not given, so their values can’t be weighed.",
    "no_gain": "one of them has no real gain in its headline, so there is no value to weigh.",
    "not_divisible": "felt steps and things that pass are counted, so no share of them has a price.",
    "other_work": "they were judged by different work, so their values can’t be weighed.",
    "both_pay_for_themselves": "both pay for themselves.",
    "no_interval": "one of them may both lose and earn, so their values can’t be weighed.",
}
