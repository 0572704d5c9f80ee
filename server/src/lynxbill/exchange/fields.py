"""Field types shared by every Pydantic model that reads from outside."""

import re
import unicodedata
from datetime import UTC, date, datetime
from decimal import Decimal
from typing import Annotated

from pydantic import (
    AfterValidator,
    AwareDatetime,
    BaseModel,
    BeforeValidator,
    ConfigDict,
    Field,
    StrictBool,
    StrictFloat,
    StrictInt,
    StringConstraints,
    WithJsonSchema,
)

from lynxbill.core.terms.errors import Refusal
from lynxbill.core.terms.measure import LARGEST
from lynxbill.core.terms.quantity import unit_of

# They turn the direction of what stands behind them, on every screen and paper that shows it.
_TURNING = r"\u061c\u200e\u200f\u202a-\u202e\u2066-\u2069"
_IN_A_LINE = rf"[^\x00-\x1f\x7f{_TURNING}]"
_IN_A_NOTE = rf"[^\x00{_TURNING}]"
# Letters by their category, and empty to the eye.
_FILLERS = "\u3164\u1160\u115f\uffa0"
Identifier = Annotated[str, StringConstraints(min_length=1, max_length=80, pattern=rf"^{_IN_A_LINE}+$")]


def can_be_seen(text: str) -> bool:
    """Say whether something of a text is seen: not spaces and marks without a form alone, in whatever spelling."""
    seen = (c for c in unicodedata.normalize("NFKC", text) if c not in _FILLERS)
    return any(unicodedata.category(c) not in ("Cf", "Zs", "Cc") for c in seen)


UNSEEN = "nothing of this can be seen; write a name that can be read"


def _visible(text: str) -> str:
    if not can_be_seen(text):
        raise ValueError(UNSEEN)
    return text


Line = Annotated[
    str, StringConstraints(strip_whitespace=True, min_length=1, max_length=200, pattern=rf"^{_IN_A_LINE}+$")
]
# What somebody is asked to name. What was stored before this was asked is handed out as it is.
Name = Annotated[Line, AfterValidator(_visible)]
OptionalLine = Annotated[str, StringConstraints(strip_whitespace=True, max_length=200, pattern=rf"^{_IN_A_LINE}*$")]
Note = Annotated[str, StringConstraints(max_length=20_000, pattern=rf"^{_IN_A_NOTE}*$")]
Currency = Annotated[str, StringConstraints(pattern=r"^[A-Z]{3}$")]


def _decimal_text(value: object) -> object:
    if isinstance(value, (Decimal, str)):
        return value
    raise ValueError('money is a decimal string like "118.00", not a bare number')


_DecimalText = Annotated[
    Decimal,
    BeforeValidator(_decimal_text),
    WithJsonSchema({"type": "string", "pattern": r"^\d+(\.\d+)?$", "description": "A decimal number as text"}),
]
Money = Annotated[_DecimalText, Field(max_digits=14, decimal_places=4, allow_inf_nan=False)]
PositiveMoney = Annotated[Money, Field(ge=0)]
Rate = Annotated[_DecimalText, Field(gt=0, max_digits=18, decimal_places=9, allow_inf_nan=False)]

# A machine whose clock lost its battery begins in 1970 again.
FIRST_YEAR, LAST_YEAR = 1970, 2199
LONGEST = 500
_PLAIN_TEXT = re.compile(rf"{_IN_A_LINE}*")
_DATE = re.compile(r"\d{4}-\d{2}-\d{2}")


def _bench_date(value: object) -> object:
    """
    Keep what comes in to years in which a bench stood, in its own zone and as it is stored; a number is no date.

    A date near the ends of the calendar can't be brought into another zone. What is stored is handed out as it is:
    one thing that is dated impossibly takes nothing with it.
    """
    if isinstance(value, date):
        return value
    # A number is no date, neither bare nor as text, though it could be seconds since 1970.
    if not isinstance(value, str) or not _DATE.match(value):
        raise ValueError("write a date like 2026-05-04, and a time like 2026-05-04T09:30:00Z")
    for year in sorted(_years_of(value)):
        if not FIRST_YEAR <= year <= LAST_YEAR:
            raise ValueError(f"the year {year} can't be right; write one from {FIRST_YEAR} to {LAST_YEAR}")
    return value


def _years_of(text: str) -> set[int]:
    """The year of a date in its own zone, and in UTC as it is stored; none of what is no date."""
    years = {int(text[:4])}
    try:
        instant = datetime.fromisoformat(text)
    except ValueError:
        return years
    if instant.tzinfo is not None and FIRST_YEAR <= instant.year <= LAST_YEAR:
        years.add(instant.astimezone(UTC).year)
    return years


Instant = Annotated[AwareDatetime, BeforeValidator(_bench_date)]
Day = Annotated[date, BeforeValidator(_bench_date)]


def _plain_value(value: object) -> object:
    """One message for what is none of the kinds a plain value may have, instead of one a kind."""
    if isinstance(value, str):
        if len(value) > LONGEST:
            raise ValueError(f"this is too long: at most {LONGEST} characters fit here; shorten it")
        if not _PLAIN_TEXT.fullmatch(value):
            raise ValueError("there is a control character in it; take it out")
    elif isinstance(value, (int, float)) and not isinstance(value, bool):
        # Not a number is not smaller than anything either.
        if not abs(value) <= LARGEST:
            raise ValueError(f"this number is too large; at most {LARGEST:g} fits here")
    elif value is not None and not isinstance(value, bool):
        raise ValueError("write a text, a number, true or false here")
    return value


Plain = Annotated[
    Annotated[str, StringConstraints(max_length=LONGEST)] | StrictBool | StrictInt | StrictFloat | None,
    BeforeValidator(_plain_value),
]
Settings = Annotated[dict[Identifier, Plain], Field(max_length=100)]
MOST_POSITION = 100_000
Position = Annotated[StrictInt, Field(ge=1, le=MOST_POSITION)]
Finite = Annotated[float, Field(allow_inf_nan=False, ge=-LARGEST, le=LARGEST, strict=True)]
Positive = Annotated[Finite, Field(gt=0, ge=1 / LARGEST)]


def _known_unit(code: str) -> str:
    """Refuse a UCUM code that means no unit here."""
    try:
        return unit_of(code).code
    except Refusal as refusal:
        raise ValueError(refusal.message) from refusal


Unit = Annotated[Line, AfterValidator(_known_unit)]


class Strict(BaseModel):
    """Refuses members it does not know, infinity and NaN."""

    model_config = ConfigDict(extra="forbid", allow_inf_nan=False, from_attributes=True, hide_input_in_errors=True)
