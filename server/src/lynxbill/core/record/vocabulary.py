"""The vocabulary of a machine: rated figures of parts, limits, settings and conditions, each with its unit."""

import re
from collections.abc import Mapping
from dataclasses import dataclass
from typing import Literal

from lynxbill.core.record.build import PartRole
from lynxbill.core.record.ids import Plain
from lynxbill.core.record.possible import Possible, possible_in
from lynxbill.core.record.swap import NoteKind
from lynxbill.core.terms.errors import BadValue, Refusal, Several

FigureKind = Literal["count", "number", "text", "date", "part"]


@dataclass(frozen=True, slots=True)
class Figure:
    """
    One thing that can be known of a part, a machine or a sitting.

    `words` are what may stand beside the number when it is typed ("GHz boost"); `unit` is how it is shown. A `part`
    is the name of another part of the build.
    """

    key: str
    label: str
    kind: FigureKind
    unit: str = ""
    words: tuple[str, ...] = ()

    @property
    def possible(self) -> Possible | None:
        """What it can be on any PC; None where that is not known."""
        return possible_in(self.unit) if self.kind == "number" else None


def _count(key: str, label: str, *words: str, unit: str = "") -> Figure:
    return Figure(key, label, "count", unit, words)


def _number(key: str, label: str, unit: str, *words: str) -> Figure:
    return Figure(key, label, "number", unit, words or (unit,))


def _text(key: str, label: str, *words: str) -> Figure:
    return Figure(key, label, "text", "", words)


_SOURCE = _text("source", "where the figures come from", "source", "from")
_LINK = (_number("link_gts", "link rate", "GT/s"), _count("lanes", "lanes", "lanes", "lane"))
_SOCKET = _text("socket", "socket", "socket")
_POWER = _number("power_w", "rated power", "W")
_VOLTS = _number("volts", "supply voltage", "V")
# What paste, pads and coolers are on: the processor, where nothing else is said.
_BELONGS = Figure("belongs_to", "belongs to", "part", "", ("belongs to", "on the", "on"))
# The slot of the board, where no part goes by the name.
_SEAT = Figure("seat", "sits in", "part", "", ("sits in", "in"))

PART_FIGURES: Mapping[PartRole, tuple[Figure, ...]] = {
    "processor": (
        _count("cores", "cores", "cores", "core"),
        _count("threads", "threads", "threads", "thread"),
        _number("base_ghz", "base clock", "GHz", "GHz base", "GHz"),
        _number("boost_ghz", "boost clock", "GHz", "GHz boost"),
        _POWER,
        _SOCKET,
        _text("min_firmware", "needs firmware", "needs firmware", "firmware"),
        _SOURCE,
    ),
    "cooler": (
        _number("rated_w", "rated for", "W", "W"),
        _number("height_mm", "height", "mm", "mm high", "mm tall", "mm"),
        _number("depth_mm", "depth with its fans", "mm", "mm deep"),
        _BELONGS,
        _number("fan_mm", "fan", "mm", "mm fan"),
        _SOCKET,
        _SOURCE,
    ),
    "thermal paste": (
        Figure("applied", "applied", "date", "", ("applied",)),
        _number("conductivity_wmk", "conductivity", "W/(m·K)"),
        _number("pad_mm", "pad thickness", "mm", "mm thick"),
        _BELONGS,
        _SOURCE,
    ),
    "memory": (
        _number("size_gb", "size", "GB"),
        _count("modules", "modules", "modules", "module"),
        _number("rate_mts", "rate", "MT/s"),
        _count("channels", "channels", "channels", "channel"),
        _text("memory_type", "type", "type"),
        _VOLTS,
        _SOURCE,
    ),
    "drive": (
        _number("size_gb", "size", "GB"),
        _text("drive_slot", "slot it needs", "slot"),
        _SEAT,
        *_LINK,
        _number("read_mbs", "rated read", "MB/s", "MB/s read", "MB/s"),
        _number("write_mbs", "rated write", "MB/s", "MB/s write"),
        _SOURCE,
    ),
    "graphics": (
        _POWER,
        _number("length_mm", "length", "mm", "mm long", "mm"),
        _number("height_mm", "height", "mm", "mm high"),
        _text("bracket", "bracket", "bracket"),
        _count("power_leads", "power leads", "power leads", "leads", "lead"),
        _text("lead_kind", "kind of lead", "lead kind"),
        _SEAT,
        *_LINK,
        _SOURCE,
    ),
    "board": (
        _SOCKET,
        _count("memory_slots", "memory slots", "memory slots"),
        _text("memory_type", "memory type", "memory type"),
        _SOURCE,
    ),
    "power supply": (_POWER, _count("power_leads", "power leads", "power leads", "leads", "lead"), _SOURCE),
    "adapter": (
        *_LINK,
        _text("drive_slot", "slot it gives", "slot"),
        Figure("carries", "carries", "part", "", ("carries", "for")),
        _SOURCE,
    ),
    "other": (_POWER, _SOURCE),
}

LIMITS: tuple[Figure, ...] = (
    _SOCKET,
    _number("processor_max_w", "most processor power", "W"),
    _count("processor_max_cores", "most cores", "cores"),
    _number("processor_held_w", "the board holds a processor to", "W"),
    _number("permitted_c", "highest permitted processor temperature", "°C"),
    _number("permitted_graphics_c", "highest permitted graphics temperature", "°C"),
    _number("permitted_drive_c", "highest permitted drive temperature", "°C"),
    _number("stop_c", "temperature at which a run is stopped", "°C"),
    _number("cooler_max_mm", "room above the processor", "mm"),
    _number("cooler_depth_max_mm", "room for a cooler's depth", "mm"),
    _number("pad_gap_mm", "gap that a pad fills", "mm"),
    _text("memory_type", "memory type", "type"),
    _count("memory_slots", "memory slots", "slots"),
    _number("memory_max_gb", "most memory", "GB"),
    _number("memory_volts", "memory voltage", "V"),
    _number("memory_max_mts", "fastest memory", "MT/s"),
    _text("drive_slot", "free drive slot", "slot"),
    _number("drive_link_gts", "drive slot, link rate", "GT/s"),
    _count("drive_lanes", "drive slot, lanes", "lanes"),
    _number("supply_w", "power supply", "W"),
    _count("free_leads", "free power leads", "leads"),
    _text("lead_kinds", "kinds of free leads", "kinds"),
    _number("card_max_mm", "longest card", "mm"),
    _number("card_height_max_mm", "highest card", "mm"),
    _text("card_bracket", "bracket of a card", "bracket"),
    _number("card_link_gts", "card slot, link rate", "GT/s"),
    _count("card_lanes", "card slot, lanes", "lanes"),
    _number("path_gts", "path that slots share, link rate", "GT/s"),
    _count("path_lanes", "path that slots share, lanes", "lanes"),
    _text("battery", "battery", "battery"),
    _SOURCE,
)

SETTINGS: tuple[Figure, ...] = (
    _count("threads", "threads that tasks run in"),
    _number("memory_mts", "memory speed", "MT/s"),
    _number("power_limit_w", "power limit", "W"),
    _text("fan_mode", "fan mode"),
    _text("system", "operating system"),
    _text("firmware", "firmware"),
    _text("graphics_driver", "graphics driver"),
    _text("drive_slot", "drive sits in slot"),
)

CONDITIONS: tuple[Figure, ...] = (
    _number("ambient_low_c", "room, from", "°C"),
    _number("ambient_high_c", "room, to", "°C"),
    _text("fan", "fan mode"),
    _number("power_limit_w", "power limit", "W"),
    _text("power_source", "power source"),
    _text("background", "background programs"),
    _text("since_power_on", "since power-on"),
    _text("screens", "screens"),
    _text("position", "position"),
    _text("network", "network"),
)

# Of one run; what is held in all of them stands with the sitting.
RUN_CONDITIONS: tuple[Figure, ...] = (
    _number("ambient_c", "room", "°C"),
    _number("ambient_end_c", "room at its end", "°C"),
    _text("fan", "fan level"),
    _number("clock_ghz", "clock held", "GHz"),
    _number("lost_min", "minutes lost", "min"),
    _number("rest_min", "rest before it", "min"),
    _number("start_c", "temperature at its start", "°C"),
    _text("at_rest", "at rest at its start"),
    _number("other_core_percent", "other programs, share of a core", "%"),
    _number("other_load_percent", "other programs, share of the processor", "%"),
    _text("other_programs", "other programs"),
    _number("memory_free_mib", "memory free", "MiB"),
    _text("governor", "rule for the clock"),
    _text("power_source", "power source"),
    _number("drive_fill_percent", "drive filled", "%"),
    _number("drive_health_percent", "drive health", "%"),
    _number("drive_c", "drive temperature", "°C"),
    _text("drive_firmware", "drive firmware"),
    _text("drive_link", "drive link"),
    _text("told_by", "told by"),
    _text("nuisance", "nuisance"),
    _count("nuisance_step", "how bad, 1 to 4"),
)

# How a machine was found, by kind of note: described steps, the best first.
FOUND_STEPS: Mapping[NoteKind, tuple[str, ...]] = {
    "dust found": ("none to be seen", "a film", "fins half closed", "fins closed"),
    "paste found": ("soft and whole", "thin, or pumped to the edges", "dry", "cracked or missing"),
}

_SPOKEN = {"threads": "threads", "drive_slot": "drive slot"}
_DATE = re.compile(r"\d{4}(-(0[1-9]|1[0-2])(-(0[1-9]|[12]\d|3[01]))?)?")


def check_figures(given: Mapping[str, Plain], known: tuple[Figure, ...], place: str) -> None:
    """
    Refuse figures that can't be what they are called; keys that are not in the vocabulary are free.

    Args:
        given: key and value as written.
        known: the figures that may stand there.
        place: where they stand, for the refusal's field ("rated").
    Raises:
        BadValue: one figure of the wrong kind, with its field; Several: more than one.
    """
    figures = {figure.key: figure for figure in known}
    refusals: list[Refusal] = []
    for key, value in given.items():
        why = _why_not(value, figures[key]) if key in figures and value is not None else None
        if why is not None:
            refusals.append(BadValue(f"{figures[key].label}: “{value}” came; {why}.", field=f"{place}.{key}"))
    if len(refusals) == 1:
        raise refusals[0]
    if refusals:
        raise Several(refusals)


def _why_not(value: Plain, figure: Figure) -> str | None:
    number = value if isinstance(value, (int, float)) and not isinstance(value, bool) else None
    if figure.kind == "count":
        return None if number is not None and number >= 0 and number == int(number) else "write a whole number"
    if figure.kind == "number":
        return None if number is not None else f"write a number{', in ' + figure.unit if figure.unit else ''}"
    if figure.kind == "date":
        return None if _DATE.fullmatch(str(value)) else "write a date like 2026-05-04, or the month or year of it"
    return None


def setting_label(name: str) -> str:
    """
    Call a setting as it is spoken of: "power limit" for power_limit_w; one of its owner's by its own name.

    Args:
        name: key of the setting.
    """
    figure = next((f for f in SETTINGS if f.key == name), None)
    return _SPOKEN.get(name) or (figure.label if figure else name.replace("_", " "))


def setting_value(name: str, value: Plain) -> str:
    """
    Write a setting's value with its unit.

    Args:
        name: key of the setting, which knows its unit.
        value: as it is kept.
    """
    figure = next((f for f in SETTINGS if f.key == name), None)
    return f"{value} {figure.unit}" if figure and figure.unit else str(value)
