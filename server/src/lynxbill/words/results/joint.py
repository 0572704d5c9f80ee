"""A change of heat with what changed beside it: fan, sound, power and clock of the same runs."""

from collections.abc import Sequence

from lynxbill.core.result.joint import AIR, Joint
from lynxbill.core.result.result import MeasureResult
from lynxbill.core.terms.measure import Kind
from lynxbill.words.base.figures import DecimalMark, listed
from lynxbill.words.results.results import change_of


def say_joint(joint: Joint, changed: Sequence[str], change: str | None, mark: DecimalMark) -> str:
    """
    Say a change of heat with what changed beside it: "3.2 K cooler, but with a 250 rpm faster fan: …".

    Args:
        changed: what the swap changed, each by its name; change: what the plan says it is a swap of.
    """
    heat, own = _say(joint.heat, mark), _own(changed, change)
    match joint.word:
        case "trade":
            remedy = "fan" if any(result.measure.kind in AIR for result in joint.helped) else "power"
            return (
                f"{heat}, but {_beside(joint.helped, mark)}: {own} share is not known; a run at a fixed {remedy} "
                "would tell."
            )
        case "both":
            open_too = f"; {_not_known(joint.unknown)}" if joint.unknown else ""
            return f"{heat}, and {_beside(joint.despite, mark)}{open_too}."
        case "held equal":
            return f"{heat} at the same {listed(_names(joint.alike))}: that is {own}."
        case "not known":
            return f"{heat}; {_not_known(joint.unknown)}."
        case "not measured":
            return (
                f"{heat}; neither fan nor sound is among the measures, so a fan that ran faster or slower is in it."
            )


def _names(results: Sequence[MeasureResult]) -> list[str]:
    return [_KINDS[kind] for kind in dict.fromkeys(result.measure.kind for result in results)]


def _not_known(results: Sequence[MeasureResult]) -> str:
    names = _names(results)
    return f"whether the {listed(names)} {'was' if len(names) == 1 else 'were'} alike is not known"


_KINDS: dict[Kind, str] = {"fan": "fan", "noise": "sound", "power": "power", "clock": "clock"}
_OWN = {"thermal paste": "the paste’s own", "cooler": "the cooler’s own", "cleaning": "the cleaning’s own"}


def _own(changed: Sequence[str], change: str | None) -> str:
    if len(changed) > 1:
        return "the bundle’s own"
    return _OWN.get(change or "", "the swap’s own")


def _say(result: MeasureResult, mark: DecimalMark) -> str:
    change = change_of(result, mark)
    return "" if change is None else change.say()


# How what departed is joined to the change of heat.
_AT: dict[Kind, str] = {"fan": "at {} ", "clock": "at {} ", "power": "at ", "noise": ""}
_LIKE_AN = ("8", "11 ", "11.", "11,", "18 ", "18.", "18,")


def _beside(results: Sequence[MeasureResult], mark: DecimalMark) -> str:
    """What departed: "at a 250 rpm faster fan and 3.7 dB(A) louder"."""
    sentences = []
    for result in results:
        size = _say(result, mark)
        article = "an" if size.startswith(_LIKE_AN) else "a"
        sentences.append(f"{_AT[result.measure.kind].format(article)}{size}")
    return listed(sentences)
