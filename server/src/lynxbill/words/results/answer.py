"""The answer to the question that a machine came with, in one sentence."""

from lynxbill.core.result.answer import Answer, AnswerWord
from lynxbill.core.result.result import MeasureResult
from lynxbill.words.base.change import in_units
from lynxbill.words.base.figures import DecimalMark, shown, signed_percent
from lynxbill.words.base.times import say_time
from lynxbill.words.results.results import change_of, say_passed

_ANSWERS: dict[AnswerWord, str] = {
    "yes": "Yes",
    "no": "No, less than was hoped for",
    "not_settled": "Not settled",
}


def say_answer(answer: Answer | None, lead: MeasureResult | None, mark: DecimalMark) -> str:
    """The answer in one sentence; without a hoped-for gain it says what was bought, without yes or no."""
    if lead is None:
        return "Nothing was measured yet."
    name = lead.measure.name
    if not lead.is_given:
        return f"{name} is measured, and its verdict was given to nobody yet."
    change, plain = change_of(lead, mark), _plainly(lead, mark)
    provisionally = ", provisionally" if lead.provisional else ""
    match lead.verdict.word:
        case "real_gain":
            known = f"{plain}, and that is more than chance{provisionally}"
        case "real_loss":
            known = f"{plain}, and that is more than chance{provisionally}"
        case "no_change":
            known = f"{name} did not change by an amount that matters{provisionally}"
        case "not_settled":
            ends = change.say_interval() if change is not None else None
            between = f": it may lie anywhere from {ends}" if ends else ""
            known = f"{plain} so far, but that may be chance{between}"
        case "untested":
            known = f"{name} was not measured often enough to tell"
    if answer is None:
        return f"{known}."
    word = _ANSWERS[answer.word]
    return f"{word}: {known}. Hoped for: {say_hoped(answer.hoped, lead, mark)}."


def _plainly(lead: MeasureResult, mark: DecimalMark) -> str:
    """What became of the job in a customer's words: "Tile rendering takes 25 % less time (+34 % speed)"."""
    name, change, saved = lead.measure.name, change_of(lead, mark), lead.time_saved_percent
    if change is None:
        return f"{name} was not measured on both sides"
    if passed := say_passed(lead):
        return f"{name}: {passed}"
    if saved is not None and lead.gain_percent is not None:
        speed = signed_percent(lead.gain_percent, 0 if abs(lead.gain_percent) >= 10 else 1, mark)
        return f"{name} takes {say_time(saved, mark)} ({speed} speed)"
    if lead.measure.is_work:
        return f"{name} gives {change.say()}"
    return f"{name}: {change.say()}"


def say_hoped(hoped: float, lead: MeasureResult, mark: DecimalMark) -> str:
    """What was hoped for, in both forms where it is a percent of speed."""
    digits = 0 if hoped == int(hoped) else 1
    if lead.measure.scale != "ratio":
        return in_units(shown(hoped, digits, mark), lead.measure)
    less = 100 * hoped / (100 + hoped)
    time = f", which is {say_time(less, mark)}" if lead.measure.kind == "time" else ""
    return f"{signed_percent(hoped, digits, mark)}{' speed' if lead.measure.is_work else ''}{time}"
