"""The bill: what the swaps between two builds cost net, and what that bought."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field
from decimal import Decimal

from lynxbill.core.record.frame import Case, Frame
from lynxbill.core.record.ids import BuildId
from lynxbill.core.result.comparison import judge
from lynxbill.core.result.result import Comparison, MeasureResult
from lynxbill.core.terms.money import Booked
from lynxbill.core.value.account import Account, Means, Terms, account_of
from lynxbill.core.value.value import Value, no_value, value_of


@dataclass(frozen=True, slots=True)
class Bill:
    """
    The account of the swaps between two builds and what 10 units of currency bought of the measure that leads.

    `values` has the value of each claim, by measure id; `value` is that of the one that leads, `at_worth` the same
    with all that was not paid taken at its worth (None: nothing of it has one).
    """

    account: Account
    value: Value
    values: Mapping[str, Value] = field(default_factory=dict)
    at_worth: Value | None = None

    @property
    def net_cost(self) -> Decimal | None:
        """None without a swap, and where the cost of one is not given."""
        return self.account.net

    @property
    def currency(self) -> str:
        return self.account.currency


@dataclass(frozen=True, slots=True)
class Billed:
    """A comparison, and the bill that was made from it."""

    comparison: Comparison
    bill: Bill


def judge_and_bill(case: Case, before: BuildId | None = None, after: BuildId | None = None) -> Billed:
    """
    Compare two builds of a machine, and make the bill on its usual terms.

    Args, raises: as for `judge` and `bill_of`.

    Args:
        case: the machine with the runs of both builds.
        before, after: ids of two of its builds; None for those of the last swap.
    """
    comparison = judge(case, before, after)
    return Billed(comparison, bill_of(case, comparison))


def bill_of(case: Frame, comparison: Comparison, terms: Terms | None = None) -> Bill:
    """
    Account for the swaps that lead from one build of a comparison to the other, by the claim that leads it.

    Args:
        comparison: what the bill says never goes against the verdict that leads it; every claim of it gets a value of
            its own, and measured power and times are taken from it.
        terms: which lines are in the sum.
    Returns: their net cost in the currency of account and the value of the gain; no cost where no chain of swaps
        leads from one to the other, or one of them has no cost lines: what is not given is not nothing.
    Raises:
        RateMissing: a cost line in a foreign currency without a rate.
    """
    before, after = BuildId(comparison.before), BuildId(comparison.after)
    lead, results = comparison.lead, comparison.measures
    account = account_of(case, case.swaps_between(before, after), terms, means_of(results))
    claims = [result for result in results if result.planned.role == "claim"]
    values: dict[str, Value] = {claim.measure.id: _value(claim, account) for claim in claims}
    known = values.get(lead.measure.id) if lead is not None else None
    at_worth = None if account.at_worth is None else _value(lead, account, account.booked_at_worth, account.at_worth)
    return Bill(account, known or _value(lead, account), values, at_worth)


def means_of(results: Sequence[MeasureResult]) -> Means:
    """
    Take the means of both sides from results, by measure; without those that a side lacks.

    Args:
        results: the results of one comparison; means in each measure's unit.
    """
    return {
        result.measure.id: (result.before_mean, result.after_mean)
        for result in results
        if result.before_mean is not None and result.after_mean is not None
    }


def _value(
    lead: MeasureResult | None, account: Account, booked: list[Booked] | None = None, sum_of: Decimal | None = None
) -> Value:
    """Divide by the account's own sum, or by another one of other lines."""
    net, costs = (account.net, account.booked) if booked is None else (sum_of, booked)
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
    if lead.interval is None or not lead.measure.is_divisible or (net <= 0 and not proven):
        return no_value("no_ratio" if proven else "not_settled")
    return value_of(lead.interval, costs, net, percent=lead.measure.is_work, proven=proven)


def _items_gained(result: MeasureResult) -> float | None:
    """How many more of a set pass in a run; None of what tries one thing alone."""
    if result.measure.scale != "outcome" or result.measure.of is None:
        return None
    before, after = result.before_mean, result.after_mean
    return after - before if before is not None and after is not None and after > before else None
