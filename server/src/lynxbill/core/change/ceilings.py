"""Ceilings: the most that a serial link or a memory bus can carry, and what limits it."""

from collections.abc import Iterable, Mapping
from dataclasses import dataclass

from lynxbill.core.record.build import Build, Part, PartRole
from lynxbill.core.record.ids import Plain
from lynxbill.core.record.naming import find_named, is_named_at_all, means_own_seat, same_words
from lynxbill.core.terms.errors import BadValue

# Useful bits of the bits sent, by link rate in GT/s: 8b/10b, 128b/130b, 128b/132b, and 242 of 256 bytes in flits.
_CODING: Mapping[float, tuple[int, int]] = {
    **dict.fromkeys((1.5, 2.5, 3.0, 5.0, 6.0), (8, 10)),
    **dict.fromkeys((8.0, 16.0, 32.0), (128, 130)),
    **dict.fromkeys((10.0, 20.0), (128, 132)),
    64.0: (242, 256),
}
BUS_BITS = 64


@dataclass(frozen=True, slots=True)
class Ceiling:
    """
    What can be carried, in MB/s (10⁶ bytes): `raw` as bits are sent, `usable` after the loss to coding.

    `limited_by` names the end that sets it; `loss_known` is False for a link rate whose coding is not known here, and
    then nothing is taken off.
    """

    raw: float
    usable: float
    limited_by: str = ""
    loss_known: bool = True


@dataclass(frozen=True, slots=True)
class LinkEnd:
    """One end of a link: `name` in words, its rate a lane in GT/s and its lanes."""

    name: str
    rate_gts: float
    lanes: float


def link_ceiling(ends: Iterable[LinkEnd]) -> Ceiling:
    """
    Work out what a serial link carries: each lane at the slowest end's rate, as many lanes as the narrowest end has.

    Args:
        ends: at least one; rate in GT/s and lanes, both above zero.
    Returns: MB/s; `limited_by` names every end that is slower or narrower than another, empty where all are alike.
    Raises:
        BadValue: no end, or a rate or number of lanes that is not above zero.
    Source: 8b/10b: A. X. Widmer, P. A. Franaszek, IBM J. Res. Dev. 27 (1983) 440; the link standards for the rest.
    """
    ends = tuple(ends)
    if not ends or any(end.rate_gts <= 0 or end.lanes <= 0 for end in ends):
        raise BadValue("A link has a rate and a number of lanes above zero at each end.")
    rate, lanes = min(end.rate_gts for end in ends), min(end.lanes for end in ends)
    widest = max(end.rate_gts for end in ends), max(end.lanes for end in ends)
    limiting = [e.name for e in ends if (e.rate_gts == rate < widest[0]) or (e.lanes == lanes < widest[1])]
    useful, sent = _CODING.get(rate, (1, 1))
    raw = rate * lanes * 1000 / 8
    return Ceiling(raw, raw * useful / sent, " and ".join(limiting), rate in _CODING)


def bus_ceiling(rate_mts: float, channels: float, *, bits: int = BUS_BITS) -> Ceiling:
    """
    Work out what a memory bus carries: transfers a second times its width.

    Args:
        rate_mts: transfers a second in MT/s; channels: each `bits` wide.
    Returns: MB/s; a parallel bus loses nothing to coding.
    Raises:
        BadValue: a rate or a number of channels that is not above zero.
    Source: the definition of a parallel bus.
    """
    if rate_mts <= 0 or channels <= 0:
        raise BadValue("A memory bus has a rate and a number of channels above zero.")
    raw = rate_mts * channels * bits / 8
    return Ceiling(raw, raw)


def ceiling_of(limits: Mapping[str, Plain], build: Build, part: Part) -> Ceiling | None:
    """
    Find the ceiling of a part where it sits: of its own link and its seat's, or of the memory bus.

    Args:
        limits: of the machine, by their keys.
    Returns: None where the part's own figures, or its role, give none, and where it is not known which seat it sits
        in: a link that it may not go over limits nothing.
    """
    if part.role == "memory":
        return _memory_ceiling(limits, build, part)
    own = _end(part.label, part.rated, "link_gts", "lanes")
    if own is None or part.role not in _SLOTS:
        return None
    seats = _seats_of(limits, build, part)
    if len(seats) != 1:
        return None
    return link_ceiling([own, *(end for end in seats[0].ends if end is not None)])


def is_seat_known(limits: Mapping[str, Plain], build: Build, part: Part) -> bool:
    """
    Say whether it is known where a part with a link sits; True of one that sits in no seat.

    Args:
        limits: the machine's limits by key, as typed.
        build: the build whose seats are asked.
        part: a part of that build.
    """
    return part.role not in _SLOTS or len(_seats_of(limits, build, part)) == 1


@dataclass(frozen=True, slots=True)
class _Seat:
    """A place that a part may sit in: the kind of slot it gives, and the link there where it is noted."""

    slot: Plain
    ends: tuple[LinkEnd | None, ...]
    adapter: Part | None = None

    def is_called(self, name: Plain) -> bool:
        """By the slot it gives, or as the adapter that it is."""
        return same_words(self.slot, name) or find_named(name, (self.adapter,) if self.adapter else ()) is not None


def _seats_of(limits: Mapping[str, Plain], build: Build, part: Part) -> list[_Seat]:
    """
    List the seats that the part may sit in: the one that the build's setting names, else those that it fits.

    Of several parts of a kind it can't be told which sits where.
    """
    rate, lanes = _SLOTS[part.role]
    adapters = [p for p in build.parts if p.role == "adapter"]
    path = _end("the path that slots share", limits, "path_gts", "path_lanes")
    own = _Seat(limits.get("drive_slot"), (_end("the slot", limits, rate, lanes), path))
    on_adapter = {
        adapter.id: _Seat(
            adapter.rated.get("drive_slot"), (_end(adapter.label, adapter.rated, "link_gts", "lanes"), path), adapter
        )
        for adapter in adapters
    }
    seats = [own, *on_adapter.values()]
    # What is said of this very part goes before all that could only be worked out.
    if is_named_at_all(named := part.rated.get("seat")):
        return _seat_called(named, own, on_adapter)
    # Where no seat is known to carry less than another, it is the part's own link that limits it.
    if not adapters and not any(own.ends):
        return [own]
    carried = {a.id: find_named(a.rated.get("carries"), (p for p in build.parts if p is not a)) for a in adapters}
    mine = [on_adapter[key] for key, other in carried.items() if other is not None and other.id == part.id]
    if mine or (adapters and all(carried.values())):
        return mine or [own]
    if part.role != "drive":
        # An adapter may have taken the card slot.
        return [own] if not adapters and _alone(build, part) else []
    if not _alone(build, part):
        return []
    if is_named_at_all(named := build.settings.get("drive_slot")):
        return [seat for seat in seats if seat.is_called(named)]
    needed = part.rated.get("drive_slot")
    return [seat for seat in seats if not (needed and seat.slot) or same_words(seat.slot, needed)]


def _seat_called(name: Plain, own: _Seat, on_adapter: Mapping[str, _Seat]) -> list[_Seat]:
    """The seat that is named for a part; nothing where no part and no slot goes by that name."""
    adapters = [seat.adapter for seat in on_adapter.values() if seat.adapter is not None]
    if (adapter := find_named(name, adapters)) is not None:
        return [on_adapter[adapter.id]]
    if means_own_seat(name, own.slot):
        return [own]
    return [seat for seat in on_adapter.values() if same_words(seat.slot, name)]


def _alone(build: Build, part: Part) -> bool:
    return sum(other.role == part.role for other in build.parts) == 1


_SLOTS: Mapping[PartRole, tuple[str, str]] = {
    "drive": ("drive_link_gts", "drive_lanes"),
    "graphics": ("card_link_gts", "card_lanes"),
}


def _memory_ceiling(limits: Mapping[str, Plain], build: Build, part: Part) -> Ceiling | None:
    rated, channels = number(part.rated, "rate_mts"), number(part.rated, "channels")
    if rated is None or channels is None:
        return None
    rates = {
        part.label: rated,
        "the memory speed held": number(build.settings, "memory_mts"),
        "the board": number(limits, "memory_max_mts"),
    }
    known = {name: rate for name, rate in rates.items() if rate is not None}
    slowest = min(known.values())
    names = [name for name, rate in known.items() if rate == slowest < max(known.values())]
    ceiling = bus_ceiling(slowest, channels)
    return Ceiling(ceiling.raw, ceiling.usable, " and ".join(names))


def _end(name: str, figures: Mapping[str, Plain], rate: str, lanes: str) -> LinkEnd | None:
    rate_gts, count = number(figures, rate), number(figures, lanes)
    return LinkEnd(name, rate_gts, count) if rate_gts is not None and count is not None else None


def number(figures: Mapping[str, Plain], key: str) -> float | None:
    """
    Read a figure above zero; None where it is missing or is no number.

    Args:
        figures: rated figures or limits by key, in the unit of the key.
        key: which of them.
    """
    value = figures.get(key)
    usable = isinstance(value, (int, float)) and not isinstance(value, bool) and value > 0
    return float(value) if usable and value is not None else None
