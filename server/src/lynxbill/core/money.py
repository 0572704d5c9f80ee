"""Cost lines and the net cost of a swap, in decimal money."""

from collections.abc import Iterable
from dataclasses import dataclass
from datetime import date
from decimal import ROUND_HALF_UP, Decimal
from typing import Literal

from lynxbill.core.errors import RateMissing

CostKind = Literal[
    "part",
    "shipping",
    "tax",
    "consumable",
    "tool",
    "labour",
    "downtime",
    "electricity",
    "resale",
    "reuse",
    "other",
]
INCOME: frozenset[CostKind] = frozenset({"resale", "reuse"})

# ISO 4217 minor units that are not two digits.
_MINOR_DIGITS = {"BHD": 3, "IQD": 3, "JOD": 3, "KWD": 3, "LYD": 3, "OMR": 3, "TND": 3}
_MINOR_DIGITS |= dict.fromkeys(("CLP", "ISK", "JPY", "KRW", "PYG", "UGX", "VND", "XAF", "XOF", "XPF"), 0)


@dataclass(frozen=True, slots=True)
class CostLine:
    """
    One entry of the bill; amounts are positive, in `currency`, and the sign follows from `kind`.

    `rate` is units of the machine's currency for one unit of `currency`, on `rate_date`.
    """

    kind: CostKind
    label: str
    amount: Decimal
    currency: str
    low: Decimal | None = None
    high: Decimal | None = None
    rate: Decimal | None = None
    rate_date: date | None = None


@dataclass(frozen=True, slots=True)
class Booked:
    """A cost line in the currency of account, signed: costs positive, income negative; low <= likely <= high."""

    likely: Decimal
    low: Decimal
    high: Decimal


def minor_digits(currency: str) -> int:
    """Say how many decimal digits the minor unit of an ISO 4217 currency has."""
    return _MINOR_DIGITS.get(currency, 2)


def round_money(amount: Decimal, currency: str) -> Decimal:
    """Round an amount half up to the minor unit of its currency (ISO 4217)."""
    return amount.quantize(Decimal(1).scaleb(-minor_digits(currency)), rounding=ROUND_HALF_UP)


def book(line: CostLine, currency: str) -> Booked:
    """
    Convert one cost line into the currency of account and give it its sign.

    Args:
        line: amounts in the line's own currency.
        currency: the currency of account.
    Returns: amounts in `currency`, each rounded half up to the minor unit.
    Raises:
        RateMissing: a foreign line without a rate of exchange.
    """
    if line.currency != currency and line.rate is None:
        raise RateMissing(
            f"“{line.label}” is in {line.currency}, the machine's account in {currency}: "
            f"give the rate of exchange and its date.",
            field="rate",
        )
    rate = line.rate if line.rate is not None and line.currency != currency else Decimal(1)
    low, likely, high = (
        round_money((line.amount if amount is None else amount) * rate, currency)
        for amount in (line.low, line.amount, line.high)
    )
    return Booked(-likely, -high, -low) if line.kind in INCOME else Booked(likely, low, high)


def net_cost(lines: Iterable[CostLine], currency: str) -> Decimal:
    """
    Add up the likely amounts: what the swap cost after resale and reuse.

    Returns: net cost in `currency`, at its minor unit; negative where the swap earned money.
    Raises:
        RateMissing: a foreign line without a rate of exchange.
    """
    return round_money(sum((book(line, currency).likely for line in lines), Decimal(0)), currency)
