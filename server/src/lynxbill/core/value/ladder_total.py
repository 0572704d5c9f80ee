"""The whole ladder: what all swaps up to the build that stands cost and brought, and the share of each step."""

from collections.abc import Mapping
from dataclasses import dataclass
from decimal import Decimal

from lynxbill.core.record.frame import Frame
from lynxbill.core.record.ids import BuildId, SwapId
from lynxbill.core.record.swap import Swap
from lynxbill.core.result.result import Comparison, MeasureResult
from lynxbill.core.terms.money import round_money
from lynxbill.core.value.account import Account, Terms
from lynxbill.core.value.bill import Bill, bill_of


@dataclass(frozen=True, slots=True)
class WholeStep:
    """
    One swap on the way; `shares` say by measure which share of the whole change it made (0.4: 40 %).

    A measure that the step or the whole lacks has no share: what was not measured is not nothing.
    """

    swap: SwapId
    label: str
    account: Account
    shares: Mapping[str, float]


@dataclass(frozen=True, slots=True)
class Whole:
    """
    All swaps from the first build to the one that stands, judged as one.

    `comparison` is of these two builds; `with_machine` the net cost with the machine's own price, None where that or
    the cost is not given.
    """

    comparison: Comparison
    bill: Bill
    steps: tuple[WholeStep, ...]
    with_machine: Decimal | None


def whole_chain(frame: Frame) -> tuple[BuildId, BuildId, tuple[Swap, ...]] | None:
    """
    Find the swaps that lead from the first build to the standing one.

    Args:
        frame: the machine without its runs.
    Returns: both builds and the chain; None where fewer than two swaps lead there, for then one bill says all.
    """
    fitted = frame.fitted
    if fitted is None or not frame.builds or fitted.id == frame.builds[0].id:
        return None
    first = frame.builds[0].id
    chain = frame.swaps_between(first, fitted.id)
    return (first, fitted.id, chain) if chain is not None and len(chain) > 1 else None


def make_whole(
    frame: Frame, chain: tuple[Swap, ...], whole: Comparison, steps: Mapping[str, Comparison], terms: Terms
) -> Whole:
    """
    Make up the account of the whole ladder.

    Args:
        chain: the swaps on the way, oldest first.
        whole: the comparison of its first and last build.
        steps: that of each swap, by swap id.
        terms: which lines are in the sums.
    Raises:
        RateMissing: a cost line in a foreign currency without a rate.
    """
    bill = bill_of(frame, whole, terms)
    made = tuple(
        WholeStep(swap.id, swap.label, bill_of(frame, steps[swap.id], terms).account, _shares(steps[swap.id], whole))
        for swap in chain
        if swap.id in steps
    )
    net, price = bill.net_cost, frame.machine.price
    with_machine = round_money(net + price, bill.currency) if net is not None and price is not None else None
    return Whole(whole, bill, made, with_machine)


def _shares(step: Comparison, whole: Comparison) -> dict[str, float]:
    parts = {result.measure.id: result for result in step.measures}
    return {
        total.measure.id: share
        for total in whole.measures
        if (share := _share(parts.get(total.measure.id), total)) is not None
    }


def _share(step: MeasureResult | None, total: MeasureResult) -> float | None:
    """On the scale of judgement, where the steps of a way add up to the whole; of settled changes alone."""
    if step is None or not step.is_given or not total.is_given:
        return None
    if total.verdict.word not in ("real_gain", "real_loss") or step.estimate is None or not total.estimate:
        return None
    return step.estimate / total.estimate
