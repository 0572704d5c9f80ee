"""What is said of a whole comparison: what got worse, what works now, the headline, and what bears on all of it."""

from collections.abc import Sequence
from dataclasses import dataclass

from lynxbill.core.judgement.verdict import CALLED, VerdictWord
from lynxbill.core.plan.agreement import Agreement
from lynxbill.core.result.joint import read_together
from lynxbill.core.result.result import Comparison, MeasureResult
from lynxbill.core.terms.measure import gain_percent
from lynxbill.words.base.figures import DecimalMark, counted, decimals_for, listed, percent, signed_percent
from lynxbill.words.base.verdicts import VERDICTS
from lynxbill.words.results.joint import say_joint
from lynxbill.words.results.results import Worded, change_of, is_stepped, say_passed, say_result, say_sentence
from lynxbill.words.results.trends import WordedTrend, say_trend


@dataclass(frozen=True, slots=True)
class WordedOfAll:
    """
    A comparison in words.

    `losses` is what got worse, `no_loss` that nothing was shown to (None where nothing was judged); the `known_` ones
    are of what Judge has given alone. `rest` goes on with what works that did not and the headline; `counts`, `look`,
    `controls` and `bundle` stand below. `joint` reads heat together with fan, sound, power and clock.
    """

    losses: str | None
    no_loss: str | None
    known_losses: str | None
    known_no_loss: str | None
    rest: str
    counts: str | None
    look: str | None
    controls: str | None
    bundle: str | None
    joint: str | None
    overall: str | None
    measures: dict[str, Worded]
    trends: tuple[WordedTrend, ...]


def say_comparison(comparison: Comparison, mark: DecimalMark) -> WordedOfAll:
    """Put a comparison into words, with the machine's decimal mark."""
    results = comparison.measures
    given = tuple(result for result in results if result.is_given)
    losses = _say_losses(results, mark)
    names: dict[str, str] = {result.measure.id: result.measure.name for result in results}
    return WordedOfAll(
        losses=losses,
        no_loss=_say_no_loss(results),
        known_losses=_say_losses(given, mark),
        known_no_loss=_say_no_loss(given),
        rest=_say_rest(comparison, mark, losses),
        counts=_say_counts(results),
        look=_say_look(comparison),
        controls=_say_controls(results),
        bundle=say_bundle(comparison.changes),
        joint=_say_joint(comparison, mark),
        overall=_say_overall(comparison, mark),
        measures={result.measure.id: say_result(result, mark, comparison.shares) for result in results},
        trends=tuple(say_trend(trend, names, mark) for trend in comparison.trends),
    )


def write_comparison(comparison: Comparison, mark: DecimalMark) -> str:
    """Write a comparison as plain text: what every screen says of it, and a line a measure."""
    worded = say_comparison(comparison, mark)
    head = (worded.losses, worded.rest, worded.bundle, worded.counts, worded.look, worded.controls, worded.joint)
    rows = [_write_row(result, worded.measures[result.measure.id]) for result in comparison.measures]
    return "\n".join([*(line for line in head if line), "", *rows])


def _write_row(result: MeasureResult, worded: Worded) -> str:
    provisional = ", provisional" if result.provisional and result.verdict.word != "untested" else ""
    interval = f" {worded.level} interval {worded.interval}." if worded.interval else ""
    why = f" ({worded.why})" if worded.why else ""
    forms = f" {'; '.join(worded.forms)}." if worded.forms else ""
    return (
        f"{result.measure.name}: {worded.both}.{forms}{interval} {VERDICTS[result.verdict.word]}{provisional}{why}."
    )


def say_bundle(changes: Sequence[str]) -> str | None:
    """Say what the gain belongs to where more than one thing was changed; None where one was."""
    return f"Changed together: {listed(changes)}." if len(changes) > 1 else None


def _say_rest(comparison: Comparison, mark: DecimalMark, losses: str | None) -> str:
    lead = comparison.lead
    if lead is None:
        return "Nothing is measured on these two builds yet."
    works = [
        f"{say_sentence(result, mark)}."
        for result in comparison.measures
        if result is not lead and result.verdict.word == "real_gain" and is_stepped(result.measure)
    ]
    no_loss = _say_no_loss(comparison.measures) if losses is None else None
    return " ".join([*([no_loss] if no_loss else []), *works, f"{say_sentence(lead, mark)}."])


def _say_joint(comparison: Comparison, mark: DecimalMark) -> str | None:
    """Heat read together with what is traded for it: of the headline where that is a heat, else of the first."""
    results = [result for result in comparison.measures if result.planned.role == "claim"]
    lead = [comparison.lead] if comparison.lead is not None else []
    for result in (*lead, *results):
        joint = read_together(comparison.read, result)
        if joint is not None:
            sentence = f"{result.measure.name}: {say_joint(joint, comparison.changes, comparison.plan.change, mark)}"
            return (
                f"{sentence} {_say_held_equal(comparison, result, mark)}".rstrip()
                if joint.word == "trade"
                else sentence
            )
    return None


def _say_held_equal(comparison: Comparison, traded: MeasureResult, mark: DecimalMark) -> str:
    """What another work says of it in which fan, sound and power were held equal: a run at a fixed fan tells."""
    for result in comparison.measures:
        joint = read_together(comparison.read, result)
        if result.measure.workload != traded.measure.workload and joint is not None and joint.word == "held equal":
            told = say_joint(joint, comparison.changes, comparison.plan.change, mark)
            return f"In “{result.measure.workload}” {told}"
    return ""


def _say_losses(results: Sequence[MeasureResult], mark: DecimalMark) -> str | None:
    sentences = []
    for result in results:
        change = change_of(result, mark)
        if result.verdict.word == "real_loss" and change is not None:
            sentences.append(f"{result.measure.name}, {say_passed(result) or change.say()}")
    return f"Got worse: {'; '.join(sentences)}." if sentences else None


def _say_no_loss(results: Sequence[MeasureResult]) -> str | None:
    words = [result.verdict.word for result in results]
    if "real_loss" in words or not {"real_gain", "no_change"} & {*words}:
        return None
    still = words.count("not_settled")
    open_ones = f"; {still} not settled" if still else ""
    if failed := _more_failed(results):
        return f"No measure was shown to get worse{open_ones}. More runs came to nothing after it: {failed}."
    return f"Nothing was shown to get worse{open_ones}."


def _more_failed(results: Sequence[MeasureResult]) -> str:
    """Of which work more runs failed, broke off or were spoiled after the swap than before: "Tiles, 0 → 2"."""
    departures = dict.fromkeys(departure for r in results for flag in r.flags for departure in flag.departures)
    rises = [d for d in departures if d.kind == "failed" and float(d.before[0] or 0) < float(d.after[0] or 0)]
    return "; ".join(f"{d.workload}, {d.before[0]} → {d.after[0]}" for d in rises)


def _say_counts(results: Sequence[MeasureResult]) -> str | None:
    """How many verdicts of each kind there are; None where there is one measure alone."""
    if len(results) < 2:
        return None
    words = [result.verdict.word for result in results]

    def count(word: VerdictWord) -> int:
        return words.count(word)

    parts = [
        counted(count("real_gain"), "real gain") if count("real_gain") else "",
        counted(count("real_loss"), "loss").replace("losss", "losses") if count("real_loss") else "",
        f"{count('no_change')} without change" if count("no_change") else "",
        f"{count('not_settled')} not settled" if count("not_settled") else "",
        f"{count('untested')} untested" if count("untested") else "",
    ]
    return f"In all: {listed([part for part in parts if part])}."


def _say_controls(results: Sequence[MeasureResult]) -> str | None:
    """Whether what should not move held; None without controls."""
    controls = [result for result in results if result.planned.role == "control"]

    def named(*words: VerdictWord) -> str:
        return listed([result.measure.name for result in controls if result.verdict.word in words])

    moved, held = named("real_gain", "real_loss"), named("no_change")
    still = named("not_settled", "untested")
    parts = [
        f"{moved} moved and should not have" if moved else "",
        f"{held} held" if held else "",
        f"{still} not shown to hold" if still else "",
    ]
    sentence = "; ".join(part for part in parts if part)
    return f"Controls: {sentence}." if sentence else None


def _say_attempt(agreement: Agreement) -> str:
    """How often the same thing was tried, by measuring over or by another build of it."""
    tries = agreement.attempt + agreement.rivals.attempts
    if tries == 1:
        return ""
    sentence = f" Attempt {tries}: every level is halved{'' if tries == 2 else ' each time'}."
    if agreement.rivals.attempts:
        sentence += (
            " A part counts as another one where the agent read it so, or where it was on record, with its price, "
            "before the first verdict."
        )
    return sentence


def _say_rivals(lead: MeasureResult, agreement: Agreement) -> str:
    """What else was compared with the baseline; who picks the best of several needs more than each by itself."""
    count = agreement.rivals.count + 1
    if count == 1:
        return ""
    sentence = f" One of {count} compared with this baseline."
    if lead.verdict.word not in CALLED or lead.p is None or not lead.is_given:
        return sentence
    holds = lead.p <= lead.terms.alpha / count
    return f"{sentence} Picked as the best of {count}, its verdict {'still holds' if holds else 'would not hold'}."


def _say_look(comparison: Comparison) -> str | None:
    """Which look of the plan says it, and what another one could bring; None where there is nothing to say of it."""
    lead, agreement = comparison.lead, comparison.agreement
    if lead is None or agreement is None or lead.verdict.word == "untested":
        return None
    again = _say_attempt(agreement) + _say_rivals(lead, agreement)
    if not agreement.planned:
        return f"Nothing was planned between these two builds: a stricter rule speaks throughout.{again}"
    level = "" if lead.level is None else f", at {percent(lead.level)}"
    match lead.terms.look:
        case 2:
            return f"The second look of two{level}.{again}"
        case 1 if agreement.second is not None:
            is_open = lead.verdict.word == "not_settled"
            still = f" A second one, at {agreement.second} a side, could still settle it." if is_open else ""
            return f"The first look of two{level}.{still}{again}"
        case 1:
            return f"The plan’s one look{level}.{again}"
    is_due = lead.verdict.remark == "plan_incomplete" and agreement.first is not None
    due = f" Its first look is due at {agreement.first} a side." if is_due else ""
    return f"Outside the plan’s looks, by a stricter rule.{due}{again}"


def _say_overall(comparison: Comparison, mark: DecimalMark) -> str | None:
    """What all work together gained: a figure, and no verdict; None where the plan gives no weights."""
    overall = comparison.overall
    if overall is None:
        return None
    gain, estimate = gain_percent(overall.difference), overall.estimate
    if estimate is None:
        return signed_percent(gain, 1, mark)
    low, high = gain_percent(estimate.low), gain_percent(estimate.high)
    decimals = min(2, decimals_for((high - low) / 2))
    ends = f"{signed_percent(low, decimals, mark, unit='')} to {signed_percent(high, decimals, mark)}"
    return f"{signed_percent(gain, decimals, mark)} ({percent(estimate.level)} interval {ends})"
