"""The comparison of two builds: every measure's verdict and the overall gain."""

import math
from collections.abc import Iterable
from dataclasses import replace
from datetime import datetime

from lynxbill.core.heat.roles import ROLE_OF_KIND, SENSED
from lynxbill.core.judgement.judging import Judged, borrowed_spread, judge_pair
from lynxbill.core.judgement.ledger import RULES, SETTLED, by_other_rules, digest_of, of_measure, still_holds
from lynxbill.core.judgement.ruling import Ruling
from lynxbill.core.judgement.verdict import VERDICT_WORDS, Verdict
from lynxbill.core.plan.agreement import Agreement, agreement_of
from lynxbill.core.plan.conditions import find_departures
from lynxbill.core.reading.counting import compared_sittings
from lynxbill.core.record.frame import Case, Frame
from lynxbill.core.record.ids import BuildId
from lynxbill.core.record.ledger_entries import Showing
from lynxbill.core.record.plan import Plan, PlannedMeasure
from lynxbill.core.record.run import Reading
from lynxbill.core.result.alongside import (
    name_changes,
    put_above_floor,
    put_in_context,
    shares_of,
    trends_of,
    unloaded_workloads,
)
from lynxbill.core.result.grading import Surroundings, grade_evidence, history_of, moved_controls
from lynxbill.core.result.joint import LINKED
from lynxbill.core.result.overall import overall_gain
from lynxbill.core.result.result import Comparison, MeasureResult, turned_round
from lynxbill.core.terms.errors import NoSwap, SameBuild
from lynxbill.core.terms.measure import Measure, MeasureId, margin_bound


def judge(case: Case, before: BuildId | None = None, after: BuildId | None = None) -> Comparison:
    """
    Compare two builds of a machine.

    Args:
        before, after: build ids; without them the builds of the last swap.
    Returns: a result for every measure that has a run on either side or stands in the plan, the overall gain
        of the claims of kind time, rate or score.
    Raises:
        NoSwap: no builds named and the case has no swap.
        UnknownBuild: a build that the case does not have.
        SameBuild: both are the same.
    Source: docs/judgement.md.
    """
    before, after = choose_builds(case, before, after)
    agreement = agreement_of(case, before, after)
    plan = agreement.plan
    results = _judge_agreed(case, agreement)
    sides = compared_sittings(case, before), compared_sittings(case, after)
    results = put_in_context(case, before, after, plan, results)
    results = put_above_floor(case, plan, sides[0] + sides[1], results)
    changes = name_changes(case, before, after)
    around = Surroundings(
        changes,
        find_departures(case, sides, plan),
        moved_controls(results),
        len(results),
        unloaded_workloads(case, before, after),
        history_of(case, agreement),
    )
    borrowed = [borrowed_spread(case, agreement, result.measure) for result in results]
    results = tuple(grade_evidence(r, around, lent) for r, lent in zip(results, borrowed, strict=True))
    overall = overall_gain(results, plan, agreement)
    shares = shares_of(case, before, after, plan, results)
    trends = trends_of(case, plan, results)
    traced = _judge_traced(case, agreement, results)
    return Comparison(before, after, plan, results, overall, changes, shares, trends, agreement, traced)


def judge_measures(
    case: Case, before: BuildId | None = None, after: BuildId | None = None
) -> tuple[MeasureResult, ...]:
    """
    Give the verdicts of `judge` alone, without flags, grades, context and money.

    Args, returns, raises: as for `judge`.

    Args:
        case: the machine with the runs of both builds.
        before, after: ids of two of its builds; None for those of the last swap.
    """
    before, after = choose_builds(case, before, after)
    return _judge_agreed(case, agreement_of(case, before, after))


def choose_builds(frame: Frame, before: BuildId | None, after: BuildId | None) -> tuple[BuildId, BuildId]:
    """
    Say which two builds are compared: those named, else those of the last swap.

    Args:
        frame: the machine without its runs.
        before, after: ids as they were asked for, or None.
    Raises:
        NoSwap, UnknownBuild, SameBuild: as for `judge`.
    """
    if before is None or after is None:
        if not frame.swaps:
            raise NoSwap("This machine has no swap yet; name the two builds to compare.")
        before, after = before or frame.swaps[-1].before, after or frame.swaps[-1].after
    frame.build(before), frame.build(after)
    if before == after:
        raise SameBuild(f"Build “{before}” can't be compared with itself; name two builds.")
    return before, after


def _judge_agreed(case: Case, agreement: Agreement) -> tuple[MeasureResult, ...]:
    """Every measure that was planned or measured, in the direction that was asked for."""
    judged = judge_pair(case, agreement, beside=_headline_beside(case, agreement))
    results = tuple(_result(case, agreement, one) for one in judged)
    return tuple(map(turned_round, results)) if agreement.mirrored else results


def _judge_traced(case: Case, agreement: Agreement, results: Iterable[MeasureResult]) -> tuple[MeasureResult, ...]:
    """What only traces told beside a heat, judged as if it had been watched."""
    told = {(result.measure.workload, result.measure.kind) for result in results if result.estimate is not None}
    found = {(run.workload, kind) for run in case.runs for kind in case.traced.get(run.id, {})}
    measures = {
        (workload, kind): Measure(
            *(MeasureId(f"{kind} of {workload}"), kind, workload, SENSED[ROLE_OF_KIND[kind]].unit),
            *("difference", kind, "higher" if kind == "clock" else "lower"),
        )
        for workload, kind in sorted(found)
        if kind in LINKED and (workload, "heat") in told and (workload, kind) not in told
    }
    if not measures:
        return ()
    runs = [
        replace(
            run,
            readings={
                measures[run.workload, kind].id: Reading(level, level)
                for kind, level in case.traced.get(run.id, {}).items()
                if (run.workload, kind) in measures
            },
        )
        for run in case.runs
    ]
    watched = {m.id: PlannedMeasure("watch", SENSED[ROLE_OF_KIND[m.kind]].within) for m in measures.values()}
    plan = replace(agreement.plan, measures=watched, headline=None)
    return _judge_agreed(
        replace(case, measures=tuple(measures.values()), runs=tuple(runs)), replace(agreement, plan=plan)
    )


def _headline_beside(case: Case, agreement: Agreement) -> float | None:
    """Where the whole is judged too, the headline's p in the other of both comparisons: step and total."""
    swap, headline = agreement.swap, agreement.plan.headline
    if swap is None or swap.plan.judge_whole is None or headline is None or not agreement.planned:
        return None
    first = swap.before if agreement.whole else swap.plan.judge_whole
    if (first, swap.after) == (agreement.before, agreement.after):
        return None
    other = judge_pair(case, agreement_of(case, first, swap.after))
    p = next((one.ruling.p for one in other if one.measure.id == headline), None)
    return 1.0 if p is None else p


def _result(case: Case, agreement: Agreement, judged: Judged) -> MeasureResult:
    measure, planned, ruling = judged.measure, judged.planned, judged.ruling
    result = _as_result(agreement, judged, ruling)
    if judged.with_late is not None:
        with_late = _as_result(agreement, judged, judged.with_late)
        result = replace(result, with_late=with_late, late=judged.late, closed_short=judged.closed_short)
    if planned.role == "watch":
        return result
    entries = of_measure(agreement.shown, measure)
    wanted = agreement.plan.runs_of(measure.workload)
    given = [e for e in entries if _says(e, result) and still_holds(case, measure, e, wanted)]
    first = next(iter(entries), None)
    result = replace(
        result,
        first_shown=first,
        shown=bool(given),
        changed=first is not None and not still_holds(case, measure, first, wanted),
    )
    older = by_other_rules(case, measure, entries, wanted)
    return _as_given(result, older) if older is not None and _differs(older, result) else result


def _differs(entry: Showing, result: MeasureResult) -> bool:
    """Whether an entry says something else of a measure than today's rules do: in its word or in its figures."""
    if not (entry.verdict in SETTLED or {*entry.sittings} == {*result.sittings}):
        return False
    interval = result.interval
    told = (entry.gain, entry.low, entry.high)
    made = (result.estimate, *((interval.low, interval.high) if interval is not None else (None, None)))
    same = all(
        a is b if a is None or b is None else math.isclose(a, b, rel_tol=1e-9, abs_tol=1e-12)
        for a, b in zip(told, made, strict=True)
    )
    return entry.verdict != result.verdict.word or not same


def _as_given(today: MeasureResult, entry: Showing) -> MeasureResult:
    """Put the verdict that was given by earlier rules first: what was said stands, and today's stands beside it."""
    interval = today.interval
    if entry.gain is None or entry.low is None or entry.high is None:
        interval = None
    elif interval is not None:
        width, was = interval.high - interval.low, entry.high - entry.low
        scale = was / width if width > 0 and math.isfinite(width) and math.isfinite(was) else 1.0
        interval = replace(
            interval,
            estimate=entry.gain,
            low=entry.low,
            high=entry.high,
            low90=entry.gain - scale * (interval.estimate - interval.low90),
            high90=entry.gain + scale * (interval.high90 - interval.estimate),
            se=interval.se * scale,
            p=None,
            e_value=None,
            break_even=None,
            level=entry.level,
        )
    word = next(known for known in VERDICT_WORDS if known == entry.verdict)
    return replace(
        today,
        estimate=entry.gain,
        interval=interval,
        verdict=Verdict(word, today.verdict.remark if word == today.verdict.word else None),
        terms=replace(today.terms, look=entry.look),
        p_adjusted=None,
        exact_p=None,
        settling=None,
        shown=True,
        rules=entry.rules or RULES,
        today=today,
    )


def showings_of(
    case: Case, comparison: Comparison | None, results: Iterable[MeasureResult], *, at: datetime, by: str = ""
) -> tuple[Showing, ...]:
    """
    Write down the verdicts of a comparison that are given to somebody now, for the ledger.

    Args:
        case: the one that was judged.
        comparison: where it was made from one; else the newest swap's own is meant.
        results: of it, those that are shown.
    Returns: one entry a verdict that the ledger does not hold for this evidence yet.
    """
    agreement = (
        comparison.agreement if comparison else agreement_of(case, case.swaps[-1].before, case.swaps[-1].after)
    )
    if agreement is None or agreement.swap is None:
        return ()
    shown = [turned_round(r) if agreement.mirrored else r for r in results if r.can_be_shown and not r.shown]
    return tuple(_entry(case, agreement, result, at, by) for result in shown)


def _entry(case: Case, agreement: Agreement, result: MeasureResult, at: datetime, by: str) -> Showing:
    interval, sittings = result.interval, result.sittings
    held = {s.id: s for s in case.sittings if s.id in sittings}
    return Showing(
        measure=result.measure.id,
        at=at,
        look=result.terms.look,
        level=result.level if result.level is not None else 1 - result.terms.alpha,
        rule=interval.basis if interval is not None else "exact",
        verdict=result.verdict.word,
        sittings=sittings,
        digest=digest_of(case, result.measure, sittings, agreement.plan.runs_of(result.measure.workload)),
        attempt=agreement.attempt,
        compared=agreement.compared,
        by=by,
        gain=result.estimate,
        low=interval.low if interval is not None else None,
        high=interval.high if interval is not None else None,
        boots={identifier: sitting.boot for identifier, sitting in held.items()},
        conditions={identifier: dict(sitting.conditions) for identifier, sitting in held.items()},
        plan=written_plan(agreement.plan),
        rules=RULES,
    )


def written_plan(plan: Plan) -> str:
    """
    Write out what of a plan a verdict rests on, in one line.

    Args:
        plan: the plan of a verdict.
    """
    looks = (
        f"{plan.design}, {plan.order}, looks {plan.sittings_a_side} and {plan.at_most}, runs {plan.runs_a_sitting}"
    )
    measures = [
        f"{key} {planned.role} from {planned.matters_from:g} weight {planned.weight or 0:g}"
        for key, planned in sorted(plan.measures.items())
    ]
    return "; ".join((looks, f"pairs by {plan.pair_by}, headline {plan.headline}", *measures))


def _says(entry: Showing, result: MeasureResult) -> bool:
    """Whether an entry gave this verdict on these sittings; one migrated without its word is believed."""
    return entry.verdict in ("", result.verdict.word) and {*entry.sittings} == {*result.sittings}


def _as_result(agreement: Agreement, judged: Judged, ruling: Ruling) -> MeasureResult:
    measure, planned = judged.measure, judged.planned
    return MeasureResult(
        measure=measure,
        planned=planned,
        bound=margin_bound(planned.matters_from, measure.scale),
        pairing=ruling.pairing,
        sides=ruling.sides,
        estimate=ruling.estimate,
        interval=ruling.interval,
        verdict=ruling.verdict,
        provisional=ruling.provisional,
        terms=ruling.terms,
        design=agreement.plan.design,
        agreement=agreement,
        exact_p=ruling.exact_p,
        p_adjusted=ruling.p_adjusted if planned.role != "watch" else None,
        noise=ruling.noise,
    )
