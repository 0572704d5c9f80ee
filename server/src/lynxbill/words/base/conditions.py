"""Conditions in words: what a plan holds, what a sitting did not meet, how the sides of a comparison differ."""

import json
from collections.abc import Iterable
from dataclasses import dataclass

from lynxbill.core.plan.conditions import Departure, DepartureKind, NotHeld
from lynxbill.core.record.ids import Plain
from lynxbill.core.record.vocabulary import CONDITIONS, Figure
from lynxbill.words.base.figures import DecimalMark, shown, typed

_BOUNDS = {"ambient_low_c": "from", "ambient_high_c": "up to"}
_KINDS: dict[DepartureKind, str] = {
    "runs": "runs",
    "version": "version",
    "target": "target",
    "parameters": "parameters",
    "sittings": "sittings",
    "failed": "runs that failed, broke off or were spoiled",
    "room": "room temperature, mean",
    "soak": "length of the soak",
}


@dataclass(frozen=True, slots=True)
class WordedDeparture:
    """What differs between the sides, and what each of them had."""

    what: str
    before: str
    after: str


def say_condition(name: str, value: Plain, mark: DecimalMark) -> str:
    """Write a condition that the plan holds: "room, from: 21 °C"."""
    return f"{_label(name)}: {_with_unit(name, value, mark)}"


def say_not_held(not_held: NotHeld, mark: DecimalMark) -> str:
    """Say which condition of the plan a sitting does not meet: "fan mode was full, auto is planned"."""
    name, had = not_held.name, not_held.had
    wanted = _with_unit(name, not_held.wanted, mark)
    if name in _BOUNDS:
        if had is None:
            return "the room temperature was not noted"
        return f"the room had {_with_unit(name, had, mark)}, {_BOUNDS[name]} {wanted} is planned"
    if had is None:
        return f"{_label(name)} was not noted, {wanted} is planned"
    return f"{_label(name)} was {_with_unit(name, had, mark)}, {wanted} is planned"


def say_departure(departure: Departure, mark: DecimalMark) -> WordedDeparture:
    """Say in what the sides differ."""
    what = _label(departure.condition) if departure.kind == "condition" else _KINDS[departure.kind]
    about = f"{departure.workload}, {what}" if departure.workload is not None else what
    return WordedDeparture(about, *(_say_side(departure, side, mark) for side in (departure.before, departure.after)))


def say_departures(departures: Iterable[Departure], mark: DecimalMark) -> str:
    """Say at once in what the sides differ: "sittings: 3 before, 2 after; fan mode: auto before, full after"."""
    sentences = (say_departure(departure, mark) for departure in departures)
    return "; ".join(f"{one.what}: {one.before} before, {one.after} after" for one in sentences)


def _say_side(departure: Departure, side: tuple[Plain, ...], mark: DecimalMark) -> str:
    match departure.kind:
        case "runs":
            return _plain(side[0], mark) if side else "none yet"
        case "room":
            return " ".join(f"{_number(room, 1, mark)} °C" for room in side)
        case "soak":
            minutes = list(dict.fromkeys(_number(length, 1, mark, per=60) for length in side))
            return f"{' to '.join(minutes)} min" if minutes else "not noted"
        case "parameters":
            return ", ".join(_say_parameters(str(written), mark) for written in side)
        case "condition":
            return ", ".join(
                "not noted" if value is None else _with_unit(departure.condition, value, mark) for value in side
            )
        case _:
            return ", ".join(_plain(value, mark) for value in side)


def _say_parameters(written: str, mark: DecimalMark) -> str:
    known: dict[str, Plain] = json.loads(written)
    return ", ".join(f"{key} {_plain(value, mark)}" for key, value in known.items()) or "none"


def _number(value: Plain, decimals: int, mark: DecimalMark, *, per: float = 1) -> str:
    """A figure without decimals that say nothing: "10", "10.5"."""
    if not isinstance(value, (int, float)):
        return str(value)
    return shown(value / per, decimals, mark).removesuffix(f"{mark}{'0' * decimals}")


def _plain(value: Plain, mark: DecimalMark) -> str:
    return typed(value, mark) if isinstance(value, (int, float)) and not isinstance(value, bool) else str(value)


def _with_unit(name: str, value: Plain, mark: DecimalMark) -> str:
    known = _known(name)
    unit = known.unit if known is not None and isinstance(value, (int, float)) else ""
    return f"{_plain(value, mark)} {unit}".rstrip()


def _label(name: str) -> str:
    known = _known(name)
    return known.label if known is not None else name.replace("_", " ")


def _known(name: str) -> Figure | None:
    return next((figure for figure in CONDITIONS if figure.key == name), None)
