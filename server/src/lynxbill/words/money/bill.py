"""What a swap cost and what that bought, in words that go with the verdicts."""

from dataclasses import dataclass

from lynxbill.core.result.result import Comparison, MeasureResult
from lynxbill.core.terms.measure import Measure, difference_unit
from lynxbill.core.terms.quantity import unit_of
from lynxbill.core.value.bill import Bill
from lynxbill.core.value.value import Value
from lynxbill.words.base.figures import DecimalMark, decimals_for, percent, shown
from lynxbill.words.base.times import say_time
from lynxbill.words.money.account import money
from lynxbill.words.results.results import say_ratio

TOLD_LARGE = (
    "The gain only just stood out of the scatter, and such a gain may be told too large: another set of sittings "
    "gives a fair figure."
)
# So small a cost makes any ratio large: the plain pair says more.
_SMALL_COST = 10


@dataclass(frozen=True, slots=True)
class WordedOfBill:
    """
    A bill in words.

    `sentence` leads; `per_10` and `interval` are of the headline; `values` say by measure what each claim's gain
    cost, only of verdicts that Judge has given.
    """

    currency: str
    sentence: str
    per_10: str
    interval: str | None
    values: dict[str, str]
    hint: str | None


def say_bill(comparison: Comparison, bill: Bill, label: str, mark: DecimalMark) -> WordedOfBill:
    """Put the bill of a comparison into words; `label` names the swap."""
    lead = comparison.lead
    results: dict[str, MeasureResult] = {result.measure.id: result for result in comparison.measures}
    known = lead is None or lead.is_given
    return WordedOfBill(
        currency=bill.currency,
        sentence=_say_sentence(bill, lead, label, mark),
        per_10=say_per_10(bill.value, lead.measure if lead else None, mark) if known else "–",
        interval=_say_interval(bill.value, lead, mark) if known else None,
        values={
            measure: _say_value(value, results[measure], bill, mark) if results[measure].is_given else "–"
            for measure, value in bill.values.items()
            if measure in results
        },
        hint=_say_hints(bill, lead, mark) if known else None,
    )


def _say_sentence(bill: Bill, lead: MeasureResult | None, label: str, mark: DecimalMark) -> str:
    cost = (
        f"{label}: cost not given."
        if bill.net_cost is None
        else f"{label} cost {money(bill.net_cost, bill.currency, mark)} net."
    )
    if lead is None:
        return f"{cost} Nothing is measured yet."
    name = lead.measure.name
    if not lead.is_given:
        return f"{cost} {name} is complete: judge it, then this says what it bought."
    provisionally = ", provisionally" if lead.provisional else ""
    match lead.verdict.word:
        case "real_gain":
            return f"{label}: {_say_bought(lead, mark)}, real{provisionally}{_say_price(bill, lead, mark)}"
        case "real_loss":
            return f"{cost} {_say_bought(lead, mark)}, and the loss is real{provisionally}."
        case "no_change":
            return f"{cost} {name} did not change by an amount that matters{provisionally}: no gain to divide."
    if bill.value.note == "plan_incomplete":
        return f"{cost} The plan is not complete, so what it bought is not known yet."
    if lead.verdict.word == "not_settled":
        return f"{cost} Whether it bought anything is not settled: {_say_bought(lead, mark)} so far."
    return f"{cost} What it bought is not tested yet."


def _say_bought(lead: MeasureResult, mark: DecimalMark) -> str:
    """Say what was bought: "Tile rendering 1.34× as fast (25 % less time)"."""
    saved = lead.time_saved_percent
    time = "" if saved is None else f" ({say_time(saved, mark)})"
    return f"{lead.measure.name} {say_ratio(lead, mark)}{time}"


def _say_price(bill: Bill, lead: MeasureResult, mark: DecimalMark) -> str:
    """The price of what is real, from the comma on: ", for 94.90 EUR net: 3.6 % speed per 10 EUR (3.1 to 4.0)."."""
    net, value = bill.net_cost, bill.value
    if net is None:
        return ". Cost not given."
    cost = money(net, bill.currency, mark)
    if bill.account.unpaid and net <= 0:
        return f", for {cost} net. {_say_worth(bill, lead, mark)}".rstrip()
    if value.note == "pays_for_itself":
        return f", and it pays for itself: {cost} net."
    if value.note == "cost_nothing":
        return ", for nothing."
    if value.cost_per_item is not None:
        return f", for {cost} net: {money(value.cost_per_item, bill.currency, mark)} each."
    if value.gain_per_10 is None or net < _SMALL_COST:
        return f", for {cost} net."
    ends = f" ({sentence})" if (sentence := _ends(value, mark)) else ""
    return f", for {cost} net: {say_per_10(value, lead.measure, mark)} per 10 {bill.currency}{ends}."


def _say_hints(bill: Bill, lead: MeasureResult | None, mark: DecimalMark) -> str | None:
    """What to make of a figure: of one that so small a cost makes large, and of a gain that only just stood out."""
    hints = [_say_small_cost(bill, mark), TOLD_LARGE if lead is not None and lead.may_be_large else None]
    return " ".join(hint for hint in hints if hint) or None


def _say_small_cost(bill: Bill, mark: DecimalMark) -> str | None:
    net = bill.net_cost
    if net is None or bill.value.gain_per_10 is None or net >= _SMALL_COST:
        return None
    cost = money(net, bill.currency, mark)
    return f"So small a cost makes the figure per 10 large: read it as the sentence does, the change for {cost}."


def _say_worth(bill: Bill, lead: MeasureResult, mark: DecimalMark) -> str:
    """What it would have cost, had all been paid; nothing where no worth is given."""
    account, value = bill.account, bill.at_worth
    if account.at_worth is None or value is None:
        return ""
    cost = f"At the worth of what was not paid: {money(account.at_worth, bill.currency, mark)}"
    ends = f" ({sentence})" if (sentence := _ends(value, mark)) else ""
    if value.gain_per_10 is None:
        return f"{cost}."
    return f"{cost}, {say_per_10(value, lead.measure, mark)} per 10 {bill.currency}{ends}."


def say_per_10(value: Value, measure: Measure | None, mark: DecimalMark) -> str:
    """Improvement per 10 units of currency, or the words that stand in its place."""
    match value.note:
        case "pays_for_itself":
            return "pays for itself"
        case "cost_nothing":
            return "for nothing"
        case "no_change" | "loss" | "loss_that_pays":
            return "no gain to divide"
        case "not_settled" | "not_settled_at_most":
            return "not settled"
        case "no_costs":
            return "cost not given"
        case "no_ratio" if measure is not None and measure.scale == "ordinal":
            return "felt steps have no price"
        case "untested" | "plan_incomplete" | "no_ratio":
            return "–"
    if value.gain_per_10 is None or measure is None:
        return "–"
    return f"{shown(value.gain_per_10, _decimals(value), mark)} {bought_in(measure)}"


def _say_value(value: Value, result: MeasureResult, bill: Bill, mark: DecimalMark) -> str:
    """What one claim's gain cost, in a table: "3.6 % speed (3.1 to 4.0)", "4.75 EUR each"."""
    if value.cost_per_item is not None:
        return f"{money(value.cost_per_item, bill.currency, mark)} each"
    if value.note == "not_settled_at_most" and value.high is not None:
        return f"not settled; at most {shown(value.high, _decimals(value), mark)} {bought_in(result.measure)}"
    ends = _ends(value, mark)
    sentence = say_per_10(value, result.measure, mark)
    return f"{sentence} ({ends})" if ends and value.gain_per_10 is not None else sentence


def _say_interval(value: Value, lead: MeasureResult | None, mark: DecimalMark) -> str | None:
    if value.low is None:
        return None
    ends = _ends(value, mark)
    if value.high is None or ends is None:
        return f"at least {shown(value.low, _decimals(value), mark)}"
    return f"{percent(0.95 if lead is None or lead.level is None else lead.level)} interval {ends}"


def _ends(value: Value, mark: DecimalMark) -> str | None:
    if value.low is None:
        return None
    if value.high is None:
        return f"at least {shown(value.low, _decimals(value), mark)}"
    return f"{shown(value.low, _decimals(value), mark)} to {shown(value.high, _decimals(value), mark)}"


def _decimals(value: Value) -> int:
    if value.low is None or value.high is None:
        return 2
    return min(3, decimals_for((value.high - value.low) / 2))


def bought_in(measure: Measure) -> str:
    """What is bought by the unit of money: "% speed", "% score", "K", "dB(A)", "more that pass"."""
    if measure.is_work:
        return "% score" if measure.kind == "score" else "% speed"
    if measure.scale == "outcome":
        return "more that pass"
    return unit_of(difference_unit(measure)).display
