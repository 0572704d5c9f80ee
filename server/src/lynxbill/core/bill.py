"""The bill: what the swaps between two builds cost net, and what that bought."""

from dataclasses import dataclass
from decimal import Decimal

from lynxbill.core.case import Case, Swap
from lynxbill.core.money import book, net_cost
from lynxbill.core.overall import Overall
from lynxbill.core.value import Value, value_of


@dataclass(frozen=True, slots=True)
class Bill:
    """Net cost of the swaps between two builds and what 10 units of currency bought; None without a swap."""

    net_cost: Decimal | None
    currency: str
    value: Value


def make_bill(case: Case, before: str, after: str, overall: Overall | None) -> Bill:
    """
    Account for the swaps that lead from one build to the other.

    Args:
        before, after: build ids.
        overall: the overall gain between them, if any work was measured on both.
    Returns: their net cost in the currency of account and the value of the gain; no cost where no chain of
        swaps leads from one to the other.
    Raises:
        RateMissing: a cost line in a foreign currency without a rate.
    """
    currency = case.machine.currency
    swaps = swaps_between(case, before, after)
    lines = [line for swap in swaps or () for line in swap.costs]
    if swaps is None:
        return Bill(None, currency, Value(None, None, None, "no_costs"))
    net = net_cost(lines, currency)
    if overall is not None and overall.waiting:
        return Bill(net, currency, Value(None, None, None, "plan_incomplete"))
    if overall is None or overall.estimate is None:
        return Bill(net, currency, Value(None, None, None, "untested"))
    if not lines:
        return Bill(net, currency, Value(None, None, None, "no_costs"))
    return Bill(net, currency, value_of(overall.estimate, [book(line, currency) for line in lines], net))


def swaps_between(case: Case, before: str, after: str) -> tuple[Swap, ...] | None:
    """
    Follow the swaps that lead from one build to the other, oldest first.

    Returns: None where no chain leads there.
    """
    chain: list[Swap] = []
    here = after
    while here != before:
        swap = case.swap_between(before, here)
        if swap is None or swap in chain:
            return None
        chain.insert(0, swap)
        here = swap.before
    return tuple(chain)
