"""The reckoning of a swap: its bill on every switch, all other ways to spend the money, and the whole ladder."""

from dataclasses import dataclass

from lynxbill.core.change.space import Room, room_gained
from lynxbill.core.record.frame import Case
from lynxbill.core.record.ids import BuildId
from lynxbill.core.record.swap import Swap
from lynxbill.core.result.result import Comparison
from lynxbill.core.terms.money import LABOUR
from lynxbill.core.value.account import Terms
from lynxbill.core.value.alternatives import Option, options_of
from lynxbill.core.value.better import Placing, better_value
from lynxbill.core.value.bill import Bill, bill_of, judge_and_bill
from lynxbill.core.value.ladder_total import Whole, make_whole, whole_chain
from lynxbill.core.value.payback import Payback, payback_of


@dataclass(frozen=True, slots=True)
class Reckoned:
    """All that follows from one setting of the switches."""

    terms: Terms
    bill: Bill
    options: tuple[Option, ...]
    whole: Whole | None
    payback: Payback | None
    room: tuple[Room, ...]


@dataclass(frozen=True, slots=True)
class Reckoning:
    """
    A comparison, how it stands in value against others, and what follows from each setting of the switches that
    makes a difference: with and without labour, over no years and over `years`.
    """

    placing: Placing
    swaps: tuple[Swap, ...]
    settings: tuple[Reckoned, ...]

    @property
    def comparison(self) -> Comparison:
        return self.placing.comparison


def reckon(case: Case, before: BuildId, after: BuildId, years: int) -> Reckoning:
    """
    Reckon up two builds of a machine.

    Args:
        years: over how many years electricity runs, where that switch is set.
    Returns: the settings in the order labour and no years, no labour and no years, labour and years, no labour and
        years; only those of which a line of the machine's costs makes a difference.
    Raises:
        as `judge`.
    """
    pairs = {(before, after): judge_and_bill(case, before, after)}
    begun = [swap for swap in case.swaps if swap.state != "planned"]
    for swap in begun:
        if (swap.before, swap.after) not in pairs:
            pairs[swap.before, swap.after] = judge_and_bill(case, swap.before, swap.after)
    by_swap: dict[str, Comparison] = {swap.id: pairs[swap.before, swap.after].comparison for swap in begun}
    billed = pairs[before, after]
    comparison = billed.comparison
    way = whole_chain(case)
    whole = None
    if way is not None:
        whole = (pairs.get(way[:2]) or judge_and_bill(case, *way[:2])).comparison
    others = [other for pair, other in pairs.items() if pair != (before, after)]

    def on(terms: Terms) -> Reckoned:
        bill, lead = bill_of(case, comparison, terms), comparison.lead
        return Reckoned(
            terms=terms,
            bill=bill,
            options=options_of(case, by_swap, lead.measure if lead else None, terms),
            whole=make_whole(case, way[2], whole, by_swap, terms) if way is not None and whole is not None else None,
            payback=payback_of(case.machine, lead, bill),
            room=room_gained(case.build(before), case.build(after), bill.net_cost),
        )

    return Reckoning(
        placing=Placing(billed, tuple((other.comparison, better_value(billed, other)) for other in others)),
        swaps=case.swaps_between(before, after) or (),
        settings=tuple(on(terms) for terms in _switches(case, years)),
    )


def _switches(case: Case, years: int) -> list[Terms]:
    lines = [line for swap in case.swaps for line in swap.costs]
    spans = [0, years] if years and any(line.running for line in lines) else [0]
    hours = [True, False] if any(line.kind in LABOUR for line in lines) else [True]
    return [Terms(labour, span) for span in spans for labour in hours]
