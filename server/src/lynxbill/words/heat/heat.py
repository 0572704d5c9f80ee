"""Heat in words: settled or still climbing, and why there is no equilibrium."""

from collections.abc import Iterator, Mapping
from dataclasses import dataclass

from lynxbill.core.heat.equilibrium import LEAST_SAMPLES, LEAST_TAUS, NotReached
from lynxbill.core.heat.roles import SENSED, ChannelRole
from lynxbill.core.heat.settled import AHEAD_S, Course
from lynxbill.core.heat.sides import Band, Overlay, SideHeat
from lynxbill.words.base.figures import DecimalMark, bench_minutes, counted, listed, shown
from lynxbill.words.base.sensors import SENSORS, unit_shown

# Sides nearer to each other than a sensor's step are alike.
ALIKE_K = 0.05
NO_LIMITS: Mapping[str, float] = {}

_WAYS = {"climbs": "climbing", "falls": "falling"}


def say_course(course: Course, unit: str, mark: DecimalMark) -> str:
    """Say whether a channel has settled, or how far it has to go: "still climbing: 2.1 K to go, about 7 min"."""
    match course.moving:
        case None:
            return "settled"
        case "left to go":
            still = f"still {_WAYS[course.way]}"
            if course.left is None or course.minutes is None:
                return (
                    f"{still}, {shown(abs(course.per_min), 1, mark)} {unit} a minute; where it ends is not known yet"
                )
            return f"{still}: {shown(abs(course.left), 1, mark)} {unit} to go, about {bench_minutes(course.minutes)}"
        case "slower part":
            return "not shown to have settled: a slower part of it may be left; let it run longer"
        case "may move":
            return f"not shown to have settled: {_say_drift(course, unit, mark)}; let it run longer"


def _say_drift(course: Course, unit: str, mark: DecimalMark) -> str:
    if course.drift is None:
        return "too few samples at its end"
    furthest = max(abs(end) for end in course.drift)
    return f"may still move {shown(furthest, 1, mark)} {unit} in {AHEAD_S / 60:.0f} min"


def say_heading(course: Course, unit: str, mark: DecimalMark) -> str:
    """Say of what had not settled where it was heading, how far it had got and how long it needs."""
    sentence = say_course(course, "K" if unit == "Cel" else unit, mark)
    if course.moving != "left to go" or course.heading is None or course.gone is None:
        return sentence
    heading = f"{shown(course.heading, 1, mark)} {'°C' if unit == 'Cel' else unit}"
    return f"{sentence} more; {shown(100 * course.gone, 0, mark)} % of the way to {heading}"


def say_not_reached(found: NotReached, mark: DecimalMark = ".") -> str:
    """Say why there is no equilibrium."""
    minutes = shown(found.lasted_s / 60, 1, mark)
    match found.why:
        case "too_few_samples":
            return f"Too few samples: {found.n} came, and {LEAST_SAMPLES} are needed."
        case "too_short":
            needed = shown(LEAST_TAUS * (found.tau or 0.0) / 60, 1, mark)
            return f"Not reached: the load lasted {minutes} min, and {needed} min are needed at its time constant."
        case "no_curve":
            return "The samples do not follow the curve of a body that heats up or cools down."
        case "too_correlated":
            return "The samples hang together so closely that they are worth fewer than four independent ones."


@dataclass(frozen=True, slots=True)
class WordedRow:
    """One line beneath the curves: what, on both sides, and how they differ."""

    what: str
    before: str
    after: str
    change: str


@dataclass(frozen=True, slots=True)
class WordedOverlay:
    """What stands above and beside two sides laid over each other."""

    sentence: str
    beneath: str
    rows: tuple[WordedRow, ...]
    unit: str
    held_before: str
    held_after: str
    minute: str


@dataclass(frozen=True, slots=True)
class PictureCurve:
    """A mean curve as it is drawn: seconds since the load began, values in `unit` (None: a gap)."""

    role: ChannelRole
    unit: str
    at: tuple[float, ...]
    values: tuple[float | None, ...]


@dataclass(frozen=True, slots=True)
class PictureSide:
    """A side of a picture: its mean curves, where it would have ended, and when it was held back (s)."""

    build: str
    letter: str
    means: tuple[PictureCurve, ...]
    equilibrium: Band | None
    held: tuple[tuple[float, float], ...]


@dataclass(frozen=True, slots=True)
class HeatPicture:
    """Both sides laid over each other, to be drawn in a report."""

    workload: str
    above_room: bool
    same_s: float
    sides: tuple[PictureSide, ...]
    worded: WordedOverlay
    window: tuple[float, float] | None = None


def say_overlay(overlay: Overlay, mark: DecimalMark, permitted: Mapping[str, float] = NO_LIMITS) -> WordedOverlay:
    """Put two sides into words: the same minute, where they would have ended, what held them back."""
    before, after = overlay.before, overlay.after
    unit = "K" if overlay.above_room else "°C"
    minute = shown(overlay.same_s / 60, 0 if overlay.same_s >= 90 else 1, mark)
    return WordedOverlay(
        sentence=_say_same_minute(overlay, minute, mark),
        beneath=_beneath(overlay),
        rows=(*_rows(before, after, unit, minute, mark), *_headroom(before, after, permitted, mark)),
        unit="K above the room" if overlay.above_room else "°C",
        held_before=_say_held(before, mark),
        held_after=_say_held(after, mark),
        minute=minute,
    )


def _say_same_minute(overlay: Overlay, minute: str, mark: DecimalMark) -> str:
    here, there = overlay.before.same_minute, overlay.after.same_minute
    if here is None or there is None:
        return f"The runs have no common minute up to minute {minute}."
    above = "" if overlay.above_room else " (the room is not noted on every side)"
    if abs(here - there) < ALIKE_K:
        return f"At minute {minute} of the load both sides are as warm{above}."
    way = "cooler" if there < here else "hotter"
    return f"At minute {minute} of the load {shown(abs(here - there), 1, mark)} K {way}{above}."


def _beneath(overlay: Overlay) -> str:
    sides = (overlay.before, overlay.after)
    counts = [f"{counted(side.runs, 'run')} in {counted(side.sittings, 'sitting')}" for side in sides]
    climbing = [
        f"{side.runs - side.settled} of {side.runs} {name} not shown to have settled at the end"
        for side, name in zip(sides, ("before", "after"), strict=True)
        if side.settled < side.runs
    ]
    end = f"; {listed(climbing)}" if climbing else "; all had settled"
    return f"{counts[0]} before, {counts[1]} after, each by the minutes since its load began{end}."


def _rows(before: SideHeat, after: SideHeat, unit: str, minute: str, mark: DecimalMark) -> Iterator[WordedRow]:
    def row(
        what: str, here: float | None, there: float | None, decimals: int, unit: str, words: tuple[str, str]
    ) -> WordedRow:
        apart = None if here is None or there is None else there - here
        least = 10.0**-decimals / 2
        change = (
            ""
            if apart is None
            else "alike"
            if abs(apart) < least
            else f"{shown(abs(apart), decimals, mark)} {'K' if unit == '°C' else unit} {words[apart > 0]}".strip()
        )
        told = [
            "not told" if one is None else f"{shown(one, decimals, mark)} {unit}".strip() for one in (here, there)
        ]
        return WordedRow(what, told[0], told[1], change)

    warmer = ("cooler", "hotter")
    yield row(f"At minute {minute}", before.same_minute, after.same_minute, 1, unit, warmer)
    if before.equilibrium is not None and after.equilibrium is not None:
        here, there = before.equilibrium, after.equilibrium
        ends = row("Would have ended at", here.level, there.level, 1, unit, warmer)
        told = [f"{shown(b.low, 1, mark)} to {shown(b.high, 1, mark)} {unit}" for b in (here, there)]
        yield ends
        yield WordedRow("95 % interval of it", told[0], told[1], "")
    for what, name in (("Within 1 K of its end after", "within_s"), ("Half of the heat gone after", "recovery_s")):
        times = [seconds and seconds / 60 for seconds in (getattr(before, name), getattr(after, name))]
        if None not in times:
            yield row(what, times[0], times[1], 1, "min", ("sooner", "later"))
    if before.held_back is not None and after.held_back is not None:
        yield WordedRow("Held back", _share(before.held_back, mark), _share(after.held_back, mark), "")
    if before.mounts is not None and after.mounts is not None:
        yield WordedRow("Mounts", _mounts(before, mark), _mounts(after, mark), "")
    for role, what in _READ:
        here_is, there_is = getattr(before, role), getattr(after, role)
        if here_is is not None or there_is is not None:
            words = SENSORS[role].less, SENSORS[role].more
            yield row(what, here_is, there_is, SENSED[role].decimals, unit_shown(role), words)
    if before.resistance is not None or after.resistance is not None:
        yield row("Rise by power", before.resistance, after.resistance, 3, "K per W", ("less", "more"))


# What is read together, and what its row is called.
_READ: tuple[tuple[ChannelRole, str], ...] = (
    ("clock", "Clock held"),
    ("fan", SENSORS["fan"].name),
    ("noise", SENSORS["noise"].name),
    ("power", SENSORS["power"].name),
)


def _headroom(
    before: SideHeat, after: SideHeat, permitted: Mapping[str, float], mark: DecimalMark
) -> Iterator[WordedRow]:
    """How far the highest of each part stayed below what is permitted, in the rooms that it was measured in."""
    for part, limit in permitted.items():
        if part in before.peaks and part in after.peaks:
            left = [f"{shown(limit - side.peaks[part], 1, mark)} K" for side in (before, after)]
            yield WordedRow(f"Room to the {shown(limit, 0, mark)} °C of the {part}", left[0], left[1], "")


def _mounts(side: SideHeat, mark: DecimalMark) -> str:
    if side.mounts_apart is None:
        return "one: remounting is in it"
    return f"{side.mounts}, {shown(side.mounts_apart, 1, mark)} K apart"


def _share(share: float, mark: DecimalMark) -> str:
    return "never" if share == 0 else f"{shown(100 * share, 0, mark)} % of the load"


def _say_held(side: SideHeat, mark: DecimalMark) -> str:
    """What stands at the spans in which a side was held back."""
    if not side.held_back:
        return ""
    cause = max(side.causes, key=lambda name: side.causes[name], default="unknown")
    by = "" if cause == "unknown" else f" by {cause}"
    return f"held back{by}, {_share(side.held_back, mark)}"
