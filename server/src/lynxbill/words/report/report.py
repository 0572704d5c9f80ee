"""The report's document: all that a customer reads and another technician checks, in the words of the screens."""

from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass
from datetime import date

from lynxbill.core.change.difference import find_differences
from lynxbill.core.judgement.verdict import VerdictWord
from lynxbill.core.plan.conditions import Departure, find_departures
from lynxbill.core.reading.counting import compared_sittings
from lynxbill.core.record.frame import Case
from lynxbill.core.record.ids import BuildId
from lynxbill.core.result.answer import AnswerWord, answer_of
from lynxbill.core.result.flags import FlagCode
from lynxbill.core.result.result import Comparison, MeasureResult
from lynxbill.core.result.span import Span, span_of
from lynxbill.core.terms.measure import Role, restore
from lynxbill.core.value.reckoning import Reckoning
from lynxbill.words.base.conditions import say_condition, say_departure, say_departures
from lynxbill.words.base.figures import DecimalMark
from lynxbill.words.base.verdicts import GRADES
from lynxbill.words.heat.heat import HeatPicture
from lynxbill.words.money.account import day
from lynxbill.words.money.bill import TOLD_LARGE
from lynxbill.words.money.reckoning import WordedReckoning, WordedSetting, say_reckoning
from lynxbill.words.report.advice import Advice, Doubt, advise, question_advice
from lynxbill.words.report.beside import WordedBeside, say_beside
from lynxbill.words.report.record import (
    say_all_left_out,
    say_corrected,
    say_how,
    say_looks,
    say_unchanged,
    say_untested,
)
from lynxbill.words.results.answer import say_answer
from lynxbill.words.results.comparison import WordedOfAll, say_comparison
from lynxbill.words.results.flags import say_flag
from lynxbill.words.results.results import say_result, unit_shown

# Said at the head of every report already.
_AT_THE_HEAD: tuple[FlagCode, ...] = ("several_changes", "conditions_differ")


@dataclass(frozen=True, slots=True)
class Wish:
    """
    What the technician adds to a report: who writes it, advice in own words, what comes next, and what was changed
    after the last run (None: not asked yet; empty: nothing was).
    """

    technician: str = ""
    advice: str = ""
    next_step: str = ""
    changed_since: str | None = None
    labour: bool = True
    years: int = 0


@dataclass(frozen=True, slots=True)
class Figure:
    """One of the three figures of the short form."""

    label: str
    value: str
    detail: str


@dataclass(frozen=True, slots=True)
class Dot:
    """A reading of a run that counts; `sitting` counts the sittings of its side from 1."""

    sitting: int
    value: float


@dataclass(frozen=True, slots=True)
class Row:
    """A measure of the report; `axis` names the unit that its span is drawn in, with the others of that unit."""

    measure: str
    name: str
    role: Role
    before: str
    after: str
    unit: str
    change: str
    forms: tuple[str, ...]
    interval: str | None
    level: str
    verdict: VerdictWord
    provisional: bool
    why: str | None
    grade: str | None
    value: str
    margin: str
    axis: str
    higher_is_better: bool
    span: Span | None
    before_dots: tuple[Dot, ...]
    after_dots: tuple[Dot, ...]
    remarks: tuple[str, ...]


@dataclass(frozen=True, slots=True)
class Change:
    """A part or setting that is another one after the swap."""

    what: str
    before: str
    after: str


@dataclass(frozen=True, slots=True)
class Noted:
    """A note of the teardown; `picture` is the end of its address, beneath the machine's, where it has one."""

    text: str
    picture: str | None


@dataclass(frozen=True, slots=True)
class Report:
    """
    A report, whole: the short form shows part of it, the full form all.

    `notices` stand at its head and can't be left out: what the sides did not share, what was waived, who supplied a
    part, that it was measured on a provisional build. `shared` is what is flagged of every claim. `joint` reads heat
    together with what is traded for it; `heat` are both sides' curves.
    """

    title: str
    machine: str
    owner: str
    made_on: str
    technician: str
    question: str
    settles: str
    answer_word: AnswerWord | None
    answer: str
    but: str | None
    grade: str | None
    notices: tuple[str, ...]
    figures: tuple[Figure, ...]
    rows: tuple[Row, ...]
    unchanged: str | None
    untested: str | None
    how: tuple[str, ...]
    shared: tuple[str, ...]
    advice: tuple[Advice, ...]
    own_advice: str
    doubts: tuple[Doubt, ...]
    setting: WordedSetting
    other_terms: tuple[str, ...]
    better: tuple[str, ...]
    overall: str | None
    unit_of_gain: str
    bought_in: str
    limits: tuple[str, ...]
    causes: tuple[str, ...]
    beside: WordedBeside
    looks: tuple[str, ...]
    left_out: tuple[str, ...]
    corrected: tuple[str, ...]
    differences: tuple[Change, ...]
    departures: tuple[Change, ...]
    conditions: tuple[str, ...]
    notes: tuple[Noted, ...]
    next: tuple[str, ...]
    joint: str | None = None
    heat: HeatPicture | None = None


def say_report(
    case: Case, reckoning: Reckoning, wish: Wish, label: str, today: date, heat: HeatPicture | None = None
) -> Report:
    """
    Write a report.

    Args:
        case: with the runs of both builds.
        label: what the swap is called.
        today: the day in the machine's own zone.
        heat: both sides' heat, where it was traced.
    """
    mark, machine = case.machine.decimal_mark, case.machine
    comparison, lead = reckoning.comparison, reckoning.comparison.lead
    labels: Mapping[tuple[str, str], str] = {(s.before, s.after): s.label for s in case.swaps}
    all_sentences = say_comparison(comparison, mark)
    money_sentences = say_reckoning(reckoning, label, labels, case.builds, mark)
    setting = _setting(money_sentences, wish)
    answer = answer_of(lead)
    shared = _flags_of_all(comparison, mark)
    rows = tuple(_row(result, comparison, setting, shared, mark) for result in _in_order(comparison))
    beside = say_beside(case, comparison)
    sides = tuple(compared_sittings(case, BuildId(b)) for b in (comparison.before, comparison.after))
    departures = find_departures(case, (sides[0], sides[1]), comparison.plan)
    causes = [claim for swap in reckoning.swaps for claim in swap.explanations]
    sentences_of_it = _all_figures(rows, setting, money_sentences, all_sentences)
    return Report(
        title=label,
        machine=machine.name,
        owner=machine.owner,
        made_on=day(today),
        technician=wish.technician,
        question=machine.question,
        settles=machine.settles,
        answer_word=answer.word if answer is not None else None,
        answer=say_answer(answer, lead, mark),
        but=all_sentences.known_losses,
        grade=GRADES[lead.grade] if lead is not None and lead.grade and lead.is_given else None,
        notices=tuple(_notices(all_sentences, setting, beside, departures, wish, mark)),
        figures=tuple(_figures(lead, setting, money_sentences, mark)),
        rows=rows,
        unchanged=say_unchanged(comparison),
        untested=say_untested(comparison),
        how=tuple(say_how(comparison, sides, mark)),
        shared=shared,
        advice=advise(comparison, machine, mark),
        own_advice=wish.advice,
        doubts=question_advice(wish.advice, comparison, sentences_of_it, causes, mark),
        setting=setting,
        other_terms=money_sentences.other_terms,
        better=money_sentences.better,
        overall=money_sentences.overall,
        unit_of_gain=money_sentences.unit_of_gain,
        bought_in=money_sentences.bought_in,
        limits=money_sentences.limits,
        causes=money_sentences.causes,
        beside=beside,
        looks=tuple(say_looks(all_sentences, reckoning)),
        left_out=tuple(say_all_left_out(case, comparison)),
        corrected=tuple(say_corrected(case, comparison, mark)),
        differences=tuple(
            Change(d.name, d.before or "–", d.after or "–")
            for d in find_differences(case.build(BuildId(comparison.before)), case.build(BuildId(comparison.after)))
        ),
        departures=tuple(Change(d.what, d.before, d.after) for d in (say_departure(one, mark) for one in departures)),
        conditions=tuple(say_condition(name, value, mark) for name, value in comparison.plan.conditions.items()),
        notes=tuple(
            Noted(note.text, f"swaps/{swap.id}/notes/{note.id}/picture" if note.picture else None)
            for swap in reckoning.swaps
            for note in swap.notes
            if note.text or note.picture
        ),
        next=tuple(_say_next(case, comparison, wish)),
        joint=all_sentences.joint,
        heat=heat,
    )


def _setting(worded: WordedReckoning, wish: Wish) -> WordedSetting:
    """The setting of the switches that the report is made up on; else the first."""

    def fits(setting: WordedSetting) -> int:
        return (setting.labour == wish.labour) + 2 * (setting.years == wish.years)

    return max(worded.settings, key=fits)


def _in_order(comparison: Comparison) -> list[MeasureResult]:
    """The headline, the other claims, what should not move, what was only watched."""
    place: dict[Role, int] = {"claim": 0, "control": 1, "watch": 2}
    return sorted(comparison.measures, key=lambda r: (place[r.planned.role], r is not comparison.lead))


def _notices(
    worded: WordedOfAll,
    setting: WordedSetting,
    beside: WordedBeside,
    departures: Sequence[Departure],
    wish: Wish,
    mark: DecimalMark,
) -> Iterable[str]:
    if worded.bundle is not None:
        yield f"{worded.bundle} What they brought belongs to the bundle."
    yield from setting.account.unpaid
    yield from setting.account.suppliers
    if departures:
        yield f"The sides were not measured alike: {say_departures(departures, mark)}."
    yield from beside.waivers
    yield from (f"Drawback: {line}" for line in beside.drawbacks)
    if wish.changed_since:
        yield f"Measured on a provisional build: after the last run this was changed: {wish.changed_since}."


def _figures(
    lead: MeasureResult | None, setting: WordedSetting, worded: WordedReckoning, mark: DecimalMark
) -> Iterable[Figure]:
    """Three figures: what was measured, what it cost, what that bought."""
    if lead is not None and lead.is_given and lead.estimate is not None:
        known = say_result(lead, mark)
        forms = known.forms[0] if known.forms else known.change
        yield Figure(lead.measure.name, known.both, forms)
    others = " ".join(worded.other_terms[:1])
    yield Figure("Net cost", setting.account.net, setting.account.range or others)
    yield Figure(f"Each 10 {setting.bill.currency}", setting.bill.per_10, setting.bill.interval or "")


def _flags_of_all(comparison: Comparison, mark: DecimalMark) -> tuple[str, ...]:
    """What is flagged of every measure with a verdict: said once, and not with each of them."""
    of_each = [_messages(r, mark) for r in comparison.measures if r.planned.role == "claim"]
    return tuple(m for m in of_each[0] if all(m in messages for messages in of_each)) if of_each else ()


def _messages(result: MeasureResult, mark: DecimalMark) -> list[str]:
    return [say_flag(flag, result, mark) for flag in result.flags if flag.code not in _AT_THE_HEAD]


def _row(
    result: MeasureResult, comparison: Comparison, setting: WordedSetting, shared: tuple[str, ...], mark: DecimalMark
) -> Row:
    worded, given = say_result(result, mark, comparison.shares), result.is_given
    flags = tuple(message for message in _messages(result, mark) if message not in shared)
    large = TOLD_LARGE if given and result.may_be_large else None
    remarks = tuple(
        line
        for line in (
            worded.remark if given else None,
            large,
            worded.today,
            worded.late,
            worded.first,
            *worded.context,
        )
        if line
    )
    return Row(
        measure=result.measure.id,
        name=result.measure.name,
        role=result.planned.role,
        before=worded.before,
        after=worded.after,
        unit=worded.unit,
        change=worded.change,
        forms=worded.forms,
        interval=worded.interval if given else None,
        level=worded.level,
        verdict=result.verdict.word if given else "untested",
        provisional=given and result.provisional and result.verdict.word != "untested",
        why=worded.why if given else "its verdict was given to nobody yet",
        grade=worded.grade if given else None,
        value=setting.bill.values.get(result.measure.id, ""),
        margin=worded.margin,
        higher_is_better=result.measure.better == "higher",
        axis="%" if result.measure.scale == "ratio" else unit_shown(result),
        span=span_of(result) if given else None,
        before_dots=_dots(result, before=True),
        after_dots=_dots(result, before=False),
        remarks=(*remarks, *flags),
    )


def _dots(result: MeasureResult, *, before: bool) -> tuple[Dot, ...]:
    side = result.sides.before if before else result.sides.after
    return tuple(
        Dot(number, restore(value, result.measure))
        for number, unit in enumerate(side, start=1)
        for value in unit.values
    )


def _say_next(case: Case, comparison: Comparison, wish: Wish) -> Iterable[str]:
    if wish.next_step:
        yield wish.next_step
    lead = comparison.lead
    if lead is not None and lead.is_given and lead.verdict.word == "not_settled":
        settling = say_result(lead, case.machine.decimal_mark).settling
        if settling:
            yield settling
    for recheck in case.rechecks:
        if not recheck.done and recheck.build in (comparison.before, comparison.after):
            note = f": {recheck.note}" if recheck.note else ""
            yield f"Measure again on {day(recheck.due_on)}{note}"


def _all_figures(
    rows: Sequence[Row], setting: WordedSetting, money_sentences: WordedReckoning, worded: WordedOfAll
) -> list[str]:
    """Everything that the report shows, to hold a typed sentence against."""
    texts = [
        setting.bill.sentence,
        setting.bill.per_10,
        setting.account.net,
        worded.rest,
        *money_sentences.other_terms,
    ]
    for row in rows:
        texts += [row.change, row.interval or "", row.value, *row.forms]
        texts += [f"{row.before} {row.unit}", f"{row.after} {row.unit}"]
    texts += [f"{entry.amount} {setting.bill.currency}" for entry in setting.account.entries]
    return texts
