"""Cost lines and the net cost of a swap, in decimal money."""

from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass, field
from datetime import date
from decimal import ROUND_HALF_UP, Decimal
from typing import Literal

from lynxbill.core.terms.errors import RateMissing

CostKind = Literal[
    "part",
    "shipping",
    "tax",
    "consumable",
    "tool",
    "labour",
    "waiting",
    "rework",
    "downtime",
    "breakage",
    "electricity",
    "resale",
    "reuse",
    "measuring",
    "other",
]
INCOME: frozenset[CostKind] = frozenset({"resale", "reuse"})
# Somebody's hours, which a bill may leave out.
LABOUR: frozenset[CostKind] = frozenset({"labour", "waiting", "rework"})
# Shown beside the bill and never in it: proving a gain is no part of what the gain costs.
APART: frozenset[CostKind] = frozenset({"measuring"})
# What a price is taken from. Nothing is paid for what lay in a drawer or was given.
Basis = Literal["new", "used", "list", "quoted", "drawer", "gift"]
UNPAID: frozenset[Basis] = frozenset({"drawer", "gift"})
SplitRule = Literal["even", "by use", "by hand"]
RunningBy = Literal["hours", "tasks"]

# ISO 4217 minor units that are not two digits.
_MINOR_DIGITS = {"BHD": 3, "IQD": 3, "JOD": 3, "KWD": 3, "LYD": 3, "OMR": 3, "TND": 3}
_MINOR_DIGITS |= dict.fromkeys(("CLP", "ISK", "JPY", "KRW", "PYG", "UGX", "VND", "XAF", "XOF", "XPF"), 0)


@dataclass(frozen=True, slots=True)
class Running:
    """
    How much electricity both sides take: W while it runs, or Wh a task, so that a faster part is not charged for
    hours that it no longer runs.

    `a_day` hours or tasks on `days_a_year` days. Where `power` names a measure, its measured means (W) stand for
    `before` and `after`; by tasks they are multiplied by those of `time` (s).
    """

    by: RunningBy
    a_day: float
    days_a_year: float
    before: float | None = None
    after: float | None = None
    power: str | None = None
    time: str | None = None


@dataclass(frozen=True, slots=True)
class CostLine:
    """
    One entry of the bill; amounts are positive, in `currency`, and the sign follows from `kind`.

    `amount` (with `low` and `high`) is that of one `unit`, of which there are `quantity`; None: it is that of the
    whole line. Of electricity it is the price of a kWh where it is `running`. `rate` is units of the machine's
    currency for one unit of `currency`, on `rate_date`. `worth` is what was not paid would fetch or cost in a shop.
    `on` is the day of the entry; a resale with one was received, without one it is expected. `shares` says by which
    weights, by swap, the line is split over several.
    """

    kind: CostKind
    label: str
    amount: Decimal
    currency: str
    low: Decimal | None = None
    high: Decimal | None = None
    rate: Decimal | None = None
    rate_date: date | None = None
    quantity: Decimal | None = None
    unit: str = ""
    basis: Basis | None = None
    worth: Decimal | None = None
    supplier: str = ""
    on: date | None = None
    running: Running | None = None
    split_by: SplitRule | None = None
    shares: Mapping[str, Decimal] = field(default_factory=dict)

    @property
    def is_unpaid(self) -> bool:
        """Whether nothing was paid for what it names: a gift, or from the drawer."""
        return self.basis in UNPAID


@dataclass(frozen=True, slots=True)
class Booked:
    """A cost line in the currency of account, signed: costs positive, income negative; low <= likely <= high."""

    likely: Decimal
    low: Decimal
    high: Decimal


def measures_of(line: CostLine) -> tuple[str, ...]:
    """
    List the measures, by id, that a line's electricity is taken from.

    Args:
        line: the cost line asked.
    """
    running = line.running
    return tuple(name for name in (running.power, running.time) if name is not None) if running is not None else ()


def minor_digits(currency: str) -> int:
    """
    Say how many decimal digits the minor unit of an ISO 4217 currency has.

    Args:
        currency: ISO 4217 code.
    """
    return _MINOR_DIGITS.get(currency, 2)


def round_money(amount: Decimal, currency: str) -> Decimal:
    """
    Round an amount half up to the minor unit of its currency (ISO 4217).

    Args:
        amount: in the currency.
        currency: ISO 4217 code.
    """
    return amount.quantize(Decimal(1).scaleb(-minor_digits(currency)), rounding=ROUND_HALF_UP)


def book(line: CostLine, currency: str, quantity: Decimal | None = None) -> Booked:
    """
    Convert one cost line into the currency of account and give it its sign.

    Args:
        line: amounts in the line's own currency.
        currency: the currency of account.
        quantity: how often the amount is counted instead of the line's own quantity; may be negative.
    Returns: amounts in `currency`, each rounded half up to the minor unit.
    Raises:
        RateMissing: a foreign line without a rate of exchange.
    """
    times = quantity if quantity is not None else line.quantity if line.quantity is not None else Decimal(1)
    ends = (line.low, line.amount, line.high)
    low, likely, high = (
        in_account(times * (line.amount if amount is None else amount), line, currency) for amount in ends
    )
    low, high = min(low, high), max(low, high)
    return Booked(-likely, -high, -low) if line.kind in INCOME else Booked(likely, low, high)


def in_account(amount: Decimal, line: CostLine, currency: str) -> Decimal:
    """
    Convert an amount in a line's currency into the currency of account, rounded half up to its minor unit.

    Args:
        amount: in the line's currency.
        line: its currency, and the rate: what one unit of it is in the account's.
        currency: ISO 4217 code of the account.
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
    return round_money(amount * rate, currency)


def split_exactly(amount: Decimal, weights: Sequence[Decimal], currency: str) -> tuple[Decimal, ...]:
    """
    Split an amount by weights, so that the parts add up to it to the last minor unit.

    Args:
        amount: at the minor unit of `currency`; may be negative.
        weights: none negative, one at least positive.
    Returns: parts in the order of `weights`; what rounding down leaves over goes, unit by unit, to the largest
        remainders, the first of equal ones.
    """
    unit = Decimal(1).scaleb(-minor_digits(currency))
    total = sum(weights, Decimal(0))
    sign = -1 if amount < 0 else 1
    units = int(abs(amount) / unit)
    # Whole numbers throughout: a quotient of decimals would be rounded itself.
    scale = max((-int(weight.as_tuple().exponent) for weight in (*weights, total)), default=0)
    whole = [int(weight.scaleb(max(0, scale))) for weight in weights]
    shares = [divmod(units * weight, sum(whole)) for weight in whole]
    left = units - sum(share for share, _ in shares)
    lucky = sorted(range(len(shares)), key=lambda i: (-shares[i][1], i))[:left]
    return tuple(sign * unit * (share + (i in lucky)) for i, (share, _) in enumerate(shares))


def net_cost(booked: Iterable[Booked], currency: str) -> Decimal:
    """
    Add up the likely amounts: what a swap cost after resale and reuse.

    Args:
        booked: amounts in the currency of account, income negative.
        currency: ISO 4217 code of the account.
    Returns: net cost in `currency`, at its minor unit; negative where the swap earned money.
    """
    return round_money(sum((line.likely for line in booked), Decimal(0)), currency)
