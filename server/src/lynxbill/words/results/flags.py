"""Flags in words: what was seen in the evidence, what it means, and what helps."""

from collections.abc import Mapping
from typing import get_args

from lynxbill.core.record.disturbance import OTHERS_DISTURB_FROM, Cause
from lynxbill.core.result.flags import Flag, FlagCode
from lynxbill.core.result.result import MeasureResult
from lynxbill.core.terms.measure import gain_percent
from lynxbill.words.base.change import amount, in_units
from lynxbill.words.base.conditions import say_departures
from lynxbill.words.base.figures import DecimalMark, counted, listed, shown, typed
from lynxbill.words.base.verdicts import VERDICTS

_ALWAYS: Mapping[FlagCode, str] = {
    "too_few_runs": (
        "Too few runs to tell a change from chance: take at least three runs a side, better three sittings."
    ),
    "too_coarse": "Readings come in steps as large as their scatter: note more digits.",
    "few_sittings": "With fewer than five sittings a side, each one weighs much.",
    "drift_within_sittings": "Readings drift within sittings: does it warm up, or fill up?",
    "drift_across_sittings": (
        "Readings drift from sitting to sitting: a last one with the old part would tell it from the gain."
    ),
    "reboots_matter": "Reboots move this measure more than its runs scatter: sittings count.",
    "ambient_missing": "Heat was measured without a room temperature: the room may be the change.",
    "sittings_close": (
        "Sittings of a build follow each other within ten minutes, and no boot tells them apart: were they restarts "
        "at all?"
    ),
    "boots_unknown": "For some sittings nobody knows whether the machine was restarted before them.",
    "one_mount": "A side was measured on a single mount: the change can't be told from remounting the cooler.",
    "block_order": "Before, then after: slow drift of the machine is in it.",
    "corrected_late": (
        "Runs or sittings were taken out or changed after their readings had been seen; the verdict is the more "
        "cautious one of with and without them."
    ),
    "closed_short": (
        "A sitting was closed with fewer runs than planned; the verdict is the more cautious one of with and without "
        "it."
    ),
    "history_unknown": "Nobody knows what was shown of this comparison before.",
}


def say_flag(flag: Flag, result: MeasureResult, mark: DecimalMark) -> str:
    """
    Say what was seen and what it means, with the run or sitting named where it is one.

    Args:
        result: the result that it was seen in.
    """
    return _ALWAYS.get(flag.code) or _say_readings(flag, mark) or _say_runs(flag) or _say_around(flag, result, mark)


def _say_readings(flag: Flag, mark: DecimalMark) -> str | None:
    """What is flagged of single runs and sittings."""
    match flag.code:
        case "odd_run":
            return f"Run {flag.run} of {flag.side}-sitting {flag.sitting} stands far from the others of that sitting."
        case "cold_first_run":
            word = "slower or worse" if flag.figures[0] < 0 else "better"
            return f"The first run of a sitting is {word} than the rest. On both sides alike, it cancels."
        case "unequal_noise":
            return f"Runs scatter more on the {flag.side}-side: was something else running?"
        case "one_sitting_decides":
            return f"Without {flag.side}-sitting {flag.sitting} the verdict would change."
        case "above_ceiling":
            return (
                f"The {flag.side}-figure is {shown(flag.figures[0], 0, mark)} % of what the link can carry. "
                "Suspected: a cache answered, or the link is not the one that is noted."
            )
        case _:
            return None


def _say_runs(flag: Flag) -> str | None:
    """What is flagged of runs that do not count, or count less."""
    one = flag.count == 1
    match flag.code:
        case "told_values":
            told = "was told, not measured here; it enters" if one else "were told, not measured here; they enter"
            return f"{counted(flag.count, 'value')} {told} no test."
        case "recipe_differs":
            left = "was left out" if one else "were left out"
            return f"{counted(flag.count, 'run')} of another version, target, parameters or kind of reading {left}."
        case "left_out_late":
            was = "was left out after its reading" if one else "were left out after their readings"
            return f"{counted(flag.count, 'run')} {was} had been seen."
        case "room_noted_late":
            was = "it had" if one else "they had"
            return f"The room of {counted(flag.count, 'sitting')} was noted only after {was} been closed."
        case "throttled":
            return f"Held back by {listed(flag.names)}: {_say_sides(flag)}."
        case "disturbed":
            seen = listed([_DISTURBED[cause] for cause in get_args(Cause) if cause in flag.names])
            return f"Disturbed, as the agent saw it: {_say_sides(flag)} ({seen})."
        case _:
            return None


_DISTURBED: Mapping[Cause, str] = {
    "other programs": f"other programs at {100 * OTHERS_DISTURB_FROM:.0f} % of a core or more",
    "not at rest": "not at rest when they began",
    "battery": "on battery",
}


def _say_sides(flag: Flag) -> str:
    before, after = (f"{some} of {counted(runs, 'run')}" for some, runs in flag.runs)
    return f"{before} before, {after} after"


def _say_around(flag: Flag, result: MeasureResult, mark: DecimalMark) -> str:
    """What is flagged of the comparison, and of what the result rests on."""
    names = ", ".join(flag.names)
    match flag.code:
        case "cannot_settle":
            least = _size(result.to_settle.least, result, mark)
            if result.to_settle.too_coarse:
                return f"No number of sittings settles it: read it finer, or let it matter from {least}."
            return (
                "Not settleable at this scatter, even with twenty sittings a side: it would have to matter from "
                f"{least}."
            )
        case "within_noise_floor":
            return (
                f"Unchanged builds of this machine differ by up to {_size(result.floor, result, mark)} between "
                "sittings, which is as much as this change."
            )
        case "rests_on_pairing":
            word = VERDICTS[flag.word].lower() if flag.word is not None else "another verdict"
            return f"Without its pairs this would be “{word}”: the result rests on their ground."
        case "control_moved":
            return f"What should not move did: {names}."
        case "rests_on_mounts":
            word = VERDICTS[flag.word].lower() if flag.word is not None else "another verdict"
            return (
                f"Sittings share {counted(flag.count, 'mount')}; with each mount as one value this would be "
                f"“{word}”: remount more often to tell it from remounting."
            )
        case "does_not_load_it":
            return f"Its task is not said to load what was changed ({names}): it may not show this."
        case "several_changes":
            return f"Changed together: {names}. The gain belongs to the bundle."
        case "conditions_differ":
            return f"The sides were not measured alike: {say_departures(flag.departures, mark)}."
        case "changed_after_verdict":
            first = result.first_shown.verdict if result.first_shown is not None else ""
            sentence = next((label.lower() for word, label in VERDICTS.items() if word == first), "a verdict")
            return f"Readings were changed after the verdict was shown; first it said “{sentence}”."
        case "margin_changed":
            old, new = (typed(margin, mark) for margin in flag.figures)
            return (
                f"“Matters from” was changed from {old} to {in_units(new, result.measure)} after readings; the first "
                "one decides."
            )
        case code:
            raise LookupError(f"no words for the flag {code}")


def _size(difference: float | None, result: MeasureResult, mark: DecimalMark) -> str:
    size = difference or 0.0
    return amount(gain_percent(size) if result.measure.scale == "ratio" else size, result.measure, mark)
