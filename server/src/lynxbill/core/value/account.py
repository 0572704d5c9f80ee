"""The account of a chain of swaps: every line as it was booked, what is in no sum and why, and what is empty."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from decimal import Decimal
from typing import Literal

from lynxbill.core.plan.templates import costs_of
from lynxbill.core.record.frame import Frame
from lynxbill.core.record.ids import SwapId
from lynxbill.core.record.swap import Swap
from lynxbill.core.terms.money import (
    APART,
    LABOUR,
    Booked,
    CostKind,
    CostLine,
    Running,
    book,
    in_account,
    net_cost,
    round_money,
    split_exactly,
)

# Measured means of both sides by measure id, in the measure's unit.
Means = Mapping[str, tuple[float, float]]
LeftOutOfSum = Literal["without_labour", "no_years", "apart", "not_measured"]
MOST_YEARS = 30
_SECONDS_AN_HOUR = 3600
_WATT_HOURS = 1000


@dataclass(frozen=True, slots=True)
class Terms:
    """By which switches a bill is made up: somebody's hours in it or not, and over how many years it runs."""

    labour: bool = True
    years: int = 0


@dataclass(frozen=True, slots=True)
class Entry:
    """
    A cost line in the account of a chain; `booked` is what of it falls on the chain, None where it is not known.

    `left_out` says why it is in no sum. `kwh_a_year` is what running it takes more (negative: less) in a year. `of`
    is the whole line where it is split, `worth` what was not paid is worth, both in the currency of account.
    """

    swap: SwapId
    line: CostLine
    booked: Booked | None
    left_out: LeftOutOfSum | None = None
    kwh_a_year: float | None = None
    of: Decimal | None = None
    worth: Decimal | None = None

    @property
    def counts(self) -> bool:
        return self.left_out is None


@dataclass(frozen=True, slots=True)
class Account:
    """
    What a chain of swaps cost; all sums in `currency`.

    `net` is None where a swap of the chain has no line: what is not given is not nothing. `gross` is what went out,
    `income` what came back. `at_worth` is the net cost with all that was not paid taken at its worth, None where
    nothing of it has one. `apart` is what the measuring itself took. `empty` are kinds of cost that such a change
    usually has, and that have no line.
    """

    currency: str
    terms: Terms
    entries: tuple[Entry, ...]
    net: Decimal | None
    gross: Decimal
    income: Decimal
    at_worth: Decimal | None
    apart: Decimal | None
    empty: tuple[CostKind, ...]

    @property
    def booked(self) -> list[Booked]:
        """The lines in the sum."""
        return [entry.booked for entry in self.entries if entry.booked is not None and entry.counts]

    @property
    def booked_at_worth(self) -> list[Booked]:
        """The lines in the sum, and the worth of what was not paid as if it had been."""
        worth = [entry.worth for entry in self.entries if entry.worth is not None and entry.counts]
        return [*self.booked, *(Booked(amount, amount, amount) for amount in worth)]

    @property
    def unpaid(self) -> tuple[Entry, ...]:
        """The parts for which nothing was paid: gifts, and what lay in a drawer."""
        return tuple(entry for entry in self.entries if entry.line.is_unpaid)

    @property
    def range(self) -> tuple[Decimal, Decimal] | None:
        """The net cost if every uncertain line came out lowest, and highest; None where none is uncertain."""
        if self.net is None or all(line.low == line.high for line in self.booked):
            return None
        lows, highs = (sum(ends, Decimal(0)) for ends in zip(*((b.low, b.high) for b in self.booked), strict=True))
        return round_money(lows, self.currency), round_money(highs, self.currency)


def account_of(
    frame: Frame, chain: Sequence[Swap] | None, terms: Terms | None = None, means: Means | None = None
) -> Account:
    """
    Make up the account of a chain of swaps.

    Args:
        chain: the swaps, oldest first; None or empty where no chain leads from one build to the other.
        terms: which lines are in the sum; all but what runs by years.
        means: of measured power and times, for what electricity is taken from them; none: not measured.
    Raises:
        RateMissing: a cost line in a foreign currency without a rate.
    """
    terms, currency = terms or Terms(), frame.machine.currency
    ids = {swap.id for swap in chain or ()}
    entries = [
        _enter(frame, swap, line, ids, terms, means or {})
        for swap in frame.swaps
        for line in swap.costs
        if (swap.id in ids and not line.shares) or ids & line.shares.keys()
    ]
    in_sum = [entry.booked for entry in entries if entry.booked is not None and entry.counts]
    reached = {swap.id for swap in chain or () if swap.costs} | {s for e in entries for s in e.line.shares}
    given = bool(ids) and ids <= reached
    net = net_cost(in_sum, currency) if given else None
    unpaid = [entry.worth for entry in entries if entry.worth is not None and entry.counts]
    aside = [entry.booked for entry in entries if entry.left_out == "apart" and entry.booked is not None]
    return Account(
        currency=currency,
        terms=terms,
        entries=tuple(entries),
        net=net,
        gross=net_cost([line for line in in_sum if line.likely > 0], currency),
        income=-net_cost([line for line in in_sum if line.likely < 0], currency),
        at_worth=round_money(net + sum(unpaid, Decimal(0)), currency) if net is not None and unpaid else None,
        apart=net_cost(aside, currency) if aside else None,
        empty=_empty_kinds(chain or (), entries),
    )


def _enter(frame: Frame, swap: Swap, line: CostLine, ids: set[SwapId], terms: Terms, means: Means) -> Entry:
    currency = frame.machine.currency
    if line.running is not None:
        entry = _enter_running(swap.id, line, currency, terms, means)
    else:
        left_out: LeftOutOfSum | None = None
        if line.kind in APART:
            left_out = "apart"
        elif line.kind in LABOUR and not terms.labour:
            left_out = "without_labour"
        quantity = line.quantity if line.quantity is not None else Decimal(1)
        worth = (
            in_account(quantity * line.worth, line, currency) if line.is_unpaid and line.worth is not None else None
        )
        entry = Entry(swap.id, line, book(line, currency), left_out, worth=worth)
    return _share_out(frame, entry, ids, currency) if line.shares and entry.booked is not None else entry


def _enter_running(swap: SwapId, line: CostLine, currency: str, terms: Terms, means: Means) -> Entry:
    kwh = more_kwh_a_year(line.running, means) if line.running is not None else None
    if kwh is None:
        return Entry(swap, line, None, "not_measured")
    energy = Decimal(repr(round(kwh, 6)))
    booked = book(line, currency, energy * max(1, terms.years))
    return Entry(swap, line, booked, None if terms.years else "no_years", kwh_a_year=kwh)


def more_kwh_a_year(running: Running, means: Means) -> float | None:
    """
    Say how many kWh a year the after-side takes more than the before-side; negative where it takes less.

    Args:
        running: how often the task is done, by hours or by tasks; power in W, time in s.
        means: the means of both sides, by measure.
    Returns: None where it is to be taken from measures that have no means on both sides.
    """
    sides: tuple[float, float] | None = None
    if running.power is not None:
        watts, seconds = means.get(running.power), means.get(running.time or "")
        if watts is not None and running.by == "hours":
            sides = watts
        elif watts is not None and seconds is not None:
            sides = watts[0] * seconds[0] / _SECONDS_AN_HOUR, watts[1] * seconds[1] / _SECONDS_AN_HOUR
    elif running.before is not None and running.after is not None:
        sides = running.before, running.after
    if sides is None:
        return None
    return (sides[1] - sides[0]) * running.a_day * running.days_a_year / _WATT_HOURS


def _share_out(frame: Frame, entry: Entry, ids: set[SwapId], currency: str) -> Entry:
    """What of a split line falls on the chain: the parts of its swaps, which add up over all swaps to the whole."""
    booked = entry.booked
    shares = [(swap.id, entry.line.shares[swap.id]) for swap in frame.swaps if swap.id in entry.line.shares]
    if booked is None or not sum((weight for _, weight in shares), Decimal(0)):
        return entry
    weights = [weight for _, weight in shares]

    def fall(amount: Decimal) -> Decimal:
        parts = zip(shares, split_exactly(amount, weights, currency), strict=True)
        return sum((part for (swap, _), part in parts if swap in ids), Decimal(0))

    low, likely, high = fall(booked.low), fall(booked.likely), fall(booked.high)
    ordered = Booked(likely, min(low, likely), max(high, likely))
    worth = fall(entry.worth) if entry.worth is not None else None
    return Entry(
        entry.swap, entry.line, ordered, entry.left_out, kwh_a_year=entry.kwh_a_year, of=booked.likely, worth=worth
    )


def _empty_kinds(chain: Sequence[Swap], entries: Sequence[Entry]) -> tuple[CostKind, ...]:
    """The kinds that such a change is known to have, in their usual order, as far as no line is of them."""
    known = {entry.line.kind for entry in entries}
    usual = dict.fromkeys(kind for swap in chain for kind in costs_of(swap.plan.change))
    return tuple(kind for kind in usual if kind not in known)
