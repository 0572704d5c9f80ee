"""The reckoning of a swap in words: what Bill shows, and the report with it."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass

from lynxbill.core.change.space import Room
from lynxbill.core.judgement.verdict import VerdictWord
from lynxbill.core.record.build import Build
from lynxbill.core.record.swap import ExplanationState, Swap
from lynxbill.core.result.result import Comparison, MeasureResult
from lynxbill.core.value.ladder_total import Whole
from lynxbill.core.value.payback import Payback
from lynxbill.core.value.reckoning import Reckoned, Reckoning
from lynxbill.words.base.figures import DecimalMark, counted, decimals_for, listed, shown, typed
from lynxbill.words.base.verdicts import VERDICTS
from lynxbill.words.money.account import WordedAccount, money, say_account
from lynxbill.words.money.bill import WordedOfBill, bought_in, say_bill
from lynxbill.words.money.options import WordedOption, say_better, say_option
from lynxbill.words.results.comparison import say_comparison
from lynxbill.words.results.context import say_limits
from lynxbill.words.results.results import say_result

_ROOM = {
    ("memory", "size_gb"): ("GB", "memory"),
    ("drive", "size_gb"): ("GB", "drive space"),
    ("drive", "lanes"): ("lane", "the drive’s link"),
    ("graphics", "lanes"): ("lane", "the graphics card’s link"),
    ("board", "memory_slots"): ("slot", "memory slots"),
}
# Words follow the state: what nobody tested is suspected, whatever its author is sure of.
CAUSES: Mapping[ExplanationState, str] = {
    "untested": "Suspected, not tested",
    "supported": "Supported by a test",
    "ruled out": "Ruled out by a test",
}
_WEEKS_A_YEAR = 52


@dataclass(frozen=True, slots=True)
class WordedClaim:
    """A row of what was bought."""

    measure: str
    name: str
    both: str
    change: str
    interval: str | None
    level: str
    value: str
    verdict: VerdictWord
    provisional: bool


@dataclass(frozen=True, slots=True)
class WordedStep:
    swap: str
    label: str
    net: str
    share: str


@dataclass(frozen=True, slots=True)
class WordedWhole:
    """The whole ladder: its first sentence, what each claim came to, and what each step made of the headline."""

    title: str
    sentence: str
    claims: tuple[WordedClaim, ...]
    steps: tuple[WordedStep, ...]
    shares_of: str | None
    with_machine: str | None


@dataclass(frozen=True, slots=True)
class WordedSetting:
    """What is said on one setting of the switches."""

    labour: bool
    years: int
    bill: WordedOfBill
    account: WordedAccount
    claims: tuple[WordedClaim, ...]
    options: tuple[WordedOption, ...]
    not_drawn: str | None
    whole: WordedWhole | None
    payback: str | None
    room: tuple[str, ...]


@dataclass(frozen=True, slots=True)
class WordedReckoning:
    """
    A reckoning in words.

    `head` stands beneath the first sentence: what was changed together, who gave a part, what got worse. `limits` say
    what holds the machine back now; `other_terms` what the net cost is on the other switches.
    """

    label: str
    lead: str | None
    lead_name: str | None
    to_judge: bool
    bundle: str | None
    losses: str | None
    no_loss: str | None
    overall: str | None
    unit_of_gain: str
    bought_in: str
    settings: tuple[WordedSetting, ...]
    other_terms: tuple[str, ...]
    better: tuple[str, ...]
    limits: tuple[str, ...]
    causes: tuple[str, ...]


def say_reckoning(
    reckoning: Reckoning,
    label: str,
    labels: Mapping[tuple[str, str], str],
    builds: Sequence[Build],
    mark: DecimalMark,
) -> WordedReckoning:
    """
    Put a reckoning into words.

    Args:
        label: what the swap is called.
        labels: of the other swaps, by the builds before and after.
        builds: all of the machine, in order.
    """
    comparison = reckoning.comparison
    worded = say_comparison(comparison, mark)
    lead = comparison.lead
    weighed = {option.label for option in reckoning.settings[0].options if option.chance is not None}

    def by(other: str) -> str | None:
        return lead.measure.name if lead is not None and {label, other} <= weighed else None

    return WordedReckoning(
        label=label,
        lead=lead.measure.id if lead is not None else None,
        lead_name=lead.measure.name if lead is not None else None,
        to_judge=lead is not None and not lead.is_given,
        bundle=worded.bundle,
        losses=worded.known_losses,
        no_loss=worded.known_no_loss,
        overall=_say_overall(comparison, worded.overall, mark),
        unit_of_gain="%" if lead is None or lead.measure.is_work else bought_in(lead.measure),
        bought_in=bought_in(lead.measure) if lead is not None else "",
        settings=tuple(_say_setting(one, comparison, label, builds, mark) for one in reckoning.settings),
        other_terms=_say_other_terms(reckoning.settings, mark),
        better=tuple(
            say_better(better, name := labels.get((other.before, other.after), "another swap"), mark, by(name))
            for other, better in reckoning.placing.others
            if lead is None or lead.is_given
        ),
        limits=_say_limits(comparison, mark),
        causes=_say_causes(reckoning.swaps),
    )


def _say_setting(
    one: Reckoned, comparison: Comparison, label: str, builds: Sequence[Build], mark: DecimalMark
) -> WordedSetting:
    lead = comparison.lead
    bill = say_bill(comparison, one.bill, label, mark)
    currency = one.bill.currency
    options = tuple(say_option(option, lead.measure if lead else None, currency, mark) for option in one.options)
    return WordedSetting(
        labour=one.terms.labour,
        years=one.terms.years,
        bill=bill,
        account=say_account(one.bill.account, mark),
        claims=_say_claims(comparison, bill, mark),
        options=options,
        not_drawn=_say_not_drawn(options),
        whole=_say_whole(one.whole, builds, mark) if one.whole is not None else None,
        payback=_say_payback(one.payback, mark) if one.payback is not None else None,
        room=tuple(_say_room(room, currency, mark) for room in one.room),
    )


def _say_not_drawn(options: Sequence[WordedOption]) -> str | None:
    """What the picture can't hold, and why: what is unknown is not drawn at nothing."""
    sentences = [
        f"“{option.label}”, {'cost not given' if option.cost == 'not given' else _no_gain(option)}"
        for option in options
        if option.point is None
    ]
    return f"Not in the picture: {'; '.join(sentences)}." if sentences else None


def _no_gain(option: WordedOption) -> str:
    return option.gain if option.gain == "does not fit" else f"gain {option.gain}"


def _say_claims(comparison: Comparison, bill: WordedOfBill, mark: DecimalMark) -> tuple[WordedClaim, ...]:
    """Every claim; what got worse before all else, then the headline."""
    claims = [result for result in comparison.measures if result.planned.role == "claim"]
    lead = comparison.lead
    ordered = sorted(claims, key=lambda r: (r.verdict.word != "real_loss" or not r.is_given, r is not lead))
    return tuple(_say_claim(result, bill, mark) for result in ordered)


def _say_claim(result: MeasureResult, bill: WordedOfBill, mark: DecimalMark) -> WordedClaim:
    worded = say_result(result, mark)
    saved = result.time_saved_percent
    time = "" if saved is None else f", {shown(abs(saved), 1, mark)} % {'less' if saved >= 0 else 'more'} time"
    faster = " speed" if saved is not None else ""
    return WordedClaim(
        measure=result.measure.id,
        name=result.measure.name,
        both=worded.both,
        change=f"{worded.change}{faster}{time}",
        interval=worded.interval if result.is_given else None,
        level=worded.level,
        value=bill.values.get(result.measure.id, "–"),
        verdict=result.verdict.word if result.is_given else "untested",
        provisional=result.provisional and result.is_given and result.verdict.word != "untested",
    )


def _say_overall(comparison: Comparison, sentence: str | None, mark: DecimalMark) -> str | None:
    """The overall with its parts and weights, last, and only where the plan gives weights."""
    overall = comparison.overall
    if sentence is None or overall is None or len(overall.measures) < 2:
        return None
    judged = [result for result in comparison.measures if result.measure.id in overall.measures]
    parts = [
        f"{result.measure.name} {say_result(result, mark).change} (weight {figure_of(result.planned.weight, mark)})"
        for result in judged
    ]
    given = overall.estimate is not None and not overall.waiting and all(result.is_given for result in judged)
    word = VERDICTS[overall.verdict.word].lower()
    verdict = f"a verdict of its own: {word}" if given else "a figure without a verdict yet"
    return (
        f"All work together: {sentence}, {verdict}. It is the weighted geometric mean of "
        f"{listed(parts)}; heat and noise stay out of it."
    )


def figure_of(weight: float | None, mark: DecimalMark) -> str:
    """Write a weight with no more digits than it was given with."""
    return f"{weight or 0:g}".replace(".", mark)


def _say_other_terms(settings: Sequence[Reckoned], mark: DecimalMark) -> tuple[str, ...]:
    """The net cost on the other settings of the switches, for whoever reads one of them."""
    return tuple(
        f"{_say_terms(one)}: {money(one.bill.net_cost, one.bill.currency, mark)}."
        for one in settings[1:]
        if one.bill.net_cost is not None
    )


def _say_terms(one: Reckoned) -> str:
    labour = "With labour" if one.terms.labour else "Without labour"
    # The switch is there for another swap of the machine: here no hour was given.
    if one.terms.labour and "labour" in one.bill.account.empty:
        labour = "With labour, of which none is given here"
    years = one.terms.years
    return f"{labour}, electricity over {counted(years, 'year')}" if years else labour


def _say_whole(whole: Whole, builds: Sequence[Build], mark: DecimalMark) -> WordedWhole:
    letters: dict[str, str] = {build.id: build.letter for build in builds}
    comparison, bill = whole.comparison, whole.bill
    way = f"{letters.get(comparison.before, '?')} to {letters.get(comparison.after, '?')}"
    lead = comparison.lead
    cost = "cost not given" if bill.net_cost is None else f"{money(bill.net_cost, bill.currency, mark)} net"
    worded = say_bill(comparison, bill, way, mark)
    steps = tuple(
        WordedStep(
            swap=step.swap,
            label=step.label,
            net="not given" if step.account.net is None else money(step.account.net, bill.currency, mark),
            share=_share(step.shares.get(lead.measure.id) if lead is not None else None),
        )
        for step in whole.steps
    )
    has_shares = lead is not None and any(lead.measure.id in step.shares for step in whole.steps)
    with_machine = whole.with_machine
    return WordedWhole(
        title=f"The whole ladder, {way}",
        sentence=worded.sentence if lead is not None else f"{way}: {cost}.",
        claims=_say_claims(comparison, worded, mark),
        steps=steps,
        shares_of=lead.measure.name if lead is not None and has_shares else None,
        with_machine=None
        if with_machine is None
        else f"With the machine’s own price: {money(with_machine, bill.currency, mark)}.",
    )


def _share(share: float | None) -> str:
    return "" if share is None else f"{shown(100 * share, 0)} %"


def _say_payback(payback: Payback, mark: DecimalMark) -> str:
    high = payback.high
    decimals = 0 if high is None else min(1, decimals_for((high - payback.low) / 2))
    weeks = f"{shown(payback.weeks, decimals, mark)} weeks"
    if high is None:
        ends = f"at least {shown(payback.low, decimals, mark)}"
    else:
        ends = f"{shown(payback.low, decimals, mark)} to {shown(high, decimals, mark)}"
    long = ", longer than many a machine is kept" if payback.weeks > 5 * _WEEKS_A_YEAR else ""
    return f"The time that it saves earns its cost back in about {weeks} ({ends}){long}."


def _say_room(room: Room, currency: str, mark: DecimalMark) -> str:
    unit, what = _ROOM[room.role, room.figure]
    plural = unit if unit == "GB" else f"{unit}s"
    gained = f"{typed(room.before, mark)} → {typed(room.after, mark)} {plural} of {what}"
    if unit != "GB":
        gained = f"{typed(room.before, mark)} → {typed(room.after, mark)} {plural}, {what}"
    return (
        gained if room.each is None else f"{gained}: {money(float(room.each), currency, mark)} for each {unit} more"
    )


def _say_limits(comparison: Comparison, mark: DecimalMark) -> tuple[str, ...]:
    """What holds the machine back now: ceilings that were reached, and how much of a job still waits for a part."""
    return tuple(
        f"{result.measure.name}: {line}"
        for result in comparison.measures
        if result.is_given
        for line in say_limits(result, comparison.shares, mark)
    )


def _say_causes(swaps: Sequence[Swap]) -> tuple[str, ...]:
    return tuple(
        f"{CAUSES[claim.state]}: {claim.text}" + (f" ({claim.grounds})" if claim.grounds else "")
        for swap in swaps
        for claim in swap.explanations
    )
