"""The bill: what the swaps between two builds cost net, and what that bought."""

from collections.abc import Sequence
from decimal import Decimal

from lynxbill.core.case import BuildId, Case, Swap
from lynxbill.core.money import Booked, book, net_cost
from lynxbill.core.result import Bill, MeasureResult
from lynxbill.core.value import Value, no_value, value_of

# Felt steps and outcomes are counts, and power, clocks and fans buy nothing by the percent.
_DIVIDED_AS_THEY_ARE = ("difference", "level")


def make_bill(
    case: Case, before: BuildId, after: BuildId, lead: MeasureResult | None, results: Sequence[MeasureResult] = ()
) -> Bill:
    """
    Account for the swaps that lead from one build to the other, by the claim that leads their comparison.

    Args:
        before, after: build ids.
        lead: the leading claim's result; what the bill says never goes against its verdict.
        results: all of the comparison; every claim of them gets a value of its own.
    Returns: their net cost in the currency of account and the value of the gain; no cost where no chain of swaps
        leads from one to the other, or one of them has no cost lines: what is not given is not nothing.
    Raises:
        RateMissing: a cost line in a foreign currency without a rate.
    """
    currency = case.machine.currency
    swaps = swaps_between(case, before, after)
    given = bool(swaps) and all(swap.costs for swap in swaps or ())
    lines = [line for swap in swaps or () for line in swap.costs]
    booked = [book(line, currency) for line in lines]
    net = net_cost(lines, currency) if given else None
    claims = [result for result in results if result.planned.role == "claim"]
    values: dict[str, Value] = {claim.measure.id: _value(claim, booked, net) for claim in claims}
    known = values.get(lead.measure.id) if lead is not None else None
    return Bill(net, currency, known or _value(lead, booked, net), values)


def _value(lead: MeasureResult | None, costs: list[Booked], net: Decimal | None) -> Value:
    if lead is None or lead.waits:
        return no_value("plan_incomplete" if lead else "untested")
    match lead.verdict.word:
        case "untested":
            return no_value("untested")
        case "no_change":
            return no_value("no_change")
        case "real_loss":
            return no_value("loss_that_pays" if net is not None and net < 0 else "loss")
        case "real_gain" | "not_settled" as word:
            proven = word == "real_gain"
    if net is None:
        return no_value("no_costs" if proven else "not_settled")
    if proven and net > 0 and (items := _items_gained(lead)) is not None:
        return Value(None, None, None, "no_ratio", float(net) / items)
    divided = lead.measure.is_work or lead.measure.scale in _DIVIDED_AS_THEY_ARE
    if lead.interval is None or not divided or (net <= 0 and not proven):
        return no_value("no_ratio" if proven else "not_settled")
    return value_of(lead.interval, costs, net, percent=lead.measure.is_work, proven=proven)


def _items_gained(result: MeasureResult) -> float | None:
    """How many more of a set pass in a run; None of what tries one thing alone."""
    if result.measure.scale != "outcome" or result.measure.of is None:
        return None
    before, after = result.before_mean, result.after_mean
    return after - before if before is not None and after is not None and after > before else None


def swaps_between(case: Case, before: BuildId, after: BuildId) -> tuple[Swap, ...] | None:
    """
    Follow the swaps that lead from one build to the other, oldest first.

    Returns: None where no chain leads there.
    """
    chain: list[Swap] = []
    here = after
    while here != before:
        swap = case.step_into(before, here)
        if swap is None or swap in chain:
            return None
        chain.insert(0, swap)
        here = swap.before
    return tuple(chain)
