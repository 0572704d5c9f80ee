"""For whom it is worth it: chosen from the verdicts; and what a typed advice says that no result bears out."""

import math
import re
from collections.abc import Iterable, Sequence
from dataclasses import dataclass

from lynxbill.core.judgement.verdict import VerdictWord
from lynxbill.core.record.frame import Machine
from lynxbill.core.record.swap import Explanation
from lynxbill.core.result.joint import read_together
from lynxbill.core.result.result import Comparison, MeasureResult
from lynxbill.core.terms.measure import Kind
from lynxbill.words.base.change import Change
from lynxbill.words.base.figures import DecimalMark, listed, shown
from lynxbill.words.base.verdicts import VERDICTS
from lynxbill.words.results.joint import say_joint
from lynxbill.words.results.results import change_of, say_passed


@dataclass(frozen=True, slots=True)
class Advice:
    """One piece of advice."""

    says: str


@dataclass(frozen=True, slots=True)
class Doubt:
    """A sentence of a typed advice, and what speaks against it."""

    sentence: str
    against: str


def advise(comparison: Comparison, machine: Machine, mark: DecimalMark) -> tuple[Advice, ...]:
    """Say for which of the tested uses it is worth it, for which it makes no difference, and what was not tested."""
    claims = [r for r in comparison.measures if r.planned.role == "claim" and r.is_given]
    sentences = [
        _of(claims, "real_gain", "Worth it for ", mark, brief=True),
        _of(claims, "no_change", "No difference for ", mark),
        _of(claims, "real_loss", "Worse: ", mark, brief=True),
        _of(claims, "not_settled", "Not settled for ", mark),
    ]
    tested = listed(list(dict.fromkeys(_as_spoken(r.measure.name) for r in claims)))
    scope = f"Tested: {tested}. Nothing is said of any other use." if tested else "Nothing was tested yet."
    return (*(advice for advice in sentences if advice is not None), Advice(scope))


def _of(
    claims: Sequence[MeasureResult], word: VerdictWord, lead: str, mark: DecimalMark, *, brief: bool = False
) -> Advice | None:
    of_word = [result for result in claims if result.verdict.word == word]
    if not of_word:
        return None
    names = [f"{_as_spoken(r.measure.name)}{_briefly(r, mark) if brief else ''}" for r in of_word]
    tail = ", as tested." if word in ("real_gain", "no_change") else "."
    return Advice(f"{lead}{listed(names)}{tail}")


def _briefly(result: MeasureResult, mark: DecimalMark) -> str:
    saved, change = result.time_saved_percent, change_of(result, mark)
    if saved is not None:
        return f" ({shown(abs(saved), 0, mark)} % {'less' if saved >= 0 else 'more'} time)"
    return f" ({say_passed(result) or change.say()})" if change is not None else ""


def _as_spoken(name: str) -> str:
    """A name within a sentence; one that begins with several capitals is an abbreviation, and stays."""
    return name if name[1:2].isupper() else name[:1].lower() + name[1:]


_GAINED: dict[str, Kind] = {
    "quieter": "noise",
    "cooler": "heat",
    "colder": "heat",
    "faster": "time",
    "quicker": "time",
}
_LOST: dict[str, Kind] = {"louder": "noise", "hotter": "heat", "warmer": "heat", "slower": "time"}
_SURE = ("because", "due to", "caused by", "thanks to", "proves", "certainly", "obviously", "no doubt")
_OVER_GENERAL = (
    "everything",
    "anything",
    "every program",
    "all programs",
    "any program",
    "always",
    "everyone",
    "in all",
)
_USES = (
    "game",
    "gaming",
    "video",
    "editing",
    "office",
    "browsing",
    "streaming",
    "music",
    "photo",
    "backup",
    "compil",
)
_FIGURE = re.compile(r"(\d+(?:[.,]\d+)?)\s?(%|×|K\b|dB|s\b|min\b|W\b|EUR|USD|GBP|CHF)")


def question_advice(
    text: str,
    comparison: Comparison,
    figures: Iterable[str],
    causes: Sequence[Explanation],
    mark: DecimalMark,
) -> tuple[Doubt, ...]:
    """
    Hold a typed advice against the results, sentence by sentence.

    Args:
        figures: all that is said of the results and the bill; a figure that is in none of it is questioned.
        causes: suspected causes; words that are sure of one nobody tested are questioned.
    """
    known = "\n".join(figures)
    found = []
    for sentence in _sentences(text):
        found += [Doubt(sentence, against) for against in _against(sentence, comparison, known, causes, mark)]
    return tuple(found)


def _sentences(text: str) -> list[str]:
    return [part.strip() for part in re.split(r"(?<=[.!?])\s+|\n+", text) if part.strip()]


def _against(
    sentence: str, comparison: Comparison, known: str, causes: Sequence[Explanation], mark: DecimalMark
) -> Iterable[str]:
    words = sentence.casefold()
    for word, kind in (_GAINED | _LOST).items():
        if re.search(rf"\b{word}\b", words):
            yield from _denied(word, kind, "real_gain" if word in _GAINED else "real_loss", comparison, mark)
    yield from _claimed_in_words(words, comparison, mark)
    yield from _quoted_alone(words, comparison, mark)
    yield from _other_figures(sentence, known)
    names = " ".join(f"{result.measure.name} {result.measure.workload}" for result in comparison.measures).casefold()
    for use in _USES:
        if use in words and use not in names:
            yield f"“{_word_with(use, sentence)}” was not tested here."
    for phrase in _OVER_GENERAL:
        if re.search(rf"\b{phrase}\b", words):
            yield f"“{phrase}” is more than was tested: name the tested uses."
    if any(claim.state != "supported" for claim in causes) and any(re.search(rf"\b{s}\b", words) for s in _SURE):
        yield "No cause is proved here: write “suspected”, or test it."


# How many times as fast a word says that something is: whoever says "twice" may mean 1.8 to 2.3.
_MULTIPLES: tuple[tuple[str, float, float], ...] = (
    (r"(twice|double|doubles|doubled|two times)", 1.8, 2.3),
    (r"(half|halves|halved)", 1.8, 2.3),
    (r"(three times|triple|tripled|a third of)", 2.7, 3.5),
)
_AS_NEW = r"(better than new|as good as new|like new)"


def _claimed_in_words(words: str, comparison: Comparison, mark: DecimalMark) -> Iterable[str]:
    """A multiple that is written out, held against what was shown of the work; and a state that nobody measured."""
    if found := re.search(rf"\b{_AS_NEW}\b", words):
        yield f"“{found[0]}”: it was compared with the build before, not with a new one."
    work = [result for result in comparison.measures if result.measure.is_work and result.estimate is not None]
    for pattern, low, high in _MULTIPLES:
        found = re.search(rf"\b{pattern}\b", words)
        if found is None:
            continue
        shown_so = [r for r in work if r.verdict.word == "real_gain" and low <= math.exp(r.estimate or 0.0) <= high]
        if not shown_so:
            sentence = (
                "; ".join(f"{r.measure.name}, {_say(change_of(r, mark))}" for r in work) or "no work was measured"
            )
            yield f"“{found[0]}” is not what was shown: {sentence}."


# A quantity that a controller trades, and what else has to stand in a sentence that quotes it.
_TRADED: dict[str, tuple[str, ...]] = {
    "cooler": ("fan", "loud", "noise", "sound", "power", "clock"),
    "colder": ("fan", "loud", "noise", "sound", "power", "clock"),
    "quieter": ("hot", "warm", "heat", "temperature"),
    "louder": ("cool", "cold", "heat", "temperature"),
}


def _quoted_alone(words: str, comparison: Comparison, mark: DecimalMark) -> Iterable[str]:
    """Heat without the fan, or sound without the heat, where one was had for the other."""
    quoted = next(
        (
            word
            for word, beside in _TRADED.items()
            if re.search(rf"\b{word}\b", words) and not any(other in words for other in beside)
        ),
        None,
    )
    if quoted is None:
        return
    for result in comparison.measures:
        joint = read_together(comparison.read, result)
        if joint is not None and joint.word == "trade":
            yield f"“{quoted}” is quoted alone: {say_joint(joint, comparison.changes, comparison.plan.change, mark)}"
            return


def _denied(word: str, kind: Kind, wanted: VerdictWord, comparison: Comparison, mark: DecimalMark) -> Iterable[str]:
    kinds: tuple[Kind, ...] = ("time", "rate", "score") if kind == "time" else (kind,)
    of_kind = [result for result in comparison.measures if result.measure.kind in kinds]
    if any(result.verdict.word == wanted for result in of_kind):
        return
    if not of_kind:
        yield f"“{word}”: nothing of the kind was measured."
        return
    sentences = [
        f"{result.measure.name}, {_say(change_of(result, mark))}, {VERDICTS[result.verdict.word].lower()}"
        for result in of_kind
    ]
    yield f"“{word}” goes against the result: {'; '.join(sentences)}."


def _say(change: Change | None) -> str:
    return change.say() if change is not None else "not measured"


def _other_figures(sentence: str, known: str) -> Iterable[str]:
    """Figures of the sentence that no result shows, rounded as they are there or to the digits typed here."""
    results = [(float(m[1].replace(",", ".")), m[2]) for m in _FIGURE.finditer(known)]
    for match in _FIGURE.finditer(sentence):
        typed, unit = match[1].replace(",", "."), match[2]
        digits = len(typed.partition(".")[2])
        if not any(unit == of and round(value, digits) == float(typed) for value, of in results):
            yield f"“{match[0]}” is none of the results."


def _word_with(stem: str, sentence: str) -> str:
    found = re.search(rf"\b\w*{stem}\w*", sentence, re.IGNORECASE)
    return found[0] if found else stem
