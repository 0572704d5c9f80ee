"""A run while it lasts, in words: what it is doing, where it stands against the other side, what departs now."""

from collections.abc import Mapping
from dataclasses import dataclass

from lynxbill.core.heat.live import Latest
from lynxbill.core.heat.roles import SENSED, ChannelRole
from lynxbill.core.plan.conditions import NotHeld, rooms_are_apart
from lynxbill.core.record.disturbance import OTHERS_DISTURB_FROM
from lynxbill.core.record.ids import Plain
from lynxbill.words.base.conditions import say_condition, say_not_held
from lynxbill.words.base.figures import DecimalMark, shown
from lynxbill.words.base.sensors import SENSORS
from lynxbill.words.heat.heat import say_course

# So much hotter than the other side at the same minute, something is amiss rather than worse.
MUCH_HOTTER_K = 5.0


@dataclass(frozen=True, slots=True)
class Seen:
    """
    What was seen of a run by now; rooms in °C, times in seconds, `None` where it is not told.

    `length_s` is how long runs of this work took; `rooms` are those of this side and of the other; `units` by role,
    as they are shown. `held` are conditions of the plan that are met; `seen` is what the agent saw beside the sensors
    just now (RUN_CONDITIONS), with the power source at the run's start as `power_source_before`.
    """

    workload: str
    build: str
    run: str
    elapsed_s: float
    length_s: float | None
    above_room: bool
    other_build: str | None
    rooms: tuple[float | None, float | None]
    units: Mapping[ChannelRole, str]
    latest: Mapping[ChannelRole, Latest]
    clock_falls_s: float | None
    held_back_s: float | None
    not_held: tuple[NotHeld, ...]
    held: tuple[tuple[str, Plain], ...]
    seen: Mapping[str, Plain]
    missing: Mapping[str, str]
    stands_in: bool


@dataclass(frozen=True, slots=True)
class WordedNow:
    """One line of what is so now: what, how much, and against the other side at this minute."""

    what: str
    now: str
    beside: str


@dataclass(frozen=True, slots=True)
class WordedLive:
    """
    The first sentence, the line beneath it, what is so now, what departs or is not told, what is held as planned, and
    what spoils it or would.
    """

    lead: str
    beneath: str
    now: tuple[WordedNow, ...]
    departs: tuple[str, ...]
    held: str
    spoils: tuple[str, ...]
    minute: str


def say_live(seen: Seen, mark: DecimalMark) -> WordedLive:
    """Put into words how a run is doing."""
    return WordedLive(
        lead=_lead(seen, mark),
        beneath=_beneath(seen),
        now=tuple(_now(role, seen, mark) for role in SENSED if role in seen.latest),
        departs=tuple(_departs(seen, mark)),
        held="; ".join(say_condition(name, value, mark) for name, value in seen.held),
        spoils=tuple(_spoils(seen, mark)),
        minute=str(_minute(seen.elapsed_s)),
    )


def say_level(role: ChannelRole, level: float | None, mark: DecimalMark) -> str | None:
    """A level of a channel in its unit, as finely as it is told of a run that lasts; None where nothing told it."""
    return None if level is None else shown(level, SENSED[role].decimals, mark)


def _lead(seen: Seen, mark: DecimalMark) -> str:
    latest = seen.latest.get("temperature")
    if latest is None:
        return f"{seen.workload}, {seen.run}: minute {_minute(seen.elapsed_s)}. No temperature is told."
    if latest.course is None:
        course = f"Minute {_minute(seen.elapsed_s)}: too early to say whether it settles"
    else:
        worded = say_course(latest.course, "K", mark)
        course = f"{worded[0].upper()}{worded[1:]}"
    if latest.others is None or seen.other_build is None:
        return f"{course}. Nothing of another side stands beside it yet."
    beside = _beside("temperature", latest, mark)
    joined = "as" if beside == SENSORS["temperature"].alike else "than"
    return f"{course}. {beside[0].upper()}{beside[1:]} {joined} build {seen.other_build} at this minute."


def _beneath(seen: Seen) -> str:
    left = ""
    if seen.length_s is not None:
        rest = seen.length_s - seen.elapsed_s
        left = f" · about {_minute(rest)} min left" if rest > 0 else " · longer than the runs before it"
    return (
        f"{seen.workload}, {seen.run} · build {seen.build}{left} · the bench agent measures; leave the machine alone."
    )


def _minute(seconds: float) -> int:
    return int(seconds // 60) + 1


def _now(role: ChannelRole, seen: Seen, mark: DecimalMark) -> WordedNow:
    latest, unit = seen.latest[role], seen.units[role]
    what = "Above the room" if role == "temperature" and seen.above_room else SENSORS[role].name
    shown_unit = "K" if role == "temperature" and seen.above_room else unit
    decimals = SENSED[role].decimals
    beside = "" if latest.others is None else _beside(role, latest, mark, unit="K" if role == "temperature" else unit)
    return WordedNow(what, f"{shown(latest.now, decimals, mark)} {shown_unit}", beside)


def _beside(role: ChannelRole, latest: Latest, mark: DecimalMark, unit: str = "K") -> str:
    """How far it is from the other side at this minute: "5.2 K cooler", "as before"."""
    if latest.others is None:
        return ""
    apart = latest.now - latest.others
    sensed, words = SENSED[role], SENSORS[role]
    if abs(apart) < sensed.within:
        return words.alike
    return f"{shown(abs(apart), sensed.decimals, mark)} {unit} {words.more if apart > 0 else words.less}"


def _spoils(seen: Seen, mark: DecimalMark) -> list[str]:
    """What disturbs the run now; where nothing does, what would."""
    sentences = []
    share, programs = seen.seen.get("other_core_percent"), seen.seen.get("other_programs")
    if isinstance(share, (int, float)) and share > 0:
        who = str(programs or "Another program")
        sentences.append(f"{who} takes {shown(share, 0, mark)} % of a core now: it would disturb this run. End it.")
    now, before = seen.seen.get("power_source"), seen.seen.get("power_source_before")
    if now and before and now != before:
        sentences.append(f"Runs on {now} now, on {before} at its start: it would spoil this run.")
    if sentences:
        return sentences
    least = shown(100 * OTHERS_DISTURB_FROM, 0, mark)
    return [
        f"Nothing disturbs it now. A program that takes {least} % of a core or more, another "
        "fan or power setting, or a window opened to the room would spoil it."
    ]


def _departs(seen: Seen, mark: DecimalMark) -> list[str]:
    here, there = seen.rooms
    sentences = []
    latest = seen.latest.get("temperature")
    if latest is not None and latest.others is not None and latest.now - latest.others >= MUCH_HOTTER_K:
        hotter = shown(latest.now - latest.others, 1, mark)
        sentences.append(
            f"{hotter} K hotter than build {seen.other_build} at this minute: is the fan’s lead plugged in, and the "
            "cooler seated?"
        )
    if here is None:
        sentences.append("The room’s temperature is not noted: write it down under “Correct the conditions”.")
    elif there is not None and rooms_are_apart(here, there):
        counted = " Counted: temperatures are above the room." if seen.above_room else ""
        more = "warmer" if here > there else "cooler"
        sentences.append(f"The room is {shown(abs(here - there), 1, mark)} K {more} than on the other side.{counted}")
    if seen.clock_falls_s is not None:
        why = ": heat" if seen.held_back_s is not None else ""
        sentences.append(f"The clock falls since minute {_minute(seen.clock_falls_s)}{why}.")
    elif seen.held_back_s is not None:
        sentences.append(f"Held back by heat since minute {_minute(seen.held_back_s)}.")
    sentences += [f"{text[0].upper()}{text[1:]}." for text in (say_not_held(one, mark) for one in seen.not_held)]
    if seen.stands_in:
        sentences.append("Sensors stand in for the machine’s own.")
    sentences += [f"No {role}: {why}." for role, why in seen.missing.items()]
    return sentences
