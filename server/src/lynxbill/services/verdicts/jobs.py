"""What the core makes of a job as it stands: gate, questions, strength of the plan, differences, history."""

from collections.abc import Iterable, Mapping
from dataclasses import dataclass, replace
from decimal import Decimal
from uuid import UUID

from lynxbill.core.change.candidates import Ranked, rank_candidates
from lynxbill.core.change.difference import Difference, find_differences, name_bundle
from lynxbill.core.change.recognition import find_done, is_measured_after
from lynxbill.core.plan.conditions import condition_departures, find_departures
from lynxbill.core.plan.gate import baseline_gate
from lynxbill.core.plan.planning import BenchTime, Known, Strength, bench_time, plan_strength, what_is_known
from lynxbill.core.plan.questions import Question, question_plan, question_proof, question_swap
from lynxbill.core.reading.counting import compared_sittings
from lynxbill.core.record.frame import Case
from lynxbill.core.record.ids import BuildId
from lynxbill.core.record.plan import Plan
from lynxbill.core.record.swap import Swap
from lynxbill.core.result.restoring import HistoryLine, history_lines, recovered_shares
from lynxbill.core.result.wear import find_wear
from lynxbill.core.terms.measure import Measure
from lynxbill.core.value.account import account_of
from lynxbill.services.base.transaction import Sessions, reading
from lynxbill.services.verdicts.comparisons import Write, outcome_of
from lynxbill.store.kept import read_case
from lynxbill.words.base.conditions import WordedDeparture, say_departure, say_not_held
from lynxbill.words.job.history import (
    WordedCandidate,
    WordedLine,
    say_candidate,
    say_line,
    say_recovered,
    say_steps,
    say_wear,
)
from lynxbill.words.job.planned import WordedStrength, say_strength
from lynxbill.words.job.questions import WordedLack, WordedQuestion, say_lack, say_question


@dataclass(frozen=True, slots=True)
class PlanView:
    """What a plan asks, takes and could show."""

    questions: tuple[WordedQuestion, ...]
    time: BenchTime
    strengths: tuple[Strength, ...]
    worded: Mapping[str, WordedStrength]


@dataclass(frozen=True, slots=True)
class SwapView:
    """
    `changes` names all that it changed; `lacks` is what its baseline still lacks while it is only planned.

    With `measured_after` its steps and what was seen stand; before that all of it can be finished and mended. Nothing
    was done or seen since its case was opened where it is `untouched`.
    """

    swap: str
    differences: tuple[Difference, ...]
    changes: tuple[str, ...]
    questions: tuple[WordedQuestion, ...]
    departures: tuple[WordedDeparture, ...]
    lacks: tuple[WordedLack, ...]
    measured_after: bool
    untouched: bool
    plan: PlanView


@dataclass(frozen=True, slots=True)
class WordedJob:
    """A job in words: lines of its history, shares that came back, how heat crept up, candidates by their ids."""

    history: tuple[WordedLine, ...]
    recovered: tuple[str, ...]
    steps: tuple[str, ...]
    wear: tuple[str, ...]
    candidates: Mapping[str, WordedCandidate]


@dataclass(frozen=True, slots=True)
class Job:
    """
    `lacks` is what is missing before the next swap from where the machine stands may begin; `conditions` are the
    departures of each sitting from the conditions of its plan.
    """

    lacks: tuple[WordedLack, ...]
    plan: PlanView
    swaps: tuple[SwapView, ...]
    candidates: tuple[Ranked, ...]
    conditions: Mapping[str, tuple[str, ...]]
    history: tuple[HistoryLine, ...]
    worded: WordedJob


def view_job(sessions: Sessions, machine_id: UUID, write: Write) -> Job:
    """Compute everything that the screens say of a job beside its verdicts; `write` keeps what is judged for it."""
    with reading(sessions) as session:
        case = read_case(session, machine_id)
    plan = case.open_plan or Plan()
    known, used = what_is_known(case), case.used_sittings
    fitted, mark = case.fitted, case.machine.decimal_mark
    measures: dict[str, Measure] = {measure.id: measure for measure in case.measures}
    names = {key: measure.name for key, measure in measures.items()}
    achieved = {c.id: _achieved(sessions, case, c.swap, write) for c in case.candidates if c.swap is not None}
    ranked, history, recovered = rank_candidates(case), history_lines(case), recovered_shares(case)
    return Job(
        lacks=_lacks(case, fitted.id, plan, known) if fitted else (),
        plan=_view_plan(case, plan, known),
        swaps=tuple(_view_swap(case, swap, known, used) for swap in case.swaps),
        candidates=ranked,
        conditions={
            sitting.id: tuple(say_not_held(one, mark) for one in found)
            for sitting in case.sittings
            if (found := condition_departures(sitting, case.plan_of(sitting.build_id).conditions))
        },
        history=history,
        worded=WordedJob(
            tuple(say_line(line, measures[line.measure], mark) for line in history),
            tuple(say_recovered(share, names, mark) for share in recovered),
            tuple(sentence for line in history if (sentence := say_steps(line, measures[line.measure], case, mark))),
            tuple(
                say_wear(wear, measures[wear.measure], case.build(wear.build).letter, mark)
                for wear in find_wear(case)
            ),
            {one.candidate.id: say_candidate(one, achieved.get(one.candidate.id), mark) for one in ranked},
        ),
    )


def preview_plan(sessions: Sessions, machine_id: UUID, plan: Plan, swap_id: UUID | None) -> PlanView:
    """Say what a plan would ask, take and could show, while it is still being typed; nothing is kept."""
    with reading(sessions) as session:
        case = read_case(session, machine_id)
    known = {measure.id for measure in case.measures}
    plan = replace(plan, measures={key: planned for key, planned in plan.measures.items() if key in known})
    swap = next((swap for swap in case.swaps if swap_id is not None and swap.id == str(swap_id)), None)
    return _view_plan(case, plan, what_is_known(case), swap)


def _view_plan(case: Case, plan: Plan, known: Known, swap: Swap | None = None) -> PlanView:
    time = bench_time(case, plan, known)
    proof = question_proof(case, time, _price(case, plan, swap))
    questions = _say_questions(case, (*question_plan(case, plan), *((proof,) if proof else ())))
    strengths = plan_strength(case, plan, known)
    measures: dict[str, Measure] = {measure.id: measure for measure in case.measures}
    mark = case.machine.decimal_mark
    worded = {s.measure: say_strength(s, measures[s.measure], plan.at_most, mark) for s in strengths}
    return PlanView(questions, time, strengths, worded)


def _price(case: Case, plan: Plan, swap: Swap | None) -> Decimal | None:
    """What the change costs: of a planned swap its lines, else the cheapest candidate of that kind."""
    if swap is not None:
        return account_of(case, (swap,)).net
    prices = [c.price for c in case.weighed if c.role == plan.change and c.price is not None and c.swap is None]
    return min(prices, default=None)


def _view_swap(case: Case, swap: Swap, known: Known, used: frozenset[str]) -> SwapView:
    mark = case.machine.decimal_mark
    sides = compared_sittings(case, swap.before), compared_sittings(case, swap.after)
    differences = find_differences(case.build(swap.before), case.build(swap.after))
    return SwapView(
        swap=swap.id,
        differences=differences,
        changes=name_bundle(swap.side_changes, differences),
        questions=_say_questions(case, question_swap(case, swap)),
        departures=tuple(say_departure(one, mark) for one in find_departures(case, sides, swap.plan)),
        lacks=_lacks(case, swap.before, swap.plan, known) if swap.state == "planned" else (),
        measured_after=is_measured_after(case, swap, used),
        untouched=not find_done(swap),
        plan=_view_plan(case, swap.plan, known, swap),
    )


def _say_questions(case: Case, questions: Iterable[Question]) -> tuple[WordedQuestion, ...]:
    machine = case.machine
    return tuple(say_question(question, machine.currency, machine.decimal_mark) for question in questions)


def _lacks(case: Case, build: BuildId, plan: Plan, known: Known) -> tuple[WordedLack, ...]:
    return tuple(say_lack(lack, case.machine.decimal_mark) for lack in baseline_gate(case, build, plan, known))


def _achieved(sessions: Sessions, case: Case, swap_id: str, write: Write) -> float | None:
    """What the swap of a candidate brought in percent, of the measure that leads, as far as it was measured."""
    swap = next((known for known in case.swaps if known.id == swap_id), None)
    if swap is None:
        return None
    return outcome_of(sessions, UUID(case.machine.id), swap.before, swap.after, write).gain_percent
