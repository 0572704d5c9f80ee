"""What is said of one measure's result: every figure rounded by its interval, every verdict in one wording."""

import math
from collections.abc import Sequence
from dataclasses import dataclass

from lynxbill.core.record.ledger_entries import Showing
from lynxbill.core.result.result import MeasureResult
from lynxbill.core.result.shares import ImpliedShare
from lynxbill.core.result.span import Span, span_of
from lynxbill.core.terms.measure import STEPPED, Measure, difference_unit, gain_percent
from lynxbill.core.terms.quantity import unit_of
from lynxbill.words.base.change import Change, in_units
from lynxbill.words.base.figures import (
    DecimalMark,
    decimals_for,
    figure,
    pair,
    percent,
    reading,
    shown,
    signed_percent,
    step,
)
from lynxbill.words.base.times import say_time, say_times
from lynxbill.words.base.verdicts import GRADES, VERDICTS
from lynxbill.words.results.context import say_context
from lynxbill.words.results.remarks import say_remark, say_settling, say_why


@dataclass(frozen=True, slots=True)
class Worded:
    """
    One result in words.

    `change` is its shortest form, `ratio` the one for a sentence ("1.34× as fast"), `both` the two readings, `forms`
    the change in every way that it may be said; `before` and `after` stand in columns whose head names the unit.
    `sentence` says what is known, `known` the same on every screen but Judge, where verdicts are given first; `why`
    and `remark` why the verdict is what it is, in few words and in full. `context` sets it against what is known
    beside it, a line each; `drawn` is where a picture puts it.
    """

    change: str
    ratio: str
    both: str
    forms: tuple[str, ...]
    before: str
    after: str
    unit: str
    interval: str | None
    level: str
    sentence: str
    known: str
    why: str | None
    remark: str | None
    grade: str | None
    margin: str
    hoped: str | None
    floor: str | None
    rise: str | None
    settling: str | None
    late: str | None
    first: str | None
    today: str | None
    context: tuple[str, ...]
    drawn: Span | None


def say_result(result: MeasureResult, mark: DecimalMark, shares: Sequence[ImpliedShare] = ()) -> Worded:
    """Put a result into words, with the machine's decimal mark; `shares` are those of its comparison."""
    measure = result.measure
    change = change_of(result, mark)
    before, after = _in_columns(result, mark)
    return Worded(
        change=_say_change(result, change, mark),
        ratio=say_ratio(result, mark),
        both=_say_both(result, mark),
        forms=_say_forms(result, change, mark),
        before=before,
        after=after,
        unit=unit_shown(result),
        interval=change.say_interval() if change else None,
        level=percent(0.95 if result.level is None else result.level),
        sentence=say_sentence(result, mark),
        known=say_sentence(result, mark) if result.is_given else f"{measure.name}: complete, judge it",
        why=say_why(result),
        remark=say_remark(result, mark),
        grade=GRADES[result.grade] if result.grade else None,
        margin=say_margin(result, mark),
        hoped=_say_hoped(result, mark),
        floor=_say_floor(result, mark),
        rise=_say_rise(result, mark),
        settling=say_settling(result),
        late=_say_late(result, mark),
        first=_say_first(result, mark),
        today=_say_today(result, mark),
        context=say_context(result, shares, mark),
        drawn=span_of(result),
    )


def change_of(result: MeasureResult, mark: DecimalMark) -> Change | None:
    """The change of a result with its interval; None where a side has no run."""
    if result.estimate is None:
        return None
    low, high = (result.interval.low, result.interval.high) if result.interval else (None, None)
    return Change(result.measure, result.estimate, low, high, mark, result.sides.step)


def say_passed(result: MeasureResult) -> str | None:
    """Count what passed: "5 of 9 passed → 9 of 9", of a set whose runs are all alike in each run; None elsewhere."""
    passed = result.passed
    if passed is None or result.estimate is None:
        return None
    tries = result.measure.whole
    runs = tuple(sum(len(unit.runs) for unit in side) for side in (result.sides.before, result.sides.after))
    per_run = [divmod(count, max(1, n)) for count, n in zip(passed, runs, strict=True)]
    if result.measure.of is not None and all(runs) and not any(rest for _, rest in per_run):
        return f"{per_run[0][0]} of {tries} passed → {per_run[1][0]} of {tries}"
    return f"{passed[0]} of {runs[0] * tries} passed → {passed[1]} of {runs[1] * tries}"


def say_ratio(result: MeasureResult, mark: DecimalMark) -> str:
    """Say how many times as fast it is, of work; of all else the plain change."""
    change = change_of(result, mark)
    if change is None or not change.is_times or result.estimate is None:
        return _say_change(result, change, mark)
    gain = gain_percent(result.estimate)
    return say_times(1 + gain / 100, mark, score=result.measure.kind == "score", decimals=3 if abs(gain) < 10 else 2)


def say_sentence(result: MeasureResult, mark: DecimalMark) -> str:
    """Say what is known of a measure, without a full stop."""
    name, ratio = result.measure.name, say_ratio(result, mark)
    provisionally = ", provisionally" if result.provisional else ""
    match result.verdict.word:
        case "real_gain":
            return f"{name}: {ratio}, and the gain is real{provisionally}"
        case "real_loss":
            return f"{name}: {ratio}, and the loss is real{provisionally}"
        case "no_change":
            return f"{name} did not change by an amount that matters{provisionally}"
        case "not_settled":
            return f"{name}: {ratio}, but not settled"
        case "untested":
            if result.estimate is None:
                return f"{name} is not measured on both sides yet"
            return f"{name}: {ratio} so far, untested"


def say_margin(result: MeasureResult, mark: DecimalMark) -> str:
    """Say from where on a change matters: "±1.5 %"."""
    matters = result.planned.matters_from
    return f"±{in_units(shown(matters, 1 if matters % 1 else 0, mark), result.measure)}"


def unit_shown(result: MeasureResult) -> str:
    """In which unit the two means stand: temperatures in kelvin where they are taken above the room."""
    return "K" if result.sides.above_room else unit_of(result.measure.unit).display


def is_stepped(measure: Measure) -> bool:
    """Whether its readings are steps or counts, which have no fraction."""
    return measure.scale in STEPPED


def _say_change(result: MeasureResult, change: Change | None, mark: DecimalMark) -> str:
    if change is None:
        return "–"
    return say_passed(result) or change.say()


def _in_columns(result: MeasureResult, mark: DecimalMark) -> tuple[str, str]:
    """Both means as they stand beside each other."""
    before, after = result.before_mean, result.after_mean
    if before is not None and after is not None and not is_stepped(result.measure):
        return pair(before, after, mark)
    return _in_column(before, result.measure, mark), _in_column(after, result.measure, mark)


def _in_column(mean: float | None, measure: Measure, mark: DecimalMark) -> str:
    if mean is None:
        return "–"
    return shown(mean, 0 if mean == int(mean) else 1, mark) if is_stepped(measure) else figure(mean, mark)


def _say_both(result: MeasureResult, mark: DecimalMark) -> str:
    before, after = result.before_mean, result.after_mean
    if passed := say_passed(result):
        return passed
    unit = unit_shown(result)
    known = [mean for mean in (before, after) if mean is not None]
    if before is None or after is None:
        return reading(known[0], unit, mark) if known else "not measured"
    if is_stepped(result.measure):
        return f"{_in_column(before, result.measure, mark)} → {_in_column(after, result.measure, mark)}"
    first, second = reading(before, unit, mark), reading(after, unit, mark)
    if first == second and before != after:
        first, second, _ = step(before, after, unit, mark)
    # The unit stands once, but for times that are written out.
    elif first == f"{figure(before, mark)} {unit}".rstrip() and second == f"{figure(after, mark)} {unit}".rstrip():
        first, second = pair(before, after, mark)
        second = f"{second} {unit}".rstrip()
    return f"{first} → {second}"


def _say_forms(result: MeasureResult, change: Change | None, mark: DecimalMark) -> tuple[str, ...]:
    if change is None or say_passed(result):
        return ()
    plain, ratio = change.say(), say_ratio(result, mark)
    forms = [plain if ratio == plain else f"{ratio} ({plain})"]
    saved = result.time_saved_percent
    if saved is not None:
        forms.append(f"the same task takes {say_time(saved, mark, change.decimals)}")
    absolute = _say_absolute(result, mark)
    return (", ".join(forms), *([absolute] if absolute else []))


def _say_absolute(result: MeasureResult, mark: DecimalMark) -> str | None:
    """The change in the measure's own unit beside its percent: "10.9 s less"."""
    before, after = result.before_mean, result.after_mean
    if result.gain_percent is None or before is None or after is None or before == after:
        return None
    _, _, size = step(before, after, unit_shown(result), mark)
    return f"{size} {'less' if after < before else 'more'}"


def _say_hoped(result: MeasureResult, mark: DecimalMark) -> str | None:
    hoped, measure = result.planned.hoped_for, result.measure
    reached = result.estimate if result.gain_percent is None else result.gain_percent
    if hoped is None or reached is None:
        return None
    if measure.scale == "ratio":
        size = signed_percent(hoped, 0 if hoped == int(hoped) else 1, mark)
    else:
        size = in_units(shown(hoped, 0 if hoped == int(hoped) else 1, mark), measure)
    return f"{size}, {'reached' if reached >= hoped else 'not reached'}"


def _say_floor(result: MeasureResult, mark: DecimalMark) -> str | None:
    """What the unchanged machine shows between two such sides, and where the change stands to it."""
    if result.floor is None:
        return None
    size = gain_percent(result.floor) if result.measure.scale == "ratio" else result.floor
    unit = unit_of(difference_unit(result.measure)).display
    sentence = f"±{shown(size, decimals_for(size), mark)} {unit}".rstrip()
    return f"{sentence}, not exceeded" if result.within_floor else sentence


def _say_rise(result: MeasureResult, mark: DecimalMark) -> str | None:
    """The one percent that a temperature may have: "14 % less of a rise above the room"."""
    saved = result.rise_saved_percent
    if saved is None:
        return None
    return f"{shown(abs(saved), 1, mark)} % {'less' if saved >= 0 else 'more'} of a rise above the room"


def _say_late(result: MeasureResult, mark: DecimalMark) -> str | None:
    """The same measure with all that was taken out or changed after it had been seen."""
    late = result.with_late
    if late is None:
        return None
    change = "–" if late.estimate is None else Change(late.measure, late.estimate, mark=mark).say()
    why = (
        "A sitting was closed short of its plan. With it"
        if result.closed_short
        else "Something was left out or changed after its reading had been seen. As it stood before"
    )
    return f"{why}: {change}, {VERDICTS[late.verdict.word].lower()}; the verdict is the more cautious of both."


def _say_first(result: MeasureResult, mark: DecimalMark) -> str | None:
    """What was first said of a measure, where that is not what stands here now; when it was is told beside it."""
    entry = result.first_shown
    if entry is None or not entry.verdict or (not result.changed and entry.verdict == result.verdict.word):
        return None
    sentence = _say_entry(entry, result.measure, mark)
    return f"{sentence}. {'Readings were changed since' if result.changed else 'More was measured since'}."


def _say_today(result: MeasureResult, mark: DecimalMark) -> str | None:
    """What today's rules say of the readings that an earlier rule gave its verdict on."""
    today = result.today
    if today is None:
        return None
    change = change_of(today, mark)
    interval = change.say_interval() if change is not None else None
    figures = f"{change.say()}{f' ({interval})' if interval else ''}, " if change is not None else ""
    return (
        f"The verdict given first stands, by rules number {result.rules}. By today’s rules, number {today.rules}: "
        f"{figures}{VERDICTS[today.verdict.word].lower()}."
    )


def _say_entry(entry: Showing, measure: Measure, mark: DecimalMark) -> str:
    word = next(sentence for key, sentence in VERDICTS.items() if key == entry.verdict).lower()
    if entry.gain is None or not math.isfinite(entry.gain):
        return word
    change = Change(measure, entry.gain, entry.low, entry.high, mark)
    interval = change.say_interval()
    return f"{change.say()}{f' ({interval})' if interval else ''}, {word}"
