"""The account of a swap in words: every line, the sum, what is not in it, and what was not paid."""

from collections import Counter
from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from datetime import date
from decimal import Decimal

from lynxbill.core.terms.money import Basis, CostKind, CostLine, SplitRule
from lynxbill.core.value.account import Account, Entry
from lynxbill.words.base.figures import DecimalMark, counted, figure, listed, written

COST_KINDS: Mapping[CostKind, str] = {
    "part": "part",
    "shipping": "delivery",
    "tax": "tax",
    "consumable": "consumables",
    "tool": "tools",
    "labour": "labour",
    "waiting": "waiting",
    "rework": "rework",
    "downtime": "days out of use",
    "breakage": "something broken",
    "electricity": "electricity",
    "resale": "resale",
    "reuse": "a part used on",
    "measuring": "the measuring itself",
    "other": "other",
}
BASES: Mapping[Basis, str] = {
    "new": "new",
    "used": "used",
    "list": "list price",
    "quoted": "as quoted",
    "drawer": "from the drawer",
    "gift": "a gift",
}
SPLITS: Mapping[SplitRule, str] = {"even": "evenly", "by use": "by use", "by hand": "by hand"}
_MONTHS = ("Jan", "Feb", "Mar", "Apr", "May", "Jun", "Jul", "Aug", "Sep", "Oct", "Nov", "Dec")


@dataclass(frozen=True, slots=True)
class WordedEntry:
    """One line: `amount` is signed and without the currency; `counts` is False for what is not in the sum."""

    kind: CostKind
    label: str
    detail: str
    amount: str
    counts: bool


@dataclass(frozen=True, slots=True)
class WordedAccount:
    """
    An account in words.

    `range` says how sure the net cost is, `apart` what the measuring took, `not_counted` which kinds have no line,
    `unpaid` what was not paid and what that is worth, `suppliers` who supplied the rest, `doubts` what should be
    looked at before anybody pays by it.
    """

    entries: tuple[WordedEntry, ...]
    net: str
    range: str | None
    apart: str | None
    not_counted: str | None
    unpaid: tuple[str, ...]
    suppliers: tuple[str, ...]
    at_worth: str | None
    doubts: tuple[str, ...]


def say_account(account: Account, mark: DecimalMark) -> WordedAccount:
    """Put an account into words, with the machine's decimal mark."""
    currency, ends = account.currency, account.range
    return WordedAccount(
        entries=tuple(_say_entry(entry, account, mark) for entry in account.entries),
        net="not given" if account.net is None else money(account.net, currency, mark),
        range=None if ends is None else f"between {bare(ends[0], mark)} and {money(ends[1], currency, mark)}",
        apart=None if account.apart is None else f"Measuring it took {money(account.apart, currency, mark)} besides.",
        not_counted=_say_empty(account),
        unpaid=tuple(_say_unpaid(entry, account, mark) for entry in account.unpaid),
        suppliers=tuple(
            f"{entry.line.label} was supplied by {entry.line.supplier}."
            for entry in account.entries
            if entry.line.supplier and not entry.line.is_unpaid
        ),
        at_worth=None if account.at_worth is None else money(account.at_worth, currency, mark),
        doubts=tuple(_doubts(account)),
    )


def say_net(account: Account, mark: DecimalMark) -> str:
    """Say what something cost net; what is not given is not nothing."""
    return "cost not given" if account.net is None else f"{money(account.net, account.currency, mark)} net"


def bare(amount: Decimal, mark: DecimalMark) -> str:
    """Write an amount to its minor unit; money passes through no binary float."""
    return written(f"{abs(amount):f}", mark, negative=amount < 0)


def money(amount: Decimal | float, currency: str, mark: DecimalMark) -> str:
    """Write an amount to its minor unit, with its currency."""
    return f"{bare(amount if isinstance(amount, Decimal) else Decimal(f'{amount:.2f}'), mark)} {currency}"


def day(known: date) -> str:
    """Write a day: "4 May 2026"."""
    return f"{known.day} {_MONTHS[known.month - 1]} {known.year}"


def _say_entry(entry: Entry, account: Account, mark: DecimalMark) -> WordedEntry:
    line, booked = entry.line, entry.booked
    parts = [*_say_basis(line, account, mark), *_say_quantity(line, mark), *_say_running(entry, account, mark)]
    if booked is not None and booked.low != booked.high and line.running is None:
        low, high = sorted((abs(booked.low), abs(booked.high)))
        parts.append(f"between {bare(low, mark)} and {bare(high, mark)}")
    if line.currency != account.currency:
        dated = f" of {day(line.rate_date)}" if line.rate_date else ""
        parts.append(f"in {line.currency}, at {_number(line.rate or Decimal(1), mark)}{dated}")
    if entry.of is not None and line.split_by is not None:
        over = counted(len(line.shares), "step")
        parts.append(f"its share of {bare(entry.of, mark)}, split {SPLITS[line.split_by]} over {over}")
    if entry.left_out == "without_labour":
        parts.append("left out: without labour")
    if entry.left_out == "apart":
        parts.append("beside the bill, not in it")
    return WordedEntry(
        kind=line.kind,
        label=line.label,
        detail=", ".join(parts),
        amount="–" if booked is None else bare(booked.likely, mark),
        counts=entry.counts,
    )


def _say_basis(line: CostLine, account: Account, mark: DecimalMark) -> list[str]:
    """Of which kind it is, and what its price is taken from."""
    if line.kind == "resale":
        return [f"resale received {day(line.on)}" if line.on else "resale expected"]
    words = [COST_KINDS[line.kind]]
    if line.basis is not None and not line.is_unpaid:
        words.append(BASES[line.basis])
    if line.is_unpaid and line.basis is not None:
        worth = "" if line.worth is None else f", {_say_worth(line, account, mark)}"
        words.append(f"{BASES[line.basis]}: nothing paid{worth}")
    if line.supplier:
        words.append(f"from {line.supplier}")
    return [*words, day(line.on)] if line.on else words


def _say_worth(line: CostLine, account: Account, mark: DecimalMark) -> str:
    worth = "" if line.worth is None else money(line.worth, line.currency or account.currency, mark)
    return f"{worth} in a shop" if line.basis == "gift" else f"worth about {worth}"


def _say_quantity(line: CostLine, mark: DecimalMark) -> list[str]:
    if line.quantity is None:
        return []
    unit = f" {line.unit}" if line.unit else ""
    return [f"{_number(line.quantity, mark)}{unit} at {bare(line.amount, mark)}"]


def _say_running(entry: Entry, account: Account, mark: DecimalMark) -> list[str]:
    if entry.line.running is None:
        return []
    if entry.kwh_a_year is None:
        return ["not measured on both sides yet, so in no sum"]
    more = "more" if entry.kwh_a_year > 0 else "less"
    sentence = f"{figure(abs(entry.kwh_a_year), mark)} kWh a year {more} at {_number(entry.line.amount, mark)} a kWh"
    years = account.terms.years
    return [sentence, f"over {counted(years, 'year')}" if years else "for one year; in no sum until years are chosen"]


def _number(amount: Decimal, mark: DecimalMark) -> str:
    """Write a decimal with the digits that it was typed with, noughts at its end aside."""
    text = f"{amount:f}"
    return (text.rstrip("0").rstrip(".") if "." in text else text).replace(".", mark)


def _say_empty(account: Account) -> str | None:
    if account.net is None or not account.empty:
        return None
    return f"Not counted: {listed([COST_KINDS[kind] for kind in account.empty])}."


def _say_unpaid(entry: Entry, account: Account, mark: DecimalMark) -> str:
    """What was not paid, for beside the verdict: who gave a part is no small print."""
    line = entry.line
    by = f", from {line.supplier}" if line.supplier else ""
    what = f"{line.label} is a gift{by}" if line.basis == "gift" else f"{line.label} is from the drawer{by}"
    if line.worth is None:
        return f"{what}: nothing paid; what it is worth is not given."
    return f"{what}: nothing paid, {_say_worth(line, account, mark)}."


def _doubts(account: Account) -> Sequence[str]:
    lines = [entry.line for entry in account.entries]
    twice = [
        label for (_, label), n in Counter((line.kind, line.label.casefold()) for line in lines).items() if n > 1
    ]
    named = {line.label.casefold(): line.label for line in lines}
    doubts = [f"“{named[label]}” stands in it twice: is it one price, quoted two ways?" for label in twice]
    bases = {line.basis for line in lines if line.kind == "part" and line.basis and not line.is_unpaid}
    if len(bases) > 1:
        sentence = listed(sorted(BASES[basis] for basis in bases))
        doubts.append(f"Prices of different kinds stand side by side: {sentence}.")
    free = [line.label for line in lines if line.kind == "part" and not line.amount and line.basis is None]
    doubts += [
        f"“{label}” stands at nothing: was it a gift, or from the drawer? Say so, and what it is worth."
        for label in free
    ]
    return doubts
